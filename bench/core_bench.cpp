// Recordings, overviews, alignment. Each beside its peer or limit in the same run; bench/run prints the ratios.
#include <benchmark/benchmark.h>
#include <fcntl.h>
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <random>

#include "core/intake/import.h"
#include "core/laps/cut.h"
#include "core/laps/gap.h"
#include "core/recording/csv_reader.h"
#include "core/recording/recording_file.h"
#include "core/signal/overview.h"
#include "core/track/edit.h"
#include "core/track/learn.h"
#include "core/track/projection.h"
#include "demo/sensors.h"

using namespace rendak;

namespace {

std::filesystem::path bench_folder() {
    const char* folder = std::getenv("RENDAK_BENCH_FOLDER");
    return folder != nullptr ? folder : std::filesystem::temp_directory_path() / "rendak-bench";
}

std::filesystem::path stored_run(std::size_t samples) {
    const auto file = bench_folder() / ("run-" + std::to_string(samples) + ".rdk.h5");
    if (std::filesystem::exists(file)) return file;
    std::filesystem::create_directories(bench_folder());
    Recording recording;
    std::mt19937 engine(1);
    std::normal_distribution<float> value;
    for (int c = 0; c < 20; ++c) {
        ChannelStorage storage;
        storage.floats.resize(samples);
        for (float& v : storage.floats) v = value(engine);
        recording.channels.push_back(make_channel("Channel " + std::to_string(c), "", "", std::move(storage), 0, 100));
    }
    (void)write_recording(recording, file);
    return file;
}

/// Opening a run and reading one sample of every channel: must not grow with the length.
void open_stored_run(benchmark::State& state) {
    const auto file = stored_run(static_cast<std::size_t>(state.range(0)));
    for (auto _ : state) {
        const auto recording = open_recording(file);
        double sum = 0;
        for (const Channel& channel : (*recording)->channels) sum += channel.at(channel.size() / 2);
        benchmark::DoNotOptimize(sum);
    }
}
BENCHMARK(open_stored_run)->Arg(10'000)->Arg(100'000)->Arg(2'000'000)->Unit(benchmark::kMicrosecond);

/// The overview of a whole run against a plain minimum/maximum pass over the same mapping.
void overview_of_run(benchmark::State& state) {
    const auto recording = *open_recording(stored_run(2'000'000));
    for (auto _ : state) {
        for (const Channel& channel : recording->channels) benchmark::DoNotOptimize(build_overview(channel.floats()));
    }
}
BENCHMARK(overview_of_run)->Unit(benchmark::kMillisecond);

void plain_min_max_pass(benchmark::State& state) {
    const auto recording = *open_recording(stored_run(2'000'000));
    for (auto _ : state) {
        for (const Channel& channel : recording->channels) benchmark::DoNotOptimize(min_max(channel.floats()));
    }
}
BENCHMARK(plain_min_max_pass)->Unit(benchmark::kMillisecond);

struct World {
    Path path;
    Track track;
    std::vector<Lap> laps;
};
const World& world() {
    static const World made = [] {
        const auto circuit = demo::skerrow_point();
        const demo::Car car;
        const auto plan = demo::saturday()[1];
        const auto drive = demo::drive_run(circuit, car, plan);
        World out;
        out.path = *path_of(demo::main_logger(circuit, car, plan, drive), circuit.origin);
        out.track = *learn_track(out.path, "bench", start_line_at(circuit.origin, circuit.origin, circuit.heading_deg));
        out.laps = cut_laps(out.path, out.track);
        return out;
    }();
    return made;
}

/// Aligning two laps and their gap on a grid of 1 m; the goal is 5 ms.
void align_and_gap_of_a_pair(benchmark::State& state) {
    const World& w = world();
    for (auto _ : state) {
        const LapMap a = align_lap(w.path, w.track, w.laps[2].start_s, w.laps[2].end_s);
        const LapMap b = align_lap(w.path, w.track, w.laps[5].start_s, w.laps[5].end_s);
        benchmark::DoNotOptimize(gap_between(a, b));
    }
}
BENCHMARK(align_and_gap_of_a_pair)->Unit(benchmark::kMillisecond);

/// 500 laps of 4 km at 20 Hz, each up to 3 m beside the line with half a metre of noise, on a line of 2 000 steps.
struct ManyLaps {
    Track track;
    std::vector<std::vector<Point>> laps;
    Path path;  ///< all of them, one after the other
    [[nodiscard]] std::size_t points() const { return laps.size() * laps.front().size(); }
};
const ManyLaps& many_laps() {
    static const ManyLaps made = [] {
        ManyLaps out;
        const Track& whole = world().track;
        constexpr std::size_t n = 2000;
        const double shrink = 4000 / whole.length_m;
        out.track.length_m = 0;
        for (std::size_t i = 0; i < n; ++i)
            out.track.line.push_back(whole.position_at(whole.length_m * static_cast<double>(i) / n) * shrink);
        for (std::size_t i = 0; i < n; ++i)
            out.track.length_m += length(out.track.line[(i + 1) % n] - out.track.line[i]);
        complete_track(out.track);
        out.track.start = {out.track.line.front(), out.track.tangent.front(), 20};
        std::mt19937 random(4);
        std::normal_distribution<double> noise(0, 0.5);
        double t = 0;
        for (int lap = 0; lap < 500; ++lap) {
            out.laps.emplace_back();
            for (int i = 0; i < 1700; ++i) {
                const double s = out.track.length_m * i / 1700;
                const Point place =
                    out.track.position_at(s) + left_of(out.track.tangent_at(s)) * (3 * std::sin(s / 60 + lap));
                out.laps.back().push_back(place + Point{noise(random), noise(random)});
                out.path.time_s.push_back(t);
                out.path.position.push_back(place);
                out.path.velocity.push_back(out.track.tangent_at(s) * (out.track.length_m / 85));
                out.path.distance_m.push_back(lap * out.track.length_m + s);
                out.path.bridged.push_back(0);
                out.path.sd_m.push_back(0.1F);
                t += 0.05;
            }
        }
        if (const char* file = std::getenv("RENDAK_BENCH_POINTS")) {
            // For the peer: the line's points, then the cars', as doubles.
            std::ofstream stream(file, std::ios::binary);
            stream.write(reinterpret_cast<const char*>(out.track.line.data()),
                         static_cast<std::streamsize>(n * sizeof(Point)));
            for (const auto& lap : out.laps)
                stream.write(reinterpret_cast<const char*>(lap.data()),
                             static_cast<std::streamsize>(lap.size() * sizeof(Point)));
        }
        return out;
    }();
    return made;
}

/// Only the projection, which SciPy's cKDTree does in bench/ratios.py on the same points.
void project_500_laps(benchmark::State& state) {
    const ManyLaps& w = many_laps();
    for (auto _ : state) {
        for (const auto& lap : w.laps) {
            Projector projector(w.track);
            projector.start_near(0, lap.front());
            for (const Point place : lap) benchmark::DoNotOptimize(projector.project(place));
        }
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations() * w.points()));
}
BENCHMARK(project_500_laps)->Unit(benchmark::kMillisecond);

/// Everything: slow error, projection, monotone distance, scaling.
void align_500_laps(benchmark::State& state) {
    const ManyLaps& w = many_laps();
    for (auto _ : state) {
        for (std::size_t lap = 0; lap < w.laps.size(); ++lap) {
            const double start = 85.0 * static_cast<double>(lap);
            benchmark::DoNotOptimize(align_lap(w.path, w.track, start, start + 84.9));
        }
    }
}
BENCHMARK(align_500_laps)->Unit(benchmark::kMillisecond);

/// What the Track desk shows while a start line is being placed: an 18-lap run cut at it.
void start_line_preview_of_18_laps(benchmark::State& state) {
    static const World long_run = [] {
        const auto circuit = demo::skerrow_point();
        const auto plan = demo::sunday()[0];
        const auto drive = demo::drive_run(circuit, plan.car, plan);
        World out;
        out.path = *path_of(demo::main_logger(circuit, plan.car, plan, drive), circuit.origin);
        out.track = world().track;
        return out;
    }();
    for (auto _ : state) benchmark::DoNotOptimize(cut_laps(long_run.path, *move_start(long_run.track, 1234)));
}
BENCHMARK(start_line_preview_of_18_laps)->Unit(benchmark::kMillisecond);

/// A table on disk, given by RENDAK_BENCH_CSV (bench/run makes one and times pandas on the same bytes).
void csv_import(benchmark::State& state) {
    const char* file = std::getenv("RENDAK_BENCH_CSV");
    if (file == nullptr) {
        state.SkipWithError("set RENDAK_BENCH_CSV, or use bench/run");
        return;
    }
    for (auto _ : state) benchmark::DoNotOptimize(read_csv(file, {{}, static_cast<unsigned>(state.range(0))}));
    state.SetBytesProcessed(static_cast<std::int64_t>(state.iterations()) *
                            static_cast<std::int64_t>(std::filesystem::file_size(file)));
}
BENCHMARK(csv_import)->Arg(1)->Arg(2)->Unit(benchmark::kMillisecond)->UseRealTime();

/// The same with writing the recording, flushed to the disk.
void csv_import_and_store(benchmark::State& state) {
    const char* file = std::getenv("RENDAK_BENCH_CSV");
    if (file == nullptr) {
        state.SkipWithError("set RENDAK_BENCH_CSV, or use bench/run");
        return;
    }
    const auto out = bench_folder() / "stored.rdk.h5";
    std::filesystem::create_directories(bench_folder());
    for (auto _ : state) {
        const auto read = read_csv(file);
        benchmark::DoNotOptimize(write_recording(read->recording, out));
        state.PauseTiming();
        std::filesystem::remove(out);  // an import never writes over another recording
        state.ResumeTiming();
    }
}
BENCHMARK(csv_import_and_store)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
