#pragma once

#include <optional>
#include <string_view>

namespace rendak {

/// A number as people write it into a cell, and what stands behind it ("km/h", "N"; empty for a bare number).
struct LooseNumber {
    double value = 0;
    std::string_view rest;
};

/// Takes blanks and marks between thousands (only where groups have three digits), minus signs of all kinds, a minus
/// behind the number, and brackets for a negative one: "5.743,1", "1 250", "(12.3)", "12.3-", "−0.5", "152.5 km/h".
/// nullopt when the cell does not begin with a number.
[[nodiscard]] std::optional<LooseNumber> loose_number(std::string_view cell, char decimal_sign);

/// How the cells of a column use a sign that may be a decimal sign or stand between thousands.
struct SignUse {
    std::size_t decimal = 0;  ///< cells where it can only be a decimal sign: "0.5", "12.34", "1234.567"
    std::size_t groups = 0;   ///< … can only stand between thousands: "1.234.567", "1.234,5"
    std::size_t either = 0;   ///< … can be both: "5.743"
    std::size_t without = 0;  ///< numbers of three digits and more without it
};
void count_use(std::string_view cell, char sign, SignUse& use);

/// The cell without blanks, NUL bytes and quotes around it.
[[nodiscard]] std::string_view bare_cell(std::string_view cell);

}  // namespace rendak
