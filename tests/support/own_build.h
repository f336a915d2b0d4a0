#pragma once

#include <filesystem>
#include <string>

namespace rendak::test {

/// What was built with the test that runs, found beside it and not told by the compiler: tests that are compiled once
/// run in the optimised build and under the sanitizers.
[[nodiscard]] std::string own_cli();
[[nodiscard]] std::string own_window_edits();
/// Where the fixtures write the demo data that tests share: in the folder of the build, or in $RENDAK_TEST_DATA. On the
/// disk where temporary files lie, libraries are copied by links.
[[nodiscard]] std::filesystem::path own_test_data();
/// The folder tests/ of the sources: cases/ and fixtures/ lie in it.
[[nodiscard]] std::filesystem::path tests_folder();
/// Whether what is tested is watched by the address sanitizer.
[[nodiscard]] bool under_sanitizers();

}  // namespace rendak::test
