#pragma once

#include <array>
#include <vector>

#include "core/recording/table_rows.h"

namespace rendak {

/// A scale that a column of times may have.
struct Scale {
    double factor;
    const char* unit;
    const char* label;
};
inline constexpr std::array<Scale, 12> scales{{{1, "s", "seconds"},
                                               {1e-3, "ms", "milliseconds"},
                                               {1e-6, "µs", "microseconds"},
                                               {1e-9, "ns", "nanoseconds"},
                                               {1e-2, "cs", "hundredths of a second"},
                                               {1e-1, "ds", "tenths of a second"},
                                               {60, "min", "minutes"},
                                               {3600, "h", "hours"},
                                               {86'400, "d", "days"},
                                               {1e-4, "0.1 ms", "tenths of a millisecond"},
                                               {1e-5, "10 µs", "hundredths of a millisecond"},
                                               {1e-7, "0.1 µs", "tenths of a microsecond"}}};

/// The positions and the speed of a table, as far as they are understood before its times are.
struct Vehicle {
    std::vector<double> latitude, longitude, speed;
    TableRows::Stretch rows = {};  ///< of the table
    bool speed_unit_known = false;
    std::vector<double> units_per_mps = {};  ///< candidates of the speed's unit
};
[[nodiscard]] Vehicle vehicle_of(TableRows& rows);

/// Scales of the times that agree with how the car moves; all possible ones when nothing can be told.
struct Told {
    std::vector<Scale> scales;
    bool by_motion = false;
    bool measured = false;  ///< by the distance against the speed, not by what cars usually do
};
[[nodiscard]] Told told_scales(const std::vector<double>& times, const Vehicle& car);

/// The median of the steps that rise; NaN without any.
[[nodiscard]] double median_step(const std::vector<double>& times);

}  // namespace rendak
