#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/chassis/stretch_spectra.h"

namespace rendak {

/// One value that was tried.
struct LadderStep {
    double value = 0;
    std::vector<PreparedLap> laps;
};

/// What became of a figure at one step on one stretch, against the baseline.
enum class StepVerdict { baseline, lower, alike, higher, unknown };
[[nodiscard]] const char* step_verdict_name(StepVerdict verdict);

/// A figure at one step. Low is good.
struct StepFigure {
    std::vector<double> laps;  ///< of each lap that has it
    double mean = 0;
    std::optional<Interval> likely;  ///< 95 % of the mean, with the scatter that the steps share
    double change = 0;               ///< against the baseline, as a share of it
    StepVerdict verdict = StepVerdict::unknown;
};

/// Where a ladder was judged, and what it says there.
struct LadderStretch {
    Stretch stretch;
    std::vector<StepFigure> steps;  ///< as the ladder's steps
};

/// Steps of one value of the setup sheet, judged by how little a load or travel moves.
struct Ladder {
    std::vector<double> values;     ///< rising
    std::size_t baseline = 0;       ///< place in values
    std::vector<StepFigure> steps;  ///< all stretches together, each with its time as weight
    std::vector<LadderStretch> stretches;
    std::vector<StepFigure> lap_times;  ///< of the same laps, s

    /// Chance that all steps are alike (Fisher 1925).
    double chance = 1;
    std::size_t best = 0;            ///< lowest mean
    std::vector<std::size_t> alike;  ///< that cannot be told from the best, itself among them
    enum class Says {
        unknown,   ///< no step is told from another
        inside,    ///< the best lies inside the span: surely worse below and above
        low_end,   ///< nothing is surely worse below: try lower values
        high_end,  ///< nothing is surely worse above: try higher values
    } says = Says::unknown;
    std::optional<double>
        valley;                ///< lowest place of the parabola through the best step and its neighbours, when inside
    std::vector<double> next;  ///< values that are proposed for the next runs
    std::string text;          ///< the same in sentences
};

/// Of at least three steps with laps on the same track. `name` and `unit` are the sheet's ("Bump rear", "clicks"). The
/// stretches are those of the quickest lap of all and stay the same for every step. Steps are told from the best one by
/// Student's t with the scatter that the laps share about their step's mean, so many comparisons at once at 95 %
/// (Bonferroni), and only if the steps differ at all (F at 5 %). `baseline`: none: the lowest value.
[[nodiscard]] Result<Ladder> ladder_of(std::vector<LadderStep> steps, std::span<const Stretch> stretches,
                                       const SpectrumWish& wish, const std::string& name, const std::string& unit,
                                       std::optional<double> baseline = std::nullopt, const JobContext& job = {});

}  // namespace rendak
