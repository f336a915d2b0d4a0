#pragma once

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <vector>

#include "core/base/buffer.h"
#include "core/recording/clock_fit.h"
#include "core/recording/mdf_values.h"

namespace rendak::mdf {

/// The times of a group's records, strictly rising.
struct Clock {
    std::vector<double> times_s;
    std::vector<std::size_t> kept;  ///< records whose time rises; empty: all
    std::optional<FittedClock> fitted;
};

/// The samples of a channel, converted, NaN where they are missing, invalid or infinite; on the clock's slots where it
/// is regular. Returns how many samples were infinite.
template <class Number>
std::size_t read_into(Buffer<Number>& out, const Group& group, const MdfChannel& channel, const Records& records,
                      const Clock& clock) {
    Buffer<Number> values(records.count);
    const bool whole = channel.is_whole();
    if (channel.type == CnType::virtual_data)
        for (std::size_t i = 0; i < records.count; ++i)
            values[i] = static_cast<Number>((*channel.conversion)(static_cast<double>(i), true));
    else if (channel.conversion->identity())
        for_each_raw(records, channel, [&](std::size_t i, auto raw) { values[i] = static_cast<Number>(raw); });
    else
        for_each_raw(records, channel, [&](std::size_t i, auto raw) {
            values[i] = static_cast<Number>((*channel.conversion)(static_cast<double>(raw), whole));
        });
    constexpr Number missing = std::numeric_limits<Number>::quiet_NaN();
    std::size_t infinite = 0;
    for (Number& value : values) {
        if (!std::isinf(value)) continue;
        value = missing;
        ++infinite;
    }
    if ((channel.flags & 1) != 0) std::fill(values.begin(), values.end(), missing);
    if ((channel.flags & 2) != 0 && channel.invalid_bit / 8 < group.invalid_bytes) {
        const char* at = records.first + group.data_bytes + channel.invalid_bit / 8;
        for (std::size_t i = 0; i < records.count; ++i, at += records.step) {
            if ((static_cast<unsigned char>(*at) >> (channel.invalid_bit % 8) & 1) != 0) values[i] = missing;
        }
    }
    if (!clock.kept.empty()) {
        for (std::size_t i = 0; i < clock.kept.size(); ++i) values[i] = values[clock.kept[i]];
        values.resize(clock.kept.size());
    }
    if (!clock.fitted || clock.fitted->size == values.size()) {
        out = std::move(values);
        return infinite;
    }
    out.resize(clock.fitted->size);
    std::fill(out.begin(), out.end(), missing);
    for (std::size_t i = 0; i < values.size(); ++i) {
        const std::size_t slot = clock.fitted->slot_of(clock.times_s[i]);
        if (slot < out.size()) out[slot] = values[i];
    }
    return infinite;
}

}  // namespace rendak::mdf
