#include "core/analysis/at_rest.h"

#include <cmath>

namespace rendak {

std::optional<Interval> standing_range(const Recording& recording, double least_s) {
    const Channel* speed = recording.find_logged("speed");
    if (speed == nullptr) speed = recording.find_logged("wheel_speed_rl");
    if (speed == nullptr) {
        const Interval all = recording.span_s();
        return all.length() >= least_s && all.length() < 120 ? std::optional(all) : std::nullopt;
    }
    constexpr double still_mps = 0.5;
    Interval best, now;
    bool standing = false;
    for (std::size_t i = 0; i <= speed->size(); ++i) {
        const bool still = i < speed->size() && speed->at(i) < still_mps;
        if (still && !standing) now.begin = speed->clock.time_at(i);
        if (still) now.end = speed->clock.time_at(i);
        if (!still && standing && now.length() > best.length()) best = now;
        standing = still;
    }
    return best.length() >= least_s ? std::optional(best) : std::nullopt;
}

std::vector<RestFigure> figures_at_rest(const Recording& recording, const std::vector<std::string>& channels,
                                        Interval range_s) {
    std::vector<RestFigure> out;
    for (const std::string& name : channels) {
        const Channel* channel = recording.find_name(name);
        if (channel == nullptr) continue;
        const std::size_t from = channel->clock.first_at_or_after(range_s.begin),
                          to = channel->clock.first_at_or_after(range_s.end);
        const Statistics all = statistics(*channel, from, to);
        if (all.count == 0) continue;
        double squares = 0;
        for (std::size_t i = from; i < to; ++i) {
            const double off = channel->at(i) - all.mean;
            if (std::isfinite(off)) squares += off * off;
        }
        const std::size_t third = (to - from) / 3;
        const double drift =
            third == 0 ? 0 : statistics(*channel, to - third, to).mean - statistics(*channel, from, from + third).mean;
        out.push_back({name, all.mean, std::sqrt(squares / static_cast<double>(all.count)),
                       std::isfinite(drift) ? drift : 0, all.count});
    }
    return out;
}

}  // namespace rendak
