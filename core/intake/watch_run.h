#pragma once

#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/analysis/watch.h"
#include "core/intake/run_data.h"

namespace rendak {

/// One time for which a rule speaks, with where the car was and what stood beside it.
struct WatchEvent {
    WatchTime when;
    std::optional<int> lap;         ///< that holds its worst moment
    LapKind kind = LapKind::part;   ///< of that lap
    std::optional<double> place_m;  ///< along the track; none off it
    std::vector<double> beside;     ///< SI, in the order of the rule
};

/// What one rule says of one recording.
struct WatchTold {
    std::vector<WatchEvent> events;
    double known_s = 0;                     ///< of the recording for which it could be told
    std::string value_unit;                 ///< SI
    std::vector<std::string> beside_units;  ///< SI; of what this run does not have ""
    std::string why_not;                    ///< the rule cannot be told of this run; else empty
};
/// Over the whole recording, out and in laps and all that lies before and behind them included.
[[nodiscard]] WatchTold watch_run(const RunData& run, const WatchRule& rule, const std::stop_token& stop = {});

}  // namespace rendak
