#include "core/units/unit.h"

#include <charconv>
#include <numbers>
#include <optional>

#include "core/base/text.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr Dimension none{};
constexpr Dimension length{1, 0, 0, 0, 0, 0};
constexpr Dimension time_{0, 0, 1, 0, 0, 0};
constexpr Dimension speed{1, 0, -1, 0, 0, 0};
constexpr Dimension acceleration{1, 0, -2, 0, 0, 0};
constexpr Dimension angle{0, 0, 0, 0, 0, 1};
constexpr Dimension angular_rate{0, 0, -1, 0, 0, 1};
constexpr Dimension frequency{0, 0, -1, 0, 0, 0};
constexpr Dimension temperature{0, 0, 0, 1, 0, 0};
constexpr Dimension pressure{-1, 1, -2, 0, 0, 0};
constexpr Dimension force{1, 1, -2, 0, 0, 0};
constexpr Dimension torque{2, 1, -2, 0, 0, 0};
constexpr Dimension power{2, 1, -3, 0, 0, 0};
constexpr Dimension mass{0, 1, 0, 0, 0, 0};
constexpr Dimension volume{3, 0, 0, 0, 0, 0};
constexpr Dimension voltage{2, 1, -3, 0, -1, 0};
constexpr Dimension current{0, 0, 0, 0, 1, 0};
constexpr Dimension curvature{-1, 0, 0, 0, 0, 1};
constexpr double pi = std::numbers::pi;

struct Row {
    std::string_view spelling;
    std::string_view symbol;
    Dimension dimension;
    double factor;
    double offset = 0;
};

// Spellings are compared in lower case with blanks taken out; case matters for none of them.
constexpr Row rows[] = {
    {"", "", none, 1},
    {"-", "", none, 1},
    {"1", "", none, 1},
    {"none", "", none, 1},
    {"ratio", "", none, 1},
    {"%", "%", none, 0.01},
    {"percent", "%", none, 0.01},
    {"pct", "%", none, 0.01},
    {"m", "m", length, 1},
    {"meter", "m", length, 1},
    {"metre", "m", length, 1},
    {"metres", "m", length, 1},
    {"meters", "m", length, 1},
    {"mm", "mm", length, 1e-3},
    {"cm", "cm", length, 1e-2},
    {"km", "km", length, 1e3},
    {"in", "in", length, 0.0254},
    {"inch", "in", length, 0.0254},
    {"ft", "ft", length, 0.3048},
    {"feet", "ft", length, 0.3048},
    {"mi", "mi", length, 1609.344},
    {"mile", "mi", length, 1609.344},
    {"miles", "mi", length, 1609.344},
    {"inches", "in", length, 0.0254},
    {"yd", "yd", length, 0.9144},
    {"um", "µm", length, 1e-6},
    {"µm", "µm", length, 1e-6},
    {"s", "s", time_, 1},
    {"sec", "s", time_, 1},
    {"secs", "s", time_, 1},
    {"second", "s", time_, 1},
    {"seconds", "s", time_, 1},
    {"ms", "ms", time_, 1e-3},
    {"us", "µs", time_, 1e-6},
    {"µs", "µs", time_, 1e-6},
    {"min", "min", time_, 60},
    {"h", "h", time_, 3600},
    {"minute", "min", time_, 60},
    {"minutes", "min", time_, 60},
    {"mins", "min", time_, 60},
    {"hr", "h", time_, 3600},
    {"hrs", "h", time_, 3600},
    {"hour", "h", time_, 3600},
    {"hours", "h", time_, 3600},
    {"std", "h", time_, 3600},
    {"d", "d", time_, 86400},
    {"day", "d", time_, 86400},
    {"days", "d", time_, 86400},
    {"sek", "s", time_, 1},
    {"sekunden", "s", time_, 1},
    {"seg", "s", time_, 1},
    {"segundos", "s", time_, 1},
    {"secondes", "s", time_, 1},
    {"secondi", "s", time_, 1},
    {"ds", "ds", time_, 1e-1},
    {"tenths", "ds", time_, 1e-1},
    {"cs", "cs", time_, 1e-2},
    {"csec", "cs", time_, 1e-2},
    {"hundredths", "cs", time_, 1e-2},
    {"centiseconds", "cs", time_, 1e-2},
    {"msec", "ms", time_, 1e-3},
    {"msecs", "ms", time_, 1e-3},
    {"milli", "ms", time_, 1e-3},
    {"millis", "ms", time_, 1e-3},
    {"millisecond", "ms", time_, 1e-3},
    {"milliseconds", "ms", time_, 1e-3},
    {"thousandths", "ms", time_, 1e-3},
    {"usec", "µs", time_, 1e-6},
    {"usecs", "µs", time_, 1e-6},
    {"µsec", "µs", time_, 1e-6},
    {"micros", "µs", time_, 1e-6},
    {"microsec", "µs", time_, 1e-6},
    {"microsecond", "µs", time_, 1e-6},
    {"microseconds", "µs", time_, 1e-6},
    {"ns", "ns", time_, 1e-9},
    {"nsec", "ns", time_, 1e-9},
    {"nanos", "ns", time_, 1e-9},
    {"nanosecond", "ns", time_, 1e-9},
    {"nanoseconds", "ns", time_, 1e-9},
    {"m/s", "m/s", speed, 1},
    {"mps", "m/s", speed, 1},
    {"m.s-1", "m/s", speed, 1},
    {"km/h", "km/h", speed, 1 / 3.6},
    {"kmh", "km/h", speed, 1 / 3.6},
    {"kph", "km/h", speed, 1 / 3.6},
    {"mph", "mph", speed, 0.44704},
    {"mi/h", "mph", speed, 0.44704},
    {"kn", "kn", speed, 1852.0 / 3600},
    {"knots", "kn", speed, 1852.0 / 3600},
    {"kt", "kn", speed, 1852.0 / 3600},
    {"mm/s", "mm/s", speed, 1e-3},
    {"ft/s", "ft/s", speed, 0.3048},
    {"fps", "ft/s", speed, 0.3048},
    {"ft/sec", "ft/s", speed, 0.3048},
    {"km/hr", "km/h", speed, 1 / 3.6},
    {"kmph", "km/h", speed, 1 / 3.6},
    {"kilometers per hour", "km/h", speed, 1 / 3.6},
    {"kilometres per hour", "km/h", speed, 1 / 3.6},
    {"miles per hour", "mph", speed, 0.44704},
    {"m.p.h.", "mph", speed, 0.44704},
    {"meters per second", "m/s", speed, 1},
    {"metres per second", "m/s", speed, 1},
    {"kmt", "km/h", speed, 1 / 3.6},
    {"km/u", "km/h", speed, 1 / 3.6},
    {"km/std", "km/h", speed, 1 / 3.6},
    {"km/t", "km/h", speed, 1 / 3.6},
    {"km·h-1", "km/h", speed, 1 / 3.6},
    {"km.h-1", "km/h", speed, 1 / 3.6},
    {"m/sec", "m/s", speed, 1},
    {"ms-1", "m/s", speed, 1},
    {"m·s-1", "m/s", speed, 1},
    {"miles/h", "mph", speed, 0.44704},
    {"miles/hr", "mph", speed, 0.44704},
    {"mi/hr", "mph", speed, 0.44704},
    {"knot", "kn", speed, 1852.0 / 3600},
    {"kts", "kn", speed, 1852.0 / 3600},
    {"cm/s", "cm/s", speed, 1e-2},
    {"m/s2", "m/s²", acceleration, 1},
    {"m/s^2", "m/s²", acceleration, 1},
    {"m/s²", "m/s²", acceleration, 1},
    {"m/s/s", "m/s²", acceleration, 1},
    {"m/s**2", "m/s²", acceleration, 1},
    {"m/sec2", "m/s²", acceleration, 1},
    {"m/sec^2", "m/s²", acceleration, 1},
    {"m/sý", "m/s²", acceleration, 1},  // ² of code page 437
    {"ms-2", "m/s²", acceleration, 1},
    {"m.s-2", "m/s²", acceleration, 1},
    {"m·s-2", "m/s²", acceleration, 1},
    {"ft/s2", "ft/s²", acceleration, 0.3048},
    {"ft/s^2", "ft/s²", acceleration, 0.3048},
    {"ft/s²", "ft/s²", acceleration, 0.3048},
    {"g", "g", acceleration, standard_gravity_mps2},
    {"gs", "g", acceleration, standard_gravity_mps2},
    {"g's", "g", acceleration, standard_gravity_mps2},
    {"gforce", "g", acceleration, standard_gravity_mps2},
    {"g-force", "g", acceleration, standard_gravity_mps2},
    {"mg", "mg", acceleration, standard_gravity_mps2 / 1000},
    {"cm/s2", "cm/s²", acceleration, 0.01},
    {"cm/s^2", "cm/s²", acceleration, 0.01},
    {"cm/s²", "cm/s²", acceleration, 0.01},
    {"rad", "rad", angle, 1},
    {"deg", "°", angle, pi / 180},
    {"degree", "°", angle, pi / 180},
    {"degrees", "°", angle, pi / 180},
    {"degrees_north", "°", angle, pi / 180},
    {"degrees_east", "°", angle, pi / 180},
    {"°", "°", angle, pi / 180},
    {"º", "°", angle, pi / 180},
    {"ø", "°", angle, pi / 180},  // ° of code pages 437 and 850
    {"grad", "°", angle, pi / 180},
    {"gon", "gon", angle, pi / 200},
    {"gons", "gon", angle, pi / 200},
    {"radian", "rad", angle, 1},
    {"radians", "rad", angle, 1},
    {"mrad", "mrad", angle, 1e-3},
    {"rad/s", "rad/s", angular_rate, 1},
    {"deg/s", "°/s", angular_rate, pi / 180},
    {"°/s", "°/s", angular_rate, pi / 180},
    {"dps", "°/s", angular_rate, pi / 180},
    {"rpm", "rpm", angular_rate, pi / 30},
    {"1/min", "rpm", angular_rate, pi / 30},
    {"rev/min", "rpm", angular_rate, pi / 30},
    {"u/min", "rpm", angular_rate, pi / 30},
    {"min-1", "rpm", angular_rate, pi / 30},
    {"min^-1", "rpm", angular_rate, pi / 30},
    {"/min", "rpm", angular_rate, pi / 30},
    {"r/min", "rpm", angular_rate, pi / 30},
    {"revs/min", "rpm", angular_rate, pi / 30},
    {"tr/min", "rpm", angular_rate, pi / 30},
    {"t/min", "rpm", angular_rate, pi / 30},
    {"giri/min", "rpm", angular_rate, pi / 30},
    {"omw/min", "rpm", angular_rate, pi / 30},
    {"umin-1", "rpm", angular_rate, pi / 30},
    {"krpm", "krpm", angular_rate, 1000 * pi / 30},
    {"rev/s", "rev/s", angular_rate, 2 * pi},
    {"revs/s", "rev/s", angular_rate, 2 * pi},
    {"rps", "rev/s", angular_rate, 2 * pi},
    {"deg/sec", "°/s", angular_rate, pi / 180},
    {"degrees/s", "°/s", angular_rate, pi / 180},
    {"°/sec", "°/s", angular_rate, pi / 180},
    {"ø/s", "°/s", angular_rate, pi / 180},
    {"rad/sec", "rad/s", angular_rate, 1},
    {"s-1", "Hz", frequency, 1},
    {"s^-1", "Hz", frequency, 1},
    {"/s", "Hz", frequency, 1},
    {"khz", "kHz", frequency, 1e3},
    {"hz", "Hz", frequency, 1},
    {"1/s", "Hz", frequency, 1},
    {"k", "K", temperature, 1},
    {"°c", "°C", temperature, 1, 273.15},
    {"c", "°C", temperature, 1, 273.15},
    {"degc", "°C", temperature, 1, 273.15},
    {"celsius", "°C", temperature, 1, 273.15},
    {"°f", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"f", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"øc", "°C", temperature, 1, 273.15},
    {"ºc", "°C", temperature, 1, 273.15},
    {"øf", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"ºf", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"fahrenheit", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"kelvin", "K", temperature, 1},
    {"degf", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"pa", "Pa", pressure, 1},
    {"kpa", "kPa", pressure, 1e3},
    {"mpa", "MPa", pressure, 1e6},
    {"bar", "bar", pressure, 1e5},
    {"mbar", "mbar", pressure, 1e2},
    {"psi", "psi", pressure, 6894.757293168361},
    {"psig", "psi", pressure, 6894.757293168361},
    {"psia", "psi", pressure, 6894.757293168361},
    {"barg", "bar", pressure, 1e5},
    {"bara", "bar", pressure, 1e5},
    {"hpa", "hPa", pressure, 1e2},
    {"n/mm2", "MPa", pressure, 1e6},
    {"n/mm²", "MPa", pressure, 1e6},
    {"kgf/cm2", "kgf/cm²", pressure, 98066.5},
    {"kgf/cm²", "kgf/cm²", pressure, 98066.5},
    {"kg/cm2", "kgf/cm²", pressure, 98066.5},
    {"kg/cm²", "kgf/cm²", pressure, 98066.5},
    {"inhg", "inHg", pressure, 3386.389},
    {"mmhg", "mmHg", pressure, 133.322},
    {"n", "N", force, 1},
    {"kn(force)", "kN", force, 1e3},
    {"lbf", "lbf", force, 4.4482216152605},
    {"nm", "N·m", torque, 1},
    {"n.m", "N·m", torque, 1},
    {"n·m", "N·m", torque, 1},
    {"w", "W", power, 1},
    {"kw", "kW", power, 1e3},
    {"hp", "hp", power, 745.6998715822702},
    {"kg", "kg", mass, 1},
    {"lb", "lb", mass, 0.45359237},
    {"lbs", "lb", mass, 0.45359237},
    {"m³", "m³", volume, 1},
    {"m3", "m³", volume, 1},
    {"m^3", "m³", volume, 1},
    {"l", "l", volume, 1e-3},
    {"litre", "l", volume, 1e-3},
    {"liter", "l", volume, 1e-3},
    {"litres", "l", volume, 1e-3},
    {"liters", "l", volume, 1e-3},
    {"ltr", "l", volume, 1e-3},
    {"ml", "ml", volume, 1e-6},
    {"cc", "ml", volume, 1e-6},
    {"cl", "cl", volume, 1e-5},
    {"dl", "dl", volume, 1e-4},
    {"gal", "US gal", volume, 3.785411784e-3},
    {"gallons", "US gal", volume, 3.785411784e-3},
    {"usgal", "US gal", volume, 3.785411784e-3},
    {"gal_us", "US gal", volume, 3.785411784e-3},
    {"ukgal", "UK gal", volume, 4.54609e-3},
    {"impgal", "UK gal", volume, 4.54609e-3},
    {"v", "V", voltage, 1},
    {"mv", "mV", voltage, 1e-3},
    {"volt", "V", voltage, 1},
    {"volts", "V", voltage, 1},
    {"a", "A", current, 1},
    {"ma", "mA", current, 1e-3},
    {"1/m", "1/m", curvature, 1},
};

/// Small letters without blanks and brackets, and one spelling for signs that have several.
std::string key_of(std::string_view text) {
    std::string key;
    for (const char c : lower(utf8_of(trimmed(text)))) {
        if (c != ' ' && c != '[' && c != ']' && c != '(' && c != ')') key += c;
    }
    static constexpr std::pair<std::string_view, std::string_view> spellings[] = {
        {"⁻", "-"},  {"−", "-"}, {"¹", "1"}, {"μ", "µ"},      {"æ", "µ"},
        {"**", "^"}, {"⋅", "·"}, {"∙", "·"}, {"\xC2\xA0", ""}};
    for (const auto& [from, to] : spellings) {
        for (auto at = key.find(from); at != std::string::npos; at = key.find(from, at + to.size()))
            key.replace(at, from.size(), to);
    }
    return key;
}

const Row* find(std::string_view key) {
    for (const Row& row : rows) {
        if (row.spelling == key) return &row;
    }
    return nullptr;
}

/// A plain number like "1000", "1e-7" or "1/255" at the start of `text`, which goes on behind it.
std::optional<double> take_number(std::string_view& text) {
    const auto one = [&]() -> std::optional<double> {
        double value = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
        if (error != std::errc() || !(value > 0)) return std::nullopt;
        text.remove_prefix(static_cast<std::size_t>(end - text.data()));
        return value;
    };
    auto value = one();
    if (value && text.size() > 1 && text.front() == '/' && text[1] >= '0' && text[1] <= '9') {
        text.remove_prefix(1);
        const auto below = one();
        return below ? std::optional(*value / *below) : std::nullopt;
    }
    return value;
}

/// "10 ms", "1/1000 s", "rpm x 1000", "x1000 rpm", "1e-7 deg", "deg*1e7": a known unit and a plain factor.
std::optional<Unit> scaled(const std::string& key) {
    const auto skip_times = [](std::string_view text) {
        for (const std::string_view mark : {"*", "x", "×", "·"}) {
            if (text.starts_with(mark)) return text.substr(mark.size());
        }
        return text;
    };
    std::string_view rest = skip_times(key);
    std::optional<double> factor = take_number(rest);
    const Row* row = nullptr;
    if (factor) {
        rest = skip_times(rest);
        row = rest.empty() && key.find('/') != std::string::npos ? find("") : rest.empty() ? nullptr : find(rest);
    } else {
        const auto digit = key.find_first_of("0123456789", 1);
        for (auto at = digit; at != std::string::npos && row == nullptr; at = key.find_first_of("0123456789", at + 1)) {
            std::size_t end = at;
            double sign = 1;
            if (key[at - 1] == '*' || key[at - 1] == 'x')
                end = at - 1;
            else if (at > 1 && key.compare(at - 2, 2, "×") == 0)
                end = at - 2;
            else if (key[at - 1] == '/') {
                end = at - 1;
                sign = -1;
            } else
                continue;
            std::string_view number = std::string_view(key).substr(at);
            factor = take_number(number);
            if (!factor || !number.empty() || end == 0) return std::nullopt;
            row = find(key.substr(0, end));
            if (sign < 0) factor = 1 / *factor;
        }
    }
    if (row == nullptr || !factor || row->offset != 0) return std::nullopt;
    // "deg*1e7" means degrees times ten million, "rpm*1000" thousands of revs: nobody counts in huge degrees.
    if (row->dimension == angle && *factor > 1e3) factor = 1 / *factor;
    return Unit{key, row->dimension, row->factor * *factor, 0};
}

}  // namespace

Result<Unit> parse_unit(std::string_view text) {
    const std::string key = key_of(text);
    if (const Row* row = find(key)) {
        return Unit{std::string(row->symbol), row->dimension, row->factor, row->offset};
    }
    if (auto unit = scaled(key)) return std::move(*unit);
    return fail(ErrorCode::bad_input, "The unit \"" + std::string(trimmed(text)) +
                                          "\" is not known. The values are kept as they are, without conversion.");
}

bool is_unit(std::string_view text) {
    const std::string key = key_of(text);
    return find(key) != nullptr || scaled(key).has_value();
}

}  // namespace rendak
