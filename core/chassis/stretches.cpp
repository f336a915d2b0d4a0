#include "core/chassis/stretches.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/base/text.h"
#include "core/chassis/damper_speed.h"

namespace rendak {
namespace {

constexpr double slow_share = 0.6, straight_m = 150, exit_s = 4, shortest_straight_m = 100;

struct KindRow {
    StretchKind kind;
    std::string_view name;
};
constexpr std::array kinds{KindRow{StretchKind::lap, "lap"}, KindRow{StretchKind::straights, "straights"},
                           KindRow{StretchKind::corners, "corners"}, KindRow{StretchKind::exits, "exits"},
                           KindRow{StretchKind::kerbs, "kerbs"}};

Stretch timed(Stretch stretch, const PreparedLap& lap) {
    stretch.time_s = time_on(lap, stretch).length();
    return stretch;
}

/// The slowest place of a lap in a stretch.
double slowest_place(const PreparedLap& lap, Interval range_m) {
    double slowest = std::numeric_limits<double>::infinity(), at = range_m.begin;
    const AlongLap speed = lap.along("speed");
    for (double m = range_m.begin; m <= range_m.end; m += 2) {
        const double v = speed(m);
        if (v < slowest) {
            slowest = v;
            at = m;
        }
    }
    return at;
}

std::vector<Stretch> exits_of(const PreparedLap& lap) {
    const Track& track = *lap.track;
    const DriverActivity activity = lap.activity();
    const double top = figures_in_range(lap, "speed", {0, lap.map.length_m()}).high;
    std::vector<Stretch> out;
    for (std::size_t k = 0; k < track.corners.size(); ++k) {
        const Corner& corner = track.corners[k];
        const double next_m = k + 1 < track.corners.size() ? track.corners[k + 1].start_m : track.length_m;
        if (next_m - corner.end_m < straight_m) continue;
        const double from = slowest_place(lap, {corner.start_m, std::min(corner.end_m + 20, track.length_m)});
        if (!(lap.value_at("speed", from) < slow_share * top)) continue;
        const double begin_s = lap.map.time_at(from);
        double end_s = std::min(begin_s + exit_s, lap.map.time_at(next_m));
        // Not into the braking for what comes.
        if (activity.known()) {
            const double behind_s = lap.map.time_at(corner.end_m);
            for (double t = std::max(begin_s + 1, behind_s); t < end_s; t += 0.02) {
                if (activity.braking(t)) end_s = t;
            }
        }
        out.push_back(
            timed({"Exit of " + corner.title(), {from, lap.map.distance_at(end_s)}, corner.number, corner.left}, lap));
    }
    return out;
}

/// Places of corners where a damper of one side moves fast: more than 2.5 times the middle of the lap, over 20 m.
std::vector<Stretch> kerbs_of(std::span<const PreparedLap> laps) {
    constexpr double step_m = 10, wide_m = 20;
    const PreparedLap& lap = quickest_of(laps);
    std::vector<Stretch> out;
    const auto cells = static_cast<std::size_t>(lap.map.length_m() / step_m);
    std::vector<std::size_t> seen(cells, 0);
    for (const PreparedLap& one : laps) {
        std::vector<char> here(cells, 0);
        for (const char* wheel : wheel_corners) {
            const DamperSpeed speed = damper_speed(one, std::string("damper_") + wheel);
            if (!speed.known()) continue;
            std::vector<double> moved(cells);
            for (std::size_t c = 0; c < cells; ++c) {
                const double from = static_cast<double>(c) * step_m;
                moved[c] =
                    speed.rms({one.map.time_at(from), one.map.time_at(std::min(from + wide_m, one.map.length_m()))});
            }
            std::vector<double> sorted;
            std::copy_if(moved.begin(), moved.end(), std::back_inserter(sorted),
                         [](double x) { return std::isfinite(x); });
            if (sorted.size() < 10) continue;
            std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2),
                             sorted.end());
            const double middle = sorted[sorted.size() / 2];
            for (std::size_t c = 0; c < cells; ++c) here[c] = here[c] != 0 || moved[c] > loud_share * middle;
        }
        for (std::size_t c = 0; c < cells; ++c) seen[c] += here[c] != 0 ? 1 : 0;
    }
    for (const Corner& corner : lap.track->corners) {
        const auto cell = [&](double m) {
            return static_cast<std::size_t>(std::clamp(m / step_m, 0.0, static_cast<double>(cells - 1)));
        };
        std::optional<std::size_t> first, last;
        for (std::size_t c = cell(corner.start_m - step_m); c <= cell(corner.end_m); ++c) {
            if (2 * seen[c] <= laps.size()) continue;
            if (!first) first = c;
            last = c;
        }
        if (!first) continue;
        const Interval range{static_cast<double>(*first) * step_m,
                             std::min(static_cast<double>(*last) * step_m + wide_m, lap.map.length_m())};
        out.push_back(timed({"Kerb of " + corner.title(), range, corner.number, corner.left}, lap));
    }
    return out;
}

}  // namespace

std::string_view stretch_kind_name(StretchKind kind) {
    return std::find_if(kinds.begin(), kinds.end(), [&](const KindRow& row) { return row.kind == kind; })->name;
}

std::optional<StretchKind> stretch_kind(std::string_view name) {
    const auto row = std::find_if(kinds.begin(), kinds.end(), [&](const KindRow& it) { return it.name == name; });
    return row == kinds.end() ? std::nullopt : std::optional(row->kind);
}

const PreparedLap& quickest_of(std::span<const PreparedLap> laps) {
    return *std::min_element(laps.begin(), laps.end(),
                             [](const PreparedLap& a, const PreparedLap& b) { return a.time_s() < b.time_s(); });
}

Interval time_on(const PreparedLap& lap, const Stretch& stretch) {
    return {lap.map.time_at(stretch.range_m.begin), lap.map.time_at(stretch.range_m.end)};
}

Stretch own_stretch(Interval range_m, std::span<const PreparedLap> laps) {
    const PreparedLap& lap = quickest_of(laps);
    Stretch out{fixed(range_m.begin, 0) + " to " + fixed(range_m.end, 0) + " m", range_m};
    const double middle = (range_m.begin + range_m.end) / 2;
    for (const Corner& corner : lap.track->corners) {
        if (middle < corner.start_m) break;
        out.corner = corner.number;
        out.left = corner.left;
    }
    return timed(std::move(out), lap);
}

std::vector<Stretch> stretches_of(StretchKind kind, std::span<const PreparedLap> laps) {
    const PreparedLap& lap = quickest_of(laps);
    const Track& track = *lap.track;
    std::vector<Stretch> out;
    switch (kind) {
        case StretchKind::lap:
            out.push_back(timed({"Lap", {0, lap.map.length_m()}}, lap));
            break;
        case StretchKind::straights:
            for (const Section& section : sections_of(track)) {
                if (section.corner == 0 && section.range_m.length() >= shortest_straight_m)
                    out.push_back(timed({section.name, section.range_m}, lap));
            }
            break;
        case StretchKind::corners:
            for (const Corner& corner : track.corners)
                out.push_back(timed({corner.title(), {corner.start_m, corner.end_m}, corner.number, corner.left}, lap));
            break;
        case StretchKind::exits:
            return exits_of(lap);
        case StretchKind::kerbs:
            return kerbs_of(laps);
    }
    return out;
}

}  // namespace rendak
