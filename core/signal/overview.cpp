#include "core/signal/overview.h"

#include <algorithm>

#include "core/signal/low_high.h"

namespace rendak {
namespace {

void include(MinMax& into, const MinMax& block) {
    into.low = block.low < into.low ? block.low : into.low;
    into.high = block.high > into.high ? block.high : into.high;
}

}  // namespace

MinMax min_max(std::span<const float> samples) {
    MinMax result;
    low_high(samples.data(), samples.data() + samples.size(), result.low, result.high);
    return result;
}

std::vector<std::vector<MinMax>> build_overview(std::span<const float> samples) {
    std::vector<std::vector<MinMax>> levels;
    if (samples.size() < 2 * overview_block) return levels;
    std::vector<MinMax> level((samples.size() + overview_block - 1) / overview_block);
    std::size_t i = 0;
#ifdef __SSE2__
    // Four whole blocks at a time: their lanes are folded together by one transposition.
    for (; (i + 4) * overview_block <= samples.size(); i += 4) {
        __m128 low[4], high[4];
        for (std::size_t k = 0; k < 4; ++k)
            low_high_lanes(samples.data() + (i + k) * overview_block, overview_block, low[k], high[k]);
        _MM_TRANSPOSE4_PS(low[0], low[1], low[2], low[3]);
        _MM_TRANSPOSE4_PS(high[0], high[1], high[2], high[3]);
        const __m128 lows = _mm_min_ps(_mm_min_ps(low[0], low[1]), _mm_min_ps(low[2], low[3]));
        const __m128 highs = _mm_max_ps(_mm_max_ps(high[0], high[1]), _mm_max_ps(high[2], high[3]));
        float* const out = &level[i].low;
        _mm_storeu_ps(out, _mm_unpacklo_ps(lows, highs));
        _mm_storeu_ps(out + 4, _mm_unpackhi_ps(lows, highs));
    }
#endif
    for (; i < level.size(); ++i) {
        const std::size_t from = i * overview_block;
        level[i] = min_max(samples.subspan(from, std::min(overview_block, samples.size() - from)));
    }
    while (true) {
        std::vector<MinMax> coarser((level.size() + overview_step - 1) / overview_step);
        for (std::size_t k = 0; k < level.size(); ++k) include(coarser[k / overview_step], level[k]);
        levels.push_back(std::move(level));
        if (levels.back().size() <= 1) return levels;
        level = std::move(coarser);
    }
}

MinMax min_max(const Channel& channel, std::size_t from, std::size_t to) {
    const auto samples = channel.floats();
    to = std::min(to, channel.size());
    MinMax result;
    if (channel.is_double()) {
        for (std::size_t i = from; i < to; ++i) {
            const auto value = static_cast<float>(channel.at(i));
            if (value < result.low) result.low = value;
            if (value > result.high) result.high = value;
        }
        return result;
    }
    // Climb from the samples to the coarsest level that fits, eating the ragged ends on the way, then back.
    std::size_t size = overview_block;
    std::size_t level = 0;
    if (channel.overview.empty() || to <= from + 2 * size)
        return from < to ? min_max(samples.subspan(from, to - from)) : result;
    const std::size_t head = std::min(to, (from + size - 1) / size * size);
    include(result, min_max(samples.subspan(from, head - from)));
    const std::size_t tail = std::max(head, to / size * size);
    include(result, min_max(samples.subspan(tail, to - tail)));
    std::size_t first = head / size;
    std::size_t last = tail / size;
    while (first < last) {
        const auto blocks = channel.overview[level];
        const bool can_climb = level + 1 < channel.overview.size() && last - first >= 2 * overview_step;
        if (!can_climb) {
            for (std::size_t i = first; i < last; ++i) include(result, blocks[i]);
            break;
        }
        while (first % overview_step != 0) include(result, blocks[first++]);
        while (last % overview_step != 0) include(result, blocks[--last]);
        first /= overview_step;
        last /= overview_step;
        ++level;
    }
    return result;
}

}  // namespace rendak
