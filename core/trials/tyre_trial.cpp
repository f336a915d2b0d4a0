#include "core/trials/tyre_trial.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/corner_peaks.h"
#include "core/analysis/set_difference.h"
#include "core/base/text.h"

namespace rendak {
namespace {

constexpr double brakes_within_m = 250;

double mean_or_nan(const std::vector<double>& values) {
    return values.empty() ? std::nan("") : mean_value(values);
}

/// Hardest braking and highest pressure on the way to a corner.
struct Braking {
    double mps2 = std::nan(""), pressure = std::nan("");
};
Braking braking_before(const PreparedLap& lap, const Corner& corner, double last_end_m) {
    const Interval way{std::max(last_end_m, corner.start_m - brakes_within_m), corner.apex_m};
    Braking out;
    const DriverActivity activity = lap.activity();
    double sum = 0;
    std::size_t count = 0;
    for (double t = lap.map.time_at(way.begin); t < lap.map.time_at(way.end); t += 0.02) {
        if (!activity.known() || !activity.braking(t)) continue;
        sum += 0.02;
        ++count;
    }
    if (count == 0 || sum < 0.2) return out;
    out.mps2 = -figures_in_range(lap, "longitudinal_acceleration", way).low;
    out.pressure = figures_in_range(lap, "brake_front", way).high;
    return out;
}

std::string percent(double ratio) {
    return std::string(ratio >= 1 ? "+" : "−") + fixed(std::abs(100 * (ratio - 1)), 1) + " %";
}

}  // namespace

std::optional<TyreTrial> tyre_trial(const LapSet& a, const LapSet& b, const ChangeTrial& trial) {
    const RunRow &before = a.runs.front()->row, &after = b.runs.front()->row;
    if (!before.tyre_laps || !after.tyre_laps || *before.tyre_laps - *after.tyre_laps < 3) return std::nullopt;
    TyreTrial out;
    const CornerPeaks peaks_a = corner_peaks(a.laps, true), peaks_b = corner_peaks(b.laps, true);
    double grip = 0, grips = 0, effort = 0, efforts = 0;
    double last_end = 0;
    for (std::size_t k = 0; k < peaks_a.corners.size() && k < peaks_b.corners.size(); ++k) {
        const Corner& corner = peaks_a.corners[k].corner;
        TyreCorner row;
        row.corner = corner.number;
        row.name = corner.title();
        std::vector<double> peak_a, peak_b, slowest, brake_a, brake_b, press_a, press_b;
        for (const auto& lap : peaks_a.laps) {
            peak_a.push_back(std::abs(lap[k].peak_mps2));
            slowest.push_back(lap[k].slowest_mps);
        }
        for (const auto& lap : peaks_b.laps) peak_b.push_back(std::abs(lap[k].peak_mps2));
        for (const PreparedLap& lap : a.laps) {
            const Braking one = braking_before(lap, corner, last_end);
            brake_a.push_back(one.mps2);
            press_a.push_back(one.pressure);
        }
        for (const PreparedLap& lap : b.laps) {
            const Braking one = braking_before(lap, corner, last_end);
            brake_b.push_back(one.mps2);
            press_b.push_back(one.pressure);
        }
        last_end = corner.end_m;
        peak_a = finite_values(peak_a);
        peak_b = finite_values(peak_b);
        brake_a = finite_values(brake_a);
        brake_b = finite_values(brake_b);
        if (peak_a.empty() || peak_b.empty()) continue;
        row.slowest_mps = mean_or_nan(finite_values(slowest));
        row.peak_a_mps2 = mean_value(peak_a);
        row.peak_b_mps2 = mean_value(peak_b);
        row.likely_peak = likely_difference(peak_a, peak_b);
        row.braking_a_mps2 = mean_or_nan(brake_a);
        row.braking_b_mps2 = mean_or_nan(brake_b);
        if (!brake_a.empty() && !brake_b.empty()) row.likely_braking = likely_difference(brake_a, brake_b);
        row.effort_a = mean_or_nan(finite_values(press_a));
        row.effort_b = mean_or_nan(finite_values(press_b));
        grip += row.peak_b_mps2 / row.peak_a_mps2;
        ++grips;
        if (row.effort_a > 0 && row.effort_b > 0) {
            effort += row.effort_b / row.effort_a;
            ++efforts;
        }
        out.corners.push_back(std::move(row));
    }
    if (grips == 0) return std::nullopt;
    out.grip = grip / grips;
    out.effort = efforts > 0 ? effort / efforts : std::nan("");
    const auto part = [&](LapPart which) { return trial.parts[static_cast<std::size_t>(which)]; };
    out.slow = part(LapPart::slow_corners);
    out.middle = part(LapPart::middle_corners);
    out.fast = part(LapPart::fast_corners);
    out.braking = part(LapPart::braking);
    out.text = "On tyres that are " + fixed(*before.tyre_laps - *after.tyre_laps, 0) +
               " laps newer the car corners with " + percent(out.grip) + " of lateral acceleration";
    if (std::isfinite(out.effort))
        out.text += "; the brake is pressed " + percent(out.effort) +
                    (out.effort > 1.03 ? ": a part of what braking gains is the driver's" : "");
    out.text += ".";
    return out;
}

}  // namespace rendak
