#include "core/intake/watch_run.h"

#include <cmath>

#include "core/track/projection.h"

namespace rendak {
namespace {

/// The place of the track beside which the car is; none where it is farther from it than a pit lane is.
std::optional<double> place_of(const RunData& run, double time_s) {
    constexpr double near_m = 30;
    if (run.track == nullptr || run.path == nullptr || run.path->size() == 0) return std::nullopt;
    if (time_s < run.path->time_s.front() || time_s > run.path->time_s.back()) return std::nullopt;
    const LocalPlane from(run.path->origin), to(run.track->origin);
    const Point there = to.to_local(from.to_geo(run.path->position_at(time_s)));
    const Point velocity = run.path->velocity_at(time_s);
    Projector projector(*run.track);
    projector.restart(there, length(velocity) > 0.5 ? unit(velocity) : Point{});
    const Projected found = projector.project(there);
    if (!(std::abs(found.left_m) < near_m)) return std::nullopt;
    return found.distance_m;
}

}  // namespace

WatchTold watch_run(const RunData& run, const WatchRule& rule, const std::stop_token& stop) {
    WatchTold out;
    if (run.formulas == nullptr) {
        out.why_not = "This run has no formulas.";
        return out;
    }
    const auto computed = [&](const std::string& text) -> formula::Checked<Channel> {
        const auto checked = run.formulas->check(text, "");
        if (!checked) return tl::unexpected(checked.error());
        return run.formulas->evaluate(*checked, {}, stop);
    };
    const auto condition = computed(rule.condition);
    if (!condition) {
        out.why_not = condition.error().sentence;
        return out;
    }
    const auto value = rule.value.empty() ? condition : computed(rule.value);
    if (!value) {
        out.why_not = value.error().sentence;
        return out;
    }
    out.value_unit = value->unit;
    const Watched found = watched(*condition, rule.value.empty() ? nullptr : &*value, rule);
    out.known_s = found.known_s;
    if (!(found.known_s > 0)) out.why_not = "Nowhere in this recording can it be told.";
    std::vector<std::optional<Channel>> beside;
    for (const std::string& text : rule.beside) {
        formula::Checked<Channel> channel = tl::unexpected(formula::Problem{});
        if (!found.times.empty()) channel = computed(text);
        beside.push_back(channel ? std::optional(std::move(*channel)) : std::nullopt);
        out.beside_units.push_back(beside.back() ? beside.back()->unit : "");
    }
    for (const WatchTime& when : found.times) {
        WatchEvent event{when, std::nullopt, LapKind::part, place_of(run, when.worst_at_s), {}};
        for (const Lap& lap : run.laps) {
            if (when.worst_at_s < lap.start_s || when.worst_at_s >= lap.end_s) continue;
            event.lap = lap.number;
            event.kind = lap.kind;
        }
        for (const auto& channel : beside)
            event.beside.push_back(channel ? channel->value_at(when.worst_at_s) : std::nan(""));
        out.events.push_back(std::move(event));
    }
    return out;
}

}  // namespace rendak
