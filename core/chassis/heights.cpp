#include "core/chassis/heights.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/analysis/lap_motion.h"
#include "core/analysis/set_difference.h"
#include "core/analysis/watch.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/stretches.h"

namespace rendak {
namespace {

constexpr double cell_m = 5, apart_m = 25, least_s = 0.01;
constexpr double leaning_mps2 = 5, leaning_m = 0.005, fast_share = 0.7, bend_mps2 = 1.0, short_s = 0.15, behind_m = 50;

struct CauseRow {
    LowCause cause;
    std::string_view name, remedy;
};
constexpr std::array causes{
    CauseRow{
        LowCause::air, "load from the air",
        "Possible: a stiffer third element or packers, which hold the car up at speed only; stiffer corner springs "
        "would cost grip everywhere. Or more ride height."},
    CauseRow{LowCause::crest, "compression of the road",
             "Possible: packers or a bump rubber that comes in earlier, more slow bump damping; or more ride height."},
    CauseRow{
        LowCause::corner, "one side in a corner",
        "Possible: a stiffer bar or corner spring on this axle, which moves the balance too; or more ride height."},
    CauseRow{
        LowCause::kerb, "kerb",
        "Possible: less fast bump damping lets the wheel give way; or a line off the kerb. Ride height for one kerb "
        "is dear."},
    CauseRow{LowCause::bump, "bump", "Possible: less fast bump damping; or a line around it."},
    CauseRow{LowCause::unknown, "cannot be told",
             "Speed, lateral acceleration or the second side is not logged here."}};

const CauseRow& row_of(LowCause cause) {
    return *std::find_if(causes.begin(), causes.end(), [&](const CauseRow& row) { return row.cause == cause; });
}

/// A channel that a height is read from; the side where it has one.
struct Source {
    std::string channel;
    std::optional<bool> left;
};

std::vector<Source> sources_of(const Recording& recording, bool front, bool dampers) {
    std::vector<Source> out;
    const std::string base = dampers ? "damper_" : "ride_height_";
    for (const bool left : {true, false}) {
        const std::string channel = base + wheel_corners[(front ? 0U : 2U) + (left ? 0 : 1)];
        if (recording.find(channel) != nullptr) out.push_back({channel, left});
    }
    const std::string axle = front ? "ride_height_front" : "ride_height_rear";
    if (!dampers && recording.find(axle) != nullptr) out.push_back({axle, std::nullopt});
    return out;
}

struct Below {
    std::size_t lap;
    double from_s, to_s, lowest_m, at_m;
    std::optional<bool> left;
};

double mean_over(const PreparedLap& lap, std::string_view channel, double from_s, double to_s) {
    const Channel* found = lap.recording->find(channel);
    if (found == nullptr) return std::nan("");
    double sum = 0, count = 0;
    for (int k = 0; k <= 10; ++k) {
        const double x = found->value_at(from_s + (to_s - from_s) * k / 10);
        if (!std::isfinite(x)) continue;
        sum += x;
        ++count;
    }
    return count > 0 ? sum / count : std::nan("");
}

std::string place_title(const Track& track, double at_m) {
    for (const Corner& corner : track.corners) {
        if (at_m >= corner.start_m && at_m <= corner.end_m) return corner.title();
        if (at_m < corner.start_m) return "before " + corner.title();
    }
    return track.corners.empty() ? "" : "behind " + track.corners.back().title();
}

/// What happens at a place, as the laps that were below there saw it.
struct Seen {
    std::vector<double> speed, lateral, time, crest;
};

LowCause cause_of(const LowPlace& place, const Seen& seen, double top_mps, std::span<const Stretch> kerbs) {
    const double middle = place.lowest_at_m;
    for (const Stretch& kerb : kerbs) {
        if (middle >= kerb.range_m.begin - cell_m && middle <= kerb.range_m.end + cell_m) return LowCause::kerb;
    }
    if (!std::isfinite(place.speed_mps)) return LowCause::unknown;
    // Sides that come down together are pressed down; one that is far below the other leans.
    if (place.left_m && place.right_m) {
        if (std::abs(*place.left_m - *place.right_m) > leaning_m) return LowCause::corner;
    } else if (!std::isfinite(place.lateral_mps2)) {
        return LowCause::unknown;
    } else if (std::abs(place.lateral_mps2) > leaning_mps2) {
        return LowCause::corner;
    }
    const double crest = seen.crest.empty() ? 0 : middle_value(seen.crest);
    if (crest > bend_mps2) return LowCause::crest;
    if (place.speed_mps > fast_share * top_mps) return LowCause::air;
    if (place.time_s < short_s) return LowCause::bump;
    return LowCause::unknown;
}

}  // namespace

std::string_view low_cause_name(LowCause cause) {
    return row_of(cause).name;
}

std::string_view low_remedy(LowCause cause) {
    return row_of(cause).remedy;
}

Result<Heights> heights_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet, const JobContext& job) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    const Track& track = *laps.front().track;
    Heights out;
    out.laps = laps.size();
    const std::vector<Stretch> kerbs = stretches_of(StretchKind::kerbs, laps);
    std::vector<LapMotion> motions;
    for (const PreparedLap& lap : laps) motions.push_back(motion_of(lap));
    double top = 0;
    for (const PreparedLap& lap : laps)
        if (const double v = figures_in_range(lap, "speed", {0, lap.map.length_m()}).high; v > top) top = v;
    for (const bool front : {true, false}) {
        const char* axle_name = front ? "front" : "rear";
        Heights::Axle axle;
        axle.front = front;
        const auto& least = front ? sheet.least_front_m : sheet.least_rear_m;
        axle.limit_m = least.value_or(touching_m);
        axle.limit_from_sheet = least.has_value();
        std::vector<Source> sources = sources_of(*laps.front().recording, front, false);
        const auto& still = front ? sheet.height_front_m : sheet.height_rear_m;
        if (sources.empty() && still) {
            sources = sources_of(*laps.front().recording, front, true);
            axle.from_dampers = !sources.empty();
        }
        if (sources.empty()) {
            out.untold.push_back(std::string("The height of the ") + axle_name +
                                 " is not known: it is not logged, and for damper travel the setup sheet has to say "
                                 "\"Ride height " +
                                 axle_name + "\".");
            continue;
        }
        std::vector<Below> below;
        axle.lowest_m = std::numeric_limits<double>::infinity();
        const auto cells = static_cast<std::size_t>(track.length_m / cell_m) + 1;
        std::vector<char> touched(cells, 0);
        for (std::size_t k = 0; k < laps.size(); ++k) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            const PreparedLap& lap = laps[k];
            for (const Source& source : sources) {
                SampledStretch height = sampled(*lap.recording, source.channel, {lap.map.start_s(), lap.map.end_s()});
                if (axle.from_dampers)
                    for (float& x : height.values)
                        x = static_cast<float>(*still - sheet.motion_ratio(front) * static_cast<double>(x));
                const auto time_at = [&](std::size_t i) {
                    return height.start_s + static_cast<double>(i) / height.rate_hz;
                };
                const std::size_t n = height.values.size();
                for (std::size_t i = 0; i < n; ++i) {
                    const auto h = static_cast<double>(height.values[i]);
                    if (h < axle.lowest_m) {
                        axle.lowest_m = h;
                        axle.lowest_at_m = lap.map.distance_at(time_at(i));
                    }
                    if (!(h < axle.limit_m)) continue;
                    std::size_t end = i, low = i;
                    while (end < n && static_cast<double>(height.values[end]) < axle.limit_m) {
                        if (height.values[end] < height.values[low]) low = end;
                        ++end;
                    }
                    const double from = time_at(i), to = time_at(end);
                    if (to - from >= least_s) {
                        below.push_back({k, from, to, static_cast<double>(height.values[low]),
                                         lap.map.distance_at(time_at(low)), source.left});
                        const auto first = static_cast<std::size_t>(lap.map.distance_at(from) / cell_m);
                        const auto last = static_cast<std::size_t>(lap.map.distance_at(to) / cell_m);
                        for (std::size_t c = first; c <= std::min(last, cells - 1); ++c) touched[c] = 1;
                    }
                    i = end;
                }
            }
        }
        for (const Source& source : sources) axle.channels.push_back(source.channel);
        // Stretches of cells, joined over short gaps, are the places.
        const auto gap = static_cast<std::size_t>(apart_m / cell_m);
        for (std::size_t c = 0; c < cells; ++c) {
            if (touched[c] == 0) continue;
            std::size_t last = c;
            for (std::size_t next = c; next < cells && next <= last + gap; ++next)
                if (touched[next] != 0) last = next;
            LowPlace place;
            place.front = front;
            place.range_m = {static_cast<double>(c) * cell_m,
                             std::min(static_cast<double>(last + 1) * cell_m, track.length_m)};
            place.of = laps.size();
            Seen seen;
            std::vector<double> lowest(laps.size(), std::numeric_limits<double>::infinity()), time(laps.size(), 0), at;
            std::vector<std::vector<Interval>> spans(laps.size());
            for (const Below& one : below) {
                if (one.at_m < place.range_m.begin || one.at_m > place.range_m.end) continue;
                spans[one.lap].push_back({one.from_s, one.to_s});
                if (one.lowest_m < lowest[one.lap]) lowest[one.lap] = one.lowest_m;
            }
            double times = 0;
            for (std::size_t k = 0; k < laps.size(); ++k) {
                if (spans[k].empty()) continue;
                const PreparedLap& lap = laps[k];
                // Sides that are below at once are once.
                std::sort(spans[k].begin(), spans[k].end(),
                          [](const Interval& a, const Interval& b) { return a.begin < b.begin; });
                double end = -1;
                for (const Interval& span : spans[k]) {
                    if (span.begin > end + 0.1) ++times;
                    time[k] += std::max(0.0, span.end - std::max(span.begin, end));
                    end = std::max(end, span.end);
                }
                ++place.on;
                double low_at = place.range_m.begin, low = std::numeric_limits<double>::infinity();
                for (const Below& one : below) {
                    if (one.lap == k && one.at_m >= place.range_m.begin && one.at_m <= place.range_m.end &&
                        one.lowest_m < low) {
                        low = one.lowest_m;
                        low_at = one.at_m;
                    }
                }
                at.push_back(low_at);
                const double t = lap.map.time_at(low_at);
                seen.speed.push_back(mean_over(lap, "speed", t - 0.1, t + 0.1));
                seen.lateral.push_back(mean_over(lap, "lateral_acceleration", t - 0.15, t + 0.15));
                seen.time.push_back(time[k]);
                const std::size_t cell = motions[k].cell(low_at);
                const double v = motions[k].speed_mps[cell];
                seen.crest.push_back(v * v * motions[k].crest[cell]);
                place.lowest_m += lowest[k];
                place.time_s += time[k];
            }
            const auto on = static_cast<double>(place.on);
            if (place.on == 0) {
                c = last;
                continue;
            }
            place.lowest_m /= on;
            place.time_s /= on;
            place.depth_m = axle.limit_m - place.lowest_m;
            place.times = times / static_cast<double>(laps.size());
            place.lowest_at_m = middle_value(at);
            place.speed_mps = mean_value(seen.speed);
            place.lateral_mps2 = mean_value(seen.lateral);
            place.title = place_title(track, place.lowest_at_m);
            for (const Source& source : sources) {
                if (!source.left) continue;
                std::vector<double> lows;
                for (std::size_t k = 0; k < laps.size(); ++k) {
                    if (spans[k].empty()) continue;
                    SampledStretch height =
                        sampled(*laps[k].recording, source.channel,
                                {laps[k].map.time_at(place.range_m.begin), laps[k].map.time_at(place.range_m.end)});
                    float low = std::numeric_limits<float>::infinity();
                    for (const float x : height.values) {
                        const float h =
                            axle.from_dampers
                                ? static_cast<float>(*still - sheet.motion_ratio(front) * static_cast<double>(x))
                                : x;
                        low = std::min(low, h);
                    }
                    if (std::isfinite(low)) lows.push_back(static_cast<double>(low));
                }
                if (!lows.empty()) (*source.left ? place.left_m : place.right_m) = mean_value(lows);
            }
            std::vector<double> touched_gain, free_gain;
            for (std::size_t k = 0; k < laps.size(); ++k) {
                const double before = place.range_m.begin - behind_m, behind = place.range_m.end + behind_m;
                if (before < 0 || behind > laps[k].map.length_m()) continue;
                const double gain = laps[k].value_at("speed", behind) - laps[k].value_at("speed", before);
                if (std::isfinite(gain)) (spans[k].empty() ? free_gain : touched_gain).push_back(gain);
            }
            if (touched_gain.size() + free_gain.size() > 2 && !touched_gain.empty() && !free_gain.empty()) {
                place.speed_cost_mps = mean_value(touched_gain) - mean_value(free_gain);
                place.speed_cost_likely = likely_difference(free_gain, touched_gain);
            }
            place.cause = cause_of(place, seen, top, kerbs);
            axle.times += place.times;
            out.places.push_back(std::move(place));
            c = last;
        }
        out.axles.push_back(std::move(axle));
    }
    if (out.axles.empty()) {
        std::string all;
        for (const std::string& one : out.untold) all += (all.empty() ? "" : " ") + one;
        return fail(ErrorCode::not_found, all);
    }
    return out;
}

}  // namespace rendak
