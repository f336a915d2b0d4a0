#pragma once

#include <array>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/chassis/sheet.h"
#include "core/laps/prepared_lap.h"

namespace rendak {

/// Parts of a corner, told from the lateral acceleration: until it has grown to 90 % of its peak, while it stays above
/// that, and as it goes.
enum class CornerPart { entry, middle, exit };
inline constexpr std::array corner_parts{CornerPart::entry, CornerPart::middle, CornerPart::exit};
[[nodiscard]] const char* corner_part_name(CornerPart part);

/// A figure over laps: mean, its 95 % (Student 1908; none with one lap), scatter, and on how many laps it has the sign
/// of the mean.
struct SetFigure {
    std::vector<double> laps;  ///< of each lap that has it
    double mean = 0, sd = 0;
    std::optional<Interval> likely;
    std::size_t on = 0;
    [[nodiscard]] bool known() const { return !laps.empty(); }
    [[nodiscard]] bool sure() const { return likely && !likely->contains(0); }
};
[[nodiscard]] SetFigure set_figure(std::vector<double> laps);

/// Understeer angle: the steering's angle at the wheels less what the path needs, δ / ratio − wheelbase · κ (Milliken &
/// Milliken 1995), radians, positive: more steering than the path needs (understeer).
struct CornerBalance {
    int corner = 0;
    std::string name;
    bool left = false;
    double speed_mps = 0;            ///< slowest, mean of the laps
    double lateral_mps2 = 0;         ///< peak, mean of the laps; without sign
    std::array<SetFigure, 3> parts;  ///< as corner_parts
    SetFigure whole;
};

/// What understeer angle, roll, pitch and springs say.
struct Balance {
    std::size_t laps = 0;
    std::vector<CornerBalance> corners;
    SetFigure slope;                          ///< of the understeer angle over the lateral acceleration, rad per m/s²
    SetFigure left, right;                    ///< mean angle of left and right corners
    SetFigure slow, fast;                     ///< of the slower and the faster half of the corners
    std::array<SetFigure, 3> parts;           ///< of all corners
    SetFigure roll_per_mps2, pitch_per_mps2;  ///< rad per m/s²; the body against the wheels, without tyres
    SetFigure front_roll_share;  ///< of the load that goes over from the inner to the outer wheels, from tyre loads
    std::optional<double> front_roll_share_sheet;
    SetFigure front_minus_rear_k;                  ///< tyre temperature
    std::array<std::optional<double>, 2> ride_hz;  ///< front, rear: from the spectra of the dampers
    std::vector<std::string> untold;               ///< what could not be told, and why
};
/// Of laps of one track, car and setup. Steering and yaw are set to zero by the straights first. Fails where nothing of
/// it can be told.
[[nodiscard]] Result<Balance> balance_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet);

/// In a sentence or two: where it under- or oversteers, surely.
[[nodiscard]] std::string balance_words(const Balance& balance);

}  // namespace rendak
