#pragma once

#include <span>
#include <vector>

#include "cli/chassis_commands.h"
#include "cli/json_out.h"
#include "core/chassis/stretch_spectra.h"

namespace rendak::cli {

/// The stretches that were asked for; `usual`: where nothing was said. Fails where there are none.
[[nodiscard]] Result<std::vector<Stretch>> chosen_stretches(const StretchChoice& choice,
                                                            std::span<const PreparedLap> laps, StretchKind usual);
[[nodiscard]] Json stretches_json(std::span<const Stretch> stretches);
[[nodiscard]] Result<SpectrumWish> spectrum_wish(const SpectrumChoice& choice);

}  // namespace rendak::cli
