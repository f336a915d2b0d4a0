#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace rendak::cli {

/// The shipped rules as JSON, which print_watched() reads.
int print_watch_rules();
/// What rules say of runs, or of all runs; the shipped ones, or those of a file.
int print_watched(const std::string& library, const std::vector<std::int64_t>& runs, bool all,
                  const std::string& rules_file);

}  // namespace rendak::cli
