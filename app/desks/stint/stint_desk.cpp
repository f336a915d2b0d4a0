#include "app/desks/stint/stint_desk.h"

#include <QActionGroup>
#include <QApplication>
#include <QButtonGroup>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QEvent>
#include <QHeaderView>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QStackedWidget>
#include <QTableView>
#include <algorithm>
#include <cmath>

#include "app/desks/stint/balance_table.h"
#include "app/desks/stint/columns_dialog.h"
#include "app/desks/stint/day_page.h"
#include "app/desks/stint/over_laps_picture.h"
#include "app/desks/stint/stint_plots.h"
#include "app/desks/stint/wheels_picture.h"
#include "app/text/elided_label.h"
#include "app/text/sentences.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"

namespace rendak::app {
namespace {

/// The columns of a set, written.
QString text_of(const std::vector<LapColumn>& columns) {
    QStringList out;
    for (const LapColumn& it : columns) out << QString::fromStdString(it.text());
    return out.join(QStringLiteral("; "));
}

}  // namespace

StintDesk::StintDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent),
      working_(workspace.jobs()),
      figuring_(workspace.jobs()),
      figuring_first_(workspace.jobs()),
      watching_(workspace.jobs()) {
    soon_.setSingleShot(true);
    connect(&soon_, &QTimer::timeout, this, &StintDesk::show_first);
    figures_ = new LapFigureModel(this);
    sorted_ = new LapFigureSort(this);
    sorted_->setSourceModel(figures_);
    stack_ = new QStackedLayout(this);
    stack_->addWidget(build_full());
    stack_->addWidget(build_empty());
    wheels_->set_cursor_values([this](std::size_t run, const std::string& channel) {
        if (of_ == nullptr || data_ == nullptr || of_ != workspace_.comparison().shared_laps()) return std::nan("");
        return workspace_.comparison().value_at_cursor(data_->runs[run].slot, channel);
    });
    fill_sets();
    show_set(QStringLiteral("driver"));
    connect(&workspace_.comparison(), &Comparison::changed, this, &StintDesk::show_moment);
    connect(&workspace_.comparison(), &Comparison::changed, this, &StintDesk::refresh);
    connect(&workspace_.focus(), &Focus::cursor_changed, this, &StintDesk::show_cursor);
    connect(&workspace_.session()->watch(), &WatchKeeper::changed, this, [this] {
        watch_stale_ = stale_ = true;
        if (isVisible()) refresh();
    });
    // The whole day rests on runs that are not on the tray, too.
    const auto day_changed = [this] {
        figures_stale_ = stale_ = true;
        day_->work_again();
        if (isVisible()) refresh();
    };
    connect(&workspace_, &Workspace::runs_changed, this, day_changed);
    connect(&workspace_, &Workspace::formulas_changed, this, day_changed);
    connect(workspace_.session().get(), &Session::changed, this, [this](Change change) {
        if (change == Change::marks) fill_sets();
    });
    refresh();
}

void StintDesk::take_focus() {
    table_->setFocus();
}

QString StintDesk::headline() const {
    return static_cast<ElidedLabel*>(headline_)->text();
}

QString StintDesk::foot() const {
    return static_cast<ElidedLabel*>(foot_)->text();
}

void StintDesk::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) refresh();
}

/// What stands in tables has its colours from when it was written.
void StintDesk::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() != QEvent::PaletteChange || data_ == nullptr) return;
    balance_->show_data(*data_);
    watch_->set_shown(watch_->shown_rules());
}

void StintDesk::refresh() {
    stale_ = !isVisible();
    if (stale_) return;
    const auto laps = workspace_.comparison().shared_laps();
    stack_->setCurrentIndex(laps->empty() ? 1 : 0);
    if (laps->empty()) {
        working_.drop();
        of_.reset();
        data_.reset();
        day_->set_event({}, {});
        return;
    }
    std::vector<StintRun> runs = stint_runs(*laps);
    // Held against A's run: that of the active lap, else the next one.
    std::optional<std::size_t> other;
    if (runs.size() > 1) other = 1;
    const RunId active = workspace_.comparison().active().run->row.id;
    for (std::size_t k = 1; k < runs.size(); ++k) {
        if (runs[k].run->row.id == active) other = k;
    }
    const bool same_runs =
        data_ != nullptr && data_->runs.size() == runs.size() &&
        std::equal(runs.begin(), runs.end(), data_->runs.begin(), [](const StintRun& a, const StintRun& b) {
            return a.run == b.run && a.slot == b.slot && a.title == b.title;
        });
    of_ = laps;
    if (!same_runs || figures_stale_) work_figures();
    if (!same_runs || watch_stale_) work_watch();
    if (!same_runs) day_->set_event(laps->baseline().run->row.event, active);
    if (same_runs && data_->other == other) {
        // In other units the same is written anew.
        const QString units = shown("speed").unit + shown("tyre_temperature_fl").unit + shown("tyre_pressure_fl").unit;
        if (units != std::exchange(units_, units)) {
            take_over(data_);
            work_figures();
            watch_->set_shown(watch_->shown_rules());
        }
        return show_cursor();
    }
    working_.run<std::shared_ptr<const StintData>>(
        tr("Stints"),
        [runs, other, former = data_](const JobContext& job) { return stint_data(runs, other, former.get(), job); },
        [this](Result<std::shared_ptr<const StintData>> made) {
            if (made) return take_over(std::move(*made));
            if (made.error().code != ErrorCode::cancelled) workspace_.tell(made.error());
        });
}

void StintDesk::take_over(std::shared_ptr<const StintData> stints) {
    data_ = std::move(stints);
    if (pages_->currentIndex() == 0) headline_->setText(pace_headline(*data_));
    foot_->setText(pace_foot(*data_));
    wheels_->set_data(data_);
    fill_kinds();
    balance_->show_data(*data_);
    spike_->setText(wheel_words());
    for (const auto& [label, words] : {std::pair{ducts_, duct_words(*data_)}, {scatter_, scatter_words(*data_)}}) {
        label->setText(words);
        label->setVisible(!words.isEmpty());
    }
    show_column(chosen_);
    show_cursor();
}

void StintDesk::fill_kinds() {
    const auto known = wheels_->kinds();
    for (QAbstractButton* button : kinds_->buttons()) {
        const auto kind = static_cast<std::size_t>(kinds_->id(button));
        button->setVisible(std::find(known.begin(), known.end(), kind) != known.end());
        button->setChecked(kind == wheels_->kind());
    }
    kind_row_->setVisible(!known.empty());
}

void StintDesk::show_cursor() {
    wheels_->set_cursor(workspace_.focus().state().cursor_m);
}

// ---- figures of every lap -----------------------------------------------------------------------------

void StintDesk::fill_sets() {
    const QString chosen = sets_->currentData().toString();
    sets_->clear();
    for (const ReadySetName& it : ready_column_sets())
        sets_->addItem(QString::fromStdString(it.title), QString::fromStdString(it.name));
    const auto own = workspace_.shown(column_sets(workspace_.library()));
    if (!own.empty()) sets_->insertSeparator(sets_->count());
    for (const auto& [name, columns] : own) sets_->addItem(QString::fromStdString(name), QString::fromStdString(name));
    sets_->setCurrentIndex(sets_->findData(chosen));
}

void StintDesk::show_set(const QString& name) {
    const auto columns = columns_of_set(workspace_.library(), name.toStdString());
    if (!columns) return workspace_.tell(columns.error());
    show_columns(text_of(*columns));
    sets_->setCurrentIndex(sets_->findData(name));
}

void StintDesk::show_columns(const QString& columns) {
    columns_ = columns;
    sets_->setCurrentIndex(-1);
    show_column(-1);
    work_figures();
    Q_EMIT state_changed();
}

void StintDesk::show_whole_day(bool on) {
    whole_day_->setChecked(on);
}

void StintDesk::edit_columns() {
    const auto runs = of_ == nullptr ? std::vector<std::shared_ptr<const RunData>>{} : runs_of(*of_);
    auto* dialog = new ColumnsDialog(workspace_, runs, columns_, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &ColumnsDialog::sets_changed, this, &StintDesk::fill_sets);
    connect(dialog, &QDialog::accepted, this, [this, dialog] { show_columns(dialog->columns()); });
    dialog->open();
}

void StintDesk::work_figures() {
    figures_stale_ = false;
    const auto laps = workspace_.comparison().shared_laps();
    if (laps->empty() || columns_.isEmpty()) return;
    const auto columns = lap_columns(columns_.toStdString());
    if (!columns) return workspace_.tell(columns.error());
    const std::string event = whole_day_->isChecked() ? laps->baseline().run->row.event : "";
    const auto runs = runs_in_table(*laps);
    const auto table_of = [folder = workspace_.library().folder(), columns = *columns](
                              const std::vector<RunInTable>& of, const std::string& whole_event) {
        return [=](const JobContext& job) { return table_of_laps(folder, columns, of, whole_event, job); };
    };
    first_made_.reset();
    figuring_.run<TableOfLaps>(tr("Lap figures"), table_of(runs, event), [this](Result<TableOfLaps> made) {
        figuring_first_.drop();
        first_made_.reset();
        if (made) return show_table(std::move(*made));
        // What stands there may be A's run alone, or from before.
        table_hint_->setText(tr("The figures were not worked out to the end."));
        if (made.error().code != ErrorCode::cancelled) workspace_.tell(made.error());
    });
    // Of a whole season the others take seconds: A's laps are there before. Figures that are kept come as one.
    if (runs.size() < 2 && event.empty()) return figuring_first_.drop();
    figuring_first_.run<TableOfLaps>(tr("Lap figures"), table_of({runs.front()}, ""), [this](Result<TableOfLaps> made) {
        if (made) first_made_ = std::make_shared<TableOfLaps>(std::move(*made));
        if (!soon_.isActive()) show_first();
    });
    soon_.start(300);
}

/// While the others are still being worked out.
void StintDesk::show_first() {
    if (!first_made_ || !figuring_.running()) return;
    show_table(std::move(*first_made_));
    first_made_.reset();
    table_hint_->setText(tr("A's run; the others follow."));
}

void StintDesk::show_table(TableOfLaps made) {
    QStringList missing;
    for (const rendak::LapTable::Column& it : made.table->columns) {
        if (!it.missing.empty()) missing << look_of(it).label;
    }
    figures_->set_table(std::move(made.table), std::move(made.runs));
    // Columns that no run has are said, not shown.
    for (int c = 1; c < figures_->columnCount(); ++c) {
        const auto figure = LapFigureModel::figure_of(c);
        table_->setColumnHidden(c, !figures_->table()->columns[*figure].missing.empty());
        table_->setColumnWidth(c, figures_->look(*figure).is_time ? 108 : 84);
    }
    table_->setColumnWidth(0, 116);
    missing.removeDuplicates();
    table_hint_->setText(
        (missing.isEmpty() ? QString() : tr("Not logged: %1. ").arg(missing.join(QStringLiteral(", ")))) +
        tr("Click a heading: its picture. Double click a figure: that lap and place on Compare."));
    show_column(chosen_);
}

void StintDesk::show_column(int column) {
    const bool known =
        column >= 0 && figures_->table() != nullptr && column < static_cast<int>(figures_->table()->columns.size());
    chosen_ = known ? column : -1;
    pace_->setVisible(known);
    header_->set_chosen(known ? column + 1 : -1);
    if (!known) return picture_->set_plot(data_ == nullptr ? OverLapsPlot{} : pace_plot(*data_));
    picture_->set_plot(plot_of(*figures_, static_cast<std::size_t>(column)));
}

/// Where the two differ most round the lap, and where the windows are from.
QString StintDesk::wheel_words() const {
    QStringList out;
    if (const QString spike = wheels_->spike_words(); !spike.isEmpty()) out << spike;
    const Windows& windows = data_->a().windows;
    const bool window = std::any_of(windows.shares.begin(), windows.shares.end(), [&](const WindowShare& it) {
        return it.channel.starts_with(wheel_kinds()[wheels_->kind()].id);
    });
    if (window) out << tr("Band: window of %1.").arg(QString::fromStdString(windows.sheet));
    if (window && !windows.stale.empty()) out << QString::fromStdString(windows.stale);
    return out.join(u' ');
}

/// Both stints by lap of the stint, on one scale.
void StintDesk::show_balance(int row) {
    if (data_ == nullptr || !data_->pair || row < 0 || row >= static_cast<int>(data_->pair->figures.size())) return;
    const StintFigure& figure = data_->pair->figures[static_cast<std::size_t>(row)];
    show_column(-1);
    // The change a lap is the line of the pace.
    if (figure.laps_a.empty()) return;
    pace_->show();
    picture_->set_plot(plot_of(*data_, figure));
}

// ---- watch rules --------------------------------------------------------------------------------------

void StintDesk::work_watch() {
    watch_stale_ = false;
    const auto laps = workspace_.comparison().shared_laps();
    if (laps->empty()) return;
    watching_.run<WatchOfRuns>(
        tr("Watch rules"),
        [folder = workspace_.library().folder(), laps](const JobContext& job) { return watch_of(folder, *laps, job); },
        [this](Result<WatchOfRuns> told) {
            if (!told) {
                if (told.error().code != ErrorCode::cancelled) workspace_.tell(told.error());
                return;
            }
            workspace_.session()->watch().check(told->stale);
            watch_->set_shown(std::move(told->shown));
            looked_at_->setEnabled(false);
        });
}

// ---- moves --------------------------------------------------------------------------------------------

void StintDesk::open_lap(LapRef lap, std::optional<double> time_s) {
    Focus& focus = workspace_.focus();
    const int slot = focus.slot_of(lap);
    if (slot >= 0) {
        focus.set_active_slot(slot);
    } else {
        // In place of the lap of its run, else of the active one; never more than fit.
        int in_place = -1;
        for (std::size_t k = 0; k < focus.state().laps.size(); ++k) {
            if (focus.state().laps[k].run == lap.run) in_place = static_cast<int>(k);
        }
        if (in_place >= 0)
            focus.replace_slot(in_place, lap);
        else if (!focus.add_lap(lap))
            focus.replace_slot(std::max(1, workspace_.comparison().active_slot()), lap);
    }
    moment_ = time_s ? std::optional(std::pair{lap, *time_s}) : std::nullopt;
    show_moment();
    Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
}

/// Puts the cursor where the lap's car was then, as soon as the lap is aligned.
void StintDesk::show_moment() {
    if (!moment_) return;
    for (const ComparedLap& it : workspace_.comparison().laps().laps) {
        if (it.lap.ref != moment_->first) continue;
        if (it.lap.track != nullptr) workspace_.focus().set_cursor(it.lap.map.distance_at(moment_->second));
        moment_.reset();
        return;
    }
}

void StintDesk::open_moment(RunId run, double time_s) {
    if (of_ == nullptr) return;
    for (const auto& it : runs_of(*of_)) {
        if (it->row.id != run) continue;
        for (const Lap& lap : it->laps) {
            if (lap.complete() && time_s >= lap.start_s && time_s < lap.end_s)
                return open_lap({run, lap.number}, time_s);
        }
        // Outside of laps: the whole run, over time.
        Focus& focus = workspace_.focus();
        FocusState state = focus.state();
        state.laps = {{run, whole_run}};
        state.active_slot = 0;
        focus.set_state(state);
        double line_s = it->recording->span_s().begin;
        for (const Lap& lap : it->laps) {
            if (lap.complete()) {
                line_s = lap.start_s;
                break;
            }
        }
        constexpr double about_s = 15;
        focus.set_run_range({time_s - line_s - about_s, time_s - line_s + about_s});
        focus.set_run_cursor(time_s - line_s);
        Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
        return;
    }
}

void StintDesk::show_day(bool on) {
    page_choice_->button(on ? 1 : 0)->setChecked(true);
    pages_->setCurrentIndex(on ? 1 : 0);
    foot_->setVisible(!on);
    headline_->setText(on ? tr("The day, run by run") : data_ == nullptr ? QString() : pace_headline(*data_));
    Q_EMIT state_changed();
}

void StintDesk::copy() const {
    QApplication::clipboard()->setText(figures_->as_text(u'\t'));
    workspace_.tell(tr("The table is on the clipboard."));
}

Result<void> StintDesk::save_csv(const QString& file) const {
    const bool day = pages_->currentIndex() == 1;
    return write_file(file.toStdString(), (day ? day_->as_text(u',') : figures_->as_text(u',')).toStdString());
}

QString StintDesk::state() const {
    const auto sizes = [](const QSplitter* splitter) {
        QJsonArray out;
        for (const int it : splitter->sizes()) out.append(it);
        return out;
    };
    const QJsonObject out{{QStringLiteral("columns"), columns_},
                          {QStringLiteral("set"), sets_->currentData().toString()},
                          {QStringLiteral("whole_day"), whole_day_->isChecked()},
                          {QStringLiteral("group"), groups_->checkedAction()->data().toInt()},
                          {QStringLiteral("kind"), static_cast<int>(wheels_->kind())},
                          {QStringLiteral("mode"), static_cast<int>(wheels_->mode())},
                          {QStringLiteral("day"), pages_->currentIndex() == 1},
                          {QStringLiteral("across"), sizes(across_)},
                          {QStringLiteral("left"), sizes(down_left_)},
                          {QStringLiteral("right"), sizes(down_right_)}};
    return QString::fromUtf8(QJsonDocument(out).toJson(QJsonDocument::Compact));
}

void StintDesk::restore(const QString& state) {
    const QJsonObject from = QJsonDocument::fromJson(state.toUtf8()).object();
    if (from.isEmpty()) return;
    const auto sizes = [&](QSplitter* splitter, const char* key) {
        QList<int> out;
        for (const auto& it : from[QLatin1String(key)].toArray()) out << it.toInt();
        if (out.size() == splitter->count()) splitter->setSizes(out);
    };
    sizes(across_, "across");
    sizes(down_left_, "left");
    sizes(down_right_, "right");
    const QString columns = from[QLatin1String("columns")].toString(), set = from[QLatin1String("set")].toString();
    if (lap_columns(columns.toStdString())) show_columns(columns);
    sets_->setCurrentIndex(sets_->findData(set));
    whole_day_->setChecked(from[QLatin1String("whole_day")].toBool());
    const int group = std::clamp(from[QLatin1String("group")].toInt(), 0, 2);
    groups_->actions()[group]->setChecked(true);
    figures_->set_group(static_cast<LapFigureModel::Group>(group));
    const int kind = std::clamp(from[QLatin1String("kind")].toInt(), 0, static_cast<int>(wheel_kinds().size()) - 1);
    wheels_->show_kind(static_cast<std::size_t>(kind));
    kinds_->button(kind)->setChecked(true);
    const int mode = std::clamp(from[QLatin1String("mode")].toInt(), 0, 2);
    wheels_->set_mode(static_cast<WheelsPicture::Mode>(mode));
    modes_->setCurrentIndex(mode);
    show_day(from[QLatin1String("day")].toBool());
}

void StintDesk::show_pictures(PictureBook& book) {
    const FocusState before = workspace_.focus().state();
    // Sunday's two long runs, where the library has them.
    std::vector<LapRef> long_runs;
    for (const RunSummary& it : workspace_.shown(workspace_.library().summaries())) {
        if (it.flying >= 15 && long_runs.size() < 2) long_runs.push_back({it.run.id, it.best_lap});
    }
    std::sort(long_runs.begin(), long_runs.end());
    if (long_runs.size() == 2) {
        FocusState state = before;
        state.laps = long_runs;
        state.active_slot = 1;
        workspace_.focus().set_state(state);
    }
    book.take(QStringLiteral("stint"));
    show_day(true);
    book.take(QStringLiteral("stint-day"));
    show_day(false);
    workspace_.focus().set_state(before);
}

}  // namespace rendak::app
