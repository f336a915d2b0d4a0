#pragma once

#include <map>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace rendak {

/// What a channel measures, whatever its logger calls it. One row of the table of known quantities.
struct Quantity {
    std::string_view id;          ///< "speed", "brake_front" …; stored in recordings
    std::string_view label;       ///< what the interface calls it
    std::string_view unit;        ///< unit of stored samples: SI (degrees for latitude and longitude)
    std::string_view shown_unit;  ///< people's unit, metric
    std::string_view shown_unit_imperial;
    int decimals;                    ///< of the shown value
    std::string_view positive_word;  ///< what up means: "left", "braking"; empty where it is plain
    bool is_state;                   ///< steps from value to value (gear): never interpolated
    std::string_view aliases;        ///< folded names of loggers, separated by blanks
};

/// All known quantities, in the order in which lists show them.
[[nodiscard]] std::span<const Quantity> all_quantities();

/// What a quantity belongs to, as lists are grouped: "Driver", "Car", "Wheels and tyres" …
[[nodiscard]] std::string_view group_of(const Quantity& quantity);

/// What says nearly the same where a quantity is not logged, best first: other quantities, or names of formulas.
[[nodiscard]] std::vector<std::string_view> stand_ins(std::string_view quantity);

/// The quantity with this id, or nullptr.
[[nodiscard]] const Quantity* find_quantity(std::string_view id);

/// The quantity a logger's channel name stands for, or nullptr: "Brake Pres Front" -> brake_front.
[[nodiscard]] const Quantity* match_quantity(std::string_view channel_name);

/// The user's own names for channels: folded name ("pbrkva") -> id of a known quantity. They win over the table.
using Aliases = std::map<std::string, std::string>;
[[nodiscard]] const Quantity* match_quantity(std::string_view channel_name, const Aliases& aliases);

}  // namespace rendak
