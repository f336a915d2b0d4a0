#include "core/intake/sign_check.h"

#include <cmath>

namespace rendak {
namespace {

/// Correlation of a channel with what the path says, over the moving part.
double correlation(const Channel& channel, const Path& path, const auto& expected) {
    double n = 0, sx = 0, sy = 0, sxx = 0, syy = 0, sxy = 0;
    const double last = path.time_s.back();
    for (double t = path.time_s.front() + 0.5; t < last - 0.5; t += 0.2) {
        const Point v = path.velocity_at(t);
        if (length(v) < 8) continue;
        const double x = channel.value_at(t);
        const double y = expected(t, v);
        if (!std::isfinite(x) || !std::isfinite(y)) continue;
        n += 1;
        sx += x;
        sy += y;
        sxx += x * x;
        syy += y * y;
        sxy += x * y;
    }
    const double spread = (n * sxx - sx * sx) * (n * syy - sy * sy);
    return n < 50 || !(spread > 0) ? 0 : (n * sxy - sx * sy) / std::sqrt(spread);
}

}  // namespace

std::vector<std::string> opposite_signs(const Recording& recording, const Path& path) {
    std::vector<std::string> out;
    if (path.size() < 100) return out;
    const auto acceleration = [&](double t) {
        return (path.velocity_at(t + 0.15) - path.velocity_at(t - 0.15)) * (1 / 0.3);
    };
    const auto lateral = [&](double t, Point v) { return cross(unit(v), acceleration(t)); };
    const auto along = [&](double t, Point v) { return dot(unit(v), acceleration(t)); };
    for (const char* quantity : {"lateral_acceleration", "yaw_rate", "steering", "longitudinal_acceleration"}) {
        const Channel* channel = recording.find(quantity);
        if (channel == nullptr) continue;
        const bool is_along = std::string_view(quantity) == "longitudinal_acceleration";
        const double r = is_along ? correlation(*channel, path, along) : correlation(*channel, path, lateral);
        if (r < -0.4) out.emplace_back(quantity);
    }
    return out;
}

}  // namespace rendak
