// Ride height.
#include <QObject>
#include <algorithm>
#include <cmath>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "core/chassis/height_curves.h"
#include "core/chassis/heights.h"

namespace rendak::app {
namespace {

ChassisSeries height_series(const HeightCurve& curve, const Shown& along, const Shown& mm, int slot,
                            const QString& name) {
    ChassisSeries out;
    out.slot = slot;
    out.name = name;
    for (std::size_t k = 0; k < curve.at.size(); ++k) {
        out.x.push_back(along.from_si(curve.at[k]));
        out.y.push_back(mm.from_si(curve.height_m[k]));
    }
    return out;
}

ChassisPlot pressed_down(const ChassisWork& work, const Shown& mm) {
    const Shown speed = shown("speed");
    ChassisPlot out;
    out.title = QObject::tr("Height over speed, straight on");
    out.hint = QObject::tr("mean; what falls with the speed is load from the air");
    out.x_unit = speed.unit;
    out.y_unit = mm.unit;
    const auto add = [&](std::span<const PreparedLap> laps, int slot, const QString& name, const char* channel) {
        const HeightCurve curve = height_by_speed(laps, channel);
        if (!curve.at.empty()) out.series.push_back(height_series(curve, speed, mm, slot, name));
    };
    for (const bool front : {true, false}) {
        const char* channel = front ? "ride_height_front" : "ride_height_rear";
        const QString axle = front ? QObject::tr(" front") : QObject::tr(" rear");
        add(work.laps_a, work.a.slot, work.letter_a() + axle, channel);
        if (work.b()) add(work.laps_b(), work.b()->slot, work.letter_b() + axle, channel);
    }
    if (out.series.empty())
        out.message =
            QObject::tr("The height of an axle's middle is not logged, or not beside speed and acceleration.");
    return out;
}

}  // namespace

Result<void> heights_page(const ChassisWork& work, ChassisLook& out) {
    const auto heights = heights_of(work.laps_a, work.sheet_a, work.job);
    if (!heights) return pass_on(heights.error());
    Result<Heights> other = fail(ErrorCode::not_found, "");
    if (work.b()) other = heights_of(work.laps_b(), work.sheet_b, work.job);
    const Shown mm = shown("ride_height_front"), speed = shown("speed");
    QStringList said;
    for (const Heights::Axle& axle : heights->axles) {
        QString line = axle.times > 0 ? QObject::tr("%1 is under its limit %2 times a lap")
                                            .arg(axle.front ? QObject::tr("The front") : QObject::tr("the rear"))
                                            .arg(axle.times, 0, 'f', 1)
                                      : QObject::tr("%1 stays above its limit")
                                            .arg(axle.front ? QObject::tr("The front") : QObject::tr("the rear"));
        if (other) {
            for (const Heights::Axle& its : other->axles)
                if (its.front == axle.front && (its.times > 0 || axle.times > 0))
                    line += QObject::tr(" (%1: %2)").arg(work.letter_b()).arg(its.times, 0, 'f', 1);
        }
        said << line;
    }
    out.headline = said.join(QStringLiteral(", ")) + u'.';
    QStringList foot;
    for (const Heights::Axle& axle : heights->axles)
        foot << QObject::tr("%1: limit %2 %3 (%4), lowest %5%6")
                    .arg(axle.front ? QObject::tr("Front") : QObject::tr("Rear"), mm.text(axle.limit_m), mm.unit,
                         axle.limit_from_sheet ? QObject::tr("car sheet") : QObject::tr("touching the road"),
                         with_unit(mm.text(axle.lowest_m), mm.unit),
                         axle.from_dampers ? QObject::tr(", from damper travel, without the tyres' give") : QString());
    for (const std::string& untold : heights->untold) foot << words(untold);
    out.foot = foot.join(QStringLiteral(" · "));

    ChassisPlot where;
    where.title = QObject::tr("Lowest height round the lap");
    where.hint = QObject::tr("of all laps that count, every 10 m");
    where.x_unit = distance_shown().unit;
    where.y_unit = mm.unit;
    const Heights::Axle& first = heights->axles.front();
    if (first.from_dampers) {
        where.message =
            QObject::tr("Heights are not logged: they are worked out of damper travel, places are in the list.");
    } else {
        where.title += first.front ? QObject::tr(", front") : QObject::tr(", rear");
        const auto add = [&](std::span<const PreparedLap> laps, const Heights::Axle& axle, int slot,
                             const QString& name) {
            where.series.push_back(
                height_series(lowest_round_the_lap(laps, axle.channels), distance_shown(), mm, slot, name));
        };
        add(work.laps_a, first, work.a.slot, work.name_a());
        if (other && other->axles.front().front == first.front && !other->axles.front().from_dampers)
            add(work.laps_b(), other->axles.front(), work.b()->slot, work.name_b());
    }
    out.plots.push_back(std::move(where));

    out.plots.push_back(pressed_down(work, mm));

    ChassisTable table;
    table.title = QObject::tr("Where %1 is under its limit").arg(work.name_a());
    table.heads = {QObject::tr("Place"), QObject::tr("axle"), QObject::tr("laps"),      QObject::tr("deep"),
                   QObject::tr("for"),   speed.unit,          QObject::tr("what it is")};
    for (const LowPlace& place : heights->places) {
        table.rows.push_back(
            {{words(place.title) + QStringLiteral(", ") + distance_text(place.lowest_at_m)},
             {place.front ? QObject::tr("front") : QObject::tr("rear")},
             {QObject::tr("%1 of %2").arg(place.on).arg(place.of)},
             {with_unit(mm.difference_text(place.depth_m).remove(u'+'), mm.unit)},
             {plain_number(place.time_s, 2) + QStringLiteral(" s")},
             {std::isfinite(place.speed_mps) ? speed.text(place.speed_mps) : QStringLiteral("–")},
             {words(low_cause_name(place.cause)),
              place.cause == LowCause::unknown ? ChassisTable::Cell::Mark::mute : ChassisTable::Cell::Mark::none}});
        table.at_m.emplace_back(place.lowest_at_m);
        QString tip = words(low_remedy(place.cause));
        if (place.speed_cost_mps && place.speed_cost_likely)
            tip += QObject::tr("\nTouching goes with %1 %2 over the place (%3 to %4).")
                       .arg(speed.difference_text(*place.speed_cost_mps), speed.unit,
                            speed.difference_text(place.speed_cost_likely->begin),
                            speed.difference_text(place.speed_cost_likely->end));
        table.tips.push_back(std::move(tip));
    }
    out.tables.push_back(std::move(table));
    ChassisTable axles;
    axles.title = QObject::tr("Axles");
    axles.heads = {QObject::tr("Axle"), QObject::tr("limit"), QObject::tr("lowest"), QObject::tr("times a lap")};
    const auto add = [&](const Heights& it, const QString& letter) {
        for (const Heights::Axle& axle : it.axles) {
            axles.rows.push_back({{letter + u' ' + (axle.front ? QObject::tr("front") : QObject::tr("rear"))},
                                  {with_unit(mm.text(axle.limit_m), mm.unit)},
                                  {with_unit(mm.text(axle.lowest_m), mm.unit)},
                                  {plain_number(axle.times, 1)}});
            axles.at_m.emplace_back(axle.lowest_at_m);
            axles.tips.emplace_back();
        }
    };
    add(*heights, work.letter_a());
    if (other) add(*other, work.letter_b());
    out.tables.push_back(std::move(axles));
    return {};
}

}  // namespace rendak::app
