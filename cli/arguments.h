#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "core/base/ids.h"
#include "core/intake/import.h"

namespace rendak::cli {

[[nodiscard]] std::optional<double> number(std::string_view text);
/// "RUN:LAP".
[[nodiscard]] std::optional<LapRef> lap_ref(const std::string& text);
/// "LAT,LON,HEADING_DEG".
[[nodiscard]] std::optional<StartPlace> start_place(const std::string& text);

}  // namespace rendak::cli
