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

// A macro because target_clones wants plain functions. `x`, `y`, `z`, `w` are the operands of one sample.
#define RENDAK_KERNEL(name, expression)                                                                \
    RENDAK_CLONES void name([[maybe_unused]] float* __restrict__ out, [[maybe_unused]] const float* a, \
                            [[maybe_unused]] const float* b, [[maybe_unused]] const float* c,          \
                            [[maybe_unused]] const float* d, std::size_t n) {                          \
        for (std::size_t i = 0; i < n; ++i) {                                                          \
            out[i] = expression;                                                                       \
        }                                                                                              \
    }
#define RENDAK_COMPARE(name, comparison) \
    RENDAK_KERNEL(name, (((a[i] == a[i]) & (b[i] == b[i])) ? ((comparison) ? 1.0F : 0.0F) : missing))

RENDAK_KERNEL(negate, -a[i])
RENDAK_KERNEL(logical_not, a[i] == a[i] ? (a[i] == 0 ? 1.0F : 0.0F) : missing)
RENDAK_KERNEL(add, a[i] + b[i])
RENDAK_KERNEL(subtract, a[i] - b[i])
RENDAK_KERNEL(multiply, a[i] * b[i])
RENDAK_KERNEL(divide, b[i] == 0 ? missing : a[i] / b[i])
RENDAK_COMPARE(less, a[i] < b[i])
RENDAK_COMPARE(less_equal, a[i] <= b[i])
RENDAK_COMPARE(greater, a[i] > b[i])
RENDAK_COMPARE(greater_equal, a[i] >= b[i])
RENDAK_COMPARE(equal, a[i] == b[i])
RENDAK_COMPARE(not_equal, a[i] != b[i])
RENDAK_COMPARE(logical_and, (a[i] != 0) & (b[i] != 0))
RENDAK_COMPARE(logical_or, (a[i] != 0) | (b[i] != 0))
RENDAK_KERNEL(absolute, std::abs(a[i]))
RENDAK_KERNEL(square_root, std::sqrt(a[i]))
RENDAK_KERNEL(hypotenuse, std::sqrt(a[i] * a[i] + b[i] * b[i]))
RENDAK_KERNEL(lower, ((a[i] == a[i]) & (b[i] == b[i])) ? (a[i] < b[i] ? a[i] : b[i]) : missing)
RENDAK_KERNEL(higher, ((a[i] == a[i]) & (b[i] == b[i])) ? (a[i] > b[i] ? a[i] : b[i]) : missing)
RENDAK_KERNEL(sign_of, a[i] == a[i] ? (a[i] > 0 ? 1.0F : a[i] < 0 ? -1.0F : 0.0F) : missing)
RENDAK_KERNEL(round_down, std::floor(a[i]))
RENDAK_KERNEL(round_up, std::ceil(a[i]))
RENDAK_KERNEL(round_near, std::nearbyint(a[i]))
RENDAK_KERNEL(whole_part, std::trunc(a[i]))
RENDAK_KERNEL(is_missing, a[i] == a[i] ? 0.0F : 1.0F)
RENDAK_KERNEL(replace_missing, a[i] == a[i] ? a[i] : b[i])
RENDAK_KERNEL(copy, a[i])
RENDAK_KERNEL(square_kernel, a[i] * a[i])
RENDAK_KERNEL(square_sum_kernel, a[i] * a[i] + b[i] * b[i])
RENDAK_KERNEL(multiply_add_kernel, a[i] * b[i] + c[i])
RENDAK_KERNEL(choose_kernel, a[i] == a[i] ? (a[i] != 0 ? b[i] : c[i]) : missing)
RENDAK_KERNEL(choose_less_kernel, ((a[i] == a[i]) & (b[i] == b[i])) ? (a[i] < b[i] ? c[i] : d[i]) : missing)
RENDAK_KERNEL(choose_less_equal_kernel, ((a[i] == a[i]) & (b[i] == b[i])) ? (a[i] <= b[i] ? c[i] : d[i]) : missing)

// The library's functions, a sample at a time.
RENDAK_KERNEL(power, std::pow(a[i], b[i]))
RENDAK_KERNEL(cube_root, std::cbrt(a[i]))
RENDAK_KERNEL(exponential, std::exp(a[i]))
RENDAK_KERNEL(natural_log, a[i] > 0 ? std::log(a[i]) : missing)
RENDAK_KERNEL(decimal_log, a[i] > 0 ? std::log10(a[i]) : missing)
RENDAK_KERNEL(binary_log, a[i] > 0 ? std::log2(a[i]) : missing)
RENDAK_KERNEL(sine, std::sin(a[i]))
RENDAK_KERNEL(cosine, std::cos(a[i]))
RENDAK_KERNEL(tangent, std::tan(a[i]))
RENDAK_KERNEL(arc_sine, std::asin(a[i]))
RENDAK_KERNEL(arc_cosine, std::acos(a[i]))
RENDAK_KERNEL(arc_tangent, std::atan(a[i]))
RENDAK_KERNEL(arc_tangent_2, std::atan2(a[i], b[i]))
RENDAK_KERNEL(remainder_of, b[i] == 0 ? missing : a[i] - b[i] * std::floor(a[i] / b[i]))

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
