// What a person would write for one formula: the limit that bench_formula is held against.
#include <cmath>
#include <cstddef>

__attribute__((target_clones("avx2", "default"))) void hand_loop(float* __restrict__ out, const float* a,
                                                                 const float* b, const float* c, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i)
        out[i] = std::sqrt(a[i] * a[i] + b[i] * b[i]) * 0.5F + (c[i] > 10 ? a[i] : b[i]);
}
