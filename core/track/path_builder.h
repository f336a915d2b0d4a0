#pragma once

#include <optional>
#include <vector>

#include "core/track/path.h"
#include "core/track/smoother.h"

namespace rendak {

/// Makes a path of smoothed fixes, one after the other: tells drop-outs, fills slow receivers in, and takes no more
/// points of quick ones than a path needs.
class PathBuilder {
  public:
    PathBuilder(Path& path, Keep keep) : path_(path), keep_(keep) {}
    void add(const SmoothedFix& fix);
    void finish();

  private:
    struct Place {
        double time_s = 0;
        Point position, velocity;
        double distance_m = 0;
        double variance = 0;
        char bridged = 0;
    };
    void settle(const SmoothedFix& fix, char bridged);
    void push(Place place);
    void write(const Place& place);

    Path& path_;
    Keep keep_;
    std::vector<SmoothedFix> waiting_;  ///< since the last fix that was taken in: a drop-out, or only a missing one
    double last_update_s_ = 0;
    std::optional<SmoothedFix> before_;
    char before_bridged_ = 0;
    std::optional<Place> last_;  ///< not written yet: it is known only later whether it is needed
    std::optional<double> written_s_;
    char written_bridged_ = 0;
};

}  // namespace rendak
