#include "core/signal/channel.h"

#include <algorithm>
#include <array>

#include "core/signal/quantity.h"

namespace rendak {

std::size_t SampleClock::first_at_or_after(double t_s) const {
    if (size == 0) return 0;
    if (!times_s.empty()) {
        return static_cast<std::size_t>(std::lower_bound(times_s.begin(), times_s.end(), t_s) - times_s.begin());
    }
    const double position = (t_s - start_s) * rate_hz;
    if (!(position > 0)) return 0;
    // A time that was computed from an index must find that index again.
    const double index = std::ceil(position - 1e-7);
    return index >= static_cast<double>(size) ? size : static_cast<std::size_t>(index);
}

SampleClock SampleClock::part(std::size_t from, std::size_t to) const {
    SampleClock out = *this;
    out.size = to - from;
    if (!times_s.empty()) {
        out.times_s = times_s.subspan(from, to - from);
        if (to > from) out.start_s = out.times_s.front();
    } else if (rate_hz > 0) {
        out.start_s = time_at(from);
    }
    return out;
}

Interval SampleClock::span_s() const {
    if (size == 0) return {};
    return {time_at(0), time_at(size - 1)};
}

double SampleClock::mean_rate_hz() const {
    if (times_s.empty()) return rate_hz;
    if (size < 2 || !(times_s[size - 1] > times_s[0])) return 0;
    return static_cast<double>(size - 1) / (times_s[size - 1] - times_s[0]);
}

bool Channel::steps() const {
    // Asked for every value between two samples: a look at the few that step, not through the table.
    static const std::vector<std::string_view> states = [] {
        std::vector<std::string_view> out;
        for (const Quantity& it : all_quantities()) {
            if (it.is_state) out.push_back(it.id);
        }
        return out;
    }();
    return is_state || std::find(states.begin(), states.end(), quantity) != states.end();
}

double Channel::value_at(double t_s) const {
    constexpr double missing = std::numeric_limits<double>::quiet_NaN(), rounding_s = 1e-9;
    // Most values are asked for inside of an even clock.
    if (clock.times_s.empty()) {
        const double position = (t_s - clock.start_s) * clock.rate_hz;
        if (position >= 0 && position < static_cast<double>(clock.size) - 1) {
            const auto before = static_cast<std::size_t>(position);
            const double share = position - static_cast<double>(before), near = rounding_s * clock.rate_hz;
            if (share < near) return at(before);
            if (share > 1 - near) return at(before + 1);
            const double here = at(before), next = at(before + 1);
            if (here == next || steps()) return here;
            // From the samples' own times: what is rounded in one of them is so in the other.
            const double t_before = clock.time_at(before);
            return here + (t_s - t_before) / (clock.time_at(before + 1) - t_before) * (next - here);
        }
    }
    const std::size_t after = clock.first_at_or_after(t_s);
    if (after == size()) {
        // Rounding may put the very last instant a hair behind the last sample.
        return size() > 0 && t_s <= clock.time_at(size() - 1) + rounding_s ? at(size() - 1) : missing;
    }
    const double t_after = clock.time_at(after);
    if (std::abs(t_after - t_s) < rounding_s) return at(after);
    if (after == 0) return missing;
    if (steps()) return at(after - 1);
    const double t_before = clock.time_at(after - 1);
    const double share = (t_s - t_before) / (t_after - t_before);
    return at(after - 1) + share * (at(after) - at(after - 1));
}

Channel make_channel(std::string name, std::string quantity, std::string unit, ChannelStorage storage, double start_s,
                     double rate_hz) {
    auto owner = std::make_shared<ChannelStorage>(std::move(storage));
    Channel channel;
    channel.name = std::move(name);
    channel.quantity = std::move(quantity);
    channel.unit = std::move(unit);
    if (!owner->doubles.empty()) {
        channel.samples = std::span<const double>(owner->doubles);
        channel.clock.size = owner->doubles.size();
    } else {
        channel.samples = std::span<const float>(owner->floats);
        channel.clock.size = owner->floats.size();
    }
    if (owner->times_s.empty()) {
        channel.clock.start_s = start_s;
        channel.clock.rate_hz = rate_hz;
    } else {
        channel.clock.times_s = owner->times_s;
        channel.clock.start_s = owner->times_s.front();
    }
    channel.owner = std::move(owner);
    return channel;
}

Channel make_channel(std::string name, std::string quantity, std::string unit,
                     std::variant<std::span<const float>, std::span<const double>> samples, SampleClock clock,
                     std::shared_ptr<const void> owner) {
    Channel channel;
    channel.name = std::move(name);
    channel.quantity = std::move(quantity);
    channel.unit = std::move(unit);
    channel.samples = samples;
    channel.clock = clock;
    channel.clock.size = std::visit([](auto span) { return span.size(); }, samples);
    channel.owner = std::move(owner);
    return channel;
}

Channel part_of(const Channel& channel, std::size_t from, std::size_t to) {
    Channel out = channel;
    out.clock = channel.clock.part(from, to);
    out.overview.clear();
    std::visit([&](auto all) { out.samples = all.subspan(from, to - from); }, channel.samples);
    return out;
}

namespace {

/// Four of everything, side by side: one alone waits for the sample before.
template <typename Number>
Statistics statistics_of(std::span<const Number> all, std::size_t from, std::size_t to) {
    constexpr std::size_t lanes = 4;
    constexpr Number most = std::numeric_limits<Number>::infinity();
    to = std::min(to, all.size());
    Statistics result;
    if (from >= to) return result;
    const auto samples = all.subspan(from, to - from);
    std::array<Number, lanes> low, high;
    std::array<double, lanes> sum{};
    std::array<std::size_t, lanes> count{};
    low.fill(most);
    high.fill(-most);
    const auto take = [&](std::size_t lane, Number value) {
        low[lane] = value < low[lane] ? value : low[lane];
        high[lane] = value > high[lane] ? value : high[lane];
        sum[lane] += value == value ? static_cast<double>(value) : 0;
        count[lane] += value == value ? 1 : 0;
    };
    std::size_t i = 0;
    for (; i + lanes <= samples.size(); i += lanes) {
        for (std::size_t lane = 0; lane < lanes; ++lane) take(lane, samples[i + lane]);
    }
    for (; i < samples.size(); ++i) take(0, samples[i]);
    result.count = count[0] + count[1] + count[2] + count[3];
    if (result.count == 0) return result;
    const Number lowest = *std::min_element(low.begin(), low.end());
    const Number highest = *std::max_element(high.begin(), high.end());
    const auto index_of = [&](Number value) {
        return from + static_cast<std::size_t>(std::find(samples.begin(), samples.end(), value) - samples.begin());
    };
    result.low_index = index_of(lowest);
    result.high_index = index_of(highest);
    result.low = static_cast<double>(lowest);
    result.high = static_cast<double>(highest);
    result.mean = ((sum[0] + sum[1]) + (sum[2] + sum[3])) / static_cast<double>(result.count);
    return result;
}

}  // namespace

Statistics statistics(const Channel& channel, std::size_t from, std::size_t to) {
    return std::visit([&](auto samples) { return statistics_of(samples, from, to); }, channel.samples);
}

}  // namespace rendak
