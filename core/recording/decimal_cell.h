#pragma once

#include <immintrin.h>

#include <array>
#include <bit>
#include <cstddef>
#include <cstdint>

#include "core/recording/decimal.h"

namespace rendak {

/// Sixteen characters, digits at `from_digits` to 15, as two numbers of eight digits: pairs, fours, eights (Mula 2014).
struct TwoEights {
    std::uint32_t high, low;
};
[[nodiscard]] inline TwoEights eights_of_digits(__m128i digits) {
    const __m128i pairs =
        _mm_maddubs_epi16(digits, _mm_setr_epi8(10, 1, 10, 1, 10, 1, 10, 1, 10, 1, 10, 1, 10, 1, 10, 1));
    const __m128i fours = _mm_madd_epi16(pairs, _mm_setr_epi16(100, 1, 100, 1, 100, 1, 100, 1));
    const __m128i packed = _mm_packus_epi32(fours, fours);
    const __m128i eights = _mm_madd_epi16(packed, _mm_setr_epi16(10000, 1, 10000, 1, 10000, 1, 10000, 1));
    const auto both = static_cast<std::uint64_t>(_mm_cvtsi128_si64(eights));
    return {static_cast<std::uint32_t>(both), static_cast<std::uint32_t>(both >> 32)};
}

/// Read at `n`: sixteen bytes that keep the last n of sixteen.
inline constexpr auto keep_last = [] {
    std::array<std::uint8_t, 32> bytes{};
    for (std::size_t i = 16; i < 32; ++i) bytes[i] = 0xff;
    return bytes;
}();
/// Row p takes the character at p out of sixteen: what stands before it moves up by one, and a zero comes in.
inline constexpr auto take_out = [] {
    std::array<std::array<std::int8_t, 16>, 16> rows{};
    for (int p = 0; p < 16; ++p) {
        for (int i = 0; i < 16; ++i)
            rows[static_cast<std::size_t>(p)][static_cast<std::size_t>(i)] = static_cast<std::int8_t>(i - (i <= p));
    }
    return rows;
}();

/// Reads the decimal number that `from` to `end` is, all of it: a sign, then at most 16 characters with at most 15
/// digits and one decimal sign. As exact as parse_decimal (Clinger 1990). False: it is none, or one to be read another
/// way. `from` is not `end`; the sixteen characters before `end` must be readable. No step of it waits for a digit, so
/// cells of all lengths and signs overlap in the processor.
[[nodiscard, gnu::always_inline]] inline bool parse_decimal_cell(const char* from, const char* end, char decimal_sign,
                                                                 double& value) {
    const bool negative = *from == '-';
    from += static_cast<int>(negative) | static_cast<int>(*from == '+');
    const std::ptrdiff_t length = end - from;
    if (length <= 0 || length > 16) return false;
    const __m128i text = _mm_loadu_si128(reinterpret_cast<const __m128i*>(end - 16));
    const __m128i keep = _mm_loadu_si128(reinterpret_cast<const __m128i*>(keep_last.data() + length));
    __m128i digits = _mm_and_si128(_mm_sub_epi8(text, _mm_set1_epi8('0')), keep);  // a digit becomes 0 to 9
    const __m128i is_digit = _mm_cmpeq_epi8(_mm_min_epu8(digits, _mm_set1_epi8(9)), digits);
    const auto others = static_cast<unsigned>(_mm_movemask_epi8(is_digit)) ^ 0xffffU;
    std::size_t decimals = 0;
    if (others != 0) {
        const auto point = static_cast<std::size_t>(std::countr_zero(others));
        if ((others & (others - 1)) != 0 || (end - 16)[point] != decimal_sign || length == 1) return false;
        decimals = 15 - point;
        digits = _mm_shuffle_epi8(digits, _mm_loadu_si128(reinterpret_cast<const __m128i*>(take_out[point].data())));
    }
    const TwoEights eights = eights_of_digits(digits);
    if (eights.high >= 10'000'000) return false;  // sixteen digits
    const auto mantissa = static_cast<std::int64_t>(eights.high) * 100'000'000 + eights.low;
    const double magnitude = static_cast<double>(mantissa) / exact_powers_of_ten[decimals];
    const std::uint64_t sign = static_cast<std::uint64_t>(negative)
                               << 63;  // a branch would be guessed wrong half the time
    value = std::bit_cast<double>(std::bit_cast<std::uint64_t>(magnitude) | sign);
    return true;
}

}  // namespace rendak
