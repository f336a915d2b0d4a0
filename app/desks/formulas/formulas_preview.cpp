// The names that a formula can use, and what a draft makes of the picked lap.
#include "app/desks/formulas/formulas_desk.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QSpinBox>
#include <QSplitter>
#include <QStringListModel>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/desks/formulas/formula_edit.h"
#include "app/desks/formulas/formula_roles.h"
#include "app/desks/formulas/name_picker.h"
#include "app/desks/formulas/preview_plot.h"
#include "app/desks/formulas/set_dialogs.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/units/compound_unit.h"

namespace rendak::app {

using formula::Formula;
using formula::FormulaSet;

void FormulasDesk::fill_names() {
    std::vector<NamePicker::Entry> channels, constants;
    QStringList all;
    const ComparedLaps& laps = workspace_.comparison().laps();
    const auto run = laps.empty() ? nullptr : workspace_.comparison().active().run;
    const auto add = [&](const QString& group, const std::string& name, const QString& detail, const QString& help) {
        channels.push_back({group, text_of(name), detail, help, text_of(name)});
        all << text_of(name);
    };
    for (const Quantity& quantity : all_quantities()) {
        const Channel* channel = run == nullptr ? nullptr : run->recording->find_logged(quantity.id);
        if (quantity.id == "time" || (run != nullptr && channel == nullptr)) continue;
        const QString unit = text_of(std::string(quantity.shown_unit));
        add(run == nullptr ? tr("Known quantities") : tr("Logged in %1").arg(text_of(run->row.name)),
            std::string(quantity.id), unit,
            text_of(std::string(quantity.label)) +
                (channel == nullptr
                     ? QString()
                     : tr("\n“%1”, %2 Hz").arg(text_of(channel->name)).arg(channel->clock.mean_rate_hz(), 0, 'f', 0)));
    }
    if (run != nullptr) {
        for (const Channel& channel : run->recording->channels) {
            if (channel.quantity.empty())
                add(tr("Other channels"), formula::plain_name(channel.name), text_of(channel.unit),
                    tr("“%1”, known by its name only").arg(text_of(channel.name)));
        }
    }
    for (const formula::Builtin& it : formula::all_builtins())
        add(tr("Of the run"), std::string(it.name), text_of(std::string(it.unit)), text_of(std::string(it.help)));
    std::map<std::string, const Formula*> formulas;
    for (const FormulaSet& set : sets_) {
        for (const Formula& it : set.formulas) formulas[it.name] = &it;
    }
    for (const auto& [name, it] : formulas)
        add(tr("Formulas"), name, text_of(it->unit), text_of(it->comment.empty() ? it->text : it->comment));
    const auto sheets = workspace_.shown(workspace_.library().car_sheets());
    const formula::Constants known = run != nullptr    ? run->formulas->inputs().constants
                                     : !sheets.empty() ? formula::constants_for(sheets, sheets.back().car, {})
                                                       : formula::Constants{};
    for (const auto& [name, constant] : known.values) {
        const std::string unit_text = formula::usual_unit(constant.type);
        const auto unit = parse_compound_unit(unit_text);
        const QString value = QLocale::c().toString(unit ? unit->from_si(constant.value) : constant.value, 'g', 6);
        constants.push_back({tr("Car sheet of %1").arg(text_of(known.sheet)), QStringLiteral("car.") + text_of(name),
                             with_unit(value, text_of(unit_text)), text_of(constant.label),
                             QStringLiteral("car.") + text_of(name)});
        all << QStringLiteral("car.") + text_of(name);
    }
    for (const formula::Function& it : formula::all_functions()) all << text_of(it.name) + QStringLiteral("()");
    names_->set_entries(NamePicker::channels, std::move(channels));
    names_->set_entries(NamePicker::constants, std::move(constants));
    text_->set_names(all);
}

void FormulasDesk::start_preview() {
    stale_ = false;
    if (name_.empty()) {
        previewing_.drop();
        message_->clear();
        figures_->clear();
        uses_->clear();
        preview_->show_text(tr("Pick a formula, or make a new one."));
        return;
    }
    PreviewRequest request{draft(), name_, {}, 0, {}, {}, {}};
    if (!workspace_.comparison().laps().empty()) {
        request.slot = workspace_.comparison().active_slot();
        request.lap = workspace_.comparison().active();
    } else {
        request.sets = sets_;
        request.sheets = workspace_.shown(workspace_.library().car_sheets());
        request.aliases = workspace_.shown(workspace_.library().aliases());
    }
    previewing_.run<FormulaPreview>(
        tr("Result of the formula"),
        [request](const JobContext& job) -> Result<FormulaPreview> {
            auto found = preview_of(request, job.stop);
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            return found;
        },
        [this](Result<FormulaPreview> found) {
            if (found) return show_preview(std::move(*found));
            figures_->clear();
            message_->setText(found.error().code == ErrorCode::cancelled
                                  ? tr("Cancelled. An edit of the formula begins it anew.")
                                  : text_of(found.error().text()));
            preview_->show_text(tr("No result."));
        });
}

void FormulasDesk::show_preview(FormulaPreview preview) {
    const Theme& t = theme();
    if (!is_read_only() && name_ != formula_name_->text().trimmed().toStdString() && !preview.problem) {
        if (const std::string problem = formula::name_problem(formula_name_->text().trimmed().toStdString());
            !problem.empty())
            preview.problem = formula::Problem{0, 0, problem};
    }
    text_->show_problem(preview.problem);
    message_->setStyleSheet(preview.problem ? QStringLiteral("color: ") + t.lost.name() : QString());
    if (!preview.units.isEmpty()) {
        static_cast<QStringListModel*>(unit_->completer()->model())->setStringList(preview.units);
        unit_->setToolTip(tr("Can be shown in %1").arg(preview.units.join(QStringLiteral(", "))));
    }
    if (preview.problem) {
        message_->setText(text_of(preview.problem->sentence));
        figures_->clear();
        preview_->show_text(tr("No result while the formula is not right for this run."));
    } else {
        QString text = preview.result;
        for (const std::string& note : preview.notes) text += QStringLiteral(" · ") + text_of(note);
        message_->setText(text);
        if (preview.lap.isEmpty()) {
            figures_->clear();
            preview_->show_text(tr("Pick a lap in the Logbook to see the result on it."));
        } else if (preview.figures.count == 0) {
            figures_->setText(tr("Missing all over %1").arg(preview.lap));
            preview_->show_text(tr("All samples of this lap are missing."));
        } else {
            const auto value = [&](double si) { return with_unit(preview.how.text(si), preview.how.unit); };
            figures_->setText(tr("Low %1   Mean %2   High %3   on %4")
                                  .arg(value(preview.figures.low), value(preview.figures.mean),
                                       value(preview.figures.high), preview.lap));
            preview_->show_trace(std::move(preview.trace), preview.how, preview.slot);
            preview_->set_cursor(workspace_.focus().state().cursor_m);
        }
    }
    formula::Book all;
    for (const FormulaSet& set : sets_) {
        for (const Formula& it : set.formulas) all.entries[it.name] = {it, set.name};
    }
    QStringList users;
    const auto by_name = formula::users_of(all);
    if (const auto found = by_name.find(name_); found != by_name.end()) {
        for (const std::string& user : found->second)
            users << QStringLiteral("<a href=\"%1\">%1</a>").arg(text_of(user).toHtmlEscaped());
    }
    QStringList lines;
    if (!preview.uses.isEmpty()) lines << tr("Uses %1").arg(preview.uses.join(QStringLiteral(", ")));
    lines << (users.isEmpty() ? tr("Used by no other formula")
                              : tr("Used by %1").arg(users.join(QStringLiteral(", "))));
    uses_->setText(lines.join(QStringLiteral("<br>")));
}

}  // namespace rendak::app
