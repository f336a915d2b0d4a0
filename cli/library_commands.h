#pragma once

#include <string>

namespace rendak::cli {

/// Each prints JSON on standard output and messages on standard error.
int back_up_library(const std::string& library, const std::string& folder);
/// Fastest laps by track, car and driver; empty texts take all of them.
int print_best_laps(const std::string& library, const std::string& track, const std::string& car,
                    const std::string& driver);
/// Holds results of the timing system against the laps of a run and keeps the official times with it.
int import_results(const std::string& library, const std::string& file, std::int64_t run, const std::string& car,
                   const std::string& driver);

}  // namespace rendak::cli
