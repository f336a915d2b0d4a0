#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/text.h"
#include "core/track/by_shape.h"

namespace rendak {
namespace {

/// Length at which the bends repeat themselves, in points of the profile: the shortest of the lags whose correlation
/// is nearly the best.
std::optional<std::size_t> repeats_after(const std::vector<double>& bends, double step_m) {
    constexpr double shortest_m = 400, longest_m = 26e3, needed = 0.7;
    const auto first = static_cast<std::size_t>(shortest_m / step_m);
    const auto last = std::min(static_cast<std::size_t>(longest_m / step_m), bends.size() * 3 / 5);
    std::vector<double> match(last + 1, -1);
    double best = needed;
    for (std::size_t lag = first; lag <= last; ++lag) {
        double ab = 0, aa = 1e-12, bb = 1e-12;
        for (std::size_t i = 0; i + lag < bends.size(); i += 2) {
            ab += bends[i] * bends[i + lag];
            aa += bends[i] * bends[i];
            bb += bends[i + lag] * bends[i + lag];
        }
        match[lag] = ab / std::sqrt(aa * bb);
        best = std::max(best, match[lag]);
    }
    for (std::size_t lag = first + 1; lag < last; ++lag) {
        if (match[lag] < std::max(needed, best - 0.12)) continue;
        // The top of this hill.
        while (lag < last && match[lag + 1] > match[lag]) ++lag;
        return lag;
    }
    return std::nullopt;
}

/// Where along the profile the lap should begin: where the lap counter steps, else at the fastest place of a middle
/// lap.
std::size_t first_point(const Recording& recording, const BendProfile& profile, std::size_t lap) {
    const auto index_at = [&](double t) {
        return static_cast<std::size_t>(std::lower_bound(profile.time_s.begin(), profile.time_s.end(), t) -
                                        profile.time_s.begin());
    };
    if (const Channel* count = recording.find("lap_count")) {
        for (std::size_t i = 1; i < count->size(); ++i) {
            if (!(count->at(i) > count->at(i - 1))) continue;
            const std::size_t at = index_at(count->clock.time_at(i));
            if (at + lap < profile.size()) return at;
        }
    }
    const std::size_t room = profile.size() - lap - 1;
    const std::size_t from = std::min(room, lap / 2);
    std::size_t best = from;
    double least = 1e9;
    for (std::size_t i = from; i <= std::min(room, from + lap); ++i) {
        if (i < 5) continue;
        const double taken = profile.time_s[i] - profile.time_s[i - 5];
        if (taken < least) {
            least = taken;
            best = i;
        }
    }
    return best;
}

}  // namespace

Result<Track> learn_shape(const Recording& recording, const std::string& name) {
    const auto profile = bend_profile(recording);
    if (!profile) return pass_on(profile.error());
    // Two laps say it; a day need not be searched through.
    constexpr double enough_m = 80e3;
    const auto searched = std::min(profile->size(), static_cast<std::size_t>(enough_m / profile->step_m));
    const auto lap =
        repeats_after({profile->curvature.begin(), profile->curvature.begin() + static_cast<std::ptrdiff_t>(searched)},
                      profile->step_m);
    if (!lap) {
        return fail(ErrorCode::bad_input,
                    "No stretch of road repeats itself in this run: without positions a track is learnt from two or "
                    "more laps.",
                    recording.source_name);
    }
    const std::size_t first = first_point(recording, *profile, *lap);
    // Mean bending over the laps that follow.
    std::vector<double> bends(*lap, 0);
    for (std::size_t k = 0; k < *lap; ++k) {
        std::size_t count = 0;
        for (std::size_t i = first + k; i < profile->size() && count < 3; i += *lap, ++count)
            bends[k] += profile->curvature[i];
        bends[k] /= static_cast<double>(std::max<std::size_t>(count, 1));
    }
    const double step = profile->step_m;
    const auto n = static_cast<Eigen::Index>(*lap);
    Eigen::VectorXd bend(n);
    for (Eigen::Index k = 0; k < n; ++k) bend(k) = bends[static_cast<std::size_t>(k)];
    // All the way round the heading turns by a whole number of turns: one mostly, none in a figure of eight.
    const double turns = std::round(bend.sum() * step / (2 * std::numbers::pi)) * 2 * std::numbers::pi;
    // Least squares: the smallest change of the bending that closes the heading and both coordinates (Gauss–Newton).
    for (int round = 0; round < 12; ++round) {
        Eigen::VectorXd x(n + 1), y(n + 1);
        double heading = 0;
        x(0) = y(0) = 0;
        for (Eigen::Index k = 0; k < n; ++k) {
            const double middle = heading + bend(k) * step / 2;
            x(k + 1) = x(k) + step * std::cos(middle);
            y(k + 1) = y(k) + step * std::sin(middle);
            heading += bend(k) * step;
        }
        const Eigen::Vector3d open(turns - heading, -x(n), -y(n));
        if (open.tail<2>().norm() < 0.01 && std::abs(open(0)) < 1e-6) break;
        // A bend at k turns all that comes after it about that point.
        Eigen::MatrixXd effect(3, n);
        for (Eigen::Index k = 0; k < n; ++k) effect.col(k) << step, -(y(n) - y(k)) * step, (x(n) - x(k)) * step;
        bend += effect.transpose() * (effect * effect.transpose()).ldlt().solve(open);
    }
    Track track;
    track.name = name;
    track.shape_only = true;
    track.origin = {0, 0};
    double heading = 0;
    Point at;
    for (Eigen::Index k = 0; k < n; ++k) {
        track.line.push_back(at);
        const double middle = heading + bend(k) * step / 2;
        at = at + Point{std::cos(middle), std::sin(middle)} * step;
        heading += bend(k) * step;
    }
    const Point opening = at;
    for (std::size_t k = 0; k < track.line.size(); ++k)
        track.line[k] = track.line[k] - opening * (static_cast<double>(k) / static_cast<double>(track.line.size()));
    for (std::size_t k = 0; k < track.line.size(); ++k)
        track.length_m += length(track.line[(k + 1) % track.line.size()] - track.line[k]);
    complete_track(track);
    track.start = {track.line.front(), track.tangent.front(), 20};
    return track;
}

}  // namespace rendak
