#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include "core/base/missing.h"
#include "core/formula/call_samples.h"
#include "core/formula/call_types.h"
#include "core/formula/functions.h"
#include "core/formula/kept_steps.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

// ---- types ------------------------------------------------------------------------------------------

bool a_time(CallTypes& call) {
    call.out() = type_of(*parse_compound_unit("s"));
    return true;
}

bool a_length(CallTypes& call) {
    call.out() = type_of(*parse_compound_unit("m"));
    return true;
}

bool mean_type(CallTypes& call) {
    return call.type(0).is_condition() ? types::plain(call) : types::as_first(call);
}

bool at_one_place(CallTypes& call) {
    if (call.has(1) == call.has(2))
        return call.wrong_call("value_at needs a place or a time: value_at(speed, place=850 m).");
    return types::as_first(call);
}

// ---- sums so far in the lap ---------------------------------------------------------------------------

/// The argument over the laps that the part touches, from the sample before on: what held just before the line counts
/// for the first bit of the lap.
struct SoFar {
    Part computed;
    std::vector<Stretch> laps;  ///< samples counted from computed.from
    std::vector<float> held;
};

SoFar held_so_far(CallSamples& call) {
    const auto laps = call.stretches(1);
    if (call.failed()) return {};
    const Part covered = call.covering(laps), part = call.part();
    // What is asked for beside the laps is taken along: the result is then what is asked for, and nothing is copied.
    SoFar out{{std::min(covered.from, part.from), std::max(covered.to, part.to)}, {}, {}};
    if (out.computed.from > 0) --out.computed.from;
    out.held = call.array(0, out.computed);
    out.laps = moved(laps, out.computed.from);
    return out;
}

std::vector<float> rises(CallSamples& call) {
    const SoFar so_far = held_so_far(call);
    return call.failed() ? std::vector<float>{} : call.cut(count_rises(so_far.held, so_far.laps), so_far.computed);
}

std::vector<double> time_steps(const SampleClock& clock, const std::vector<Stretch>& laps) {
    std::vector<double> step(clock.size, 0);
    for (const Stretch& lap : laps) {
        // The first bit begins at the line; behind it the bits of an even clock are alike.
        for (std::size_t k = lap.from; k < lap.to; ++k) {
            if (k > lap.from && clock.times_s.empty())
                step[k] = 1 / clock.rate_hz;
            else
                step[k] = k > 0 ? clock.time_at(k) - std::max(clock.time_at(k - 1), lap.start_s) : 0;
        }
    }
    return step;
}

/// Nothing where there are neither places nor a speed.
std::vector<double> distance_steps(const SampleClock& clock, const std::vector<Stretch>& laps, const Channel* speed) {
    std::vector<double> step(clock.size, 0);
    bool measured = false;
    for (const Stretch& lap : laps) {
        std::optional<double> last_m;
        std::size_t near = 0;
        for (std::size_t k = lap.from; k < lap.to; ++k) {
            const double now = clock.time_at(k);
            if (lap.map != nullptr && last_m) {
                const double here_m = lap.map->distance_at(now, near);
                step[k] = here_m - *last_m;
                last_m = here_m;
                continue;
            }
            const double before = k > 0 ? std::max(clock.time_at(k - 1), lap.start_s) : now;
            if (lap.map != nullptr) {
                last_m = lap.map->distance_at(now, near);
                step[k] = *last_m - lap.map->distance_at(before);
            } else {
                step[k] = speed != nullptr ? (now - before) * speed->value_at((now + before) / 2) : missing;
            }
            measured = measured || lap.map != nullptr || speed != nullptr;
        }
    }
    if (!measured) step.clear();
    return step;
}

template <bool share>
std::vector<float> time_while(CallSamples& call) {
    const SoFar so_far = held_so_far(call);
    if (call.failed()) return {};
    const SampleClock clock = call.clock_of(so_far.computed);
    const auto step = kept_steps(call.run().steps, KeptSteps::Of::time, clock, so_far.laps,
                                 [&] { return time_steps(clock, so_far.laps); });
    return call.cut(sum_while(so_far.held, *step, so_far.laps, share), so_far.computed);
}

std::vector<float> distance_while(CallSamples& call) {
    const SoFar so_far = held_so_far(call);
    if (call.failed()) return {};
    const SampleClock clock = call.clock_of(so_far.computed);
    const auto step = kept_steps(call.run().steps, KeptSteps::Of::distance, clock, so_far.laps, [&] {
        const auto speed = call.run().channel("speed");
        return distance_steps(clock, so_far.laps, speed ? *speed : nullptr);
    });
    if (step->empty() && clock.size > 0)
        return call.wrong_call("This run has neither a speed nor places on a track to measure distance by.");
    return call.cut(sum_while(so_far.held, *step, so_far.laps, false), so_far.computed);
}

// ---- one figure a lap ---------------------------------------------------------------------------------

std::vector<float> figure_over(CallSamples& call, Figure figure, std::size_t per, bool with_bounds) {
    const auto laps = call.stretches(per);
    if (call.failed()) return {};
    const Part computed = call.covering(laps);
    const auto values = call.array(0, computed);
    std::vector<float> where;
    if (with_bounds && call.has(3)) where = call.array(3, computed);
    if (call.failed()) return {};
    Interval place_m;
    if (with_bounds && (call.has(1) || call.has(2))) {
        double length = 0;
        for (const LapSpan& lap : call.run().laps) length = lap.map != nullptr ? lap.map->length_m() : length;
        place_m = {call.constant(1, 0), call.constant(2, length)};
        if (place_m.empty())
            return call.wrong_call("The stretch ends before it begins; from= must be smaller than to=.");
    }
    return call.cut(figure_of(values, call.clock_of(computed), figure, moved(laps, computed.from), where, place_m),
                    computed);
}

template <Figure figure>
std::vector<float> figure_of_lap(CallSamples& call) {
    return figure_over(call, figure, 4, true);
}
template <Figure figure>
std::vector<float> end_of_lap(CallSamples& call) {
    return figure_over(call, figure, 1, false);
}

std::vector<float> at_a_place(CallSamples& call) {
    constexpr std::size_t no_such_argument = 9;
    const auto laps = call.stretches(no_such_argument);
    if (call.failed()) return {};
    const Part computed = call.wider(call.covering(laps), 0, 1);
    const auto values = call.array(0, computed);
    if (call.failed()) return values;
    const SampleClock clock = call.clock_of(computed);
    std::vector<float> out(computed.size(), static_cast<float>(missing));
    for (const Stretch& lap : moved(laps, computed.from)) {
        double t = missing;
        if (call.has(2))
            t = lap.start_s + call.constant(2);
        else if (lap.map != nullptr && call.constant(1) >= 0 && call.constant(1) <= lap.map->length_m())
            t = lap.map->time_at(call.constant(1));
        if (!(t >= lap.start_s && t <= lap.end_s)) continue;
        SampleClock moment;
        moment.start_s = t;
        moment.rate_hz = 1;
        moment.size = 1;
        const float value = sampled(values, clock, call.steps(0), moment, 0, 1).front();
        std::fill(out.begin() + static_cast<std::ptrdiff_t>(lap.from),
                  out.begin() + static_cast<std::ptrdiff_t>(lap.to), value);
    }
    return call.cut(std::move(out), computed);
}

FunctionRow lap_figure(std::string_view name, std::string_view help, bool (*type)(CallTypes&), OverTime figure,
                       std::string_view parameters = "x:number from:length? to:length? where:condition? per:per?") {
    return {.name = name,
            .group = "Lap figures",
            .parameters = parameters,
            .help = help,
            .type = type,
            .steps = Steps::yes,
            .over_time = figure,
            .places = Places::between};
}

}  // namespace

std::span<const FunctionRow> lap_functions() {
    constexpr std::string_view held = "condition:condition per:per?";
    static const FunctionRow rows[] = {
        {"count_rises",
         "Conditions",
         held,
         "How often the condition has become true so far, in the lap or (per=run) in the run.",
         types::plain,
         Steps::yes,
         {},
         {},
         rises},
        {"time_while",
         "Lap figures",
         held,
         "Time so far for which the condition held; begins anew at the line, so the value at its end is the lap's.",
         a_time,
         Steps::no,
         {},
         {},
         time_while<false>},
        {.name = "distance_while",
         .group = "Lap figures",
         .parameters = held,
         .help = "Distance so far over which the condition held.",
         .type = a_length,
         .over_time = distance_while,
         .places = Places::always},
        {"share_while",
         "Lap figures",
         held,
         "Share of the time so far for which the condition held.",
         types::plain,
         Steps::no,
         {},
         {},
         time_while<true>},
        lap_figure("mean",
                   "Mean of each lap; between two places, where a condition holds, or of the whole run (per=run).",
                   mean_type, figure_of_lap<Figure::mean>, "x:any from:length? to:length? where:condition? per:per?"),
        lap_figure("min", "Lowest value of each lap.", types::as_first, figure_of_lap<Figure::low>),
        lap_figure("max", "Highest value of each lap.", types::as_first, figure_of_lap<Figure::high>),
        lap_figure("std", "Standard deviation within each lap.", types::difference, figure_of_lap<Figure::deviation>),
        lap_figure("ptp", "Highest minus lowest value of each lap.", types::difference, figure_of_lap<Figure::spread>),
        lap_figure("median", "Median of each lap.", types::as_first, figure_of_lap<Figure::median>),
        {"first",
         "Lap figures",
         "x:any per:per?",
         "Value at the beginning of each lap.",
         types::as_first,
         Steps::yes,
         {},
         {},
         end_of_lap<Figure::first>},
        {"last",
         "Lap figures",
         "x:any per:per?",
         "Value at the end of each lap.",
         types::as_first,
         Steps::yes,
         {},
         {},
         end_of_lap<Figure::last>},
        {.name = "value_at",
         .group = "Lap figures",
         .parameters = "x:any place:length? time:time?",
         .help = "Value of each lap at a place (metres from the line) or a time (since the line).",
         .type = at_one_place,
         .steps = Steps::yes,
         .over_time = at_a_place,
         .places = Places::always},
    };
    return rows;
}

}  // namespace rendak::formula
