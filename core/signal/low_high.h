#pragma once

#include <cstddef>
#include <limits>

#ifdef __SSE2__
#include <immintrin.h>
#endif

namespace rendak {

#ifdef __SSE2__
/// Lowest and highest of every fourth sample, four lanes; `count` is a multiple of 16.
inline void low_high_lanes(const float* from, std::size_t count, __m128& low, __m128& high) {
    constexpr float infinity = std::numeric_limits<float>::infinity();
    __m128 low0 = _mm_set1_ps(infinity), low1 = low0, high0 = _mm_set1_ps(-infinity), high1 = high0;
    for (std::size_t i = 0; i < count; i += 16) {
        const __m128 a = _mm_loadu_ps(from + i), b = _mm_loadu_ps(from + i + 4), c = _mm_loadu_ps(from + i + 8),
                     d = _mm_loadu_ps(from + i + 12);
        low0 = _mm_min_ps(c, _mm_min_ps(a, low0));
        high0 = _mm_max_ps(c, _mm_max_ps(a, high0));
        low1 = _mm_min_ps(d, _mm_min_ps(b, low1));
        high1 = _mm_max_ps(d, _mm_max_ps(b, high1));
    }
    low = _mm_min_ps(low0, low1);
    high = _mm_max_ps(high0, high1);
}
#endif

/// Lowest and highest of samples, taken into `low` and `high`; NaN stay out because comparisons with them are false.
/// The innermost loop of overviews and of drawing.
inline void low_high(const float* from, const float* to, float& low, float& high) {
#ifdef __SSE2__
    if (to - from >= 4) {
        constexpr float infinity = std::numeric_limits<float>::infinity();
        // min(a, b) and max(a, b) return b when a is NaN: the sample comes first.
        __m128 low0 = _mm_set1_ps(infinity), low1 = low0, high0 = _mm_set1_ps(-infinity), high1 = high0;
        for (; to - from >= 8; from += 8) {
            const __m128 a = _mm_loadu_ps(from), b = _mm_loadu_ps(from + 4);
            low0 = _mm_min_ps(a, low0);
            high0 = _mm_max_ps(a, high0);
            low1 = _mm_min_ps(b, low1);
            high1 = _mm_max_ps(b, high1);
        }
        if (to - from >= 4) {
            const __m128 a = _mm_loadu_ps(from);
            low0 = _mm_min_ps(a, low0);
            high0 = _mm_max_ps(a, high0);
            from += 4;
        }
        low0 = _mm_min_ps(low0, low1);
        high0 = _mm_max_ps(high0, high1);
        low0 = _mm_min_ps(low0, _mm_movehl_ps(low0, low0));
        high0 = _mm_max_ps(high0, _mm_movehl_ps(high0, high0));
        const float lowest = _mm_cvtss_f32(_mm_min_ss(low0, _mm_shuffle_ps(low0, low0, 1)));
        const float highest = _mm_cvtss_f32(_mm_max_ss(high0, _mm_shuffle_ps(high0, high0, 1)));
        low = lowest < low ? lowest : low;
        high = highest > high ? highest : high;
    }
#endif
    for (; from != to; ++from) {
        low = *from < low ? *from : low;
        high = *from > high ? *from : high;
    }
}

}  // namespace rendak
