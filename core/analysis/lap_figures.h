#pragma once

#include <limits>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/analysis/better.h"
#include "core/base/result.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// How the samples of a channel become one figure of a lap.
enum class LapStatistic {
    low,
    mean,
    high,
    end,    ///< the last value of the lap: what a running total has come to
    above,  ///< share of the time above a limit, 0 … 1
    below,
    at,       ///< at a place of the track
    touches,  ///< of a ride height: how often it falls below its limit (road_touches())
};

/// "low", "mean" …, as lap_columns() reads it.
[[nodiscard]] std::string_view lap_statistic_name(LapStatistic statistic);

/// A column of a table of laps: a channel (a quantity, a formula, a channel by its own name) and what becomes of it.
struct LapColumn {
    std::string channel;
    std::optional<LapStatistic> statistic = std::nullopt;  ///< none: proposed_statistics()
    double limit = 0;                                      ///< of above and below, in `limit_unit`
    std::string limit_unit = {};
    double place_m = 0;  ///< of at
    int corner = 0;      ///< only from its begin to its end; 0: over the whole lap

    /// "speed high in 5", as lap_columns() reads it.
    [[nodiscard]] std::string text() const;
    [[nodiscard]] bool needs_places() const { return statistic == LapStatistic::at || corner > 0; }
};
/// Columns as people write them, parted by ";": "speed high; coolant_temperature above 95 °C; speed low in 5; speed at
/// 1200 m; coasting_time end". A channel alone gets the figures that its kind proposes.
[[nodiscard]] Result<std::vector<LapColumn>> lap_columns(std::string_view text);

/// A figure of a lap and the moment that shows it (recording time); NaN where there is none.
struct LapFigure {
    double value = std::numeric_limits<double>::quiet_NaN();
    double at_s = std::numeric_limits<double>::quiet_NaN();
};
/// A figure for each column, with its limit in the channel's stored unit; what several columns ask of a channel is
/// worked out once. Lowest, mean and highest are those of the samples in the lap (figures_in_time()); shares are of the
/// time for which the channel says something, between its samples along a straight line. NaN where the lap does not log
/// the channel, or a place is asked of a lap without places.
[[nodiscard]] std::vector<LapFigure> lap_figures(const PreparedLap& lap, std::span<const LapColumn> columns,
                                                 std::span<const double> limits);

/// What becomes of a channel where nobody says it: of a running total (it begins near zero in each of the laps, rises
/// and never falls) its end, of temperatures, pressures and conditions the mean, of others lowest, mean and highest.
[[nodiscard]] std::vector<LapStatistic> proposed_statistics(const Channel& channel,
                                                            const std::vector<Interval>& laps_s);

/// Of speeds more is better, of lap times, coasting, time on the brake and wear less; of most things neither.
[[nodiscard]] Better better_way(const LapColumn& column);

/// A straight line through a figure over laps, with the least squares: its slope and what is likely (95 %, Student's
/// t) of it. None with fewer than three laps.
struct LapTrend {
    std::size_t laps = 0;
    double per_lap = 0;
    Interval likely;
    double scatter = 0;   ///< of the laps about the line, one standard deviation
    double mean_lap = 0;  ///< where it goes through `mean`
    double mean = 0;
    double apart = 0;  ///< sum of the squares of the laps' distances from `mean_lap`
    [[nodiscard]] double at(double lap) const { return mean + per_lap * (lap - mean_lap); }
    /// Half of what is likely (95 %) of the line at a lap.
    [[nodiscard]] double doubt_at(double lap) const;
    [[nodiscard]] bool sure() const { return likely.begin > 0 || likely.end < 0; }
};
[[nodiscard]] std::optional<LapTrend> lap_trend(const std::vector<double>& lap_numbers,
                                                const std::vector<double>& values);

}  // namespace rendak
