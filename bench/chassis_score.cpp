// How often ladders and trials are right, on drives that nothing was tuned to: chassis_score SEEDS FIRST
#include <cstdio>
#include <cstdlib>
#include <vector>

#include "core/analysis/set_difference.h"
#include "core/chassis/ladder.h"
#include "core/trials/change_trial.h"
#include "demo/suspension.h"
#include "tests/support/exact_laps.h"
#include "tests/support/made_world.h"

using namespace rendak;

namespace {

Ladder ladder(const demo::Circuit& circuit, const std::shared_ptr<const Track>& track, std::uint64_t seed, bool same) {
    std::vector<LadderStep> steps;
    std::vector<PreparedLap> all;
    for (const double clicks : {2.0, 4.0, 6.0, 8.0, 10.0, 12.0}) {
        demo::RunPlan plan = test::MadeWorld::plan(3, 1000 * seed + static_cast<std::uint64_t>(clicks), 0.7);
        plan.state.rear_bump_clicks = same ? 8 : clicks;
        steps.push_back({clicks, test::exact_laps(circuit, track, plan)});
        all.insert(all.end(), steps.back().laps.begin(), steps.back().laps.end());
    }
    SpectrumWish wish;
    wish.front = false;
    wish.wheels = WheelChoice::loaded;
    const auto stretches = stretches_of(StretchKind::exits, all);
    return *ladder_of(std::move(steps), stretches, wish, "Bump rear", "clicks");
}

std::vector<double> lap_times(const demo::Circuit& circuit, double power_w, std::uint64_t seed, int laps) {
    demo::RunPlan plan = test::MadeWorld::plan(laps, seed, 1);
    plan.car.power_w = power_w;
    const demo::Drive drive = demo::drive_run(circuit, plan.car, plan);
    std::vector<double> out;
    // The first lap begins from another speed than the others.
    for (std::size_t k = 1; k + 1 < drive.crossings_s.size(); ++k)
        out.push_back(drive.crossings_s[k + 1] - drive.crossings_s[k]);
    return out;
}

}  // namespace

int main(int argc, char** argv) {
    const int seeds = argc > 1 ? std::atoi(argv[1]) : 20;
    const int first = argc > 2 ? std::atoi(argv[2]) : 1;
    const demo::Circuit circuit = demo::skerrow_point();
    const auto track = test::drawn_track(circuit);
    int found = 0, silent = 0, near = 0;
    for (int seed = first; seed < first + seeds; ++seed) {
        const Ladder with = ladder(circuit, track, static_cast<std::uint64_t>(seed), false);
        const bool best = with.says == Ladder::Says::inside && with.values[with.best] == demo::best_rear_bump_clicks;
        found += best ? 1 : 0;
        near += with.says == Ladder::Says::inside ? 1 : 0;
        if (!best) std::printf("seed %d: %s\n", seed, with.text.c_str());
        const Ladder without = ladder(circuit, track, static_cast<std::uint64_t>(seed + 5000), true);
        silent += without.says == Ladder::Says::unknown ? 1 : 0;
        if (without.says != Ladder::Says::unknown) std::printf("seed %d, nothing: %s\n", seed, without.text.c_str());
    }
    std::printf("ladders: planted best found in %d of %d (inside the span in %d); of nothing, told so in %d of %d\n",
                found, seeds, near, silent, seeds);
    // The true effect is that of all laps together.
    constexpr int trials = 200, laps = 5;
    std::vector<std::vector<double>> a, b;
    std::vector<double> all_a, all_b;
    for (int k = 0; k < trials; ++k) {
        a.push_back(lap_times(circuit, 178e3, static_cast<std::uint64_t>(100'000 + 2 * k), laps));
        b.push_back(lap_times(circuit, 181e3, static_cast<std::uint64_t>(100'001 + 2 * k), laps));
        all_a.insert(all_a.end(), a.back().begin(), a.back().end());
        all_b.insert(all_b.end(), b.back().begin(), b.back().end());
    }
    const double truth = mean_value(all_b) - mean_value(all_a);
    int held = 0, sure = 0;
    for (std::size_t k = 0; k < a.size(); ++k) {
        const TrialFigure it = trial_figure("", a[k], b[k]);
        held += it.likely && it.likely->contains(truth) ? 1 : 0;
        sure += it.verdict() == TrialFigure::Verdict::gain ? 1 : 0;
    }
    std::printf("trials: %d of %d 95 %% intervals hold the true %.3f s; %d call it a gain, surely\n", held, trials,
                truth, sure);
    return 0;
}
