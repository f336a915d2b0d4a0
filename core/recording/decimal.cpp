#include "core/recording/decimal.h"

#include <fast_float/fast_float.h>

namespace rendak {

const char* parse_decimal_general(const char* from, const char* end, char decimal_sign, double& value) {
    // fast_float takes no plus sign; behind one it would take a minus.
    if (from != end && *from == '+' && ++from != end && *from == '-') return nullptr;
    const fast_float::parse_options options{fast_float::chars_format::general, decimal_sign};
    const auto result = fast_float::from_chars_advanced(from, end, value, options);
    return result.ec == std::errc() ? result.ptr : nullptr;
}

const char* parse_decimal_by_digits(const char* from, const char* end, char decimal_sign, double& value) {
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
    if (digits == 0 || digits > 15 || (at != end && (*at == 'e' || *at == 'E')))
        return parse_decimal_general(from, end, decimal_sign, value);
    const double magnitude = static_cast<double>(mantissa) / exact_powers_of_ten[decimals];
    value = negative ? -magnitude : magnitude;
    return at;
}

}  // namespace rendak
