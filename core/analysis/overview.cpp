#include "core/analysis/overview.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/set_difference.h"
#include "core/analysis/watch.h"
#include "core/analysis/wheel_events.h"
#include "core/analysis/work_list.h"
#include "core/base/text.h"

namespace rendak {
namespace {

std::string seconds(double s) {
    return fixed(s, 2) + " s";
}

SideActivity activity_of(std::span<const PreparedLap> laps) {
    SideActivity out;
    std::vector<double> lock_ups;
    std::vector<SectionActivity> all;
    for (const PreparedLap& lap : laps) {
        const Interval whole{0, lap.map.length_m()};
        all.push_back(section_activity(lap, std::span(&whole, 1)).front());
        const RangeFigures speed = figures_in_range(lap, "speed", whole);
        if (std::isfinite(speed.high)) out.top_mps = std::max(out.top_mps, speed.high);
        double locked = 0;
        for (const WheelEvent& it : wheel_events(lap)) locked += it.kind == WheelEvent::Kind::locks_up ? 1 : 0;
        lock_ups.push_back(locked);
        out.wheels_known = out.wheels_known || lap.recording->find("wheel_speed_fl") != nullptr;
        const auto heights = [&](const char* quantity, std::optional<double>& least, std::optional<double>& touches) {
            const RangeFigures height = figures_in_range(lap, quantity, whole);
            if (!std::isfinite(height.low)) return;
            if (!(least && *least <= height.low)) least = height.low;
            const auto count = road_touches(*lap.recording->find(quantity), {lap.map.start_s(), lap.map.end_s()});
            touches = touches.value_or(0) + static_cast<double>(count) / static_cast<double>(laps.size());
        };
        heights("ride_height_front", out.lowest_front_m, out.touches_front);
        heights("ride_height_rear", out.lowest_rear_m, out.touches_rear);
    }
    for (const ActivityFigure& figure : all_activity_figures()) {
        double sum = 0;
        for (const SectionActivity& it : all) sum += it.*figure.value / static_cast<double>(all.size());
        out.lap.*figure.value = sum;
    }
    out.lock_ups = mean_value(lock_ups);
    return out;
}

std::vector<RoadUse> lines_of(std::span<const PreparedLap> laps) {
    std::vector<RoadUse> out;
    for (const PreparedLap& lap : laps) out.push_back(road_use(lap));
    return out;
}

class Sentences {
  public:
    Sentences(const Track& track, const LapStory& story, const WordUnits& names)
        : track_(track), story_(story), names_(names) {}

    void tell(LapOverview& out) const {
        constexpr double least_s = 0.02;
        const double total = story_.ledger.total_s;
        if (std::abs(total) < least_s / 2)
            add(out, names_.a + " and " + names_.b + " are as quick.");
        else
            add(out, (total > 0 ? names_.b : names_.a) + " loses " + seconds(std::abs(total)) + " to " +
                         (total > 0 ? names_.a : names_.b) + ": " + seconds(std::abs(out.corners_s)) +
                         (out.corners_s * total >= 0 ? " of it" : " won") + " in corners, " +
                         seconds(std::abs(out.straights_s)) + (out.straights_s * total >= 0 ? " of it" : " won") +
                         " behind them.");
        const std::string groups = group_words(story_.ledger);
        if (!groups.empty()) add(out, groups);
        if (out.a.wheels_known && out.b.wheels_known && out.a.lock_ups + out.b.lock_ups > 0)
            add(out, "Wheels lock up " + times(out.a.lock_ups) + " a lap for " + names_.a + ", " +
                         times(out.b.lock_ups) + " for " + names_.b + ".");
        if (out.a.lowest_front_m && out.b.lowest_front_m)
            add(out, "The floor comes down to " + millimetres(*out.a.lowest_front_m) + " in front for " + names_.a +
                         ", " + millimetres(*out.b.lowest_front_m) + " for " + names_.b + ".");
        touching(out, &SideActivity::touches_front, "front");
        touching(out, &SideActivity::touches_rear, "rear");
        pedals(out, &SectionActivity::full_s, "on full throttle");
        pedals(out, &SectionActivity::brake_s, "on the brake");
        pedals(out, &SectionActivity::coasting_s, "coasting");
        for (const auto& [means, line, name] :
             {std::tuple{&out.line_a, &out.first_a, &names_.a}, {&out.line_b, &out.first_b, &names_.b}}) {
            if (line->source == Edges::Source::driven) add(out, *name + ": " + line_words(*means, *line, track_));
        }
        for (const bool won : {false, true}) {
            WordUnits units = names_;
            if (won) std::swap(units.a, units.b);
            for (const LapFinding& it : won ? story_.won : story_.lost)
                out.in_words.push_back({finding_words(it, track_, units), it.corner, it.at_m});
        }
        for (const WorkPlace& place : work_list(story_)) {
            std::string text = seconds(place.available_s()) + " for " + names_.b;
            if (!place.sure)
                text += place.laps_needed > 0
                            ? " (not sure yet: about " + std::to_string(place.laps_needed) + " laps a side would tell)"
                            : " (not sure)";
            text += ". " +
                    (place.findings.empty() ? place.name + "." : finding_words(place.findings.front(), track_, names_));
            out.first.push_back({text, place.corner, place.range_m.begin});
        }
    }

  private:
    static void add(LapOverview& out, std::string text) { out.in_words.push_back({std::move(text), 0, 0}); }
    static std::string times(double count) { return fixed(count, count == std::floor(count) ? 0 : 1) + " times"; }
    static std::string millimetres(double m) { return fixed(std::round(m * 1e3) + 0.0, 0) + " mm"; }
    void touching(LapOverview& out, std::optional<double> SideActivity::*touches, const char* where) const {
        const auto &a = out.a.*touches, &b = out.b.*touches;
        if (!a || !b || *a + *b <= 0) return;
        add(out, std::string("The ") + where + " touches the road " + times(*a) + " a lap for " + names_.a + ", " +
                     times(*b) + " for " + names_.b + ".");
    }
    void pedals(LapOverview& out, double SectionActivity::*value, const char* what) const {
        constexpr double least_s = 0.2;
        const double a = out.a.lap.*value, b = out.b.lap.*value;
        if (!std::isfinite(a) || !std::isfinite(b) || std::abs(b - a) < least_s) return;
        add(out, names_.b + " is " + seconds(b) + " of a lap " + what + ", " + names_.a + " " + seconds(a) + ".");
    }
    const Track& track_;
    const LapStory& story_;
    const WordUnits& names_;
};

}  // namespace

LapOverview overview_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b, const LapStory& story,
                        const WordUnits& names) {
    LapOverview out;
    const Track& track = *a.front().track;
    out.sectors = side_by_side(a, b, sectors_of(track));
    for (const LedgerRow& row : story.ledger.rows) out.corners_s += row.own_s;
    out.straights_s = story.ledger.total_s - out.corners_s;
    out.a = activity_of(a);
    out.b = activity_of(b);
    out.both = best_of_both(a, b);
    const auto lines_a = lines_of(a), lines_b = lines_of(b);
    out.first_a = lines_a.front();
    out.first_b = lines_b.front();
    out.line_a = line_means(lines_a, lines_b);
    out.line_b = line_means(lines_b, lines_a);
    Sentences(track, story, names).tell(out);
    return out;
}

}  // namespace rendak
