#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/interval.h"

namespace rendak::app {

/// What a lane's height is fitted to.
enum class LaneScale {
    lap,    ///< the whole laps: zooming leaves it alone
    view,   ///< what is in view
    fixed,  ///< the quantity's own, the same for all runs and lanes, kept with the person
    hand,   ///< set on the axis of this lane
};

/// A horizontal band of the canvas that shows one quantity of all picked laps, or several.
struct Lane {
    std::string quantity;
    double weight = 1;                   ///< share of the canvas's height
    std::vector<std::string> more = {};  ///< what shares the lane, in other line patterns
    LaneScale scale = LaneScale::lap;
    std::optional<Interval> by_hand = {};  ///< of `quantity`, in SI units; for LaneScale::hand

    [[nodiscard]] std::vector<std::string> quantities() const {
        std::vector<std::string> out{quantity};
        out.insert(out.end(), more.begin(), more.end());
        return out;
    }
    [[nodiscard]] bool shows(const std::string& id) const {
        for (const std::string& other : more) {
            if (other == id) return true;
        }
        return quantity == id;
    }
    bool operator==(const Lane&) const = default;
};

/// Every quantity that lanes show, once.
[[nodiscard]] std::vector<std::string> quantities_of(const std::vector<Lane>& lanes);

// What hands do with lanes. A lane that loses its last channel is gone; the last lane of all stays.

/// Puts a channel into a lane of its own before lane `before` (behind the last: their count), out of where it was.
void move_channel(std::vector<Lane>& lanes, const std::string& quantity, std::size_t before);
/// Puts a channel into a lane that is there, out of where it was.
void join_channel(std::vector<Lane>& lanes, const std::string& quantity, std::size_t into);
/// Puts a whole lane before another.
void move_lane(std::vector<Lane>& lanes, std::size_t from, std::size_t before);
/// Puts all channels of a lane into another.
void join_lane(std::vector<Lane>& lanes, std::size_t from, std::size_t into);
/// Every channel of a lane in a lane of its own.
void split_lane(std::vector<Lane>& lanes, std::size_t at);
/// Takes a channel out; false when it is the last one.
bool remove_channel(std::vector<Lane>& lanes, const std::string& quantity);

}  // namespace rendak::app
