#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/intake/run_data.h"

namespace rendak {

/// A window of the car sheet, in SI: open on a side that the sheet says nothing of.
struct Window {
    std::optional<double> low, high;
    [[nodiscard]] bool known() const { return low || high; }
};
/// Of a channel of this run's car and set of tyres. Tyres by `tyre window low` and `high` (of a set of tyres alone:
/// `tyre window low C2`), their pressures by `tyre pressure low` and `high`, discs by `brake window low` and `high`,
/// oil and water by their `temperature low` and `high`.
[[nodiscard]] Window window_of(const RunData& run, const std::string& channel);

/// How much of the laps that count a reading lies in its window.
struct WindowShare {
    std::string channel;
    Window window;
    double below = 0, inside = 0, above = 0;
    std::size_t laps = 0;
};
struct Windows {
    std::vector<WindowShare> shares;
    std::string sheet;                 ///< that the windows are from; empty: there is none
    std::string stale;                 ///< why that sheet may be out of date; else empty
    std::vector<std::string> unknown;  ///< readings that are logged and have no window
};
[[nodiscard]] Result<Windows> windows_of(const std::shared_ptr<const RunData>& run, const JobContext& job = {});

/// A constant of the run's car sheet, in SI.
[[nodiscard]] std::optional<double> sheet_constant(const RunData& run, const std::string& name);

}  // namespace rendak
