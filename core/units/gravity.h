// Standard gravity (3rd General Conference on Weights and Measures, 1901): what "g" means wherever people read it.
#pragma once

namespace rendak {

inline constexpr double standard_gravity_mps2 = 9.80665;

}  // namespace rendak
