#pragma once

#include <QColor>
#include <QString>
#include <QStringList>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/interval.h"
#include "core/signal/channel.h"

namespace rendak::app {

/// How a quantity is shown to people, in the units they chose.
struct Shown {
    QString label;
    QString unit;
    QString up;  ///< what upwards means, in words; empty where it is plain
    double factor = 1, offset = 0;
    int decimals = 2;
    std::optional<Interval> range = {};  ///< to show, in `unit`; none: what the samples need

    [[nodiscard]] double from_si(double value) const { return (value - offset) / factor; }
    [[nodiscard]] double difference_from_si(double value) const { return value / factor; }
    [[nodiscard]] QString text(double si) const;
    /// With sign, a real minus.
    [[nodiscard]] QString difference_text(double si) const;
};

/// "gap" and formulas are known besides the quantities of core.
[[nodiscard]] Shown shown(std::string_view quantity);

/// How results of formulas are shown (metric), by name. One table for the program, as the units are.
void set_formulas_shown(std::map<std::string, Shown, std::less<>> formulas);

/// How channels are shown that no quantity stands for, by their ids ("channel:Lambda"); adds to what is known.
void add_channels_shown(const std::map<std::string, Shown, std::less<>>& channels);

/// A channel by its own name, in the unit that its logger gave it where that can be read.
[[nodiscard]] Shown shown_by_itself(const Channel& channel);

/// The height of lanes that are set to a fixed scale, by quantity, in SI units: one table for the program, so that the
/// eye learns what is normal. The person keeps it (Preferences).
[[nodiscard]] std::optional<Interval> fixed_scale(std::string_view quantity);
void set_fixed_scale(const std::string& quantity, std::optional<Interval> si);
[[nodiscard]] const std::map<std::string, Interval, std::less<>>& fixed_scales();

/// The colour that a person chose for a channel, for a lap alone that is coloured by channel; kept with the person.
[[nodiscard]] std::optional<QColor> channel_colour(std::string_view quantity);
void set_channel_colour(const std::string& quantity, const std::optional<QColor>& colour);
[[nodiscard]] const std::map<std::string, QColor, std::less<>>& channel_colours();

/// A place on a track, or a length of road, in the unit chosen for distances; `decimals` are those of metres.
[[nodiscard]] Shown distance_shown(int decimals = 0);
/// "1204 m", "3950 ft".
[[nodiscard]] QString distance_text(double m, int decimals = 0);
/// "120–260 m".
[[nodiscard]] QString stretch_text(Interval range_m);

/// Kinds of quantities that people choose a unit for, each by the unit it is shown in as it comes.
struct UnitKind {
    QString metric;  ///< "km/h"
    QString name;    ///< "Speed"
    QStringList choices;
};
[[nodiscard]] const std::vector<UnitKind>& unit_kinds();
/// What was chosen instead, by the metric unit; goes before the preset. Kept with the person.
[[nodiscard]] const std::map<QString, QString>& own_units();
/// An empty unit: as it comes. One that is none of the choices changes nothing.
void set_own_unit(const QString& metric, const QString& unit);

/// One switch for all units.
[[nodiscard]] bool imperial_units();
void set_imperial_units(bool imperial);

/// "1:24.318"
[[nodiscard]] QString lap_time(double seconds);
/// "+0.412", "−0.034"
[[nodiscard]] QString signed_number(double value, int decimals);
/// Number and unit with a thin space: "14 m".
[[nodiscard]] QString with_unit(const QString& number, const QString& unit);
/// "1 recording", "3 recordings".
[[nodiscard]] QString counted(qsizetype count, const QString& one, const QString& many);
/// "2026-06-13 08:30" by the clocks of a zone ("+02:00"; empty: UTC).
[[nodiscard]] QString date_time(double unix_s, const std::string& zone = {});
/// The same with the zone behind it: "2026-06-13 10:30 +02:00", "2026-06-13 08:30 UTC".
[[nodiscard]] QString date_time_with_zone(double unix_s, const std::string& zone);

}  // namespace rendak::app
