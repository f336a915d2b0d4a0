// Balance: understeer, roll and pitch.
#include <QObject>
#include <cmath>
#include <numbers>

#include "app/desks/chassis/change_cell.h"
#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/balance.h"
#include "core/units/gravity.h"

namespace rendak::app {
namespace {

using Cell = ChassisTable::Cell;
using Mark = Cell::Mark;

constexpr double degrees = 180 / std::numbers::pi;

QString angle(const SetFigure& it) {
    return it.known() ? plain_number(it.mean * degrees, 2) + QStringLiteral("°") : QStringLiteral("–");
}

QString scatter(const SetFigure& it) {
    return it.laps.size() > 1 ? QStringLiteral(" ± ") + plain_number(it.sd * degrees, 2) : QString();
}

/// b less a where the laps tell it.
Cell figure_change(const SetFigure& a, const SetFigure& b, double factor, int decimals, const QString& unit) {
    if (!a.known() || !b.known()) return {QStringLiteral("–"), Mark::mute};
    return change_cell(b.mean - a.mean, likely_difference(a.laps, b.laps), factor, decimals, unit);
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
        const QString size =
            plain_number(std::abs(it.slope.mean) * degrees * standard_gravity_mps2, 2) + QStringLiteral("°");
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
            series.x.push_back(corner.lateral_mps2 / standard_gravity_mps2);
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
    row(QObject::tr("understeer a g"), a->slope, of_b(&Balance::slope), degrees * standard_gravity_mps2, 2,
        QStringLiteral("°"));
    for (std::size_t p = 0; p < corner_parts.size(); ++p)
        row(QObject::tr("angle, %1").arg(QString::fromLatin1(corner_part_name(corner_parts[p]))), a->parts[p],
            b ? &b->parts[p] : nullptr, degrees, 2, QStringLiteral("°"));
    row(QObject::tr("left corners"), a->left, of_b(&Balance::left), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("right corners"), a->right, of_b(&Balance::right), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("slower corners"), a->slow, of_b(&Balance::slow), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("faster corners"), a->fast, of_b(&Balance::fast), degrees, 2, QStringLiteral("°"));
    row(QObject::tr("roll a g"), a->roll_per_mps2, of_b(&Balance::roll_per_mps2), degrees * standard_gravity_mps2, 3,
        QStringLiteral("°"));
    row(QObject::tr("pitch a g"), a->pitch_per_mps2, of_b(&Balance::pitch_per_mps2), degrees * standard_gravity_mps2, 3,
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

}  // namespace rendak::app
