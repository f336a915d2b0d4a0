#include "core/video/drive_signals.h"

#include <cmath>

namespace rendak {
namespace {

/// Means over each step where there are samples in it, else what lies between its neighbours.
std::vector<float> even(const Channel& channel, double begin_s, std::size_t count) {
    std::vector<float> out(count);
    constexpr int parts = 4;
    for (std::size_t i = 0; i < count; ++i) {
        const double from = begin_s + DriveSignals::step_s * (static_cast<double>(i) - 0.5);
        double sum = 0;
        for (int k = 0; k < parts; ++k) sum += channel.value_at(from + DriveSignals::step_s * (k + 0.5) / parts);
        out[i] = static_cast<float>(sum / parts);
    }
    return out;
}

}  // namespace

DriveSignals drive_signals(const Recording& recording) {
    DriveSignals out;
    const Interval span = recording.span_s();
    out.begin_s = span.begin;
    const auto count = static_cast<std::size_t>(std::max(0.0, std::floor(span.length() / DriveSignals::step_s))) + 1;
    const Channel* speed = recording.find("speed");
    if (speed != nullptr) out.speed_mps = even(*speed, out.begin_s, count);
    if (const Channel* yaw = recording.find("yaw_rate")) {
        out.yaw_radps = even(*yaw, out.begin_s, count);
    } else if (const Channel* lateral = recording.find("lateral_acceleration");
               lateral != nullptr && speed != nullptr) {
        out.yaw_radps = even(*lateral, out.begin_s, count);
        for (std::size_t i = 0; i < count; ++i)
            out.yaw_radps[i] = out.speed_mps[i] > 5 ? out.yaw_radps[i] / out.speed_mps[i] : 0.0F;
    }
    if (const Channel* revs = recording.find("engine_speed")) {
        out.revs_hz = even(*revs, out.begin_s, count);
        constexpr float turn_rad = 6.2831853F;
        for (float& it : out.revs_hz) it /= turn_rad;
    }
    return out;
}

}  // namespace rendak
