#pragma once

#include <span>
#include <vector>

#include "core/signal/channel.h"

namespace rendak {

/// Filters and moving windows over plain samples. Missing samples (NaN) stay missing; the stretches between them are
/// treated one by one by the recursive filters and by Savitzky-Golay, and windows use what is there. Shapes: the result
/// has as many samples as the input.

enum class Pass { low, high };

/// Highest order of the Butterworth filters.
inline constexpr int most_filter_order = 8;

/// Zero-phase Butterworth filter, forwards and backwards, in second-order sections (Butterworth 1930); at the ends the
/// signal is continued by an odd reflection of 3 (order + 1) samples, and the filter starts settled on its first one.
/// cutoff_hz is where one pass has lost 3 dB; it must lie below half the sample rate.
[[nodiscard]] std::vector<float> butterworth(std::span<const float> x, double rate_hz, Pass pass, double cutoff_hz,
                                             int order);

/// Local polynomials (Savitzky & Golay 1964): the deriv-th derivative, per second^deriv, of the polynomial fitted to
/// `window` samples (odd) around each sample; at the ends the polynomial of the first or last window is used. Stretches
/// shorter than the window become missing.
[[nodiscard]] std::vector<float> savitzky_golay(std::span<const float> x, double rate_hz, int window, int order,
                                                int deriv);

enum class Window { mean, low, high, median };

/// Over the samples within size_s / 2 to either side; at the ends over those that there are.
[[nodiscard]] std::vector<float> moving(std::span<const float> x, const SampleClock& clock, Window kind, double size_s);

}  // namespace rendak
