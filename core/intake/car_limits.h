#pragma once

#include <span>
#include <string>
#include <vector>

#include "core/formula/book.h"
#include "core/library/library.h"

namespace rendak {

/// What somebody calculated that a car can do, from its sheet: "Lateral limit" (or "Braking limit", "Driving limit") is
/// one value for all speeds, "Lateral limit at 120 km/h" one of several by speed.
struct CalculatedLimit {
    struct At {
        double speed_mps = 0, mps2 = 0;
    };
    std::vector<At> points;  ///< by rising speed; one stands for all speeds

    [[nodiscard]] bool known() const { return !points.empty(); }
    /// Between the points; beyond them the outer one's.
    [[nodiscard]] double at(double speed_mps) const;
};
/// `what` is "lateral", "braking" or "driving". Lines that are no acceleration are left out.
[[nodiscard]] CalculatedLimit calculated_limit(const formula::Constants& sheet, const std::string& what);

/// Runs whose laps may set one limit: of one car, track, day (of the event's clock) and set of tyres.
struct LimitGroup {
    std::string track, day, tyre_set;
    std::vector<RunId> runs;
};
/// In the order filed; runs without a track are in none. `car` is its whole name, or a word of it that no other car of
/// these runs has ("27").
[[nodiscard]] std::vector<LimitGroup> limit_groups(std::span<const RunRow> runs, const std::string& car);

}  // namespace rendak
