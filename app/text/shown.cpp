#include "app/text/shown.h"

#include <QRegularExpression>
#include <cmath>

#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/recording/recording.h"
#include "core/signal/quantity.h"
#include "core/units/compound_unit.h"

namespace rendak::app {
namespace {

bool imperial = false;
const QString minus = QStringLiteral("−");
const QString nothing = QStringLiteral("–");

QString latin(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
}

QString plain_number(double value, int decimals) {
    QString text = QString::number(value, 'f', decimals);
    if (text.startsWith(u'-'))
        text = text.mid(1).contains(QRegularExpression(QStringLiteral("[1-9]"))) ? minus + text.mid(1) : text.mid(1);
    return text;
}

std::map<std::string, Shown, std::less<>> formulas, channels;
std::map<std::string, Interval, std::less<>> scales;
std::map<std::string, QColor, std::less<>> colours;

std::map<QString, QString> chosen_units;

/// The same in another unit of its dimension; as it is where that cannot be.
Shown in_unit(const Shown& metric, const QString& unit_text) {
    const auto unit = parse_compound_unit(unit_text.toStdString());
    if (!unit) return metric;
    Shown out = metric;
    out.unit = unit_text;
    out.factor = unit->factor;
    out.offset = unit->offset;
    // As many digits as before, give or take.
    const double coarser = std::log10(out.factor / metric.factor);
    out.decimals = std::clamp(metric.decimals + static_cast<int>(std::lround(coarser)), 0, 6);
    const auto moved = [&](double value) { return out.from_si(value * metric.factor + metric.offset); };
    if (metric.range) out.range = Interval{moved(metric.range->begin), moved(metric.range->end)};
    return out;
}

/// The same in the other units, where there is a usual one.
Shown in_imperial(const Shown& metric) {
    static const std::map<QString, QString> other{
        {QStringLiteral("km/h"), QStringLiteral("mph")}, {QStringLiteral("m"), QStringLiteral("ft")},
        {QStringLiteral("mm"), QStringLiteral("in")},    {QStringLiteral("mm/s"), QStringLiteral("in/s")},
        {QStringLiteral("bar"), QStringLiteral("psi")},  {QStringLiteral("°C"), QStringLiteral("°F")},
        {QStringLiteral("N"), QStringLiteral("lbf")},    {QStringLiteral("kW"), QStringLiteral("hp")},
        {QStringLiteral("kg"), QStringLiteral("lb")}};
    const auto found = other.find(metric.unit);
    if (found == other.end()) return metric;
    Shown out = in_unit(metric, found->second);
    out.decimals = metric.decimals + (metric.factor < 0.01 ? 1 : 0);  // millimetres become inches
    return out;
}

/// As the person wants it: what was chosen for its kind, else what the preset says.
Shown as_wanted(const Shown& metric) {
    const auto own = chosen_units.find(metric.unit);
    if (own != chosen_units.end()) return in_unit(metric, own->second);
    return imperial ? in_imperial(metric) : metric;
}

}  // namespace

Shown shown_by_itself(const Channel& channel) {
    Shown out;
    out.label = latin(channel.name);
    out.unit = latin(channel.unit);
    out.decimals = channel.steps() ? 0 : 2;
    const auto stored = parse_unit(channel.unit), logged = parse_unit(channel.source_unit);
    if (!stored || !logged || channel.source_unit.empty() || !(stored->dimension == logged->dimension)) return out;
    out.unit = latin(channel.source_unit);
    out.factor = logged->factor / stored->factor;
    out.offset = (logged->offset - stored->offset) / stored->factor;
    return out;
}

void add_channels_shown(const std::map<std::string, Shown, std::less<>>& shown_channels) {
    for (const auto& [id, how] : shown_channels) channels[id] = how;
}

void set_formulas_shown(std::map<std::string, Shown, std::less<>> shown_formulas) {
    formulas = std::move(shown_formulas);
}

std::optional<QColor> channel_colour(std::string_view quantity) {
    const auto found = colours.find(quantity);
    return found == colours.end() ? std::nullopt : std::optional(found->second);
}

void set_channel_colour(const std::string& quantity, const std::optional<QColor>& colour) {
    if (colour && colour->isValid())
        colours[quantity] = *colour;
    else
        colours.erase(quantity);
}

const std::map<std::string, QColor, std::less<>>& channel_colours() {
    return colours;
}

std::optional<Interval> fixed_scale(std::string_view quantity) {
    const auto found = scales.find(quantity);
    return found == scales.end() ? std::nullopt : std::optional(found->second);
}

void set_fixed_scale(const std::string& quantity, std::optional<Interval> si) {
    if (si && si->length() > 0)
        scales[quantity] = *si;
    else
        scales.erase(quantity);
}

const std::map<std::string, Interval, std::less<>>& fixed_scales() {
    return scales;
}

const std::vector<UnitKind>& unit_kinds() {
    static const std::vector<UnitKind> kinds = [] {
        std::vector<UnitKind> out;
        for (const auto& [metric, name, choices] : {std::tuple{"km/h", "Speed", "km/h mph m/s"},
                                                    {"m", "Distance", "m ft"},
                                                    {"mm", "Travel and ride height", "mm in"},
                                                    {"mm/s", "Damper speed", "mm/s in/s m/s"},
                                                    {"bar", "Pressure", "bar psi kPa"},
                                                    {"°C", "Temperature", "°C °F K"},
                                                    {"g", "Acceleration", "g m/s²"},
                                                    {"N", "Force", "N kN lbf"},
                                                    {"kW", "Power", "kW hp"},
                                                    {"kg", "Mass", "kg lb"}})
            out.push_back({QString::fromUtf8(metric), QString::fromUtf8(name), QString::fromUtf8(choices).split(u' ')});
        return out;
    }();
    return kinds;
}

const std::map<QString, QString>& own_units() {
    return chosen_units;
}

void set_own_unit(const QString& metric, const QString& unit) {
    for (const UnitKind& kind : unit_kinds()) {
        if (kind.metric != metric) continue;
        if (unit.isEmpty())
            chosen_units.erase(metric);
        else if (kind.choices.contains(unit))
            chosen_units[metric] = unit;
    }
}

bool imperial_units() {
    return imperial;
}
void set_imperial_units(bool on) {
    imperial = on;
}

QString Shown::text(double si) const {
    return std::isfinite(si) ? plain_number(from_si(si), decimals) : nothing;
}

QString Shown::difference_text(double si) const {
    return std::isfinite(si) ? signed_number(difference_from_si(si), decimals) : nothing;
}

Shown shown(std::string_view quantity) {
    if (quantity == "gap")
        return {QStringLiteral("Gap to A"), QStringLiteral("s"), QStringLiteral("slower than A"), 1, 0, 3};
    if (quantity == "line_offset") {
        const Shown metric{QStringLiteral("Line beside A"), QStringLiteral("m"), QStringLiteral("left of A"), 1, 0, 2};
        return as_wanted(metric);
    }
    const Quantity* known = find_quantity(quantity);
    if (known == nullptr) {
        if (quantity.starts_with(by_name_prefix)) {
            const auto channel = channels.find(quantity);
            if (channel != channels.end()) return channel->second;
            return {latin(quantity.substr(by_name_prefix.size())), {}, {}, 1, 0, 2, {}};
        }
        const auto formula = formulas.find(quantity);
        if (formula == formulas.end()) return {latin(quantity), {}, {}, 1, 0, 2, {}};
        return as_wanted(formula->second);
    }
    Shown out;
    out.label = latin(known->label);
    out.up = latin(known->positive_word);
    out.decimals = known->decimals;
    const auto own = chosen_units.find(latin(known->shown_unit));
    const bool chosen = own != chosen_units.end();
    const auto unit_text = imperial && !chosen ? known->shown_unit_imperial : known->shown_unit;
    out.unit = unit_text == "deg" ? QStringLiteral("°") : latin(unit_text);
    const auto unit = parse_unit(unit_text);
    if (unit && unit_text != "deg") {
        out.factor = unit->factor;
        out.offset = unit->offset;
    }
    if (imperial && unit_text == "in") out.decimals += 1;
    return chosen ? in_unit(out, own->second) : out;
}

Shown distance_shown(int decimals) {
    Shown out = as_wanted({QStringLiteral("Distance"), QStringLiteral("m"), {}, 1, 0, decimals});
    out.decimals = decimals;  // a foot is a finer step already
    return out;
}

QString distance_text(double m, int decimals) {
    const Shown how = distance_shown(decimals);
    return with_unit(how.text(m), how.unit);
}

QString stretch_text(Interval range_m) {
    const Shown how = distance_shown();
    return with_unit(how.text(range_m.begin) + QStringLiteral("–") + how.text(range_m.end), how.unit);
}

QString lap_time(double seconds) {
    return QString::fromStdString(lap_time_text(seconds)).replace(u'-', minus);
}

QString signed_number(double value, int decimals) {
    if (!std::isfinite(value)) return nothing;
    const QString text = plain_number(value, decimals);
    return text.startsWith(minus) ? text : u'+' + text;
}

QString with_unit(const QString& number, const QString& unit) {
    return unit.isEmpty() ? number : number + QChar(0x2009) + unit;
}

QString counted(qsizetype count, const QString& one, const QString& many) {
    return QString::number(count) + u' ' + (count == 1 ? one : many);
}

QString date_time(double unix_s, const std::string& zone) {
    return QString::fromStdString(local_text(unix_s, zone, "%Y-%m-%d %H:%M"));
}

QString date_time_with_zone(double unix_s, const std::string& zone) {
    return date_time(unix_s, zone) + u' ' + QString::fromStdString(zone_text(zone, unix_s));
}

}  // namespace rendak::app
