#include "core/recording/recording.h"

#include <xxhash.h>

#include <algorithm>
#include <array>

#include "core/base/mapping_guard.h"
#include "core/base/text.h"
#include "core/base/xxh3.h"
#include "core/recording/let_go.h"

namespace rendak {

const Channel* Recording::find(std::string_view quantity) const {
    const Channel* logged = find_logged(quantity);
    return logged == nullptr && derived ? derived(quantity) : logged;
}

const Channel* Recording::find_logged(std::string_view quantity) const {
    if (quantity.starts_with(by_name_prefix)) {
        const Channel* named = find_name(quantity.substr(by_name_prefix.size()));
        return named != nullptr && named->size() > 0 ? named : nullptr;
    }
    const Channel* best = nullptr;
    for (const Channel& channel : channels) {
        if (channel.quantity != quantity || channel.size() == 0) continue;
        if (best == nullptr || channel.clock.mean_rate_hz() > best->clock.mean_rate_hz()) best = &channel;
    }
    return best;
}

const Channel* Recording::find_name(std::string_view name) const {
    for (const Channel& channel : channels) {
        if (channel.name == name) return &channel;
    }
    for (const Channel& channel : channels) {
        if (folded(channel.name) == folded(name)) return &channel;
    }
    return nullptr;
}

Interval Recording::span_s() const {
    Interval span;
    bool first = true;
    for (const Channel& channel : channels) {
        if (channel.size() == 0) continue;
        const Interval own = channel.clock.span_s();
        span = first ? own : Interval{std::min(span.begin, own.begin), std::max(span.end, own.end)};
        first = false;
    }
    return span;
}

void let_go_of_samples(const Recording& recording) {
    for (const Channel& channel : recording.channels)
        std::visit([](auto samples) { let_go(samples.data(), samples.size_bytes()); }, channel.samples);
}

std::string content_digest(const Recording& recording) {
    std::vector<std::array<std::uint64_t, 2>> parts;
    for (const Channel& channel : recording.channels) {
        XXH3_state_t* state = XXH3_createState();
        XXH3_128bits_reset(state);
        const auto add_text = [&](const std::string& text) {
            XXH3_128bits_update(state, text.c_str(), text.size() + 1);
        };
        add_text(channel.name);
        add_text(channel.unit);
        if (channel.clock.times_s.empty()) {
            XXH3_128bits_update(state, &channel.clock.start_s, sizeof(double));
            XXH3_128bits_update(state, &channel.clock.rate_hz, sizeof(double));
        } else {
            XXH3_128bits_update(state, channel.clock.times_s.data(), channel.clock.times_s.size_bytes());
        }
        std::visit([&](auto samples) { XXH3_128bits_update(state, samples.data(), samples.size_bytes()); },
                   channel.samples);
        std::visit([](auto samples) { let_go(samples.data(), samples.size_bytes()); }, channel.samples);
        const XXH128_hash_t hash = XXH3_128bits_digest(state);
        XXH3_freeState(state);
        parts.push_back({hash.high64, hash.low64});
    }
    std::sort(parts.begin(), parts.end());
    Xxh3 all;
    all.add(parts.data(), parts.size() * sizeof parts[0]);
    return all.hex();
}

}  // namespace rendak
