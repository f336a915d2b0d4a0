#include "app/shell/finder.h"

#include <QAction>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <set>

#include "app/shell/main_window.h"
#include "app/text/fuzzy.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "core/library/library.h"

namespace rendak::app {
namespace {

constexpr std::size_t most_rows = 60;

/// What is read from the library, on a worker.
struct FoundInLibrary {
    struct OneLap {
        LapRef ref;
        double time_s;
        std::string note;
    };
    std::vector<RunSummary> runs;
    std::vector<std::vector<OneLap>> laps;  ///< of each run
};

Result<FoundInLibrary> read_all(const std::filesystem::path& folder, const JobContext& job) {
    auto library = Library::open(folder, Library::Open::existing);
    if (!library) return pass_on(library.error());
    auto runs = (*library)->summaries();
    if (!runs) return pass_on(runs.error());
    FoundInLibrary out;
    for (RunSummary& run : *runs) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        auto laps = (*library)->laps(run.run.id);
        std::vector<FoundInLibrary::OneLap> own;
        for (const Lap& lap : laps ? *laps : std::vector<Lap>())
            if (lap.complete()) own.push_back({{run.run.id, lap.number}, lap.time_s(), lap.note});
        out.laps.push_back(std::move(own));
        out.runs.push_back(std::move(run));
    }
    return out;
}

QString run_name(const RunRow& run) {
    return QStringList{text_of(run.event), text_of(run.session), text_of(run.name), text_of(run.driver)}.join(
        QStringLiteral(" · "));
}

}  // namespace

Finder::Finder(MainWindow& window) : QDialog(&window, Qt::Popup), window_(window), reading_(window.workspace().jobs()) {
    setObjectName(QStringLiteral("finder"));
    setAccessibleName(tr("Find anything"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    column->setSpacing(6);
    line_ = new QLineEdit;
    line_->setPlaceholderText(tr("Find anything: an action, a lap, a channel, a corner, a page, a note …"));
    line_->setAccessibleName(tr("What to find"));
    line_->installEventFilter(this);
    list_ = new QTreeWidget;
    list_->setAccessibleName(tr("What was found"));
    list_->setRootIsDecorated(false);
    list_->setUniformRowHeights(true);
    list_->setHeaderHidden(true);
    list_->setColumnCount(3);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    list_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
    list_->setFocusPolicy(Qt::NoFocus);
    column->addWidget(line_);
    column->addWidget(list_, 1);
    connect(line_, &QLineEdit::textChanged, this, &Finder::fill);
    connect(list_, &QTreeWidget::itemClicked, this,
            [this](QTreeWidgetItem* item) { choose(list_->indexOfTopLevelItem(item)); });
    collect();
    read_library();
    fill();
    const QSize room(std::min(620, window.width() - 80), std::min(460, window.height() - 120));
    resize(room);
    move(window.mapToGlobal(QPoint((window.width() - room.width()) / 2, 60)));
}

void Finder::collect() {
    const auto add_actions = [this](const QList<QAction*>& actions, const QString& kind, Desk* desk) {
        for (QAction* action : actions) {
            if (action->text().isEmpty()) continue;
            all_.push_back(
                {kind, action->text(), action->shortcut().toString(QKeySequence::NativeText), [this, action, desk] {
                     if (desk != nullptr) window_.show_desk(desk);
                     action->trigger();
                 }});
        }
    };
    add_actions(window_.actions(), tr("Action"), nullptr);
    for (Desk* desk : window_.desks()) {
        add_actions(desk->actions(), window_.title_of_desk(*desk), desk);
        std::vector<Findable> own;
        desk->add_findables(own);
        for (Findable& finding : own) {
            finding.act = [this, desk, act = std::move(finding.act)] {
                window_.show_desk(desk);
                act();
            };
            all_.push_back(std::move(finding));
        }
    }
    window_.add_settings(all_);
}

void Finder::read_library() {
    reading_.run<FoundInLibrary>(
        tr("What can be found in the library"),
        [folder = window_.workspace().library().folder()](const JobContext& job) { return read_all(folder, job); },
        [this](Result<FoundInLibrary> found) {
            if (!found) return;
            std::set<std::string> drivers;
            for (std::size_t i = 0; i < found->runs.size(); ++i) {
                const RunSummary& it = found->runs[i];
                const QString name = run_name(it.run);
                const RunId id = it.run.id;
                const auto show_run = [this, id] { Q_EMIT window_.workspace().lap_asked({id, 0}); };
                all_.push_back({tr("Run"), name, {}, show_run});
                for (const std::string* note : {&it.run.remarks, &it.run.changes, &it.run.weather}) {
                    if (!note->empty())
                        all_.push_back({tr("Note"), text_of(*note) + QStringLiteral(" – ") + name, {}, show_run});
                }
                if (!it.run.driver.empty() && it.best_s && drivers.insert(it.run.driver).second)
                    all_.push_back({tr("Driver"),
                                    tr("%1: the best lap of the latest run").arg(text_of(it.run.driver)),
                                    {},
                                    [this, id] { window_.workspace().pick_best(id); }});
                for (const auto& lap : found->laps[i]) {
                    const auto pick = [this, ref = lap.ref] { window_.workspace().pick(ref); };
                    all_.push_back({tr("Lap"),
                                    tr("%1, lap %2, %3").arg(name).arg(lap.ref.lap).arg(lap_time(lap.time_s)),
                                    {},
                                    pick});
                    if (!lap.note.empty())
                        all_.push_back(
                            {tr("Note"), text_of(lap.note) + tr(" – %1, lap %2").arg(name).arg(lap.ref.lap), {}, pick});
                }
            }
            fill();
        });
}

void Finder::fill() {
    const QString typed = fuzzy_plain(line_->text());
    // A kind may be typed with it: "corner 5".
    for (std::size_t i = plain_.size(); i < all_.size(); ++i)
        plain_.push_back(fuzzy_plain(all_[i].kind + u' ' + all_[i].text));
    std::vector<std::pair<int, std::size_t>> ranked;
    for (std::size_t i = 0; i < all_.size(); ++i) {
        const int score = fuzzy_score_plain(typed, plain_[i]);
        if (score > 0) ranked.emplace_back(-score, i);
    }
    std::stable_sort(ranked.begin(), ranked.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    list_->clear();
    shown_.clear();
    for (const auto& [score, i] : ranked) {
        if (shown_.size() == most_rows) break;
        shown_.push_back(i);
        auto* item = new QTreeWidgetItem(list_, {all_[i].kind, all_[i].text, all_[i].key});
        item->setToolTip(1, all_[i].text);
    }
    if (!shown_.empty()) list_->setCurrentItem(list_->topLevelItem(0));
}

void Finder::choose(int row) {
    if (row < 0 || row >= static_cast<int>(shown_.size())) return;
    const auto act = all_[shown_[static_cast<std::size_t>(row)]].act;
    // Gone first: what is done may open a window of its own.
    hide();
    deleteLater();
    act();
}

bool Finder::eventFilter(QObject* object, QEvent* event) {
    if (object != line_ || event->type() != QEvent::KeyPress) return QDialog::eventFilter(object, event);
    const auto* key = static_cast<QKeyEvent*>(event);
    const int now = list_->indexOfTopLevelItem(list_->currentItem());
    const auto move_to = [&](int row) {
        if (list_->topLevelItemCount() == 0) return;
        list_->setCurrentItem(list_->topLevelItem(std::clamp(row, 0, list_->topLevelItemCount() - 1)));
    };
    switch (key->key()) {
        case Qt::Key_Down:
            move_to(now + 1);
            return true;
        case Qt::Key_Up:
            move_to(now - 1);
            return true;
        case Qt::Key_PageDown:
            move_to(now + 10);
            return true;
        case Qt::Key_PageUp:
            move_to(now - 10);
            return true;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            choose(now);
            return true;
        default:
            return QDialog::eventFilter(object, event);
    }
}

}  // namespace rendak::app
