#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/analysis/where.h"
#include "core/intake/import.h"

namespace rendak::cli {

using Json = nlohmann::ordered_json;

/// What cannot be told is null.
[[nodiscard]] Json or_null(double value);
[[nodiscard]] Json or_null(const std::optional<double>& value);

/// The two ends of what is likely.
[[nodiscard]] Json low_or_null(const std::optional<Interval>& likely);
[[nodiscard]] Json high_or_null(const std::optional<Interval>& likely);

/// What the command line prints: names with units, SI values, degrees for positions.
[[nodiscard]] Json to_json(const RunRow& run, const std::vector<Lap>& laps);
[[nodiscard]] Json to_json(const Lap& lap);
[[nodiscard]] Json to_json(const Channel& channel);
[[nodiscard]] Json to_json(const TrackRow& row, const Track& track);
[[nodiscard]] Json to_json(const ImportResult& result, const std::string& file);
/// What an import asks, with the answers as --take wants them.
[[nodiscard]] Json questions_to_json(const Error& error, const std::string& file);
[[nodiscard]] Json to_json(const ZoneDifference& difference);

}  // namespace rendak::cli
