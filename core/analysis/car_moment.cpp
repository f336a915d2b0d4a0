#include "core/analysis/car_moment.h"

#include <cmath>

namespace rendak {

CarMoments::CarMoments(const PreparedLap& lap)
    : lap_(lap),
      activity_(lap.activity()),
      most_revs_(figures_in_time(lap, "engine_speed", {lap.map.start_s(), lap.map.end_s()}).high) {}

CarMoment CarMoments::at(double run_s) const {
    const auto value = [&](const char* quantity) {
        const Channel* channel = lap_.recording->find_logged(quantity);
        return channel == nullptr ? std::nan("") : channel->value_at(run_s);
    };
    CarMoment out;
    out.throttle = activity_.throttle(run_s);
    out.brake = activity_.brake(run_s);
    out.steering_rad = value("steering");
    out.gear = value("gear");
    out.revs = value("engine_speed");
    out.revs_share = out.revs / most_revs_;
    out.speed_mps = value("speed");
    out.lateral_mps2 = value("lateral_acceleration");
    out.along_mps2 = value("longitudinal_acceleration");
    return out;
}

}  // namespace rendak
