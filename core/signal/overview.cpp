#include "core/signal/overview.h"

#include <algorithm>

namespace rendak {
namespace {

// Four floats at a time. The comparison is false for NaN, so a NaN never enters the accumulators.
using Float4 = float __attribute__((vector_size(16)));

Float4 load(const float* from) {
    Float4 out;
    __builtin_memcpy(&out, from, sizeof out);
    return out;
}

void include(MinMax& into, const MinMax& block) {
    into.low = block.low < into.low ? block.low : into.low;
    into.high = block.high > into.high ? block.high : into.high;
}

}  // namespace

MinMax min_max(std::span<const float> samples) {
    constexpr float infinity = std::numeric_limits<float>::infinity();
    MinMax result;
    Float4 low0 = {infinity, infinity, infinity, infinity}, low1 = low0;
    Float4 high0 = -low0, high1 = high0;
    std::size_t i = 0;
    for (; i + 8 <= samples.size(); i += 8) {
        const Float4 a = load(&samples[i]);
        const Float4 b = load(&samples[i + 4]);
        low0 = a < low0 ? a : low0;
        high0 = a > high0 ? a : high0;
        low1 = b < low1 ? b : low1;
        high1 = b > high1 ? b : high1;
    }
    low0 = low1 < low0 ? low1 : low0;
    high0 = high1 > high0 ? high1 : high0;
    for (int lane = 0; lane < 4; ++lane) include(result, {low0[lane], high0[lane]});
    for (; i < samples.size(); ++i) {
        if (samples[i] < result.low) result.low = samples[i];
        if (samples[i] > result.high) result.high = samples[i];
    }
    return result;
}

std::vector<std::vector<MinMax>> build_overview(std::span<const float> samples) {
    std::vector<std::vector<MinMax>> levels;
    if (samples.size() < 2 * overview_block) return levels;
    std::vector<MinMax> level;
    level.reserve((samples.size() + overview_block - 1) / overview_block);
    for (std::size_t from = 0; from < samples.size(); from += overview_block) {
        level.push_back(min_max(samples.subspan(from, std::min(overview_block, samples.size() - from))));
    }
    while (true) {
        levels.push_back(level);
        if (level.size() <= 1) return levels;
        std::vector<MinMax> coarser((level.size() + overview_step - 1) / overview_step);
        for (std::size_t i = 0; i < level.size(); ++i) include(coarser[i / overview_step], level[i]);
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
