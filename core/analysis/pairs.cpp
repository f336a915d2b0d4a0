#include "core/analysis/pairs.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace rendak {

SideFilter::SideFilter(const PreparedLap& lap, TurnSide side)
    : side_(side), driver_(lap.activity()), lateral_(lap.recording->find("lateral_acceleration")) {}

bool SideFilter::takes(double t_s) const {
    if (side_ == TurnSide::both) return true;
    if (lateral_ == nullptr || !driver_.cornering(t_s)) return false;
    // ISO 8855: to the left is positive.
    const double lateral = lateral_->value_at(t_s);
    return side_ == TurnSide::left ? lateral > 0 : lateral < 0;
}

namespace {

/// So many samples of a channel are one further, for at most `most` of them in a stretch.
std::size_t step_for(const Channel& channel, Interval time_s, std::size_t most) {
    const std::size_t from = channel.clock.first_at_or_after(time_s.begin),
                      to = channel.clock.first_at_or_after(time_s.end);
    most = std::max<std::size_t>(1, most);
    return std::max<std::size_t>(1, (to - from + most - 1) / most);
}

}  // namespace

PairedSamples paired_samples(const PreparedLap& lap, std::string_view x, std::string_view y, std::string_view z,
                             Interval time_s, TurnSide side, std::size_t most) {
    PairedSamples out;
    const Channel *first = lap.recording->find(x), *second = lap.recording->find(y),
                  *third = z.empty() ? nullptr : lap.recording->find(z);
    if (first == nullptr || second == nullptr || (!z.empty() && third == nullptr)) return out;
    const SideFilter filter(lap, side);
    const bool by_first = first->clock.mean_rate_hz() >= second->clock.mean_rate_hz();
    const Channel& leader = by_first ? *first : *second;
    const Channel& other = by_first ? *second : *first;
    out.every = step_for(leader, time_s, most);
    for (std::size_t i = leader.clock.first_at_or_after(time_s.begin); i < leader.size(); i += out.every) {
        const double t = leader.clock.time_at(i);
        if (t > time_s.end) break;
        const double own = leader.at(i), its = &leader == &other ? own : other.value_at(t);
        const double colour = third == nullptr ? 0 : third->value_at(t);
        if (!std::isfinite(own) || !std::isfinite(its) || !std::isfinite(colour) || !filter.takes(t)) continue;
        out.x.push_back(static_cast<float>(by_first ? own : its));
        out.y.push_back(static_cast<float>(by_first ? its : own));
        if (third != nullptr) out.z.push_back(static_cast<float>(colour));
        out.time_s.push_back(t);
    }
    return out;
}

std::vector<double> outline(std::span<const float> x, std::span<const float> y, std::size_t sectors) {
    std::vector<std::vector<double>> reach(sectors);
    const double width = 2 * std::numbers::pi / static_cast<double>(sectors);
    for (std::size_t i = 0; i < std::min(x.size(), y.size()); ++i) {
        const double angle = std::atan2(y[i], x[i]);
        const auto sector = static_cast<std::ptrdiff_t>(std::floor(angle / width + 0.5));
        const auto whole = static_cast<std::ptrdiff_t>(sectors);
        reach[static_cast<std::size_t>((sector % whole + whole) % whole)].push_back(std::hypot(x[i], y[i]));
    }
    std::vector<double> out(sectors, std::numeric_limits<double>::quiet_NaN());
    for (std::size_t k = 0; k < sectors; ++k) {
        if (reach[k].size() < 5) continue;
        const auto at =
            reach[k].begin() + static_cast<std::ptrdiff_t>(std::floor(0.95 * static_cast<double>(reach[k].size() - 1)));
        std::nth_element(reach[k].begin(), at, reach[k].end());
        out[k] = *at;
    }
    // Morphological closing: what is wider than the window stays.
    const std::size_t window = sectors / 18;
    const auto widest = [&](const std::vector<double>& from, std::size_t k, auto better) {
        double best = std::numeric_limits<double>::quiet_NaN();
        for (std::size_t j = 0; j <= 2 * window; ++j) {
            const double value = from[(k + sectors + j - window) % sectors];
            if (std::isfinite(value) && !(best == best && !better(value, best))) best = value;
        }
        return best;
    };
    std::vector<double> wide(sectors);
    for (std::size_t k = 0; k < sectors; ++k) wide[k] = widest(out, k, [](double a, double b) { return a > b; });
    for (std::size_t k = 0; k < sectors; ++k) {
        if (std::isfinite(out[k])) out[k] = widest(wide, k, [](double a, double b) { return a < b; });
    }
    return out;
}

double usual_step(double range) {
    if (!(range > 0) || !std::isfinite(range)) return 1;
    const double rough = range / 20, power = std::pow(10, std::floor(std::log10(rough)));
    for (const double factor : {1.0, 2.0, 5.0}) {
        if (range / (factor * power) <= 30) return factor * power;
    }
    return 10 * power;
}

Shares shares_of(const PreparedLap& lap, std::string_view quantity, Interval time_s, ShareOf of, double step,
                 TurnSide side, std::size_t most) {
    Shares out;
    out.step = step;
    const Channel* channel = lap.recording->find(quantity);
    if (channel == nullptr || !(step > 0)) return out;
    const SideFilter filter(lap, side);
    const Channel* speed = lap.recording->find("speed");
    if (of == ShareOf::distance && speed == nullptr) return out;
    struct Part {
        double value, weight;
    };
    std::vector<Part> parts;
    double low = std::numeric_limits<double>::infinity(), high = -low, all = 0;
    out.every = step_for(*channel, time_s, most);
    for (std::size_t i = channel->clock.first_at_or_after(time_s.begin); i < channel->size(); i += out.every) {
        const double t = channel->clock.time_at(i);
        if (t > time_s.end) break;
        const std::size_t after = std::min(i + out.every, channel->size() - 1);
        const double next = std::min(channel->clock.time_at(after), time_s.end);
        const double value = channel->at(i);
        const double weight = (next - t) * (of == ShareOf::distance ? std::abs(speed->value_at(t)) : 1);
        if (!std::isfinite(value) || !(weight > 0) || !filter.takes(t)) continue;
        parts.push_back({value, weight});
        low = std::min(low, value);
        high = std::max(high, value);
        all += weight;
    }
    // Far more steps than anyone can see are a slip of the hand.
    if (parts.empty() || (high - low) / step > 2000) return out;
    const double first = std::floor(low / step);
    out.begin = first * step;
    out.share.assign(static_cast<std::size_t>(std::floor(high / step) - first) + 1, 0);
    for (const Part& part : parts)
        out.share[static_cast<std::size_t>(std::floor(part.value / step) - first)] += part.weight / all;
    return out;
}

}  // namespace rendak
