#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/analysis/ledger.h"
#include "core/analysis/run_differences.h"
#include "core/base/job.h"
#include "core/intake/lap_set.h"
#include "core/trials/change_parts.h"

namespace rendak {

/// Seconds that B's laps lose (negative: win) against A's in a part of the lap; laps of A against A's own mean give its
/// scatter.
struct TrialFigure {
    std::string name;
    std::vector<double> a, b;        ///< of each lap
    double change_s = 0;             ///< mean of b − mean of a
    std::optional<Interval> likely;  ///< 95 % of it (Welch 1947)
    std::size_t seen_on = 0;         ///< laps of B that lie on this side of A's mean
    std::size_t laps_needed = 0;     ///< a side, to tell it from chance; 0: told, or more than 99
    enum class Verdict { gain, loss, alike, unknown };
    [[nodiscard]] Verdict verdict() const {
        if (!likely) return Verdict::unknown;
        return likely->contains(0) ? Verdict::alike : change_s < 0 ? Verdict::gain : Verdict::loss;
    }
};
[[nodiscard]] const char* verdict_name(TrialFigure::Verdict verdict);
[[nodiscard]] TrialFigure trial_figure(std::string name, std::vector<double> a, std::vector<double> b);

/// What a change was aimed at.
struct TrialAim {
    enum class Kind { lap, corner, part } kind = Kind::lap;
    int corner = 0;
    LapPart part = LapPart::straights;
    std::string text = "the lap";
};
/// "5" or "corner 5", "slow corners", "fast", "straights", "braking"; empty: the whole lap.
[[nodiscard]] Result<TrialAim> trial_aim(const std::string& text);

/// Grip and effort of one corner on old and new tyres.
struct TyreCorner {
    int corner = 0;
    std::string name;
    double slowest_mps = 0;
    double peak_a_mps2 = 0, peak_b_mps2 = 0;  ///< lateral, means
    std::optional<Interval> likely_peak;
    double braking_a_mps2 = 0, braking_b_mps2 = 0;  ///< highest deceleration before it, means; NaN: none
    std::optional<Interval> likely_braking;
    double effort_a = 0, effort_b = 0;  ///< highest brake pressure before it, Pa, means; NaN: not logged
};
/// The new tyres of a trial: more grip is the tyre's where the peak grows, the driver's where only the effort does.
struct TyreTrial {
    std::vector<TyreCorner> corners;
    TrialFigure slow, middle, fast, braking;
    double grip = 0;    ///< mean of peak b over peak a, over the corners
    double effort = 0;  ///< the same of the brake pressure; NaN when not logged
    std::string text;
};

/// Two groups of laps that differ in something noted.
struct ChangeTrial {
    std::size_t a_laps = 0, b_laps = 0;
    Ledger ledger;
    TrialFigure net;
    std::array<TrialFigure, lap_parts.size()> parts;  ///< they add up to net
    std::optional<TrialFigure> carried, pull;         ///< what the straights' are made of, where the pull is known
    std::vector<TrialFigure> corners;                 ///< each row of the ledger (its own loss and what it carries)
    TrialAim aim;
    TrialFigure aimed, elsewhere;        ///< they add up to net
    RunDifferences differences;          ///< of the first runs of A and B
    std::vector<std::string> unchanged;  ///< lines of the setup sheets that are alike: "Spring front", …
    Separable apart;
    std::optional<TyreTrial> tyres;  ///< when B is on newer tyres
    std::string text;                ///< verdict in sentences
};
/// A and B are of one track; driver and car should be the same (what is not is in `differences`).
[[nodiscard]] Result<ChangeTrial> change_trial(const Library& library, const LapSet& a, const LapSet& b,
                                               const TrialAim& aim, const JobContext& job = {});

}  // namespace rendak
