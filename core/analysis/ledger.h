#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/analysis/pull.h"
#include "core/base/result.h"

namespace rendak {

/// One corner with the road behind it: from where the first of the two slows down for it to where he does for the next.
/// Seconds are B's minus A's, positive lost; those of sets are means. `loss_s` = own + carried + pull = the four phases
/// together. Time that is still lost in the next corner because this one was left too slowly is this one's: it is in
/// `straight_s` and `carried_s` here, and in no phase there.
struct LedgerRow {
    std::string name;  ///< the corner's title; of the road from the line to the first one "From the line"
    int corner = 0;    ///< number; 0 from the line
    Interval range_m;
    double loss_s = 0;
    double here_s = 0;  ///< by which the gap changes between the two places, wherever it was caused
    double own_s = 0;   ///< lost in the corner itself
    /// What the speed at the corner's exit alone would cost, had B A's acceleration at every speed; and the rest:
    /// power, drag, weight, gears, wind, a lift. Not told where A's acceleration is not known.
    std::optional<double> carried_s, pull_s;
    double braking_s = 0;   ///< to where A turns in
    double entry_s = 0;     ///< to A's slowest place
    double exit_s = 0;      ///< to where both are on full throttle
    double straight_s = 0;  ///< the rest

    Interval straight_m;  ///< empty where no straight follows
    /// B's speed minus A's where the straight begins, and where it ends.
    double begin_mps = 0, end_mps = 0;
    /// How the difference of the speeds goes on along the straight, held against what A's acceleration would make of
    /// it. Parallel: only the exit differs. Opening, closing: B pulls otherwise too.
    enum class Verdict { none, parallel, closing, opening };
    Verdict verdict = Verdict::none;

    std::size_t seen_on = 0;  ///< laps of B whose own loss has the sign of the mean and is above the noise of places
    /// 95 % of `loss_s` (Welch's t, 1947; with one lap on one side that one's scatter is taken to be the other's).
    std::optional<Interval> likely_s;
    std::optional<Interval> likely_own_s;  ///< the same of `own_s`
    std::vector<double> lap_losses_s;      ///< of each lap of B against A's mean; their mean is `loss_s`
    /// Laps a side with which a difference of this size would stand out of the scatter; 0 where it does so already, or
    /// where there is no scatter to tell it by.
    std::size_t laps_needed = 0;
};
/// As far as laps tell: the 95 % of its loss hold nothing.
[[nodiscard]] bool could_be_chance(const LedgerRow& row);
/// A corner that differs by 0.03 s and could be chance: more laps would have to tell.
[[nodiscard]] bool needs_more_laps(const LedgerRow& row);
[[nodiscard]] const char* verdict_name(LedgerRow::Verdict verdict);

/// Where the difference of two laps, or of two sets of laps, lies; the rows add up to it.
struct Ledger {
    double total_s = 0;  ///< B's lap time minus A's
    std::optional<Interval> likely_s;
    std::size_t a_laps = 0, b_laps = 0;
    std::vector<LedgerRow> rows;            ///< in the order of the road
    PullCurve pull;                         ///< A's
    std::optional<double> pull_s;           ///< sum of the rows'
    std::vector<double> lap_pulls_s;        ///< of each lap of B against A's mean
    std::optional<Interval> likely_pull_s;  ///< 95 % of it
    bool inferred = false;                  ///< pedals were told from the acceleration in one of the laps
};
/// Both of one track, each of at least one lap.
[[nodiscard]] Result<Ledger> ledger_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b);

/// What a km/h more is worth in a corner, down to where the car slows down for the next one.
struct Worth {
    std::string name;
    int corner = 0;
    double slowest_m = 0, exit_m = 0, until_m = 0;
    double slowest_mps = 0;
    /// Saved by 1 km/h more at the slowest place: on the way in (braking as hard), to the exit, and what that carries.
    double slowest_s = 0;
    double exit_s = 0;  ///< saved by 1 km/h more at the exit
};
/// In the order of the road. Fails where the car's acceleration is not known.
[[nodiscard]] Result<std::vector<Worth>> worth_of(std::span<const PreparedLap> laps);

}  // namespace rendak
