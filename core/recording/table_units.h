#pragma once

#include <limits>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/recording/assumed_units.h"
#include "core/recording/table_rows.h"

namespace rendak {

/// Smallest and largest value of a column, and in how many rows there is one.
struct Extent {
    double low = std::numeric_limits<double>::infinity(), high = -std::numeric_limits<double>::infinity();
    std::size_t filled = 0;
};
[[nodiscard]] Extent extent_of(const BodyColumn& column, std::size_t rows);

/// "5.743" may be five or five thousand: what the quantity can be tells, else it is asked.
void settle_thousands(TableRows& rows, BodyColumn& column);

/// In which unit each column of a table counts: as it says, where that can be; by the positions, the acceleration, the
/// size of the values. What is assumed is said in the table's notes, what cannot be told is among its questions.
class TableUnits {
  public:
    /// Looks at the whole table: make it before any column is turned into a channel.
    TableUnits(TableRows& rows, const std::vector<double>& times_s);

    /// nullopt: it was asked for.
    [[nodiscard]] std::optional<std::string> unit_of(const BodyColumn& column, const Extent& extent);

  private:
    void find_hints();
    void find_speed_unit();
    void ask(const BodyColumn& column, std::string text, const std::vector<std::string>& units,
             std::string_view quantity);
    [[nodiscard]] std::optional<std::string> named_unit(const BodyColumn& column, const Extent& extent);
    [[nodiscard]] std::optional<std::string> guessed_unit(const BodyColumn& column, const Extent& extent);
    struct SpeedAgainstPositions {
        std::string unit = {};  ///< in which it agrees, where that is not the one it names
        bool far_off = false;   ///< it is half or double of what the positions say, and more
    };
    [[nodiscard]] SpeedAgainstPositions speed_against_positions(const BodyColumn& column) const;
    [[nodiscard]] bool contradicted(const BodyColumn& column, const Extent& extent);
    [[nodiscard]] double usual_size(const BodyColumn& column) const;
    [[nodiscard]] bool in_radians(const BodyColumn& column, const Extent& extent) const;
    [[nodiscard]] std::string running_unit(const BodyColumn& column) const;

    TableRows& rows_;
    const std::vector<double>& times_s_;
    TableRows::Stretch seen_;  ///< the rows by which the motion is judged; times and places are of these
    std::span<const double> seen_times_;
    std::vector<double> latitude_, longitude_;  ///< in degrees; empty where there are none
    UnitHints hints_;
    std::string speed_unit_, speed_reason_;
};

}  // namespace rendak
