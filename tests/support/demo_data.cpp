#include "tests/support/demo_data.h"
#include "tests/support/own_build.h"

#include <stdexcept>
#include <string>

namespace fs = std::filesystem;

namespace rendak::test {
namespace {

fs::path made(const char* name) {
    fs::path folder = own_test_data() / name;
    if (!fs::exists(folder)) throw std::runtime_error(folder.string() + " is missing: run ctest -R '^demo' once");
    return folder;
}

/// Samples and raw files never change in place; everything else is small.
bool is_shared(const fs::path& file) {
    return file.extension() == ".h5" || file.extension() == ".MF4";
}

}  // namespace

fs::path saturday_library() {
    return made("saturday");
}
fs::path weekend_library() {
    return made("weekend");
}
fs::path demo_worlds() {
    return made("worlds");
}

void copy_library(const fs::path& from, const fs::path& to) {
    fs::create_directories(to);
    for (const auto& entry : fs::recursive_directory_iterator(from)) {
        const fs::path target = to / fs::relative(entry.path(), from);
        std::error_code no_link = std::make_error_code(std::errc::not_supported);
        if (entry.is_directory()) {
            fs::create_directories(target);
            continue;
        }
        if (is_shared(entry.path())) fs::create_hard_link(entry.path(), target, no_link);
        if (no_link) fs::copy_file(entry.path(), target);  // another disk
    }
}

}  // namespace rendak::test
