#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/library/library.h"

namespace rendak {

/// A trial that was kept, with what was decided.
struct KeptTrial {
    std::int64_t id = 0;
    std::string name;               ///< "Packers front 0 to 6 mm"
    std::vector<std::string> a, b;  ///< laps as lap_wish() reads them
    std::string aim;                ///< as trial_aim() reads it
    std::string event, car;
    std::string says;  ///< what the figures said when it was kept
    double net_s = 0;
    std::string verdict;  ///< "keep", "take back", "try again", or other words
    std::string decided_by;
    std::string words;  ///< of driver and engineer
    double made_unix_s = 0;
    bool operator==(const KeptTrial&) const = default;
};
/// In the order kept.
/// As one line of JSON, as it is kept and as the command line prints it.
[[nodiscard]] std::string trial_text(const KeptTrial& trial);
[[nodiscard]] Result<std::vector<KeptTrial>> kept_trials(const Library& library);
/// Adds one (its id is given), or writes one of that id anew. The id.
[[nodiscard]] Result<std::int64_t> keep_trial(Library& library, KeptTrial trial);
/// All of them at once.
[[nodiscard]] Result<void> set_kept_trials(Library& library, const std::vector<KeptTrial>& trials);
[[nodiscard]] Result<void> drop_trial(Library& library, std::int64_t id);
[[nodiscard]] Result<KeptTrial> kept_trial(const Library& library, std::int64_t id);

}  // namespace rendak
