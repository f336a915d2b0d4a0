#include "core/laps/counted_laps.h"

#include <algorithm>
#include <cmath>
#include <string>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/laps/standstill.h"
#include "core/signal/overview.h"
#include "core/track/speed_source.h"

namespace rendak {
namespace {

/// Where the logger says that the line was crossed.
struct Lines {
    std::vector<double> at_s;
    std::string by;        ///< "the logger's lap counter"
    double good_to_s = 0;  ///< half the time between two samples
};

double sample_s(const Channel& channel) {
    return 1 / std::max(channel.clock.mean_rate_hz(), 0.01);
}

/// A running lap time rises by a second a second and begins again at the line.
Lines by_running_time(const Recording& recording) {
    const Channel* running = recording.find_logged("lap_time");
    if (running == nullptr || running->size() < 3) return {};
    Lines out{{}, "the logger's running lap time", 0};
    std::size_t rising = 0, steady = 0;
    for (std::size_t i = 1; i < running->size(); ++i) {
        const double before = running->at(i - 1), now = running->at(i);
        const double passed = running->clock.time_at(i) - running->clock.time_at(i - 1);
        if (!std::isfinite(before) || !std::isfinite(now)) continue;
        if (now < before - 1 && now < 5) {
            out.at_s.push_back(running->clock.time_at(i) - now);
            continue;
        }
        ++steady;
        if (std::abs(now - before - passed) < 0.2 * passed + 0.01) ++rising;
    }
    // A held time of the lap before is none that runs.
    if (2 * rising < steady) return {};
    out.good_to_s = 0.01;
    return out;
}

Lines by_beacon(const Recording& recording) {
    const Channel* beacon = recording.find_logged("lap_beacon");
    if (beacon == nullptr || beacon->size() < 3) return {};
    const MinMax all = min_max(*beacon, 0, beacon->size());
    if (all.empty() || all.high <= all.low) return {};
    const double half = 0.5 * (all.low + all.high);
    Lines out{{}, "the logger's beacon", 0.5 * sample_s(*beacon)};
    for (std::size_t i = 1; i < beacon->size(); ++i) {
        if (!(beacon->at(i) > half) || beacon->at(i - 1) > half) continue;
        const double at = beacon->clock.time_at(i) - 0.5 * (beacon->clock.time_at(i) - beacon->clock.time_at(i - 1));
        out.at_s.push_back(at);
    }
    return out;
}

Lines by_counter(const Recording& recording) {
    const Channel* count = recording.find_logged("lap_count");
    if (count == nullptr || count->size() < 3) return {};
    Lines out{{}, "the logger's lap counter", 0.5 * sample_s(*count)};
    std::size_t last = 0;
    for (std::size_t i = 1; i < count->size(); ++i) {
        if (!std::isfinite(count->at(i))) continue;
        // A counter that begins again (the logger was switched on anew) is no line.
        if (count->at(i) > count->at(last))
            out.at_s.push_back(count->clock.time_at(i) - 0.5 * (count->clock.time_at(i) - count->clock.time_at(i - 1)));
        last = i;
    }
    return out;
}

/// By the speed; 0 where none is logged.
double driven_m(const SpeedSource& speed, Interval time_s) {
    constexpr double step_s = 0.05;
    double sum = 0;
    if (!speed.exists()) return sum;
    for (double t = time_s.begin + 0.5 * step_s; t < time_s.end; t += step_s) {
        const double v = speed.at(t);
        if (std::isfinite(v)) sum += v * step_s;
    }
    return sum;
}

}  // namespace

std::vector<Lap> counted_laps(const Recording& recording) {
    Lines lines = by_running_time(recording);
    if (lines.at_s.empty()) lines = by_beacon(recording);
    if (lines.at_s.empty()) lines = by_counter(recording);
    if (lines.at_s.empty()) return {};
    const Interval all = recording.span_s();
    constexpr double one_line_s = 5;  // pulses and steps that shiver are one line
    std::vector<double> edges{all.begin};
    for (const double at : lines.at_s) {
        const double after = edges.size() == 1 ? 0 : one_line_s;
        if (at > edges.back() + after) edges.push_back(at);
    }
    edges.push_back(std::max(all.end, edges.back()));

    const SpeedSource speed(recording, SpeedSource::Prefer::gps);
    const std::vector<Interval> stands = standstills(recording);
    std::vector<Lap> laps;
    std::vector<double> times;
    for (std::size_t k = 0; k + 1 < edges.size(); ++k) {
        Lap lap{static_cast<int>(k), LapKind::flying, edges[k], edges[k + 1]};
        lap.length_m = driven_m(speed, {lap.start_s, lap.end_s});
        double stood_s = 0;
        for (const Interval& it : stands)
            stood_s = std::max(stood_s, std::min(it.end, lap.end_s) - std::max(it.begin, lap.start_s));
        if (k == 0 || k + 2 == edges.size()) {
            lap.kind = k == 0 ? LapKind::out : LapKind::in;
            lap.reason = k == 0 ? "before the first line" : "after the last line";
        } else {
            lap.included = true;
            lap.reason = "cut by " + lines.by + " (lines good to " + fixed(lines.good_to_s, 2) + " s)";
            if (stood_s >= 2) {
                lap.kind = LapKind::stopped;
                lap.included = false;
                lap.reason = "stood for " + fixed(stood_s, 0) + " s; " + lap.reason;
            } else {
                times.push_back(lap.time_s());
            }
        }
        laps.push_back(std::move(lap));
    }
    if (times.size() < 3) return laps;
    const double middle = median_of(times);
    const auto doubt = [&](std::size_t k, const std::string& what) {
        if (laps[k].kind == LapKind::flying) laps[k].doubt = what;
    };
    for (std::size_t k = 1; k + 1 < laps.size(); ++k) {
        const double share = laps[k].time_s() / middle;
        if (share >= 1.6)
            doubt(k, fixed(share, 1) + " times as long as the other laps: the logger may have missed a line");
        if (share > 0.5) continue;
        // A line told twice parts one lap in two: with which of its neighbours it makes a whole one.
        const std::string twice =
            "parted by a line that may have been told twice: " + fixed(laps[k].time_s(), 1) + " s";
        doubt(k, twice);
        const auto off_whole = [&](std::size_t with) {
            return std::abs(laps[k].time_s() + laps[with].time_s() - middle);
        };
        const std::size_t other = off_whole(k - 1) < off_whole(k + 1) ? k - 1 : k + 1;
        if (off_whole(other) < 0.1 * middle) doubt(other, twice);
    }
    return laps;
}

}  // namespace rendak
