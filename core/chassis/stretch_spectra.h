#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/chassis/stretches.h"
#include "core/signal/spectrum.h"

namespace rendak {

/// Which wheels of an axle are looked at.
enum class WheelChoice {
    each,      ///< each on its own
    loaded,    ///< the outer one of the stretch's corner
    unloaded,  ///< the inner one
};

/// What is to be transformed, and how.
struct SpectrumWish {
    /// Base of wheel channels ("tyre_load", "damper", "ride_height"), or one channel by its whole name.
    std::string channel = "tyre_load";
    bool front = true, rear = true;  ///< axles, of wheel channels
    WheelChoice wheels = WheelChoice::each;
    double segment_s = 1;
    Detrend detrend = Detrend::line;
    /// What is told as one figure. Below 1 Hz is what the driver does: weight that moves under throttle and brake.
    Interval band_hz{1, 10};
};

/// Where an axle is usually judged: the rear where it has to put the power down, the front alone where it has to turn
/// the car.
[[nodiscard]] StretchKind proposed_stretches(const SpectrumWish& wish);

/// Spectra of one curve (a wheel, or the loaded ones of an axle), a lap each.
struct LapSpectra {
    std::string title;  ///< "FL", "rear, loaded", "damper_x"
    std::vector<Spectrum> laps;
    std::vector<double> bands;  ///< of each lap, root mean square of the wish's band; NaN where it could not be told
    Spectrum mean;
    /// 95 % of the mean at each frequency over the laps (Student 1908), as spectral density; empty with one lap.
    std::vector<double> low, high;

    [[nodiscard]] bool known() const { return mean.known(); }
    /// Bands of the laps that have one.
    [[nodiscard]] std::vector<double> told_bands() const;
};
/// Of the stretches together (each segment counts the same), lap by lap; a lap on which samples of a part are missing,
/// or stuck, is left out. Fails where no lap has the channel, its rate does not show the band, or no stretch is as long
/// as a segment.
[[nodiscard]] Result<std::vector<LapSpectra>> stretch_spectra(std::span<const PreparedLap> laps,
                                                              std::span<const Stretch> stretches,
                                                              const SpectrumWish& wish, const JobContext& job = {});

/// Whether two spectra differ at a frequency more than their laps scatter: −1 b is lower, 1 higher, 0 alike or not
/// told.
[[nodiscard]] std::vector<int> where_they_differ(const LapSpectra& a, const LapSpectra& b);

}  // namespace rendak
