#pragma once

#include <map>
#include <string>
#include <vector>

namespace rendak::test {

/// How often findings are right on drives that were made with one fault each: random circuits, random faults of random
/// size at random corners, drivers who scatter from lap to lap, five laps a side.
struct FindingScore {
    struct OfKind {
        int faults = 0;                       ///< worth over 0.05 s
        int named = 0;                        ///< of those, with the right corner and kind
        int drives = 0, told = 0, wrong = 0;  ///< what was named in its drives; of which at a wrong place
        std::vector<double> sizes;            ///< found over made
    };
    std::map<std::string, OfKind> kinds;
    std::vector<std::string> misses;  ///< in words
    [[nodiscard]] int faults() const;
    [[nodiscard]] int named() const;
    [[nodiscard]] int told() const;
    [[nodiscard]] int wrong() const;
};
/// `pocket`: recorded by a receiver alone. What the two drives differ in without the fault is no fault and no error.
[[nodiscard]] FindingScore score_findings(unsigned first_world, int worlds, bool pocket);

}  // namespace rendak::test
