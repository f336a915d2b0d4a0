#pragma once

#include <optional>
#include <string_view>

namespace rendak {

/// A latitude or longitude as a cell writes it.
struct PlaceCell {
    double value = 0;      ///< with its sign; degrees when `degrees`, else a number still to be understood
    bool degrees = false;  ///< degrees, minutes and seconds were told apart
    char hemisphere = 0;   ///< 'N', 'S', 'E', 'W' or 0
};

/// "N 51.2345", "51.2345N", "5114.07000N", "51°14'04.2\"N", "51 14.07 N"; nullopt for anything else, also for a bare
/// number.
[[nodiscard]] std::optional<PlaceCell> place_cell(std::string_view cell, char decimal_sign);

/// Latitude and longitude in one cell, in this order: "51.2345, 3.4625", "N51.2345 E3.4625".
struct PlacePair {
    PlaceCell latitude, longitude;
};
[[nodiscard]] std::optional<PlacePair> place_pair(std::string_view cell, char decimal_sign);

/// +1 for a cell that says "N" or "E" and nothing else, -1 for "S" or "W"; 0 for anything else.
[[nodiscard]] int hemisphere_cell(std::string_view cell);

}  // namespace rendak
