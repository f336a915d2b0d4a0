#include "core/analysis/corner_figure.h"

#include <cmath>

namespace rendak {
namespace {

double in_metres(const std::optional<double>& place, double from) {
    return place ? *place - from : std::nan("");
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
};

}  // namespace

std::span<const CornerFigure> all_corner_figures() {
    return figures;
}

CornerFigureTable corner_figure_table(std::span<const PreparedLap> laps, const CornerPeaks& peaks) {
    CornerFigureTable out;
    for (std::size_t l = 0; l < laps.size(); ++l) {
        const auto events = corner_events(laps[l]);
        auto& lap = out.emplace_back();
        for (std::size_t c = 0; c < peaks.corners.size(); ++c) {
            const InCorner it{laps[l], peaks.corners[c].corner, peaks.laps[l][c], events[c]};
            auto& corner = lap.emplace_back();
            for (const CornerFigure& figure : figures) corner.push_back(figure.of(it));
        }
    }
    return out;
}

}  // namespace rendak
