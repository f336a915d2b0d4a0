#include "core/analysis/excursion.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/analysis/technique.h"
#include "core/analysis/wheel_events.h"
#include "core/base/median.h"
#include "core/laps/line_offset.h"

namespace rendak {
namespace {

using Answer = Excursion::Step::Answer;

std::string number(double value, int decimals, const char* unit) {
    char buffer[48];
    std::snprintf(buffer, sizeof buffer, "%.*f %s", decimals, value, unit);
    return buffer;
}

/// A figure of the lap and the mean of the usual ones; empty where one of them is not known.
struct Held {
    double own = 0, usual = 0;
};
std::optional<Held> held(const Technique& own, const std::vector<Technique>& usual, auto value) {
    const std::optional<double> of = value(own);
    double sum = 0, count = 0;
    for (const Technique& it : usual) {
        if (const std::optional<double> one = value(it)) {
            sum += *one;
            ++count;
        }
    }
    if (!of || count == 0) return std::nullopt;
    return Held{*of, sum / count};
}

Excursion::Step step(const char* question, const std::optional<Held>& figures, const char* why_not, auto judge) {
    if (!figures) return {question, Answer::cannot_be_told, why_not};
    const auto [yes, words] = judge(*figures);
    return {question, yes ? Answer::yes : Answer::no, words};
}

/// Slowing-down for the pressure on the pedal, over the braking.
std::optional<double> stopping_for_pressure(const PreparedLap& lap, const Technique& it) {
    const std::string pedal = lap.activity().scales().brake_quantity;
    if (pedal.empty() || !it.brake_on_m || !it.brake_peak_m || !it.brake_peak_mps2) return std::nullopt;
    const RangeFigures pressure =
        figures_in_range(lap, pedal, {*it.brake_on_m, std::max(*it.brake_peak_m, *it.brake_on_m + 20)});
    if (!(pressure.high > 0)) return std::nullopt;
    return *it.brake_peak_mps2 / pressure.high;
}

std::vector<Excursion::Step> steps_of(const PreparedLap& lap, std::span<const PreparedLap> usual_laps, std::size_t k,
                                      double begin_m) {
    const Technique own = technique_of(lap)[k];
    std::vector<Technique> usual;
    for (const PreparedLap& it : usual_laps) usual.push_back(technique_of(it)[k]);
    std::vector<Excursion::Step> out;
    const double least_m = std::max(4.0, 2 * lap.trust_m);
    out.push_back(step("too late on the brake", held(own, usual, [](const Technique& it) { return it.brake_on_m; }),
                       "it is not braked for by both", [&](const Held& it) {
                           const double later = it.own - it.usual;
                           return std::pair(later > least_m,
                                            number(std::abs(later), 0, later >= 0 ? "m later" : "m earlier"));
                       }));
    out.push_back(step("too weak on the brake",
                       held(own, usual, [](const Technique& it) { return it.brake_peak_mps2; }),
                       "no slowing-down is known", [](const Held& it) {
                           const double share = it.own / it.usual;
                           return std::pair(share < 0.93, number(100 * share, 0, "% of the usual peak"));
                       }));
    const auto kept = [](const Technique& it) {
        return it.brake_on_m && it.turn_in_m ? std::optional(it.brake.kept_s) : std::nullopt;
    };
    out.push_back(
        step("the brake kept while the steering grew", held(own, usual, kept), "brake or turn-in is not known",
             [](const Held& it) { return std::pair(it.own - it.usual > 0.15, number(it.own, 2, "s of it")); }));
    Excursion::Step wheel{"a wheel locked", Answer::cannot_be_told, "no wheel speeds are logged"};
    const bool wheels = std::any_of(lap.recording->channels.begin(), lap.recording->channels.end(),
                                    [](const Channel& it) { return it.quantity.starts_with("wheel_speed"); });
    if (wheels) {
        wheel.answer = Answer::no;
        wheel.figures = "none";
        const double from = std::min(own.brake_on_m.value_or(begin_m) - 20, begin_m - 150);
        for (const WheelEvent& it : wheel_events(lap)) {
            if (it.kind != WheelEvent::Kind::locks_up || it.range_m.begin < from || it.range_m.begin > begin_m)
                continue;
            wheel.answer = Answer::yes;
            wheel.figures = it.wheel + " for " + number(it.duration_s, 2, "s");
        }
    }
    out.push_back(std::move(wheel));
    std::optional<Held> stopping;
    double sum = 0, count = 0;
    for (std::size_t n = 0; n < usual_laps.size(); ++n) {
        if (const auto one = stopping_for_pressure(usual_laps[n], usual[n])) {
            sum += *one;
            ++count;
        }
    }
    if (const auto of = stopping_for_pressure(lap, own); of && count > 0) stopping = Held{*of, sum / count};
    out.push_back(step("less slowing-down for the pressure than usual", stopping, "no brake pressure is logged",
                       [](const Held& it) {
                           const double share = it.own / it.usual;
                           return std::pair(share < 0.85, number(100 * share, 0, "% of the usual"));
                       }));
    return out;
}

}  // namespace

std::vector<Excursion> excursions_of(const PreparedLap& lap, std::span<const PreparedLap> usual) {
    std::vector<Excursion> out;
    constexpr std::size_t least_laps = 3;
    if (usual.size() < least_laps) return out;
    constexpr double beside_m = 4, least_m = 15;
    const LineOffset own = line_offset(usual.front(), lap);
    std::vector<LineOffset> others;
    for (const PreparedLap& it : usual) others.push_back(line_offset(usual.front(), it));
    for (std::size_t i = 0; i < own.distance_m.size(); ++i) {
        std::vector<double> known;
        for (const LineOffset& it : others) {
            const double left = it.at(own.distance_m[i]);
            if (std::isfinite(left)) known.push_back(left);
        }
        if (known.size() < least_laps) continue;
        const double beside = own.left_m[i] - median_of(known);
        if (!(std::abs(beside) > std::max(beside_m, 3 * own.error_m))) continue;
        const double at = own.distance_m[i];
        // A short look back: one excursion is one.
        constexpr double same_m = 40;
        if (out.empty() || at - out.back().range_m.end > same_m) out.push_back({{at, at}, beside, 0, {}});
        out.back().range_m.end = at;
        if (std::abs(beside) > std::abs(out.back().beside_m)) out.back().beside_m = beside;
    }
    std::erase_if(out, [&](const Excursion& it) { return it.range_m.length() < least_m; });
    const auto& corners = lap.track->corners;
    for (Excursion& it : out) {
        // The last corner that began before it.
        std::optional<std::size_t> k;
        for (std::size_t c = 0; c < corners.size(); ++c) {
            if (corners[c].start_m < it.range_m.begin + 10) k = c;
        }
        if (!k) continue;
        it.corner = corners[*k].number;
        it.steps = steps_of(lap, usual, *k, it.range_m.begin);
    }
    return out;
}

std::string excursion_words(const Excursion& it, const Track& track) {
    std::string where = "On the straight";
    for (const Corner& corner : track.corners) {
        if (corner.number == it.corner) where = corner.title();
    }
    std::string out = where + ": off the usual way by " + number(std::abs(it.beside_m), 0, "m") + ".";
    for (const Excursion::Step& step : it.steps) {
        std::string question = step.question;
        question[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(question[0])));
        out += " " + question + "? " +
               (step.answer == Excursion::Step::Answer::yes  ? "Yes, "
                : step.answer == Excursion::Step::Answer::no ? "No, "
                                                             : "Cannot be told: ") +
               step.figures + ".";
    }
    return out;
}

}  // namespace rendak
