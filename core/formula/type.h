#pragma once

#include <array>
#include <optional>
#include <string>

#include "core/units/unit.h"

namespace rendak::formula {

/// What a value in a formula is: a condition (true or false), or a number with a dimension.
struct Type {
    enum class Kind { number, condition, list };
    Kind kind = Kind::number;
    /// Exponents of length, mass, time, temperature, current, angle in twelfths, so that roots carry through.
    std::array<int, 6> powers{};
    /// How many absolute temperatures are in it: 1 for a temperature, 0 for a difference or anything else. The mean of
    /// two temperatures is one again, their sum is neither.
    double weight = 0;

    bool operator==(const Type&) const = default;
    [[nodiscard]] bool is_condition() const { return kind == Kind::condition; }
    [[nodiscard]] bool is_plain() const { return kind == Kind::number && powers == std::array<int, 6>{}; }
    [[nodiscard]] bool is_angle() const {
        return kind == Kind::number && powers == std::array<int, 6>{0, 0, 0, 0, 0, 12};
    }
    [[nodiscard]] bool has_length() const { return powers[0] != 0; }
};

[[nodiscard]] Type type_of(const Unit& unit);
[[nodiscard]] Type condition_type();

[[nodiscard]] Type product(const Type& a, const Type& b);
[[nodiscard]] Type quotient(const Type& a, const Type& b);
/// Empty when the exponents come out finer than a twelfth.
[[nodiscard]] std::optional<Type> raised(const Type& a, double exponent);

/// Whether two numbers may be added or compared: the same dimension. An angle counts as nothing where there is a
/// length (an arc is a length, 1/m is rad/m), but never between an angle and a plain number.
[[nodiscard]] bool alike(const Type& a, const Type& b);

/// The dimension in whole exponents; empty after odd roots.
[[nodiscard]] std::optional<Dimension> dimension_of(const Type& type);

/// What people call it: "a pressure", "a length", "a plain number", "a condition", else "a value in kg·m²".
[[nodiscard]] std::string described(const Type& type);

/// The unit to show a value of this type in when nobody chose one ("km/h", "bar", "K" for differences).
[[nodiscard]] std::string usual_unit(const Type& type);

}  // namespace rendak::formula
