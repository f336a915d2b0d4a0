#include "core/laps/prepared_lap.h"

#include <cmath>

namespace rendak {

double PreparedLap::value_at(std::string_view quantity, double distance_m) const {
    return along(quantity)(distance_m);
}

DriverActivity PreparedLap::activity() const {
    return {*recording, scales != nullptr ? *scales : pedal_scales(*recording)};
}

Point PreparedLap::position_at(double distance_m) const {
    return path->position_at(map.time_at(distance_m)) - map.shift;
}

namespace {

/// Places come out in recording time.
RangeFigures figures_between(const PreparedLap& lap, std::string_view quantity, double begin_s, double end_s) {
    RangeFigures figures;
    const Channel* channel = lap.recording->find(quantity);
    if (channel == nullptr) return figures;
    const std::size_t from = channel->clock.first_at_or_after(begin_s), to = channel->clock.first_at_or_after(end_s);
    const Statistics found = statistics(*channel, from, to);
    if (found.count == 0) return figures;
    figures.low = found.low;
    figures.mean = found.mean;
    figures.high = found.high;
    figures.low_at_m = channel->clock.time_at(found.low_index);
    figures.high_at_m = channel->clock.time_at(found.high_index);
    return figures;
}

}  // namespace

RangeFigures figures_in_range(const PreparedLap& lap, std::string_view quantity, Interval range_m) {
    RangeFigures figures = figures_between(lap, quantity, lap.map.time_at(range_m.begin), lap.map.time_at(range_m.end));
    figures.low_at_m = lap.map.distance_at(figures.low_at_m);
    figures.high_at_m = lap.map.distance_at(figures.high_at_m);
    return figures;
}

RangeFigures figures_in_time(const PreparedLap& lap, std::string_view quantity, Interval time_s) {
    RangeFigures figures = figures_between(lap, quantity, time_s.begin, time_s.end);
    figures.low_at_m -= lap.map.start_s();
    figures.high_at_m -= lap.map.start_s();
    return figures;
}

BetweenFigures between_in_time(const PreparedLap& lap, std::string_view quantity, Interval time_s) {
    BetweenFigures out;
    const Channel* channel = lap.recording->find(quantity);
    if (channel == nullptr || !(time_s.length() > 0)) return out;
    out.change = channel->value_at(time_s.end) - channel->value_at(time_s.begin);
    // Both ends belong to it, whether samples lie there or not.
    double n = 0, sum_t = 0, sum_y = 0, sum_tt = 0, sum_ty = 0, area = 0, last_t = 0, last_y = std::nan("");
    const auto add = [&](double t, double y) {
        if (std::isfinite(y)) {
            n += 1;
            sum_t += t;
            sum_y += y;
            sum_tt += t * t;
            sum_ty += t * y;
            // A state keeps its value until the next sample.
            if (std::isfinite(last_y)) area += (channel->steps() ? last_y : 0.5 * (last_y + y)) * (t - last_t);
        }
        last_t = t;
        last_y = y;
    };
    add(0, channel->value_at(time_s.begin));
    for (std::size_t i = channel->clock.first_at_or_after(time_s.begin); i < channel->size(); ++i) {
        const double t = channel->clock.time_at(i);
        if (t >= time_s.end) break;
        if (t > time_s.begin) add(t - time_s.begin, channel->at(i));
    }
    add(time_s.length(), channel->value_at(time_s.end));
    if (n < 2) return out;
    const double spread = n * sum_tt - sum_t * sum_t;
    if (spread > 0) out.slope_per_s = (n * sum_ty - sum_t * sum_y) / spread;
    out.area_s = area;
    return out;
}

RangeFigures figures_in_range(const GapCurve& gap, Interval range_m) {
    RangeFigures figures;
    double sum = 0;
    std::size_t count = 0;
    for (std::size_t i = 0; i < gap.gap_s.size(); ++i) {
        if (gap.distance_m[i] < range_m.begin || gap.distance_m[i] > range_m.end) continue;
        const double value = gap.gap_s[i];
        if (count == 0 || value < figures.low) {
            figures.low = value;
            figures.low_at_m = gap.distance_m[i];
        }
        if (count == 0 || value > figures.high) {
            figures.high = value;
            figures.high_at_m = gap.distance_m[i];
        }
        sum += value;
        ++count;
    }
    if (count > 0) figures.mean = sum / static_cast<double>(count);
    return figures;
}

}  // namespace rendak
