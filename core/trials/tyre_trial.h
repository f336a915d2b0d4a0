#pragma once

#include "core/trials/change_trial.h"

namespace rendak {

/// Where newer tyres gain, of a trial whose figures are there; none when B's are not newer (another set with fewer laps
/// on it, or the same with fewer).
[[nodiscard]] std::optional<TyreTrial> tyre_trial(const LapSet& a, const LapSet& b, const ChangeTrial& trial);

}  // namespace rendak
