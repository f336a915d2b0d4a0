#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/chassis/balance.h"

namespace rendak {

/// What the air presses onto each axle, from its springs: cl · A, m², positive downwards.
struct AirLoad {
    SetFigure front_m2, rear_m2;
    SetFigure front_share;            ///< of both together
    std::vector<std::string> untold;  ///< what could not be told, and why
};
/// Of laps of one car and setup. Straight on (below 1 m/s² of lateral acceleration) the springs of an axle carry
/// F = F0 + ρ/2 (cl A) v² + c a: least squares over the lap of spring rate · travel at both wheels, with the along
/// acceleration beside it because it moves weight, and the bending of the road times v² where its height is known.
/// Springs and motion ratios are the sheets'. What links, bump rubbers or a third element carry is not in it. Fails
/// where neither axle can be told.
/// Their `likely` holds beside the scatter of the laps what dampers and rubbers carry: 10 % of an axle's area, 0.04 of
/// the share (measured: see docs/calculations.md).
[[nodiscard]] Result<AirLoad> air_load_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet,
                                          double air_kg_per_m3);

/// 95 % of b less a; half of what `likely` adds stays, for it is much the same on both sides.
struct AirChange {
    std::optional<Interval> front_m2, rear_m2, front_share;
};
[[nodiscard]] AirChange air_change(const AirLoad& a, const AirLoad& b);

}  // namespace rendak
