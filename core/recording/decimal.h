#pragma once

#include <bit>
#include <cstdint>
#include <cstring>

namespace rendak {

/// Powers of ten that a double holds exactly.
inline constexpr double exact_powers_of_ten[] = {1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,  1e8,  1e9,  1e10, 1e11,
                                                 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};

inline constexpr std::uint64_t whole_powers_of_ten[] = {1, 10, 100, 1000, 10000, 100000, 1000000, 10000000};

/// The general, exact way (fast_float): exponents, many digits, "nan", "inf".
[[nodiscard]] const char* parse_decimal_general(const char* from, const char* end, char decimal_sign, double& value);

/// Digits at the beginning of eight characters (0 to 8), the first one in the lowest byte.
[[nodiscard]] inline int leading_digits(std::uint64_t eight) {
    const std::uint64_t off = eight ^ 0x3030303030303030;  // a digit becomes 0 to 9
    const std::uint64_t others = (((off & 0x7f7f7f7f7f7f7f7f) + 0x7676767676767676) | off) & 0x8080808080808080;
    return std::countr_zero(others) / 8;
}

/// The number that the first `count` (0 to 8) of eight characters make, which are digits: pairs, fours, then eight at
/// once (Lemire 2018).
[[nodiscard]] inline std::uint64_t number_of_digits(std::uint64_t eight, int count) {
    if (count == 0) return 0;
    std::uint64_t digits = (eight ^ 0x3030303030303030) << (64 - 8 * count);
    digits = digits * 10 + (digits >> 8);
    return (((digits & 0x000000ff000000ff) * 0x000f424000000064 +
             ((digits >> 16) & 0x000000ff000000ff) * 0x0000271000000001) >>
            32) &
           0xffffffff;
}

/// parse_decimal digit by digit: any number of them, and near the end of a line.
[[nodiscard]] const char* parse_decimal_by_digits(const char* from, const char* end, char decimal_sign, double& value);

/// Reads a decimal number at `from`; returns the place behind it, or nullptr when there is none.
/// Up to 15 digits without exponent are exact with one division (Clinger 1990); the rest goes the general way.
[[nodiscard, gnu::always_inline]] inline const char* parse_decimal(const char* from, const char* end, char decimal_sign,
                                                                   double& value) {
    // The usual cell, up to seven digits on either side, without a step a digit. Seventeen characters are looked at.
    if (std::endian::native != std::endian::little || end - from < 18)
        return parse_decimal_by_digits(from, end, decimal_sign, value);
    const bool negative = *from == '-';
    const char* const at = from + static_cast<int>(negative || *from == '+');
    std::uint64_t eight = 0;
    std::memcpy(&eight, at, 8);
    const int whole = leading_digits(eight);
    const char* behind = at + whole;
    std::uint64_t mantissa = number_of_digits(eight, whole & 7);
    int decimals = 0;
    if (whole < 8 && *behind == decimal_sign) {
        std::memcpy(&eight, behind + 1, 8);
        decimals = leading_digits(eight);
        behind += 1 + decimals;
        mantissa = mantissa * whole_powers_of_ten[decimals & 7] + number_of_digits(eight, decimals & 7);
    }
    if (whole == 8 || decimals == 8 || whole + decimals == 0 || *behind == 'e' || *behind == 'E')
        return parse_decimal_by_digits(from, end, decimal_sign, value);
    const double magnitude = static_cast<double>(static_cast<std::int64_t>(mantissa)) / exact_powers_of_ten[decimals];
    value = negative ? -magnitude : magnitude;
    return behind;
}

}  // namespace rendak
