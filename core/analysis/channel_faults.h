#pragma once

#include <vector>

#include "core/base/interval.h"
#include "core/base/job.h"
#include "core/recording/recording.h"

namespace rendak {

/// What a sensor that failed looks like in its channel.
struct ChannelFault {
    enum class Kind {
        dead,       ///< one value all the time, or nothing
        stuck,      ///< the same value for 15 s or longer while the car moves and the channel otherwise lives
        saturated,  ///< pressed against one value: the sensor's or the logger's limit
        spiking,    ///< single samples far off, and back again
    };
    Kind kind;
    std::string channel;
    std::vector<Interval> where_s;  ///< stuck: the stretches; spiking: around each spike (at most 20)
    double value = 0;               ///< dead, saturated: the value, in the channel's unit
    double share = 0;               ///< of the samples
    std::size_t count = 0;          ///< spiking: how many
};

/// Looks through all channels but positions, times and states such as the gear.
[[nodiscard]] std::vector<ChannelFault> channel_faults(const Recording& recording, const JobContext& job = {});

/// Speed of the car at 10 Hz from the recording's best source (speed, else wheel speeds, else nothing), NaN where
/// it is missing. The first value is at `start_s`.
struct SpeedTrace {
    static constexpr double rate_hz = 10;
    double start_s = 0;
    std::vector<float> mps;
    [[nodiscard]] double end_s() const { return start_s + static_cast<double>(mps.size()) / rate_hz; }
};
[[nodiscard]] SpeedTrace speed_trace(const Recording& recording);

/// Stretches in which the car moved, parted by stops of at least `stop_s` seconds; each begins and ends in the middle
/// of a stop (or with the recording). One stretch: nothing to split. Stretches with less than a minute of driving join
/// their neighbour.
[[nodiscard]] std::vector<Interval> stints(const SpeedTrace& speed, double stop_s = 120);

/// How one recording lies on another of the same car at the same time.
struct SpeedMatch {
    double offset_s = 0;     ///< added to the other's times
    double correlation = 0;  ///< over the overlap, after alignment
    double rms_mps = 0;      ///< of the difference of speeds over the overlap
    double overlap_s = 0;
    /// Laps of one driver resemble each other (0.5 m/s over short runs of the demo); the same run agrees within 0.1
    /// m/s.
    [[nodiscard]] bool same_run() const { return correlation > 0.998 && rms_mps < 0.25 && overlap_s > 60; }
};
/// Correlates the speeds over all offsets at which at least 70 % of the shorter one overlaps: coarse at 1 Hz, then
/// refined to a hundredth of a second.
[[nodiscard]] std::optional<SpeedMatch> match_speeds(const SpeedTrace& main, const SpeedTrace& other);

}  // namespace rendak
