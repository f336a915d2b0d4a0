#include "core/signal/spectrum.h"

#include <fftw3.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <cstdint>
#include <map>
#include <mutex>
#include <numbers>

#include "core/signal/planning.h"

namespace rendak {
namespace {

/// Memory as FFTW likes it.
template <class T>
struct Aligned {
    explicit Aligned(std::size_t n) : size(n), values(static_cast<T*>(fftwf_malloc(n * sizeof(T)))) {
        if (values == nullptr) throw std::bad_alloc();
    }
    ~Aligned() { fftwf_free(values); }
    Aligned(const Aligned&) = delete;
    Aligned& operator=(const Aligned&) = delete;
    std::size_t size;
    T* values;
};

struct Plan {
    Plan() = default;
    ~Plan() {
        if (made != nullptr) fftwf_destroy_plan(made);
    }
    Plan(const Plan&) = delete;
    Plan& operator=(const Plan&) = delete;
    fftwf_plan made = nullptr;
};

/// Plans are kept, and used by all threads.
fftwf_plan plan_for(std::size_t n, float* in, fftwf_complex* out) {
    static std::map<std::size_t, Plan> plans;
    const std::lock_guard lock(fftw_planning());
    Plan& plan = plans[n];
    if (plan.made == nullptr) plan.made = fftwf_plan_dft_r2c_1d(static_cast<int>(n), in, out, FFTW_ESTIMATE);
    return plan.made;
}

}  // namespace

double Spectrum::amplitude(std::size_t i) const {
    return std::sqrt(psd[i] * step_hz);
}

double Spectrum::band_rms(Interval band_hz) const {
    if (!known()) return std::nan("");
    double sum = 0;
    for (std::size_t i = 0; i < psd.size(); ++i) {
        // The step at 0 and the last one are half as wide: there is nothing below 0 and above half the rate.
        const double low = i == 0 ? 0 : frequency_hz(i) - step_hz / 2, high = frequency_hz(i) + step_hz / 2;
        const double share = std::min(high, band_hz.end) - std::max(low, band_hz.begin);
        const double width = i == 0 ? step_hz / 2 : step_hz;
        if (share > 0) sum += psd[i] * step_hz * std::min(1.0, share / width);
    }
    return std::sqrt(sum);
}

struct Welch::Work {
    std::size_t n;
    double rate_hz;
    Detrend detrend;
    double window_power = 0;  ///< sum of its squares
    std::vector<float> window;
    Aligned<float> in;
    Aligned<fftwf_complex> out;
    fftwf_plan plan;
    std::vector<double> sum;
    std::size_t segments = 0;

    Work(std::size_t samples, double rate, Detrend what)
        : n(std::max<std::size_t>(samples, 8)),
          rate_hz(rate),
          detrend(what),
          window(n),
          in(n),
          out(n / 2 + 1),
          plan(plan_for(n, in.values, out.values)),
          sum(n / 2 + 1, 0) {
        for (std::size_t i = 0; i < n; ++i) {
            const double w = 0.5 - 0.5 * std::cos(2 * std::numbers::pi * static_cast<double>(i) /
                                                  static_cast<double>(n));  // periodic
            window[i] = static_cast<float>(w);
            window_power += w * w;
        }
    }

    /// Whether all samples are there.
    bool take(const float* x) {
        float mean = 0, slope = 0;
        if (detrend == Detrend::none) {
            double all = 0;
            for (std::size_t i = 0; i < n; ++i) all += static_cast<double>(x[i]);
            if (!std::isfinite(all)) return false;
        } else {
            // Eight sums at once: the loop has no chain that it must wait for.
            double parts[8] = {}, turns[8] = {};
            const double middle = static_cast<double>(n - 1) / 2;
            const std::size_t whole = n / 8 * 8;
            for (std::size_t i = 0; i < whole; i += 8)
                for (std::size_t k = 0; k < 8; ++k) parts[k] += static_cast<double>(x[i + k]);
            if (detrend == Detrend::line)
                for (std::size_t i = 0; i < whole; i += 8)
                    for (std::size_t k = 0; k < 8; ++k)
                        turns[k] += (static_cast<double>(i + k) - middle) * static_cast<double>(x[i + k]);
            double all = 0, turn = 0;
            for (std::size_t k = 0; k < 8; ++k) {
                all += parts[k];
                turn += turns[k];
            }
            for (std::size_t i = whole; i < n; ++i) {
                all += static_cast<double>(x[i]);
                turn += (static_cast<double>(i) - middle) * static_cast<double>(x[i]);
            }
            if (!std::isfinite(all)) return false;
            const auto count = static_cast<double>(n);
            mean = static_cast<float>(all / count);
            if (detrend == Detrend::line) slope = static_cast<float>(turn / (count * (count * count - 1) / 12));
        }
        float* const to = in.values;
        const float* const w = window.data();
        if (slope == 0) {
            for (std::size_t i = 0; i < n; ++i) to[i] = (x[i] - mean) * w[i];
        } else {
            const float middle = static_cast<float>(n - 1) / 2;
            for (std::size_t i = 0; i < n; ++i)
                to[i] = (x[i] - mean - slope * (static_cast<float>(static_cast<std::int32_t>(i)) - middle)) * w[i];
        }
        fftwf_execute_dft_r2c(plan, in.values, out.values);
        for (std::size_t i = 0; i < sum.size(); ++i) {
            const float re = out.values[i][0], im = out.values[i][1];
            sum[i] += static_cast<double>(re * re + im * im);
        }
        ++segments;
        return true;
    }
};

Welch::Welch(std::size_t samples, double rate_hz, Detrend detrend)
    : work_(std::make_unique<Work>(samples, rate_hz, detrend)) {}
Welch::~Welch() = default;
Welch::Welch(Welch&&) noexcept = default;
Welch& Welch::operator=(Welch&&) noexcept = default;

std::size_t Welch::add(std::span<const float> stretch) {
    Work& work = *work_;
    const std::size_t before = work.segments;
    for (std::size_t from = 0; from + work.n <= stretch.size(); from += work.n / 2) work.take(stretch.data() + from);
    return work.segments - before;
}

std::size_t Welch::add_spread(std::span<const float> stretch, std::size_t segments) {
    Work& work = *work_;
    if (stretch.size() < work.n || segments == 0) return 0;
    const std::size_t before = work.segments, room = stretch.size() - work.n;
    for (std::size_t k = 0; k < segments; ++k)
        work.take(stretch.data() + (segments == 1 ? room / 2 : k * room / (segments - 1)));
    return work.segments - before;
}

Spectrum Welch::spectrum() const {
    const Work& work = *work_;
    Spectrum out{work.rate_hz / static_cast<double>(work.n), {}, work.segments};
    if (work.segments == 0) return out;
    out.psd.resize(work.sum.size());
    const double scale = 1 / (work.rate_hz * work.window_power * static_cast<double>(work.segments));
    const bool even = work.n % 2 == 0;
    for (std::size_t i = 0; i < out.psd.size(); ++i) {
        // What lies at the negative frequencies is added to the positive ones.
        const bool alone = i == 0 || (even && i + 1 == out.psd.size());
        out.psd[i] = work.sum[i] * scale * (alone ? 1 : 2);
    }
    return out;
}

void Welch::clear() {
    std::fill(work_->sum.begin(), work_->sum.end(), 0);
    work_->segments = 0;
}

std::size_t segment_samples(double seconds, double rate_hz) {
    const double wanted = std::max(8.0, seconds * rate_hz);
    const auto quick = [](std::size_t n) {
        if (n % 2 != 0) return false;
        for (const std::size_t factor : {2U, 3U, 5U})
            while (n % factor == 0) n /= factor;
        return n == 1;
    };
    const auto nearest = static_cast<std::size_t>(std::min(wanted, 1e7) + 0.5);
    for (std::size_t away = 0;; ++away) {
        if (away < nearest && nearest - away >= 8 && quick(nearest - away)) return nearest - away;
        if (quick(nearest + away)) return nearest + away;
    }
}

Spectrum spectrum_of(std::span<const float> stretch, double rate_hz, std::size_t segment, Detrend detrend) {
    Welch welch(segment, rate_hz, detrend);
    welch.add(stretch);
    return welch.spectrum();
}

}  // namespace rendak
