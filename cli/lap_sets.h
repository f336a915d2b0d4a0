#pragma once

#include <string>
#include <vector>

#include "core/intake/lap_set.h"

namespace rendak::cli {

struct Sides {
    LapSet a, b;
    std::vector<LapSet> more;  ///< other ones to hold against A
};
/// All of one track, each as lap_wish() reads it. Of `more` every word is a set of its own.
[[nodiscard]] Result<Sides> sides_of(const std::string& library, const std::vector<std::string>& a,
                                     const std::vector<std::string>& b, bool mixed,
                                     const std::vector<std::string>& more = {});
/// One set of laps.
[[nodiscard]] Result<LapSet> set_of(const std::string& library, const std::vector<std::string>& words, bool mixed);

}  // namespace rendak::cli
