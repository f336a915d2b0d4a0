#include "core/video/film_motion.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace rendak {
namespace {

constexpr int small_w = 192, small_h = 72, most_px = 24;
/// The parts of the height that are looked at; below is the car itself.
constexpr std::array<std::array<double, 2>, 3> parts{{{0.08, 0.32}, {0.28, 0.46}, {0.42, 0.66}}};

/// Means of the columns over some rows, without the mean of the row.
std::vector<float> columns(std::span<const std::uint8_t> picture, int width, int first, int last) {
    std::vector<float> out(static_cast<std::size_t>(width), 0.0F);
    for (int y = first; y < last; ++y)
        for (int x = 0; x < width; ++x)
            out[static_cast<std::size_t>(x)] += static_cast<float>(picture[static_cast<std::size_t>(y * width + x)]);
    float mean = 0;
    for (const float it : out) mean += it;
    mean /= static_cast<float>(width);
    for (float& it : out) it = (it - mean) / static_cast<float>(last - first);
    return out;
}

/// Mean square of what differs when `after` is moved back by k.
double apart(const std::vector<float>& before, const std::vector<float>& after, int k) {
    double sum = 0;
    int count = 0;
    const int width = static_cast<int>(before.size());
    for (int x = std::max(0, -k); x < std::min(width, width - k); ++x, ++count) {
        const auto d =
            static_cast<double>(before[static_cast<std::size_t>(x)] - after[static_cast<std::size_t>(x + k)]);
        sum += d * d;
    }
    return sum / std::max(1, count);
}

/// Pixels that `after` has moved to the right; NaN where that cannot be told.
float moved(const std::vector<float>& before, const std::vector<float>& after) {
    constexpr float untold = std::numeric_limits<float>::quiet_NaN();
    int best = 0;
    double least = std::numeric_limits<double>::infinity();
    for (int k = -most_px; k <= most_px; ++k) {
        // Nearer ones first where two are as good.
        const double off = apart(before, after, k) * (1 + 0.002 * std::abs(k));
        if (off >= least) continue;
        least = off;
        best = k;
    }
    if (std::abs(best) == most_px) return untold;  // farther than was looked
    double shift = best;
    const int width = static_cast<int>(before.size());
    for (int round = 0; round < 4; ++round) {
        double down = 0, sum = 0;
        int count = 0;
        for (int x = 1; x + 1 < width; ++x) {
            const double at = x + shift;
            if (at < 1 || at > width - 2) continue;
            const auto i = static_cast<std::size_t>(at), here = static_cast<std::size_t>(x);
            const float u = static_cast<float>(at - static_cast<double>(i));
            const float there = after[i] * (1 - u) + after[i + 1] * u;
            const auto slope = static_cast<double>(before[here + 1] - before[here - 1]) / 2;
            sum += slope * static_cast<double>(before[here] - there);
            down += slope * slope;
            ++count;
        }
        if (!(down > 0.02 * count)) return untold;  // nothing that could be held on to
        shift += std::clamp(sum / down, -0.5, 0.5);
    }
    return std::abs(shift - best) < 1.5 ? static_cast<float>(shift) : untold;
}

}  // namespace

Moved moved_between(std::span<const std::uint8_t> before, std::span<const std::uint8_t> after, int width, int height) {
    constexpr float unknown = std::numeric_limits<float>::quiet_NaN();
    const std::size_t size = static_cast<std::size_t>(width) * static_cast<std::size_t>(height);
    double mean_before = 0, mean_after = 0;
    for (std::size_t i = 0; i < size; ++i) {
        mean_before += before[i];
        mean_after += after[i];
    }
    mean_before /= static_cast<double>(size);
    mean_after /= static_cast<double>(size);
    double differs = 0, spread = 0;
    for (std::size_t i = 0; i < size; ++i) {
        differs += std::abs((after[i] - mean_after) - (before[i] - mean_before));
        spread += std::abs(before[i] - mean_before);
    }
    Moved out{{unknown, unknown, unknown}, unknown};
    if (!(spread > 0.5 * static_cast<double>(size))) return out;  // one grey wall
    // A flash or a tunnel's mouth is no motion.
    if (std::abs(mean_after - mean_before) > 25) return out;
    out.change = static_cast<float>(differs / spread);
    for (std::size_t part = 0; part < parts.size(); ++part) {
        const int first = static_cast<int>(height * parts[part][0]), last = static_cast<int>(height * parts[part][1]);
        out.across_px[part] = moved(columns(before, width, first, last), columns(after, width, first, last));
    }
    return out;
}

Result<FilmMotion> film_motion(FilmReader& film, Interval film_s, const JobContext& job) {
    const std::vector<double>& times = film.times_s();
    const auto first =
        static_cast<std::size_t>(std::lower_bound(times.begin(), times.end(), film_s.begin) - times.begin());
    const auto last =
        static_cast<std::size_t>(std::upper_bound(times.begin(), times.end(), film_s.end) - times.begin());
    FilmMotion out;
    if (last < first + 2) return fail(ErrorCode::bad_input, "This part of the film has less than two frames.");
    // More than 35 pictures a second tell nothing more.
    const double rate = static_cast<double>(last - first) / std::max(1e-9, times[last - 1] - times[first]);
    const auto step = static_cast<std::size_t>(std::max(1.0, std::floor(rate / 25)));
    constexpr std::size_t at_once = 64, size = static_cast<std::size_t>(small_w) * small_h;
    std::vector<std::uint8_t> before;
    std::size_t before_frame = 0;
    for (std::size_t number = first; number < last; number += at_once * step) {
        const std::size_t wanted = std::min(at_once, (last - number + step - 1) / step);
        const auto some = film.grey(number, step, wanted, small_w, small_h, job);
        if (!some) return pass_on(some.error());
        const std::size_t made = some->size() / size;
        for (std::size_t k = 0; k < made; ++k) {
            const auto picture = some->subspan(k * size, size);
            const std::size_t frame = number + k * step;
            if (!before.empty()) {
                const double between = times[frame] - times[before_frame];
                const Moved it = moved_between(before, picture, small_w, small_h);
                out.time_s.push_back((times[frame] + times[before_frame]) / 2);
                for (std::size_t part = 0; part < parts.size(); ++part)
                    out.across[part].push_back(it.across_px[part] / small_w /
                                               static_cast<float>(std::max(between, 1e-3)));
                out.change.push_back(it.change);
            }
            before.assign(picture.begin(), picture.end());
            before_frame = frame;
        }
        if (made < wanted) break;
        job.report(static_cast<double>(number - first) / static_cast<double>(last - first));
    }
    return out;
}

}  // namespace rendak
