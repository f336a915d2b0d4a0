#pragma once

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/video/drive_signals.h"
#include "core/video/engine_sound.h"

namespace rendak {

// What find_offset() holds a film against a run with. A lag is a shift in steps of DriveSignals: at lag k step i of the
// film lies on step i + k of the data.

/// Seconds that a film and a run have to share for a lag to be looked at.
inline constexpr double least_shared_s = 20;
/// A film is held against the data window by window, too, each so long, and so many steps to both sides of a lag.
inline constexpr double film_window_s = 4;
inline constexpr int look_steps = 24;

/// Values of a film on the data's steps; NaN where there is no frame.
[[nodiscard]] std::vector<float> on_even_steps(const std::vector<double>& times_s, const std::vector<float>& values,
                                               double begin_s);
/// Mean over a third of a second: what shakes a camera is quicker, and what turns a car is not.
[[nodiscard]] std::vector<float> calmed(const std::vector<float>& in);

/// Where one window of a film fits beside a lag, in steps, and how sure that is (standard error; 0: not known).
/// Infinite where it fits nowhere near, NaN where it tells nothing.
struct WindowLag {
    double beside = std::numeric_limits<double>::quiet_NaN(), sd = 0;
    [[nodiscard]] bool tells() const { return !std::isnan(beside); }
    [[nodiscard]] bool fits() const { return std::isfinite(beside); }
};

/// How the windows of a film lie about a lag.
struct Windows {
    std::vector<WindowLag> each;
    double count = 0;    ///< that tell something
    double share = 0;    ///< of them that fit near it
    double middle = 0;   ///< of where they fit, steps
    double scatter = 0;  ///< root mean square about it, those that fit nowhere counted as far off, steps
    /// Squares of how far each lies off in its own standard errors, about a line that a camera's clock may draw; those
    /// that are far off are held to 9. NaN: tells nothing.
    std::vector<double> squares;
    double mean_square = 0;
};

/// One way of telling where a film lies.
class FilmCue {
  public:
    FilmCue(std::string title, double film_begin_s, double data_begin_s)
        : name(std::move(title)), film_begin_s_(film_begin_s), data_begin_s_(data_begin_s) {}
    virtual ~FilmCue() = default;
    FilmCue(const FilmCue&) = delete;
    FilmCue& operator=(const FilmCue&) = delete;

    std::string name;
    std::ptrdiff_t first_lag = 0;
    std::vector<double> z, fits;  ///< by lag: standard errors above nothing; how well it fits

    [[nodiscard]] double offset_s(double lag) const {
        return data_begin_s_ - film_begin_s_ + lag * DriveSignals::step_s;
    }
    [[nodiscard]] double lag(double offset_s) const {
        return (offset_s - data_begin_s_ + film_begin_s_) / DriveSignals::step_s;
    }
    [[nodiscard]] double film_begin_s() const { return film_begin_s_; }
    [[nodiscard]] const Windows& windows_at(std::ptrdiff_t lag) const;
    [[nodiscard]] virtual double least_fit() const = 0;
    /// By how many standard errors one lag is better than another one; nothing where the other one has too little of
    /// the film for that.
    [[nodiscard]] virtual std::optional<double> better_by(std::ptrdiff_t a, std::ptrdiff_t b) const = 0;
    /// Whether the windows say that a lag is right, apart from all others.
    [[nodiscard]] virtual bool holds(std::ptrdiff_t lag) const = 0;

    [[nodiscard]] double z_at(std::ptrdiff_t lag) const { return at(z, lag); }
    [[nodiscard]] double fit_at(std::ptrdiff_t lag) const { return at(fits, lag); }
    /// Nothing farther from an offset is looked at.
    void keep_near(double offset, double within_s) {
        for (std::size_t k = 0; k < z.size(); ++k)
            if (std::abs(offset_s(static_cast<double>(first_lag) + static_cast<double>(k)) - offset) > within_s)
                z[k] = fits[k] = 0;
    }

    /// The best lag within a step of this one, to a part of a step.
    [[nodiscard]] double finely(std::ptrdiff_t lag) const {
        std::ptrdiff_t best = lag;
        for (std::ptrdiff_t k = lag - 4; k <= lag + 4; ++k)
            if (z_at(k) > z_at(best)) best = k;
        const double left = z_at(best - 1), here = z_at(best), right = z_at(best + 1), bend = left - 2 * here + right;
        return static_cast<double>(best) + (bend < 0 ? std::clamp(0.5 * (left - right) / bend, -0.5, 0.5) : 0);
    }

    /// How well it fits at the best place about a lag, between the steps, too.
    [[nodiscard]] double top_fit(std::ptrdiff_t lag) const {
        std::ptrdiff_t best = lag;
        for (std::ptrdiff_t k = lag - 2; k <= lag + 2; ++k)
            if (fit_at(k) > fit_at(best)) best = k;
        const double left = fit_at(best - 1), here = fit_at(best), right = fit_at(best + 1),
                     bend = left - 2 * here + right;
        const bool top = bend < 0 && here >= left && here >= right;  // else it lies on a slope
        return std::min(0.99999, top ? here - (left - right) * (left - right) / (8 * bend) : here);
    }

  protected:
    [[nodiscard]] virtual std::vector<WindowLag> window_lags(std::ptrdiff_t lag) const = 0;

  private:
    [[nodiscard]] double at(const std::vector<double>& values, std::ptrdiff_t lag) const {
        const std::ptrdiff_t i = lag - first_lag;
        return i >= 0 && i < static_cast<std::ptrdiff_t>(values.size()) ? values[static_cast<std::size_t>(i)] : 0;
    }
    double film_begin_s_, data_begin_s_;
    mutable std::map<std::ptrdiff_t, Windows> known_;
};

/// Two signals that go along with each other. `each_s`: seconds that count as one independent sample; `sign` −1: they
/// go against each other; `by_windows`: it moves enough to be told apart window by window.
[[nodiscard]] std::unique_ptr<FilmCue> alike_cue(const char* title, std::vector<float> film, std::vector<float> data,
                                                 double film_begin_s, double data_begin_s, double each_s, double sign,
                                                 bool by_windows);
/// The sound at that multiple of the revs which fits best: the engine's own turns, or its firing. The sound must
/// outlive it.
[[nodiscard]] std::unique_ptr<FilmCue> sound_cue(const EngineSound& sound, const std::vector<float>& revs_hz,
                                                 double data_begin_s);

}  // namespace rendak
