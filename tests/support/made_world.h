#pragma once

#include <memory>
#include <vector>

#include "core/laps/prepared_lap.h"
#include "demo/drive.h"
#include "demo/run_plan.h"

namespace rendak::test {

/// A run on a made-up circuit with everything core makes of it, and its exact motion.
struct MadeRun {
    demo::Drive drive;
    std::vector<PreparedLap> laps;  ///< flying, in the order driven
    std::vector<int> lap_of;        ///< index in the plan's laps
};

/// A circuit that nobody tuned anything to, with a car that obeys power, drag, grip and brakes, and drivers who do on
/// cue what a plan says. The track is learnt from a run of its own.
class MadeWorld {
  public:
    explicit MadeWorld(unsigned seed, double length_m = 4200, int waves = 9);

    [[nodiscard]] const demo::Circuit& circuit() const { return circuit_; }
    [[nodiscard]] const std::shared_ptr<const Track>& track() const { return track_; }
    /// The place of the track beside a place of the circuit's middle.
    [[nodiscard]] double place_on_track(double along_m) const;
    /// A plan of so many laps without a fault, between two more that are not complete.
    [[nodiscard]] static demo::RunPlan plan(int laps, std::uint64_t seed, double scatter);
    /// Without travel, loads and heights of the suspension. `pocket`: recorded by a receiver with accelerations alone.
    [[nodiscard]] MadeRun run(const demo::RunPlan& plan, bool pocket = false) const;

  private:
    [[nodiscard]] Recording recorded(const demo::RunPlan& plan, const demo::Drive& drive, bool pocket) const;
    demo::Circuit circuit_;
    std::shared_ptr<const Track> track_;
};

}  // namespace rendak::test
