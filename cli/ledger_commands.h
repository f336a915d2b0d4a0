#pragma once

#include <string>
#include <vector>

namespace rendak::cli {

/// Where the difference of two sets of laps lies; each side as lap_wish() reads it.
int print_ledger(const std::string& library, const std::vector<std::string>& a, const std::vector<std::string>& b,
                 bool mixed);
/// What a km/h more is worth at each corner of a set.
int print_worth(const std::string& library, const std::vector<std::string>& runs, bool mixed);

}  // namespace rendak::cli
