#include "core/chassis/ladder.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/chance.h"
#include "core/analysis/set_difference.h"
#include "core/base/text.h"

namespace rendak {
namespace {

constexpr double level = 0.05;

/// Means, intervals and verdicts of one figure over the steps.
std::vector<StepFigure> figures_of(const std::vector<std::vector<double>>& laps, std::size_t baseline) {
    const OneWay all = one_way(laps);
    std::vector<StepFigure> out(laps.size());
    const bool scatter = std::isfinite(all.sd) && all.within >= 1;
    const auto others = static_cast<double>(laps.size() - 1);
    for (std::size_t k = 0; k < laps.size(); ++k) {
        out[k].laps = laps[k];
        out[k].mean = laps[k].empty() ? std::nan("") : mean_value(laps[k]);
        const auto n = static_cast<double>(laps[k].size());
        if (!laps[k].empty() && scatter) {
            const double wide = t_beyond(level / 2, all.within) * all.sd / std::sqrt(n);
            out[k].likely = Interval{out[k].mean - wide, out[k].mean + wide};
        }
    }
    for (std::size_t k = 0; k < laps.size(); ++k) {
        if (k == baseline) {
            out[k].verdict = StepVerdict::baseline;
            continue;
        }
        if (laps[k].empty() || laps[baseline].empty()) continue;
        const double by = out[k].mean - out[baseline].mean;
        out[k].change = out[baseline].mean != 0 ? by / std::abs(out[baseline].mean) : 0;
        if (!scatter) continue;
        const double wide =
            t_beyond(level / 2 / others, all.within) * all.sd *
            std::sqrt(1 / static_cast<double>(laps[k].size()) + 1 / static_cast<double>(laps[baseline].size()));
        out[k].verdict = std::abs(by) <= wide ? StepVerdict::alike : by < 0 ? StepVerdict::lower : StepVerdict::higher;
    }
    return out;
}

/// Lowest place of the parabola through the best step and its neighbours: far away no parabola is the curve's shape.
std::optional<double> valley_of(const std::vector<double>& values, const std::vector<StepFigure>& steps,
                                std::size_t best) {
    if (best == 0 || best + 1 >= values.size()) return std::nullopt;
    const double x0 = values[best - 1] - values[best], x2 = values[best + 1] - values[best];
    const double y0 = steps[best - 1].mean - steps[best].mean, y2 = steps[best + 1].mean - steps[best].mean;
    // y = b x + c x² through (0, 0) and both.
    const double c = (y2 / x2 - y0 / x0) / (x2 - x0), b = y0 / x0 - c * x0;
    return c > 0 && std::isfinite(b) ? std::optional(values[best] - b / (2 * c)) : std::nullopt;
}

/// Values between the best and its neighbours; beyond the end where the best may lie there.
std::vector<double> next_values(const Ladder& ladder) {
    const auto& values = ladder.values;
    const std::size_t best = ladder.best;
    const bool whole = std::all_of(values.begin(), values.end(), [](double v) { return v == std::round(v); });
    const auto between = [&](double a, double b) {
        const double middle = (a + b) / 2;
        return whole ? std::round(middle) : middle;
    };
    std::vector<double> out;
    const auto propose = [&](double value) {
        if (std::find(values.begin(), values.end(), value) == values.end() &&
            std::find(out.begin(), out.end(), value) == out.end())
            out.push_back(value);
    };
    using Says = Ladder::Says;
    if (ladder.says == Says::low_end) {
        // A setting does not go below zero.
        const double beyond = values[0] - (values[1] - values[0]);
        propose(values[0] >= 0 ? std::max(0.0, beyond) : beyond);
    }
    if (ladder.says == Says::high_end) propose(values.back() + (values.back() - values[values.size() - 2]));
    if (ladder.says != Says::unknown) {
        if (best > 0) propose(between(values[best - 1], values[best]));
        if (best + 1 < values.size()) propose(between(values[best], values[best + 1]));
    }
    return out;
}

std::string list_of(const std::vector<double>& values, const std::string& last_word) {
    std::string out;
    for (std::size_t i = 0; i < values.size(); ++i)
        out += (i == 0 ? "" : i + 1 == values.size() ? " " + last_word + " " : ", ") + short_number(values[i]);
    return out;
}

/// What moves, as a sentence calls it.
std::string moved(const SpectrumWish& wish) {
    const std::string side = wish.wheels == WheelChoice::loaded     ? "the loaded "
                             : wish.wheels == WheelChoice::unloaded ? "the unloaded "
                                                                    : "the ";
    const std::string axle = wish.front == wish.rear ? "" : wish.front ? "front " : "rear ";
    if (wish.channel == "tyre_load") return "the load of " + side + axle + "tyre";
    if (wish.channel == "damper") return side + axle + "damper";
    if (wish.channel == "ride_height") return "the ride height";
    return wish.channel;
}

std::string words_of(const Ladder& ladder, const std::string& name, const std::string& unit, const SpectrumWish& wish) {
    const auto with_unit = [&](double value) { return short_number(value) + (unit.empty() ? "" : " " + unit); };
    const std::string span = short_number(ladder.values.front()) + " to " + with_unit(ladder.values.back());
    if (ladder.says == Ladder::Says::unknown) {
        std::string out = "Which " + name + " is best from " + span +
                          " cannot be told: the laps of one value differ as much "
                          "as the values do.";
        const auto& steps = ladder.steps;
        std::size_t worst = 0;
        for (std::size_t k = 0; k < steps.size(); ++k)
            if (steps[k].mean > steps[worst].mean) worst = k;
        const std::size_t needed = laps_needed(steps[ladder.best].laps, steps[worst].laps);
        if (needed > 0)
            out += " If it is so, " + counted(needed, "lap", "laps") + " each would show " +
                   with_unit(ladder.values[ladder.best]) + " against " + with_unit(ladder.values[worst]) + ".";
        return out;
    }
    const StepFigure& best = ladder.steps[ladder.best];
    std::string out = name + " at " + with_unit(ladder.values[ladder.best]) + " moves " + moved(wish) + " least";
    if (ladder.best != ladder.baseline)
        out += ": " + fixed(-100 * best.change, 0) + " % below " + with_unit(ladder.values[ladder.baseline]) +
               (best.verdict == StepVerdict::lower ? ", surely" : ", which may be chance");
    out += ".";
    std::vector<double> alike;
    for (const std::size_t k : ladder.alike)
        if (k != ladder.best) alike.push_back(ladder.values[k]);
    if (!alike.empty()) out += " " + list_of(alike, "and") + (alike.size() == 1 ? " is" : " are") + " alike with it.";
    switch (ladder.says) {
        case Ladder::Says::inside:
            out += " The best lies inside what was tried (" + span + ").";
            break;
        case Ladder::Says::low_end:
            out += " Nothing below is surely worse: try beyond " + with_unit(ladder.values.front()) + ".";
            break;
        case Ladder::Says::high_end:
            out += " Nothing above is surely worse: try beyond " + with_unit(ladder.values.back()) + ".";
            break;
        case Ladder::Says::unknown:
            break;
    }
    const auto& times = ladder.lap_times;
    const StepFigure& best_time = times[ladder.best];
    if (ladder.best != ladder.baseline && !best_time.laps.empty() && !times[ladder.baseline].laps.empty()) {
        const double gain = times[ladder.baseline].mean - best_time.mean;
        if (best_time.verdict == StepVerdict::lower)
            out += " Lap times say so too: " + fixed(gain, 2) + " s.";
        else if (best_time.verdict == StepVerdict::higher)
            out += " But the laps are slower with it, by " + fixed(-gain, 2) + " s.";
        else
            out += " Lap times do not show it yet (" + std::string(gain < -0.005 ? "−" : "") +
                   fixed(std::abs(gain), 2) + " s gained, within their scatter): a calmer load is not yet time.";
    }
    return out;
}

}  // namespace

const char* step_verdict_name(StepVerdict verdict) {
    switch (verdict) {
        case StepVerdict::baseline:
            return "baseline";
        case StepVerdict::lower:
            return "lower";
        case StepVerdict::alike:
            return "alike";
        case StepVerdict::higher:
            return "higher";
        case StepVerdict::unknown:
            break;
    }
    return "unknown";
}

Result<Ladder> ladder_of(std::vector<LadderStep> steps, std::span<const Stretch> stretches, const SpectrumWish& wish,
                         const std::string& name, const std::string& unit, std::optional<double> baseline,
                         const JobContext& job) {
    std::sort(steps.begin(), steps.end(), [](const LadderStep& a, const LadderStep& b) { return a.value < b.value; });
    std::erase_if(steps, [](const LadderStep& step) { return step.laps.empty(); });
    if (steps.size() < 3)
        return fail(ErrorCode::not_found,
                    "A ladder needs three values with laps that count; here are " + std::to_string(steps.size()) + ".");
    if (stretches.empty())
        return fail(ErrorCode::not_found, "There is no such stretch on this track. Choose another kind, or places.");
    Ladder out;
    for (const LadderStep& step : steps) out.values.push_back(step.value);
    if (baseline) {
        const auto found = std::find(out.values.begin(), out.values.end(), *baseline);
        if (found == out.values.end())
            return fail(ErrorCode::not_found, "The baseline " + short_number(*baseline) + " is not among the values.");
        out.baseline = static_cast<std::size_t>(found - out.values.begin());
    }
    // Mean square of each stretch, lap by lap; together they weigh as long as they last.
    std::vector<std::vector<std::vector<double>>> by_stretch(stretches.size());
    std::vector<std::vector<double>> together(steps.size()), times(steps.size());
    for (auto& one : by_stretch) one.resize(steps.size());
    Result<void> fault;
    for (std::size_t k = 0; k < steps.size(); ++k) {
        const std::size_t laps = steps[k].laps.size();
        std::vector<double> sum(laps, 0), weight(laps, 0);
        for (std::size_t s = 0; s < stretches.size(); ++s) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            const auto spectra = stretch_spectra(steps[k].laps, stretches.subspan(s, 1), wish);
            if (!spectra) {
                fault = pass_on(spectra.error());
                continue;
            }
            for (std::size_t lap = 0; lap < laps; ++lap) {
                // Both wheels of both axles, where more than one is looked at.
                double squares = 0, curves = 0;
                for (const LapSpectra& curve : *spectra) {
                    if (!std::isfinite(curve.bands[lap])) continue;
                    squares += curve.bands[lap] * curve.bands[lap];
                    ++curves;
                }
                if (curves == 0) continue;
                by_stretch[s][k].push_back(std::sqrt(squares / curves));
                sum[lap] += stretches[s].time_s * squares / curves;
                weight[lap] += stretches[s].time_s;
            }
        }
        const double most = *std::max_element(weight.begin(), weight.end());
        for (std::size_t lap = 0; lap < laps; ++lap) {
            // A lap that lacks a stretch would be held against others.
            if (weight[lap] > 0 && weight[lap] > 0.999 * most) together[k].push_back(std::sqrt(sum[lap] / weight[lap]));
            times[k].push_back(steps[k].laps[lap].time_s());
        }
        job.report(static_cast<double>(k + 1) / static_cast<double>(steps.size()));
    }
    const auto told = std::count_if(together.begin(), together.end(), [](const auto& laps) { return !laps.empty(); });
    if (told < 3) {
        if (!fault) return pass_on(fault.error());
        return fail(ErrorCode::not_found, "Fewer than three of these values have laps with the channel it needs.");
    }
    out.steps = figures_of(together, out.baseline);
    out.lap_times = figures_of(times, out.baseline);
    for (std::size_t s = 0; s < stretches.size(); ++s)
        out.stretches.push_back({stretches[s], figures_of(by_stretch[s], out.baseline)});
    const OneWay all = one_way(together);
    out.chance = all.chance;
    for (std::size_t k = 0; k < out.steps.size(); ++k) {
        if (out.steps[k].laps.empty()) continue;
        if (out.steps[out.best].laps.empty() || out.steps[k].mean < out.steps[out.best].mean) out.best = k;
    }
    const bool differs = std::isfinite(all.sd) && all.chance < level;
    bool worse_below = false, worse_above = false;
    for (std::size_t k = 0; k < out.steps.size(); ++k) {
        const auto& here = out.steps[k].laps;
        if (here.empty()) continue;
        bool worse = false;
        if (differs && k != out.best) {
            const double wide = t_beyond(level / 2 / static_cast<double>(out.steps.size() - 1), all.within) * all.sd *
                                std::sqrt(1 / static_cast<double>(here.size()) +
                                          1 / static_cast<double>(out.steps[out.best].laps.size()));
            worse = out.steps[k].mean - out.steps[out.best].mean > wide;
        }
        if (!worse) out.alike.push_back(k);
        if (worse) (k < out.best ? worse_below : worse_above) = true;
    }
    using Says = Ladder::Says;
    if (worse_below && worse_above)
        out.says = Says::inside;
    else if (worse_below)
        out.says = Says::high_end;
    else if (worse_above)
        out.says = Says::low_end;
    if (out.says == Says::inside) out.valley = valley_of(out.values, out.steps, out.best);
    out.next = next_values(out);
    out.text = words_of(out, name, unit, wish);
    return out;
}

}  // namespace rendak
