#pragma once

#include <array>
#include <cmath>
#include <optional>
#include <string>
#include <vector>

#include "core/analysis/fuel_effect.h"
#include "core/analysis/lap_figures.h"
#include "core/analysis/settling.h"
#include "core/base/job.h"
#include "core/intake/run_data.h"
#include "core/intake/wheels.h"

namespace rendak {

/// A reading of a wheel (mean of each lap; of what adds up the lap's last value) over a stint.
struct StintReading {
    std::size_t kind = 0, wheel = 0;        ///< places in wheel_kinds() and wheel_ids
    std::string channel, unit;              ///< SI
    std::vector<double> values = {};        ///< of the laps that are complete, NaN where it is not logged
    std::optional<Settling> settling = {};  ///< over all of them
    std::optional<LapTrend> trend = {};     ///< over those that count and are warm
    double goes_with_pace =
        std::numeric_limits<double>::quiet_NaN();  ///< correlation with the lap times, weight taken out
};

/// Of a kind of reading, over the laps that count and are warm (of what adds up: at the last lap); SI, NaN where it is
/// not logged.
struct StintBalance {
    std::size_t kind = 0;
    std::array<double, 4> mean;  ///< of each wheel
    double front_minus_rear = std::nan(""), left_minus_right_front = std::nan(""), left_minus_right_rear = std::nan("");
    double spread = std::nan("");  ///< highest minus lowest wheel
};

/// What happens to the pace of a run over its laps.
struct Stint {
    std::vector<int> laps;               ///< complete ones
    std::vector<char> counts;            ///< of each: neither traffic nor doubt nor left out
    std::vector<char> cold;              ///< tyres or pressures not come in yet, or not again after a stop
    std::vector<double> time_s, fuel_l;  ///< fuel: mean of the lap; NaN: not logged
    /// Lap times as if the car had not become lighter since the first of these laps; the times themselves where it is
    /// not known what a litre costs.
    std::vector<double> steady_s;
    std::optional<double> s_per_litre;  ///< told by whoever asks, else `fuel effect` of the car sheet, else fitted
    std::optional<FuelEffect> fitted;   ///< when it is; none where a stint cannot tell it from its tyres
    std::vector<StintReading> readings;
    std::optional<int> settled_from;   ///< the lap from which all readings that settle have
    std::optional<LapTrend> fall_off;  ///< of steady_s, over the laps that count and are warm
    std::optional<BreakAway> breaks;   ///< where it does so faster
    std::vector<StintBalance> balances;
    std::string text;  ///< the same in sentences

    /// A lap that sets means and lines.
    [[nodiscard]] bool tells(std::size_t k) const { return counts[k] != 0 && cold[k] == 0; }
    /// The first complete lap is 1.
    [[nodiscard]] int lap_of_stint(std::size_t k) const { return laps[k] - laps.front() + 1; }
    [[nodiscard]] const StintReading* reading(std::size_t kind, std::size_t wheel) const;
    [[nodiscard]] const StintBalance* balance(std::size_t kind) const;
    /// Values of the laps that tell.
    [[nodiscard]] std::vector<double> telling(const std::vector<double>& values) const;
};
/// Fails where the run has no complete lap.
[[nodiscard]] Result<Stint> stint_of(const std::shared_ptr<const RunData>& run,
                                     std::optional<double> s_per_litre = std::nullopt, const JobContext& job = {});

}  // namespace rendak
