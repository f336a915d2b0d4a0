#pragma once

#include <array>
#include <span>
#include <string>

namespace rendak {

inline constexpr std::array<const char*, 4> wheel_ids{"fl", "fr", "rl", "rr"};

/// What is logged of each wheel: a channel a wheel, called `id` + "_" + the wheel's.
struct WheelKind {
    const char* id;
    const char* title;
    bool settles;        ///< tells when the tyres are warm
    bool adds_up;        ///< its last value of a lap tells, not its mean
    const char* window;  ///< of the car sheet, with "_low" and "_high" behind it; empty: none
    [[nodiscard]] std::string channel(std::size_t wheel) const { return std::string(id) + "_" + wheel_ids[wheel]; }
};
[[nodiscard]] constexpr std::array<WheelKind, 7> wheel_kinds() {
    return {{{"tyre_temperature", "Carcass", true, false, "tyre_window"},
             {"tyre_inner", "Inner", false, false, "tyre_window"},
             {"tyre_middle", "Middle", false, false, "tyre_window"},
             {"tyre_outer", "Outer", false, false, "tyre_window"},
             {"tyre_pressure", "Pressure", true, false, "tyre_pressure"},
             {"tyre_worn", "Worn", false, true, ""},
             {"brake_temperature", "Disc", false, false, "brake_window"}}};
}
namespace wheel_kind {
inline constexpr std::size_t carcass = 0, inner = 1, middle = 2, outer = 3, pressure = 4, worn = 5, disc = 6;
}

}  // namespace rendak
