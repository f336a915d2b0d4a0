#include "tests/support/made_world.h"

#include <cmath>

#include "core/intake/place_run.h"
#include "core/intake/run_recording.h"
#include "core/intake/sign_check.h"
#include "core/laps/cut.h"
#include "core/laps/slow_error.h"
#include "core/track/learn.h"
#include "demo/sensors.h"
#include "tests/support/got.h"
#include "tests/support/random_world.h"

namespace rendak::test {
namespace {

/// Corners of the road itself, as somebody would draw them.
std::vector<demo::CircuitCorner> corners_of(const demo::Circuit& circuit) {
    Track road;
    road.length_m = circuit.length_m;
    road.line = circuit.centre;
    complete_track(road);
    std::vector<demo::CircuitCorner> out;
    for (const Corner& corner : road.corners)
        out.push_back({corner.number, corner.start_m, corner.apex_m, corner.end_m, corner.left});
    return out;
}

}  // namespace

MadeWorld::MadeWorld(unsigned seed, double length_m, int waves) {
    const RandomRoad road = random_road(seed, length_m, waves);
    circuit_.name = "Made " + std::to_string(seed);
    circuit_.origin = road.origin;
    circuit_.length_m = road.length_m;
    circuit_.step_m = road.length_m / static_cast<double>(road.centre.size());
    circuit_.centre = road.centre;
    circuit_.direction = road.direction;
    circuit_.curvature = road.curvature;
    const std::size_t n = road.centre.size();
    for (auto* flat :
         {&circuit_.height_m, &circuit_.grade, &circuit_.crest, &circuit_.banking_rad, &circuit_.kerb_left_m})
        flat->assign(n, 0);
    circuit_.roughness_m = demo::rough_road(n, seed);
    circuit_.other_roughness_m = demo::rough_road(n, seed + 1000);
    circuit_.half_width_m.assign(n, 5.5);
    circuit_.corners = corners_of(circuit_);
    const demo::RunPlan first = plan(3, seed, 0.5);
    const demo::Drive drive = demo::drive_run(circuit_, first.car, first);
    const Recording recording = recorded(first, drive, false);
    const Path path = got(driven_path(recording, nullptr));
    const LocalPlane from(road.origin), to(path.origin);
    StartLine line;
    line.position = to.to_local(from.to_geo(road.centre[0]));
    line.direction = road.direction[0];
    track_ = std::make_shared<const Track>(
        got(learn_steady_track(path, circuit_.name, line, SpeedSource(recording, SpeedSource::Prefer::gps))));
}

double MadeWorld::place_on_track(double along_m) const {
    const Point at =
        LocalPlane(track_->origin).to_local(LocalPlane(circuit_.origin).to_geo(circuit_.position(along_m, 0)));
    std::size_t nearest = 0;
    for (std::size_t i = 0; i < track_->line.size(); ++i) {
        if (length(track_->line[i] - at) < length(track_->line[nearest] - at)) nearest = i;
    }
    return static_cast<double>(nearest) * track_->step_m();
}

demo::RunPlan MadeWorld::plan(int laps, std::uint64_t seed, double scatter) {
    demo::RunPlan out;
    out.name = "Made";
    out.driver = "Made";
    out.seed = seed;
    out.scatter = scatter;
    out.from_pits = false;
    out.laps.assign(static_cast<std::size_t>(laps), {});
    return out;
}

Recording MadeWorld::recorded(const demo::RunPlan& plan, const demo::Drive& drive, bool pocket) const {
    return pocket ? demo::pocket_logger(circuit_, plan, drive)
                  : demo::main_logger(circuit_, plan.car, plan, drive, {.suspension = false});
}

MadeRun MadeWorld::run(const demo::RunPlan& plan, bool pocket) const {
    MadeRun out;
    out.drive = demo::drive_run(circuit_, plan.car, plan);
    auto recording = std::make_shared<Recording>(recorded(plan, out.drive, pocket));
    auto path = std::make_shared<const Path>(got(driven_path(*recording, track_.get())));
    *recording = with_flipped(*recording, opposite_signs(*recording, *path));
    for (const Lap& lap : laps_on(*recording, *path, *track_)) {
        if (lap.kind != LapKind::flying) continue;
        PreparedLap ready;
        ready.ref = {{1}, lap.number};
        ready.recording = recording;
        ready.track = track_;
        ready.path = path;
        ready.map = align_lap(*path, *track_, lap.start_s, lap.end_s);
        ready.trust_m = lap.trust_m;
        ready.scales = std::make_shared<const PedalScales>(pedal_scales(*recording));
        int index = 0;
        for (std::size_t k = 0; k + 1 < out.drive.crossings_s.size(); ++k) {
            if (std::abs(out.drive.crossings_s[k] - lap.start_s) < 5) index = static_cast<int>(k);
        }
        out.lap_of.push_back(index);
        out.laps.push_back(std::move(ready));
    }
    return out;
}

}  // namespace rendak::test
