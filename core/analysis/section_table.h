#pragma once

#include <optional>
#include <span>

#include "core/base/ids.h"
#include "core/laps/lap_map.h"

namespace rendak {

/// A lap as section tables take it in.
struct TimedLap {
    LapRef ref;
    bool included = true;  ///< counts towards best, ideal and statistics
    LapMap map;
    bool counts_in_run = true;  ///< in its run's own statistics, whoever drove it
};

/// Lowest, mean, middle (median) and highest with the sample standard deviation (0 for one lap) over the laps that
/// count.
struct Spread {
    double least = 0, mean = 0, most = 0, sd = 0, middle = 0;
    std::size_t count = 0;
};

/// Laps × sections (or sectors). Times in seconds; they add up to the lap time.
struct SectionTable {
    struct Row {
        LapRef ref;
        bool included = true;
        double lap_s = 0;
        std::vector<double> section_s;
        bool counts_in_run = true;
    };
    std::vector<Section> sections;
    std::vector<Row> rows;                         ///< in the order given
    std::vector<std::optional<std::size_t>> best;  ///< row of the best time of each section
    std::vector<Spread> spread;                    ///< of each section
    std::optional<std::size_t> best_lap;           ///< row
    std::optional<double> ideal_s;                 ///< sum of the best sections
    Spread laps;                                   ///< of the lap times
    /// Each run apart, in the order of its first lap: of each section, and of the lap times.
    struct OfRun {
        RunId run;
        std::vector<Spread> spread;
        Spread laps;
    };
    std::vector<OfRun> runs;
};
[[nodiscard]] SectionTable section_table(std::span<const TimedLap> laps, std::vector<Section> sections);

/// The quickest full circuit from a section boundary to the same boundary over two laps of one run that follow each
/// other, both counting. Includes the laps themselves (boundary 0).
struct FastestLoop {
    LapRef first;        ///< the lap it begins in
    double start_m = 0;  ///< where
    double time_s = 0;
    std::string section;  ///< the one that it begins with
};
[[nodiscard]] std::optional<FastestLoop> fastest_loop(std::span<const TimedLap> laps,
                                                      const std::vector<Section>& sections);

[[nodiscard]] Spread spread_of(std::span<const double> values);

}  // namespace rendak
