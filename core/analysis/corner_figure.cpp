#include "core/analysis/corner_figure.h"

#include <cmath>

#include "core/base/parallel.h"

namespace rendak {
namespace {

double in_metres(const std::optional<double>& place, double from) {
    return place ? *place - from : std::nan("");
}

double or_nan(const std::optional<double>& value) {
    return value.value_or(std::nan(""));
}

double gap(const std::optional<AcrossRoad>& it) {
    return it ? or_nan(it->gap_m) : std::nan("");
}

constexpr CornerFigure figures[] = {
    {"peak_mps2", "Peak g", "Highest lateral g, mean of 0.2 s", "lateral_acceleration", "", 2, Better::more,
     [](const InCorner& it) { return it.peak.peak_mps2; }},
    {"mean_mps2", "Mean g", "Lateral g, mean over the time in the corner", "lateral_acceleration", "", 2, Better::more,
     [](const InCorner& it) { return it.peak.mean_mps2; }},
    {"slowest_mps", "Slowest speed", "Slowest speed in the corner", "speed", "", 1, Better::more,
     [](const InCorner& it) { return it.peak.slowest_mps; }},
    {"entry_mps", "Entry speed", "Speed where the corner begins", "speed", "", 1, Better::neither,
     [](const InCorner& it) { return it.lap.value_at("speed", it.corner.start_m); }},
    {"exit_mps", "Exit speed", "Speed where the corner ends", "speed", "", 1, Better::more,
     [](const InCorner& it) { return it.lap.value_at("speed", it.corner.end_m); }},
    {"time_s", "Time", "Time from the corner's beginning to its end", "", "s", 2, Better::less,
     [](const InCorner& it) { return it.lap.map.time_at(it.corner.end_m) - it.lap.map.time_at(it.corner.start_m); }},
    {"brake_before_apex_m", "Braking begins", "Metres before the apex at which braking begins", "", "m", 0,
     Better::neither, [](const InCorner& it) { return -in_metres(it.events.brake_on_m, it.corner.apex_m); }},
    {"throttle_behind_apex_m", "Throttle", "Metres behind the apex at which the throttle is half open for good", "",
     "m", 0, Better::neither, [](const InCorner& it) { return in_metres(it.events.throttle_on_m, it.corner.apex_m); }},
    {"brake_peak_mps2", "Braking peak", "Hardest slowing-down on the brake, mean of 0.2 s", "", "m/s²", 1, Better::more,
     [](const InCorner& it) { return or_nan(it.technique.brake_peak_mps2); }},
    {"brake_rise_s", "Braking builds up", "Seconds from the braking's beginning to 90 % of its peak", "", "s", 2,
     Better::less, [](const InCorner& it) { return or_nan(it.technique.brake_rise_s); }},
    {"brake_s", "On the brake", "Seconds on the brake for this corner", "", "s", 2, Better::neither,
     [](const InCorner& it) { return it.technique.brake_s; }},
    {"trail_s", "Brake in the turn", "Seconds on the brake behind turning in", "", "s", 2, Better::neither,
     [](const InCorner& it) { return it.technique.turn_in_m ? it.technique.trail_s : std::nan(""); }},
    {"coasting_s", "Neither pedal", "Seconds on neither pedal between lifting and the throttle", "", "s", 2,
     Better::less, [](const InCorner& it) { return it.technique.coasting_s; }},
    {"throttle_touch_behind_apex_m", "First throttle", "Metres behind the apex at which the throttle is touched first",
     "", "m", 0, Better::neither,
     [](const InCorner& it) { return in_metres(it.technique.throttle_touch_m, it.corner.apex_m); }},
    {"full_for_good_behind_apex_m", "Full throttle", "Metres behind the apex from where full throttle is held for good",
     "", "m", 0, Better::less,
     [](const InCorner& it) { return in_metres(it.technique.full_for_good_m, it.corner.apex_m); }},
    {"brake_peak_pa", "Brake pressure", "Highest brake pressure above the sensor's zero", "brake_front", "", 1,
     Better::neither, [](const InCorner& it) { return or_nan(it.technique.brake.peak_pa); }},
    {"room_left_m", "Room left",
     "Metres by which the brake could possibly be begun later: let go early, the car rolled down to its slowest speed",
     "", "m", 0, Better::less, [](const InCorner& it) { return or_nan(it.technique.brake.room_left_m); }},
    {"brake_hold_s", "Braking held", "Seconds from the first to the last moment above 90 % of the braking's highest",
     "", "s", 2, Better::neither, [](const InCorner& it) { return or_nan(it.technique.brake.hold_s); }},
    {"brake_release_s", "Brake release", "Seconds from the end of full braking to the brake's end", "", "s", 2,
     Better::neither, [](const InCorner& it) { return or_nan(it.technique.brake.release_s); }},
    {"brake_release_mean", "Release shape",
     "Mean level of the brake while it is released: 0.5 even, less let go early, more kept and dropped late", "",
     "share", 2, Better::neither, [](const InCorner& it) { return or_nan(it.technique.brake.release_mean); }},
    {"brake_at_turn_in", "Brake at turn-in", "Share of the highest braking that is on where the car turns in", "",
     "share", 2, Better::neither, [](const InCorner& it) { return or_nan(it.technique.brake.at_turn_in); }},
    {"brake_reversals", "Brake reversals", "Times the brake is eased and taken again", "", "times", 0, Better::less,
     [](const InCorner& it) {
         return it.technique.brake_on_m ? static_cast<double>(it.technique.brake.reversals) : std::nan("");
     }},
    {"brake_kept_s", "Brake kept", "Seconds behind turn-in with the brake kept or taken harder as the steering grows",
     "", "s", 2, Better::less,
     [](const InCorner& it) { return it.technique.brake_on_m ? it.technique.brake.kept_s : std::nan(""); }},
    {"brake_off_before_apex_m", "Braking ends", "Metres before the apex at which braking ends", "", "m", 0,
     Better::neither, [](const InCorner& it) { return -in_metres(it.events.brake_off_m, it.corner.apex_m); }},
    {"turn_in_before_apex_m", "Turn-in", "Metres before the apex at which the car turns in", "", "m", 0,
     Better::neither, [](const InCorner& it) { return -in_metres(it.events.turn_in_m, it.corner.apex_m); }},
    {"steering_most_rad", "Steering", "Largest steering angle into the corner", "steering", "", 1, Better::less,
     [](const InCorner& it) { return or_nan(it.technique.steering.most_rad); }},
    {"steering_corrections", "Corrections", "Times the steering is opened and taken again in the corner", "", "times",
     0, Better::less,
     [](const InCorner& it) {
         return it.technique.steering.corrections ? static_cast<double>(*it.technique.steering.corrections)
                                                  : std::nan("");
     }},
    {"slowest_behind_apex_m", "Slowest place", "Metres behind the apex at which the car is slowest", "", "m", 0,
     Better::neither, [](const InCorner& it) { return in_metres(it.technique.slowest_m, it.corner.apex_m); }},
    {"tightest_share", "Apex of the arc",
     "Where in the driven arc its radius is smallest, 0 at its begin and 1 at its end: below 0.4 early, above 0.6 late",
     "", "share", 2, Better::neither, [](const InCorner& it) { return or_nan(it.technique.arc.share); }},
    {"tightness", "Tightness", "Greatest curvature of the driven arc over its mean: the more, the more it is pinched",
     "", "times the mean", 2, Better::less, [](const InCorner& it) { return or_nan(it.technique.arc.tightness); }},
    {"least_throttle", "Least throttle", "Smallest share of the throttle's travel in the corner", "", "share", 2,
     Better::more,
     [](const InCorner& it) { return it.technique.inferred ? std::nan("") : it.technique.least_throttle; }},
    {"throttle_back", "Throttle back", "Largest share of the throttle that is taken back on the way to full", "",
     "share", 2, Better::less, [](const InCorner& it) { return or_nan(it.technique.throttle.back); }},
    {"full_before_m", "Held before", "Metres of full throttle held before lifting for the corner", "", "m", 0,
     Better::more, [](const InCorner& it) { return or_nan(it.technique.full_before_m); }},
    {"lift_to_brake_s", "Lift to brake", "Seconds between lifting and the brake", "", "s", 2, Better::less,
     [](const InCorner& it) { return or_nan(it.technique.lift_to_brake_s); }},
    {"gear", "Gear", "Gear at the slowest place", "gear", "", 0, Better::neither,
     [](const InCorner& it) {
         return it.technique.gears.at_slowest ? static_cast<double>(*it.technique.gears.at_slowest) : std::nan("");
     }},
    {"entry_gap_m", "Left before", "Metres of road between the car and the outer edge, furthest out before the apex",
     "", "m", 1, Better::less, [](const InCorner& it) { return gap(it.line.entry); }},
    {"apex_gap_m", "Off the apex", "Metres of road between the car and the inner edge where it is nearest", "", "m", 1,
     Better::less, [](const InCorner& it) { return gap(it.line.apex); }},
    {"apex_late_m", "Apex late", "Metres behind the corner's apex at which the car is nearest to the inner edge", "",
     "m", 0, Better::neither, [](const InCorner& it) { return or_nan(it.line.late_m); }},
    {"exit_gap_m", "Left behind", "Metres of road between the car and the outer edge, furthest out behind the apex", "",
     "m", 1, Better::less, [](const InCorner& it) { return gap(it.line.exit); }},
};

}  // namespace

std::span<const CornerFigure> all_corner_figures() {
    return figures;
}

CornerFigureTable corner_figure_table(std::span<const PreparedLap> laps, const CornerPeaks& peaks) {
    CornerFigureTable out(laps.size());
    constexpr std::size_t laps_a_thread = 2;
    parallel_for(laps.size(), laps_a_thread, [&](std::size_t l) {
        const auto events = corner_events(laps[l]);
        const auto techniques = technique_of(laps[l]);
        const RoadUse line = road_use(laps[l], techniques);
        auto& lap = out[l];
        for (std::size_t c = 0; c < peaks.corners.size(); ++c) {
            const InCorner it{laps[l],   peaks.corners[c].corner, peaks.laps[l][c],
                              events[c], techniques[c],           line.corners[c]};
            auto& corner = lap.emplace_back();
            for (const CornerFigure& figure : figures) corner.push_back(figure.of(it));
        }
    });
    return out;
}

}  // namespace rendak
