// A value that is not there.
#pragma once

#include <limits>

namespace rendak {

inline constexpr double missing = std::numeric_limits<double>::quiet_NaN();

}  // namespace rendak
