// Balance, pull, change trials.
#include <QObject>
#include <cmath>
#include <numbers>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/air_load.h"
#include "core/chassis/balance.h"
#include "core/chassis/power.h"
#include "core/trials/change_trial.h"
#include "core/trials/chassis_sheet.h"
#include "core/trials/setup_hints.h"

namespace rendak::app {
namespace {

using Cell = ChassisTable::Cell;
using Mark = Cell::Mark;

constexpr double degrees = 180 / std::numbers::pi;
constexpr double g = 9.80665;

QString angle(const SetFigure& it) {
    return it.known() ? plain_number(it.mean * degrees, 2) + QStringLiteral("°") : QStringLiteral("–");
}

QString scatter(const SetFigure& it) {
    return it.laps.size() > 1 ? QStringLiteral(" ± ") + plain_number(it.sd * degrees, 2) : QString();
}

/// b less a where the laps tell it.
Cell figure_change(const SetFigure& a, const SetFigure& b, double factor, int decimals, const QString& unit) {
    if (!a.known() || !b.known()) return {QStringLiteral("–"), Mark::mute};
    const auto likely = likely_difference(a.laps, b.laps);
    if (!likely) return {QStringLiteral("–"), Mark::mute};
    if (likely->contains(0)) return {QObject::tr("alike"), Mark::mute};
    return {signed_number((b.mean - a.mean) * factor, decimals) + unit};
}

QString likely_text(const std::optional<Interval>& it, double factor, int decimals) {
    if (!it) return {};
    return QObject::tr(" (%1 to %2)")
        .arg(plain_number(it->begin * factor, decimals), plain_number(it->end * factor, decimals));
}

Cell trial_cell(const TrialFigure& it) {
    using Verdict = TrialFigure::Verdict;
    QString out = signed_number(it.change_s, 2) + QStringLiteral(" s");
    if (it.likely) out += QStringLiteral(" ± ") + plain_number(it.likely->length() / 2, 2);
    const Verdict verdict = it.verdict();
    return {out, verdict == Verdict::gain ? Mark::won : verdict == Verdict::loss ? Mark::lost : Mark::mute};
}

/// What is told beside a figure of a trial.
QString trial_note(const TrialFigure& it) {
    using Verdict = TrialFigure::Verdict;
    switch (it.verdict()) {
        case Verdict::gain:
        case Verdict::loss:
            return QObject::tr("on %1 of %2").arg(it.seen_on).arg(it.b.size());
        case Verdict::alike:
            return it.laps_needed > 0 ? QObject::tr("may be chance: %1 laps a side would show it").arg(it.laps_needed)
                                      : QObject::tr("may be chance");
        case Verdict::unknown:
            break;
    }
    return QObject::tr("cannot be told from one lap a side");
}

}  // namespace

Result<void> balance_page(const ChassisWork& work, ChassisLook& out) {
    const auto a = balance_of(work.laps_a, work.sheet_a);
    if (!a) return pass_on(a.error());
    std::optional<Balance> b;
    if (work.b()) {
        if (auto made = balance_of(work.laps_b(), work.sheet_b)) b = std::move(*made);
    }
    const auto steers = [](const Balance& it) {
        const QString size = plain_number(std::abs(it.slope.mean) * degrees * g, 2) + QStringLiteral("°");
        if (!it.slope.known()) return QObject::tr("has a balance that cannot be told");
        if (!it.slope.sure()) return QObject::tr("may be neutral (%1 a g)").arg(size);
        return it.slope.mean > 0 ? QObject::tr("understeers by %1 a g").arg(size)
                                 : QObject::tr("oversteers by %1 a g").arg(size);
    };
    out.headline = QObject::tr("%1 %2").arg(work.name_a(), steers(*a));
    if (b) {
        out.headline += QObject::tr(", %1 %2").arg(work.name_b(), steers(*b));
        const auto likely = likely_difference(a->slope.laps, b->slope.laps);
        if (likely && likely->contains(0))
            out.headline += QObject::tr(": alike");
        else if (likely)
            out.headline += QObject::tr(": surely another balance");
    }
    out.headline += u'.';
    QStringList foot{words(balance_words(*a))};
    for (const std::string& untold : a->untold) foot << words(untold);
    if (a->untold.empty()) foot << QObject::tr("Positive: more steering than the path needs.");
    out.foot = foot.join(u' ');
    const Shown speed = shown("speed");
    ChassisPlot plot;
    plot.title = QObject::tr("Understeer angle over the lateral acceleration");
    plot.hint = QObject::tr("middle of each corner, mean of the laps with its 95 %");
    plot.x_unit = QStringLiteral("g");
    plot.y_unit = QStringLiteral("°");
    const auto add = [&](const Balance& it, int slot, const QString& name) {
        ChassisSeries series;
        series.slot = slot;
        series.name = name;
        series.kind = ChassisSeries::Kind::points;
        for (const CornerBalance& corner : it.corners) {
            const SetFigure& middle = corner.parts[1];
            if (!middle.known()) continue;
            series.x.push_back(corner.lateral_mps2 / g);
            series.y.push_back(middle.mean * degrees);
            series.low.push_back(middle.likely ? middle.likely->begin * degrees : std::nan(""));
            series.high.push_back(middle.likely ? middle.likely->end * degrees : std::nan(""));
        }
        if (!series.x.empty()) plot.series.push_back(std::move(series));
    };
    add(*a, work.a.slot, work.name_a());
    if (b) add(*b, work.b()->slot, work.name_b());
    if (plot.series.empty()) plot.message = words(a->untold.empty() ? std::string() : a->untold.front());
    out.plots.push_back(std::move(plot));

    ChassisTable car;
    car.title = QObject::tr("The car as a whole");
    car.heads = {QObject::tr("Figure"), work.name_a()};
    if (b) car.heads << work.name_b() << QObject::tr("change");
    const auto row = [&](const QString& name, const SetFigure& of_a, const SetFigure* of_b, double factor, int decimals,
                         const QString& unit) {
        if (!of_a.known()) return;
        const auto value = [&](const SetFigure& it) {
            if (!it.known()) return QStringLiteral("–");
            return plain_number(it.mean * factor, decimals) + unit +
                   (it.laps.size() > 1 ? QStringLiteral(" ± ") + plain_number(it.sd * factor, decimals) : QString());
        };
        std::vector<Cell> cells{{name}, {value(of_a)}};
        if (of_b != nullptr) {
            cells.push_back({value(*of_b)});
            cells.push_back(figure_change(of_a, *of_b, factor, decimals, unit));
        }
        car.rows.push_back(std::move(cells));
        car.at_m.emplace_back();
        car.tips.push_back(QObject::tr("on %1 of %2 laps").arg(of_a.on).arg(of_a.laps.size()));
    };
    const auto of_b = [&](const SetFigure Balance::*member) { return b ? &((*b).*member) : nullptr; };
    row(QObject::tr("understeer a g"), a->slope, of_b(&Balance::slope), degrees * g, 2, QStringLiteral("°"));
    for (std::size_t p = 0; p < corner_parts.size(); ++p)
        row(QObject::tr("angle, %1").arg(QString::fromLatin1(corner_part_name(corner_parts[p]))), a->parts[p],
            b ? &b->parts[p] : nullptr, degrees, 2, QStringLiteral("°"));
    row(QObject::tr("left corners"), a->left, of_b(&Balance::left), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("right corners"), a->right, of_b(&Balance::right), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("slower corners"), a->slow, of_b(&Balance::slow), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("faster corners"), a->fast, of_b(&Balance::fast), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("roll a g"), a->roll_per_mps2, of_b(&Balance::roll_per_mps2), degrees * g, 3, QStringLiteral("°"));
    row(QObject::tr("pitch a g"), a->pitch_per_mps2, of_b(&Balance::pitch_per_mps2), degrees * g, 3,
        QStringLiteral("°"));
    row(QObject::tr("front's share of the roll"), a->front_roll_share, of_b(&Balance::front_roll_share), 100, 1,
        QStringLiteral(" %"));
    if (a->front_roll_share_sheet) {
        std::vector<Cell> cells{{QObject::tr("the same, by the sheet")},
                                {plain_number(100 * *a->front_roll_share_sheet, 1) + QStringLiteral(" %")}};
        if (b) {
            cells.push_back({b->front_roll_share_sheet
                                 ? plain_number(100 * *b->front_roll_share_sheet, 1) + QStringLiteral(" %")
                                 : QStringLiteral("–")});
            cells.push_back({});
        }
        car.rows.push_back(std::move(cells));
        car.at_m.emplace_back();
        car.tips.push_back(QObject::tr("springs and bars; the tyres' give is not in it"));
    }
    row(QObject::tr("tyres, front − rear"), a->front_minus_rear_k, of_b(&Balance::front_minus_rear_k), 1, 1,
        QStringLiteral(" K"));
    for (const bool front : {true, false}) {
        const auto& hz = a->ride_hz[front ? 0 : 1];
        if (!hz) continue;
        std::vector<Cell> cells{{front ? QObject::tr("ride frequency, front") : QObject::tr("ride frequency, rear")},
                                {plain_number(*hz, 1) + QStringLiteral(" Hz")}};
        if (b) {
            const auto& its = b->ride_hz[front ? 0 : 1];
            cells.push_back({its ? plain_number(*its, 1) + QStringLiteral(" Hz") : QStringLiteral("–")});
            cells.push_back({});
        }
        car.rows.push_back(std::move(cells));
        car.at_m.emplace_back();
        car.tips.emplace_back();
    }
    ChassisTable corners;
    corners.title = b ? QObject::tr("By corner: %1, and what %2 changes").arg(work.letter_a(), work.letter_b())
                      : QObject::tr("By corner");
    corners.heads = {QObject::tr("Corner"), speed.unit, QObject::tr("entry"), QObject::tr("middle"),
                     QObject::tr("exit")};
    if (b) corners.heads << QObject::tr("change in the middle");
    for (std::size_t k = 0; k < a->corners.size(); ++k) {
        const CornerBalance& it = a->corners[k];
        std::vector<Cell> cells{{words(it.name)}, {speed.text(it.speed_mps)}};
        for (const SetFigure& part : it.parts) cells.push_back({angle(part) + scatter(part)});
        if (b) {
            Cell change{QStringLiteral("–"), Mark::mute};
            for (const CornerBalance& other : b->corners)
                if (other.corner == it.corner)
                    change = figure_change(it.parts[1], other.parts[1], degrees, 2, QStringLiteral("°"));
            cells.push_back(std::move(change));
        }
        corners.rows.push_back(std::move(cells));
        corners.at_m.emplace_back(work.laps_a.front().track->corners[static_cast<std::size_t>(it.corner - 1)].apex_m);
        corners.tips.push_back(QObject::tr("on %1 of %2 laps").arg(it.whole.on).arg(it.whole.laps.size()));
    }
    out.tables.push_back(std::move(corners));
    out.tables.push_back(std::move(car));
    return {};
}

Result<void> pull_page(const ChassisWork& work, ChassisLook& out) {
    const auto a = power_of(work.laps_a, power_input(*work.a.run));
    if (!a) return pass_on(a.error());
    std::optional<PowerFit> b;
    if (work.b()) {
        if (auto made = power_of(work.laps_b(), power_input(*work.b()->run))) b = std::move(*made);
    }
    const Shown speed = shown("speed");
    const bool by_mass = a->mass_kg.has_value();
    const QString power_unit = by_mass ? QStringLiteral(" kW") : QStringLiteral(" W/kg");
    const QString drag_unit = by_mass ? QStringLiteral(" m²") : QStringLiteral(" m²/kg");
    const double power_factor = by_mass ? 1e-3 : 1;
    const int drag_decimals = by_mass ? 3 : 5;
    const auto told = [&](const PowerFit& it) {
        return QObject::tr("%1%2 at the wheels, drag area %3%4")
            .arg(plain_number(it.power * power_factor, 1), power_unit, plain_number(it.drag_area, drag_decimals),
                 drag_unit);
    };
    out.headline = work.letter_a() + QStringLiteral(": ") + told(*a) + u'.';
    if (b) out.headline += u' ' + work.letter_b() + QStringLiteral(": ") + told(*b) + u'.';
    QStringList foot;
    for (const std::string& doubt : a->doubts) foot << words(doubt);
    out.foot = foot.join(u' ');
    ChassisTable table;
    table.title = QObject::tr("Power and drag, from %1 m of full throttle a lap").arg(a->metres, 0, 'f', 0);
    table.heads = {QObject::tr("Figure"), work.name_a()};
    if (b) table.heads << work.name_b() << QObject::tr("change");
    const auto row = [&](const QString& name, const auto& value, const auto& likely, const auto& of_lap, double factor,
                         int decimals, const QString& unit) {
        std::vector<Cell> cells{
            {name}, {plain_number(value(*a) * factor, decimals) + unit + likely_text(likely(*a), factor, decimals)}};
        if (b) {
            cells.push_back(
                {plain_number(value(*b) * factor, decimals) + unit + likely_text(likely(*b), factor, decimals)});
            std::vector<double> left, right;
            for (const LapPower& lap : a->laps) left.push_back(of_lap(*a, lap));
            for (const LapPower& lap : b->laps) right.push_back(of_lap(*b, lap));
            cells.push_back(figure_change(set_figure(left), set_figure(right), factor, decimals, unit));
        }
        table.rows.push_back(std::move(cells));
        table.at_m.emplace_back();
        table.tips.emplace_back();
    };
    row(
        QObject::tr("power at the wheels"), [](const PowerFit& it) { return it.power; },
        [](const PowerFit& it) { return it.power_likely; },
        [](const PowerFit& it, const LapPower& lap) { return lap.power_w_per_kg * it.mass_kg.value_or(1); },
        power_factor, 1, power_unit);
    row(
        QObject::tr("drag area"), [](const PowerFit& it) { return it.drag_area; },
        [](const PowerFit& it) { return it.drag_likely; },
        [](const PowerFit& it, const LapPower& lap) { return lap.drag_m2_per_kg * it.mass_kg.value_or(1); }, 1,
        drag_decimals, drag_unit);
    row(
        QObject::tr("top speed"), [](const PowerFit& it) { return it.top_mps; },
        [](const PowerFit&) { return std::optional<Interval>(); },
        [](const PowerFit&, const LapPower& lap) { return lap.top_mps; }, 1 / speed.factor, 1, u' ' + speed.unit);
    const auto air_a = air_load_of(work.laps_a, work.sheet_a, power_input(*work.a.run).air_kg_per_m3);
    Result<AirLoad> air_b = fail(ErrorCode::not_found, "");
    if (work.b()) air_b = air_load_of(work.laps_b(), work.sheet_b, power_input(*work.b()->run).air_kg_per_m3);
    const auto air_row = [&](const QString& name, SetFigure AirLoad::*member, double factor, int decimals,
                             const QString& unit) {
        if (!air_a || !((*air_a).*member).known()) return;
        const SetFigure& of_a = (*air_a).*member;
        std::vector<Cell> cells{
            {name}, {plain_number(of_a.mean * factor, decimals) + unit + likely_text(of_a.likely, factor, decimals)}};
        if (b) {
            const SetFigure of_b = air_b ? (*air_b).*member : SetFigure{};
            cells.push_back({of_b.known() ? plain_number(of_b.mean * factor, decimals) + unit +
                                                likely_text(of_b.likely, factor, decimals)
                                          : QStringLiteral("–")});
            cells.push_back(figure_change(of_a, of_b, factor, decimals, unit));
        }
        table.rows.push_back(std::move(cells));
        table.at_m.emplace_back();
        table.tips.push_back(QObject::tr("cl · A from springs and damper travel straight on"));
    };
    air_row(QObject::tr("downforce area, front"), &AirLoad::front_m2, 1, 3, QStringLiteral(" m²"));
    air_row(QObject::tr("downforce area, rear"), &AirLoad::rear_m2, 1, 3, QStringLiteral(" m²"));
    air_row(QObject::tr("front's share of it"), &AirLoad::front_share, 100, 1, QStringLiteral(" %"));
    ChassisPlot plot;
    plot.title = QObject::tr("Acceleration over speed");
    plot.x_unit = speed.unit;
    plot.y_unit = QStringLiteral("m/s²");
    const auto steps = pull_by_speed(
        work.laps_a, b ? std::span<const PreparedLap>(work.laps_b()) : std::span<const PreparedLap>(work.laps_a));
    plot.hint = QObject::tr("at full throttle, straight on, slope taken out where it is known");
    const auto add = [&](bool of_a, int slot, const QString& name) {
        ChassisSeries series;
        series.slot = slot;
        series.name = name;
        series.kind = ChassisSeries::Kind::points;
        for (const SpeedStep& step : steps) {
            const SetFigure figure = set_figure(of_a ? step.a : step.b);
            series.x.push_back(speed.from_si(step.from_mps + 2.5));
            series.y.push_back(figure.mean);
            series.low.push_back(figure.likely ? figure.likely->begin : std::nan(""));
            series.high.push_back(figure.likely ? figure.likely->end : std::nan(""));
        }
        plot.series.push_back(std::move(series));
    };
    add(true, work.a.slot, work.name_a());
    if (b) add(false, work.b()->slot, work.name_b());
    if (steps.empty()) plot.message = QObject::tr("No step of 18 km/h is passed at full throttle, straight on.");
    out.plots.push_back(std::move(plot));
    out.tables.push_back(std::move(table));
    if (!b) return {};
    ChassisTable by;
    by.title = QObject::tr("At equal speed: %1 against %2").arg(work.letter_b(), work.letter_a());
    by.heads = {QObject::tr("from %1").arg(speed.unit), work.letter_a(), work.letter_b(), QObject::tr("change")};
    for (const SpeedStep& step : steps) {
        const bool alike = !step.likely || step.likely->contains(0);
        const double change = mean_value(step.b) - mean_value(step.a);
        by.rows.push_back({{speed.text(step.from_mps)},
                           {plain_number(mean_value(step.a), 2)},
                           {plain_number(mean_value(step.b), 2)},
                           {!step.likely ? QStringLiteral("–")
                            : alike      ? QObject::tr("alike")
                                         : signed_number(change, 2),
                            alike        ? Mark::mute
                            : change > 0 ? Mark::won
                                         : Mark::lost}});
        by.at_m.emplace_back();
        by.tips.emplace_back();
    }
    out.tables.push_back(std::move(by));
    return {};
}

Result<void> trial_page(const ChassisWork& work, ChassisLook& out) {
    const auto kept = kept_trials(work.library);
    if (!kept) return pass_on(kept.error());
    ChassisTable before;
    before.title = QObject::tr("Trials that were kept · a double click: what was decided");
    before.heads = {QObject::tr("What"), QObject::tr("lap"), QObject::tr("verdict"), QObject::tr("by")};
    for (const KeptTrial& it : *kept) {
        if (it.car != work.a.run->row.car) continue;
        before.rows.push_back({{words(it.name)},
                               {signed_number(it.net_s, 2) + QStringLiteral(" s")},
                               {words(it.verdict)},
                               {words(it.decided_by)}});
        before.at_m.emplace_back();
        before.trials.push_back(it.id);
        before.tips.push_back(words(it.says) + (it.words.empty() ? QString() : u'\n' + words(it.words)));
    }
    const auto hints = setup_hints(work.laps_a, work.sheet_a, work.job);
    ChassisTable possible;
    possible.title = QObject::tr("What could be tried on %1").arg(work.name_a());
    possible.heads = {QObject::tr("Evidence")};
    if (hints) {
        for (const SetupHint& it : hints->hints) {
            possible.rows.push_back({{words(it.evidence)}});
            possible.at_m.emplace_back();
            possible.tips.push_back(words(it.driver_first) +
                                    (it.driver_first.empty() ? QString() : QStringLiteral("\n")) + words(it.possible));
        }
        if (hints->hints.empty()) {
            possible.rows.push_back({{words(hints->none), Mark::mute}});
            possible.at_m.emplace_back();
            possible.tips.emplace_back();
        }
    }
    if (!work.b()) {
        out.headline = QObject::tr("A trial needs a second run: pick a lap of the run with the change beside %1.")
                           .arg(work.name_a());
        out.tables = {std::move(before), std::move(possible)};
        return {};
    }
    const auto aim = trial_aim(work.choice.aim.toStdString());
    if (!aim) return pass_on(aim.error());
    const LapSet a{work.laps_a, {work.a.run}}, b{work.against.front().second, {work.b()->run}};
    const auto trial = change_trial(work.library, a, b, *aim, work.job);
    if (!trial) return pass_on(trial.error());
    const std::size_t end = trial->text.find(". ");
    out.headline = words(trial->text.substr(0, end == std::string::npos ? trial->text.size() : end + 1));
    out.foot = end == std::string::npos ? QString() : words(trial->text.substr(end + 2));
    KeptTrial keep;
    for (const std::string& change : trial->differences.changes) keep.name += (keep.name.empty() ? "" : "; ") + change;
    if (keep.name.empty()) keep.name = "Nothing noted";
    ChassisTable table;
    table.title = trial->differences.changes.empty() ? QObject::tr("No change of the car is noted between the two")
                                                     : words(keep.name);
    table.heads = {QObject::tr("%1 against %2").arg(work.name_b(), work.name_a()), QObject::tr("seconds"), {}};
    const auto add = [&](const TrialFigure& it, const QString& name) {
        table.rows.push_back({{name}, trial_cell(it), {trial_note(it), Mark::mute}});
        table.at_m.emplace_back();
        table.tips.emplace_back();
    };
    if (trial->aim.kind != TrialAim::Kind::lap) {
        add(trial->aimed, QObject::tr("Aimed at: %1").arg(words(trial->aim.text)));
        add(trial->elsewhere, QObject::tr("Elsewhere"));
    }
    for (const TrialFigure& part : trial->parts) add(part, words(part.name));
    if (trial->carried) add(*trial->carried, QObject::tr("  of it carried from exits"));
    if (trial->pull) add(*trial->pull, QObject::tr("  of it pull"));
    add(trial->net, QObject::tr("Net"));
    QStringList same;
    for (const std::string& line : trial->unchanged) same << words(line);
    table.tips.back() =
        same.isEmpty() ? QString() : QObject::tr("Not changed: %1").arg(same.join(QStringLiteral(", ")));
    ChassisPlot plot;
    plot.title = QObject::tr("Seconds by corner, with the road behind it");
    plot.hint = QObject::tr("below zero %1 is quicker; 95 %").arg(work.letter_b());
    plot.x_unit = distance_shown().unit;
    plot.y_unit = QStringLiteral("s");
    ChassisSeries series;
    series.slot = work.b()->slot;
    series.kind = ChassisSeries::Kind::points;
    for (std::size_t k = 0; k < trial->corners.size(); ++k) {
        const TrialFigure& it = trial->corners[k];
        const Interval range = trial->ledger.rows[k].range_m;
        series.x.push_back(distance_shown().from_si((range.begin + range.end) / 2));
        series.y.push_back(it.change_s);
        series.low.push_back(it.likely ? it.likely->begin : std::nan(""));
        series.high.push_back(it.likely ? it.likely->end : std::nan(""));
    }
    plot.series.push_back(std::move(series));
    out.plots.push_back(std::move(plot));
    keep.a = {std::to_string(work.a.run->row.id.value)};
    keep.b = {std::to_string(work.b()->run->row.id.value)};
    keep.aim = work.choice.aim.toStdString();
    keep.event = work.b()->run->row.event;
    keep.car = work.b()->run->row.car;
    keep.says = trial->text;
    keep.net_s = trial->net.change_s;
    out.trial = std::move(keep);
    out.tables.push_back(std::move(table));
    out.tables.push_back(before.rows.empty() ? std::move(possible) : std::move(before));
    return {};
}

}  // namespace rendak::app
