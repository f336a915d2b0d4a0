#include "core/analysis/channel_faults.h"

#include <algorithm>
#include <cmath>

#include "core/signal/overview.h"
#include "core/signal/quantity.h"

namespace rendak {
namespace {

constexpr double moving_mps = 3;

/// Speeds and rates may rest at zero and pedals at both ends: that is no fault.
bool may_rest_at(const Channel& channel, double value) {
    if (channel.quantity == "throttle" || channel.quantity == "brake") return value < 0.02 || value > 0.98;
    return value == 0 &&
           (channel.unit == "m/s" || channel.quantity == "fuel" || channel.quantity.rfind("brake_", 0) == 0);
}

bool is_left_out(const Channel& channel) {
    const Quantity* quantity = find_quantity(channel.quantity);
    return channel.is_double() || channel.size() < 100 || (quantity != nullptr && quantity->is_state) ||
           channel.quantity == "time";
}

class Examiner {
  public:
    Examiner(const Channel& channel, const SpeedTrace& speed)
        : channel_(channel), samples_(channel.floats()), speed_(speed) {}

    void examine(std::vector<ChannelFault>& out) {
        const MinMax range = min_max(channel_, 0, channel_.size());
        if (range.empty() || range.low == range.high) {
            if (!range.empty() && may_rest_at(channel_, range.low) && channel_.unit == "m/s") return;
            out.push_back(
                {ChannelFault::Kind::dead, channel_.name, {}, range.empty() ? std::nan("") : range.low, 1, 0});
            return;
        }
        find_saturation(range, out);
        find_stuck(out);
        find_spikes(out);
    }

  private:
    [[nodiscard]] bool moving_at(double t) const {
        const double i = (t - speed_.start_s) * SpeedTrace::rate_hz;
        if (i < 0 || i >= static_cast<double>(speed_.mps.size())) return false;
        return speed_.mps[static_cast<std::size_t>(i)] > moving_mps;
    }

    void find_saturation(MinMax range, std::vector<ChannelFault>& out) {
        for (const float limit : {range.high, range.low}) {
            if (may_rest_at(channel_, limit)) continue;
            // Samples that follow one another on the very same extreme value.
            std::size_t there = 0, run = 0, in_runs = 0;
            for (const float value : samples_) {
                run = value == limit ? run + 1 : 0;
                there += value == limit;
                if (run >= 4) in_runs += run == 4 ? 4 : 1;
            }
            const double share = static_cast<double>(in_runs) / static_cast<double>(samples_.size());
            if (in_runs < 20 || share < 0.002 || static_cast<double>(in_runs) < 0.8 * static_cast<double>(there))
                continue;
            out.push_back({ChannelFault::Kind::saturated, channel_.name, {}, limit, share, in_runs});
            saturated_at_.push_back(limit);
        }
    }

    void find_stuck(std::vector<ChannelFault>& out) {
        ChannelFault fault{ChannelFault::Kind::stuck, channel_.name, {}, 0, 0, 0};
        double longest_s = 0;
        std::size_t begin = 0;
        for (std::size_t i = 1; i <= samples_.size(); ++i) {
            if (i < samples_.size() && (samples_[i] == samples_[begin])) continue;
            const double from = channel_.clock.time_at(begin), to = channel_.clock.time_at(i - 1);
            const bool known =
                may_rest_at(channel_, samples_[begin]) ||
                std::find(saturated_at_.begin(), saturated_at_.end(), samples_[begin]) != saturated_at_.end();
            if (to - from >= 15 && !known && i - begin >= 20) {
                std::size_t moving = 0;
                for (double t = from; t < to; t += 1) moving += moving_at(t);
                if (static_cast<double>(moving) > 0.8 * (to - from)) {
                    fault.where_s.push_back({from, to});
                    fault.share += static_cast<double>(i - begin) / static_cast<double>(samples_.size());
                    if (to - from > longest_s) fault.value = samples_[begin];
                    longest_s = std::max(longest_s, to - from);
                }
            }
            begin = i;
        }
        if (!fault.where_s.empty()) out.push_back(std::move(fault));
    }

    void find_spikes(std::vector<ChannelFault>& out) {
        std::vector<float> steps;
        const std::size_t stride = std::max<std::size_t>(1, samples_.size() / 20000);
        for (std::size_t i = 1; i < samples_.size(); i += stride) {
            const float step = std::abs(samples_[i] - samples_[i - 1]);
            if (step == step) steps.push_back(step);
        }
        if (steps.size() < 50) return;
        const auto most = steps.begin() + static_cast<std::ptrdiff_t>(steps.size() * 98 / 100);
        std::nth_element(steps.begin(), most, steps.end());
        // Eight times the step that 98 % of all steps stay below: a car's own shocks are far more common than that.
        const float far = 8 * *most;
        if (!(far > 0)) return;
        ChannelFault fault{ChannelFault::Kind::spiking, channel_.name, {}, 0, 0, 0};
        for (std::size_t i = 1; i + 2 < samples_.size(); ++i) {
            const float up = samples_[i] - samples_[i - 1];
            if (!(std::abs(up) > far)) continue;
            // Back at once or after two samples, to where it came from.
            for (std::size_t length = 1; length <= 2; ++length) {
                const float after = samples_[i + length];
                if (!(std::abs(after - samples_[i - 1]) < 0.25F * std::abs(up))) continue;
                const double t = channel_.clock.time_at(i);
                if (fault.where_s.size() < 20) fault.where_s.push_back({t - 0.5, t + 0.5});
                ++fault.count;
                i += length;
                break;
            }
        }
        fault.share = static_cast<double>(fault.count) / static_cast<double>(samples_.size());
        if (fault.count >= 3) out.push_back(std::move(fault));
    }

    const Channel& channel_;
    std::span<const float> samples_;
    const SpeedTrace& speed_;
    std::vector<float> saturated_at_;
};

}  // namespace

std::vector<ChannelFault> channel_faults(const Recording& recording, const JobContext& job) {
    std::vector<ChannelFault> out;
    const SpeedTrace speed = speed_trace(recording);
    for (std::size_t i = 0; i < recording.channels.size(); ++i) {
        if (job.stopped()) break;
        const Channel& channel = recording.channels[i];
        if (!is_left_out(channel)) Examiner(channel, speed).examine(out);
        job.report(static_cast<double>(i + 1) / static_cast<double>(recording.channels.size()));
    }
    return out;
}

SpeedTrace speed_trace(const Recording& recording) {
    SpeedTrace out;
    const Channel* source = recording.find("speed");
    for (const char* wheel : {"wheel_speed_fl", "wheel_speed_fr", "wheel_speed_rl", "wheel_speed_rr"}) {
        if (source == nullptr) source = recording.find(wheel);
    }
    if (source == nullptr || source->size() < 2) return out;
    const Interval span = source->clock.span_s();
    out.start_s = span.begin;
    const double count = span.length() * SpeedTrace::rate_hz;
    if (!(count > 0) || count > 1e8) return out;
    out.mps.reserve(static_cast<std::size_t>(count) + 1);
    for (double i = 0; i <= count; ++i)
        out.mps.push_back(static_cast<float>(source->value_at(span.begin + i / SpeedTrace::rate_hz)));
    return out;
}

std::vector<Interval> stints(const SpeedTrace& speed, double stop_s) {
    const double step = 1 / SpeedTrace::rate_hz;
    std::vector<double> cuts{speed.start_s};
    std::vector<double> driven{0};
    double since = -1;
    for (std::size_t i = 0; i < speed.mps.size(); ++i) {
        const double t = speed.start_s + static_cast<double>(i) * step;
        if (!(speed.mps[i] > moving_mps)) {
            if (since < 0) since = t;
            continue;
        }
        if (since >= 0 && t - since >= stop_s) {
            cuts.push_back(0.5 * (since + t));
            driven.push_back(0);
        }
        since = -1;
        driven.back() += step;
    }
    cuts.push_back(speed.end_s());
    std::vector<Interval> out;
    bool short_before = false;
    for (std::size_t i = 0; i < driven.size(); ++i) {
        const bool is_short = driven[i] < 60;
        if (!out.empty() && (is_short || short_before))
            out.back().end = cuts[i + 1];
        else
            out.push_back({cuts[i], cuts[i + 1]});
        short_before = is_short && out.size() == 1 && i == 0;
    }
    return out;
}

namespace {

struct Agreement {
    double correlation = -2, rms = 0, overlap_s = 0;
};

/// Pearson's correlation of both speeds with the other moved by `offset_s`, sampled every `step_s`.
Agreement agreement(const SpeedTrace& main, const SpeedTrace& other, double offset_s, double step_s) {
    const double begin = std::max(main.start_s, other.start_s + offset_s),
                 end = std::min(main.end_s(), other.end_s() + offset_s);
    const auto value = [](const SpeedTrace& trace, double t) {
        const double at = (t - trace.start_s) * SpeedTrace::rate_hz;
        const auto i = static_cast<std::size_t>(at);
        if (at < 0 || i + 1 >= trace.mps.size()) return std::nan("");
        const double u = at - static_cast<double>(i);
        return trace.mps[i] * (1 - u) + trace.mps[i + 1] * u;
    };
    double n = 0, sum_a = 0, sum_b = 0, aa = 0, bb = 0, ab = 0, squares = 0;
    for (double t = begin; t < end; t += step_s) {
        const double a = value(main, t), b = value(other, t - offset_s);
        if (std::isnan(a) || std::isnan(b)) continue;
        ++n;
        sum_a += a;
        sum_b += b;
        aa += a * a;
        bb += b * b;
        ab += a * b;
        squares += (a - b) * (a - b);
    }
    if (n < 10) return {};
    const double spread = (aa - sum_a * sum_a / n) * (bb - sum_b * sum_b / n);
    if (!(spread > 0)) return {};
    return {(ab - sum_a * sum_b / n) / std::sqrt(spread), std::sqrt(squares / n), n * step_s};
}

/// One value a second, missing ones as the value before.
std::vector<float> every_second(const SpeedTrace& trace) {
    std::vector<float> out;
    float last = 0;
    for (std::size_t i = 0; i < trace.mps.size(); i += static_cast<std::size_t>(SpeedTrace::rate_hz)) {
        if (trace.mps[i] == trace.mps[i]) last = trace.mps[i];
        out.push_back(last);
    }
    return out;
}

}  // namespace

std::optional<SpeedMatch> match_speeds(const SpeedTrace& main, const SpeedTrace& other) {
    const auto a = every_second(main), b = every_second(other);
    const auto shorter = static_cast<std::ptrdiff_t>(std::min(a.size(), b.size()));
    const auto need = static_cast<std::ptrdiff_t>(0.7 * static_cast<double>(shorter));
    if (need < 30) return std::nullopt;
    const auto na = static_cast<std::ptrdiff_t>(a.size()), nb = static_cast<std::ptrdiff_t>(b.size());
    // The smallest mean square difference among all whole-second offsets.
    double best = std::numeric_limits<double>::infinity();
    std::ptrdiff_t best_lag = 0;
    for (std::ptrdiff_t lag = need - nb; lag <= na - need; ++lag) {
        const std::ptrdiff_t from = std::max<std::ptrdiff_t>(0, lag), to = std::min(na, nb + lag);
        if (to - from < need) continue;
        const float* pa = a.data() + from;
        const float* pb = b.data() + (from - lag);
        float sum = 0;
        for (std::ptrdiff_t i = 0; i < to - from; ++i) sum += (pa[i] - pb[i]) * (pa[i] - pb[i]);
        const double mean = static_cast<double>(sum) / static_cast<double>(to - from);
        if (mean < best) {
            best = mean;
            best_lag = lag;
        }
    }
    double offset = main.start_s - other.start_s + static_cast<double>(best_lag);
    Agreement found;
    for (const double step : {0.2, 0.05, 0.01}) {
        double centre = offset;
        found = {};
        for (int k = -6; k <= 6; ++k) {
            const Agreement here = agreement(main, other, centre + k * step, 0.1);
            if (here.correlation <= found.correlation) continue;
            found = here;
            offset = centre + k * step;
        }
    }
    if (found.correlation < -1) return std::nullopt;
    return SpeedMatch{offset, found.correlation, found.rms, found.overlap_s};
}

}  // namespace rendak
