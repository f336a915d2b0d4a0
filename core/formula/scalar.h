#pragma once

#include <span>
#include <vector>

#include "core/formula/functions.h"
#include "core/formula/syntax.h"

namespace rendak::formula {

/// One operation on single numbers; conditions are 1 and 0, missing is NaN and stays it. The block kernels and the
/// folding of constants both mean this. Tests hold the two together.
[[nodiscard]] double apply(Op op, double a, double b);
/// A function that works sample by sample; the count of `x` is that of the arguments given.
[[nodiscard]] double apply(const Pointwise& function, std::span<const double> x);

/// Table with straight lines, clamped; xs rises.
[[nodiscard]] double table_at(double x, std::span<const double> xs, std::span<const double> ys);
/// Slopes of the monotone curve through the points (Fritsch and Butland 1984; three-point ends).
[[nodiscard]] std::vector<double> pchip_slopes(std::span<const double> xs, std::span<const double> ys);
[[nodiscard]] double pchip_at(double x, std::span<const double> xs, std::span<const double> ys,
                              std::span<const double> slopes);

}  // namespace rendak::formula
