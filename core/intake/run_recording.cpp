#include "core/intake/run_recording.h"

#include <algorithm>

#include "core/base/text.h"
#include "core/intake/channel_edits.h"

namespace rendak {
namespace {

/// A channel over its own copy of the samples, with every value mapped.
template <class Map>
Channel rebuilt(const Channel& channel, Map map) {
    ChannelStorage storage;
    const auto copy = [&](auto samples, auto& into) {
        using Number = typename std::decay_t<decltype(into)>::value_type;
        into.resize(samples.size());
        for (std::size_t i = 0; i < samples.size(); ++i) into[i] = static_cast<Number>(map(samples[i]));
    };
    if (channel.is_double())
        copy(std::get<1>(channel.samples), storage.doubles);
    else
        copy(std::get<0>(channel.samples), storage.floats);
    const auto times = channel.clock.times_s;
    storage.times_s.assign(times.begin(), times.end());
    Channel out = make_channel(channel.name, channel.quantity, channel.unit, std::move(storage), channel.clock.start_s,
                               channel.clock.rate_hz);
    out.source_unit = channel.source_unit;
    return out;
}

/// Window, signs and unused channels of one run, on its own clock.
Result<Recording> own_recording(const Library& library, const RunRow& row) {
    const auto opened = library.open_run(row.id);
    if (!opened) return pass_on(opened.error());
    Recording out = row.window_s ? cut_to(**opened, *row.window_s) : **opened;
    const auto edits = library.channel_edits(row.id);
    if (!edits) return pass_on(edits.error());
    out = with_channel_edits(out, *edits);
    const auto flipped = library.flipped_quantities(row.id);
    if (!flipped) return pass_on(flipped.error());
    if (!flipped->empty()) out = with_flipped(out, *flipped);
    const auto correction = library.place_correction(row.id);
    if (!correction) return pass_on(correction.error());
    if (const double delay_s = correction->delay_s; delay_s != 0) {
        for (Channel& channel : out.channels) {
            if (comes_from_receiver(channel)) channel = moved_in_time(channel, -delay_s);
        }
    }
    const auto unused = library.unused_channels(row.id);
    if (!unused) return pass_on(unused.error());
    std::erase_if(out.channels, [&](const Channel& channel) {
        return std::find(unused->begin(), unused->end(), channel.name) != unused->end();
    });
    return out;
}

}  // namespace

Channel rescaled(const Channel& channel, double factor, double offset) {
    return rebuilt(channel, [&](auto x) { return static_cast<double>(x) * factor + offset; });
}

bool comes_from_receiver(const Channel& channel) {
    const auto& q = channel.quantity;
    return q == "latitude" || q == "longitude" || q == "altitude" ||
           (q == "speed" && lower(channel.name).find("gps") != std::string::npos);
}

Recording with_flipped(const Recording& recording, const std::vector<std::string>& quantities) {
    Recording out = recording;
    for (Channel& channel : out.channels) {
        if (std::find(quantities.begin(), quantities.end(), channel.quantity) == quantities.end()) continue;
        channel = rebuilt(channel, [](auto x) { return -x; });
    }
    return out;
}

Recording cut_to(const Recording& recording, Interval window_s) {
    Recording out = recording;
    for (Channel& channel : out.channels) {
        const std::size_t from = channel.clock.first_at_or_after(window_s.begin),
                          to = std::max(from, channel.clock.first_at_or_after(window_s.end));
        if (from > 0 || to < channel.size()) channel = part_of(channel, from, to);
    }
    std::erase_if(out.channels, [](const Channel& channel) { return channel.size() == 0; });
    return out;
}

Channel moved_in_time(const Channel& channel, double offset_s) {
    Channel out = channel;
    if (channel.clock.times_s.empty()) {
        out.clock.start_s += offset_s;
        return out;
    }
    struct Times {
        std::vector<double> times_s;
        std::shared_ptr<const void> samples;
    };
    auto times = std::make_shared<Times>();
    times->samples = channel.owner;
    times->times_s.assign(channel.clock.times_s.begin(), channel.clock.times_s.end());
    for (double& t : times->times_s) t += offset_s;
    out.clock.times_s = times->times_s;
    out.owner = times;
    return out;
}

Result<Recording> run_recording(const Library& library, RunId id) {
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    auto out = own_recording(library, *row);
    if (!out) return out;
    const auto parts = library.joined_runs(id);
    if (!parts) return pass_on(parts.error());
    for (const RunRow& part : *parts) {
        const auto other = own_recording(library, part);
        if (!other) return other;
        const std::string from = part.logger.empty() ? part.source_name : part.logger;
        for (const Channel& channel : other->channels) {
            Channel moved = moved_in_time(channel, part.join_offset_s);
            if (out->find_name(channel.name) != nullptr) moved.name += " (" + from + ")";
            out->channels.push_back(std::move(moved));
        }
    }
    return out;
}

}  // namespace rendak
