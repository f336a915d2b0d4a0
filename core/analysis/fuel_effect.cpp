#include "core/analysis/fuel_effect.h"

#include <cmath>

#include "core/analysis/lap_choice.h"
#include "core/analysis/line_fit.h"

namespace rendak {

std::optional<FuelEffect> fitted_fuel_effect(const std::vector<double>& lap_numbers, const std::vector<double>& time_s,
                                             const std::vector<double>& fuel_l) {
    constexpr std::size_t least = 8;
    std::vector<double> lap, time, fuel;
    for (std::size_t k = 0; k < lap_numbers.size(); ++k) {
        if (!std::isfinite(time_s[k]) || !std::isfinite(fuel_l[k])) continue;
        lap.push_back(lap_numbers[k]);
        time.push_back(time_s[k]);
        fuel.push_back(fuel_l[k]);
    }
    if (lap.size() < least) return std::nullopt;
    // What is left of times and litres once their lines over the laps are taken away: the one explains the other.
    const LineFit of_time = fit_line(lap, time), of_fuel = fit_line(lap, fuel);
    if (!of_time.known() || !of_fuel.known()) return std::nullopt;
    constexpr double least_apart_l = 2;  // less is how a tank gauge errs
    if (!(of_fuel.sd > least_apart_l)) return std::nullopt;
    std::vector<double> time_left, fuel_left;
    for (std::size_t k = 0; k < lap.size(); ++k) {
        time_left.push_back(time[k] - of_time.offset - of_time.slope * lap[k]);
        fuel_left.push_back(fuel[k] - of_fuel.offset - of_fuel.slope * lap[k]);
    }
    const LineFit line = fit_line(fuel_left, time_left);
    if (!line.known()) return std::nullopt;
    // The line of the laps takes one more figure out of what there is.
    const auto n = static_cast<double>(lap.size());
    const double half = t_95(n - 3) * line.slope_sd * std::sqrt((n - 2) / (n - 3));
    if (half > 0.5 * line.slope) return std::nullopt;
    return FuelEffect{line.slope, {line.slope - half, line.slope + half}, lap.size()};
}

}  // namespace rendak
