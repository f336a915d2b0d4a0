#pragma once

#include <array>
#include <functional>
#include <span>
#include <vector>

#include "core/track/fixes.h"
#include "core/track/path.h"

namespace rendak {

/// A fix after smoothing: where the car was, how fast, and how that changed.
struct SmoothedFix {
    double time_s = 0;
    Point position, velocity;
    std::array<float, 2> acceleration{};
    float variance = 0;    ///< of the position, one axis, m²
    bool updated = false;  ///< the fix was taken in: neither missing nor an outlier
};

/// A hint at a good fix counts with this.
inline constexpr double usual_hint_noise_mps = 0.6;

/// Velocities from other sensors at the fixes of a piece, one each; {NaN, NaN}: none. Empty: none at all.
using HintsOf = std::function<std::vector<Point>(std::span<const Fix>)>;

/// Filter and backward pass over the fixes that `about` names, in pieces: a day is smoothed by parts, so that its
/// memory stays that of a part. They overlap by far more than any fix reaches, and shorter runs are one. `take` gets
/// one after the other.
void smooth_fixes(const Fixes& fixes, const FixSurvey& about, const HintsOf& hints, double hint_noise_mps,
                  const std::function<void(const SmoothedFix&)>& take);

/// smooth_path() of fixes that are asked for piece by piece. `velocities_only`: the path's times and velocities alone,
/// which is what another pass wants to know.
enum class Keep { path, velocities_only };
[[nodiscard]] Path smooth_path(GeoPoint origin, const Fixes& fixes, const FixSurvey& about, const HintsOf& hints = {},
                               double hint_noise_mps = usual_hint_noise_mps, Keep keep = Keep::path);

}  // namespace rendak
