#include "core/video/film_cue.h"

#include <array>
#include <limits>
#include <numbers>
#include <optional>

#include "core/signal/correlation.h"

namespace rendak {
namespace {

constexpr double step_s = DriveSignals::step_s, least_r = 0.35, least_sound = 5, least_local_r = 0.6;
/// How many windows there must be, and what of them must fit at all.
constexpr double least_windows = 6, least_share = 0.5;
/// Of windows whose errors are known: what squares in standard errors may be on average, what one counts at most, and
/// what no window is told better than.
constexpr double most_mean_square = 2.5, most_square = 9, finest_s = 0.015;
/// Of others: how much they may scatter.
constexpr double most_scatter_s = 0.08;
/// A camera's clock may run so much otherwise.
constexpr double most_drift = 5e-4;

constexpr auto in_window = static_cast<std::size_t>(film_window_s / step_s);

/// The top of how well neighbouring shifts fit, to a part of a step, and how sharply it is told: what is left over
/// against how much the top bends, of a window with a sample every 0.2 s. Infinite where it lies at the end, or fits
/// less than `least`.
WindowLag top_of(const std::array<double, 2 * look_steps + 1>& fits, double least) {
    const auto top = std::max_element(fits.begin(), fits.end());
    WindowLag out{std::numeric_limits<double>::infinity(), 0};
    if (*top < least || top == fits.begin() || top + 1 == fits.end()) return out;
    const double bend = *(top - 1) - 2 * *top + *(top + 1);
    const double part = bend < 0 ? std::clamp(0.5 * (*(top - 1) - *(top + 1)) / bend, -0.5, 0.5) : 0;
    constexpr double samples = film_window_s / 0.2;
    out.beside = static_cast<double>(top - fits.begin()) - look_steps + part;
    out.sd = std::sqrt(std::max(1 - *top * *top, 1e-6) / (samples * std::max(-bend, 1e-9)));
    return out;
}

/// The line of a camera's clock through the windows: those that lie far off count less (Huber 1964).
struct ClockLine {
    double middle_w = 0, middle = 0, slope = 0;
    [[nodiscard]] double at(std::size_t w) const { return middle + slope * (static_cast<double>(w) - middle_w); }
};
ClockLine clock_line(const std::vector<WindowLag>& each, double begin) {
    ClockLine out;
    out.middle = begin;
    constexpr double finest = finest_s / step_s, most = most_drift * film_window_s / step_s;
    for (int round = 0; round < 4; ++round) {
        double n = 0, w_sum = 0, lag_sum = 0;
        std::vector<double> weight(each.size(), 0);
        for (std::size_t w = 0; w < each.size(); ++w) {
            if (!each[w].fits()) continue;
            const double sd = std::hypot(each[w].sd, finest), off = std::abs(each[w].beside - out.at(w)) / sd;
            weight[w] = (off > 3 ? 3 / off : 1) / (sd * sd);
            n += weight[w];
            w_sum += weight[w] * static_cast<double>(w);
            lag_sum += weight[w] * each[w].beside;
        }
        if (n <= 0) return out;
        double across = 0, wide = 0;
        for (std::size_t w = 0; w < each.size(); ++w) {
            const double along = static_cast<double>(w) - w_sum / n;
            if (weight[w] > 0) across += weight[w] * along * (each[w].beside - lag_sum / n);
            wide += weight[w] * along * along;
        }
        out = {w_sum / n, lag_sum / n, wide > 0 ? std::clamp(across / wide, -most, most) : 0};
    }
    return out;
}

Windows gathered(std::vector<WindowLag> each) {
    Windows out;
    out.each = std::move(each);
    out.squares.assign(out.each.size(), std::nan(""));
    std::vector<double> fitting;
    for (const WindowLag& it : out.each) {
        out.count += it.tells() ? 1 : 0;
        if (it.fits()) fitting.push_back(it.beside);
    }
    if (fitting.empty()) {
        for (std::size_t w = 0; w < out.each.size(); ++w)
            if (out.each[w].tells()) out.squares[w] = most_square;
        out.mean_square = most_square;
        return out;
    }
    out.share = static_cast<double>(fitting.size()) / out.count;
    std::nth_element(fitting.begin(), fitting.begin() + static_cast<std::ptrdiff_t>(fitting.size() / 2), fitting.end());
    out.middle = fitting[fitting.size() / 2];
    const ClockLine line = clock_line(out.each, out.middle);
    // A few windows that are far off (a hand before the lens, a pass) are held to 0.3 s.
    constexpr double farthest = 0.3 / step_s, finest = finest_s / step_s;
    double scatter = 0;
    for (std::size_t w = 0; w < out.each.size(); ++w) {
        const WindowLag& it = out.each[w];
        if (!it.tells()) continue;
        const double off = it.fits() ? std::min(std::abs(it.beside - out.middle), farthest) : farthest;
        scatter += off * off;
        const double errors = it.fits() ? (it.beside - line.at(w)) / std::hypot(it.sd, finest) : most_square;
        out.squares[w] = std::min(errors * errors, most_square);
        out.mean_square += out.squares[w] / out.count;
    }
    out.scatter = std::sqrt(std::max(scatter / out.count, 0.04));
    return out;
}

/// Two signals that go along with each other.
class Alike : public FilmCue {
  public:
    /// `each_s`: seconds of signal that count as one independent sample.
    Alike(const char* title, std::vector<float> film, std::vector<float> data, double film_begin_s, double data_begin_s,
          double each_s, double sign, bool local)
        : FilmCue(title, film_begin_s, data_begin_s), film_(std::move(film)), data_(std::move(data)), local_(local) {
        double n = 0, sum = 0, squares = 0;
        for (const float it : data_) {
            if (!std::isfinite(it)) continue;
            n += 1;
            sum += static_cast<double>(it);
            squares += static_cast<double>(it) * static_cast<double>(it);
        }
        data_width_ = n > 0 ? squares / n - sum * sum / n / n : 0;
        for (float& it : film_) it *= static_cast<float>(sign);
        const Correlation found = correlation_by_lag(film_, data_, static_cast<std::size_t>(least_shared_s / step_s));
        first_lag = found.first_lag;
        overlap_ = found.overlap;
        for (std::size_t k = 0; k < found.r.size(); ++k) {
            const double r = std::clamp(static_cast<double>(found.r[k]), -0.999, 0.999);
            fits.push_back(r);
            z.push_back(std::atanh(r) *
                        std::sqrt(std::max(0.0, static_cast<double>(found.overlap[k]) * step_s / each_s - 3)));
        }
    }
    [[nodiscard]] double least_fit() const override { return least_r; }

    /// Where a lag is right, the windows lie beside it by no more than each is unsure; on another lap each lies as much
    /// beside it as that lap was driven otherwise, and more is left over. A ratio of likelihoods over the windows that
    /// both have (normal errors) and of what is left over (a sample every 2 s), as standard errors (Wilks 1938).
    [[nodiscard]] std::optional<double> better_by(std::ptrdiff_t a, std::ptrdiff_t b) const override {
        const double apart = (z_at(a) - z_at(b)) / std::numbers::sqrt2;
        if (!local_) return apart;
        const Windows &of_a = windows_at(a), &of_b = windows_at(b);
        if (of_a.count < least_windows) return apart;
        double shared = 0, sum = 0;
        for (std::size_t w = 0; w < of_a.squares.size(); ++w) {
            if (std::isnan(of_a.squares[w]) || std::isnan(of_b.squares[w])) continue;
            ++shared;
            sum += (of_b.squares[w] - of_a.squares[w]) / 2;
        }
        if (shared < of_a.count / 2) return std::nullopt;
        if (fit_at(a) > 0 && fit_at(b) > 0) {
            const double left_a = 1 - top_fit(a) * top_fit(a), left_b = 1 - top_fit(b) * top_fit(b);
            sum += std::min(overlap_s(a), overlap_s(b)) / 2 * std::log(left_b / left_a) / 2;
        }
        return std::copysign(std::sqrt(2 * std::abs(sum)), sum);
    }
    [[nodiscard]] bool holds(std::ptrdiff_t lag) const override {
        if (!local_) return true;
        const Windows& it = windows_at(lag);
        return it.count >= least_windows && it.mean_square <= most_mean_square;
    }

  protected:
    [[nodiscard]] std::vector<WindowLag> window_lags(std::ptrdiff_t lag) const override {
        std::vector<WindowLag> out(film_.size() / in_window);
        if (!local_) return out;
        for (std::size_t w = 0; w < out.size(); ++w) {
            if (!moves(w * in_window, lag)) continue;
            std::array<double, 2 * look_steps + 1> near{};
            bool there = true;
            for (int k = -look_steps; k <= look_steps && there; ++k) {
                const auto r = alike(w * in_window, lag + k);
                there = r.has_value();
                near[static_cast<std::size_t>(k + look_steps)] = r.value_or(0);
            }
            if (there) out[w] = top_of(near, least_local_r);
        }
        return out;
    }

  private:
    /// Where the data do not move, the film tells nothing: a tenth of what they move over all.
    [[nodiscard]] bool moves(std::size_t from, std::ptrdiff_t lag) const {
        double n = 0, sum = 0, squares = 0;
        for (std::size_t i = from; i < from + in_window; ++i) {
            const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(i) + lag;
            if (at < 0 || at >= static_cast<std::ptrdiff_t>(data_.size())) return false;
            const double x = static_cast<double>(data_[static_cast<std::size_t>(at)]);
            if (!std::isfinite(x)) continue;
            n += 1;
            sum += x;
            squares += x * x;
        }
        return n > 0 && squares - sum * sum / n > 0.15 * n * data_width_;
    }
    /// Pearson's of one window; none where it is not there.
    [[nodiscard]] std::optional<double> alike(std::size_t from, std::ptrdiff_t lag) const {
        double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0, syy = 0;
        for (std::size_t i = from; i < from + in_window; ++i) {
            const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(i) + lag;
            if (at < 0 || at >= static_cast<std::ptrdiff_t>(data_.size())) return std::nullopt;
            const double x = static_cast<double>(data_[static_cast<std::size_t>(at)]),
                         y = static_cast<double>(film_[i]);
            if (!std::isfinite(x) || !std::isfinite(y)) continue;
            n += 1;
            sx += x;
            sy += y;
            sxx += x * x;
            sxy += x * y;
            syy += y * y;
        }
        const double wide_x = sxx - sx * sx / n, wide_y = syy - sy * sy / n;
        if (n < static_cast<double>(in_window) * 0.8 || !(wide_x > 0) || !(wide_y > 0)) return std::nullopt;
        return (sxy - sx * sy / n) / std::sqrt(wide_x * wide_y);
    }
    [[nodiscard]] double overlap_s(std::ptrdiff_t lag) const {
        const std::ptrdiff_t i = lag - first_lag;
        return i >= 0 && i < static_cast<std::ptrdiff_t>(overlap_.size())
                   ? static_cast<double>(overlap_[static_cast<std::size_t>(i)]) * step_s
                   : 0;
    }
    std::vector<float> film_, data_, overlap_;
    double data_width_ = 0;  ///< mean square about the mean
    bool local_;
};

/// The sound at a multiple of the revs, whichever fits: the engine's own turns, or its firing.
class Heard : public FilmCue {
  public:
    Heard(const EngineSound& sound, const std::vector<float>& revs_hz, double data_begin_s)
        // A moment's window reaches as far behind as before its middle.
        : FilmCue("sound", sound.begin_s + EngineSound::window_s / 2, data_begin_s),
          sound_(sound),
          revs_(revs_hz),
          pitch_(revs_hz.size(), unknown) {
        double low = 1e9, high = 0;
        for (const float it : revs_hz) {
            if (!(it > 5)) continue;
            low = std::min(low, static_cast<double>(it));
            high = std::max(high, static_cast<double>(it));
        }
        if (!(high > low)) return;
        const auto columns = static_cast<int>(std::ceil(24 * std::log2(high / low))) + 1;
        // An engine that never changes its pitch tells nothing.
        if (columns < 6 || columns > static_cast<int>(EngineSound::pitches)) return;
        std::vector<float> here(revs_hz.size(), 0.0F);
        for (std::size_t i = 0; i < revs_hz.size(); ++i) {
            if (!(revs_hz[i] > 5)) continue;
            pitch_[i] = static_cast<int>(std::lround(24 * std::log2(static_cast<double>(revs_hz[i]) / low)));
            here[i] = 1;
        }
        add_up(columns, low, here);
    }
    [[nodiscard]] double least_fit() const override { return least_sound; }

    /// Windows scatter less where an offset is right (a ratio of variances, each known to so many windows with tails as
    /// they are here).
    [[nodiscard]] std::optional<double> better_by(std::ptrdiff_t a, std::ptrdiff_t b) const override {
        const double apart = (z_at(a) - z_at(b)) / std::numbers::sqrt2;
        const Windows &of_a = windows_at(a), &of_b = windows_at(b);
        if (of_a.count < least_windows || of_b.count < least_windows || of_a.share == 0) return apart;
        if (of_b.share == 0) return std::max(apart, 10.0);
        constexpr double each = 2.5;
        const double by_windows =
            2 * std::log(of_b.scatter / of_a.scatter) / std::sqrt(each / of_a.count + each / of_b.count);
        return std::max(apart, by_windows);
    }
    [[nodiscard]] bool holds(std::ptrdiff_t lag) const override {
        const Windows& it = windows_at(lag);
        return it.count >= least_windows && it.share >= least_share && it.scatter * step_s <= most_scatter_s;
    }

  protected:
    [[nodiscard]] std::vector<WindowLag> window_lags(std::ptrdiff_t lag) const override {
        std::vector<WindowLag> out(sound_.moments() / in_window);
        for (std::size_t w = 0; w < out.size(); ++w) {
            std::array<double, 2 * look_steps + 1> near{};
            double low = std::numeric_limits<double>::infinity(), high = 0;
            bool there = true;
            for (int k = -look_steps; k <= look_steps && there; ++k) {
                double sum = 0, count = 0;
                for (std::size_t i = w * in_window; i < (w + 1) * in_window; ++i) {
                    const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(i) + lag + k;
                    if (at < 0 || at >= static_cast<std::ptrdiff_t>(revs_.size())) continue;
                    const double revs = static_cast<double>(revs_[static_cast<std::size_t>(at)]);
                    if (!(revs > 5)) continue;
                    // Between two pitches: rounded to one, a slow rise would be told late.
                    const double pitch = 24 * std::log2(revs * times_ / EngineSound::lowest_hz),
                                 below = std::floor(pitch);
                    if (below < 0 || below + 1 >= static_cast<double>(EngineSound::pitches)) continue;
                    const auto row = static_cast<std::size_t>(below);
                    low = std::min(low, pitch);
                    high = std::max(high, pitch);
                    sum += static_cast<double>(sound_.loud[row][i]) * (1 - pitch + below) +
                           static_cast<double>(sound_.loud[row + 1][i]) * (pitch - below);
                    ++count;
                }
                there = count > 0.8 * static_cast<double>(in_window);
                near[static_cast<std::size_t>(k + look_steps)] = there ? sum / count : 0;
            }
            // A steady pitch fits at every shift.
            if (!there || high - low < 6) continue;
            out[w] = top_of(near, -std::numeric_limits<double>::infinity());
        }
        return out;
    }

  private:
    static constexpr int unknown = -100000;

    void add_up(int columns, double low, const std::vector<float>& here) {
        const std::size_t moments = sound_.moments();
        const ProductSums sums(moments, here.size());
        std::vector<ProductSums::Transform> loud, when;
        for (const auto& row : sound_.loud) loud.push_back(sums.transform_a(row));
        for (int c = 0; c < columns; ++c) {
            std::vector<float> at(here.size(), 0.0F);
            for (std::size_t i = 0; i < here.size(); ++i) at[i] = pitch_[i] == c ? 1.0F : 0.0F;
            when.push_back(sums.transform_b(at));
        }
        const std::vector<float> ones(moments, 1.0F);
        auto counting = sums.nothing();
        ProductSums::add(counting, sums.transform_a(ones), sums.transform_b(here));
        const std::vector<float> overlap = sums.sums(counting);
        first_lag = -static_cast<std::ptrdiff_t>(moments - 1);
        z.assign(overlap.size(), 0);
        double best = 0;
        // Half the turns (a cycle of four strokes) to eight times them.
        for (double times = 0.5; times <= 8; times += 0.5) {
            const int shift = static_cast<int>(std::lround(24 * std::log2(low * times / EngineSound::lowest_hz)));
            auto sum = sums.nothing();
            int used = 0;
            for (int c = 0; c < columns; ++c) {
                const int row = c + shift;
                if (row < 0 || row >= static_cast<int>(EngineSound::pitches)) continue;
                ProductSums::add(sum, loud[static_cast<std::size_t>(row)], when[static_cast<std::size_t>(c)]);
                ++used;
            }
            if (used * 10 < columns * 9) continue;
            const std::vector<double> how = above_usual(sums.sums(sum), overlap);
            const double top = how.empty() ? 0 : *std::max_element(how.begin(), how.end());
            if (top <= best) continue;
            best = top;
            times_ = times;
            z = how;
        }
        fits = z;
    }
    /// By how many times their scatter over all lags sums stand above their mean; weighed by how long they share.
    static std::vector<double> above_usual(const std::vector<float>& total, const std::vector<float>& overlap) {
        std::vector<double> mean(total.size(), std::nan(""));
        double all = 0, squares = 0, count = 0;
        for (std::size_t k = 0; k < total.size(); ++k) {
            if (static_cast<double>(overlap[k]) * step_s < least_shared_s) continue;
            mean[k] = static_cast<double>(total[k]) / std::sqrt(static_cast<double>(overlap[k]));
            all += mean[k];
            squares += mean[k] * mean[k];
            ++count;
        }
        if (count < 10) return {};
        const double usual = all / count, width = std::sqrt(std::max(1e-12, squares / count - usual * usual));
        for (double& it : mean) it = std::isfinite(it) ? (it - usual) / width : 0;
        return mean;
    }

    const EngineSound& sound_;
    std::vector<float> revs_;
    std::vector<int> pitch_;
    double times_ = 1;
};

}  // namespace

const Windows& FilmCue::windows_at(std::ptrdiff_t lag) const {
    const auto known = known_.find(lag);
    return known != known_.end() ? known->second : known_.emplace(lag, gathered(window_lags(lag))).first->second;
}

std::vector<float> on_even_steps(const std::vector<double>& times, const std::vector<float>& values, double begin_s) {
    std::vector<float> out;
    if (times.empty() || values.size() != times.size()) return out;
    const auto count = static_cast<std::size_t>((times.back() - begin_s) / step_s) + 1;
    out.assign(count, std::numeric_limits<float>::quiet_NaN());
    std::vector<double> sum(count, 0), weight(count, 0);
    for (std::size_t i = 0; i < times.size(); ++i) {
        if (!std::isfinite(values[i])) continue;
        // Shared between the two steps it lies between.
        const double at = (times[i] - begin_s) / step_s;
        const double below = std::floor(at);
        for (const double k : {below, below + 1}) {
            if (k < 0 || k >= static_cast<double>(count)) continue;
            const double w = 1 - std::abs(at - k);
            if (w <= 0) continue;
            sum[static_cast<std::size_t>(k)] += w * static_cast<double>(values[i]);
            weight[static_cast<std::size_t>(k)] += w;
        }
    }
    for (std::size_t k = 0; k < count; ++k)
        if (weight[k] > 0.05) out[k] = static_cast<float>(sum[k] / weight[k]);
    // Frames farther apart than a step leave holes.
    for (std::size_t k = 1; k + 1 < count; ++k)
        if (!std::isfinite(out[k]) && std::isfinite(out[k - 1]) && std::isfinite(out[k + 1]))
            out[k] = (out[k - 1] + out[k + 1]) / 2;
    return out;
}

std::vector<float> calmed(const std::vector<float>& in) {
    constexpr std::ptrdiff_t half = 6;
    std::vector<float> out(in.size(), std::numeric_limits<float>::quiet_NaN());
    for (std::ptrdiff_t i = 0; i < static_cast<std::ptrdiff_t>(in.size()); ++i) {
        double sum = 0, weight = 0;
        for (std::ptrdiff_t k = -half; k <= half; ++k) {
            const std::ptrdiff_t at = i + k;
            if (at < 0 || at >= static_cast<std::ptrdiff_t>(in.size()) ||
                !std::isfinite(in[static_cast<std::size_t>(at)]))
                continue;
            const double w = static_cast<double>(half + 1 - std::abs(k));
            sum += w * static_cast<double>(in[static_cast<std::size_t>(at)]);
            weight += w;
        }
        if (weight > 30) out[static_cast<std::size_t>(i)] = static_cast<float>(sum / weight);
    }
    return out;
}

std::unique_ptr<FilmCue> alike_cue(const char* title, std::vector<float> film, std::vector<float> data,
                                   double film_begin_s, double data_begin_s, double each_s, double sign,
                                   bool by_windows) {
    return std::make_unique<Alike>(title, std::move(film), std::move(data), film_begin_s, data_begin_s, each_s, sign,
                                   by_windows);
}

std::unique_ptr<FilmCue> sound_cue(const EngineSound& sound, const std::vector<float>& revs_hz, double data_begin_s) {
    return std::make_unique<Heard>(sound, revs_hz, data_begin_s);
}

}  // namespace rendak
