#include "core/laps/trace.h"

#include <algorithm>
#include <cmath>

#include "core/signal/overview.h"

namespace rendak {

Interval Trace::limits() const {
    Interval limits{0, 0};
    if (whole != nullptr) {
        const MinMax all = min_max(*whole, 0, whole->size());
        return all.empty() ? limits : Interval{all.low, all.high};
    }
    bool first = true;
    for (const float value : y) {
        if (!std::isfinite(value)) continue;
        limits = first ? Interval{value, value}
                       : Interval{std::min<double>(limits.begin, value), std::max<double>(limits.end, value)};
        first = false;
    }
    return limits;
}

std::optional<Interval> Trace::limits(Interval range) const {
    if (whole != nullptr) {
        const MinMax part = min_max(*whole, whole->clock.first_at_or_after(whole_start_s + range.begin),
                                    whole->clock.first_at_or_after(whole_start_s + range.end));
        return part.empty() ? std::nullopt : std::optional(Interval{part.low, part.high});
    }
    std::optional<Interval> out;
    for (std::size_t i = first_at(range.begin); i < y.size() && x[i] <= range.end; ++i) {
        if (!std::isfinite(y[i])) continue;
        out = !out ? Interval{y[i], y[i]}
                   : Interval{std::min<double>(out->begin, y[i]), std::max<double>(out->end, y[i])};
    }
    return out;
}

std::size_t Trace::first_at(double at) const {
    return static_cast<std::size_t>(std::lower_bound(x.begin(), x.end(), static_cast<float>(at)) - x.begin());
}

Trace trace_of(const PreparedLap& lap, std::string_view quantity, Axis axis) {
    Trace trace;
    const Channel* channel = lap.recording->find(quantity);
    if (channel == nullptr) return trace;
    trace.is_state = channel->steps();
    const double start = lap.map.start_s(), end = lap.map.end_s();
    const std::size_t from = channel->clock.first_at_or_after(start), to = channel->clock.first_at_or_after(end);
    trace.x.reserve(to - from + 2);
    trace.y.reserve(to - from + 2);
    const auto add = [&](double t, double distance, double value) {
        trace.x.push_back(static_cast<float>(axis == Axis::distance ? distance : t - start));
        trace.y.push_back(static_cast<float>(value));
    };
    add(start, 0, channel->value_at(start));
    // Samples and the lap's map both rise in time: one pass instead of a search a sample.
    const auto& times = lap.map.time_s;
    std::size_t at = 0;
    for (std::size_t i = from; i < to; ++i) {
        const double t = channel->clock.time_at(i);
        while (at + 2 < times.size() && times[at + 1] <= t) ++at;
        const double share = (t - times[at]) / (times[at + 1] - times[at]);
        add(t, lap.map.distance_m[at] + share * (lap.map.distance_m[at + 1] - lap.map.distance_m[at]), channel->at(i));
    }
    add(end, lap.map.length_m(), channel->value_at(end));
    return trace;
}

Trace run_trace_of(const PreparedLap& lap, std::string_view quantity) {
    Trace trace;
    const Channel* channel = lap.recording->find(quantity);
    if (channel == nullptr) return trace;
    if (channel->size() == 0) return trace;
    trace.is_state = channel->steps();
    trace.whole = std::make_shared<const Channel>(*channel);
    trace.whole_start_s = lap.map.start_s();
    return trace;
}

namespace {

Trace curve_of(const std::vector<double>& distance_m, const std::vector<double>& value, const PreparedLap& lap,
               Axis axis) {
    Trace trace;
    trace.x.reserve(distance_m.size());
    for (std::size_t i = 0; i < distance_m.size(); ++i) {
        const double x = axis == Axis::distance ? distance_m[i] : lap.map.time_at(distance_m[i]) - lap.map.start_s();
        trace.x.push_back(static_cast<float>(x));
        trace.y.push_back(static_cast<float>(value[i]));
    }
    return trace;
}

}  // namespace

Trace trace_of(const GapCurve& gap, const PreparedLap& lap, Axis axis) {
    return curve_of(gap.distance_m, gap.gap_s, lap, axis);
}

Trace trace_of(const LineOffset& offset, const PreparedLap& lap, Axis axis) {
    return curve_of(offset.distance_m, offset.left_m, lap, axis);
}

}  // namespace rendak
