#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/analysis/ledger.h"

namespace rendak {

/// Something that B does otherwise than A, with what it costs. Causes are possible ones: another cause can look the
/// same.
struct LapFinding {
    enum class Kind {
        brakes_early,
        brakes_late,
        brakes_softly,
        releases_late,
        overslowed,
        lifts,
        brakes_needlessly,
        brushes_brake,  ///< needlessly too, but lightly and before a long corner: it may be meant
        coasts,
        throttle_late,
        throttle_hesitates,
        turns_in_early,
        turns_in_late,
        wide,
        pinched,
        locks_up,
        spins_wheels,
        odd_lap,       ///< one lap of B that the others are not like
        pulls_less,    ///< on most straights
        carries_less,  ///< in most corners
    };
    Kind kind;
    int corner = 0;  ///< 0: of the whole lap: on most of its straights, or in most of its corners
    double at_m = 0;
    double size = 0;  ///< positive: more of it, in `unit`; NaN where that cannot be told
    const char* unit = "";
    double loss_s = 0;
    std::size_t seen_on = 0, of = 0;  ///< laps of B that do it
    std::string causes = {};          ///< where they are other ones than the kind's
    std::optional<LapRef> lap = {};   ///< the one that is meant, of an odd lap
    double earlier_m = 0;             ///< of over-slowing: how much before A's the slowest place is
};
[[nodiscard]] std::string_view kind_name(LapFinding::Kind kind);
/// Something that a driver could do otherwise; else the car.
[[nodiscard]] bool is_of_driver(LapFinding::Kind kind);

/// What explains the rows of the ledger in which B loses, the most costly first. Nothing is named where the loss could
/// as well be chance, or where what differs is below what the recordings can tell.
[[nodiscard]] Result<std::vector<LapFinding>> findings_of(std::span<const PreparedLap> a,
                                                          std::span<const PreparedLap> b);

/// All that can be said about two sets of laps.
struct LapStory {
    Ledger ledger;
    std::vector<LapFinding> lost;  ///< what B does otherwise where it loses
    std::vector<LapFinding> won;   ///< the reverse: what A does otherwise where B is the better one
};
[[nodiscard]] Result<LapStory> story_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b);

/// The units that people read speeds and lengths in, and what the two sides are called: `b` does it, `a` does not.
struct WordUnits {
    std::string speed = "km/h", length = "m";
    double per_kmh = 1, per_m = 1;
    std::string b = "B", a = "A";
};
/// "Turn 5: B brakes 14 m earlier than A, on 5 of 5 laps; costs 0.31 s."
[[nodiscard]] std::string finding_words(const LapFinding& finding, const Track& track, const WordUnits& units = {});
/// What could be behind it, worded as possible, with what would look the same.
[[nodiscard]] std::string finding_causes(const LapFinding& finding);

}  // namespace rendak
