#pragma once

#include <memory>
#include <span>
#include <vector>

#include "core/base/interval.h"

namespace rendak {

/// What is taken out of every segment before it is transformed.
enum class Detrend { none, mean, line };

/// One-sided power spectral density at 0, step_hz, 2 step_hz …: its sum over a band times step_hz is the mean square of
/// what moves in that band (Parseval).
struct Spectrum {
    double step_hz = 0;
    std::vector<double> psd;   ///< (unit of the samples)² / Hz
    std::size_t segments = 0;  ///< that it is the mean of; 0: nothing could be told

    [[nodiscard]] bool known() const { return segments > 0; }
    [[nodiscard]] double frequency_hz(std::size_t i) const { return step_hz * static_cast<double>(i); }
    /// Root mean square of what moves within one step about a frequency; of a pure sine on a step the sum of its
    /// neighbours' squares is the sine's.
    [[nodiscard]] double amplitude(std::size_t i) const;
    /// Root mean square of what moves within a band, the steps at its borders in part; NaN when not known.
    [[nodiscard]] double band_rms(Interval band_hz) const;
};

/// Welch's method (Welch 1967): segments that overlap by half, each with what is to be taken out gone and under a Hann
/// window, transformed (FFTW 3: Frigo & Johnson 2005), squared, and averaged. Several stretches add up to one spectrum;
/// no segment reaches over the end of one.
class Welch {
  public:
    /// Segments of `samples` (at least 8).
    Welch(std::size_t samples, double rate_hz, Detrend detrend);
    ~Welch();
    Welch(Welch&&) noexcept;
    Welch& operator=(Welch&&) noexcept;

    /// Segments with a missing sample are left out. How many were taken.
    std::size_t add(std::span<const float> stretch);
    /// The same with so many segments from its first to its last sample, evenly apart: short stretches that are a few
    /// samples longer or shorter from lap to lap are looked at alike. None where it is shorter than a segment.
    std::size_t add_spread(std::span<const float> stretch, std::size_t segments);
    [[nodiscard]] Spectrum spectrum() const;
    /// Forgets what was added.
    void clear();

  private:
    struct Work;
    std::unique_ptr<Work> work_;
};

/// The number of samples nearest to `seconds` of them whose transform is quick (a product of 2, 3 and 5), even.
[[nodiscard]] std::size_t segment_samples(double seconds, double rate_hz);

/// Of one stretch as a whole.
[[nodiscard]] Spectrum spectrum_of(std::span<const float> stretch, double rate_hz, std::size_t segment,
                                   Detrend detrend);

}  // namespace rendak
