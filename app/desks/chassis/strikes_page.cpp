// Kerbs and lock-ups.
#include <QObject>
#include <cmath>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/strikes.h"

namespace rendak::app {
namespace {

ChassisTable strikes_table(const Strikes& strikes, const QString& name, const Track& track) {
    ChassisTable out;
    out.title = QObject::tr("%1: by wheel and corner, over %2")
                    .arg(name, counted(static_cast<qsizetype>(strikes.laps), QObject::tr("lap"), QObject::tr("laps")));
    out.heads = {QObject::tr("Corner"),           QObject::tr("wheel"),    QObject::tr("kerb on laps"),
                 QObject::tr("damper mm/s"),      QObject::tr("lock-ups"), QObject::tr("together"),
                 QObject::tr("front brake share")};
    for (const CornerStrikes& corner : strikes.corners) {
        for (std::size_t w = 0; w < wheel_corners.size(); ++w) {
            if (corner.kerb_laps[w] == 0 && corner.lock_ups[w] == 0) continue;
            using Mark = ChassisTable::Cell::Mark;
            const bool locks = corner.lock_ups[w] > 0;
            out.rows.push_back(
                {{words(corner.name)},
                 {wheel_title(wheel_corners[w])},
                 {corner.kerb_laps[w] > 0 ? QString::number(corner.kerb_laps[w]) : QString()},
                 {corner.kerb_laps[w] > 0 ? plain_number(1000 * corner.kerb_mps[w], 0) : QString()},
                 {locks ? QString::number(corner.lock_ups[w]) : QString(), locks ? Mark::lost : Mark::none},
                 {locks ? plain_number(corner.locked_s[w], 2) + QStringLiteral(" s") : QString()},
                 {std::isfinite(corner.brake_share) ? plain_number(100 * corner.brake_share, 1) + QStringLiteral(" %")
                                                    : QStringLiteral("–")}});
            std::optional<double> at;
            for (const Corner& it : track.corners)
                if (it.number == corner.corner) at = it.start_m;
            out.at_m.push_back(at);
            out.tips.emplace_back();
        }
    }
    return out;
}

std::size_t locked(const Strikes& strikes) {
    std::size_t out = 0;
    for (const CornerStrikes& corner : strikes.corners)
        for (const std::size_t wheel : corner.lock_ups) out += wheel;
    return out;
}

}  // namespace

Result<void> strikes_page(const ChassisWork& work, ChassisLook& out) {
    const Strikes a = strikes_of(work.laps_a);
    const auto told = [](const Strikes& it) {
        QString text = it.wheel_speeds ? counted(static_cast<qsizetype>(locked(it)), QObject::tr("lock-up"),
                                                 QObject::tr("lock-ups"))
                                       : QObject::tr("lock-ups cannot be told without wheel speeds");
        if (!it.dampers) text += QObject::tr(", kerbs cannot be told without damper travel");
        return text;
    };
    out.headline = work.name_a() + QStringLiteral(": ") + told(a);
    const Track& track = *work.laps_a.front().track;
    out.tables.push_back(strikes_table(a, work.name_a(), track));
    QStringList foot;
    if (std::isfinite(a.brake_share))
        foot << QObject::tr("%1 brakes with %2 % of the pressure in front")
                    .arg(work.letter_a(), plain_number(100 * a.brake_share, 1));
    if (work.b()) {
        const Strikes b = strikes_of(work.laps_b());
        out.headline += QStringLiteral("; ") + work.name_b() + QStringLiteral(": ") + told(b);
        out.tables.push_back(strikes_table(b, work.name_b(), track));
        if (std::isfinite(b.brake_share))
            foot << QObject::tr("%1 with %2 %").arg(work.letter_b(), plain_number(100 * b.brake_share, 1));
    }
    out.headline += u'.';
    foot << QObject::tr("a wheel is on a kerb where its damper moves at 2.5 times the lap's middle");
    out.foot = foot.join(QStringLiteral(", "));
    return {};
}

}  // namespace rendak::app
