#include "tests/support/own_build.h"

#include <cstdlib>

#include "core/base/own_program.h"

// There where the sanitizer is linked in, whoever compiled this file.
extern "C" __attribute__((weak)) void __asan_init();

namespace rendak::test {

std::string own_cli() {
    return own_program("rendak-cli").string();
}
std::string own_window_edits() {
    return own_program("window_edits").string();
}
std::filesystem::path own_test_data() {
    if (const char* elsewhere = std::getenv("RENDAK_TEST_DATA")) return elsewhere;
    return std::filesystem::path(own_cli()).parent_path().parent_path() / "test-data";
}
std::filesystem::path tests_folder() {
    return RENDAK_TESTS_FOLDER;
}
bool under_sanitizers() {
    return __asan_init != nullptr;
}

}  // namespace rendak::test
