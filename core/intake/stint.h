#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/analysis/lap_figures.h"
#include "core/analysis/settling.h"
#include "core/base/job.h"
#include "core/intake/run_data.h"

namespace rendak {

/// A reading of the tyres (mean of each lap) over a stint.
struct StintReading {
    std::string channel, unit;              ///< SI
    std::vector<double> values = {};        ///< of the laps that are complete, NaN where it is not logged
    std::optional<Settling> settling = {};  ///< over all of them
    std::optional<LapTrend> trend = {};     ///< over those that count, once it has settled
    double goes_with_pace =
        std::numeric_limits<double>::quiet_NaN();  ///< correlation with the lap times, weight taken out
};

/// What happens to the pace of a run over its laps.
struct Stint {
    std::vector<int> laps;               ///< complete ones
    std::vector<char> counts;            ///< of each: neither traffic nor doubt nor left out
    std::vector<double> time_s, fuel_l;  ///< fuel: mean of the lap; NaN: not logged
    /// Lap times as if the car had not become lighter since the first of these laps; the times themselves where it is
    /// not known what a litre costs.
    std::vector<double> steady_s;
    std::optional<double> s_per_litre;  ///< told by whoever asks, else `fuel effect` of the car sheet
    std::vector<StintReading> readings;
    std::optional<int> settled_from;   ///< the lap from which all readings that settle have
    std::optional<LapTrend> fall_off;  ///< of steady_s, over the laps that count from there on
    std::optional<BreakAway> breaks;   ///< where it does so faster
    /// Means over the laps that count from there on, of temperatures and of pressures: front minus rear, left minus
    /// right; SI, NaN where they are not logged.
    struct Balance {
        double front_minus_rear = std::numeric_limits<double>::quiet_NaN();
        double left_minus_right_front = std::numeric_limits<double>::quiet_NaN();
        double left_minus_right_rear = std::numeric_limits<double>::quiet_NaN();
    };
    Balance temperature, pressure;
    std::string text;  ///< the same in sentences
};
[[nodiscard]] Result<Stint> stint_of(const std::shared_ptr<const RunData>& run,
                                     std::optional<double> s_per_litre = std::nullopt, const JobContext& job = {});

/// How much of the laps that count a reading lies in its window of the car sheet.
struct WindowShare {
    std::string channel;
    std::optional<double> low, high;  ///< SI
    double below = 0, inside = 0, above = 0;
    std::size_t laps = 0;
};
struct Windows {
    std::vector<WindowShare> shares;
    std::string sheet;                 ///< that the windows are from; empty: there is none
    std::string stale;                 ///< why that sheet may be out of date; else empty
    std::vector<std::string> unknown;  ///< readings that are logged and have no window
};
/// Tyres by `tyre window low` and `high` (of a set of tyres alone: `tyre window low C2`), their pressures by `tyre
/// pressure low` and `high`, discs by `brake window low` and `high`, oil and water by their `temperature low` and
/// `high`.
[[nodiscard]] Result<Windows> windows_of(const std::shared_ptr<const RunData>& run, const JobContext& job = {});

}  // namespace rendak
