#pragma once

#include <cstdint>
#include <functional>
#include <limits>
#include <optional>
#include <span>
#include <vector>

#include "core/recording/clock_fit.h"
#include "core/recording/mdf_values.h"

namespace rendak::mdf {

/// The times of a group's records, strictly rising.
struct Clock {
    std::vector<double> times_s;
    std::vector<std::size_t> kept;  ///< records whose time rises; empty: all
    std::optional<FittedClock> fitted;

    /// Samples of a channel on this clock: one a slot of a regular one, else one a time.
    [[nodiscard]] std::size_t samples() const { return fitted ? fitted->size : times_s.size(); }
};

/// What was seen of a column's values.
struct Seen {
    double low = std::numeric_limits<double>::infinity();
    double high = -std::numeric_limits<double>::infinity();  ///< below `low`: no value at all
    std::size_t infinite = 0;
};

/// A channel that is being read, and where its samples go: into one of the two.
struct Column {
    const MdfChannel* channel = nullptr;
    std::span<float> floats;
    std::span<double> doubles;
    Seen seen = {};
};

/// The times of a group's records by its master channel, times `factor`; as they are written.
[[nodiscard]] std::vector<double> read_times(const MdfChannel& master, const AllRecords& records, double factor);

/// Fills the columns from a group's records, converted, NaN where samples are missing, invalid or infinite. The records
/// are gone through once, in pieces that stay in the cache for all columns, on all cores: a pass over the file for each
/// of its channels is what costs.
void read_columns(std::span<Column> columns, const Group& group, const AllRecords& records, const Clock& clock,
                  const std::function<bool()>& stopped);

}  // namespace rendak::mdf
