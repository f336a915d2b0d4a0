#include "core/video/log_offset.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/text.h"
#include "core/signal/correlation.h"

namespace rendak {
namespace {

constexpr double log_apart_s = 2, least_shared_s = 20, most_off_mps = 1, clearly = 2;

/// Root mean square of the difference at a lag in steps, parts of them too; infinite where too little is shared.
double off_at(const std::vector<float>& log, const std::vector<float>& run, double lag) {
    double xx = 0, xy = 0, yy = 0, count = 0;
    for (std::size_t i = 0; i < log.size(); ++i) {
        const double at = static_cast<double>(i) + lag, below = std::floor(at);
        if (below < 0 || below + 1 >= static_cast<double>(run.size())) continue;
        const auto k = static_cast<std::size_t>(below);
        const double there =
            static_cast<double>(run[k]) * (1 - at + below) + static_cast<double>(run[k + 1]) * (at - below);
        const double here = static_cast<double>(log[i]);
        if (!std::isfinite(there + here)) continue;
        xx += here * here;
        xy += here * there;
        yy += there * there;
        count += 1;
    }
    if (count * DriveSignals::step_s < least_shared_s || xx <= 0) return std::numeric_limits<double>::infinity();
    // Wheels may be told a few percent off.
    const double factor = std::clamp(xy / xx, 0.95, 1.05);
    return std::sqrt(std::max(0.0, yy - 2 * factor * xy + factor * factor * xx) / count);
}

}  // namespace

Result<double> offset_of_log(const Recording& log, const Recording& run) {
    const DriveSignals of_log = drive_signals(log), of_run = drive_signals(run);
    if (of_log.speed_mps.empty() || of_run.speed_mps.empty())
        return fail(ErrorCode::not_found, "The log or the run has no speed: they cannot be held against each other.");
    const Correlation found = correlation_by_lag(of_log.speed_mps, of_run.speed_mps,
                                                 static_cast<std::size_t>(least_shared_s / DriveSignals::step_s));
    std::vector<float> left = found.r;
    struct Try {
        double lag, off_mps;
    };
    std::vector<Try> tries;
    const auto beside = static_cast<std::ptrdiff_t>(log_apart_s / DriveSignals::step_s);
    constexpr std::size_t most_tries = 30;
    while (tries.size() < most_tries && !left.empty()) {
        const auto top = std::max_element(left.begin(), left.end());
        if (!(*top > 0)) break;
        const std::ptrdiff_t at = top - left.begin();
        Try best{0, std::numeric_limits<double>::infinity()};
        const auto look = [&](double lag) {
            if (const double off = off_at(of_log.speed_mps, of_run.speed_mps, lag); off < best.off_mps)
                best = {lag, off};
        };
        for (int k = -20; k <= 20; ++k) look(static_cast<double>(found.lag(static_cast<std::size_t>(at)) + k));
        for (int k = -9; k <= 9; ++k) look(std::round(best.lag) + 0.1 * k);
        if (std::isfinite(best.off_mps)) tries.push_back(best);
        for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, at - beside);
             k <= std::min(static_cast<std::ptrdiff_t>(left.size()) - 1, at + beside); ++k)
            left[static_cast<std::size_t>(k)] = 0;
    }
    const auto best =
        std::min_element(tries.begin(), tries.end(), [](const Try& a, const Try& b) { return a.off_mps < b.off_mps; });
    if (best == tries.end() || best->off_mps > most_off_mps)
        return fail(
            ErrorCode::not_found,
            "The log is not of this run" + (best == tries.end() ? std::string(", or shares less than 20 s with it.")
                                                                : ": where they fit best, their speeds are " +
                                                                      fixed(3.6 * best->off_mps, 1) + " km/h apart."));
    for (const Try& it : tries)
        if (std::abs(it.lag - best->lag) * DriveSignals::step_s > log_apart_s && it.off_mps < clearly * best->off_mps)
            return fail(ErrorCode::not_found, "The log fits this run at more than one place.");
    return of_run.begin_s - of_log.begin_s + best->lag * DriveSignals::step_s;
}

Result<OffsetHint> hint_of_log(std::optional<double> film_start_unix_s, const Recording& log, const Recording& run) {
    if (!film_start_unix_s || !log.start_unix_s)
        return fail(ErrorCode::not_found, "The film or the camera's log has no date.");
    const auto on_run = offset_of_log(log, run);
    if (!on_run) return pass_on(on_run.error());
    // A whole second is the one that has begun.
    return OffsetHint{*on_run + *film_start_unix_s - *log.start_unix_s + 0.5, 1, "the camera's log", true};
}

}  // namespace rendak
