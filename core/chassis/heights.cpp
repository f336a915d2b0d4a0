#include "core/chassis/heights.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/analysis/lap_motion.h"
#include "core/analysis/set_difference.h"
#include "core/analysis/watch.h"
#include "core/base/median.h"
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
        if (at_m >= corner.start_m && at_m <= corner.end_m) return "in " + corner.title();
        if (at_m < corner.start_m) return "before " + corner.title();
    }
    return track.corners.empty() ? "" : "behind " + track.corners.back().title();
}

/// What happens at a place, as the laps that were below there saw it.
struct Seen {
    std::vector<double> speed, lateral;
    std::vector<double> bend;  ///< of the road upwards at that speed, m/s²
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
    const double bend = seen.bend.empty() ? 0 : median_of(seen.bend);
    if (bend > bend_mps2) return LowCause::crest;
    if (place.speed_mps > fast_share * top_mps) return LowCause::air;
    if (place.time_s < short_s) return LowCause::bump;
    return LowCause::unknown;
}

/// One axle over all laps: when it is below its limit, gathered into places.
class AxleLook {
  public:
    AxleLook(std::span<const PreparedLap> laps, std::span<const LapMotion> motions, Heights::Axle axle,
             std::vector<Source> sources, const ChassisSheet& sheet)
        : laps_(laps), motions_(motions), axle_(std::move(axle)), sources_(std::move(sources)) {
        ratio_ = sheet.motion_ratio(axle_.front);
        still_ = (axle_.front ? sheet.height_front_m : sheet.height_rear_m).value_or(0);
        axle_.lowest_m = std::numeric_limits<double>::infinity();
        for (const Source& source : sources_) axle_.channels.push_back(source.channel);
        touched_.assign(static_cast<std::size_t>(laps.front().track->length_m / cell_m) + 1, 0);
    }

    void look_at(std::size_t lap) {
        for (const Source& source : sources_) {
            const PreparedLap& it = laps_[lap];
            const SampledStretch height = heights(it, source, {it.map.start_s(), it.map.end_s()});
            const std::size_t n = height.values.size();
            const auto time_at = [&](std::size_t i) {
                return height.start_s + static_cast<double>(i) / height.rate_hz;
            };
            for (std::size_t i = 0; i < n; ++i) {
                note_lowest(it, static_cast<double>(height.values[i]), time_at(i));
                if (!(static_cast<double>(height.values[i]) < axle_.limit_m)) continue;
                std::size_t end = i, low = i;
                for (; end < n && static_cast<double>(height.values[end]) < axle_.limit_m; ++end)
                    if (height.values[end] < height.values[low]) low = end;
                note_lowest(it, static_cast<double>(height.values[low]), time_at(low));
                keep({lap, time_at(i), time_at(end), static_cast<double>(height.values[low]),
                      it.map.distance_at(time_at(low))});
                i = end;
            }
        }
    }

    /// Stretches of cells, joined over short gaps, are the places.
    [[nodiscard]] std::vector<LowPlace> places(double top_mps, std::span<const Stretch> kerbs) const {
        std::vector<LowPlace> out;
        const auto gap = static_cast<std::size_t>(apart_m / cell_m);
        for (std::size_t c = 0; c < touched_.size(); ++c) {
            if (touched_[c] == 0) continue;
            std::size_t last = c;
            for (std::size_t next = c; next < touched_.size() && next <= last + gap; ++next)
                if (touched_[next] != 0) last = next;
            if (auto place = place_in({static_cast<double>(c) * cell_m,
                                       std::min(static_cast<double>(last + 1) * cell_m, laps_.front().track->length_m)},
                                      top_mps, kerbs))
                out.push_back(std::move(*place));
            c = last;
        }
        return out;
    }

    [[nodiscard]] Heights::Axle axle(std::span<const LowPlace> places) const {
        Heights::Axle out = axle_;
        for (const LowPlace& place : places) out.times += place.times;
        return out;
    }

  private:
    /// Once below the limit, of one sensor.
    struct Below {
        std::size_t lap;
        double from_s, to_s, lowest_m, at_m;
    };

    [[nodiscard]] SampledStretch heights(const PreparedLap& lap, const Source& source, Interval time_s) const {
        SampledStretch out = sampled(*lap.recording, source.channel, time_s);
        if (axle_.from_dampers)
            for (float& x : out.values) x = static_cast<float>(still_ - ratio_ * static_cast<double>(x));
        return out;
    }

    void note_lowest(const PreparedLap& lap, double height_m, double t_s) {
        if (!(height_m < axle_.lowest_m)) return;
        axle_.lowest_m = height_m;
        axle_.lowest_at_m = lap.map.distance_at(t_s);
    }

    void keep(const Below& one) {
        if (one.to_s - one.from_s < least_s) return;
        below_.push_back(one);
        const LapMap& map = laps_[one.lap].map;
        const auto cell = [&](double t) {
            return std::min(static_cast<std::size_t>(map.distance_at(t) / cell_m), touched_.size() - 1);
        };
        for (std::size_t c = cell(one.from_s); c <= cell(one.to_s); ++c) touched_[c] = 1;
    }

    [[nodiscard]] std::optional<LowPlace> place_in(Interval range_m, double top_mps,
                                                   std::span<const Stretch> kerbs) const {
        LowPlace place;
        place.front = axle_.front;
        place.range_m = range_m;
        place.of = laps_.size();
        Seen seen;
        std::vector<double> at;
        std::vector<char> on(laps_.size(), 0);
        for (std::size_t k = 0; k < laps_.size(); ++k) {
            std::vector<Below> here;
            std::copy_if(below_.begin(), below_.end(), std::back_inserter(here), [&](const Below& one) {
                return one.lap == k && one.at_m >= range_m.begin && one.at_m <= range_m.end;
            });
            if (here.empty()) continue;
            on[k] = 1;
            const Below& lowest = *std::min_element(
                here.begin(), here.end(), [](const Below& a, const Below& b) { return a.lowest_m < b.lowest_m; });
            // Sides that are below at once are once.
            std::sort(here.begin(), here.end(), [](const Below& a, const Below& b) { return a.from_s < b.from_s; });
            double end = -1;
            for (const Below& one : here) {
                if (one.from_s > end + 0.1) ++place.times;
                place.time_s += std::max(0.0, one.to_s - std::max(one.from_s, end));
                end = std::max(end, one.to_s);
            }
            ++place.on;
            place.lowest_m += lowest.lowest_m;
            at.push_back(lowest.at_m);
            const double t = laps_[k].map.time_at(lowest.at_m);
            seen.speed.push_back(mean_over(laps_[k], "speed", t - 0.1, t + 0.1));
            seen.lateral.push_back(mean_over(laps_[k], "lateral_acceleration", t - 0.15, t + 0.15));
            const std::size_t cell = motions_[k].cell(lowest.at_m);
            seen.bend.push_back(motions_[k].speed_mps[cell] * motions_[k].speed_mps[cell] * motions_[k].crest[cell]);
        }
        if (place.on == 0) return std::nullopt;
        const auto count = static_cast<double>(place.on);
        place.times /= static_cast<double>(laps_.size());
        place.time_s /= count;
        place.lowest_m /= count;
        place.depth_m = axle_.limit_m - place.lowest_m;
        place.lowest_at_m = median_of(at);
        place.speed_mps = mean_value(seen.speed);
        place.lateral_mps2 = mean_value(seen.lateral);
        place.title = place_title(*laps_.front().track, place.lowest_at_m);
        tell_sides(place, on);
        tell_cost(place, on);
        place.cause = cause_of(place, seen, top_mps, kerbs);
        return place;
    }

    /// Lowest of each side, on the laps that were below.
    void tell_sides(LowPlace& place, const std::vector<char>& on) const {
        for (const Source& source : sources_) {
            if (!source.left) continue;
            std::vector<double> lows;
            for (std::size_t k = 0; k < laps_.size(); ++k) {
                if (on[k] == 0) continue;
                const LapMap& map = laps_[k].map;
                double low = std::numeric_limits<double>::infinity();
                for (const float h :
                     heights(laps_[k], source, {map.time_at(place.range_m.begin), map.time_at(place.range_m.end)})
                         .values)
                    low = std::fmin(low, static_cast<double>(h));
                if (std::isfinite(low)) lows.push_back(low);
            }
            if (!lows.empty()) (*source.left ? place.left_m : place.right_m) = mean_value(lows);
        }
    }

    /// What the laps that touched gain less over the place than those that did not.
    void tell_cost(LowPlace& place, const std::vector<char>& on) const {
        std::vector<double> touched, free;
        for (std::size_t k = 0; k < laps_.size(); ++k) {
            const double before = place.range_m.begin - behind_m, behind = place.range_m.end + behind_m;
            if (before < 0 || behind > laps_[k].map.length_m()) continue;
            const double gain = laps_[k].value_at("speed", behind) - laps_[k].value_at("speed", before);
            if (std::isfinite(gain)) (on[k] != 0 ? touched : free).push_back(gain);
        }
        if (touched.empty() || free.empty() || touched.size() + free.size() < 3) return;
        place.speed_cost_mps = mean_value(touched) - mean_value(free);
        place.speed_cost_likely = likely_difference(free, touched);
    }

    std::span<const PreparedLap> laps_;
    std::span<const LapMotion> motions_;
    Heights::Axle axle_;
    std::vector<Source> sources_;
    double ratio_ = 1, still_ = 0;
    std::vector<Below> below_;
    std::vector<char> touched_;  ///< cells of the track in which any lap was below
};

}  // namespace

std::string_view low_cause_name(LowCause cause) {
    return row_of(cause).name;
}

std::string_view low_remedy(LowCause cause) {
    return row_of(cause).remedy;
}

Result<Heights> heights_of(std::span<const PreparedLap> laps, const ChassisSheet& sheet, const JobContext& job) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    Heights out;
    out.laps = laps.size();
    const std::vector<Stretch> kerbs = stretches_of(StretchKind::kerbs, laps);
    std::vector<LapMotion> motions;
    double top = 0;
    for (const PreparedLap& lap : laps) {
        motions.push_back(motion_of(lap));
        top = std::fmax(top, figures_in_range(lap, "speed", {0, lap.map.length_m()}).high);
    }
    for (const bool front : {true, false}) {
        const std::string name = front ? "front" : "rear";
        Heights::Axle axle;
        axle.front = front;
        const auto& least = front ? sheet.least_front_m : sheet.least_rear_m;
        axle.limit_m = least.value_or(touching_m);
        axle.limit_from_sheet = least.has_value();
        const Recording& recording = *laps.front().recording;
        std::vector<Source> sources = sources_of(recording, front, false);
        if (sources.empty() && (front ? sheet.height_front_m : sheet.height_rear_m)) {
            sources = sources_of(recording, front, true);
            axle.from_dampers = !sources.empty();
        }
        if (sources.empty()) {
            out.untold.push_back("The height of the " + name +
                                 " is not known: it is not logged, and for damper travel the setup sheet has to say "
                                 "\"Ride height " +
                                 name + "\".");
            continue;
        }
        // A lap without one of the sensors would count as one that stays above.
        std::vector<PreparedLap> with;
        std::vector<LapMotion> their_motions;
        for (std::size_t k = 0; k < laps.size(); ++k) {
            const bool all = std::all_of(sources.begin(), sources.end(), [&](const Source& source) {
                return laps[k].recording->find(source.channel) != nullptr;
            });
            if (!all) continue;
            with.push_back(laps[k]);
            their_motions.push_back(motions[k]);
        }
        if (with.size() < laps.size())
            out.untold.push_back(std::to_string(laps.size() - with.size()) + " of " + std::to_string(laps.size()) +
                                 " laps lack a height of the " + name + " and are left out of it.");
        AxleLook look(with, their_motions, std::move(axle), std::move(sources), sheet);
        for (std::size_t k = 0; k < with.size(); ++k) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            look.look_at(k);
        }
        std::vector<LowPlace> places = look.places(top, kerbs);
        out.axles.push_back(look.axle(places));
        std::move(places.begin(), places.end(), std::back_inserter(out.places));
    }
    if (!out.axles.empty()) return out;
    std::string all;
    for (const std::string& one : out.untold) all += (all.empty() ? "" : " ") + one;
    return fail(ErrorCode::not_found, all);
}

}  // namespace rendak
