#include "core/formula/kernels.h"

#include <cmath>
#include <limits>

#include "core/base/address_sanitizer.h"

// Where the processor has wide registers the loops use them; the sanitizers do not get along with the dispatch.
#if defined(__x86_64__) && !defined(RENDAK_ADDRESS_SANITIZER)
#define RENDAK_CLONES __attribute__((target_clones("avx2", "default")))
#else
#define RENDAK_CLONES
#endif

namespace rendak::formula {
namespace {

constexpr float missing_sample = std::numeric_limits<float>::quiet_NaN();

// Macros because target_clones wants plain functions. `x`, `y`, `z`, `w` are the operands of one sample: all are loaded
// before anything is chosen, so that choices become blends.
#define RENDAK_KERNEL(name, loads, expression)                                                         \
    RENDAK_CLONES void name([[maybe_unused]] float* __restrict__ out, [[maybe_unused]] const float* a, \
                            [[maybe_unused]] const float* b, [[maybe_unused]] const float* c,          \
                            [[maybe_unused]] const float* d, std::size_t n) {                          \
        for (std::size_t i = 0; i < n; ++i) {                                                          \
            loads out[i] = expression;                                                                 \
        }                                                                                              \
    }
#define RENDAK_KERNEL1(name, expression) RENDAK_KERNEL(name, const float x = a[i];, expression)
#define RENDAK_KERNEL2(name, expression) RENDAK_KERNEL(name, const float x = a[i]; const float y = b[i];, expression)
#define RENDAK_KERNEL3(name, expression) \
    RENDAK_KERNEL(name, const float x = a[i]; const float y = b[i]; const float z = c[i];, expression)
#define RENDAK_KERNEL4(name, expression)                                                                        \
    RENDAK_KERNEL(name, const float x = a[i]; const float y = b[i]; const float z = c[i]; const float w = d[i]; \
                  , expression)
#define RENDAK_COMPARE(name, comparison) \
    RENDAK_KERNEL2(name, ((x == x) & (y == y)) ? ((comparison) ? 1.0F : 0.0F) : missing_sample)

RENDAK_KERNEL1(negate, -x)
RENDAK_KERNEL1(logical_not, x == x ? (x == 0 ? 1.0F : 0.0F) : missing_sample)
RENDAK_KERNEL2(add, x + y)
RENDAK_KERNEL2(subtract, x - y)
RENDAK_KERNEL2(multiply, x* y)
RENDAK_KERNEL2(divide, y == 0 ? missing_sample : x / y)
RENDAK_COMPARE(less, x < y)
RENDAK_COMPARE(less_equal, x <= y)
RENDAK_COMPARE(greater, x > y)
RENDAK_COMPARE(greater_equal, x >= y)
RENDAK_COMPARE(equal, x == y)
RENDAK_COMPARE(not_equal, x != y)
RENDAK_COMPARE(logical_and, (x != 0) & (y != 0))
RENDAK_COMPARE(logical_or, (x != 0) | (y != 0))
RENDAK_KERNEL1(absolute_kernel, std::abs(x))
RENDAK_KERNEL1(square_root_kernel, std::sqrt(x))
RENDAK_KERNEL2(hypotenuse_kernel, std::sqrt(x* x + y * y))
RENDAK_KERNEL2(lower_kernel, ((x == x) & (y == y)) ? (x < y ? x : y) : missing_sample)
RENDAK_KERNEL2(higher_kernel, ((x == x) & (y == y)) ? (x > y ? x : y) : missing_sample)
RENDAK_KERNEL1(sign_of_kernel, x == x ? (x > 0 ? 1.0F : x < 0 ? -1.0F : 0.0F) : missing_sample)
RENDAK_KERNEL1(round_down_kernel, std::floor(x))
RENDAK_KERNEL1(round_up_kernel, std::ceil(x))
RENDAK_KERNEL1(round_near_kernel, std::nearbyint(x))
RENDAK_KERNEL1(whole_part_kernel, std::trunc(x))
RENDAK_KERNEL1(is_missing_kernel, x == x ? 0.0F : 1.0F)
RENDAK_KERNEL2(replace_missing_kernel, x == x ? x : y)
RENDAK_KERNEL1(copy_kernel, x)
RENDAK_KERNEL1(square_kernel, x* x)
RENDAK_KERNEL2(square_sum_kernel, x* x + y * y)
RENDAK_KERNEL3(multiply_add_kernel, x* y + z)
RENDAK_KERNEL3(choose_kernel, x == x ? (x != 0 ? y : z) : missing_sample)
// Two comparisons tell all three cases apart: neither holds where x or y is missing.
RENDAK_KERNEL4(choose_less_kernel, x < y ? z : (x >= y ? w : missing_sample))
RENDAK_KERNEL4(choose_less_equal_kernel, x <= y ? z : (x > y ? w : missing_sample))

// The library's functions, a sample at a time.
// To the library one to the power of anything is 1, and so is anything to the power of nothing: missing ones, too.
RENDAK_KERNEL2(power, ((x == x) & (y == y)) ? std::pow(x, y) : missing_sample)
RENDAK_KERNEL1(cube_root_kernel, std::cbrt(x))
RENDAK_KERNEL1(exponential_kernel, std::exp(x))
RENDAK_KERNEL1(natural_log_kernel, x > 0 ? std::log(x) : missing_sample)
RENDAK_KERNEL1(decimal_log_kernel, x > 0 ? std::log10(x) : missing_sample)
RENDAK_KERNEL1(binary_log_kernel, x > 0 ? std::log2(x) : missing_sample)
RENDAK_KERNEL1(sine_kernel, std::sin(x))
RENDAK_KERNEL1(cosine_kernel, std::cos(x))
RENDAK_KERNEL1(tangent_kernel, std::tan(x))
RENDAK_KERNEL1(arc_sine_kernel, std::asin(x))
RENDAK_KERNEL1(arc_cosine_kernel, std::acos(x))
RENDAK_KERNEL1(arc_tangent_kernel, std::atan(x))
RENDAK_KERNEL2(arc_tangent_2_kernel, std::atan2(x, y))
RENDAK_KERNEL2(remainder_of_kernel, y == 0 ? missing_sample : x - y * std::floor(x / y))

}  // namespace

namespace kernels {
const Kernel absolute = absolute_kernel;
const Kernel square_root = square_root_kernel;
const Kernel cube_root = cube_root_kernel;
const Kernel exponential = exponential_kernel;
const Kernel natural_log = natural_log_kernel;
const Kernel decimal_log = decimal_log_kernel;
const Kernel binary_log = binary_log_kernel;
const Kernel sine = sine_kernel;
const Kernel cosine = cosine_kernel;
const Kernel tangent = tangent_kernel;
const Kernel arc_sine = arc_sine_kernel;
const Kernel arc_cosine = arc_cosine_kernel;
const Kernel arc_tangent = arc_tangent_kernel;
const Kernel arc_tangent_2 = arc_tangent_2_kernel;
const Kernel hypotenuse = hypotenuse_kernel;
const Kernel sign_of = sign_of_kernel;
const Kernel round_down = round_down_kernel;
const Kernel round_up = round_up_kernel;
const Kernel round_near = round_near_kernel;
const Kernel whole_part = whole_part_kernel;
const Kernel remainder_of = remainder_of_kernel;
const Kernel lower = lower_kernel;
const Kernel higher = higher_kernel;
const Kernel is_missing = is_missing_kernel;
const Kernel replace_missing = replace_missing_kernel;
const Kernel copy = copy_kernel;
}  // namespace kernels

namespace fused {
const Kernel square = square_kernel;
const Kernel square_sum = square_sum_kernel;
const Kernel root_square_sum = hypotenuse_kernel;
const Kernel multiply_add = multiply_add_kernel;
const Kernel choose = choose_kernel;
const Kernel choose_less = choose_less_kernel;
const Kernel choose_less_equal = choose_less_equal_kernel;
}  // namespace fused

Kernel kernel_of(Op op) {
    switch (op) {
        case Op::negate:
            return negate;
        case Op::logical_not:
            return logical_not;
        case Op::add:
            return add;
        case Op::subtract:
            return subtract;
        case Op::multiply:
            return multiply;
        case Op::divide:
            return divide;
        case Op::power:
            return power;
        case Op::less:
            return less;
        case Op::less_equal:
            return less_equal;
        case Op::greater:
            return greater;
        case Op::greater_equal:
            return greater_equal;
        case Op::equal:
            return equal;
        case Op::not_equal:
            return not_equal;
        case Op::logical_and:
            return logical_and;
        case Op::logical_or:
            return logical_or;
    }
    return nullptr;
}

}  // namespace rendak::formula
