#pragma once

#include <cstdint>
#include <set>
#include <string>
#include <vector>

namespace rendak::cli {

/// What a car reached by speed: of a set of laps, or of all runs of a car by track, day and tyres.
int print_limit(const std::string& library, const std::vector<std::string>& runs, const std::string& car,
                const std::set<int>& put_back, bool mixed);
/// The lap that the car has already shown it can do, against the laps of a set; the limit is that of the `usual` ones.
int print_pace(const std::string& library, const std::vector<std::string>& runs, const std::vector<std::string>& usual,
               const std::set<int>& put_back, bool mixed);

}  // namespace rendak::cli
