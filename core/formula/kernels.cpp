#include "core/formula/kernels.h"

#include <cmath>
#include <limits>

#include "core/formula/scalar.h"

// Where the processor has wide registers the loops use them; the sanitizers do not get along with the dispatch.
#if defined(__x86_64__) && !defined(__SANITIZE_ADDRESS__)
#define RENDAK_CLONES __attribute__((target_clones("avx2", "default")))
#else
#define RENDAK_CLONES
#endif

namespace rendak::formula {
namespace {

constexpr float missing = std::numeric_limits<float>::quiet_NaN();

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
    RENDAK_KERNEL2(name, ((x == x) & (y == y)) ? ((comparison) ? 1.0F : 0.0F) : missing)

RENDAK_KERNEL1(negate, -x)
RENDAK_KERNEL1(logical_not, x == x ? (x == 0 ? 1.0F : 0.0F) : missing)
RENDAK_KERNEL2(add, x + y)
RENDAK_KERNEL2(subtract, x - y)
RENDAK_KERNEL2(multiply, x* y)
RENDAK_KERNEL2(divide, y == 0 ? missing : x / y)
RENDAK_COMPARE(less, x < y)
RENDAK_COMPARE(less_equal, x <= y)
RENDAK_COMPARE(greater, x > y)
RENDAK_COMPARE(greater_equal, x >= y)
RENDAK_COMPARE(equal, x == y)
RENDAK_COMPARE(not_equal, x != y)
RENDAK_COMPARE(logical_and, (x != 0) & (y != 0))
RENDAK_COMPARE(logical_or, (x != 0) | (y != 0))
RENDAK_KERNEL1(absolute, std::abs(x))
RENDAK_KERNEL1(square_root, std::sqrt(x))
RENDAK_KERNEL2(hypotenuse, std::sqrt(x* x + y * y))
RENDAK_KERNEL2(lower, ((x == x) & (y == y)) ? (x < y ? x : y) : missing)
RENDAK_KERNEL2(higher, ((x == x) & (y == y)) ? (x > y ? x : y) : missing)
RENDAK_KERNEL1(sign_of, x == x ? (x > 0 ? 1.0F : x < 0 ? -1.0F : 0.0F) : missing)
RENDAK_KERNEL1(round_down, std::floor(x))
RENDAK_KERNEL1(round_up, std::ceil(x))
RENDAK_KERNEL1(round_near, std::nearbyint(x))
RENDAK_KERNEL1(whole_part, std::trunc(x))
RENDAK_KERNEL1(is_missing, x == x ? 0.0F : 1.0F)
RENDAK_KERNEL2(replace_missing, x == x ? x : y)
RENDAK_KERNEL1(copy, x)
RENDAK_KERNEL1(square_kernel, x* x)
RENDAK_KERNEL2(square_sum_kernel, x* x + y * y)
RENDAK_KERNEL3(multiply_add_kernel, x* y + z)
RENDAK_KERNEL3(choose_kernel, x == x ? (x != 0 ? y : z) : missing)
// Two comparisons tell all three cases apart: neither holds where x or y is missing.
RENDAK_KERNEL4(choose_less_kernel, x < y ? z : (x >= y ? w : missing))
RENDAK_KERNEL4(choose_less_equal_kernel, x <= y ? z : (x > y ? w : missing))

// The library's functions, a sample at a time.
RENDAK_KERNEL2(power, std::pow(x, y))
RENDAK_KERNEL1(cube_root, std::cbrt(x))
RENDAK_KERNEL1(exponential, std::exp(x))
RENDAK_KERNEL1(natural_log, x > 0 ? std::log(x) : missing)
RENDAK_KERNEL1(decimal_log, x > 0 ? std::log10(x) : missing)
RENDAK_KERNEL1(binary_log, x > 0 ? std::log2(x) : missing)
RENDAK_KERNEL1(sine, std::sin(x))
RENDAK_KERNEL1(cosine, std::cos(x))
RENDAK_KERNEL1(tangent, std::tan(x))
RENDAK_KERNEL1(arc_sine, std::asin(x))
RENDAK_KERNEL1(arc_cosine, std::acos(x))
RENDAK_KERNEL1(arc_tangent, std::atan(x))
RENDAK_KERNEL2(arc_tangent_2, std::atan2(x, y))
RENDAK_KERNEL2(remainder_of, y == 0 ? missing : x - y * std::floor(x / y))

/// Rare functions: through the scalar meaning.
template <Fn fn, std::size_t arguments>
void one_by_one(float* out, const float* a, const float* b, const float* c, const float*, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i) {
        const double x[3] = {static_cast<double>(a[i]), arguments > 1 ? static_cast<double>(b[i]) : 0,
                             arguments > 2 ? static_cast<double>(c[i]) : 0};
        out[i] = static_cast<float>(apply(fn, std::span(x, arguments)));
    }
}

}  // namespace

namespace fused {
const Kernel square = square_kernel;
const Kernel square_sum = square_sum_kernel;
const Kernel root_square_sum = hypotenuse;
const Kernel multiply_add = multiply_add_kernel;
const Kernel choose = choose_kernel;
const Kernel choose_less = choose_less_kernel;
const Kernel choose_less_equal = choose_less_equal_kernel;
const Kernel coalesce = replace_missing;
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

Kernel kernel_of(Fn fn) {
    switch (fn) {
        case Fn::abs:
            return absolute;
        case Fn::sqrt:
            return square_root;
        case Fn::cbrt:
            return cube_root;
        case Fn::exp:
            return exponential;
        case Fn::log:
            return natural_log;
        case Fn::log10:
            return decimal_log;
        case Fn::log2:
            return binary_log;
        case Fn::sin:
            return sine;
        case Fn::cos:
            return cosine;
        case Fn::tan:
            return tangent;
        case Fn::arcsin:
            return arc_sine;
        case Fn::arccos:
            return arc_cosine;
        case Fn::arctan:
            return arc_tangent;
        case Fn::arctan2:
            return arc_tangent_2;
        case Fn::hypot:
            return hypotenuse;
        case Fn::sign:
            return sign_of;
        case Fn::floor:
            return round_down;
        case Fn::ceil:
            return round_up;
        case Fn::rint:
            return round_near;
        case Fn::trunc:
            return whole_part;
        case Fn::mod:
            return remainder_of;
        case Fn::minimum:
            return lower;
        case Fn::maximum:
            return higher;
        case Fn::clip:
            return one_by_one<Fn::clip, 3>;
        case Fn::where:
            return choose_kernel;
        case Fn::isnan:
            return is_missing;
        case Fn::nan_to_num:
            return replace_missing;
        case Fn::number:
            return copy;
        case Fn::bitwise_and:
            return one_by_one<Fn::bitwise_and, 2>;
        case Fn::bitwise_or:
            return one_by_one<Fn::bitwise_or, 2>;
        case Fn::bitwise_xor:
            return one_by_one<Fn::bitwise_xor, 2>;
        case Fn::left_shift:
            return one_by_one<Fn::left_shift, 2>;
        case Fn::right_shift:
            return one_by_one<Fn::right_shift, 2>;
        case Fn::bit:
            return one_by_one<Fn::bit, 2>;
        default:
            return nullptr;
    }
}

}  // namespace rendak::formula
