#include "core/video/film_cue.h"

#include <array>
#include <limits>
#include <optional>

#include "core/signal/correlation.h"

namespace rendak {
namespace {

constexpr double step_s = DriveSignals::step_s, least_r = 0.35, least_sound = 5, least_local_r = 0.6;

constexpr auto in_window = static_cast<std::size_t>(film_window_s / step_s);

/// The top of how well neighbouring shifts fit, to a part of a step; infinite where it lies at the end.
double top_of(const std::array<double, 2 * look_steps + 1>& fits) {
    const auto top = std::max_element(fits.begin(), fits.end());
    if (top == fits.begin() || top + 1 == fits.end()) return std::numeric_limits<double>::infinity();
    const double bend = *(top - 1) - 2 * *top + *(top + 1);
    const double part = bend < 0 ? std::clamp(0.5 * (*(top - 1) - *(top + 1)) / bend, -0.5, 0.5) : 0;
    return static_cast<double>(top - fits.begin()) - look_steps + part;
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
    [[nodiscard]] std::vector<double> local_lags(std::ptrdiff_t lag) const override {
        std::vector<double> out(film_.size() / in_window, std::nan(""));
        if (!local_) return out;
        for (std::size_t w = 0; w < out.size(); ++w) {
            std::array<double, 2 * look_steps + 1> near{};
            bool there = true;
            double best = 0;
            for (int k = -look_steps; k <= look_steps && there; ++k) {
                const auto r = alike(w * in_window, lag + k);
                there = r.has_value();
                if (!there) break;
                near[static_cast<std::size_t>(k + look_steps)] = *r;
                best = std::max(best, *r);
            }
            if (!there) continue;
            out[w] = best < least_local_r ? std::numeric_limits<double>::infinity() : top_of(near);
        }
        return out;
    }
    [[nodiscard]] double least_fit() const override { return least_r; }
    [[nodiscard]] double closer_by(std::ptrdiff_t a, std::ptrdiff_t b) const override {
        // Variances of what is left, each known to two samples a second.
        const double left_a = 1 - top_fit(a) * top_fit(a), left_b = 1 - top_fit(b) * top_fit(b);
        const double samples_a = overlap_s(a), samples_b = overlap_s(b);
        if (!local_ || fit_at(a) <= 0 || samples_a < least_shared_s || samples_b < least_shared_s) return 0;
        return std::log(left_b / left_a) / std::sqrt(1 / samples_a + 1 / samples_b);
    }

  private:
    /// Pearson's of one window; none where it hardly moves or is not there.
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
        // Where the data do not move, the film tells nothing: a tenth of what they move over all.
        if (n < static_cast<double>(in_window) * 0.8 || !(wide_x > 0.15 * n * data_width_) || !(wide_y > 0))
            return std::nullopt;
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
    [[nodiscard]] std::vector<double> local_lags(std::ptrdiff_t lag) const override {
        std::vector<double> out(sound_.moments() / in_window, std::nan(""));
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
            out[w] = top_of(near);
        }
        return out;
    }
    [[nodiscard]] double least_fit() const override { return least_sound; }

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
