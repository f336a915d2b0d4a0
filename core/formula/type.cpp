#include "core/formula/type.h"

#include <cmath>

#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr int whole = 12;

Type combined(const Type& a, const Type& b, int sign) {
    Type out;
    for (std::size_t i = 0; i < out.powers.size(); ++i) out.powers[i] = a.powers[i] + sign * b.powers[i];
    return out;
}

}  // namespace

Type type_of(const Unit& unit) {
    const Dimension& d = unit.dimension;
    Type out;
    out.powers = {d.length * whole,      d.mass * whole,    d.time * whole,
                  d.temperature * whole, d.current * whole, d.angle * whole};
    out.weight = unit.offset != 0 ? 1 : 0;
    return out;
}

Type condition_type() {
    Type out;
    out.kind = Type::Kind::condition;
    return out;
}

Type product(const Type& a, const Type& b) {
    return combined(a, b, 1);
}

Type quotient(const Type& a, const Type& b) {
    return combined(a, b, -1);
}

std::optional<Type> raised(const Type& a, double exponent) {
    Type out;
    for (std::size_t i = 0; i < out.powers.size(); ++i) {
        const double power = a.powers[i] * exponent;
        if (!(std::abs(power) < 1e6) || std::abs(power - std::round(power)) > 1e-9) return std::nullopt;
        out.powers[i] = static_cast<int>(std::round(power));
    }
    return out;
}

bool alike(const Type& a, const Type& b) {
    if (a.kind != b.kind) return false;
    if (a.powers == b.powers) return true;
    auto x = a.powers, y = b.powers;
    x[5] = y[5] = 0;
    return x == y && a.has_length();
}

std::optional<Dimension> dimension_of(const Type& type) {
    std::array<int, 6> powers{};
    for (std::size_t i = 0; i < powers.size(); ++i) {
        if (type.powers[i] % whole != 0) return std::nullopt;
        powers[i] = type.powers[i] / whole;
    }
    return Dimension{powers[0], powers[1], powers[2], powers[3], powers[4], powers[5]};
}

std::string described(const Type& type) {
    if (type.kind == Type::Kind::condition) return "a condition";
    if (type.kind == Type::Kind::list) return "a list";
    if (type.is_plain()) return "a plain number";
    const auto dimension = dimension_of(type);
    if (!dimension) return "a value with a broken power of a unit";
    struct Row {
        Dimension dimension;
        const char* name;
    };
    static const Row rows[] = {
        {{1, 0, 0, 0, 0, 0}, "a length"},      {{0, 0, 1, 0, 0, 0}, "a time"},
        {{1, 0, -1, 0, 0, 0}, "a speed"},      {{1, 0, -2, 0, 0, 0}, "an acceleration"},
        {{0, 0, 0, 0, 0, 1}, "an angle"},      {{0, 0, -1, 0, 0, 1}, "a rate of turn"},
        {{0, 0, -1, 0, 0, 0}, "a rate (1/s)"}, {{0, 0, 0, 1, 0, 0}, "a temperature"},
        {{-1, 1, -2, 0, 0, 0}, "a pressure"},  {{1, 1, -2, 0, 0, 0}, "a force"},
        {{2, 1, -2, 0, 0, 0}, "a torque"},     {{2, 1, -3, 0, 0, 0}, "a power"},
        {{0, 1, 0, 0, 0, 0}, "a mass"},        {{3, 0, 0, 0, 0, 0}, "a volume"},
        {{2, 1, -3, 0, -1, 0}, "a voltage"},   {{0, 0, 0, 0, 1, 0}, "a current"},
        {{-1, 0, 0, 0, 0, 1}, "a curvature"},  {{-1, 0, 0, 0, 0, 0}, "a curvature"},
        {{2, 0, 0, 0, 0, 0}, "an area"},
    };
    for (const Row& row : rows) {
        if (row.dimension == *dimension)
            return type.weight == 0 && dimension->temperature == 1 ? "a temperature difference" : row.name;
    }
    return "a value in " + si_symbol(*dimension);
}

std::string usual_unit(const Type& type) {
    if (type.is_condition()) return "";
    const auto dimension = dimension_of(type);
    if (!dimension) return "";
    if (*dimension == Dimension{0, 0, 0, 1, 0, 0}) return type.weight == 1 ? "°C" : "K";
    if (*dimension == Dimension{-1, 0, 0, 0, 0, 0}) return "1/m";
    return units_of(*dimension).front();
}

}  // namespace rendak::formula
