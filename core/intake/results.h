#pragma once

#include <filesystem>

#include "core/library/library.h"

namespace rendak {

/// Results of the timing system as a table: a row a lap, in any order of columns.
struct ResultLap {
    std::string car, driver;  ///< start number and name; empty where the table has no such column
    OfficialLap lap;
};
/// Reads a text table with names above it. Wanted is a column of lap times ("1:24.318" or seconds); lap numbers, start
/// numbers and drivers are read where they are. Rows without a time are left out.
[[nodiscard]] Result<std::vector<ResultLap>> read_results(const std::filesystem::path& file);

/// The laps of one car: named by the user, or the one that the run's facts name, or the only one. Fails with the
/// choice.
[[nodiscard]] Result<std::vector<OfficialLap>> laps_of_car(const std::vector<ResultLap>& results,
                                                           const std::string& car, const std::string& driver,
                                                           const RunFacts& facts);

/// Official laps beside the cut ones.
struct ResultsAgreement {
    struct Pair {
        std::optional<OfficialLap> official;
        std::optional<int> lap;  ///< number of the cut lap
        double cut_s = 0;        ///< its time
        [[nodiscard]] double difference_s() const { return cut_s - official->time_s; }
    };
    std::vector<Pair> pairs;  ///< in order of the drive
    int matched = 0, missing = 0, extra = 0;
    double offset_s = 0;  ///< the usual difference, cut less official: another line, another clock
    double spread_s = 0;  ///< how far single laps lie from that (robust standard deviation)
    std::vector<std::string> sentences;
    /// Nothing missing, and the matched laps agree within 0.05 s.
    [[nodiscard]] bool agrees() const { return matched > 0 && missing == 0 && spread_s < 0.05; }
};
/// Pairs the laps in their order: skips those that one side does not have, and finds two official laps that were cut as
/// one (a line crossing that was missed). Laps from line to line take part, whether they count or not.
[[nodiscard]] ResultsAgreement hold_against(const std::vector<OfficialLap>& official, const std::vector<Lap>& laps);

}  // namespace rendak
