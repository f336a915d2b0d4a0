#pragma once

#include <optional>
#include <span>
#include <string>

#include "core/analysis/section_table.h"
#include "core/library/rows.h"

namespace rendak {

/// How alike a driver's laps are, and what that allows to be seen.
struct Consistency {
    Spread laps;               ///< flying laps that count and have nothing doubtful about them
    std::size_t doubtful = 0;  ///< laps left out for that
    double within_s = 0;       ///< half the width that holds the middle half of them
    /// Smallest difference of two groups of as many laps each that would show in 95 % tests: t · sd · √(2/n) (Student
    /// 1908; Welch 1947). None with fewer than three laps.
    std::optional<double> visible_s;
    /// In a sentence: what a change must be worth to be seen.
    std::string verdict;
};
[[nodiscard]] Consistency consistency(std::span<const Lap> laps);
/// Whether an effect of the given size would be seen with these laps, in a sentence.
[[nodiscard]] std::string effect_verdict(const Consistency& laps, double effect_s);

/// Flying laps that count and lie within `margin_s` of the best, fastest first (indices).
[[nodiscard]] std::vector<std::size_t> near_best(std::span<const Lap> laps, double margin_s);

/// A fair lap to hold against `lap`: a complete lap of the candidates that counts and has nothing doubtful about it,
/// nearest in time to it, the faster one of two. None when there is none within 5 %.
struct Candidate {
    LapRef ref;
    Lap lap;
};
[[nodiscard]] std::optional<LapRef> fair_lap(const Candidate& lap, std::span<const Candidate> candidates);

/// Student's t for a two-sided 95 % interval.
[[nodiscard]] double t_95(double degrees_of_freedom);

}  // namespace rendak
