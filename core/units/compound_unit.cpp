#include "core/units/compound_unit.h"

#include <array>
#include <cmath>

#include "core/base/text.h"

namespace rendak {
namespace {

/// One unit of a product, before its power: exact spellings first, where case tells two units apart.
Result<Unit> single(std::string_view text) {
    constexpr Dimension energy{2, 1, -2, 0, 0, 0}, force{1, 1, -2, 0, 0, 0};
    if (text == "kN") return Unit{"kN", force, 1e3};
    if (text == "J") return Unit{"J", energy, 1};
    if (text == "kJ") return Unit{"kJ", energy, 1e3};
    if (text == "MJ") return Unit{"MJ", energy, 1e6};
    if (text == "Wh") return Unit{"Wh", energy, 3600};
    if (text == "MPa") return Unit{"MPa", {-1, 1, -2, 0, 0, 0}, 1e6};
    return parse_unit(text);
}

/// Takes "²", "³", "^2", "^-1" or a digit off the end; 1 where there is none.
int take_power(std::string_view& text) {
    constexpr std::string_view square = "²", cube = "³";
    if (text.ends_with(square)) {
        text.remove_suffix(square.size());
        return 2;
    }
    if (text.ends_with(cube)) {
        text.remove_suffix(cube.size());
        return 3;
    }
    if (text.size() < 2 || text.back() < '1' || text.back() > '6') return 1;
    int power = text.back() - '0';
    text.remove_suffix(1);
    if (text.ends_with("^-")) {
        power = -power;
        text.remove_suffix(2);
    } else if (text.ends_with('^')) {
        text.remove_suffix(1);
    }
    return power;
}

Dimension times(const Dimension& a, const Dimension& b, int power) {
    return {a.length + b.length * power,           a.mass + b.mass * power,       a.time + b.time * power,
            a.temperature + b.temperature * power, a.current + b.current * power, a.angle + b.angle * power};
}

}  // namespace

Result<Unit> parse_compound_unit(std::string_view text) {
    text = trimmed(text);
    auto whole = single(text);
    if (whole || text.size() > 60) return whole;
    Unit out;
    out.symbol = std::string(text);
    int sign = 1;
    while (true) {
        const auto slash = text.find('/'), star = text.find('*'), dot = text.find("·");
        const auto end = std::min(slash, std::min(star, dot));
        std::string_view factor = trimmed(text.substr(0, end));
        int power = sign;
        auto unit = single(factor);
        if (!unit || factor.empty()) {
            power *= take_power(factor);
            unit = single(factor);
        }
        if (!unit || (factor.empty() || (factor == "1" && sign < 0))) return whole;
        out.factor *= std::pow(unit->factor, power);
        out.dimension = times(out.dimension, unit->dimension, power);
        if (end == std::string_view::npos) return out;
        if (end == slash) sign = -1;
        text.remove_prefix(end + (end == dot ? std::string_view("·").size() : 1));
    }
}

Unit difference_unit(const Unit& unit) {
    if (unit.offset == 0) return unit;
    Unit out = unit;
    out.offset = 0;
    if (unit.symbol == "°C") out.symbol = "K";
    return out;
}

std::string si_symbol(const Dimension& dimension) {
    const std::array<std::pair<const char*, int>, 6> bases{{{"kg", dimension.mass},
                                                            {"m", dimension.length},
                                                            {"rad", dimension.angle},
                                                            {"A", dimension.current},
                                                            {"K", dimension.temperature},
                                                            {"s", dimension.time}}};
    const auto powered = [](const char* base, int power) {
        const std::string symbol = base;
        return power == 1   ? symbol
               : power == 2 ? symbol + "²"
               : power == 3 ? symbol + "³"
                            : symbol + std::to_string(power);
    };
    std::string above, below;
    for (const auto& [base, power] : bases) {
        if (power > 0) above += (above.empty() ? "" : "·") + powered(base, power);
        if (power < 0) below += "/" + powered(base, -power);
    }
    return above.empty() && !below.empty() ? "1" + below : above + below;
}

std::vector<std::string> units_of(const Dimension& dimension) {
    struct Row {
        Dimension dimension;
        std::vector<std::string> units;
    };
    static const std::vector<Row> rows{
        {{0, 0, 0, 0, 0, 0}, {"", "%"}},
        {{1, 0, 0, 0, 0, 0}, {"m", "mm", "km", "in", "ft"}},
        {{0, 0, 1, 0, 0, 0}, {"s", "ms", "min"}},
        {{1, 0, -1, 0, 0, 0}, {"km/h", "m/s", "mm/s", "mph"}},
        {{1, 0, -2, 0, 0, 0}, {"g", "m/s²", "mm/s²"}},
        {{0, 0, 0, 0, 0, 1}, {"°", "rad"}},
        {{0, 0, -1, 0, 0, 1}, {"°/s", "rad/s", "rpm"}},
        {{0, 0, -2, 0, 0, 1}, {"°/s²", "rad/s²", "rpm/s"}},
        {{0, 0, -1, 0, 0, 0}, {"1/s", "Hz", "%/s"}},
        {{0, 0, 0, 1, 0, 0}, {"°C", "K", "°F"}},
        {{0, 0, -1, 1, 0, 0}, {"K/s", "K/min"}},
        {{-1, 1, -2, 0, 0, 0}, {"bar", "kPa", "psi", "Pa"}},
        {{-1, 1, -3, 0, 0, 0}, {"bar/s", "kPa/s", "psi/s"}},
        {{1, 1, -2, 0, 0, 0}, {"N", "kN", "lbf"}},
        {{0, 1, -2, 0, 0, 0}, {"N/mm", "N/m"}},
        {{2, 1, -2, 0, 0, 0}, {"N·m", "kJ", "J"}},
        {{2, 1, -3, 0, 0, 0}, {"kW", "W", "hp"}},
        {{0, 1, 0, 0, 0, 0}, {"kg", "lb"}},
        {{3, 0, 0, 0, 0, 0}, {"l", "m³"}},
        {{3, 0, -1, 0, 0, 0}, {"l/min", "l/h", "m³/s"}},
        {{-1, 0, 0, 0, 0, 1}, {"1/m", "°/m"}},
        {{2, 1, -3, 0, -1, 0}, {"V", "mV"}},
    };
    for (const Row& row : rows) {
        if (row.dimension == dimension) return row.units;
    }
    return {si_symbol(dimension)};
}

}  // namespace rendak
