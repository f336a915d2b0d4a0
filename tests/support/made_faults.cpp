#include "tests/support/made_faults.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <random>

#include "core/analysis/findings.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

namespace rendak::test {
namespace {

using demo::Cue;

struct Fault {
    const char* kind;  ///< as findings name it; "" for a drive without one
    Cue::Kind cue = Cue::Kind::slower;
    double least = 0, most = 0;
    enum class Of { corner, power, wing, brakes } of = Of::corner;
};

constexpr Fault faults[] = {{"brakes_early", Cue::Kind::brake_early, 8, 25},
                            {"overslowed", Cue::Kind::slower, 0.03, 0.1},
                            {"lifts", Cue::Kind::lift, 0.1, 0.6},
                            {"coasts", Cue::Kind::coast, 25, 70},
                            {"wide", Cue::Kind::wide, 1.5, 3},
                            {"brakes_softly", Cue::Kind::soft_brake, 0.65, 0.85},
                            {"throttle_hesitates", Cue::Kind::hesitate, 0.3, 0.7},
                            {"turns_in_early", Cue::Kind::early_turn, 10, 20},
                            {"turns_in_late", Cue::Kind::early_turn, -20, -10},
                            {"locks_up", Cue::Kind::lock_up, 0.3, 0.8},
                            {"pulls_less", Cue::Kind::slower, 0.9, 0.96, Fault::Of::power},
                            {"carries_less", Cue::Kind::slower, 0.7, 0.85, Fault::Of::wing},
                            {"brakes_softly", Cue::Kind::soft_brake, 0.7, 0.88, Fault::Of::brakes},
                            {""}};

int corner_of(const MadeWorld& world, double along_m) {
    const Track& track = *world.track();
    const double place = world.place_on_track(along_m);
    const Corner* best = &track.corners.front();
    for (const Corner& corner : track.corners) {
        if (std::abs(corner.apex_m - place) < std::abs(best->apex_m - place)) best = &corner;
    }
    return best->number;
}

double mean_time(const MadeRun& run) {
    double sum = 0;
    for (const PreparedLap& lap : run.laps) sum += lap.time_s();
    return sum / static_cast<double>(run.laps.size());
}

/// What a finding's size would be if it were exact; 0 where the cue is not told in its unit.
double made_size(const Fault& fault, double value) {
    const std::string kind = fault.kind;
    if (kind == "lifts") return 100 * (1 - value);
    return kind == "brakes_early" || kind == "wide" ? value : 0;
}

}  // namespace

int FindingScore::faults() const {
    return std::accumulate(kinds.begin(), kinds.end(), 0, [](int n, const auto& it) { return n + it.second.faults; });
}
int FindingScore::named() const {
    return std::accumulate(kinds.begin(), kinds.end(), 0, [](int n, const auto& it) { return n + it.second.named; });
}
int FindingScore::told() const {
    return std::accumulate(kinds.begin(), kinds.end(), 0, [](int n, const auto& it) { return n + it.second.told; });
}
int FindingScore::wrong() const {
    return std::accumulate(kinds.begin(), kinds.end(), 0, [](int n, const auto& it) { return n + it.second.wrong; });
}

FindingScore score_findings(unsigned first_world, int worlds, bool pocket) {
    constexpr int laps = 5;
    constexpr double scatter = 0.6, worth_s = 0.05;
    FindingScore out;
    std::mt19937 random(first_world);
    const auto between = [&](double low, double high) {
        return std::uniform_real_distribution<double>(low, high)(random);
    };
    for (unsigned seed = first_world; seed < first_world + static_cast<unsigned>(worlds); ++seed) {
        const MadeWorld world(seed);
        const auto& circuit = world.circuit();
        const MadeRun a = world.run(MadeWorld::plan(laps, seed * 7, scatter), pocket);
        const auto clean = MadeWorld::plan(laps, seed * 7 + 1, scatter);
        const MadeRun without = world.run(clean, pocket);
        if (a.laps.size() < 2 || without.laps.size() < 2) continue;
        const auto natural = got(findings_of(a.laps, without.laps));
        for (const Fault& fault : faults) {
            const std::string kind = fault.kind;
            auto plan = clean;
            int corner = 0;
            double value = 0;
            if (fault.of != Fault::Of::corner) {
                const double share = between(fault.least, fault.most);
                if (fault.of == Fault::Of::power) plan.car.power_w *= share;
                if (fault.of == Fault::Of::wing) plan.car.downforce_m2 *= share;
                if (fault.of == Fault::Of::wing) plan.car.drag_m2 *= 1 - 0.3 * (1 - share);
                if (fault.of == Fault::Of::brakes) plan.brake_use *= share;
            } else if (!kind.empty()) {
                std::vector<const demo::CircuitCorner*> usable;
                double last_end = 0;
                const bool reaches_back = fault.cue == Cue::Kind::brake_early || fault.cue == Cue::Kind::soft_brake ||
                                          fault.cue == Cue::Kind::lock_up;
                for (const auto& it : circuit.corners) {
                    // Early braking reaches back over corners that lie close; what lies at the line is two laps'.
                    const bool alone = !reaches_back || it.start_m - last_end > 265;
                    if (it.start_m > 300 && it.end_m < circuit.length_m - 250 && alone) usable.push_back(&it);
                    last_end = it.end_m;
                }
                if (usable.empty()) continue;
                const auto& at =
                    *usable[static_cast<std::size_t>(between(0, static_cast<double>(usable.size()) - 0.01))];
                value = between(fault.least, fault.most);
                if (fault.cue == Cue::Kind::brake_early) value = std::round(value);
                for (auto& lap : plan.laps) {
                    lap.cues.push_back({fault.cue, at.number, value});
                    // A locked wheel stops the car less, which the made-up car does not do by itself.
                    if (fault.cue == Cue::Kind::lock_up)
                        lap.cues.push_back({Cue::Kind::soft_brake, at.number, 1 - 0.4 * value});
                }
                corner = corner_of(world, at.apex_m);
            }
            const MadeRun b = world.run(plan, pocket);
            if (b.laps.size() < 2) continue;
            const Ledger ledger = got(ledger_of(a.laps, b.laps));
            double here_s = 0;
            for (const LedgerRow& row : ledger.rows) here_s += corner == 0 || row.corner == corner ? row.loss_s : 0;
            const bool counts = !kind.empty() && mean_time(b) - mean_time(without) > worth_s && here_s > worth_s;
            const std::string everywhere = fault.of == Fault::Of::brakes ? " everywhere" : "";
            auto& score = out.kinds[kind.empty() ? "none" : kind + everywhere];
            ++score.drives;
            score.faults += counts;
            bool named = false;
            std::string others;
            for (const LapFinding& it : got(findings_of(a.laps, b.laps))) {
                const bool was_there = std::any_of(natural.begin(), natural.end(), [&](const LapFinding& other) {
                    return other.kind == it.kind && other.corner == it.corner;
                });
                others += " [" + finding_words(it, *world.track()) + "]";
                // Who had been on full throttle already lifts.
                const bool same =
                    kind_name(it.kind) == kind || (kind == "throttle_hesitates" && it.kind == LapFinding::Kind::lifts);
                const bool right = same && it.corner == corner;
                named = named || right;
                if (right && made_size(fault, value) > 0 && std::isfinite(it.size))
                    score.sizes.push_back(it.size / made_size(fault, value));
                if (was_there) continue;
                ++score.told;
                const bool wrong = kind.empty() || (fault.of != Fault::Of::corner ? !same : it.corner != corner);
                score.wrong += wrong;
                if (wrong)
                    out.misses.push_back("world " + std::to_string(seed) + ", " + (kind.empty() ? "none" : kind) +
                                         " at turn " + std::to_string(corner) +
                                         ", wrongly: " + finding_words(it, *world.track()));
            }
            score.named += counts && named;
            if (counts && !named)
                out.misses.push_back("world " + std::to_string(seed) + ": " + kind + " at turn " +
                                     std::to_string(corner) + " of " + std::to_string(value) + " not named, but" +
                                     others);
        }
    }
    return out;
}

}  // namespace rendak::test
