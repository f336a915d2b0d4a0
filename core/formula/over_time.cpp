#include "core/formula/over_time.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace rendak::formula {
namespace {

constexpr float missing_sample = std::numeric_limits<float>::quiet_NaN();

double wide(float x) {
    return static_cast<double>(x);
}

}  // namespace

std::vector<float> gradient(std::span<const float> x, const SampleClock& clock) {
    const std::size_t n = x.size();
    std::vector<float> out(n, missing_sample);
    if (n < 2) return out;
    const auto slope = [&](std::size_t i, std::size_t k) {
        return (wide(x[k]) - wide(x[i])) / (clock.time_at(k) - clock.time_at(i));
    };
    out[0] = static_cast<float>(slope(0, 1));
    out[n - 1] = static_cast<float>(slope(n - 2, n - 1));
    if (clock.times_s.empty()) {
        const double half_rate = clock.rate_hz / 2;
        for (std::size_t i = 1; i + 1 < n; ++i)
            out[i] = x[i] == x[i] ? static_cast<float>((wide(x[i + 1]) - wide(x[i - 1])) * half_rate) : missing_sample;
        return out;
    }
    for (std::size_t i = 1; i + 1 < n; ++i) {
        const double before = clock.time_at(i) - clock.time_at(i - 1), after = clock.time_at(i + 1) - clock.time_at(i);
        out[i] = static_cast<float>((slope(i, i + 1) * before + slope(i - 1, i) * after) / (before + after));
    }
    return out;
}

std::vector<float> cumulative_trapezoid(std::span<const float> x, const SampleClock& clock,
                                        std::span<const float> begin_anew) {
    std::vector<float> out(x.size(), missing_sample);
    double sum = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (i > 0) {
            const double step = (wide(x[i]) + wide(x[i - 1])) / 2 * (clock.time_at(i) - clock.time_at(i - 1));
            if (std::isfinite(step)) sum += step;
        }
        if (!begin_anew.empty() && begin_anew[i] == 1) sum = 0;
        if (!std::isnan(x[i])) out[i] = static_cast<float>(sum);
    }
    return out;
}

std::vector<float> sampled(std::span<const float> x, const SampleClock& clock, bool is_state, const SampleClock& at,
                           std::size_t from, std::size_t to) {
    std::vector<float> out(to - from, missing_sample);
    if (x.empty()) return out;
    const double first = clock.time_at(0), last = clock.time_at(x.size() - 1);
    constexpr double hair = 1e-9;
    std::size_t k = 0;
    bool placed = false;
    for (std::size_t i = from; i < to; ++i) {
        const double t = at.time_at(i);
        if (t < first - hair) continue;
        if (t > last + hair) break;
        if (!placed) {
            const std::size_t after = clock.first_at_or_after(t);
            k = after == 0 ? 0 : after - 1;
            placed = true;
        }
        while (k + 1 < x.size() && clock.time_at(k + 1) <= t + hair) ++k;
        const double before = clock.time_at(k);
        if (is_state || k + 1 == x.size() || std::abs(t - before) <= hair) {
            out[i - from] = x[k];
            continue;
        }
        const double share = (t - before) / (clock.time_at(k + 1) - before);
        out[i - from] = static_cast<float>(wide(x[k]) + share * (wide(x[k + 1]) - wide(x[k])));
    }
    return out;
}

std::vector<float> delayed(std::span<const float> x, const SampleClock& clock, double by_s, bool is_state) {
    const double samples = by_s * clock.rate_hz;
    if (clock.times_s.empty() && samples >= 0 && std::abs(samples - std::round(samples)) < 1e-9 * clock.rate_hz) {
        // Later by whole samples of an even clock: the samples themselves, moved.
        const std::size_t later = std::min(x.size(), static_cast<std::size_t>(std::min(std::round(samples), 1e15)));
        std::vector<float> out(x.size(), missing_sample);
        std::copy(x.begin(), x.end() - static_cast<std::ptrdiff_t>(later),
                  out.begin() + static_cast<std::ptrdiff_t>(later));
        return out;
    }
    // The same samples on a clock that is later.
    SampleClock later = clock;
    std::vector<double> times(clock.times_s.begin(), clock.times_s.end());
    for (double& t : times) t += by_s;
    later.times_s = times;
    later.start_s += by_s;
    return sampled(x, later, is_state, clock, 0, x.size());
}

std::vector<float> hysteresis(std::span<const float> x, std::span<const float> low, std::span<const float> high) {
    std::vector<float> out(x.size(), missing_sample);
    bool on = false;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (std::isnan(x[i]) || std::isnan(low[i]) || std::isnan(high[i])) continue;
        on = on ? x[i] >= low[i] : x[i] > high[i];
        out[i] = on ? 1.0F : 0.0F;
    }
    return out;
}

std::vector<float> debounced(std::span<const float> x, const SampleClock& clock, double time_s) {
    std::vector<float> out(x.size(), missing_sample);
    bool begun = false, on = false, candidate = false;
    double since = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (std::isnan(x[i])) continue;
        const bool now = x[i] != 0;
        if (!begun) {
            on = candidate = now;
            begun = true;
        }
        if (now != candidate) {
            candidate = now;
            since = clock.time_at(i);
        }
        if (candidate != on && clock.time_at(i) - since >= time_s - 1e-9) on = candidate;
        out[i] = on ? 1.0F : 0.0F;
    }
    return out;
}

std::vector<float> lasting(std::span<const float> x, const SampleClock& clock, double time_s) {
    std::vector<float> out(x.begin(), x.end());
    for (std::size_t i = 0; i < x.size();) {
        if (x[i] != 1) {
            ++i;
            continue;
        }
        std::size_t end = i;
        while (end < x.size() && x[end] == 1) ++end;
        const double until = end < x.size() ? clock.time_at(end) : clock.time_at(end - 1);
        if (until - clock.time_at(i) < time_s - 1e-9)
            std::fill(out.begin() + static_cast<std::ptrdiff_t>(i), out.begin() + static_cast<std::ptrdiff_t>(end),
                      0.0F);
        i = end;
    }
    return out;
}

std::vector<Stretch> stretches_of(const std::vector<LapSpan>& laps, const SampleClock& clock) {
    std::vector<Stretch> out;
    for (const LapSpan& lap : laps)
        out.push_back({clock.first_at_or_after(lap.start_s), clock.first_at_or_after(lap.end_s), lap.start_s, lap.end_s,
                       lap.map});
    // The last sample of the last lap belongs to it.
    if (!out.empty() && out.back().to + 1 == clock.size) out.back().to = clock.size;
    return out;
}

std::vector<float> count_rises(std::span<const float> x, const std::vector<Stretch>& stretches) {
    std::vector<float> out(x.size(), missing_sample);
    for (const Stretch& stretch : stretches) {
        float count = 0;
        for (std::size_t i = stretch.from; i < stretch.to; ++i) {
            if (std::isnan(x[i])) continue;
            // A condition that holds from the very first sample of the run on has not become true.
            if (x[i] == 1 && i > 0 && x[i - 1] == 0) ++count;
            out[i] = count;
        }
    }
    return out;
}

std::vector<float> sum_while(std::span<const float> x, std::span<const double> step,
                             const std::vector<Stretch>& stretches, bool share) {
    std::vector<float> out(x.size(), missing_sample);
    // Without a branch at a sample: conditions come and go hundreds of times a lap.
    const auto sum_up = [&](const Stretch& stretch, const auto& result) {
        double sum = 0, all = 0;
        float before = stretch.from > 0 ? x[stretch.from - 1] : missing_sample;
        for (std::size_t i = stretch.from; i < stretch.to; ++i) {
            const bool told = before == before && std::isfinite(step[i]);
            const double passed = told ? step[i] : 0;
            all += passed;
            sum += before != 0 ? passed : 0;
            before = x[i];
            out[i] = before == before ? static_cast<float>(result(sum, all, before)) : missing_sample;
        }
    };
    for (const Stretch& stretch : stretches) {
        if (share)
            sum_up(stretch, [](double sum, double all, float here) { return all > 0 ? sum / all : wide(here); });
        else
            sum_up(stretch, [](double sum, double, float) { return sum; });
    }
    return out;
}

namespace {

float figure(std::vector<float>& values, Figure kind) {
    if (values.empty()) return missing_sample;
    const auto mean = [&] {
        double sum = 0;
        for (const float value : values) sum += wide(value);
        return sum / static_cast<double>(values.size());
    };
    const auto [low, high] = std::minmax_element(values.begin(), values.end());
    switch (kind) {
        case Figure::mean:
            return static_cast<float>(mean());
        case Figure::low:
            return *low;
        case Figure::high:
            return *high;
        case Figure::spread:
            return *high - *low;
        case Figure::first:
            return values.front();
        case Figure::last:
            return values.back();
        case Figure::deviation: {
            const double centre = mean();
            double squares = 0;
            for (const float value : values) squares += (wide(value) - centre) * (wide(value) - centre);
            return static_cast<float>(std::sqrt(squares / static_cast<double>(values.size())));
        }
        case Figure::median: {
            const auto half = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
            std::nth_element(values.begin(), half, values.end());
            if (values.size() % 2 == 1) return *half;
            return (*std::max_element(values.begin(), half) + *half) / 2;
        }
    }
    return missing_sample;
}

}  // namespace

std::vector<float> figure_of(std::span<const float> x, const SampleClock& clock, Figure kind,
                             const std::vector<Stretch>& stretches, std::span<const float> where, Interval place_m) {
    std::vector<float> out(x.size(), missing_sample), values;
    for (const Stretch& stretch : stretches) {
        std::size_t from = stretch.from, to = stretch.to;
        if (!place_m.empty()) {
            if (stretch.map == nullptr) continue;
            from = std::clamp(clock.first_at_or_after(stretch.map->time_at(place_m.begin)), from, to);
            to = std::clamp(clock.first_at_or_after(stretch.map->time_at(place_m.end)), from, to);
        }
        values.clear();
        for (std::size_t i = from; i < to; ++i) {
            if (std::isfinite(x[i]) && (where.empty() || where[i] == 1)) values.push_back(x[i]);
        }
        const float result = figure(values, kind);
        std::fill(out.begin() + static_cast<std::ptrdiff_t>(stretch.from),
                  out.begin() + static_cast<std::ptrdiff_t>(stretch.to), result);
    }
    return out;
}

}  // namespace rendak::formula
