// Simulates the demo data that the tests share, once for each build of this program, and checks that no test wrote
// into it:
//   demo_fixture saturday|weekend|worlds|untouched
#include <cstdlib>
#include <fstream>
#include <iostream>
#include <stdexcept>

#include "core/base/sha256.h"
#include "core/intake/run_data.h"
#include "demo/write_demo.h"
#include "tests/support/demo_data.h"
#include "tests/support/demo_world.h"
#include "tests/support/got.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

namespace fs = std::filesystem;
using namespace rendak;

namespace {

/// Names, sizes and times of last change of all files: what an edit in place alters.
std::string state_of_files(const fs::path& folder) {
    std::map<std::string, std::string> files;
    for (const auto& entry : fs::recursive_directory_iterator(folder)) {
        if (!entry.is_regular_file()) continue;
        // A catalogue is opened by whoever reads it, which may leave its index of the log beside it.
        if (entry.path().extension() != ".h5" && entry.path().extension() != ".MF4") continue;
        files[entry.path().string()] = std::to_string(entry.file_size()) + " " +
                                       std::to_string(entry.last_write_time().time_since_epoch().count());
    }
    std::string out;
    for (const auto& [name, state] : files) out += name + " " + state + "\n";
    return out;
}

/// Opened once: what is derived from the recordings is kept beside them, and the tests need not compute it again.
void open_all_runs(const fs::path& folder) {
    const auto library = test::got(Library::open(folder, Library::Open::existing));
    for (const RunRow& run : test::got(library->runs())) (void)load_run(*library, run.id);
}

/// What the check before this one has made of the same sources: under the sanitizers the weekend takes minutes, and the
/// saturday shows them what there is to see.
bool taken_over(const std::string& what, const fs::path& folder) {
    const char* from = std::getenv("RENDAK_DEMO_FROM");
    if (from == nullptr || what == "saturday" || !fs::exists(fs::path(from) / (what + ".made"))) return false;
    test::copy_library(fs::path(from) / what, folder);
    return true;
}

void make(const std::string& what, const fs::path& folder) {
    if (taken_over(what, folder)) return;
    if (what == "worlds") return test::write_demo_worlds(folder);
    if (what == "saturday") {
        if (const auto done = demo::write_demo(folder, {}, {.sunday = false, .waiting = true, .films = false}); !done)
            throw std::runtime_error(done.error().text());
        return open_all_runs(folder);
    }
    if (what != "weekend") throw std::runtime_error("no demo data is called " + what);
    // As a person has it written.
    const std::string command = test::own_cli() + " demo --write '" + folder.string() + "' >/dev/null 2>&1";
    if (std::system(command.c_str()) != 0) throw std::runtime_error(command + " failed");
    open_all_runs(folder);
}

void make_once(const std::string& what) {
    const fs::path root = test::own_test_data(), folder = root / what, part = root / (what + "-part");
    const fs::path stamp = root / (what + ".made"), state = root / (what + ".files");
    const std::string build = test::got(sha256_of_file("/proc/self/exe"));
    if (fs::exists(folder) && test::read_all(stamp) == build && test::read_all(state) == state_of_files(folder)) return;
    fs::remove(stamp);
    fs::remove_all(folder);
    fs::remove_all(part);
    fs::create_directories(root);
    make(what, part);
    fs::rename(part, folder);
    std::ofstream(state) << state_of_files(folder);
    std::ofstream(stamp) << build;
}

bool untouched() {
    bool fine = true;
    for (const char* what : {"saturday", "weekend", "worlds"}) {
        const fs::path root = test::own_test_data();
        if (!fs::exists(root / what)) continue;  // not every test was chosen
        if (test::read_all(root / (std::string(what) + ".files")) == state_of_files(root / what)) continue;
        std::cerr << (root / what).string() << ": a test has written into data that all of them share\n";
        fine = false;
    }
    return fine;
}

}  // namespace

int main(int count, char** arguments) try {
    const std::string what = count == 2 ? arguments[1] : "";
    if (what == "untouched") return untouched() ? 0 : 1;
    make_once(what);
    return 0;
} catch (const std::exception& error) {
    std::cerr << "demo_fixture: " << error.what() << "\n";
    return 1;
}
