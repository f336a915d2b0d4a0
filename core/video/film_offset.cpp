#include "core/video/film_offset.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/text.h"
#include "core/signal/correlation.h"

namespace rendak {
namespace {

constexpr double step_s = DriveSignals::step_s;
constexpr double least_overlap_s = 20, apart_s = 2;
/// What a cue must be better by than its second best, in standard errors; and two of them together.
constexpr double clear_enough = 4, least_r = 0.35;

/// Of a film, on the data's steps; NaN where there is no frame.
std::vector<float> even(const std::vector<double>& times, const std::vector<float>& values, double begin_s) {
    std::vector<float> out;
    if (times.empty()) return out;
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

struct Score {
    std::ptrdiff_t first_lag = 0;
    std::vector<double> z;  ///< standard errors above nothing, by lag
    std::vector<double> fits;
};

/// Seconds of signal that count as one independent sample.
Score of_correlation(const Correlation& it, double seconds_each, double sign) {
    Score out;
    out.first_lag = it.first_lag;
    out.z.resize(it.r.size(), 0);
    out.fits.resize(it.r.size(), 0);
    for (std::size_t k = 0; k < it.r.size(); ++k) {
        const double r = std::clamp(sign * static_cast<double>(it.r[k]), -0.999, 0.999);
        const double count = std::max(0.0, static_cast<double>(it.overlap[k]) * step_s / seconds_each - 3);
        out.fits[k] = r;
        out.z[k] = std::atanh(r) * std::sqrt(count);
    }
    return out;
}

/// Best lag, in steps and parts of one, and how clear it is.
struct Best {
    std::size_t at = 0;
    double lag = 0, clear = 0, fits = 0;
};
std::optional<Best> best_of(const Score& score) {
    if (score.z.size() < 3) return std::nullopt;
    const auto top = std::max_element(score.z.begin(), score.z.end());
    if (!(*top > 0)) return std::nullopt;
    Best out;
    out.at = static_cast<std::size_t>(top - score.z.begin());
    out.fits = score.fits[out.at];
    double second = 0;
    const auto beside = static_cast<std::ptrdiff_t>(apart_s / step_s);
    for (std::size_t k = 0; k < score.z.size(); ++k)
        if (std::abs(static_cast<std::ptrdiff_t>(k) - static_cast<std::ptrdiff_t>(out.at)) > beside)
            second = std::max(second, score.z[k]);
    // The difference of two that do not know of each other.
    out.clear = (*top - second) / std::sqrt(2.0);
    double part = 0;
    if (out.at > 0 && out.at + 1 < score.z.size()) {
        const double left = score.z[out.at - 1], right = score.z[out.at + 1], bend = left - 2 * *top + right;
        if (bend < 0) part = std::clamp(0.5 * (left - right) / bend, -0.5, 0.5);
    }
    out.lag = static_cast<double>(score.first_lag + static_cast<std::ptrdiff_t>(out.at)) + part;
    return out;
}

/// The sound at a multiple of the revs, whichever fits: an engine's own, or its firing.
Score of_sound(const EngineSound& sound, const std::vector<float>& revs_hz) {
    Score out;
    const std::size_t moments = sound.moments();
    const ProductSums sums(moments, revs_hz.size());
    // How far each pitch of the revs is from the lowest one, in columns.
    std::vector<int> pitch(revs_hz.size(), -1000);
    double low = 1e9, high = 0;
    for (std::size_t i = 0; i < revs_hz.size(); ++i) {
        if (!(revs_hz[i] > 5)) continue;
        low = std::min(low, static_cast<double>(revs_hz[i]));
        high = std::max(high, static_cast<double>(revs_hz[i]));
    }
    if (!(high > low)) return out;
    const auto columns = static_cast<int>(std::ceil(24 * std::log2(high / low))) + 1;
    if (columns < 6 || columns > static_cast<int>(EngineSound::pitches)) return out;  // it never changes its pitch
    std::vector<float> here(revs_hz.size(), 0.0F);
    for (std::size_t i = 0; i < revs_hz.size(); ++i) {
        if (!(revs_hz[i] > 5)) continue;
        pitch[i] = static_cast<int>(std::lround(24 * std::log2(static_cast<double>(revs_hz[i]) / low)));
        here[i] = 1;
    }
    std::vector<ProductSums::Transform> loud, when;
    for (const auto& row : sound.loud) loud.push_back(sums.transform_a(row));
    for (int c = 0; c < columns; ++c) {
        std::vector<float> at(revs_hz.size(), 0.0F);
        for (std::size_t i = 0; i < revs_hz.size(); ++i) at[i] = pitch[i] == c ? 1.0F : 0.0F;
        when.push_back(sums.transform_b(at));
    }
    const std::vector<float> ones(moments, 1.0F);
    auto counting = sums.nothing();
    ProductSums::add(counting, sums.transform_a(ones), sums.transform_b(here));
    const std::vector<float> overlap = sums.sums(counting);
    out.first_lag = -static_cast<std::ptrdiff_t>(moments - 1);
    out.z.assign(overlap.size(), 0);
    out.fits.assign(overlap.size(), 0);
    // Half the revs (a cycle of four strokes) to eight times them.
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
        const std::vector<float> total = sums.sums(sum);
        std::vector<double> mean(total.size(), 0);
        double all = 0, squares = 0, count = 0;
        for (std::size_t k = 0; k < total.size(); ++k) {
            if (static_cast<double>(overlap[k]) * step_s < least_overlap_s) continue;
            // Weighed by how long they share: short overlaps scatter more.
            mean[k] = static_cast<double>(total[k]) / std::sqrt(static_cast<double>(overlap[k]));
            all += mean[k];
            squares += mean[k] * mean[k];
            ++count;
        }
        if (count < 10) continue;
        const double usual = all / count, width = std::sqrt(std::max(1e-12, squares / count - usual * usual));
        for (std::size_t k = 0; k < total.size(); ++k) {
            if (mean[k] == 0) continue;
            const double z = (mean[k] - usual) / width;
            if (z > out.z[k]) {
                out.z[k] = z;
                out.fits[k] = z;
            }
        }
    }
    return out;
}

/// A moment in the last third at which the car does something that is to be seen.
double telling_moment(const DriveSignals& drive, const FilmOffset& at, Interval film_s) {
    double best = -1, out = film_s.begin + 0.8 * film_s.length();
    for (double t = film_s.begin + 0.6 * film_s.length(); t < film_s.end - 1; t += step_s) {
        const auto i = static_cast<std::ptrdiff_t>(std::lround((at.run_s(t) - drive.begin_s) / step_s));
        const auto& yaw = drive.yaw_radps.empty() ? drive.speed_mps : drive.yaw_radps;
        if (i < 10 || i + 10 >= static_cast<std::ptrdiff_t>(yaw.size())) continue;
        const double turn = std::abs(
            static_cast<double>(yaw[static_cast<std::size_t>(i + 10)] - yaw[static_cast<std::size_t>(i - 10)]));
        if (turn > best) {
            best = turn;
            out = t;
        }
    }
    return out;
}

}  // namespace

OffsetFound find_offset(const DriveSignals& drive, const FilmMotion* motion, const EngineSound* sound) {
    OffsetFound out;
    const auto least = static_cast<std::size_t>(least_overlap_s / step_s);
    struct Told {
        Score score;
        std::string name;
        double zero_s;  ///< offset at lag 0
    };
    std::vector<Told> told;
    double begin_s = 0, end_s = 0;
    if (motion != nullptr && !motion->time_s.empty()) {
        begin_s = motion->time_s.front();
        end_s = motion->time_s.back();
        const std::vector<float> across = even(motion->time_s, motion->across, begin_s);
        if (!drive.yaw_radps.empty() && across.size() > least) {
            const Correlation fits = correlation(across, drive.yaw_radps, least);
            Score upright = of_correlation(fits, 1.5, 1), turned = of_correlation(fits, 1.5, -1);
            const auto a = best_of(upright), b = best_of(turned);
            // A camera that hangs upside down and does not say so.
            out.upside_down =
                b && b->clear > clear_enough && b->fits > 0.5 && (!a || a->clear < 2 || a->fits < 0.7 * b->fits);
            told.push_back(
                {out.upside_down ? std::move(turned) : std::move(upright), "turning", drive.begin_s - begin_s});
        }
        std::vector<float> change = even(motion->time_s, motion->change, begin_s);
        for (float& it : change) it = std::log(std::max(it, 1e-3F));
        if (!drive.speed_mps.empty() && change.size() > least) {
            std::vector<float> speed = drive.speed_mps;
            for (float& it : speed) it = std::log(std::max(it, 0.5F));
            told.push_back(
                {of_correlation(correlation(change, speed, least), 6, 1), "moving", drive.begin_s - begin_s});
        }
    }
    if (sound != nullptr && sound->moments() > least && !drive.revs_hz.empty()) {
        // A moment's window reaches as far behind as before its middle.
        const double middle = sound->begin_s + 0.08;
        if (motion == nullptr) {
            begin_s = middle;
            end_s = middle + step_s * static_cast<double>(sound->moments());
        }
        told.push_back({of_sound(*sound, drive.revs_hz), "sound", drive.begin_s - middle});
    }
    if (told.empty()) {
        out.why =
            "It cannot be told: the film and the run have nothing to be held against each other, or less than 20 s.";
        return out;
    }
    for (const Told& it : told) {
        if (const auto best = best_of(it.score))
            out.cues.push_back({it.name, it.zero_s + best->lag * step_s, best->fits, best->clear});
    }
    // All together, on the first one's steps.
    const Told& first = told.front();
    Score all = first.score;
    for (std::size_t n = 1; n < told.size(); ++n) {
        const auto shift = static_cast<std::ptrdiff_t>(std::lround((first.zero_s - told[n].zero_s) / step_s)) +
                           first.score.first_lag - told[n].score.first_lag;
        for (std::size_t k = 0; k < all.z.size(); ++k) {
            const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(k) + shift;
            // The best within a step: they are a part of one apart.
            double z = 0;
            for (const std::ptrdiff_t i : {at - 1, at, at + 1})
                if (i >= 0 && i < static_cast<std::ptrdiff_t>(told[n].score.z.size()))
                    z = std::max(z, told[n].score.z[static_cast<std::size_t>(i)]);
            all.z[k] = (std::max(0.0, all.z[k]) + z);
        }
    }
    for (double& it : all.z) it /= std::sqrt(static_cast<double>(told.size()));
    const auto best = best_of(all);
    const auto sure_cue = std::find_if(out.cues.begin(), out.cues.end(), [](const OffsetCue& it) {
        return it.clear > clear_enough && (it.name == "sound" ? it.fits > 6 : it.fits > least_r);
    });
    if (!best || best->clear < clear_enough || sure_cue == out.cues.end()) {
        out.why = "It cannot be told by itself: no offset is clearly better than all others. Mark one event in both.";
        return out;
    }
    FilmOffset at;
    at.offset_s = first.zero_s + best->lag * step_s;
    // The finest of those that are clear says where exactly.
    const OffsetCue* fine = nullptr;
    std::string rests;
    for (const char* name : {"turning", "sound", "moving"}) {
        for (const OffsetCue& it : out.cues) {
            if (it.name != name) continue;
            const bool here = std::abs(it.offset_s - at.offset_s) < 0.5;
            const bool clear = it.clear > clear_enough && (it.name == "sound" ? it.fits > 6 : it.fits > least_r);
            if (clear && !here) {
                out.why = "It cannot be told: the " + it.name + " fits " +
                          fixed(std::abs(it.offset_s - at.offset_s), 1) + " s beside the rest.";
                return out;
            }
            if (!here) continue;
            if (fine == nullptr && clear) fine = &it;
            rests += (rests.empty() ? "" : ", ") + it.name;
        }
    }
    if (fine == nullptr) {
        out.why = "It cannot be told by itself: no offset is clearly better than all others. Mark one event in both.";
        return out;
    }
    at.offset_s = fine->offset_s;
    out.at = at;
    out.check_film_s = telling_moment(drive, at, {begin_s, end_s});
    out.why = "Told by " + rests + "; " + fixed(best->clear, 0) + " standard errors better than any other offset.";
    return out;
}

}  // namespace rendak
