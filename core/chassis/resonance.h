#pragma once

#include <optional>

#include "core/signal/spectrum.h"

namespace rendak {

/// How a body swings on its spring over a road that is as uneven at every wavelength (a road's slope has an even
/// spectrum: ISO 8608): the spectrum of the travel is that of one mass on spring and damper,
/// S / ((f0² − f²)² + (2 ζ f0 f)²).
struct Resonance {
    double hz = 0;       ///< f0, undamped
    double damping = 0;  ///< ζ, share of critical
    double misfit = 0;   ///< root mean square of ln(measured / fitted)
};
/// Least squares of the logarithms over the band; none where the spectrum has fewer than eight steps there, or another
/// shape (misfit above 0.5), or its best place is at the end of what was tried.
[[nodiscard]] std::optional<Resonance> resonance_of(const Spectrum& travel, Interval band_hz = {1.5, 9});

}  // namespace rendak
