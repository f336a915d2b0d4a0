#pragma once

#include <cmath>
#include <numeric>
#include <optional>
#include <span>
#include <vector>

#include "core/analysis/findings.h"
#include "core/analysis/set_difference.h"
#include "core/analysis/technique.h"
#include "core/analysis/wheel_events.h"
#include "core/base/parallel.h"
#include "core/laps/line_offset.h"

namespace rendak {

/// One figure of a corner over the laps of both sides.
struct Compared {
    double a = 0, b = 0;   ///< means
    double scatter = 0;    ///< of one lap about its side's mean
    std::size_t seen = 0;  ///< laps of B beyond `least` on the mean's side
    std::size_t known_b = 0;
    [[nodiscard]] double more() const { return b - a; }
};

inline std::optional<Compared> compared(const std::vector<double>& a, const std::vector<double>& b, double least) {
    if (a.empty() || b.empty()) return std::nullopt;
    Compared out;
    for (const double value : a) out.a += value / static_cast<double>(a.size());
    for (const double value : b) out.b += value / static_cast<double>(b.size());
    double squares = 0;
    for (const double value : a) squares += (value - out.a) * (value - out.a);
    for (const double value : b) squares += (value - out.b) * (value - out.b);
    const auto freedom = static_cast<double>(a.size() + b.size()) - 2;
    out.scatter = freedom > 0 ? std::sqrt(squares / freedom) : 0;
    out.known_b = b.size();
    for (const double value : b) out.seen += std::abs(value - out.a) >= least && (value > out.a) == (out.b > out.a);
    return out;
}

/// A set of laps with what its driver does.
struct Side {
    Side(std::span<const PreparedLap> of, const PreparedLap& baseline) : prepared(of) {
        laps.resize(of.size());
        offsets.resize(of.size());
        wheels.resize(of.size());
        constexpr std::size_t laps_a_thread = 2;
        parallel_for(of.size(), laps_a_thread, [&](std::size_t k) {
            laps[k] = technique_of(of[k]);
            offsets[k] = line_offset(baseline, of[k]);
            wheels[k] = wheel_events(of[k]);
        });
    }
    [[nodiscard]] std::size_t size() const { return prepared.size(); }

    std::span<const PreparedLap> prepared;
    std::vector<std::vector<Technique>> laps;  ///< [lap][corner]
    std::vector<LineOffset> offsets;           ///< beside one lap, the same for both sides
    std::vector<std::vector<WheelEvent>> wheels;
    [[nodiscard]] std::vector<double> known(std::size_t corner, auto value) const {
        std::vector<double> out;
        for (const auto& lap : laps) {
            if (const std::optional<double> it = value(lap[corner])) out.push_back(*it);
        }
        return out;
    }
    /// Share of the laps that have it.
    [[nodiscard]] double share(std::size_t corner, auto has) const {
        double count = 0;
        for (const auto& lap : laps) count += has(lap[corner]) ? 1 : 0;
        return count / static_cast<double>(laps.size());
    }
};

/// Beyond what laps scatter, with as many laps as there are.
[[nodiscard]] inline bool beyond_scatter(const Compared& it, const Side& a, const Side& b) {
    const double error =
        it.scatter * std::sqrt(1.0 / static_cast<double>(a.size()) + 1.0 / static_cast<double>(b.size()));
    return std::abs(it.more()) > 2 * error;
}

/// By how much earlier a brake that stops less by a share has to begin, and as much again: what is more is early by
/// itself.
[[nodiscard]] inline double earlier_for_softness(const Side& a, std::size_t corner, double share) {
    const auto way = a.known(corner, [](const Technique& it) {
        return it.brake_on_m && it.slowest_m ? std::optional(*it.slowest_m - *it.brake_on_m) : std::nullopt;
    });
    return way.empty() || !(share > 0) || share >= 1 ? 0 : 2 * mean_value(way) * share / (1 - share);
}

/// What is the same in most corners, or on most straights, is of the lap and not of each of them: it is added, and what
/// it explains of single corners is taken out.
void find_what_is_everywhere(const Side& a, const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings);

/// Laps of B that lose much more in a corner than its other laps do.
void find_odd_laps(const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings);

}  // namespace rendak
