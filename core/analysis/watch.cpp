#include "core/analysis/watch.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <nlohmann/json.hpp>

#include "core/base/text.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

std::vector<WatchRule> built_rules() {
    std::vector<WatchRule> out{
        {.name = "Oil pressure low for the revs",
         .condition = "oil_pressure < first_of(car.oil_pressure_for_revs, 0.55 bar / (1000 rpm)) * engine_speed and "
                      "engine_speed > 3000 rpm",
         .value = "oil_pressure",
         .worst_is_low = true,
         .for_s = 0.2,
         .apart_s = 1,
         .beside = {"lateral_acceleration", "engine_speed", "fuel"}},
        {.name = "Oil hot",
         .condition = "oil_temperature > first_of(car.oil_temperature_high, 130 °C)",
         .value = "oil_temperature",
         .for_s = 5,
         .apart_s = 20,
         .beside = {"speed", "engine_speed"}},
        {.name = "Water hot",
         .condition = "water_temperature > first_of(car.water_temperature_high, 110 °C)",
         .value = "water_temperature",
         .for_s = 5,
         .apart_s = 20,
         .beside = {"speed", "engine_speed"}},
        {.name = "Gearbox hot",
         .condition = "gearbox_temperature > first_of(car.gearbox_temperature_high, 130 °C)",
         .value = "gearbox_temperature",
         .for_s = 5,
         .apart_s = 20,
         .beside = {"speed"}},
        {.name = "Battery low while the engine runs",
         .condition = "battery_voltage < first_of(car.battery_low, 12 V) and engine_speed > 2000 rpm",
         .value = "battery_voltage",
         .worst_is_low = true,
         .for_s = 5,
         .apart_s = 20,
         .beside = {"engine_speed"}},
        {.name = "Fuel pressure low",
         .condition = "fuel_pressure < first_of(car.fuel_pressure_low, 3 bar) and engine_speed > 3000 rpm",
         .value = "fuel_pressure",
         .worst_is_low = true,
         .for_s = 0.2,
         .apart_s = 1,
         .beside = {"lateral_acceleration", "engine_speed", "fuel"}},
        {.name = "Over-revs",
         .condition = "engine_speed > 1.02 * car.top_revs",
         .value = "engine_speed",
         .for_s = 0.05,
         .beside = {"gear", "speed"}},
        {.name = "Front touches the road",
         .condition = "ride_height_front < first_of(car.ride_height_front_least, 1 mm)",
         .value = "ride_height_front",
         .worst_is_low = true,
         .beside = {"speed", "longitudinal_acceleration"}},
        {.name = "Rear touches the road",
         .condition = "ride_height_rear < first_of(car.ride_height_rear_least, 1 mm)",
         .value = "ride_height_rear",
         .worst_is_low = true,
         .beside = {"speed", "longitudinal_acceleration"}},
    };
    for (const auto& [wheel, tyre] : {std::pair{"fl", "FL"}, {"fr", "FR"}, {"rl", "RL"}, {"rr", "RR"}}) {
        const std::string pressure = std::string("tyre_pressure_") + wheel;
        out.push_back({.name = "Tyre " + std::string(tyre) + " loses pressure",
                       .condition = "delay(" + pressure + ", 15 s) - " + pressure +
                                    " > first_of(car.tyre_pressure_loss, 0.15 bar)",
                       .value = pressure,
                       .worst_is_low = true,
                       .for_s = 1,
                       .apart_s = 30,
                       .beside = {"speed", "lateral_acceleration"}});
    }
    return out;
}

}  // namespace

namespace {

constexpr double rounding_s = 1e-6;  // times of samples are sums

bool holds_not(float here) {
    return here < 0.5F && here >= std::numeric_limits<float>::lowest();
}

/// The first sample from `i` on at which a condition that does not hold is something else.
std::size_t end_of_off(std::span<const float> x, std::size_t i) {
    // Nearly all of a recording is plain zeros: sixteen of them are looked at as eight numbers without a bit.
    std::array<std::uint64_t, 8> bits;
    constexpr std::size_t block = sizeof(bits) / sizeof(float);
    for (; i + block <= x.size(); i += block) {
        std::memcpy(bits.data(), &x[i], sizeof(bits));
        std::uint64_t any = 0;
        for (const std::uint64_t it : bits) any |= it;
        if (any != 0) break;
    }
    while (i < x.size() && holds_not(x[i])) ++i;
    return i;
}

}  // namespace

void HeldTimes::close(double end_s) {
    if (state_ == State::missing) return;
    known_s_ += end_s - since_s_;
    if (state_ == State::off) return;
    if (!times_s_.empty() && since_s_ - times_s_.back().end <= apart_s_ + rounding_s)
        times_s_.back().end = end_s;
    else
        times_s_.push_back({since_s_, end_s});
}

void HeldTimes::take(std::span<const float> condition, const SampleClock& clock) {
    const auto state_of = [](float here) {
        return !std::isfinite(here) ? State::missing : holds_not(here) ? State::off : State::on;
    };
    for (std::size_t i = 0; i < condition.size();) {
        const State state = state_of(condition[i]);
        if (state != state_) {
            close(clock.time_at(i));
            state_ = state;
            since_s_ = clock.time_at(i);
        }
        if (state == State::off)
            i = end_of_off(condition, i);
        else
            while (i < condition.size() && state_of(condition[i]) == state) ++i;
    }
    if (condition.empty()) return;
    before_last_s_ = condition.size() > 1 ? clock.time_at(condition.size() - 2) : last_s_;
    last_s_ = clock.time_at(condition.size() - 1);
}

void HeldTimes::finish() {
    close(std::isnan(before_last_s_) ? last_s_ : 2 * last_s_ - before_last_s_);
    state_ = State::missing;
}

Watched watched(const Channel& condition, const Channel* value, const WatchRule& rule) {
    HeldTimes held(rule.apart_s);
    if (condition.is_double()) {
        std::vector<float> plain;
        for (std::size_t i = 0; i < condition.size(); ++i) plain.push_back(static_cast<float>(condition.at(i)));
        held.take(plain, condition.clock);
    } else {
        held.take(condition.floats(), condition.clock);
    }
    held.finish();
    return watched(held, value, rule);
}

Watched watched(const HeldTimes& held, const Channel* value, const WatchRule& rule) {
    Watched out;
    out.known_s = held.known_s();
    for (const Interval& time_s : held.times_s()) {
        if (time_s.length() < rule.for_s - rounding_s) continue;
        WatchTime it{time_s, std::numeric_limits<double>::quiet_NaN(), 0.5 * (time_s.begin + time_s.end)};
        if (value != nullptr) {
            const std::size_t from = value->clock.first_at_or_after(time_s.begin),
                              to = std::max(value->clock.first_at_or_after(time_s.end), from);
            const Statistics found = statistics(*value, from, to);
            if (found.count > 0) {
                it.worst = rule.worst_is_low ? found.low : found.high;
                it.worst_at_s = value->clock.time_at(rule.worst_is_low ? found.low_index : found.high_index);
            } else if (const double between = value->value_at(it.worst_at_s); std::isfinite(between)) {
                it.worst = between;
            }
        }
        out.times.push_back(it);
    }
    if (out.times.size() < rule.times) out.times.clear();
    return out;
}

std::size_t road_touches(const Channel& ride_height, Interval time_s, double least_m) {
    const std::size_t from = ride_height.clock.first_at_or_after(time_s.begin),
                      to = std::max(from, ride_height.clock.first_at_or_after(time_s.end));
    std::vector<float> below(to - from);
    for (std::size_t i = from; i < to; ++i) {
        const double height = ride_height.at(i);
        below[i - from] = std::isfinite(height) ? (height < least_m ? 1.0F : 0.0F) : static_cast<float>(height);
    }
    const WatchRule shipped;
    HeldTimes held(shipped.apart_s);
    held.take(below, ride_height.clock.part(from, to));
    held.finish();
    return watched(held, nullptr, shipped).times.size();
}

const std::vector<WatchRule>& shipped_watch_rules() {
    static const std::vector<WatchRule> rules = built_rules();
    return rules;
}

std::string watch_rules_to_json(const std::vector<WatchRule>& rules) {
    Json out = Json::array();
    for (const WatchRule& it : rules) {
        out.push_back({{"name", it.name},
                       {"condition", it.condition},
                       {"value", it.value},
                       {"worst", it.worst_is_low ? "low" : "high"},
                       {"for_s", it.for_s},
                       {"apart_s", it.apart_s},
                       {"times", it.times},
                       {"beside", it.beside}});
        if (it.off) out.back()["off"] = true;
    }
    return out.dump(1) + "\n";
}

Result<std::vector<WatchRule>> watch_rules_from_json(const std::string& text, const std::string& where) {
    constexpr std::size_t most_rules = 1000, longest = 10'000, most_beside = 20;
    const auto wrong = [&](const std::string& why) { return fail(ErrorCode::bad_input, why, where); };
    const Json read = Json::parse(text, nullptr, false);
    if (!read.is_array()) return wrong("This is no list of watch rules. \"watch list\" prints one to begin with.");
    if (read.size() > most_rules) return wrong("More than " + std::to_string(most_rules) + " rules.");
    std::vector<WatchRule> out;
    for (std::size_t i = 0; i < read.size(); ++i) {
        const std::string which = "Rule " + std::to_string(i + 1);
        if (!read[i].is_object()) return wrong(which + " is no rule: { \"name\": …, \"condition\": … }.");
        WatchRule rule;
        std::string problem;
        const auto take_text = [&](const char* key, std::string& into, bool needed) {
            const auto found = read[i].find(key);
            if (found == read[i].end() ? needed : !found->is_string())
                problem = which + " needs a text \"" + key + "\".";
            if (found != read[i].end() && found->is_string()) into = found->get<std::string>();
            if (into.size() > longest || (needed && into.empty()))
                problem = which + ": \"" + key + "\" is empty or too long.";
        };
        const auto take_seconds = [&](const char* key, double& into) {
            const auto found = read[i].find(key);
            if (found == read[i].end()) return;
            if (found->is_number()) into = found->get<double>();
            if (!found->is_number() || !(into >= 0) || into > 1e6)
                problem = which + ": \"" + key + "\" is a number of seconds.";
        };
        std::string worst = "high";
        take_text("name", rule.name, true);
        take_text("condition", rule.condition, true);
        take_text("value", rule.value, false);
        take_text("worst", worst, false);
        take_seconds("for_s", rule.for_s);
        take_seconds("apart_s", rule.apart_s);
        if (worst != "high" && worst != "low") problem = which + ": \"worst\" is \"high\" or \"low\".";
        rule.worst_is_low = worst == "low";
        if (const auto times = read[i].find("times"); times != read[i].end()) {
            if (times->is_number_unsigned() && times->get<std::uint64_t>() >= 1 &&
                times->get<std::uint64_t>() <= 1'000'000)
                rule.times = times->get<std::size_t>();
            else
                problem = which + ": \"times\" is a whole number from 1 on.";
        }
        if (const auto beside = read[i].find("beside"); beside != read[i].end()) {
            if (!beside->is_array() || beside->size() > most_beside) problem = which + ": \"beside\" is a short list.";
            for (const Json& each : beside->is_array() ? *beside : Json::array()) {
                if (!each.is_string() || each.get_ref<const std::string&>().size() > longest)
                    problem = which + ": \"beside\" is a list of formulas.";
                else
                    rule.beside.push_back(each.get<std::string>());
            }
        }
        if (const auto off = read[i].find("off"); off != read[i].end()) {
            if (!off->is_boolean()) problem = which + ": \"off\" is true or false.";
            rule.off = off->is_boolean() && off->get<bool>();
        }
        if (!problem.empty()) return wrong(problem);
        const bool twice =
            std::any_of(out.begin(), out.end(), [&](const WatchRule& it) { return it.name == rule.name; });
        if (twice) return wrong("Two rules are called " + rule.name + ".");
        out.push_back(std::move(rule));
    }
    return out;
}

}  // namespace rendak
