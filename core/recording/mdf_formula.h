#pragma once

#include <functional>
#include <optional>
#include <string_view>

namespace rendak::mdf {

/// The algebraic conversions of MDF 4: one line of arithmetic over the raw value X, as "X*0.5+3" or "sqrt(X1)".
/// Knows + - * / ^, brackets, numbers, pi, and sqrt abs exp log ln log10 sin cos tan asin acos atan pow floor ceil.
/// nullopt when the text holds anything else.
[[nodiscard]] std::optional<std::function<double(double)>> formula_of(std::string_view text);

}  // namespace rendak::mdf
