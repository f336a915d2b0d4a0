// The figures of every lap of a season's long runs, and watch rules over whole recordings: whole processes, beside a
// plain read of the same files.
//
//   bench_stint FOLDER [RUNS]      40 runs of 18 laps need 1.6 GB of disk; a folder that is there is taken as it is
#include <algorithm>
#include <cstdlib>
#include <filesystem>

#include "bench/whole_process.h"
#include "core/intake/import.h"
#include "core/library/library.h"
#include "demo/sensors.h"
#include "demo/write_demo.h"

using namespace rendak;
using bench::cost_of;
using bench::say;

namespace {

namespace fs = std::filesystem;

bool fill(const fs::path& folder, int runs) {
    if (const auto written = demo::write_demo(folder, {}, {false, false}); !written) return false;
    const auto library = Library::open(folder, Library::Open::existing);
    if (!library) return false;
    const demo::Circuit circuit = demo::skerrow_point();
    const demo::RunPlan long_run = demo::sunday().front();
    for (int k = 0; k < runs; ++k) {
        demo::RunPlan plan = long_run;
        plan.seed = 5000 + static_cast<std::uint64_t>(k);
        plan.start_unix_s += 7200.0 * k;
        const auto drive = demo::drive_run(circuit, plan.car, plan);
        ImportOptions options;
        options.name = "Stint " + std::to_string(k + 1);
        options.event = "Season";
        options.session = "Day";
        options.driver = plan.driver;
        options.car = plan.car_name;
        ReadRecording read;
        read.recording = demo::main_logger(circuit, plan.car, plan, drive);
        if (const auto run = import_recording(**library, std::move(read), options); !run) {
            std::puts(run.error().text().c_str());
            return false;
        }
    }
    return true;
}

/// What the system has read of the recordings is forgotten, as after a start of the computer.
void forget_files(const fs::path& folder) {
    for (const auto& it : fs::directory_iterator(folder)) {
        const int file = ::open(it.path().c_str(), O_RDONLY);
        if (file < 0) continue;
        ::fdatasync(file);
        ::posix_fadvise(file, 0, 0, POSIX_FADV_DONTNEED);
        ::close(file);
    }
}

}  // namespace

int main(int count, char** arguments) {
    if (count < 2) return 2;
    const fs::path folder = arguments[1];
    const int runs = count > 2 ? std::atoi(arguments[2]) : 40;
    const std::string cli = (fs::path(arguments[0]).parent_path() / "rendak-cli").string();
    if (!fs::exists(folder / "library.sqlite") && !fill(folder, runs)) {
        std::puts("The library could not be written.");
        return 1;
    }
    // Saturday's three runs stand before them.
    std::string ids;
    for (int k = 0; k < runs; ++k) ids += (k > 0 ? "," : "") + std::to_string(k + 4);
    const fs::path catalogue = folder / "library.sqlite", before = folder / "before.sqlite";
    // A folder that was used before has kept its figures: its first catalogue has not.
    if (!fs::exists(before)) fs::copy_file(catalogue, before);
    const auto as_before = [&] { fs::copy_file(before, catalogue, fs::copy_options::overwrite_existing); };
    const auto ask = [&](std::vector<std::string> words) {
        words.insert(words.begin(), {cli, "--library", folder.string()});
        return cost_of(words);
    };
    std::vector<std::string> figures{"lapfigures", "--runs", ids};
    for (const char* set : {"driver", "speeds", "pedals", "tyres", "brakes", "engine", "fuel", "worn", "floor"})
        figures.insert(figures.end(), {"--set", set});
    std::vector<std::string> all_files{"/usr/bin/cat"};
    for (const auto& it : fs::directory_iterator(folder / "recordings")) all_files.push_back(it.path().string());
    std::printf("%d runs of 18 laps\n", runs);
    forget_files(folder / "recordings");
    say("plain read of the files, cold", cost_of(all_files));
    say("plain read of the files", cost_of(all_files));
    as_before();
    forget_files(folder / "recordings");
    say("lap figures, cold", ask(figures));
    as_before();
    say("lap figures, files read before", ask(figures));
    say("lap figures, kept", ask(figures));
    as_before();
    say("watch rules over all recordings", ask({"watch", "check", "--all"}));
    say("watch rules, kept", ask({"watch", "check", "--all"}));
    as_before();
    return 0;
}
