// Power, drag and load from the air.
#include <QObject>
#include <algorithm>
#include <cmath>

#include "app/desks/chassis/change_cell.h"
#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/air_load.h"
#include "core/chassis/power.h"
#include "core/trials/chassis_sheet.h"

namespace rendak::app {
namespace {

using Cell = ChassisTable::Cell;
using Mark = Cell::Mark;

/// A figure of both sides, as it stands in the table.
struct FigureRow {
    QString name, unit;
    double factor = 1;
    int decimals = 1;
};

struct Side {
    double value = 0;
    std::optional<Interval> likely = {};
};

void add_row(ChassisTable& table, const FigureRow& it, const Side& a, const std::optional<Side>& b,
             const std::optional<Interval>& change, const QString& tip = {}) {
    const auto cell = [&](const Side& side) {
        return Cell{plain_number(side.value * it.factor, it.decimals) + it.unit +
                    likely_text(side.likely, it.factor, it.decimals)};
    };
    std::vector<Cell> cells{{it.name}, cell(a)};
    if (table.heads.size() > 2) {
        cells.push_back(b ? cell(*b) : Cell{QStringLiteral("–"), Mark::mute});
        cells.push_back(
            change_cell(b ? b->value - a.value : 0, b ? change : std::nullopt, it.factor, it.decimals, it.unit));
    }
    table.rows.push_back(std::move(cells));
    table.at_m.emplace_back();
    table.tips.push_back(tip);
}

std::vector<double> top_speeds(const PowerFit& fit) {
    std::vector<double> out;
    for (const LapPower& lap : fit.laps) out.push_back(lap.top_mps);
    return out;
}

/// What both sides are told in: by kilogram where a mass is not known.
struct PullUnits {
    QString power = QStringLiteral(" kW"), drag = QStringLiteral(" m²");
    double power_factor = 1e-3;
    int drag_decimals = 3;

    explicit PullUnits(bool by_mass) {
        if (by_mass) return;
        power = QStringLiteral(" W/kg");
        drag = QStringLiteral(" m²/kg");
        power_factor = 1;
        drag_decimals = 5;
    }
};

void add_power(ChassisTable& table, const PowerFit& a, const std::optional<PowerFit>& b) {
    const PullUnits units(a.mass_kg.has_value());
    const Shown speed = shown("speed");
    const PowerChange change = b ? power_change(a, *b) : PowerChange{};
    const auto other = [&](double PowerFit::*value, std::optional<Interval> PowerFit::*likely) {
        return b ? std::optional<Side>(Side{(*b).*value, (*b).*likely}) : std::nullopt;
    };
    add_row(table, {QObject::tr("power at the wheels"), units.power, units.power_factor, 1}, {a.power, a.power_likely},
            other(&PowerFit::power, &PowerFit::power_likely), change.power);
    add_row(table, {QObject::tr("drag area"), units.drag, 1, units.drag_decimals}, {a.drag_area, a.drag_likely},
            other(&PowerFit::drag_area, &PowerFit::drag_likely), change.drag_area);
    add_row(table, {QObject::tr("top speed"), u' ' + speed.unit, 1 / speed.factor, 1}, {a.top_mps},
            b ? std::optional<Side>(Side{b->top_mps}) : std::nullopt,
            b ? likely_difference(top_speeds(a), top_speeds(*b)) : std::nullopt);
}

void add_air(ChassisTable& table, const ChassisWork& work, double air_a, double air_b) {
    const auto a = air_load_of(work.laps_a, work.sheet_a, air_a);
    if (!a) return;
    Result<AirLoad> b = fail(ErrorCode::not_found, "");
    if (work.b()) b = air_load_of(work.laps_b(), work.sheet_b, air_b);
    const AirChange change = b ? air_change(*a, *b) : AirChange{};
    const QString tip = QObject::tr("cl · A from springs and damper travel straight on");
    const auto row = [&](const FigureRow& it, SetFigure AirLoad::*figure, const std::optional<Interval>& by) {
        const SetFigure& of_a = (*a).*figure;
        if (!of_a.known()) return;
        std::optional<Side> other;
        if (b && ((*b).*figure).known()) other = Side{((*b).*figure).mean, ((*b).*figure).likely};
        add_row(table, it, {of_a.mean, of_a.likely}, other, by, tip);
    };
    row({QObject::tr("downforce area, front"), QStringLiteral(" m²"), 1, 3}, &AirLoad::front_m2, change.front_m2);
    row({QObject::tr("downforce area, rear"), QStringLiteral(" m²"), 1, 3}, &AirLoad::rear_m2, change.rear_m2);
    row({QObject::tr("front's share of it"), QStringLiteral(" %"), 100, 1}, &AirLoad::front_share, change.front_share);
}

ChassisSeries pull_series(const std::vector<SpeedStep>& steps, bool of_a, int slot, const QString& name) {
    const Shown speed = shown("speed");
    ChassisSeries out;
    out.slot = slot;
    out.name = name;
    out.kind = ChassisSeries::Kind::points;
    for (const SpeedStep& step : steps) {
        const SetFigure figure = set_figure(of_a ? step.a : step.b);
        out.x.push_back(speed.from_si(step.from_mps + 2.5));
        out.y.push_back(figure.mean);
        out.low.push_back(figure.likely ? figure.likely->begin : std::nan(""));
        out.high.push_back(figure.likely ? figure.likely->end : std::nan(""));
    }
    return out;
}

ChassisTable at_equal_speed(const ChassisWork& work, const std::vector<SpeedStep>& steps) {
    const Shown speed = shown("speed");
    ChassisTable out;
    out.title = QObject::tr("At equal speed: %1 against %2").arg(work.letter_b(), work.letter_a());
    out.heads = {QObject::tr("from %1").arg(speed.unit), work.letter_a(), work.letter_b(), QObject::tr("change")};
    for (const SpeedStep& step : steps) {
        const double change = mean_value(step.b) - mean_value(step.a);
        Cell cell = change_cell(change, step.likely, 1, 2, {});
        if (cell.mark != Mark::mute) cell.mark = change > 0 ? Mark::won : Mark::lost;
        out.rows.push_back({{speed.text(step.from_mps)},
                            {plain_number(mean_value(step.a), 2)},
                            {plain_number(mean_value(step.b), 2)},
                            std::move(cell)});
        out.at_m.emplace_back();
        out.tips.emplace_back();
    }
    return out;
}

/// Sentences of both, each once; those of one alone with its letter.
QString doubts(const ChassisWork& work, const PowerFit& a, const std::optional<PowerFit>& b) {
    QStringList out;
    const auto has = [](const PowerFit& fit, const std::string& doubt) {
        return std::find(fit.doubts.begin(), fit.doubts.end(), doubt) != fit.doubts.end();
    };
    for (const std::string& doubt : a.doubts)
        out << (b && !has(*b, doubt) ? work.letter_a() + QStringLiteral(": ") : QString()) + words(doubt);
    if (b) {
        for (const std::string& doubt : b->doubts)
            if (!has(a, doubt)) out << work.letter_b() + QStringLiteral(": ") + words(doubt);
    }
    return out.join(u' ');
}

}  // namespace

Result<void> pull_page(const ChassisWork& work, ChassisLook& out) {
    PowerInput input_a = power_input(*work.a.run), input_b;
    if (work.b()) {
        input_b = power_input(*work.b()->run);
        if (!input_a.mass_kg || !input_b.mass_kg) input_a.mass_kg = input_b.mass_kg = std::nullopt;
    }
    const auto a = power_of(work.laps_a, input_a);
    if (!a) return pass_on(a.error());
    std::optional<PowerFit> b;
    QString untold;
    if (work.b()) {
        auto made = power_of(work.laps_b(), input_b);
        if (made)
            b = std::move(*made);
        else
            untold = work.letter_b() + QStringLiteral(": ") + words(made.error().text());
    }
    const PullUnits units(a->mass_kg.has_value());
    const auto told = [&](const PowerFit& it) {
        return QObject::tr("%1%2 at the wheels, drag area %3%4")
            .arg(plain_number(it.power * units.power_factor, 1), units.power,
                 plain_number(it.drag_area, units.drag_decimals), units.drag);
    };
    out.headline = work.letter_a() + QStringLiteral(": ") + told(*a) + u'.';
    if (b) out.headline += u' ' + work.letter_b() + QStringLiteral(": ") + told(*b) + u'.';
    out.foot = QStringList{untold, doubts(work, *a, b)}.join(u' ').trimmed();
    ChassisTable table;
    table.title = QObject::tr("Power and drag, from %1 m of full throttle a lap").arg(a->metres, 0, 'f', 0);
    table.heads = {QObject::tr("Figure"), work.name_a()};
    if (b) table.heads << work.name_b() << QObject::tr("change");
    add_power(table, *a, b);
    add_air(table, work, input_a.air_kg_per_m3, input_b.air_kg_per_m3);
    const auto steps = pull_by_speed(
        work.laps_a, b ? std::span<const PreparedLap>(work.laps_b()) : std::span<const PreparedLap>(work.laps_a));
    ChassisPlot plot;
    plot.title = QObject::tr("Acceleration over speed");
    plot.x_unit = shown("speed").unit;
    plot.y_unit = QStringLiteral("m/s²");
    plot.hint = QObject::tr("at full throttle, straight on, slope taken out where it is known");
    plot.series.push_back(pull_series(steps, true, work.a.slot, work.name_a()));
    if (b) plot.series.push_back(pull_series(steps, false, work.b()->slot, work.name_b()));
    if (steps.empty()) plot.message = QObject::tr("No step of 18 km/h is passed at full throttle, straight on.");
    out.plots.push_back(std::move(plot));
    out.tables.push_back(std::move(table));
    if (b) out.tables.push_back(at_equal_speed(work, steps));
    return {};
}

}  // namespace rendak::app
