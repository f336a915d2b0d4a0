#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace rendak::cli {

/// What happens to pace and tyres over the laps of runs.
int print_stints(const std::string& library, const std::vector<std::int64_t>& runs, std::optional<double> s_per_litre);
/// The runs of an event in order: figures, what improved, what is next.
int print_day(const std::string& library, const std::string& event);
/// How much of a run tyres, discs, oil and water lie in their windows.
int print_windows(const std::string& library, std::int64_t run);

}  // namespace rendak::cli
