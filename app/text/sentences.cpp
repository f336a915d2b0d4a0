#include "app/text/sentences.h"

#include <QStringList>
#include <algorithm>
#include <cmath>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

QString seconds(double s, int decimals = 3) {
    return with_unit(QString::number(std::abs(s), 'f', decimals), QStringLiteral("s"));
}

QString metres(double m) {
    return distance_text(std::abs(m));
}

QString speed(double mps) {
    const Shown how = shown("speed");
    return with_unit(QString::number(std::abs(how.difference_from_si(mps)), 'f', 1), how.unit);
}

/// "5", "5 and 6", "5, 6 and 4"
QString joined(const QStringList& parts) {
    if (parts.size() < 2) return parts.join(QString());
    return parts.mid(0, parts.size() - 1).join(QStringLiteral(", ")) + QObject::tr(" and ") + parts.last();
}

}  // namespace

QString zone_name(const ZoneDifference& difference) {
    return QObject::tr("Turn %1").arg(difference.zone.corner.number);
}

QString evidence(const ZoneDifference& d) {
    QStringList parts;
    if (d.throttle_lift && *d.throttle_lift > 0.1) parts << QObject::tr("lifts where A stays flat");
    if (d.brakes_only_here) parts << QObject::tr("brakes where A does not");
    if (d.brake_on_m && std::abs(*d.brake_on_m) >= 4) {
        parts << (*d.brake_on_m < 0 ? QObject::tr("brakes %1 earlier") : QObject::tr("brakes %1 later"))
                     .arg(metres(*d.brake_on_m));
    }
    if (d.slowest_mps && std::abs(*d.slowest_mps) >= 0.3) {
        parts << (*d.slowest_mps < 0 ? QObject::tr("%1 slower at the slowest point")
                                     : QObject::tr("%1 faster at the slowest point"))
                     .arg(speed(*d.slowest_mps));
    }
    if (d.off_pedals_s && std::abs(*d.off_pedals_s) >= 0.15) {
        parts << (*d.off_pedals_s > 0 ? QObject::tr("is on neither pedal %1 longer")
                                      : QObject::tr("is on neither pedal %1 less"))
                     .arg(seconds(*d.off_pedals_s, 2));
    }
    if (d.throttle_on_m && std::abs(*d.throttle_on_m) >= 5) {
        parts << (*d.throttle_on_m > 0 ? QObject::tr("on the throttle %1 later")
                                       : QObject::tr("on the throttle %1 earlier"))
                     .arg(metres(*d.throttle_on_m));
    }
    if (d.exit_mps && std::abs(*d.exit_mps) >= 0.5) {
        parts << (*d.exit_mps < 0 ? QObject::tr("%1 slower on the road after it")
                                  : QObject::tr("%1 faster on the road after it"))
                     .arg(speed(*d.exit_mps));
    }
    QString text = parts.mid(0, 2).join(QStringLiteral(", "));
    return text;
}

std::vector<const ZoneDifference*> largest_zones(const ComparedLap& lap, std::size_t most) {
    std::vector<const ZoneDifference*> zones;
    const double sign = lap.gap.gap_s.empty() || lap.gap.gap_s.back() >= 0 ? 1 : -1;
    for (const ZoneDifference& difference : lap.differences) {
        if (difference.loss_s * sign >= 0.01) zones.push_back(&difference);
    }
    std::sort(zones.begin(), zones.end(), [&](auto* a, auto* b) { return a->loss_s * sign > b->loss_s * sign; });
    if (zones.size() > most) zones.resize(most);
    return zones;
}

QString run_title(const RunRow& run, const std::vector<std::shared_ptr<const RunData>>& among) {
    const QString name = QString::fromStdString(run.name);
    std::vector<const RunRow*> same;
    for (const auto& it : among) {
        if (it->row.id != run.id && it->row.name == run.name) same.push_back(&it->row);
    }
    if (same.empty()) return name;
    const auto day = [](const RunRow& row) {
        return row.start_unix_s ? date_time(*row.start_unix_s, row.zone).left(10) : QString();
    };
    const QString parts[] = {QString::fromStdString(run.driver), QString::fromStdString(run.session),
                             QString::fromStdString(run.event), day(run)};
    const auto parts_of = [&](const RunRow& row, std::size_t k) {
        return k == 0   ? QString::fromStdString(row.driver)
               : k == 1 ? QString::fromStdString(row.session)
               : k == 2 ? QString::fromStdString(row.event)
                        : day(row);
    };
    for (std::size_t k = 0; k < std::size(parts); ++k) {
        const bool tells = !parts[k].isEmpty() && std::none_of(same.begin(), same.end(), [&](const RunRow* other) {
            return parts_of(*other, k) == parts[k];
        });
        if (tells) return QObject::tr("%1 (%2)").arg(name, parts[k]);
    }
    return QObject::tr("%1 (run %2)").arg(name).arg(run.id.value);
}

QString place_name(const Track& track, double at_m) {
    for (const Section& it : sections_of(track)) {
        if (it.range_m.contains(at_m)) return QString::fromStdString(it.name);
    }
    return distance_text(at_m);
}

std::vector<std::shared_ptr<const RunData>> runs_of(const ComparedLaps& laps) {
    std::vector<std::shared_ptr<const RunData>> out;
    for (const ComparedLap& it : laps.laps) {
        const bool known =
            std::any_of(out.begin(), out.end(), [&](const auto& run) { return run->row.id == it.run->row.id; });
        if (!known) out.push_back(it.run);
    }
    return out;
}

QString lap_name(const ComparedLap& lap) {
    return lap_name(lap, ComparedLaps{});
}

QString lap_name(const ComparedLap& lap, const ComparedLaps& among) {
    const QString driver = QString::fromStdString(lap.run->row.driver);
    const QString name = run_title(lap.run->row, runs_of(among));
    const QString run = lap.lap.ref.lap == whole_run ? name : QObject::tr("%1 lap %2").arg(name).arg(lap.lap.ref.lap);
    return driver.isEmpty() ? run : driver + QStringLiteral(", ") + run;
}

QString headline(const ComparedLaps& laps, int slot) {
    if (laps.laps.size() < 2 || slot < 1 || slot >= static_cast<int>(laps.laps.size())) return {};
    const ComparedLap& lap = laps.laps[static_cast<std::size_t>(slot)];
    const double gap = lap.gap.gap_s.back();
    QString text = (gap >= 0 ? QObject::tr("%1 (%2) loses %3 to A.") : QObject::tr("%1 (%2) is quicker than A by %3."))
                       .arg(slot_letter(slot), lap_name(lap, laps), seconds(gap));
    const auto zones = largest_zones(lap, 3);
    if (zones.empty()) return text;
    QStringList places;
    double held = 0;
    bool named = false;
    for (const ZoneDifference* zone : zones) named = named || !zone->zone.corner.name.empty();
    for (const ZoneDifference* zone : zones) {
        const Corner& corner = zone->zone.corner;
        places << (named ? QString::fromStdString(corner.title()) : QString::number(corner.number));
        held += zone->loss_s;
    }
    const bool one = places.size() == 1;
    const QString where =
        named ? joined(places) : (one ? QObject::tr("Turn %1") : QObject::tr("Turns %1")).arg(joined(places));
    // Losses can add up to more than the gap when something is gained elsewhere: then the two are said apart.
    if (std::abs(held) > std::abs(gap) + 0.0005 || (held > 0) != (gap > 0)) {
        const QString what = held > 0 ? (one ? QObject::tr("%1 loses %2") : QObject::tr("%1 lose %2"))
                                      : (one ? QObject::tr("%1 gains %2") : QObject::tr("%1 gain %2"));
        const QString rest =
            gap - held < 0 ? QObject::tr("%1 is gained elsewhere.") : QObject::tr("%1 is lost elsewhere.");
        return text + u' ' + what.arg(where, seconds(held)) + QObject::tr("; ") + rest.arg(seconds(gap - held));
    }
    return text + u' ' +
           (one ? QObject::tr("%1 holds %2 of it.") : QObject::tr("%1 hold %2 of it.")).arg(where, seconds(held));
}

}  // namespace rendak::app
