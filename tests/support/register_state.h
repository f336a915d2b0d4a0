#pragma once

#if defined(__x86_64__)
#include <cpuid.h>
#endif

namespace rendak::test {

#if defined(__x86_64__)

inline bool upper_halves_in_use() {
    unsigned low = 0, high = 0;
    asm volatile("xgetbv" : "=a"(low), "=d"(high) : "c"(1));
    return (low & 4U) != 0;
}

/// As a library does that leaves them in use.
inline void use_upper_halves() {
    asm volatile("vpcmpeqd %%ymm6, %%ymm6, %%ymm6" ::: "xmm6");
}

/// Whether this processor has upper halves of vector registers and tells whether they are in use.
inline bool registers_can_be_told() {
    unsigned a = 0, b = 0, c = 0, d = 0;
    if (!__builtin_cpu_supports("avx2") || __get_cpuid_count(0xD, 1, &a, &b, &c, &d) == 0 || (a & 4U) == 0)
        return false;
    use_upper_halves();
    const bool seen = upper_halves_in_use();
    asm volatile("vzeroupper");
    return seen && !upper_halves_in_use();
}

#else

inline bool upper_halves_in_use() {
    return false;
}
inline void use_upper_halves() {}
inline bool registers_can_be_told() {
    return false;
}

#endif

}  // namespace rendak::test
