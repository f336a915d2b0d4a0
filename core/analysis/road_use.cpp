#include "core/analysis/road_use.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/set_difference.h"
#include "core/base/text.h"

namespace rendak {
namespace {

constexpr double road_grid_m = 2, least_miss_m = 0.5;

class Road {
  public:
    Road(const PreparedLap& lap, const Corner& corner, double car_width_m)
        : track_(*lap.track), map_(lap.map), out_(corner.left ? -1 : 1), half_m_(car_width_m / 2) {}

    /// The place with its gap to the outer edge, or to the inner one.
    [[nodiscard]] std::optional<AcrossRoad> at(double distance_m, bool to_inner) const {
        const double left = map_.left_at(distance_m);
        if (!std::isfinite(left)) return std::nullopt;
        AcrossRoad out{distance_m, out_ * left, std::nullopt};
        const bool to_left = (out_ < 0) == to_inner;
        const auto& edge = to_left ? track_.edges.left_m : track_.edges.right_m;
        if (!edge.empty()) out.gap_m = track_.value_at(edge, distance_m) - (to_left ? left : -left) - half_m_;
        return out;
    }
    /// Nearest to that edge between two places; without edges furthest that way.
    [[nodiscard]] std::optional<AcrossRoad> nearest(Interval range_m, bool to_inner) const {
        std::optional<AcrossRoad> best;
        for (double s = range_m.begin; s <= range_m.end; s += road_grid_m) {
            const auto here = at(s, to_inner);
            if (!here) continue;
            const auto away = [&](const AcrossRoad& it) {
                return it.gap_m ? *it.gap_m : to_inner ? it.out_m : -it.out_m;
            };
            if (!best || away(*here) < away(*best)) best = here;
        }
        return best;
    }

  private:
    const Track& track_;
    const LapMap& map_;
    double out_;  ///< 1: the left is the outside
    double half_m_;
};

std::string metres(double value) {
    return fixed(value, std::abs(value) < 10 ? 1 : 0) + " m";
}

double gap_or_nan(const std::optional<AcrossRoad>& it) {
    return it && it->gap_m ? *it->gap_m : std::nan("");
}

/// Mean of one thing over the laps that have it; NaN where none has.
double mean_over(const std::vector<RoadUse>& lines, std::size_t corner, auto value) {
    std::vector<double> known;
    for (const RoadUse& line : lines) {
        const double it = value(line.corners[corner]);
        if (std::isfinite(it)) known.push_back(it);
    }
    return known.empty() ? std::nan("") : mean_value(known);
}

}  // namespace

RoadUse road_use(const PreparedLap& lap, const std::vector<Technique>& techniques, double car_width_m) {
    constexpr double before_m = 100, behind_m = 120, edges_m = 0.25;
    const Track& track = *lap.track;
    RoadUse out;
    out.source = track.edges.source;
    out.error_m = std::hypot(lap.trust_m, out.source == Edges::Source::driven ? edges_m : 0);
    for (std::size_t k = 0; k < track.corners.size(); ++k) {
        const Corner& corner = track.corners[k];
        CornerLine here;
        here.corner = corner.number;
        const Road road(lap, corner, car_width_m);
        here.apex = road.nearest({corner.start_m, corner.end_m}, true);
        if (here.apex) {
            const double from = std::max(corner.start_m - before_m, k > 0 ? track.corners[k - 1].end_m : 0);
            const double until = std::min(corner.end_m + behind_m,
                                          k + 1 < track.corners.size() ? track.corners[k + 1].start_m : track.length_m);
            here.late_m = here.apex->at_m - corner.apex_m;
            here.entry = road.nearest({std::min(from, corner.start_m), here.apex->at_m}, false);
            here.exit = road.nearest({here.apex->at_m, std::max(until, corner.end_m)}, false);
            if (techniques[k].turn_in_m) here.turn_in = road.at(*techniques[k].turn_in_m, false);
        }
        const auto out_at = [&](double place_m) {
            const auto it = road.at(place_m, false);
            return it ? std::optional(it->out_m) : std::nullopt;
        };
        here.begin_out_m = out_at(corner.start_m);
        here.middle_out_m = out_at(corner.apex_m);
        here.end_out_m = out_at(corner.end_m);
        here.tightness = techniques[k].arc.tightness;
        out.corners.push_back(here);
    }
    return out;
}

RoadUse road_use(const PreparedLap& lap, double car_width_m) {
    return road_use(lap, technique_of(lap), car_width_m);
}

std::vector<LineMean> line_means(const std::vector<RoadUse>& lines, const std::vector<RoadUse>& against) {
    std::vector<LineMean> out;
    if (lines.empty()) return out;
    for (std::size_t c = 0; c < lines.front().corners.size(); ++c) {
        LineMean it;
        it.corner = lines.front().corners[c].corner;
        it.laps = lines.size();
        it.turn_in_gap_m = mean_over(lines, c, [](const CornerLine& l) { return gap_or_nan(l.turn_in); });
        it.entry_gap_m = mean_over(lines, c, [](const CornerLine& l) { return gap_or_nan(l.entry); });
        it.apex_gap_m = mean_over(lines, c, [](const CornerLine& l) { return gap_or_nan(l.apex); });
        it.exit_gap_m = mean_over(lines, c, [](const CornerLine& l) { return gap_or_nan(l.exit); });
        it.late_m = mean_over(lines, c, [](const CornerLine& l) { return l.late_m.value_or(std::nan("")); });
        const auto further_out = [&](std::optional<double> CornerLine::*place) {
            const auto value = [&](const CornerLine& l) { return (l.*place).value_or(std::nan("")); };
            return against.empty() ? std::nan("") : mean_over(lines, c, value) - mean_over(against, c, value);
        };
        it.entry_out_m = further_out(&CornerLine::begin_out_m);
        it.apex_out_m = further_out(&CornerLine::middle_out_m);
        it.exit_out_m = further_out(&CornerLine::end_out_m);
        it.told = lines.front().source == Edges::Source::driven && std::isfinite(it.apex_gap_m);
        const double least = std::max(least_miss_m, 2 * lines.front().error_m);
        if (it.told) {
            for (const RoadUse& line : lines) it.misses += gap_or_nan(line.corners[c].apex) >= least ? 1 : 0;
            if (it.apex_gap_m >= least) it.missed_m = it.apex_gap_m;
        }
        out.push_back(it);
    }
    return out;
}

std::string line_words(const LineMean& it, const RoadUse& line, const Track& track) {
    const std::string where = corner_title(track, it.corner) + ": ";
    const double least = std::max(least_miss_m, 2 * line.error_m);
    std::vector<std::string> parts;
    if (!it.told) {
        if (line.source == Edges::Source::none)
            parts.emplace_back("the road's edges are not known, so a missed apex cannot be told");
        else
            parts.emplace_back("the road's edges are only known from where laps went: a missed apex cannot be told");
    } else if (it.missed_m) {
        std::string text = "misses the apex by " + metres(*it.missed_m);
        constexpr double least_late_m = 8;
        if (std::abs(it.late_m) >= least_late_m)
            text += ", " + metres(std::abs(it.late_m)) + (it.late_m > 0 ? " late" : " early");
        if (it.laps > 1) text += ", on " + std::to_string(it.misses) + " of " + std::to_string(it.laps) + " laps";
        parts.push_back(text);
    } else {
        parts.emplace_back("at the apex within what can be told (" + metres(least) + ")");
    }
    if (it.told && it.entry_gap_m >= least) parts.push_back("leaves " + metres(it.entry_gap_m) + " before turning in");
    if (it.told && it.exit_gap_m >= least)
        parts.push_back("leaves " + metres(it.exit_gap_m) + " of the road at the exit");
    const auto other = [&](double out_m, const char* place) {
        if (!std::isfinite(out_m) ||
            std::abs(out_m) < std::max(least_miss_m, 2 * std::hypot(line.error_m, line.error_m)))
            return;
        parts.push_back(metres(std::abs(out_m)) + " further " + (out_m > 0 ? "out" : "in") + " " + place +
                        " than the others");
    };
    other(it.entry_out_m, "before it");
    other(it.apex_out_m, "at the apex");
    other(it.exit_out_m, "at the exit");
    std::string out = where;
    for (std::size_t k = 0; k < parts.size(); ++k) out += (k == 0 ? "" : "; ") + parts[k];
    return out + ".";
}

std::string line_words(const std::vector<LineMean>& means, const RoadUse& line, const Track& track) {
    if (line.source != Edges::Source::driven)
        return "The edges of " + track.name + " are not known from laps along them: lines are told against other laps.";
    std::size_t missed = 0, late = 0, early = 0, told = 0;
    double left = 0;
    for (const LineMean& it : means) {
        if (!it.told) continue;
        ++told;
        if (std::isfinite(it.exit_gap_m)) left += std::max(0.0, it.exit_gap_m);
        if (!it.missed_m) continue;
        ++missed;
        constexpr double least_late_m = 8;
        late += it.late_m >= least_late_m;
        early += it.late_m <= -least_late_m;
    }
    if (told == 0) return "No corner can be held against the edges.";
    std::string out = missed == 0
                          ? "Every apex is reached as far as can be told"
                          : "Misses the apex of " + std::to_string(missed) + " of " + std::to_string(told) + " corners";
    if (late > 0) out += ", " + std::to_string(late) + " of them late";
    if (early > 0) out += ", " + std::to_string(early) + " of them early";
    return out + "; leaves " + metres(left / static_cast<double>(told)) + " of the road at the exits in the mean.";
}

}  // namespace rendak
