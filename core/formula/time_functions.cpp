#include <algorithm>
#include <cmath>

#include "core/formula/call_samples.h"
#include "core/formula/call_types.h"
#include "core/formula/functions.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

Type seconds() {
    return type_of(*parse_compound_unit("s"));
}

// ---- types ------------------------------------------------------------------------------------------

bool per_second(CallTypes& call) {
    call.out() = quotient(call.type(0), seconds());
    return true;
}

bool times_seconds(CallTypes& call) {
    if (call.has(1) && !call.is_word(1) && !call.type(1).is_condition())
        return call.wrong(1, "reset= is lap, run or a condition.");
    call.out() = product(call.type(0), seconds());
    return true;
}

bool derivative(CallTypes& call) {
    if (!call.positive(1) || !call.whole_number(2, 0, 6) || !call.whole_number(3, 0, 4)) return false;
    const int order = static_cast<int>(call.constant(2, 2)), deriv = static_cast<int>(call.constant(3, 0));
    if (deriv > order) return call.wrong(3, "deriv is higher than the order of the polynomial.");
    call.out() = call.type(0);
    for (int k = 0; k < deriv; ++k) call.out() = quotient(call.out(), seconds());
    return true;
}

bool slow_part(CallTypes& call) {
    return call.positive(1) && call.whole_number(2, 1, 8) && types::as_first(call);
}

bool fast_part(CallTypes& call) {
    return call.positive(1) && call.whole_number(2, 1, 8) && types::difference(call);
}

bool sized(CallTypes& call) {
    return call.positive(1) && types::as_first(call);
}

bool between_two(CallTypes& call) {
    return call.agree_wholly(0, 1, "compared") && call.agree_wholly(0, 2, "compared") && types::condition(call);
}

// ---- over time --------------------------------------------------------------------------------------

std::vector<float> gradient_of(CallSamples& call) {
    const Part wide = call.wider(0, 1);
    const auto values = call.array(0, wide);
    return call.failed() ? values : call.cut(gradient(values, call.clock_of(wide)), wide);
}

std::vector<float> delay_of(CallSamples& call) {
    const double by_s = call.constant(1);
    const Part wide = call.wider(std::abs(by_s), 2);
    const auto values = call.array(0, wide);
    return call.failed() ? values : call.cut(delayed(values, call.clock_of(wide), by_s, call.steps(0)), wide);
}

template <Window window>
std::vector<float> moving_of(CallSamples& call) {
    const double size_s = call.constant(1);
    if (window == Window::median && size_s * call.rate_hz() > 2001)
        return call.wrong(1, "The window is longer than 2000 samples; use uniform_filter for something this slow.");
    const Part wide = call.wider(size_s / 2, 1);
    const auto values = call.array(0, wide);
    return call.failed() ? values : call.cut(moving(values, call.clock_of(wide), window, size_s), wide);
}

std::vector<float> resampled(CallSamples& call) {
    const auto values = call.array(0, call.whole());
    if (call.failed()) return values;
    const SampleClock& clock = call.clock();
    SampleClock grid;
    grid.start_s = clock.time_at(0);
    grid.rate_hz = call.constant(1);
    const double count = clock.span_s().length() * grid.rate_hz;
    if (count > 5e7) return call.wrong_call("This rate would make more samples than fit into memory.");
    grid.size = static_cast<std::size_t>(count + 1e-6) + 1;
    const auto coarse = sampled(values, clock, call.steps(0), grid, 0, grid.size);
    return sampled(coarse, grid, call.steps(0), clock, call.part().from, call.part().to);
}

std::string said_hz(double hz) {
    std::string text = std::to_string(hz);
    text.resize(std::min(text.size(), text.find('.') + 2));
    return text + " Hz";
}

template <Pass pass>
std::vector<float> butter(CallSamples& call) {
    const double cutoff_hz = call.constant(1), rate_hz = call.rate_hz();
    const int order = static_cast<int>(call.constant(2, 2));
    if (!(cutoff_hz < rate_hz / 2))
        return call.wrong(
            1, "The cut-off must lie below half the sample rate, which is " + said_hz(rate_hz / 2) + " here.");
    const auto values = call.array(0, call.whole());
    if (call.failed()) return values;
    return call.on_even_clock(
        values, [&](std::span<const float> x, double hz) { return butterworth(x, hz, pass, cutoff_hz, order); });
}

std::vector<float> savgol(CallSamples& call) {
    const int order = static_cast<int>(call.constant(2, 2)), deriv = static_cast<int>(call.constant(3, 0));
    const double rate_hz = call.rate_hz(), samples = call.constant(1) * rate_hz;
    if (samples > 1001)
        return call.wrong(1, "The window is longer than 1000 samples; use lowpass for something this slow.");
    int window = 2 * static_cast<int>(std::floor(samples / 2 + 1e-6)) + 1;
    window = std::max(window, order % 2 == 0 ? order + 3 : order + 2);
    // On an even clock only the neighbourhood matters: two windows to either side hold every polynomial that can reach.
    const bool even = call.clock().times_s.empty();
    const Part near = even ? call.wider(0, 2 * static_cast<std::size_t>(window)) : call.whole();
    const auto values = call.array(0, near);
    if (call.failed()) return values;
    if (even) return call.cut(savitzky_golay(values, rate_hz, window, order, deriv), near);
    return call.on_even_clock(
        values, [&](std::span<const float> x, double hz) { return savitzky_golay(x, hz, window, order, deriv); });
}

std::vector<float> integral(CallSamples& call) {
    const bool by_lap = call.word(1) == "lap", by_condition = call.has(1) && call.word(1).empty();
    std::vector<Stretch> laps;
    Part computed = call.whole();
    if (by_lap) {
        laps = call.stretches(1);
        if (call.failed()) return {};
        computed = call.covering(laps);
    }
    const auto values = call.array(0, computed);
    if (call.failed()) return values;
    std::vector<float> anew;
    if (by_lap) {
        anew.assign(values.size(), 0);
        for (const Stretch& lap : laps) {
            if (lap.from < lap.to) anew[lap.from - computed.from] = 1;
        }
    } else if (by_condition) {
        anew = call.array(1, call.whole());
        if (call.failed()) return {};
        // Only where the condition becomes true.
        for (std::size_t k = anew.size(); k-- > 1;) anew[k] = anew[k] == 1 && anew[k - 1] != 1 ? 1.0F : 0.0F;
    }
    return call.cut(cumulative_trapezoid(values, call.clock_of(computed), anew), computed);
}

// ---- conditions over time ---------------------------------------------------------------------------

std::vector<float> hysteresis_of(CallSamples& call) {
    const auto values = call.array(0, call.whole()), low = call.array(1, call.whole()),
               high = call.array(2, call.whole());
    return call.failed() ? values : call.cut(hysteresis(values, low, high), call.whole());
}

template <std::vector<float> (*function)(std::span<const float>, const SampleClock&, double)>
std::vector<float> kept_for(CallSamples& call) {
    const auto values = call.array(0, call.whole());
    return call.failed() ? values : call.cut(function(values, call.clock(), call.constant(1)), call.whole());
}

}  // namespace

std::span<const FunctionRow> time_functions() {
    constexpr Steps no = Steps::no, as_arguments = Steps::as_arguments;
    static const FunctionRow rows[] = {
        {"gradient",
         "Over time",
         "x:number",
         "Change per second (central differences).",
         per_second,
         no,
         {},
         {},
         gradient_of},
        {"savgol_filter",
         "Over time",
         "x:number window:time polyorder:count? deriv:count?",
         "Smooth derivative: a polynomial (order 2) fitted around each sample (Savitzky and Golay 1964); deriv=0 only "
         "smooths, deriv=1 is the change per second.",
         derivative,
         no,
         {},
         {},
         savgol},
        {"cumulative_trapezoid",
         "Over time",
         "x:number reset:reset?",
         "Integral over time so far. reset=lap begins anew at the line, reset=condition whenever the condition becomes "
         "true.",
         times_seconds,
         no,
         {},
         {},
         integral},
        {"delay",
         "Over time",
         "x:any by:time",
         "x as it was this long ago; negative looks ahead.",
         types::as_first,
         as_arguments,
         {},
         {},
         delay_of},
        {"lowpass",
         "Over time",
         "x:number cutoff:rate order:count?",
         "Keeps what is slower than the cut-off: Butterworth filter run both ways, so nothing comes late. Order 2 "
         "unless given (1 … 8).",
         slow_part,
         no,
         {},
         {},
         butter<Pass::low>},
        {"highpass",
         "Over time",
         "x:number cutoff:rate order:count?",
         "Keeps what is faster than the cut-off; both ways as lowpass.",
         fast_part,
         no,
         {},
         {},
         butter<Pass::high>},
        {"uniform_filter",
         "Over time",
         "x:number size:time",
         "Running mean over this long, centred.",
         sized,
         no,
         {},
         {},
         moving_of<Window::mean>},
        {"minimum_filter",
         "Over time",
         "x:number size:time",
         "Running lowest value, centred.",
         sized,
         no,
         {},
         {},
         moving_of<Window::low>},
        {"maximum_filter",
         "Over time",
         "x:number size:time",
         "Running highest value, centred.",
         sized,
         no,
         {},
         {},
         moving_of<Window::high>},
        {"median_filter",
         "Over time",
         "x:number size:time",
         "Running median, centred: takes out spikes.",
         sized,
         no,
         {},
         {},
         moving_of<Window::median>},
        {.name = "resample",
         .group = "Over time",
         .parameters = "x:any rate:rate",
         .help = "x as a channel of this rate would have it.",
         .type = sized,
         .steps = as_arguments,
         .over_time = resampled,
         .sets_rate = true},
        {"hysteresis",
         "Conditions",
         "x:number low:number high:number",
         "Becomes true above high and false again below low.",
         between_two,
         no,
         {},
         {},
         hysteresis_of},
        {"debounce",
         "Conditions",
         "condition:condition time:time",
         "Follows the condition once it has kept its new value for this long.",
         types::condition,
         no,
         {},
         {},
         kept_for<debounced>},
        {"lasting",
         "Conditions",
         "condition:condition time:time",
         "True only in stretches that last at least this long, from their beginning on.",
         types::condition,
         no,
         {},
         {},
         kept_for<lasting>},
    };
    return rows;
}

}  // namespace rendak::formula
