#include "core/laps/driver_activity.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/base/median.h"
#include "core/base/missing.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr std::size_t most_samples = 24'000;
constexpr double zero_window_s = 60;
constexpr double rolling_mps2 = 0.3;

struct Sample {
    double time_s, value;
};

/// Enough samples to know the channel by.
std::vector<Sample> samples_of(const Channel& channel) {
    std::vector<Sample> out;
    const std::size_t stride = std::max<std::size_t>(1, channel.size() / most_samples);
    for (std::size_t i = 0; i < channel.size(); i += stride) {
        if (std::isfinite(channel.at(i))) out.push_back({channel.clock.time_at(i), channel.at(i)});
    }
    return out;
}

double quantile(std::vector<double>& values, double share) {
    const auto at = std::min(values.size() - 1, static_cast<std::size_t>(share * static_cast<double>(values.size())));
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(at), values.end());
    return values[at];
}

/// Middle of the values in a band, how wide they scatter, and which share of all they are.
struct Cluster {
    double middle = 0, sd = 0, share = 0;
};
Cluster cluster(const std::vector<Sample>& samples, double low, double high) {
    std::vector<double> values;
    for (const Sample& sample : samples) {
        if (sample.value >= low && sample.value <= high) values.push_back(sample.value);
    }
    if (values.empty()) return {};
    Cluster out;
    out.share = static_cast<double>(values.size()) / static_cast<double>(samples.size());
    out.middle = median_of(values);
    out.sd = robust_sd(std::move(values), out.middle);
    return out;
}

PedalScale scale_of(const Channel* channel) {
    PedalScale out;
    if (channel == nullptr) return out;
    const auto samples = samples_of(*channel);
    if (samples.size() < 50) return out;
    std::vector<double> values;
    for (const Sample& sample : samples) values.push_back(sample.value);
    const double low = quantile(values, 0.005), high = quantile(values, 0.995);
    if (!(high > low)) return out;
    constexpr double band = 0.07, held = 0.03;
    const double width = band * (high - low);
    const Cluster rest = cluster(samples, low - width, low + width), end = cluster(samples, high - width, high + width);
    out.known = true;
    out.zero = rest.share > 0.01 ? rest.middle : low;
    out.noise = rest.sd;
    out.held_at_end = end.share > held;
    out.full = out.held_at_end ? end.middle : high;
    return out;
}

/// The zero by pieces of driving; it is only kept where it moves by more than the noise. A car that stands or rolls is
/// held by its brake, and a piece may hold little but light braking: its lowest readings are the zero.
void find_drift(PedalScale& scale, const Channel& channel, const Channel* speed) {
    constexpr double moving_mps = 8, lowest = 0.1;
    if (!scale.known) return;
    const double reach = 0.15 * (scale.full - scale.zero);
    std::vector<double> values;
    double begin = 0, times = 0;
    const auto close = [&](double end) {
        if (values.size() >= 30) {
            const double low = quantile(values, lowest);
            scale.zero_times_s.push_back(times / static_cast<double>(values.size()));
            std::erase_if(values, [&](double value) { return value > low + 4 * scale.noise; });
            scale.zeros.push_back(median_of(values));
        }
        values.clear();
        times = 0;
        begin = end;
    };
    bool first = true;
    for (const Sample& sample : samples_of(channel)) {
        if (first) begin = sample.time_s;
        first = false;
        if (sample.time_s - begin > zero_window_s) close(sample.time_s);
        if (std::abs(sample.value - scale.zero) >= reach) continue;
        if (speed != nullptr && speed->value_at(sample.time_s) < moving_mps) continue;
        values.push_back(sample.value);
        times += sample.time_s;
    }
    if (!first) close(begin + zero_window_s);
    if (scale.zeros.empty()) return;
    const auto [low, high] = std::minmax_element(scale.zeros.begin(), scale.zeros.end());
    scale.drift = *high - *low;
    if (scale.drift > 3 * scale.noise && scale.drift > 0.005 * (scale.full - scale.zero)) return;
    scale.zeros.clear();
    scale.zero_times_s.clear();
}

constexpr double mean_step_s = 0.05;

/// Of what is known among five readings from two steps before to two steps after.
template <typename Reading>
double mean_of_five(const Reading& reading) {
    double sum = 0, count = 0;
    for (int k = -2; k <= 2; ++k) {
        const double value = reading(k);
        if (!std::isfinite(value)) continue;
        sum += value;
        ++count;
    }
    return count > 0 ? sum / count : missing;
}

double mean_about(const Channel& channel, double t_s) {
    return mean_of_five([&](int k) { return channel.value_at(t_s + k * mean_step_s); });
}

/// How many samples of an even clock a step of the mean is; 0 where it ends between two of them.
std::size_t samples_in_mean_step(const SampleClock& clock) {
    const double samples = mean_step_s * clock.rate_hz;
    return clock.times_s.empty() && samples >= 1 && std::abs(samples - std::round(samples)) < 1e-7
               ? static_cast<std::size_t>(std::round(samples))
               : 0;
}

/// The steering's zero: where it stands while the car goes straight on.
PedalScale steering_scale(const Recording& recording) {
    PedalScale out;
    const Channel* steering = recording.find_logged("steering");
    const Channel* lateral = recording.find("lateral_acceleration");
    const Channel* speed = recording.find("speed");
    if (steering == nullptr || lateral == nullptr || speed == nullptr) return out;
    std::vector<double> straight;
    double low = 1e9, high = -1e9;
    for (const Sample& sample : samples_of(*steering)) {
        low = std::min(low, sample.value);
        high = std::max(high, sample.value);
        if (speed->value_at(sample.time_s) > 20 &&
            std::abs(mean_about(*lateral, sample.time_s)) < 0.05 * standard_gravity_mps2)
            straight.push_back(sample.value);
    }
    if (straight.size() < 50) return out;
    out.known = true;
    out.zero = median_of(straight);
    out.full = std::max(high - out.zero, out.zero - low);
    out.noise = robust_sd(std::move(straight), out.zero);
    return out;
}

}  // namespace

double PedalScale::zero_at(double t_s) const {
    if (zeros.empty()) return zero;
    const auto after = std::upper_bound(zero_times_s.begin(), zero_times_s.end(), t_s);
    if (after == zero_times_s.begin()) return zeros.front();
    if (after == zero_times_s.end()) return zeros.back();
    const auto i = static_cast<std::size_t>(after - zero_times_s.begin());
    const double u = (t_s - zero_times_s[i - 1]) / (zero_times_s[i] - zero_times_s[i - 1]);
    return zeros[i - 1] + u * (zeros[i] - zeros[i - 1]);
}

PedalScales pedal_scales(const Recording& recording, const ActivityLimits& limits) {
    PedalScales out;
    out.limits = limits;
    out.throttle = scale_of(recording.find_logged("throttle"));
    // A pedal that is never held at its end has its nominal one.
    if (out.throttle.known && !out.throttle.held_at_end) out.throttle.full = std::max(out.throttle.full, 1.0);
    for (const char* quantity : {"brake_front", "brake"}) {
        const Channel* channel = recording.find_logged(quantity);
        if (channel == nullptr) continue;
        out.brake_quantity = quantity;
        out.brake = scale_of(channel);
        find_drift(out.brake, *channel, recording.find("speed"));
        break;
    }
    out.clutch = scale_of(recording.find_logged("clutch"));
    out.steering = steering_scale(recording);
    return out;
}

DriverActivity::DriverActivity(const Recording& recording, PedalScales scales)
    : scales_(std::move(scales)),
      along_(recording.find("longitudinal_acceleration")),
      lateral_(recording.find("lateral_acceleration")),
      speed_(recording.find("speed")) {
    if (!scales_.brake_quantity.empty()) brake_ = recording.find_logged(scales_.brake_quantity);
    throttle_ = recording.find_logged("throttle");
}

SampleClock DriverActivity::clock() const {
    SampleClock out;
    for (const Channel* channel : {brake_, throttle_, along_, lateral_}) {
        if (channel == nullptr || channel->size() == 0) continue;
        if (out.size == 0 || channel->clock.mean_rate_hz() > out.mean_rate_hz()) out = channel->clock;
    }
    return out;
}

double DriverActivity::along(double t_s) const {
    return along_ == nullptr ? missing : mean_about(*along_, t_s);
}

double DriverActivity::drag(double t_s) const {
    // What the air and the rolling car take without any brake: a usual share of the speed squared.
    constexpr double per_speed_squared = 0.0005;
    const double speed = speed_ == nullptr ? missing : speed_->value_at(t_s);
    return rolling_mps2 + (std::isfinite(speed) ? per_speed_squared * speed * speed : 0);
}

double DriverActivity::pushed_back(double t_s) const {
    // Near its top speed a car gains none on full throttle: half of what the air usually takes is surely pushed.
    return 0.5 * (drag(t_s) - rolling_mps2);
}

bool DriverActivity::braking(double t_s) const {
    if (brake_ != nullptr) {
        const bool pressure = scales_.brake_quantity == "brake_front";
        const double travel = scales_.brake.known ? scales_.brake.full - scales_.brake.zero : 1;
        const double usual = pressure ? scales_.limits.brake_on_pa.value_or(3e5) : 0.05 * travel;
        return brake_->value_at(t_s) - scales_.brake.zero_at(t_s) > std::max(usual, 5 * scales_.brake.noise);
    }
    const Slowing how = slowing(t_s);
    return how == Slowing::brush || how == Slowing::hard;
}

DriverActivity::Slowing DriverActivity::slowing(double t_s) const {
    const double a = along(t_s);
    if (!(a < -0.03 * standard_gravity_mps2)) return Slowing::none;
    const double from =
        scales_.limits.braking_from_mps2.value_or(0.2 * standard_gravity_mps2) + drag(t_s) - rolling_mps2;
    if (a > -from) return Slowing::drag;
    return a > -0.5 * standard_gravity_mps2 - drag(t_s) ? Slowing::brush : Slowing::hard;
}

double DriverActivity::throttle(double t_s) const {
    if (throttle_ == nullptr) return missing;
    if (!scales_.throttle.known) return throttle_->value_at(t_s);
    return (throttle_->value_at(t_s) - scales_.throttle.zero) / (scales_.throttle.full - scales_.throttle.zero);
}

double DriverActivity::brake(double t_s) const {
    if (brake_ == nullptr) return missing;
    const double zero = scales_.brake.known ? scales_.brake.zero_at(t_s) : 0;
    return (brake_->value_at(t_s) - zero) / (scales_.brake.full - zero);
}

bool DriverActivity::on_throttle(double t_s) const {
    if (throttle_ != nullptr) {
        const double noise =
            scales_.throttle.known ? 5 * scales_.throttle.noise / (scales_.throttle.full - scales_.throttle.zero) : 0;
        return throttle(t_s) > std::max(scales_.limits.throttle_on.value_or(0.05), noise);
    }
    return along(t_s) > scales_.limits.throttle_from_mps2.value_or(0.05 * standard_gravity_mps2) - pushed_back(t_s);
}

bool DriverActivity::full_throttle(double t_s) const {
    if (throttle_ != nullptr) return throttle(t_s) > scales_.limits.throttle_full.value_or(0.95);
    return along(t_s) > 0.1 * standard_gravity_mps2 - pushed_back(t_s);
}

double DriverActivity::cornering_from() const {
    return scales_.limits.cornering_from_mps2.value_or(0.3 * standard_gravity_mps2);
}

bool DriverActivity::cornering(double t_s) const {
    return lateral_ != nullptr && std::abs(mean_about(*lateral_, t_s)) > cornering_from();
}

bool DriverActivity::off_pedals(double t_s) const {
    return !braking(t_s) && !on_throttle(t_s);
}

bool DriverActivity::rolls(double t_s) const {
    return speed_ != nullptr && speed_->value_at(t_s) > 20 / 3.6;
}

bool DriverActivity::coasting(double t_s) const {
    return rolls(t_s) && off_pedals(t_s) && !cornering(t_s);
}

DriverActivity::Question DriverActivity::question(std::string_view name) const {
    if (name == "driver_cornering") return lateral_ == nullptr ? nullptr : &DriverActivity::cornering;
    if (!known()) return nullptr;
    if (name == "driver_on_brake") return &DriverActivity::braking;
    if (name == "driver_on_throttle") return &DriverActivity::on_throttle;
    if (name == "driver_full_throttle") return &DriverActivity::full_throttle;
    return speed_ == nullptr || lateral_ == nullptr ? nullptr : &DriverActivity::coasting;
}

double DriverActivity::flag(std::string_view name, double t_s) const {
    const Question asked = question(name);
    if (asked == nullptr) return missing;
    return (this->*asked)(t_s) ? 1 : 0;
}

std::vector<float> DriverActivity::flags(std::string_view name, const SampleClock& clock, std::size_t from,
                                         std::size_t to) const {
    std::vector<float> out(to - from, static_cast<float>(missing));
    const Question asked = question(name);
    if (asked == nullptr) return out;
    // Where the readings of the mean are samples themselves, nobody has to look for them.
    const std::size_t step =
        asked == &DriverActivity::cornering && lateral_->clock.same_as(clock) ? samples_in_mean_step(clock) : 0;
    const double limit = cornering_from();
    for (std::size_t i = from; i < to; ++i) {
        if (step > 0 && i >= 2 * step && i + 2 * step < clock.size) {
            const auto reading = [&](int k) {
                return lateral_->at(i + static_cast<std::size_t>(k + 2) * step - 2 * step);
            };
            out[i - from] = std::abs(mean_of_five(reading)) > limit ? 1.0F : 0.0F;
        } else {
            out[i - from] = (this->*asked)(clock.time_at(i)) ? 1.0F : 0.0F;
        }
    }
    return out;
}

std::vector<float> DriverActivity::coasting_flags(const SampleClock& clock, const std::vector<float>& on_brake,
                                                  const std::vector<float>& on_throttle,
                                                  const std::vector<float>& cornering) const {
    std::vector<float> out(clock.size, static_cast<float>(missing));
    if (question("driver_coasting") == nullptr) return out;
    for (std::size_t i = 0; i < clock.size; ++i) {
        const bool none = on_brake[i] == 0 && on_throttle[i] == 0 && cornering[i] == 0;
        out[i] = none && rolls(clock.time_at(i)) ? 1.0F : 0.0F;
    }
    return out;
}

}  // namespace rendak
