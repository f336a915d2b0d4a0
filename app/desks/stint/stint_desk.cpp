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
#include <QTableWidget>
#include <algorithm>
#include <cmath>

#include "app/desks/stint/columns_dialog.h"
#include "app/desks/stint/day_page.h"
#include "app/desks/stint/over_laps_picture.h"
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

/// Whose letter and colour a run has: those of its first lap on the tray.
int first_slot(const ComparedLaps& laps, RunId run) {
    const auto found =
        std::find_if(laps.laps.begin(), laps.laps.end(), [&](const ComparedLap& it) { return it.run->row.id == run; });
    return static_cast<int>(found - laps.laps.begin());
}

struct TableOfLaps {
    std::shared_ptr<const rendak::LapTable> table;
    std::vector<RunInTable> runs;
};

}  // namespace

StintDesk::StintDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent), working_(workspace.jobs()), figuring_(workspace.jobs()), watching_(workspace.jobs()) {
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
    connect(&workspace_.comparison(), &Comparison::changed, this, &StintDesk::refresh);
    connect(&workspace_.focus(), &Focus::cursor_changed, this, &StintDesk::show_cursor);
    connect(&workspace_.session()->watch(), &WatchKeeper::changed, this, [this] {
        if (isVisible())
            work_watch();
        else
            stale_ = true;
    });
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
    fill_balance();
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
    const auto among = runs_of(*laps);
    std::vector<StintRun> runs;
    for (const auto& run : among) {
        StintRun it{run};
        it.title = run_title(run->row, among);
        it.slot = first_slot(*laps, run->row.id);
        runs.push_back(std::move(it));
    }
    // Held against A's run: that of the active lap, else the next one.
    std::optional<std::size_t> other;
    if (runs.size() > 1) other = 1;
    const RunId active = workspace_.comparison().active().run->row.id;
    for (std::size_t k = 1; k < runs.size(); ++k) {
        if (runs[k].run->row.id == active) other = k;
    }
    const QString units = shown("speed").unit + shown("tyre_temperature_fl").unit + shown("tyre_pressure_fl").unit;
    const bool same_units = units == std::exchange(units_, units);
    const bool same =
        data_ != nullptr && same_units && data_->other == other && data_->runs.size() == runs.size() &&
        std::equal(runs.begin(), runs.end(), data_->runs.begin(), [](const StintRun& a, const StintRun& b) {
            return a.run == b.run && a.slot == b.slot && a.title == b.title;
        });
    of_ = laps;
    if (same) return show_cursor();
    work_figures();
    work_watch();
    if (among.front()->row.event.empty())
        day_->set_event({}, {});
    else
        day_->set_event(among.front()->row.event, active);
    working_.run<std::shared_ptr<const StintData>>(
        tr("Stints"), [runs, other](const JobContext& job) { return stint_data(runs, other, job); },
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
    fill_balance();
    spike_->setText(wheel_words());
    ducts_->setText(duct_words(*data_));
    ducts_->setVisible(!ducts_->text().isEmpty());
    scatter_->setText(scatter_words(*data_));
    scatter_->setVisible(!scatter_->text().isEmpty());
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

void StintDesk::fill_balance() {
    const Theme& t = theme();
    balance_->clear();
    const bool pair = data_->pair && !data_->pair->figures.empty();
    if (!pair) {
        // One run alone: what its axles and sides differ by.
        balance_->setColumnCount(4);
        balance_->setHorizontalHeaderLabels(
            {tr("Balance"), tr("front − rear"), tr("left − right front"), tr("left − right rear")});
        const Stint* stint = data_->a().stint ? &*data_->a().stint : nullptr;
        balance_->setRowCount(stint == nullptr ? 0 : static_cast<int>(stint->balances.size()));
        for (int r = 0; r < balance_->rowCount(); ++r) {
            const StintBalance& it = stint->balances[static_cast<std::size_t>(r)];
            const Shown how = shown(wheel_kinds()[it.kind].channel(0));
            const auto text = [&](double value) {
                return std::isfinite(value) ? with_unit(how.difference_text(value), how.unit) : QStringLiteral("–");
            };
            const QStringList cells{tr(wheel_kinds()[it.kind].title), text(it.front_minus_rear),
                                    text(it.left_minus_right_front), text(it.left_minus_right_rear)};
            for (int c = 0; c < cells.size(); ++c) {
                auto* item = new QTableWidgetItem(cells[c]);
                item->setTextAlignment((c > 0 ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
                balance_->setItem(r, c, item);
            }
        }
    } else {
        const int a = data_->a().slot, b = data_->b()->slot;
        balance_->setColumnCount(4);
        balance_->setHorizontalHeaderLabels({tr("Before and after, laps that count"),
                                             slot_letter(a) + u' ' + data_->a().title,
                                             slot_letter(b) + u' ' + data_->b()->title, tr("change")});
        balance_->setRowCount(static_cast<int>(data_->pair->figures.size()));
        for (int r = 0; r < balance_->rowCount(); ++r) {
            const StintFigure& it = data_->pair->figures[static_cast<std::size_t>(r)];
            const auto verdict = it.verdict();
            using Verdict = StintFigure::Verdict;
            QString change = figure_change(it);
            if (verdict == Verdict::better) change += tr(" better");
            if (verdict == Verdict::worse) change += tr(" worse");
            if (verdict == Verdict::alike) change = tr("alike");
            if (verdict == Verdict::unknown) change += tr(" ?");
            const QStringList cells{tr(it.title.c_str()), figure_words(it, it.a), figure_words(it, it.b), change};
            for (int c = 0; c < cells.size(); ++c) {
                auto* item = new QTableWidgetItem(cells[c]);
                item->setTextAlignment((c > 0 ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
                if (c == 1) item->setForeground(t.lap(a));
                if (c == 2) item->setForeground(t.lap(b));
                if (c == 3)
                    item->setForeground(verdict == Verdict::better  ? t.won
                                        : verdict == Verdict::worse ? t.lost
                                                                    : t.mute);
                if (c == 3) item->setFont(body_font(verdict == Verdict::better || verdict == Verdict::worse));
                if (c == 3 && it.likely) {
                    const Shown how =
                        it.shown_as.empty() ? Shown{{}, QStringLiteral("s"), {}, 1, 0, 3} : shown(it.shown_as);
                    item->setToolTip(tr("Likely (95 %) between %1 and %2")
                                         .arg(signed_number(how.difference_from_si(it.likely->begin), how.decimals + 1),
                                              signed_number(how.difference_from_si(it.likely->end), how.decimals + 1)));
                }
                balance_->setItem(r, c, item);
            }
        }
    }
    balance_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c < balance_->columnCount(); ++c)
        balance_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    balance_->setVisible(balance_->rowCount() > 0);
}

void StintDesk::show_cursor() {
    wheels_->set_cursor(workspace_.focus().state().cursor_m);
}

// ---- figures of every lap -----------------------------------------------------------------------------

void StintDesk::fill_sets() {
    const QString chosen = sets_->currentData().toString();
    sets_->clear();
    const std::map<std::string, QString> titles{{"driver", tr("Driver activity")},
                                                {"speeds", tr("Speeds")},
                                                {"pedals", tr("Pedals")},
                                                {"tyres", tr("Tyres")},
                                                {"brakes", tr("Brakes")},
                                                {"engine", tr("Engine")},
                                                {"fuel", tr("Fuel")},
                                                {"worn", tr("Worn")},
                                                {"floor", tr("Floor")}};
    for (const std::string& name : ready_column_sets()) {
        const auto title = titles.find(name);
        sets_->addItem(title == titles.end() ? QString::fromStdString(name) : title->second,
                       QString::fromStdString(name));
    }
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
    const auto laps = workspace_.comparison().shared_laps();
    if (laps->empty() || columns_.isEmpty()) return;
    const auto columns = lap_columns(columns_.toStdString());
    if (!columns) return workspace_.tell(columns.error());
    const auto among = runs_of(*laps);
    std::vector<RunInTable> runs;
    for (const auto& run : among) {
        RunInTable it{run->row.id, -1, run_title(run->row, among), QString::fromStdString(run->row.driver),
                      QString::fromStdString(run->row.session)};
        it.slot = first_slot(*laps, run->row.id);
        runs.push_back(std::move(it));
    }
    const std::string event = whole_day_->isChecked() ? among.front()->row.event : "";
    figuring_.run<TableOfLaps>(
        tr("Lap figures"),
        [folder = workspace_.library().folder(), columns = *columns, runs,
         event](const JobContext& job) -> Result<TableOfLaps> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            TableOfLaps out;
            out.runs = runs;
            if (!event.empty()) {
                const auto rows = (*library)->runs();
                if (!rows) return pass_on(rows.error());
                std::vector<RunInTable> all;
                for (const RunRow& row : *rows) {
                    if (row.event != event) continue;
                    const auto on_tray =
                        std::find_if(runs.begin(), runs.end(), [&](const RunInTable& it) { return it.id == row.id; });
                    all.push_back(on_tray != runs.end() ? *on_tray
                                                        : RunInTable{row.id, -1, QString::fromStdString(row.name),
                                                                     QString::fromStdString(row.driver),
                                                                     QString::fromStdString(row.session)});
                }
                // Runs of other events that are on the tray stay.
                for (const RunInTable& it : runs) {
                    if (std::none_of(all.begin(), all.end(), [&](const RunInTable& one) { return one.id == it.id; }))
                        all.push_back(it);
                }
                out.runs = std::move(all);
            }
            std::vector<RunId> ids;
            for (const RunInTable& it : out.runs) ids.push_back(it.id);
            auto table = kept_lap_table(**library, ids, columns, job);
            if (!table) return pass_on(table.error());
            out.table = std::make_shared<const rendak::LapTable>(std::move(*table));
            return out;
        },
        [this](Result<TableOfLaps> made) {
            if (made) return show_table(std::move(made->table), std::move(made->runs));
            if (made.error().code != ErrorCode::cancelled) workspace_.tell(made.error());
        });
}

void StintDesk::show_table(std::shared_ptr<const rendak::LapTable> table, std::vector<RunInTable> runs) {
    QStringList missing;
    for (const rendak::LapTable::Column& it : table->columns) {
        if (!it.missing.empty()) missing << look_of(it).label;
    }
    figures_->set_table(std::move(table), std::move(runs));
    // Columns that no run has are said, not shown.
    for (int c = 1; c < figures_->columnCount(); ++c) {
        const auto figure = LapFigureModel::figure_of(c);
        table_->setColumnHidden(c, !figures_->table()->columns[*figure].missing.empty());
        table_->setColumnWidth(c, figures_->look(*figure).is_time ? 92 : 84);
    }
    table_->setColumnWidth(0, 116);
    missing.removeDuplicates();
    table_hint_->setText(
        (missing.isEmpty() ? QString() : tr("Not logged: %1. ").arg(missing.join(QStringLiteral(", ")))) +
        tr("Click a heading: its picture. Double click a figure: that lap and place on Compare."));
    show_column(chosen_ < static_cast<int>(figures_->table()->columns.size()) ? chosen_ : -1);
}

void StintDesk::show_column(int column) {
    chosen_ = column;
    pace_->setVisible(column >= 0);
    header_->set_chosen(column + 1 > 0 && column >= 0 ? column + 1 : -1);
    if (column < 0 || figures_->table() == nullptr || column >= static_cast<int>(figures_->table()->columns.size())) {
        show_pace();
        return;
    }
    const auto c = static_cast<std::size_t>(column);
    const FigureLook& look = figures_->look(c);
    OverLapsPlot plot;
    plot.title = look.label;
    plot.how = look.how;
    plot.is_time = look.is_time;
    plot.hint = tr("over the laps · hollow: not counted");
    for (const RunInTable& run : figures_->runs()) {
        if (run.slot < 0) continue;
        OverLapsSeries series;
        series.slot = run.slot;
        for (const rendak::LapTable::Row& row : figures_->table()->rows) {
            if (row.ref.run != run.id) continue;
            series.laps.push_back(row.ref);
            series.x.push_back(row.ref.lap);
            series.values.push_back(row.figures[c].value);
            series.tells.push_back(row.counts ? 1 : 0);
        }
        for (const rendak::LapTable::Trend& it : figures_->table()->trends) {
            if (it.run == run.id && it.column == c) series.line = it.line;
        }
        plot.series.push_back(std::move(series));
    }
    if (!figures_->table()->columns[c].missing.empty())
        plot.message = QString::fromStdString(figures_->table()->columns[c].missing);
    picture_->set_plot(std::move(plot));
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

/// The lap times with the weight of the fuel taken out, by lap of the stint.
void StintDesk::show_pace() {
    OverLapsPlot plot;
    plot.title = tr("Pace over the stint");
    plot.how = {plot.title, QStringLiteral("s"), {}, 1, 0, 3};
    plot.is_time = true;
    if (data_ == nullptr) return picture_->set_plot(std::move(plot));
    const bool fuel = data_->a().stint && data_->a().stint->s_per_litre;
    plot.hint = fuel ? tr("fuel taken out · hollow: not counted") : tr("fuel left in · hollow: not counted");
    for (const StintRun& run : data_->runs) {
        if (!run.stint) continue;
        OverLapsSeries series;
        series.slot = run.slot;
        const Stint& stint = *run.stint;
        for (std::size_t k = 0; k < stint.laps.size(); ++k) {
            series.laps.push_back({run.run->row.id, stint.laps[k]});
            series.x.push_back(stint.lap_of_stint(k));
            series.values.push_back(stint.steady_s[k]);
            series.tells.push_back(stint.tells(k) ? 1 : 0);
        }
        series.line = stint.fall_off;
        series.line_from = stint.laps.front() - 1;
        if (stint.breaks) series.breaks_at = stint.breaks->from_lap - stint.laps.front() + 1;
        plot.series.push_back(std::move(series));
    }
    if (plot.series.empty()) plot.message = data_->a().problem;
    picture_->set_plot(std::move(plot));
}

/// Both stints by lap of the stint, on one scale.
void StintDesk::show_balance(int row) {
    if (data_ == nullptr || !data_->pair || row < 0 || row >= static_cast<int>(data_->pair->figures.size())) return;
    const StintFigure& figure = data_->pair->figures[static_cast<std::size_t>(row)];
    // The change a lap is the line of the pace.
    if (figure.laps_a.empty()) return show_column(-1);
    OverLapsPlot plot;
    plot.title = tr(figure.title.c_str());
    plot.hint = tr("by lap of the stint · hollow: not counted");
    plot.is_time = figure.shown_as.empty();
    plot.how = plot.is_time ? Shown{plot.title, QStringLiteral("s"), {}, 1, 0, 3} : shown(figure.shown_as);
    if (figure.is_difference) plot.how.offset = 0;
    for (const auto& [run, values] : {std::pair{&data_->a(), &figure.laps_a}, {data_->b(), &figure.laps_b}}) {
        const Stint& stint = *run->stint;
        OverLapsSeries series;
        series.slot = run->slot;
        series.values = *values;
        std::vector<double> laps, telling;
        for (std::size_t k = 0; k < stint.laps.size(); ++k) {
            series.laps.push_back({run->run->row.id, stint.laps[k]});
            series.x.push_back(stint.lap_of_stint(k));
            series.tells.push_back(stint.tells(k) ? 1 : 0);
            if (!stint.tells(k)) continue;
            laps.push_back(stint.lap_of_stint(k));
            telling.push_back((*values)[k]);
        }
        series.line = lap_trend(laps, telling);
        plot.series.push_back(std::move(series));
    }
    pace_->show();
    picture_->set_plot(std::move(plot));
}

// ---- watch rules --------------------------------------------------------------------------------------

void StintDesk::work_watch() {
    const auto laps = workspace_.comparison().shared_laps();
    if (laps->empty()) return;
    std::vector<WatchShown> runs;
    const auto among = runs_of(*laps);
    std::vector<RunId> stale;
    for (const auto& run : among) {
        WatchShown it{run, 0, run_title(run->row, among), {}, {}};
        it.slot = first_slot(*laps, run->row.id);
        runs.push_back(std::move(it));
    }
    struct Told {
        std::vector<WatchShown> shown;
        std::vector<RunId> stale;
    };
    watching_.run<Told>(
        tr("Watch rules"),
        [folder = workspace_.library().folder(), runs](const JobContext& job) -> Result<Told> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            Told out;
            const auto book = watch_book(**library);
            if (!book) return pass_on(book.error());
            for (const WatchShown& run : runs) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                const auto kept = kept_watch(**library, run.run->row.id);
                if (!kept) return pass_on(kept.error());
                const bool old = std::any_of(kept->begin(), kept->end(), [](const KeptWatch& it) { return it.stale; });
                if (old || kept->size() < book->in_force().size()) out.stale.push_back(run.run->row.id);
                for (const KeptWatch& it : *kept) {
                    WatchShown shown = run;
                    shown.kept = it;
                    if (!it.told.events.empty()) {
                        const auto trend = watch_trend(**library, it.rule.name, run.run->row.car);
                        if (trend) shown.trend = QString::fromStdString(trend->text);
                    }
                    out.shown.push_back(std::move(shown));
                }
            }
            return out;
        },
        [this](Result<Told> told) {
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
    if (time_s && of_ != nullptr) {
        for (const auto& run : runs_of(*of_)) {
            if (run->row.id != lap.run) continue;
            if (const auto placed = prepare_lap(*run, lap.lap)) focus.set_cursor(placed->map.distance_at(*time_s));
        }
    }
    Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
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
