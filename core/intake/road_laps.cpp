#include "core/intake/road_laps.h"

#include <cmath>

#include "core/intake/run_recording.h"

namespace rendak {
namespace {

std::vector<RoadSample> offsets_of(const PreparedLap& lap) {
    std::vector<RoadSample> out;
    for (std::size_t i = 0; i < lap.map.left_m.size(); ++i) out.push_back({lap.map.distance_m[i], lap.map.left_m[i]});
    return out;
}

std::vector<RoadSample> heights_of(const PreparedLap& lap) {
    std::vector<RoadSample> out;
    const Channel* height = lap.recording->find("altitude");
    if (height == nullptr) return out;
    const std::size_t to = height->clock.first_at_or_after(lap.map.end_s());
    for (std::size_t i = height->clock.first_at_or_after(lap.map.start_s()); i < to; ++i)
        out.push_back({lap.map.distance_at(height->clock.time_at(i)), height->at(i)});
    return out;
}

std::vector<CorneringSample> cornering_of(const PreparedLap& lap) {
    constexpr double step_s = 0.05, half_s = 0.15;
    std::vector<CorneringSample> out;
    const Channel* lateral = lap.recording->find("lateral_acceleration");
    if (lateral == nullptr || lateral->name.find("from GPS") != std::string::npos) return out;
    // The path's own filter takes the sharpest peaks off its acceleration; the sensor is averaged alike.
    for (double t = lap.map.start_s() + half_s; t < lap.map.end_s() - half_s; t += step_s) {
        const Point v = lap.path->velocity_at(t);
        const double speed = length(v);
        if (speed < 8) continue;
        const Point a = (lap.path->velocity_at(t + half_s) - lap.path->velocity_at(t - half_s)) * (0.5 / half_s);
        double felt = 0, count = 0;
        for (double u = -half_s; u <= half_s; u += 0.02) {
            felt += lateral->value_at(t + u);
            ++count;
        }
        out.push_back({lap.map.distance_at(t), cross(unit(v), a), felt / count});
    }
    return out;
}

}  // namespace

Result<RoadLaps> road_laps(const Library& library, TrackId track, const JobContext& job, std::size_t most) {
    RoadLaps out;
    auto all = library.runs();
    if (!all) return pass_on(all.error());
    std::vector<RunRow>& rows = *all;
    std::erase_if(rows, [&](const RunRow& row) { return row.track != track; });
    for (std::size_t r = rows.size(); r-- > 0 && out.laps.size() < most;) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        job.report(1 - static_cast<double>(r) / static_cast<double>(rows.size()));
        const auto run = load_run(library, rows[r].id);
        if (!run || (*run)->path == nullptr || (*run)->path->by_shape) continue;
        for (const Lap& lap : (*run)->laps) {
            if (!lap.counts() || out.laps.size() >= most) continue;
            const auto prepared = prepare_lap(**run, lap.number);
            if (!prepared || prepared->map.bridged) continue;
            out.laps.push_back({rows[r].id, lap.number});
            out.left_m.push_back(offsets_of(*prepared));
            if (auto heights = heights_of(*prepared); !heights.empty()) out.height_m.push_back(std::move(heights));
            if (auto bends = cornering_of(*prepared); !bends.empty()) out.cornering.push_back(std::move(bends));
        }
    }
    if (out.laps.empty()) return fail(ErrorCode::bad_input, "No complete lap with positions was driven on this track.");
    return out;
}

Result<std::vector<RoadSample>> driven_offsets(const Library& library, LapRef lap) {
    const auto run = load_run(library, lap.run);
    if (!run) return pass_on(run.error());
    const auto prepared = prepare_lap(**run, lap.lap);
    if (!prepared) return pass_on(prepared.error());
    return offsets_of(*prepared);
}

Result<Track> with_height_and_banking(Track track, const RoadLaps& laps) {
    Profile height = height_profile(track, laps.height_m), banking = banking_profile(track, laps.cornering);
    if (height.value.empty() && banking.value.empty())
        return fail(ErrorCode::bad_input, "The laps log neither height nor lateral acceleration.");
    if (!height.value.empty()) track.height = std::move(height);
    if (!banking.value.empty()) track.banking = std::move(banking);
    return track;
}

}  // namespace rendak
