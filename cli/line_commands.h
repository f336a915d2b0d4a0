#pragma once

#include <string>
#include <vector>

namespace rendak::cli {

/// How the road is used, corner by corner, against its edges and against other laps.
int print_line(const std::string& library, const std::vector<std::string>& runs,
               const std::vector<std::string>& against, bool quickest, bool mixed);

}  // namespace rendak::cli
