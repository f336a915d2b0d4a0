#pragma once

#include <cstdint>

namespace rendak {

/// Powers of ten that a double holds exactly.
inline constexpr double exact_powers_of_ten[] = {1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,  1e8,  1e9,  1e10, 1e11,
                                                 1e12, 1e13, 1e14, 1e15, 1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};

/// The general, exact way (fast_float): exponents, many digits, "nan", "inf".
[[nodiscard]] const char* parse_decimal_general(const char* from, const char* end, char decimal_sign, double& value);

/// Reads a decimal number at `from`; returns the place behind it, or nullptr when there is none.
/// Up to 15 digits without exponent are exact with one division (Clinger 1990); the rest goes the general way.
[[nodiscard]] inline const char* parse_decimal(const char* from, const char* end, char decimal_sign, double& value) {
    const char* at = from;
    const bool negative = at != end && *at == '-';
    if (at != end && (*at == '-' || *at == '+')) ++at;
    const char* const digits_from = at;
    std::uint64_t mantissa = 0;
    while (at != end && static_cast<unsigned>(*at - '0') < 10)
        mantissa = mantissa * 10 + static_cast<unsigned>(*at++ - '0');
    long digits = at - digits_from;
    long decimals = 0;
    if (at != end && *at == decimal_sign) {
        const char* const decimals_from = ++at;
        while (at != end && static_cast<unsigned>(*at - '0') < 10)
            mantissa = mantissa * 10 + static_cast<unsigned>(*at++ - '0');
        decimals = at - decimals_from;
        digits += decimals;
    }
    if (digits == 0 || digits > 15 || (at != end && (*at == 'e' || *at == 'E'))) {
        return parse_decimal_general(from, end, decimal_sign, value);
    }
    const double magnitude = static_cast<double>(mantissa) / exact_powers_of_ten[decimals];
    value = negative ? -magnitude : magnitude;
    return at;
}

}  // namespace rendak
