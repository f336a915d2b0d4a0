#include "core/recording/time_scale.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/base/median.h"
#include "core/recording/motion.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

constexpr std::size_t enough_steps = 100'000;

}  // namespace

double median_step(const std::vector<double>& times) {
    std::vector<double> steps;
    const auto look = [&](std::size_t i) {
        if (times[i] > times[i - 1]) steps.push_back(times[i] - times[i - 1]);
    };
    if (times.size() <= 2 * enough_steps) {
        steps.reserve(times.size());
        for (std::size_t i = 1; i < times.size(); ++i) look(i);
    } else {
        // Of hours so many, spread evenly and without a beat of their own (multiples of the golden ratio).
        steps.reserve(enough_steps);
        double place = 0;
        for (std::size_t k = 0; k < enough_steps; ++k) {
            place += std::numbers::phi - 1;
            place -= std::floor(place);
            look(1 + static_cast<std::size_t>(place * static_cast<double>(times.size() - 1)));
        }
    }
    return median_of(std::move(steps));
}

Vehicle vehicle_of(TableRows& rows) {
    Vehicle out;
    out.rows = rows.lively_rows();
    const BodyColumn* latitude = rows.find("latitude");
    const BodyColumn* longitude = rows.find("longitude");
    // Places whose scale is open tell nothing.
    if (latitude != nullptr && longitude != nullptr && latitude->parts_of_degree == 0) {
        out.latitude = rows.values(*latitude, out.rows.from, out.rows.to);
        out.longitude = rows.values(*longitude, out.rows.from, out.rows.to);
    }
    for (const char* id : {"speed", "wheel_speed"}) {
        const BodyColumn* speed = rows.find(id);
        if (speed == nullptr) continue;
        out.speed = rows.values(*speed, out.rows.from, out.rows.to);
        const auto unit = parse_unit(speed->head->unit);
        out.speed_unit_known = unit && unit->dimension == Dimension{1, 0, -1, 0, 0, 0};
        if (out.speed_unit_known)
            out.units_per_mps = {1 / unit->factor};
        else
            out.units_per_mps = {1, 3.6, 1 / 0.44704};
        break;
    }
    return out;
}

Told told_scales(const std::vector<double>& all_times, const Vehicle& car) {
    const std::vector<double> times(all_times.begin() + static_cast<std::ptrdiff_t>(car.rows.from),
                                    all_times.begin() + static_cast<std::ptrdiff_t>(car.rows.to));
    const double step = median_step(times);
    std::vector<double> finite = times;
    std::erase_if(finite, [](double x) { return !std::isfinite(x); });
    if (finite.size() < 2 || !(step > 0)) return {};
    const double length =
        *std::max_element(finite.begin(), finite.end()) - *std::min_element(finite.begin(), finite.end());
    std::vector<Scale> possible;
    for (const Scale& scale : scales) {
        const double rate = 1 / (step * scale.factor);
        if (rate >= 0.04 && rate <= 20'000 && length * scale.factor < 4 * 86'400.0) possible.push_back(scale);
    }
    const Motion motion{times, car.latitude, car.longitude, car.speed};
    // Positions and speed: how far against how fast for how long.
    if (const auto way = travelled(motion); way && way->by_position > 60 && way->spread < 0.1) {
        std::vector<Scale> fitting;
        for (const Scale& scale : possible) {
            const bool fits = std::any_of(car.units_per_mps.begin(), car.units_per_mps.end(), [&](double per_mps) {
                return std::abs(std::log(way->by_position / way->by_speed * per_mps / scale.factor)) < 0.12;
            });
            if (fits) fitting.push_back(scale);
        }
        if (!fitting.empty()) return {fitting, true, true};
    }
    // One of the two: neither crawls nor flies, and changes as a car does.
    const std::vector<double> between = car.latitude.empty() ? std::vector<double>() : speed_between(motion);
    const double fast = median_finite(between);
    const double by_places = between.empty() ? 0 : liveliness(times, between).value_or(0);
    const auto by_speed = car.speed.empty() ? std::nullopt : liveliness(times, car.speed);
    if (!std::isfinite(fast) && !by_speed) return {possible, false};
    std::vector<Scale> fitting;
    for (const Scale& scale : possible) {
        const double f = scale.factor;
        if (std::isfinite(fast) && (fast / f < 2 || fast / f > 110)) continue;
        if (by_places > 0 && (by_places / f / f < 0.1 || by_places / f / f > 300)) continue;
        const double lively = by_speed ? *by_speed / f : 5;
        // Of an unknown unit, at most 3.6 for 1 m/s.
        const double per = car.speed_unit_known ? car.units_per_mps.front() : 1;
        if (lively / per < 0.1 || lively / per > 300) continue;
        fitting.push_back(scale);
    }
    return {fitting, true};
}

}  // namespace rendak
