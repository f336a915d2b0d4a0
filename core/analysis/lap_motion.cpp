#include "core/analysis/lap_motion.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/lap_profile.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

double mean_around(const Channel* channel, double t_s) {
    if (channel == nullptr) return std::nan("");
    double sum = 0;
    for (const double by : {-0.1, -0.06, -0.02, 0.02, 0.06, 0.1}) sum += channel->value_at(t_s + by);
    return sum / 6;
}

}  // namespace

std::size_t LapMotion::cell(double distance_m) const {
    const double place = std::clamp(distance_m / step_m, 0.0, static_cast<double>(size() - 1));
    return static_cast<std::size_t>(place);
}

LapMotion motion_of(const PreparedLap& lap) {
    constexpr double half_s = 0.2, crest_m = 40;
    const LapProfile profile = profile_of(lap);
    const Channel* lateral = lap.recording->find("lateral_acceleration");
    const Channel* speed = lap.recording->find("speed");
    const Track& track = *lap.track;
    const auto height = [&](double s) {
        const double place = track.open ? std::clamp(s, 0.0, track.length_m) : track.wrapped(s);
        return track.value_at(track.height.value, place);
    };
    const auto known = [](double value) { return std::isfinite(value) ? value : 0; };
    LapMotion out;
    out.length_m = profile.length_m;
    const std::size_t count = profile.speed_mps.size() - 1;
    for (std::size_t i = 0; i < count; ++i) {
        const double s = static_cast<double>(i) * LapMotion::step_m, t = lap.map.time_at(s);
        out.speed_mps.push_back(profile.speed_mps[i]);
        out.step_s.push_back(profile.elapsed_s[i + 1] - profile.elapsed_s[i]);
        out.lateral_mps2.push_back(mean_around(lateral, t));
        double gained = std::nan("");
        if (speed != nullptr) gained = (speed->value_at(t + half_s) - speed->value_at(t - half_s)) / (2 * half_s);
        if (!std::isfinite(gained)) {
            const std::size_t before = i > 5 ? i - 5 : 0, after = std::min(i + 5, count - 1);
            const double between = profile.elapsed_s[after] - profile.elapsed_s[before];
            gained = between > 0 ? (profile.speed_mps[after] - profile.speed_mps[before]) / between : std::nan("");
        }
        double grade = 0, lean = 0, crest = 0;
        if (!track.height.value.empty()) {
            grade = known((height(s + 5) - height(s - 5)) / 10);
            crest = known((height(s + crest_m) - 2 * height(s) + height(s - crest_m)) / (crest_m * crest_m));
        }
        // The right side high carries a part of a turn to the left.
        if (!track.banking.value.empty())
            lean = -standard_gravity_mps2 * std::sin(known(track.value_at(track.banking.value, s)));
        out.along_mps2.push_back(gained + standard_gravity_mps2 * grade);
        out.grade.push_back(grade);
        out.lean_mps2.push_back(lean);
        out.crest.push_back(crest);
    }
    return out;
}

}  // namespace rendak
