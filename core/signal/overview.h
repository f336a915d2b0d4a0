#pragma once

#include <span>
#include <vector>

#include "core/signal/channel.h"

namespace rendak {

/// Samples in a block of the first overview level, and how many blocks make one of the next level.
inline constexpr std::size_t overview_block = 64;
inline constexpr std::size_t overview_step = 4;

/// Lowest and highest of all samples; NaN are left out.
[[nodiscard]] MinMax min_max(std::span<const float> samples);

/// The overview levels of a channel, finest first: ceil(n / 64) blocks, then a quarter each, down to one.
/// Channels shorter than two blocks have none.
[[nodiscard]] std::vector<std::vector<MinMax>> build_overview(std::span<const float> samples);

/// Lowest and highest of samples [from, to), taken from the coarsest levels that fit.
[[nodiscard]] MinMax min_max(const Channel& channel, std::size_t from, std::size_t to);

}  // namespace rendak
