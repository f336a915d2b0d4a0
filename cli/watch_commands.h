#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/analysis/watch.h"

namespace rendak::cli {

/// The rules in force as JSON, which print_watched() reads; without a library the shipped ones.
int print_watch_rules(const std::string& library);
/// Keeps a rule in the library, and checks it on all runs where that is wished.
int add_watch_rule(const std::string& library, const WatchRule& rule, bool check);
int drop_watch_rule(const std::string& library, const std::string& name);
/// What became of a rule over the runs of a car.
int print_watch_trend(const std::string& library, const std::string& rule, const std::string& car);
/// What rules say of runs, or of all runs; those of the library, or those of a file.
int print_watched(const std::string& library, const std::vector<std::int64_t>& runs, bool all,
                  const std::string& rules_file);

}  // namespace rendak::cli
