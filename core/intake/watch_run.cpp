#include "core/intake/watch_run.h"

#include <cmath>

#include "core/base/mapping_guard.h"
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

/// A day's channels were read from one end to the other: they need not stay in this process's memory.
void let_go_of_long_channels(const RunData& run, const formula::CheckedFormula& formula) {
    constexpr std::size_t long_bytes = 8U << 20;
    for (const formula::Use& use : formula.uses) {
        const Channel* channel = run.recording->find_logged(use.named.id);
        if (channel == nullptr) continue;
        std::visit(
            [](auto samples) {
                if (samples.size_bytes() >= long_bytes) let_go(samples.data(), samples.size_bytes());
            },
            channel->samples);
    }
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
    // Two megabytes: they stay beside the processor from one block to the next.
    constexpr std::size_t block_samples = 1U << 19;
    HeldTimes held(rule.apart_s);
    const auto condition = run.formulas->check(rule.condition, "");
    formula::Checked<std::size_t> looked_at = tl::unexpected(condition ? formula::Problem{} : condition.error());
    if (condition)
        looked_at = run.formulas->evaluate_blocks(
            *condition, block_samples, [&](auto values, const SampleClock& clock) { held.take(values, clock); }, stop);
    if (!looked_at) {
        out.why_not = looked_at.error().sentence;
        return out;
    }
    held.finish();
    let_go_of_long_channels(run, *condition);
    std::optional<Channel> value;
    if (!rule.value.empty()) {
        auto told = computed(rule.value);
        if (!told) {
            out.why_not = told.error().sentence;
            return out;
        }
        value = std::move(*told);
        out.value_unit = value->unit;
    }
    const Watched found = watched(held, value ? &*value : nullptr, rule);
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
