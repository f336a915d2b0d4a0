#include "core/intake/car_limits.h"

#include <algorithm>
#include <charconv>
#include <set>
#include <sstream>

#include "core/base/time_zone.h"
#include "core/formula/type.h"
#include "core/units/compound_unit.h"

namespace rendak {

double CalculatedLimit::at(double speed_mps) const {
    const auto after = std::upper_bound(points.begin(), points.end(), speed_mps,
                                        [](double speed, const At& it) { return speed < it.speed_mps; });
    if (after == points.begin()) return points.front().mps2;
    if (after == points.end()) return points.back().mps2;
    const At &a = *(after - 1), &b = *after;
    return a.mps2 + (speed_mps - a.speed_mps) / (b.speed_mps - a.speed_mps) * (b.mps2 - a.mps2);
}

CalculatedLimit calculated_limit(const formula::Constants& sheet, const std::string& what) {
    const std::string name = what + "_limit", by_speed = name + "_at_";
    CalculatedLimit out;
    const auto acceleration = parse_compound_unit("m/s²");
    for (const auto& [key, constant] : sheet.values) {
        if (!acceleration || constant.type != formula::type_of(*acceleration) || !(constant.value > 0)) continue;
        if (key == name) out.points.push_back({0, constant.value});
        if (!key.starts_with(by_speed)) continue;
        const std::string rest = key.substr(by_speed.size());
        double speed = 0;
        const auto read = std::from_chars(rest.data(), rest.data() + rest.size(), speed);
        if (read.ec != std::errc() || !(speed >= 0)) continue;
        const std::string unit(read.ptr, rest.data() + rest.size());
        out.points.push_back({unit.starts_with("_mph") ? speed * 0.44704 : speed / 3.6, constant.value});
    }
    std::sort(out.points.begin(), out.points.end(),
              [](const auto& a, const auto& b) { return a.speed_mps < b.speed_mps; });
    return out;
}

std::vector<LimitGroup> limit_groups(std::span<const RunRow> runs, const std::string& car) {
    std::set<std::string> meant;
    for (const RunRow& run : runs) {
        if (run.car == car) meant = {car};
        if (run.car == car) break;
        std::istringstream words(run.car);
        for (std::string word; words >> word;) {
            if (word == car) meant.insert(run.car);
        }
    }
    std::vector<LimitGroup> out;
    if (meant.size() != 1) return out;
    for (const RunRow& run : runs) {
        if (run.car != *meant.begin() || !run.track) continue;
        const std::string day =
            run.start_unix_s ? local_text(*run.start_unix_s, run.zone, "%Y-%m-%d") : "event " + run.event;
        auto group = std::find_if(out.begin(), out.end(), [&](const LimitGroup& it) {
            return it.track == run.track_name && it.day == day && it.tyre_set == run.tyre_set;
        });
        if (group == out.end()) group = out.insert(out.end(), {run.track_name, day, run.tyre_set, {}});
        group->runs.push_back(run.id);
    }
    return out;
}

}  // namespace rendak
