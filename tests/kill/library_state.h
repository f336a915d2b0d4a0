#pragma once

#include <filesystem>
#include <set>
#include <string>

namespace rendak::test {

/// Everything in a library and its folder as blocks of text, one a run, track, sheet, set, setting and file, without
/// numbers that only tell the order: two libraries that say the same have the same blocks. Opening it is the next start
/// after a kill. Throws when anything cannot be read.
[[nodiscard]] std::set<std::string> blocks_of_library(const std::filesystem::path& library);
/// The files below a folder with their contents' digests; "" when it does not exist.
[[nodiscard]] std::set<std::string> blocks_of_folder(const std::filesystem::path& folder);

}  // namespace rendak::test
