#include "core/units/unit.h"

#include <numbers>

#include "core/base/text.h"

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
    {"m/s2", "m/s²", acceleration, 1},
    {"m/s^2", "m/s²", acceleration, 1},
    {"m/s²", "m/s²", acceleration, 1},
    {"m/s/s", "m/s²", acceleration, 1},
    {"g", "g", acceleration, 9.80665},
    {"rad", "rad", angle, 1},
    {"deg", "°", angle, pi / 180},
    {"degree", "°", angle, pi / 180},
    {"degrees", "°", angle, pi / 180},
    {"°", "°", angle, pi / 180},
    {"rad/s", "rad/s", angular_rate, 1},
    {"deg/s", "°/s", angular_rate, pi / 180},
    {"°/s", "°/s", angular_rate, pi / 180},
    {"dps", "°/s", angular_rate, pi / 180},
    {"rpm", "rpm", angular_rate, pi / 30},
    {"1/min", "rpm", angular_rate, pi / 30},
    {"rev/min", "rpm", angular_rate, pi / 30},
    {"u/min", "rpm", angular_rate, pi / 30},
    {"hz", "Hz", frequency, 1},
    {"1/s", "Hz", frequency, 1},
    {"k", "K", temperature, 1},
    {"°c", "°C", temperature, 1, 273.15},
    {"c", "°C", temperature, 1, 273.15},
    {"degc", "°C", temperature, 1, 273.15},
    {"celsius", "°C", temperature, 1, 273.15},
    {"°f", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"f", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"degf", "°F", temperature, 5.0 / 9, 459.67 * 5 / 9},
    {"pa", "Pa", pressure, 1},
    {"kpa", "kPa", pressure, 1e3},
    {"mpa", "MPa", pressure, 1e6},
    {"bar", "bar", pressure, 1e5},
    {"mbar", "mbar", pressure, 1e2},
    {"psi", "psi", pressure, 6894.757293168361},
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
    {"m³", "m³", volume, 1},
    {"m3", "m³", volume, 1},
    {"m^3", "m³", volume, 1},
    {"l", "l", volume, 1e-3},
    {"litre", "l", volume, 1e-3},
    {"liter", "l", volume, 1e-3},
    {"v", "V", voltage, 1},
    {"mv", "mV", voltage, 1e-3},
    {"volt", "V", voltage, 1},
    {"volts", "V", voltage, 1},
    {"a", "A", current, 1},
    {"1/m", "1/m", curvature, 1},
};

const Row* find(std::string_view text) {
    std::string key;
    for (const char c : lower(trimmed(text))) {
        if (c != ' ' && c != '[' && c != ']' && c != '(' && c != ')') key += c;
    }
    // The degree sign in Latin-1, as many loggers write it.
    for (std::size_t at = 0; at < key.size(); ++at) {
        if (key[at] == '\xB0' && (at == 0 || key[at - 1] != '\xC2')) key.replace(at, 1, "°");
    }
    for (const Row& row : rows) {
        if (row.spelling == key) return &row;
    }
    return nullptr;
}

}  // namespace

Result<Unit> parse_unit(std::string_view text) {
    if (const Row* row = find(text)) {
        return Unit{std::string(row->symbol), row->dimension, row->factor, row->offset};
    }
    return fail(ErrorCode::bad_input, "The unit \"" + std::string(trimmed(text)) +
                                          "\" is not known. The values are kept as they are, without conversion.");
}

bool is_unit(std::string_view text) {
    return find(text) != nullptr;
}

}  // namespace rendak
