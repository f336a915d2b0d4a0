#include "app/plot/lane.h"

#include <algorithm>
#include <utility>

#include "app/focus/comparison.h"

namespace rendak::app {
namespace {

/// Where a channel is; the count of lanes when it is nowhere.
std::size_t place_of(const std::vector<Lane>& lanes, const std::string& quantity) {
    return static_cast<std::size_t>(
        std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(quantity); }) -
        lanes.begin());
}

/// Takes a channel out of a lane of several; false when it is the lane's only one.
bool take_out(Lane& lane, const std::string& quantity) {
    if (lane.more.empty()) return false;
    if (lane.quantity == quantity) {
        lane.quantity = lane.more.front();
        lane.more.erase(lane.more.begin());
        // What was set by hand was set for the other channel.
        lane.by_hand.reset();
        if (lane.scale == LaneScale::hand) lane.scale = LaneScale::lap;
    } else {
        std::erase(lane.more, quantity);
    }
    return true;
}

std::vector<Lane>::iterator at(std::vector<Lane>& lanes, std::size_t place) {
    return lanes.begin() + static_cast<std::ptrdiff_t>(std::min(place, lanes.size()));
}

}  // namespace

std::vector<std::string> quantities_of(const std::vector<Lane>& lanes) {
    std::vector<std::string> out;
    for (const Lane& lane : lanes) {
        for (const std::string& id : lane.quantities()) {
            if (std::find(out.begin(), out.end(), id) == out.end()) out.push_back(id);
        }
    }
    return out;
}

void move_channel(std::vector<Lane>& lanes, const std::string& quantity, std::size_t before) {
    const std::size_t from = place_of(lanes, quantity);
    if (from == lanes.size()) {
        lanes.insert(at(lanes, before), {quantity, 0.9});
    } else if (lanes[from].more.empty()) {
        move_lane(lanes, from, before);
    } else {
        take_out(lanes[from], quantity);
        lanes.insert(at(lanes, before), {quantity, 0.9});
    }
}

void join_channel(std::vector<Lane>& lanes, const std::string& quantity, std::size_t into) {
    const std::size_t from = place_of(lanes, quantity);
    // What lies between laps has a zero line and a band of its own.
    if (into >= lanes.size() || from == into || is_between_laps(quantity) || is_between_laps(lanes[into].quantity))
        return;
    lanes[into].more.push_back(quantity);
    if (from == lanes.size()) return;
    if (!take_out(lanes[from], quantity)) lanes.erase(at(lanes, from));
}

void move_lane(std::vector<Lane>& lanes, std::size_t from, std::size_t before) {
    if (from >= lanes.size()) return;
    Lane lane = std::move(lanes[from]);
    lanes.erase(at(lanes, from));
    lanes.insert(at(lanes, before > from ? before - 1 : before), std::move(lane));
}

void join_lane(std::vector<Lane>& lanes, std::size_t from, std::size_t into) {
    if (from >= lanes.size() || into >= lanes.size() || from == into) return;
    if (is_between_laps(lanes[from].quantity) || is_between_laps(lanes[into].quantity)) return;
    for (const std::string& id : lanes[from].quantities()) lanes[into].more.push_back(id);
    lanes.erase(at(lanes, from));
}

void split_lane(std::vector<Lane>& lanes, std::size_t place) {
    if (place >= lanes.size()) return;
    const std::vector<std::string> others = std::exchange(lanes[place].more, {});
    for (std::size_t i = 0; i < others.size(); ++i) lanes.insert(at(lanes, place + 1 + i), {others[i], 0.9});
}

bool remove_channel(std::vector<Lane>& lanes, const std::string& quantity) {
    const std::size_t from = place_of(lanes, quantity);
    if (from == lanes.size()) return true;
    if (take_out(lanes[from], quantity)) return true;
    if (lanes.size() == 1) return false;
    lanes.erase(at(lanes, from));
    return true;
}

}  // namespace rendak::app
