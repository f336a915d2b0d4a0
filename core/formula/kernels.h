#pragma once

#include <cstddef>

#include "core/formula/syntax.h"

namespace rendak::formula {

/// Samples in a block: small enough for a handful of blocks to stay in the nearest cache.
inline constexpr std::size_t block_size = 256;

/// Works on one block: out[i] from a[i] … d[i]; kernels read only as many operands as they need, and `out` overlaps
/// none of them. They mean what scalar.h says, in float32.
using Kernel = void (*)(float* out, const float* a, const float* b, const float* c, const float* d, std::size_t n);

[[nodiscard]] Kernel kernel_of(Op op);

/// What the functions of formulas are made of.
namespace kernels {
extern const Kernel absolute, square_root, cube_root, exponential, natural_log, decimal_log, binary_log, sine, cosine,
    tangent, arc_sine, arc_cosine, arc_tangent, arc_tangent_2, hypotenuse, sign_of, round_down, round_up, round_near,
    whole_part, remainder_of, lower, higher, is_missing, replace_missing, copy;
}  // namespace kernels

/// Several operations in one pass over the block.
namespace fused {
extern const Kernel square;           ///< a²
extern const Kernel square_sum;       ///< a² + b²
extern const Kernel root_square_sum;  ///< √(a² + b²)
extern const Kernel multiply_add;     ///< a b + c
extern const Kernel choose;           ///< b where a holds, else c
extern const Kernel choose_less;      ///< c where a < b, else d
extern const Kernel choose_less_equal;
}  // namespace fused

}  // namespace rendak::formula
