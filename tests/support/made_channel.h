#pragma once

#include <functional>

#include "core/recording/recording.h"

namespace rendak::test {

/// A channel whose samples are a function of time, from `begin_s` on.
inline Channel made_channel(const std::string& quantity, const std::string& unit, double rate_hz, double begin_s,
                            double end_s, const std::function<double(double)>& value) {
    ChannelStorage storage;
    const auto count = static_cast<std::size_t>((end_s - begin_s) * rate_hz) + 1;
    for (std::size_t i = 0; i < count; ++i)
        storage.floats.push_back(static_cast<float>(value(begin_s + static_cast<double>(i) / rate_hz)));
    Channel channel = make_channel(quantity, quantity, unit, std::move(storage), begin_s, rate_hz);
    channel.source_unit = unit;
    return channel;
}

}  // namespace rendak::test
