#pragma once

#include <filesystem>

namespace rendak::test {

// The demo data is simulated once a test run, by the fixtures of CTest (tests/CMakeLists.txt), into the build folder.
// Nobody writes there; the last fixture checks that. A program started by hand needs them once:
//   ctest -R '^demo'

/// Saturday's library: three runs, and what waits on the card and beside it.
[[nodiscard]] std::filesystem::path saturday_library();
/// Both days and the hill climb.
[[nodiscard]] std::filesystem::path weekend_library();
/// The folder of demo_world()'s recordings and motions.
[[nodiscard]] std::filesystem::path demo_worlds();

/// Makes `to` a library that may be edited. Its files of samples are links: one that is to be harmed must become a file
/// of its own first.
void copy_library(const std::filesystem::path& from, const std::filesystem::path& to);

}  // namespace rendak::test
