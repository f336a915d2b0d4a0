// Spectra beside the bare transforms; SciPy's Welch on the same samples is timed by ratios.py.
#include <benchmark/benchmark.h>
#include <fftw3.h>

#include <random>

#include "core/chassis/stretch_spectra.h"
#include "core/signal/spectrum.h"
#include "demo/run_plan.h"
#include "tests/support/exact_laps.h"
#include "tests/support/made_world.h"

using namespace rendak;

namespace {

constexpr std::size_t samples = 1'000'000, segment = 1024;

const std::vector<float>& signal() {
    static const std::vector<float> made = [] {
        std::mt19937 engine(1);
        std::normal_distribution<float> normal(0, 1);
        std::vector<float> out(samples);
        for (float& x : out) x = normal(engine);
        return out;
    }();
    return made;
}

void welch_1_m_samples(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(spectrum_of(signal(), 500, segment, Detrend::mean));
}
BENCHMARK(welch_1_m_samples)->Unit(benchmark::kMillisecond);

void bare_transforms(benchmark::State& state) {
    auto* in = static_cast<float*>(fftwf_malloc(segment * sizeof(float)));
    auto* out = static_cast<fftwf_complex*>(fftwf_malloc((segment / 2 + 1) * sizeof(fftwf_complex)));
    const fftwf_plan plan = fftwf_plan_dft_r2c_1d(segment, in, out, FFTW_ESTIMATE);
    for (auto _ : state) {
        for (std::size_t from = 0; from + segment <= samples; from += segment / 2) {
            std::copy_n(signal().data() + from, segment, in);
            fftwf_execute(plan);
            benchmark::DoNotOptimize(out[1][0]);
        }
    }
    fftwf_destroy_plan(plan);
    fftwf_free(in);
    fftwf_free(out);
}
BENCHMARK(bare_transforms)->Unit(benchmark::kMillisecond);

/// Four dampers at 500 Hz over the exits of 18 laps.
void stretch_of_18_laps(benchmark::State& state) {
    const demo::Circuit circuit = demo::skerrow_point();
    const auto laps = test::exact_laps(circuit, test::drawn_track(circuit), test::MadeWorld::plan(18, 1, 0.7));
    const auto stretches = stretches_of(StretchKind::exits, laps);
    SpectrumWish wish;
    wish.channel = "damper";
    for (auto _ : state) benchmark::DoNotOptimize(stretch_spectra(laps, stretches, wish));
    state.counters["laps"] = static_cast<double>(laps.size());
}
BENCHMARK(stretch_of_18_laps)->Unit(benchmark::kMillisecond);

}  // namespace

BENCHMARK_MAIN();
