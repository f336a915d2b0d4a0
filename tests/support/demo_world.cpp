#include "tests/support/demo_world.h"

#include <stdexcept>

#include "core/laps/cut.h"
#include "core/track/learn.h"
#include "demo/sensors.h"

namespace rendak::test {
namespace {

DemoWorld made(bool gps_errors) {
    DemoWorld world;
    world.circuit = demo::skerrow_point();
    const demo::Car car;
    for (const demo::RunPlan& plan : demo::saturday()) {
        DemoRun run;
        run.plan = plan;
        run.drive = demo::drive_run(world.circuit, car, plan);
        run.recording =
            std::make_shared<const Recording>(demo::main_logger(world.circuit, car, plan, run.drive, {gps_errors}));
        auto path = path_of(*run.recording, world.circuit.origin);
        if (!path) throw std::runtime_error(path.error().message);
        run.path = std::make_shared<const Path>(std::move(*path));
        world.runs.push_back(std::move(run));
    }
    const auto start = start_line_at(world.circuit.origin, world.circuit.origin, world.circuit.heading_deg);
    auto track = learn_track(*world.runs[1].path, world.circuit.name, start);
    if (!track) throw std::runtime_error(track.error().message);
    world.track = std::make_shared<const Track>(std::move(*track));
    for (DemoRun& run : world.runs) run.laps = cut_laps(*run.path, *world.track);
    return world;
}

}  // namespace

PreparedLap DemoRun::lap(int number, const std::shared_ptr<const Track>& track) const {
    for (const Lap& lap : laps) {
        if (lap.number == number) {
            return {{{1}, number}, recording, track, path, align_lap(*path, *track, lap.start_s, lap.end_s)};
        }
    }
    throw std::runtime_error("no such lap");
}

const DemoWorld& demo_world(bool gps_errors) {
    static const DemoWorld with = made(true);
    if (gps_errors) return with;
    static const DemoWorld without = made(false);
    return without;
}

}  // namespace rendak::test
