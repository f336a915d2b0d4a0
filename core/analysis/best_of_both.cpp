#include "core/analysis/best_of_both.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/set_difference.h"

namespace rendak {
namespace {

std::vector<double> times_in(std::span<const PreparedLap> laps, Interval range_m) {
    std::vector<double> out;
    for (const PreparedLap& lap : laps) {
        const double end = std::min(range_m.end, lap.map.length_m());
        out.push_back(lap.map.time_at(end) - lap.map.time_at(range_m.begin));
    }
    return out;
}

double best_lap_s(std::span<const PreparedLap> laps) {
    double out = laps.front().time_s();
    for (const PreparedLap& lap : laps) out = std::min(out, lap.time_s());
    return out;
}

}  // namespace

std::vector<SideSection> side_by_side(std::span<const PreparedLap> a, std::span<const PreparedLap> b,
                                      const std::vector<Section>& sections) {
    constexpr double least_s = 0.02;
    std::vector<SideSection> out;
    for (const Section& section : sections) {
        const auto of_a = times_in(a, section.range_m), of_b = times_in(b, section.range_m);
        SideSection it;
        it.section = section;
        it.a_s = mean_value(of_a);
        it.b_s = mean_value(of_b);
        it.a_best_s = *std::min_element(of_a.begin(), of_a.end());
        it.b_best_s = *std::min_element(of_b.begin(), of_b.end());
        it.likely_s = likely_difference(of_a, of_b);
        const bool sure = !it.likely_s || !it.likely_s->contains(0);
        if (sure && std::abs(it.b_s - it.a_s) >= least_s)
            it.better = it.b_s < it.a_s ? SideSection::Better::b : SideSection::Better::a;
        out.push_back(std::move(it));
    }
    return out;
}

BestOfBoth best_of_both(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    BestOfBoth out;
    out.sections = side_by_side(a, b, sections_of(*a.front().track));
    out.a_lap_s = best_lap_s(a);
    out.b_lap_s = best_lap_s(b);
    for (const SideSection& it : out.sections) {
        const double best = std::min(it.a_best_s, it.b_best_s);
        out.lap_s += best;
        out.a_asks_s += it.a_best_s - best;
        out.b_asks_s += it.b_best_s - best;
    }
    return out;
}

}  // namespace rendak
