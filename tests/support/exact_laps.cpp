#include "tests/support/exact_laps.h"

#include "core/intake/run_recording.h"
#include "demo/sensors.h"

namespace rendak::test {

const demo::Circuit& drawn_circuit() {
    static const demo::Circuit it = demo::skerrow_point();
    return it;
}

const std::shared_ptr<const Track>& drawn_track() {
    static const auto it = drawn_track(drawn_circuit());
    return it;
}

std::shared_ptr<const Track> drawn_track(const demo::Circuit& circuit) {
    auto track = std::make_shared<Track>();
    track->name = circuit.name;
    track->origin = circuit.origin;
    track->length_m = circuit.length_m;
    track->line = circuit.centre;
    complete_track(*track);
    track->height.value = circuit.height_m;
    track->height.sd.assign(circuit.height_m.size(), 0.1);
    return track;
}

std::vector<PreparedLap> exact_laps(const demo::Circuit& circuit, const std::shared_ptr<const Track>& track,
                                    const demo::RunPlan& plan) {
    const demo::Drive drive = demo::drive_run(circuit, plan.car, plan);
    auto recording = std::make_shared<Recording>(demo::main_logger(circuit, plan.car, plan, drive));
    // What a run's recording is called by: its speed is the receiver's.
    const auto scales = std::make_shared<const PedalScales>(pedal_scales(*recording));
    std::vector<PreparedLap> out;
    for (std::size_t k = 0; k + 1 < drive.crossings_s.size(); ++k) {
        PreparedLap lap;
        lap.ref = {{1}, static_cast<int>(k + 1)};
        lap.recording = recording;
        lap.track = track;
        lap.scales = scales;
        const double begin = drive.crossings_s[k], end = drive.crossings_s[k + 1];
        const double start_m =
            std::round(drive.along_m[static_cast<std::size_t>(begin / demo::Drive::step_s + 1)] / circuit.length_m) *
            circuit.length_m;
        for (double t = begin; t < end; t += 0.05) {
            const auto i = static_cast<std::size_t>(t / demo::Drive::step_s);
            const double share = t / demo::Drive::step_s - static_cast<double>(i);
            lap.map.time_s.push_back(t);
            lap.map.distance_m.push_back(drive.along_m[i] * (1 - share) + drive.along_m[i + 1] * share - start_m);
            lap.map.left_m.push_back(drive.left_m[i]);
        }
        lap.map.distance_m.front() = 0;
        lap.map.time_s.push_back(end);
        lap.map.distance_m.push_back(circuit.length_m);
        lap.map.left_m.push_back(lap.map.left_m.back());
        out.push_back(std::move(lap));
    }
    return out;
}

}  // namespace rendak::test
