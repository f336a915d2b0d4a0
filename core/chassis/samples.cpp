#include "core/chassis/samples.h"

#include <algorithm>
#include <cmath>

namespace rendak {

std::span<const float> SampledStretch::during(Interval time_s) const {
    if (values.empty() || time_s.empty()) return {};
    const auto place = [&](double t) {
        const double i = std::ceil((t - start_s) * rate_hz - 1e-9);
        return static_cast<std::size_t>(std::clamp(i, 0.0, static_cast<double>(values.size())));
    };
    const std::size_t from = place(time_s.begin), to = place(time_s.end);
    return std::span(values).subspan(from, std::max(from, to) - from);
}

SampledStretch sampled(const Recording& recording, std::string_view name, Interval time_s) {
    SampledStretch out;
    const Channel* channel = recording.find(name);
    if (channel == nullptr || channel->size() < 2 || channel->steps()) return out;
    const SampleClock& clock = channel->clock;
    if (clock.rate_hz > 0 && clock.times_s.empty()) {
        out.rate_hz = clock.rate_hz;
        const std::size_t from = clock.first_at_or_after(time_s.begin), to = clock.first_at_or_after(time_s.end);
        if (from >= to) return out;
        out.start_s = clock.time_at(from);
        if (!channel->is_double()) {
            const auto part = channel->floats().subspan(from, to - from);
            out.values.assign(part.begin(), part.end());
        } else {
            out.values.reserve(to - from);
            for (std::size_t i = from; i < to; ++i) out.values.push_back(static_cast<float>(channel->at(i)));
        }
        return out;
    }
    out.rate_hz = clock.mean_rate_hz();
    if (!(out.rate_hz > 0)) return out;
    const Interval span = clock.span_s();
    out.start_s = std::max(time_s.begin, span.begin);
    const double end = std::min(time_s.end, span.end);
    for (double i = 0; out.start_s + i / out.rate_hz < end; ++i)
        out.values.push_back(static_cast<float>(channel->value_at(out.start_s + i / out.rate_hz)));
    return out;
}

void leave_out_stuck(SampledStretch& samples) {
    const auto held = static_cast<std::size_t>(samples.rate_hz / 2);
    if (held < 5) return;
    std::vector<float>& values = samples.values;
    for (std::size_t first = 0; first < values.size();) {
        std::size_t end = first + 1;
        while (end < values.size() && values[end] == values[first]) ++end;
        if (end - first >= held)
            std::fill(values.begin() + static_cast<std::ptrdiff_t>(first),
                      values.begin() + static_cast<std::ptrdiff_t>(end), std::nanf(""));
        first = end;
    }
}

}  // namespace rendak
