#include "app/desks/compare/work_book.h"

#include <algorithm>
#include <cmath>

#include "app/text/figure_text.h"

namespace rendak::app {

WorkBook::WorkBook(Workspace& workspace, QObject* parent)
    : QObject(parent), workspace_(workspace), reading_(workspace.jobs()), making_(workspace.jobs()) {
    connect(workspace_.session().get(), &Session::changed, this, [this](Change) {
        old_ = true;
        read();
    });
}

void WorkBook::read() {
    if (!old_ || !seen_by_.anybody()) return;
    old_ = false;
    reading_.run<std::vector<WorkProgress>>(
        tr("Work items"),
        [folder = workspace_.library().folder()](const JobContext& job) -> Result<std::vector<WorkProgress>> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return work_progress(**library, job);
        },
        [this](Result<std::vector<WorkProgress>> found) {
            if (found) {
                items_ = std::move(*found);
            } else {
                old_ = true;
                if (found.error().code != ErrorCode::cancelled) workspace_.tell(found.error());
            }
            Q_EMIT changed();
        });
}

void WorkBook::work_on(const LapFinding& finding, const std::shared_ptr<const ToldStory>& told) {
    if (told == nullptr) return;
    // The figure is worked out over all laps, which takes a moment.
    making_.run<WorkItem>(
        tr("Work item"),
        [finding, told](const JobContext&) { return work_item_of(finding, told->a, told->b, told->run_b); },
        [this, corner = finding.corner](Result<WorkItem> made) {
            if (!made) return workspace_.tell(made.error());
            auto item = std::make_shared<WorkItem>(std::move(*made));
            const bool done = workspace_.edit(
                tr("work item of turn %1").arg(corner),
                [this, item]() -> Result<void> {
                    const auto added = workspace_.library().add_work_item(*item);
                    if (!added) return pass_on(added.error());
                    item->id = *added;
                    return {};
                },
                [this, item] { return workspace_.library().remove_work_item(item->id); }, Change::marks);
            if (done)
                workspace_.tell(tr("%1 works on it; later runs show how it goes (Ctrl+Z takes it back)")
                                    .arg(QString::fromStdString(item->driver)));
        });
}

void WorkBook::put_away(const WorkItem& item) {
    workspace_.edit(
        tr("putting a work item away"), [this, id = item.id] { return workspace_.library().close_work_item(id, true); },
        [this, id = item.id] { return workspace_.library().close_work_item(id, false); }, Change::marks);
}

QString WorkBook::text_of(const WorkProgress& work) {
    const CornerFigure* figure = find_corner_figure(work.item.figure);
    if (figure == nullptr) return {};
    double now = work.item.from;
    for (const WorkProgress::Step& step : work.steps) now = std::isfinite(step.value) ? step.value : now;
    const QString unit = figure_unit(*figure);
    QString out = tr("%1 %2, to reach %3")
                      .arg(figure_label(*figure), figure_text(*figure, now), figure_text(*figure, work.item.target));
    if (work.item.step > 0 && !work.met) out += tr(", next %1").arg(figure_text(*figure, work.next));
    if (!unit.isEmpty()) out += u' ' + unit;
    return work.met ? out + tr(": met") : out;
}

}  // namespace rendak::app
