#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/laps/prepared_lap.h"

namespace rendak {

/// A lap that left the way that the others went, with what could have led to it, asked in this order: begun to brake
/// too late? braked too weakly? the brake kept while the steering grew? a wheel locked? are the pedals plausible? Each
/// is held against the usual laps; what is not logged cannot be told.
struct Excursion {
    struct Step {
        enum class Answer { yes, no, cannot_be_told };
        std::string question;  ///< "too late on the brake"
        Answer answer = Answer::cannot_be_told;
        std::string figures;  ///< "12 m later"; why it cannot be told
    };
    Interval range_m;     ///< more than 4 m beside
    double beside_m = 0;  ///< furthest; to the left positive
    int corner = 0;       ///< that was before it, or that it was in
    std::vector<Step> steps;
};
/// `usual`: at least three laps of the same track, most of which stayed on the road: of fewer nobody can say who was
/// off. Nothing where positions are missing.
[[nodiscard]] std::vector<Excursion> excursions_of(const PreparedLap& lap, std::span<const PreparedLap> usual);

[[nodiscard]] std::string excursion_words(const Excursion& excursion, const Track& track);

}  // namespace rendak
