// What explains a lap: ledger, figures of corners, limit, shown pace, quickest line, guide; beside a plain pass over
// the same channels, which nothing can be quicker than.
#include <benchmark/benchmark.h>

#include <cmath>

#include "core/analysis/overview.h"
#include "core/analysis/quickest_line.h"
#include "core/analysis/shown_pace.h"
#include "core/analysis/track_guide.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;

namespace {

/// Two runs of 18 laps of a made-up circuit of five kilometres.
struct Laps {
    std::vector<PreparedLap> a, b, with_edges;
};
const Laps& laps() {
    static const Laps made = [] {
        Laps out;
        const MadeWorld world(60003, 5000);
        out.a = world.run(MadeWorld::plan(18, 1, 0.6)).laps;
        out.b = world.run(MadeWorld::plan(18, 2, 0.6)).laps;
        auto track = std::make_shared<Track>(*world.track());
        track->edges.source = Edges::Source::driven;
        track->edges.left_m.assign(track->line.size(), 5.5);
        track->edges.right_m.assign(track->line.size(), 5.5);
        out.with_edges = out.a;
        for (PreparedLap& lap : out.with_edges) lap.track = track;
        return out;
    }();
    return made;
}

void plain_pass(benchmark::State& state) {
    laps();
    for (auto _ : state) {
        double sum = 0;
        for (const PreparedLap& lap : laps().a) {
            for (const char* quantity : {"speed", "lateral_acceleration", "longitudinal_acceleration", "throttle"}) {
                const Channel* channel = lap.recording->find(quantity);
                const std::size_t end = channel->clock.first_at_or_after(lap.map.end_s());
                for (std::size_t i = channel->clock.first_at_or_after(lap.map.start_s()); i < end; ++i)
                    sum += channel->at(i);
            }
        }
        benchmark::DoNotOptimize(sum);
    }
}
BENCHMARK(plain_pass)->Unit(benchmark::kMillisecond);

void ledger_of_2_x_18_laps(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(got(ledger_of(laps().a, laps().b)));
}
BENCHMARK(ledger_of_2_x_18_laps)->Unit(benchmark::kMillisecond)->UseRealTime();

void corner_figures_of_2_x_18_laps(benchmark::State& state) {
    for (auto _ : state) {
        for (const auto* side : {&laps().a, &laps().b})
            benchmark::DoNotOptimize(corner_figure_table(*side, corner_peaks(*side)));
    }
}
BENCHMARK(corner_figures_of_2_x_18_laps)->Unit(benchmark::kMillisecond)->UseRealTime();

void story_of_2_x_18_laps(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(got(story_of(laps().a, laps().b)));
}
BENCHMARK(story_of_2_x_18_laps)->Unit(benchmark::kMillisecond)->UseRealTime();

void limit_of_18_laps(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(got(observed_limit(laps().a)));
}
BENCHMARK(limit_of_18_laps)->Unit(benchmark::kMillisecond)->UseRealTime();

void shown_pace_of_a_lap(benchmark::State& state) {
    const ObservedLimit limit = got(observed_limit(laps().a));
    const PreparedLap& lap = laps().a.front();
    for (auto _ : state) benchmark::DoNotOptimize(got(shown_pace(lap, motion_of(lap), limit)));
    state.counters["km"] = lap.map.length_m() / 1000;
}
BENCHMARK(shown_pace_of_a_lap)->Unit(benchmark::kMillisecond);

void quickest_line_of_a_lap(benchmark::State& state) {
    const ObservedLimit limit = got(observed_limit(laps().with_edges));
    for (auto _ : state) benchmark::DoNotOptimize(got(quickest_line(laps().with_edges.front(), limit)));
}
BENCHMARK(quickest_line_of_a_lap)->Unit(benchmark::kMillisecond);

void road_use_of_18_laps(benchmark::State& state) {
    for (auto _ : state) {
        for (const PreparedLap& lap : laps().with_edges) benchmark::DoNotOptimize(road_use(lap));
    }
}
BENCHMARK(road_use_of_18_laps)->Unit(benchmark::kMillisecond);

void guide_of_a_lap(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(track_guide(laps().a.front()));
}
BENCHMARK(guide_of_a_lap)->Unit(benchmark::kMillisecond);

void overview_of_2_x_18_laps(benchmark::State& state) {
    const LapStory story = got(story_of(laps().a, laps().b));
    for (auto _ : state) benchmark::DoNotOptimize(overview_of(laps().a, laps().b, story));
}
BENCHMARK(overview_of_2_x_18_laps)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
