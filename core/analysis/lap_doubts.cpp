#include "core/analysis/lap_doubts.h"

#include <algorithm>
#include <cmath>

#include "core/base/median.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/laps/cut.h"

namespace rendak {
namespace {

constexpr double doubt_grid_m = 5;

struct Doubted {
    Lap* lap;
    LapMap map;
    std::vector<double> left_m;     ///< every 5 m
    std::vector<double> section_s;  ///< time in every section
    bool off = false;
    bool another_line = false;
};

void add(std::string& text, const std::string& what) {
    text += (text.empty() ? "" : "; ") + what;
}

/// "at Turn 5", "behind Turn 5" or "at 320 m".
std::string place_name(const Track& track, double at_m) {
    const Corner* before = nullptr;
    for (const Corner& corner : track.corners) {
        if (at_m >= corner.start_m && at_m <= corner.end_m) return "at " + corner.title();
        if (corner.end_m < at_m) before = &corner;
    }
    return before == nullptr ? "at " + fixed(at_m, 0) + " m" : "behind " + before->title();
}

/// Where all laps drove, place by place, in order: the median of the others is looked up, not searched anew for every
/// lap of a long run.
class UsualLine {
  public:
    explicit UsualLine(const std::vector<Doubted>& all) {
        for (std::size_t i = 0; !all.empty() && i < all.front().left_m.size(); ++i) {
            auto& here = sorted_.emplace_back();
            for (const Doubted& it : all) here.push_back(it.left_m[i]);
            std::sort(here.begin(), here.end());
        }
    }
    /// Median at a place of all laps but one that drove `own` there; as median_of() of the others.
    [[nodiscard]] double without(std::size_t place, double own) const {
        const auto& here = sorted_[place];
        const auto rank = static_cast<std::size_t>(std::lower_bound(here.begin(), here.end(), own) - here.begin());
        const std::size_t middle = (here.size() - 1) / 2;
        return here[middle < rank ? middle : middle + 1];
    }

  private:
    std::vector<std::vector<double>> sorted_;
};

void find_excursion(Doubted& it, const std::vector<Doubted>& all, const UsualLine& usual, const Track& track) {
    constexpr double least_m = 15, beside_others_m = 4, beside_line_m = 8, outside_edge_m = 1.5;
    constexpr double local_share = 0.15;  // who is elsewhere for most of the lap drives another line on purpose
    double worst = 0, worst_at = 0, stretch = 0, away_m = 0;
    for (std::size_t i = 0; i < it.left_m.size(); ++i) {
        const double s = static_cast<double>(i) * doubt_grid_m;
        double beyond = 0;
        if (all.size() > 2) {
            beyond = std::abs(it.left_m[i] - usual.without(i, it.left_m[i])) - beside_others_m;
        } else {
            beyond = std::abs(it.left_m[i]) - beside_line_m;
        }
        if (track.edges.source == Edges::Source::driven && beyond > 0) {
            const double edge =
                it.left_m[i] > 0 ? track.value_at(track.edges.left_m, s) : track.value_at(track.edges.right_m, s);
            beyond = std::min(beyond, std::abs(it.left_m[i]) - edge - outside_edge_m);
        }
        if (beyond > -2) away_m += doubt_grid_m;
        stretch = beyond > 0 ? stretch + doubt_grid_m : 0;
        if (stretch < least_m || beyond <= worst) continue;
        worst = beyond;
        worst_at = s;
    }
    it.another_line = away_m > local_share * track.length_m;
    if (worst <= 0 || it.another_line) return;
    it.off = true;
    const double beside = worst + (all.size() > 2 ? beside_others_m : beside_line_m);
    add(it.lap->doubt,
        "off the usual line by " + fixed(beside, 0) + " m " + place_name(track, worst_at) + ": an excursion?");
}

void find_traffic(Doubted& it, const std::vector<double>& usual, const std::vector<Section>& sections) {
    constexpr double share = 0.04, least_s = 0.3;
    double elsewhere = 0, elsewhere_usual = 0, best_loss = 0;
    std::size_t best_first = 0, best_last = 0;
    for (std::size_t k = 0; k < sections.size();) {
        if (it.section_s[k] - usual[k] < share * usual[k]) {
            elsewhere += it.section_s[k];
            elsewhere_usual += usual[k];
            ++k;
            continue;
        }
        const std::size_t first = k;
        double loss = 0;
        while (k < sections.size() && it.section_s[k] - usual[k] >= share * usual[k]) {
            loss += it.section_s[k] - usual[k];
            ++k;
        }
        if (loss > best_loss) {
            best_loss = loss;
            best_first = first;
            best_last = k - 1;
        }
    }
    // A lap that is slow everywhere is a slow lap, not a hindered one.
    if (best_loss < least_s || elsewhere_usual <= 0 || elsewhere > 1.015 * elsewhere_usual) return;
    const std::string where = best_first == best_last ? sections[best_first].name
                                                      : sections[best_first].name + " to " + sections[best_last].name;
    add(it.lap->doubt, fixed(best_loss, 1) + " s slower than usual in " + where + ": traffic?");
}

}  // namespace

void note_doubts(std::vector<Lap>& laps, const Path& path, const Track& track) {
    const auto sections = sections_of(track);
    std::vector<Doubted> all;
    for (Lap& lap : laps) {
        if (lap.complete()) all.push_back({&lap, {}, {}, {}});
    }
    parallel_for(all.size(), 20, [&](std::size_t i) {
        Doubted& it = all[i];
        it.map = align_lap(path, track, it.lap->start_s, it.lap->end_s);
        std::size_t k = 0;
        const auto& at = it.map.distance_m;
        for (double s = 0; s < track.length_m; s += doubt_grid_m) {
            while (k + 2 < at.size() && at[k + 1] <= s) ++k;
            const double width = at[k + 1] - at[k];
            const double share = width > 0 ? std::clamp((s - at[k]) / width, 0.0, 1.0) : 0;
            it.left_m.push_back(it.map.left_m[k] + share * (it.map.left_m[k + 1] - it.map.left_m[k]));
        }
        for (const Section& section : sections)
            it.section_s.push_back(it.map.time_at(section.range_m.end) - it.map.time_at(section.range_m.begin));
        it.map = {};  // of hours of laps only what is compared is kept
    });
    if (!path.by_shape) {
        const UsualLine usual(all);
        for (Doubted& it : all) find_excursion(it, all, usual, track);
    }
    if (all.size() > 2) {
        std::vector<double> usual;
        for (std::size_t k = 0; k < sections.size(); ++k) {
            std::vector<double> times;
            for (const Doubted& it : all) times.push_back(it.section_s[k]);
            usual.push_back(median_of(times));
        }
        for (Doubted& it : all) {
            if (!it.off && !it.another_line) find_traffic(it, usual, sections);
        }
    }
    for (const Doubted& it : all) {
        if (it.lap->trust_m > poor_trust_m)
            add(it.lap->reason, "places are good to " + fixed(it.lap->trust_m, 1) + " m only");
    }
}

}  // namespace rendak
