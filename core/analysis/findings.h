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
        overslowed,
        lifts,
        brakes_needlessly,
        coasts,
        throttle_late,
        wide,
        locks_up,
        spins_wheels,
        pulls_less,
    };
    Kind kind;
    int corner = 0;  ///< 0: of the whole lap
    double at_m = 0;
    double size = 0;  ///< positive: more of it, in `unit`; NaN where that cannot be told
    const char* unit = "";
    double loss_s = 0;
    std::size_t seen_on = 0, of = 0;  ///< laps of B that do it
};
[[nodiscard]] std::string_view kind_name(LapFinding::Kind kind);

/// What explains the rows of the ledger in which B loses, the most costly first. Nothing is named where the loss could
/// as well be chance, or where what differs is below what the recordings can tell.
[[nodiscard]] Result<std::vector<LapFinding>> findings_of(std::span<const PreparedLap> a,
                                                          std::span<const PreparedLap> b);

/// The units that people read speeds and lengths in.
struct WordUnits {
    std::string speed = "km/h", length = "m";
    double per_kmh = 1, per_m = 1;
};
/// "Turn 5: brakes 14 m earlier, on 5 of 5 laps; costs 0.31 s."
[[nodiscard]] std::string finding_words(const LapFinding& finding, const Track& track, const WordUnits& units = {});

}  // namespace rendak
