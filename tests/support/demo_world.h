#pragma once

#include <filesystem>
#include <memory>

#include "core/laps/prepared_lap.h"
#include "core/library/rows.h"
#include "demo/drive.h"
#include "demo/run_plan.h"

namespace rendak::test {

/// One simulated run with everything core makes of it, and the exact motion to compare with.
struct DemoRun {
    demo::RunPlan plan;
    demo::Drive drive;
    std::shared_ptr<const Recording> recording;
    std::shared_ptr<const Path> path;
    std::vector<Lap> laps;

    /// A complete lap, aligned.
    [[nodiscard]] PreparedLap lap(int number, const std::shared_ptr<const Track>& track) const;
    /// Exact time of the lap that begins at crossing k.
    [[nodiscard]] double true_lap_time(std::size_t k) const { return drive.crossings_s[k + 1] - drive.crossings_s[k]; }
};

/// Saturday, with GPS errors or without, and the track learnt from run 2. Read once a process.
struct DemoWorld {
    demo::Circuit circuit;
    std::vector<DemoRun> runs;
    std::shared_ptr<const Track> track;
};
[[nodiscard]] const DemoWorld& demo_world(bool gps_errors = true);

/// Point of the circuit's centreline beside a point of the track's line.
[[nodiscard]] std::size_t beside(const demo::Circuit& circuit, const Track& track, std::size_t point);

/// Simulates what demo_world() reads. Throws the sentence of an error.
void write_demo_worlds(const std::filesystem::path& folder);

}  // namespace rendak::test
