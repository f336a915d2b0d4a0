#include "app/desks/guide/guide_data.h"

#include <algorithm>
#include <cmath>

#include "app/text/shown.h"

namespace rendak::app {

std::size_t GuideData::cell(double distance_m) const {
    const auto i = static_cast<std::size_t>(std::max(0.0, distance_m) / step_m);
    return std::min(i, line.size() - 1);
}

const PaceRow* GuideData::pace_of(int corner) const {
    for (const PaceRow& row : pace) {
        if (row.corner == corner) return &row;
    }
    return nullptr;
}

std::shared_ptr<const GuideData> guide_data(const RunData& run, const PreparedLap& lap, const std::set<int>& put_back) {
    auto out = std::make_shared<GuideData>();
    out->run = run.row;
    out->track = lap.track;
    out->lap = lap.ref;
    out->lap_s = lap.time_s();
    out->guide = track_guide(lap);
    const LapMotion motion = motion_of(lap);
    const Track& track = *lap.track;
    for (double s = 0; s <= lap.map.length_m(); s += GuideData::step_m) {
        out->line.push_back(lap.position_at(s));
        out->speed_mps.push_back(motion.speed_mps[motion.cell(s)]);
        out->height_m.push_back(track.value_at(track.height.value, s));
        out->lean_rad.push_back(track.value_at(track.banking.value, s));
        out->lean_sd_rad.push_back(track.value_at(track.banking.sd, s));
    }
    std::vector<PreparedLap> laps;
    for (RunLap& it : complete_laps(run)) {
        it.lap.counts = it.included;
        if (it.included) laps.push_back(std::move(it.lap));
    }
    if (laps.empty()) laps.push_back(lap);
    std::vector<RoadUse> lines;
    for (const PreparedLap& it : laps) lines.push_back(road_use(it));
    out->across = line_means(lines);
    out->first_line = lines.front();
    out->prepared = std::make_shared<const PreparedLap>(lap);
    const auto limit = observed_limit(laps, put_back);
    out->put_back = put_back;
    if (run.formulas != nullptr) {
        const formula::Constants& sheet = run.formulas->inputs().constants;
        out->calculated_lateral = calculated_limit(sheet, "lateral");
        out->calculated_braking = calculated_limit(sheet, "braking");
    }
    if (limit) out->limit = std::make_shared<const ObservedLimit>(*limit);
    const auto pace = limit ? shown_pace(lap, motion, *limit) : pass_on(limit.error());
    if (!pace) {
        out->no_pace = QString::fromStdString(pace.error().text());
        return out;
    }
    out->pace = pace->rows;
    out->pace_s = pace->lap_s;
    out->use = grip_use(lap, motion, *limit);
    std::vector<std::vector<GripUse>> uses;
    for (const PreparedLap& it : laps) uses.push_back(grip_use(it, motion_of(it), *limit));
    out->use_over_laps = grip_over_laps(uses);
    return out;
}

GuideUnits guide_units() {
    const Shown speed = shown("speed"), length = distance_shown();
    return {speed.unit.toStdString(), length.unit.toStdString(), speed.difference_from_si(1),
            length.difference_from_si(1)};
}

}  // namespace rendak::app
