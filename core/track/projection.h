#pragma once

#include <cstddef>

#include "core/track/track.h"

namespace rendak {

/// A point beside a track's line.
struct Projected {
    double distance_m = 0;  ///< along the line, 0 … length
    double left_m = 0;      ///< to the left of the line
};

/// Projects points on a track's line. The direction turns evenly along each step of the line, so that a car
/// beside a bend neither jumps nor stands still on the distance axis. Points should come in the order driven:
/// the search starts at the last hit and keeps to that part of the track. Before an open track's start and behind its
/// end the distance stays at 0 and at the length.
class Projector {
  public:
    explicit Projector(const Track& track) : track_(track) {}
    [[nodiscard]] Projected project(Point place);
    /// Forgets the last hit; the next point is searched on the whole line. `direction` of travel tells apart
    /// parts of the track that lie side by side.
    void restart(Point place, Point direction);
    /// The same where the place is known roughly: searches 80 m to either side. Where the road passes itself close by,
    /// this does not mistake one part for the other.
    void start_near(double distance_m, Point place);

  private:
    /// Metres that `place` lies ahead of point `i` of the line, measured along its direction.
    [[nodiscard]] double ahead(std::size_t i, Point place) const {
        return dot(place - track_.line[i], track_.tangent[i]);
    }
    const Track& track_;
    std::size_t segment_ = 0;
};

}  // namespace rendak
