#include "core/trials/setup_hints.h"

#include <cmath>
#include <numbers>

#include "core/analysis/section_table.h"
#include "core/base/text.h"
#include "core/chassis/balance.h"
#include "core/chassis/dampers.h"
#include "core/chassis/heights.h"
#include "core/chassis/strikes.h"

namespace rendak {
namespace {

constexpr std::size_t least_laps = 3;
constexpr double most_scatter = 0.01;
constexpr double least_angle_rad = 0.014;  // 0.8°: most cars are set up with less

std::string degrees(double rad) {
    return fixed(rad * 180 / std::numbers::pi, 1) + "°";
}

/// Of an understeer angle that is surely not zero.
void balance_hint(std::vector<SetupHint>& out, const SetFigure& angle, const std::string& where, bool fast) {
    if (!angle.sure() || std::abs(angle.mean) < least_angle_rad) return;
    const bool under = angle.mean > 0;
    SetupHint hint;
    hint.evidence = std::string(under ? "Understeer" : "Oversteer") + " in " + where + ": " + degrees(angle.mean) +
                    " (" + degrees(angle.likely->begin) + " to " + degrees(angle.likely->end) + "), on " +
                    std::to_string(angle.on) + " of " + std::to_string(angle.laps.size()) + " laps.";
    hint.driver_first = under
                            ? "Driver first: too fast at turn-in, or the throttle before the car turns, looks the same."
                            : "Driver first: throttle or brake that is let go too suddenly looks the same.";
    if (fast)
        hint.possible = under ? "Possible: less rear wing or more front downforce, lower front ride height."
                              : "Possible: more rear wing, higher front or lower rear ride height.";
    else
        hint.possible = under ? "Possible: softer front or stiffer rear bar or springs, less front toe-out."
                              : "Possible: stiffer front or softer rear bar or springs.";
    hint.sure = static_cast<double>(angle.on) / static_cast<double>(angle.laps.size());
    out.push_back(std::move(hint));
}

}  // namespace

Result<SetupHints> setup_hints(std::span<const PreparedLap> laps, const ChassisSheet& sheet, const JobContext& job) {
    SetupHints out;
    if (laps.size() < least_laps) {
        out.none = "No hints from " + counted(laps.size(), "lap", "laps") +
                   ": it takes three that count to know how alike they are.";
        return out;
    }
    std::vector<double> times;
    for (const PreparedLap& lap : laps) times.push_back(lap.time_s());
    const Spread spread = spread_of(times);
    if (spread.sd > most_scatter * spread.mean) {
        out.none = "No hints while the laps scatter by " + fixed(spread.sd, 2) +
                   " s: the driving differs more than a setup does. Alike laps first.";
        return out;
    }
    if (const auto balance = balance_of(laps, sheet)) {
        balance_hint(out.hints, balance->slow, "the slower corners", false);
        balance_hint(out.hints, balance->fast, "the faster corners", true);
    }
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    if (const auto heights = heights_of(laps, sheet, job)) {
        for (const LowPlace& place : heights->places) {
            // Not what happens once: it has to be the car's habit.
            if (2 * place.on <= place.of || place.cause == LowCause::unknown) continue;
            out.hints.push_back(
                {std::string(place.front ? "The front" : "The rear") + " is " + fixed(1000 * place.depth_m, 1) +
                     " mm under its limit " + place.title + " (" + std::string(low_cause_name(place.cause)) + "), on " +
                     std::to_string(place.on) + " of " + std::to_string(place.of) + " laps.",
                 place.cause == LowCause::kerb ? "Driver first: is the kerb worth it?" : "",
                 std::string(low_remedy(place.cause)), static_cast<double>(place.on) / static_cast<double>(place.of)});
        }
    }
    if (const auto wheels = dampers_of(laps, stretches_of(StretchKind::lap, laps), usual_fast_mps, job)) {
        for (const DamperFigures& wheel : *wheels) {
            if (wheel.says != DamperFigures::Says::lively && wheel.says != DamperFigures::Says::dead) continue;
            std::string name = wheel.wheel;
            for (char& c : name) c = static_cast<char>(c - 32);
            out.hints.push_back({name + ": " + damper_words(wheel), "",
                                 wheel.says == DamperFigures::Says::lively
                                     ? "Possible: more slow bump or rebound damping there; a ladder shows how much."
                                     : "Possible: less slow bump or rebound damping there; a ladder shows how much.",
                                 1});
        }
    }
    std::size_t front = 0, rear = 0;
    const Strikes strikes = strikes_of(laps);
    for (const CornerStrikes& corner : strikes.corners) {
        front += corner.lock_ups[0] + corner.lock_ups[1];
        rear += corner.lock_ups[2] + corner.lock_ups[3];
    }
    if (front + rear >= laps.size() && (front >= 3 * rear || rear >= 3 * front)) {
        const bool more_front = front > rear;
        std::string evidence = std::string(more_front ? "Front" : "Rear") + " wheels lock up " +
                               std::to_string(more_front ? front : rear) + " times in " +
                               counted(laps.size(), "lap", "laps") + ", the others " +
                               std::to_string(more_front ? rear : front) + " times";
        if (std::isfinite(strikes.brake_share))
            evidence += "; the front has " + fixed(100 * strikes.brake_share, 0) + " % of the pressure";
        out.hints.push_back({evidence + ".", "Driver first: how hard the pedal is hit, and where it is let go.",
                             more_front ? "Possible: brake balance a little to the rear."
                                        : "Possible: brake balance a little to the front.",
                             1});
    }
    if (out.hints.empty()) out.none = "Nothing is seen surely enough to hint at a change.";
    return out;
}

}  // namespace rendak
