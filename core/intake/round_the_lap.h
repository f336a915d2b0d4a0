#pragma once

#include <string>
#include <vector>

#include "core/intake/stint.h"

namespace rendak {

/// A channel round the lap: its mean over the laps of a stint that tell, at equal places from the line to the line.
struct RoundTheLap {
    static constexpr std::size_t places = 400;
    std::vector<double> values = {};  ///< SI; empty without a track or where it is not logged
    double length_m = 0;
    std::size_t laps = 0;
    [[nodiscard]] double at_m(std::size_t place) const {
        return (static_cast<double>(place) + 0.5) * length_m / static_cast<double>(places);
    }
};
/// Of several channels, in their order.
[[nodiscard]] std::vector<RoundTheLap> round_the_lap(const RunData& run, const Stint& stint,
                                                     const std::vector<std::string>& channels,
                                                     const JobContext& job = {});

/// Where two of them differ the most from how they differ in the mean.
struct SpikeDifference {
    double at_m = 0, a = 0, b = 0;
    double beyond_mean = 0;  ///< b − a there, less the mean of b − a
};
/// None where one has no places, or the lengths are of two tracks.
[[nodiscard]] std::optional<SpikeDifference> spike_difference(const RoundTheLap& a, const RoundTheLap& b);

}  // namespace rendak
