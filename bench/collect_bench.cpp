// From the logger to the list of runs: MDF beside a plain read and the CSV of the same data, a download beside the bare
// link, a library of 5 000 runs.
#include <benchmark/benchmark.h>
#include <fcntl.h>
#include <unistd.h>

#include <QApplication>
#include <QLineEdit>
#include <filesystem>

#include "app/desks/logbook/logbook_desk.h"
#include "app/desks/logbook/run_tree.h"
#include "app/shell/main_window.h"
#include "app/shell/screenshots.h"
#include "app/theme/theme.h"
#include "core/logger/collect.h"
#include "core/recording/csv_reader.h"
#include "core/recording/csv_writer.h"
#include "core/recording/mdf.h"
#include "demo/card.h"
#include "demo/sensors.h"
#include "demo/stand_in.h"

using namespace rendak;

namespace {

std::filesystem::path bench_folder() {
    const char* folder = std::getenv("RENDAK_BENCH_FOLDER");
    return folder != nullptr ? folder : std::filesystem::temp_directory_path() / "rendak-bench";
}

/// Run 2 as the logger writes it (MDF 4), packed, and as a table.
const std::filesystem::path& run_files() {
    static const auto folder = [] {
        const auto made = bench_folder() / "run-files";
        std::filesystem::create_directories(made / "card");
        const auto circuit = demo::skerrow_point();
        const auto plan = demo::saturday()[1];
        const auto recording = demo::main_logger(circuit, plan.car, plan, demo::drive_run(circuit, plan.car, plan));
        (void)demo::write_card_file(recording, made / "card/run.MF4");
        (void)write_mdf(recording, made / "packed.mf4", {.compress = true});
        (void)write_csv(recording, made / "run.csv");
        return made;
    }();
    return folder;
}

void read_whole(benchmark::State& state, const std::filesystem::path& file) {
    std::string block(1U << 20, ' ');
    for (auto _ : state) {
        const int fd = ::open(file.c_str(), O_RDONLY);
        while (::read(fd, block.data(), block.size()) > 0) benchmark::DoNotOptimize(block.data());
        ::close(fd);
    }
    state.SetBytesProcessed(state.iterations() * static_cast<std::int64_t>(std::filesystem::file_size(file)));
}

void plain_read(benchmark::State& state) {
    read_whole(state, run_files() / "card/run.MF4");
}
BENCHMARK(plain_read)->Unit(benchmark::kMillisecond)->UseRealTime();

void mdf_import(benchmark::State& state, const char* name) {
    const auto file = run_files() / name;
    for (auto _ : state) benchmark::DoNotOptimize(read_mdf(file));
    state.SetBytesProcessed(state.iterations() * static_cast<std::int64_t>(std::filesystem::file_size(file)));
}
BENCHMARK_CAPTURE(mdf_import, plain, "card/run.MF4")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(mdf_import, packed, "packed.mf4")->Unit(benchmark::kMillisecond)->UseRealTime();

void csv_of_the_same_data(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(read_csv(run_files() / "run.csv"));
}
BENCHMARK(csv_of_the_same_data)->Unit(benchmark::kMillisecond)->UseRealTime();

void the_bare_link(benchmark::State& state) {
    demo::StandIn logger;
    (void)logger.start(run_files() / "card");
    const auto link = http_logger(logger.url());
    const auto files = *link->list({});
    for (auto _ : state) {
        (void)link->read(files[0], 0,
                         [](std::string_view bytes) {
                             benchmark::DoNotOptimize(bytes.data());
                             return true;
                         },
                         {});
    }
}
BENCHMARK(the_bare_link)->Unit(benchmark::kMillisecond)->UseRealTime();

/// Into a file, with its digest checked; with the quick one or, as of a logger that names no other, with SHA-256; and
/// until the disk has it (collect() imports meanwhile).
void download(benchmark::State& state, bool quick, bool flushed) {
    demo::StandIn logger;
    (void)logger.start(run_files() / "card");
    const auto link = http_logger(logger.url());
    auto file = (*link->list({}))[0];
    if (!quick) file.xxh3.clear();
    const auto originals = bench_folder() / "originals";
    for (auto _ : state) {
        const auto fetched = fetch(*link, file, originals);
        if (flushed) benchmark::DoNotOptimize(keep_safe(fetched->file));
        state.PauseTiming();
        std::filesystem::remove_all(originals);
        state.ResumeTiming();
    }
}
BENCHMARK_CAPTURE(download, quick_digest, true, false)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(download, quick_digest_flushed, true, true)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(download, sha256, false, false)->Unit(benchmark::kMillisecond)->UseRealTime();

/// 5 000 runs of 12 laps, made once.
const std::filesystem::path& large_library() {
    static const auto folder = [] {
        const auto made = bench_folder() / "5000-runs";
        if (std::filesystem::exists(made / "made")) return made;
        auto library = Library::open(made);
        const char* drivers[] = {"Brandvold", "Osei", "Lindqvist", "Amari"};
        for (int i = 0; i < 5000; ++i) {
            Recording recording;
            recording.start_unix_s = 1.6e9 + 9000.0 * i;
            ChannelStorage storage;
            storage.floats = {static_cast<float>(i), 1, 2};
            recording.channels.push_back(make_channel("Speed", "speed", "m/s", std::move(storage), 0, 10));
            FilingInfo info;
            info.event = "Event " + std::to_string(i / 40);
            info.session = i % 40 < 20 ? "Saturday" : "Sunday";
            info.name = "Run " + std::to_string(i % 40);
            info.driver = drivers[i % 4];
            info.tyre_set = "C" + std::to_string(i % 9);
            for (int lap = 0; lap < 12; ++lap)
                info.laps.push_back({lap, LapKind::flying, 90.0 * lap, 90.0 * lap + 84 + (i * 7 + lap * 3) % 50 * 0.1,
                                     4000, true, false, ""});
            (void)(*library)->add_run(recording, info);
        }
        std::filesystem::create_directories(made / "made");
        return made;
    }();
    return folder;
}

void open_5000_runs(benchmark::State& state) {
    (void)large_library();
    for (auto _ : state) {
        const auto library = Library::open(large_library());
        benchmark::DoNotOptimize((*library)->summaries().value());
    }
}
BENCHMARK(open_5000_runs)->Unit(benchmark::kMillisecond)->UseRealTime();

void fill_the_list(benchmark::State& state) {
    const auto library = Library::open(large_library());
    const auto runs = (*library)->summaries().value();
    app::RunTree tree;
    for (auto _ : state) tree.show(runs);
}
BENCHMARK(fill_the_list)->Unit(benchmark::kMillisecond);

void sort_the_list(benchmark::State& state) {
    const auto library = Library::open(large_library());
    app::RunTree tree;
    (void)tree.read(**library);
    int turn = 0;
    for (auto _ : state) tree.sort(++turn % 2 == 0 ? app::RunTree::best : app::RunTree::name, Qt::AscendingOrder);
}
BENCHMARK(sort_the_list)->Unit(benchmark::kMillisecond);

void filter_the_list(benchmark::State& state) {
    const auto library = Library::open(large_library());
    app::RunTree tree;
    (void)tree.read(**library);
    int turn = 0;
    for (auto _ : state) tree.set_words(++turn % 2 == 0 ? QStringLiteral("osei c3") : QStringLiteral("driver:amari"));
}
BENCHMARK(filter_the_list)->Unit(benchmark::kMillisecond);

/// What an edit costs in the real window: the catalogue is read again and the desk shows it.
void refresh_the_logbook(benchmark::State& state) {
    app::MainWindow window(std::move(*Library::open(large_library())));
    window.resize(1280, 800);
    window.show();
    (void)app::wait_until_idle(window);
    for (auto _ : state) {
        window.workspace().library_changed();
        QApplication::processEvents();
    }
}
BENCHMARK(refresh_the_logbook)->Unit(benchmark::kMillisecond);

/// A filter typed into the real window, until it is painted.
void filter_in_the_logbook(benchmark::State& state) {
    app::MainWindow window(std::move(*Library::open(large_library())));
    window.resize(1280, 800);
    window.show();
    (void)app::wait_until_idle(window);
    auto* filter = window.desk_of<app::LogbookDesk>().findChild<QLineEdit*>(QStringLiteral("filter"));
    int turn = 0;
    for (auto _ : state) {
        filter->setText(++turn % 2 == 0 ? QStringLiteral("osei") : QString());
        QApplication::processEvents();
    }
}
BENCHMARK(filter_in_the_logbook)->Unit(benchmark::kMillisecond);

}  // namespace

int main(int count, char** arguments) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(count, arguments);
    app::load_fonts();
    app::apply_theme(false);
    benchmark::Initialize(&count, arguments);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
