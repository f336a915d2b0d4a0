#pragma once

#include <string>
#include <vector>

namespace rendak::cli {

/// Two laps, or two sets of laps, on one page: as JSON, or painted into a file.
int print_overview(const std::string& library, const std::vector<std::string>& a, const std::vector<std::string>& b,
                   bool mixed, const std::string& file);

}  // namespace rendak::cli
