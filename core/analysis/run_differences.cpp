#include "core/analysis/run_differences.h"

#include <cmath>

#include "core/analysis/sheet_difference.h"
#include "core/base/text.h"

namespace rendak {
namespace {

/// "a; b, c" as it is noted by hand.
std::vector<std::string> noted_changes(const std::string& text) {
    std::vector<std::string> out;
    std::size_t begin = 0;
    while (begin < text.size()) {
        const std::size_t end = std::min(text.find(';', begin), text.size());
        if (const auto part = trimmed(std::string_view(text).substr(begin, end - begin)); !part.empty())
            out.emplace_back(part);
        begin = end + 1;
    }
    return out;
}

}  // namespace

RunDifferences differences_between(const RunRow& before, const RunRow& after, std::span<const SheetValue> setup_before,
                                   std::span<const SheetValue> setup_after) {
    RunDifferences out;
    if (!setup_before.empty() && !setup_after.empty()) {
        for (const SheetDifference& one : sheet_differences(setup_before, setup_after))
            out.changes.push_back(changes_text({&one, 1}));
    } else {
        const bool forwards =
            !before.start_unix_s || !after.start_unix_s || *before.start_unix_s <= *after.start_unix_s;
        out.changes = noted_changes(forwards ? after.changes : before.changes);
    }
    if (before.car != after.car)
        out.others.push_back("another car (" + (after.car.empty() ? "not named" : after.car) + ")");
    if (before.driver != after.driver) out.others.push_back("another driver");
    if (before.tyre_set != after.tyre_set) {
        out.others.push_back("tyres " + (before.tyre_set.empty() ? "?" : before.tyre_set) + " to " +
                             (after.tyre_set.empty() ? "?" : after.tyre_set));
    } else if (before.tyre_laps && after.tyre_laps && std::abs(*after.tyre_laps - *before.tyre_laps) >= 3) {
        const double laps = *after.tyre_laps - *before.tyre_laps;
        out.others.push_back("tyres " + fixed(std::abs(laps), 0) + " laps " + (laps > 0 ? "older" : "younger"));
    }
    if (before.fuel_l && after.fuel_l && std::abs(*after.fuel_l - *before.fuel_l) >= 3) {
        const double litres = *after.fuel_l - *before.fuel_l;
        out.others.push_back(fixed(std::abs(litres), 0) + " l " + (litres > 0 ? "more" : "less") + " fuel");
    }
    if (before.weather != after.weather && !before.weather.empty() && !after.weather.empty())
        out.others.push_back("weather " + before.weather + " to " + after.weather);
    if (before.start_unix_s && after.start_unix_s) {
        const double hours = (*after.start_unix_s - *before.start_unix_s) / 3600;
        if (std::abs(hours) >= 1 && std::abs(hours) < 24 * 366)
            out.others.push_back(
                (std::abs(hours) < 24 ? fixed(std::abs(hours), 1) + " h" : fixed(std::abs(hours) / 24, 0) + " d") +
                (hours > 0 ? " later" : " earlier") + " (track and air)");
    }
    return out;
}

}  // namespace rendak
