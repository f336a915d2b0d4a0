#include <cmath>
#include <numbers>

#include "core/analysis/track_guide.h"
#include "core/base/text.h"

namespace rendak {
namespace {

std::string title_or_finish(int corner, const Track& track) {
    const std::string title = corner_title(track, corner);
    return title.empty() ? "the finish" : title;
}

std::string lean_text(const Lean& it) {
    constexpr double degrees = 180 / std::numbers::pi;
    return fixed(std::abs(it.rad) * degrees, 1) + "° ± " + fixed(it.sd_rad * degrees, 1) + "°";
}

class Words {
  public:
    Words(const Track& track, const GuideUnits& units) : track_(track), units_(units) {}

    [[nodiscard]] std::string length(double m, int decimals = 0) const {
        return fixed(m * units_.per_m, decimals) + " " + units_.length;
    }
    [[nodiscard]] std::string speed(double mps) const { return fixed(mps * units_.per_mps, 0) + " " + units_.speed; }
    /// What one more of the person's unit of speed is worth.
    [[nodiscard]] std::string worth(double s_per_kmh) const {
        return fixed(s_per_kmh * 3.6 / units_.per_mps, 3) + " s";
    }
    [[nodiscard]] std::string one_more() const { return "1 " + units_.speed + " more"; }

    [[nodiscard]] std::string road(const GuideCorner& it) const {
        std::string out = "A " + guide_kind(it) + (it.flat ? ", of " : " of ") + fixed(it.corner.angle_deg, 0) + "°, " +
                          length(it.corner.radius_m) + " at its tightest, " +
                          length(it.corner.end_m - it.corner.start_m) + " long";
        if (it.shape == GuideCorner::Shape::closes) out += "; it closes: its second half is the tighter one";
        if (it.shape == GuideCorner::Shape::opens) out += "; it opens: its first half is the tighter one";
        return out + ". ";
    }
    [[nodiscard]] std::string way_in(const GuideCorner& it) const {
        std::string out;
        constexpr double least_m = 1;
        if (it.climbs_in_m && std::abs(*it.climbs_in_m) >= least_m && !it.flat)
            out += *it.climbs_in_m < 0 ? "Falls " + length(-*it.climbs_in_m, 1) +
                                             " on the way in, so the car stops worse than it looks. "
                                       : "Climbs " + length(*it.climbs_in_m, 1) +
                                             " on the way in, so the car stops better than it looks. ";
        if (it.flat) {
            out += "This lap takes it flat";
            if (it.slowest_mps) out += ", at " + speed(*it.slowest_mps);
            return out + ". ";
        }
        if (it.events.brake_on_m && it.brake_mps) {
            const double before = it.corner.start_m - *it.events.brake_on_m;
            out += "This lap brakes " + length(std::abs(before)) + (before >= 0 ? " before" : " behind") +
                   " the corner's begin, from " + speed(*it.brake_mps);
            if (it.brake_gear) out += " in gear " + std::to_string(*it.brake_gear);
            out += "; ";
        } else {
            out +=
                it.events.lift_m ? "This lap only lifts for it; " : "This lap slows down for it from before the line; ";
        }
        out += "its slowest place";
        if (it.slowest_mps) out += " is " + speed(*it.slowest_mps);
        if (it.gear) out += " in gear " + std::to_string(*it.gear);
        if (it.events.slowest_m) {
            const double behind = *it.events.slowest_m - it.corner.apex_m;
            constexpr double near_m = 5;
            out += std::abs(behind) < near_m
                       ? ", at the apex"
                       : ", " + length(std::abs(behind)) + (behind > 0 ? " behind the apex" : " before the apex");
        }
        return out + ". ";
    }
    [[nodiscard]] std::string lean(const GuideCorner& it) const {
        std::string out;
        const auto add = [&](const std::optional<Lean>& lean, const char* where) {
            if (!lean || !lean->told()) return;
            out += out.empty() ? "The road leans " : ", ";
            out += std::string(lean->rad > 0 ? "your way " : "away from you ") + where + " (" + lean_text(*lean) + ")";
        };
        add(it.lean_in, "on the way in");
        add(it.lean_middle, "in the middle");
        add(it.lean_out, "at the exit");
        return out.empty() ? out : out + ". ";
    }
    [[nodiscard]] std::string way_out(const GuideCorner& it) const {
        std::string out;
        constexpr double least_m = 1;
        if (it.climbs_out_m && std::abs(*it.climbs_out_m) >= least_m)
            out += (*it.climbs_out_m > 0 ? "Climbs " : "Falls ") + length(std::abs(*it.climbs_out_m), 1) +
                   " on the way out. ";
        if (it.next != 0)
            out += "Behind it " + title_or_finish(it.next, track_) + " follows after " + length(it.after_m) +
                   (it.full_m >= 1 ? ", with " + length(it.full_m) + " of full throttle. " : ". ");
        return out;
    }

  private:
    const Track& track_;
    const GuideUnits& units_;
};

}  // namespace

std::string guide_kind(const GuideCorner& it) {
    constexpr double tight_m = 30, wide_m = 110;
    std::string out = it.flat || it.of_commitment    ? "fast "
                      : it.corner.radius_m < tight_m ? "tight "
                      : it.corner.radius_m < wide_m  ? "medium "
                                                     : "wide ";
    out += it.corner.left ? "left" : "right";
    return out + (it.flat ? ", flat" : "");
}

std::string guide_matters(const GuideCorner& it, const Track& track) {
    switch (it.matters) {
        case GuideCorner::Matters::exit:
            return "exit";
        case GuideCorner::Matters::speed:
            return it.of_commitment ? "in small steps" : "carry speed";
        case GuideCorner::Matters::next:
            return "entry of " + title_or_finish(it.next, track);
        case GuideCorner::Matters::cannot_be_told:
            break;
    }
    return "–";
}

std::string guide_headline(const GuideCorner& it, const Track& track, const GuideUnits& units) {
    const Words words(track, units);
    const auto worths = [&] {
        return words.one_more() + " is worth " + words.worth(*it.exit_s) + " at the exit and " +
               words.worth(*it.slowest_s - *it.exit_s) + " in the corner itself.";
    };
    switch (it.matters) {
        case GuideCorner::Matters::exit:
            return "The exit matters most. " + worths();
        case GuideCorner::Matters::speed:
            return std::string("Speed through the corner matters most") +
                   (it.of_commitment ? ", raised in small steps. " : ". ") + worths();
        case GuideCorner::Matters::next:
            return title_or_finish(it.next, track) + " matters more: give way to it. " + worths();
        case GuideCorner::Matters::cannot_be_told:
            break;
    }
    return "What matters here cannot be told: this lap does not show how the car gains speed.";
}

std::string guide_words(const GuideCorner& it, const Track& track, const GuideUnits& units) {
    const Words words(track, units);
    std::string out = words.road(it) + words.way_in(it) + words.lean(it) + words.way_out(it);
    out += guide_headline(it, track, units);
    return out;
}

std::vector<std::string> guide_warnings(const GuideCorner& it, const Track& track, const GuideUnits& units) {
    const Words words(track, units);
    std::vector<std::string> out;
    if (it.lean_out && it.lean_out->told() && it.lean_out->rad < 0)
        out.push_back("falls away at the exit: the road leans " + lean_text(*it.lean_out) + " away from you");
    if (it.lean_middle && it.lean_middle->told() && it.lean_middle->rad < 0)
        out.push_back("leans away from you in the middle");
    if (it.crest_m) {
        const double behind = *it.crest_m - it.corner.apex_m;
        const bool on_the_way = *it.crest_m > it.corner.end_m && it.next != 0;
        out.push_back("a crest " + words.length(std::abs(behind)) + (behind > 0 ? " behind" : " before") + " the apex" +
                      (on_the_way ? ", on the way to " + title_or_finish(it.next, track) : std::string()) +
                      ": the car is " + fixed(100 * it.crest_share, 0) + " % lighter there");
    }
    if (it.shape == GuideCorner::Shape::closes) out.emplace_back("closes towards its end: wait with the throttle");
    if (it.of_commitment && !it.flat) out.emplace_back("takes courage: more speed only in small steps");
    return out;
}

std::string guide_after(const GuideCorner& it, const Track& track, const GuideUnits& units) {
    const Words words(track, units);
    constexpr double least_m = 1;
    std::string out =
        it.next == 0 ? std::string("the finish") : words.length(it.after_m) + " to " + title_or_finish(it.next, track);
    if (it.climbs_out_m && *it.climbs_out_m >= least_m) out += ", climbs";
    if (it.climbs_out_m && *it.climbs_out_m <= -least_m) out += ", falls";
    return out;
}

}  // namespace rendak
