#include "core/recording/assumed_units.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "core/base/text.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

/// A unit that people log a quantity in, and between what the largest values lie when a car is driven.
struct Habit {
    const char* unit;
    double low, high;
};

constexpr Habit speeds[] = {{"km/h", 11, 400}, {"mph", 7, 250}, {"m/s", 3, 110}};
constexpr Habit throttles[] = {{"", 0.15, 1.08}, {"%", 12, 120}, {"1/255", 120, 260}};
constexpr Habit pedals[] = {{"", 0.15, 1.08},   {"%", 12, 120},       {"bar", 8, 200},
                            {"psi", 116, 2900}, {"kPa", 800, 20'000}, {"Pa", 8e5, 2e7}};
constexpr Habit brake_pressures[] = {
    {"MPa", 0.8, 8}, {"bar", 8, 200}, {"psi", 116, 2900}, {"kPa", 800, 20'000}, {"Pa", 8e5, 2e7}};
constexpr Habit tyre_pressures[] = {{"bar", 0.7, 5}, {"psi", 10, 70}, {"kPa", 70, 500}, {"Pa", 7e4, 5e5}};
constexpr Habit oil_pressures[] = {{"bar", 0.8, 12}, {"psi", 15, 170}, {"kPa", 170, 1200}, {"Pa", 8e4, 1.2e6}};
constexpr Habit engine_speeds[] = {{"rpm", 2400, 25'000}, {"krpm", 2.4, 25}, {"rev/s", 40, 300}, {"rad/s", 300, 2400}};
constexpr Habit accelerations[] = {{"g", 0.2, 5}, {"m/s²", 2.6, 50}, {"mg", 200, 5000}};
constexpr Habit steerings[] = {{"rad", 0.1, 8}, {"deg", 12, 900}};
constexpr Habit rates[] = {{"rad/s", 0.1, 3}, {"deg/s", 5, 200}};
constexpr Habit engine_temperatures[] = {{"°C", 30, 160}, {"°F", 100, 300}, {"K", 303, 430}};
constexpr Habit tyre_temperatures[] = {{"°C", 15, 170}, {"°F", 60, 340}, {"K", 288, 440}};
constexpr Habit brake_temperatures[] = {{"°C", 40, 1100}, {"°F", 100, 2000}, {"K", 313, 1400}};
constexpr Habit travels[] = {{"m", 0.004, 0.35}, {"in", 0.4, 8}, {"mm", 5, 350}};
constexpr Habit voltages[] = {{"V", 5, 60}, {"mV", 5000, 60'000}};

std::span<const Habit> habits_of(const Quantity& quantity, std::string_view name) {
    const std::string_view id = quantity.id, unit = quantity.unit;
    if (unit == "m/s") return speeds;
    if (id == "throttle" || id == "clutch") return throttles;
    if (id == "brake") {
        const bool pedal = name.find("pos") != std::string_view::npos || name.find("pedal") != std::string_view::npos;
        return pedal ? std::span<const Habit>(throttles) : std::span<const Habit>(pedals);
    }
    if (id.starts_with("brake_") && unit == "Pa") return brake_pressures;
    if (id.starts_with("tyre_") && unit == "Pa") return tyre_pressures;
    if (unit == "Pa") return oil_pressures;
    if (id == "engine_speed") return engine_speeds;
    if (unit == "m/s²") return accelerations;
    if (unit == "rad") return steerings;
    if (unit == "rad/s") return rates;
    if (id.starts_with("brake_") && unit == "K") return brake_temperatures;
    if (id.starts_with("tyre_") && unit == "K") return tyre_temperatures;
    if (unit == "K") return engine_temperatures;
    if (id.starts_with("damper_") || id.starts_with("ride_")) return travels;
    if (unit == "V") return voltages;
    return {};
}

bool names_g(std::string_view name) {
    const std::string text = folded(name);
    return text.starts_with("g") || text.ends_with("g") || text.find("gforce") != std::string::npos;
}

}  // namespace

UnitGuess guess_unit(const Quantity& quantity, double low, double high, const UnitHints& hints) {
    const double size = std::max(std::abs(low), std::abs(high));
    const auto habits = habits_of(quantity, lower(hints.name));
    UnitGuess out;
    if (habits.empty()) {
        const std::string_view unit = quantity.unit;
        out.fitting = {unit == "m³" ? "l" : std::string(unit)};
        out.reason = "as is usual";
        return out;
    }
    if (size == 0) {  // nothing but zeros: any unit says the same
        out.fitting = {habits.front().unit};
        return out;
    }
    if (quantity.unit == "m/s²" && names_g(hints.name) && size < 20) {
        out.fitting = {"g"};
        out.reason = "by its name";
        return out;
    }
    for (const Habit& habit : habits) {
        if (size >= habit.low && size <= habit.high) out.fitting.emplace_back(habit.unit);
    }
    // A car that stands shows less than its usual: then what is not too much may be meant.
    if (out.fitting.empty()) {
        for (const Habit& habit : habits) {
            if (size <= habit.high) out.fitting.emplace_back(habit.unit);
        }
    }
    if (out.fitting.size() > 1 && quantity.unit == "K" && hints.metric != hints.imperial) {
        std::erase_if(out.fitting, [&](const std::string& unit) { return (unit == "°F") == hints.metric; });
        out.reason = "by its size and the other units of the table";
        if (out.fitting.size() > 1 && size < 250) std::erase(out.fitting, "K");
    }
    // A pedal that goes to its stop shows it: exactly a hundred.
    if (out.fitting.size() > 1 && (quantity.id == "brake" || quantity.id == "throttle") && high == 100 && low == 0)
        out.fitting = {"%"};
    return out;
}

bool is_beyond(const Quantity& quantity, std::string_view name, const std::string& unit_text, double size, bool moves) {
    const auto unit = parse_unit(unit_text);
    if (!unit || size == 0) return false;
    for (const Habit& habit : habits_of(quantity, lower(name))) {
        const auto usual = parse_unit(habit.unit);
        if (!usual || !(usual->dimension == unit->dimension)) continue;
        const double low = usual->to_si(habit.low), high = usual->to_si(habit.high), si = unit->to_si(size);
        if (quantity.unit == "K") return si > 1.25 * high;
        // A sensor may rest; an engine that runs and a car that goes do not.
        const bool small = moves && (quantity.id == "engine_speed" || quantity.id == "speed") && si < 0.1 * low;
        return si > 1.5 * high || small;
    }
    return false;
}

}  // namespace rendak
