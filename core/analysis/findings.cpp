#include "core/analysis/findings.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/analysis/technique.h"
#include "core/analysis/wheel_events.h"
#include "core/laps/line_offset.h"

namespace rendak {
namespace {

/// One figure of a corner over the laps of both sides.
struct Compared {
    double a = 0, b = 0;   ///< means
    double scatter = 0;    ///< of one lap about its side's mean
    std::size_t seen = 0;  ///< laps of B beyond `least` on the mean's side
    std::size_t known_b = 0;
    [[nodiscard]] double more() const { return b - a; }
};

std::optional<Compared> compared(const std::vector<double>& a, const std::vector<double>& b, double least) {
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

struct Side {
    std::vector<std::vector<Technique>> laps;  ///< [lap][corner]
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

constexpr double least_corner_s = 0.03;

class Finder {
  public:
    Finder(std::span<const PreparedLap> a, std::span<const PreparedLap> b, const Ledger& ledger)
        : a_(a), b_(b), ledger_(ledger) {
        for (const PreparedLap& lap : a) side_a_.laps.push_back(technique_of(lap));
        for (const PreparedLap& lap : b) side_b_.laps.push_back(technique_of(lap));
        for (const PreparedLap& lap : b) offsets_.push_back(line_offset(a.front(), lap));
        for (const PreparedLap& lap : a) offsets_a_.push_back(line_offset(a.front(), lap));
        for (const PreparedLap& lap : b) wheels_.push_back(wheel_events(lap));
        for (const PreparedLap& lap : a) wheels_a_.push_back(wheel_events(lap));
        trust_m_ = std::hypot(a.front().trust_m, b.front().trust_m);
    }

    std::vector<LapFinding> all() {
        for (std::size_t k = 0; k + 1 < ledger_.rows.size(); ++k) in_corner(k);
        of_the_car();
        std::stable_sort(out_.begin(), out_.end(),
                         [](const LapFinding& x, const LapFinding& y) { return x.loss_s > y.loss_s; });
        return std::move(out_);
    }

  private:
    /// A loss that is worth a word: above the noise of places, and not chance where laps can tell.
    static bool is_told(const LedgerRow& row) {
        const auto sure = [](const std::optional<Interval>& it) { return !it || it->begin > 0; };
        return (row.own_s + row.carried_s.value_or(row.straight_s) >= least_corner_s && sure(row.likely_s)) ||
               (row.own_s >= least_corner_s && sure(row.likely_own_s));
    }
    /// What costs next to nothing, or little of the row, explains nothing.
    void add(LapFinding::Kind kind, const LedgerRow& row, double at_m, double size, const char* unit, double loss_s,
             std::size_t seen) {
        constexpr double least_s = 0.02, least_share = 0.2;
        if (loss_s < std::max(least_s, least_share * row.loss_s)) return;
        out_.push_back({kind, row.corner, at_m, size, unit, loss_s, seen, b_.size()});
    }
    /// Beyond what laps scatter, with as many laps as there are.
    [[nodiscard]] bool beyond_scatter(const Compared& it) const {
        const double error =
            it.scatter * std::sqrt(1.0 / static_cast<double>(a_.size()) + 1.0 / static_cast<double>(b_.size()));
        return std::abs(it.more()) > 2 * error;
    }

    void in_corner(std::size_t k) {
        const LedgerRow& row = ledger_.rows[k + 1];
        if (!is_told(row)) return;
        const std::size_t before = out_.size();
        const auto lifts = [](const Technique& it) { return it.lift_m.has_value(); };
        const auto brakes = [](const Technique& it) { return it.brake_on_m.has_value(); };
        const bool a_brakes = side_a_.share(k, brakes) > 0.5, b_brakes = side_b_.share(k, brakes) > 0.5;
        const bool a_lifts = side_a_.share(k, lifts) > 0.5 || a_brakes, b_lifts = side_b_.share(k, lifts) > 0.5;
        const auto count_b = [&](auto has) {
            return static_cast<std::size_t>(std::lround(side_b_.share(k, has) * static_cast<double>(b_.size())));
        };
        const double corner_s = row.own_s + row.carried_s.value_or(0);
        if (b_brakes && !a_brakes) {
            const auto at = side_b_.known(k, [](const Technique& it) { return it.brake_on_m; });
            const auto peak = side_b_.known(k, [](const Technique& it) { return it.brake_peak_mps2; });
            double size = 0;
            for (const double value : peak) size += value / static_cast<double>(peak.size()) / 9.80665;
            add(LapFinding::Kind::brakes_needlessly, row, at.front(), size, "g", corner_s, count_b(brakes));
        } else if (b_lifts && !a_lifts) {
            const auto least = side_b_.known(k, [](const Technique& it) { return std::optional(it.least_throttle); });
            const auto at = side_b_.known(k, [](const Technique& it) { return it.lift_m; });
            double size = 0;
            for (const double value : least) size += (1 - value) / static_cast<double>(least.size());
            // Without a pedal nobody knows by how much.
            if (side_b_.laps.front()[k].inferred) size = std::nan("");
            add(LapFinding::Kind::lifts, row, at.front(), 100 * size, "%", corner_s, count_b(lifts));
        }
        second_lift(k, row);
        if (a_lifts && b_lifts && out_.size() == before) early_lift(k, row);
        lock_ups(k, row);
        const bool brakes_for_nothing = b_brakes && !a_brakes;
        if (out_.size() == before || brakes_for_nothing) line(k, row);
        if (brakes_for_nothing) overslowing(k, row);
        const bool off_line = out_.size() > before && out_.back().kind == LapFinding::Kind::wide;
        if (out_.size() > before && (!off_line || brakes_for_nothing)) return;
        const std::size_t with_line = out_.size();
        // Who coasts comes slower to the brake: then it is late and soft.
        coasting(k, row);
        if (a_brakes && b_brakes && out_.size() == with_line) braking(k, row);
        // Who is slower where nobody slows down came slower.
        if (b_lifts) overslowing(k, row);
        if (out_.size() == before) throttle(k, row);
    }

    void second_lift(std::size_t k, const LedgerRow& row) {
        const auto lifts = [](const Technique& it) { return it.second_lift_m.has_value(); };
        if (side_b_.share(k, lifts) <= 0.5 || side_a_.share(k, lifts) > 0.3) return;
        const auto at = side_b_.known(k, [](const Technique& it) { return it.second_lift_m; });
        double size = 0;
        for (const auto& lap : side_b_.laps)
            size += (1 - lap[k].least_behind) / static_cast<double>(side_b_.laps.size());
        add(LapFinding::Kind::lifts, row, at.front(), 100 * size, "%", row.exit_s + row.carried_s.value_or(0),
            at.size());
    }

    /// On part throttle long before A lifts.
    void early_lift(std::size_t k, const LedgerRow& row) {
        constexpr double least_m = 40, off_throttle = 0.08, full = 0.92;
        const auto lifts_a = side_a_.known(k, [](const Technique& it) { return it.lift_m; });
        if (lifts_a.empty() || side_b_.laps.front()[k].inferred) return;
        double middle = 0;
        for (const double place : lifts_a) middle += place / static_cast<double>(lifts_a.size());
        double size = 0, at = 0;
        std::size_t seen = 0;
        for (std::size_t n = 0; n < b_.size(); ++n) {
            const Technique& it = side_b_.laps[n][k];
            if (!it.lift_m || middle - *it.lift_m < least_m) continue;
            const double end = std::min(middle, it.brake_on_m.value_or(middle));
            const DriverActivity driver = b_[n].activity();
            double sum = 0;
            int count = 0;
            for (double s = *it.lift_m + 10; s < end - 5; s += 2, ++count) sum += driver.throttle(b_[n].map.time_at(s));
            if (count == 0 || !(sum / count > off_throttle) || !(sum / count < full)) continue;
            size += 1 - sum / count;
            at = *it.lift_m;
            ++seen;
        }
        if (2 * seen <= b_.size()) return;
        add(LapFinding::Kind::lifts, row, at, 100 * size / static_cast<double>(seen), "%", row.own_s, seen);
    }

    void braking(std::size_t k, const LedgerRow& row) {
        // Without a pedal the begin of braking is told less well.
        const double least_m = ledger_.inferred ? 8 : 4;
        const double least = std::max(least_m, 2 * trust_m_);
        const auto on = compared(side_a_.known(k, [](const Technique& it) { return it.brake_on_m; }),
                                 side_b_.known(k, [](const Technique& it) { return it.brake_on_m; }), least);
        constexpr double softer_share = 0.07, least_mps2 = 0.6;
        const auto peak =
            compared(side_a_.known(k, [](const Technique& it) { return it.brake_peak_mps2; }),
                     side_b_.known(k, [](const Technique& it) { return it.brake_peak_mps2; }), least_mps2);
        const bool softly =
            peak && -peak->more() > std::max(least_mps2, softer_share * peak->a) && beyond_scatter(*peak);
        const auto from = side_b_.known(k, [](const Technique& it) { return it.brake_on_m; });
        if (softly)
            add(LapFinding::Kind::brakes_softly, row, from.front(), -peak->more() / 9.80665, "g",
                row.braking_s + row.entry_s, peak->seen);
        // A softer brake has to begin earlier: that is no fault of its own.
        if (on && !softly && -on->more() >= least && beyond_scatter(*on))
            add(LapFinding::Kind::brakes_early, row, on->b, -on->more(), "m", row.braking_s + row.entry_s, on->seen);
        if (on && on->more() >= least && beyond_scatter(*on))
            add(LapFinding::Kind::brakes_late, row, on->b, on->more(), "m", row.entry_s + row.exit_s, on->seen);
    }

    void coasting(std::size_t k, const LedgerRow& row) {
        constexpr double least_s = 0.2;
        const auto it =
            compared(side_a_.known(k, [](const Technique& t) { return std::optional(t.coasting_s); }),
                     side_b_.known(k, [](const Technique& t) { return std::optional(t.coasting_s); }), least_s);
        if (!it || it->more() < least_s || !beyond_scatter(*it)) return;
        const auto at = side_b_.known(k, [](const Technique& t) { return t.lift_m ? t.lift_m : t.brake_on_m; });
        add(LapFinding::Kind::coasts, row, at.empty() ? row.range_m.begin : at.front(), it->more(), "s",
            std::max(0.0, row.braking_s) + std::max(0.0, row.entry_s), it->seen);
    }

    void overslowing(std::size_t k, const LedgerRow& row) {
        constexpr double least_mps = 0.35;
        const auto it = compared(side_a_.known(k, [](const Technique& t) { return t.slowest_mps; }),
                                 side_b_.known(k, [](const Technique& t) { return t.slowest_mps; }), least_mps);
        if (!it || -it->more() < std::max(least_mps, 0.012 * it->a) || !beyond_scatter(*it)) return;
        const auto at = side_b_.known(k, [](const Technique& t) { return t.slowest_m; });
        add(LapFinding::Kind::overslowed, row, at.front(), -it->more() * 3.6, "km/h",
            row.entry_s + row.exit_s + row.carried_s.value_or(0), it->seen);
    }

    /// Off A's line to the outside where A is nearest to the inner edge.
    void line(std::size_t k, const LedgerRow& row) {
        constexpr double least_m = 0.8;
        const Corner& corner = a_.front().track->corners[k];
        // Of both sides' laps against one of A's: a single odd line of A is no reference.
        double error = 0;
        const auto outside_of = [&](const std::vector<LineOffset>& offsets) {
            std::vector<double> out;
            for (const LineOffset& it : offsets) {
                const double left = it.at(corner.apex_m);
                if (std::isfinite(left)) out.push_back(corner.left ? -left : left);
                error = std::max(error, it.error_m);
            }
            return out;
        };
        const auto outside_a = outside_of(offsets_a_), outside = outside_of(offsets_);
        const auto found = compared(outside_a, outside, least_m);
        if (!found || outside.size() < b_.size()) return;
        const double count = static_cast<double>(outside.size());
        if (found->more() < std::max(least_m, 2 * error / std::sqrt(count)) || 2 * found->seen < outside.size() + 1)
            return;
        add(LapFinding::Kind::wide, row, corner.apex_m, found->more(), "m", row.loss_s, found->seen);
    }

    void throttle(std::size_t k, const LedgerRow& row) {
        const double least = std::max(8.0, 2 * trust_m_);
        const auto it = compared(side_a_.known(k, [](const Technique& t) { return t.full_for_good_m; }),
                                 side_b_.known(k, [](const Technique& t) { return t.full_for_good_m; }), least);
        if (!it || it->more() < least || !beyond_scatter(*it) || row.exit_s + row.carried_s.value_or(0) < 0.02) return;
        add(LapFinding::Kind::throttle_late, row, it->b, it->more(), "m", row.exit_s + row.carried_s.value_or(0),
            it->seen);
    }

    void lock_ups(std::size_t k, const LedgerRow& row) {
        const double end = std::max(row.straight_m.begin, a_.front().track->corners[k].apex_m);
        const auto in = [&](const std::vector<std::vector<WheelEvent>>& laps, WheelEvent::Kind kind, double& size,
                            double& at) {
            std::size_t count = 0;
            for (const auto& lap : laps) {
                double longest = 0;
                for (const WheelEvent& it : lap) {
                    if (it.kind != kind || it.range_m.begin < row.range_m.begin || it.range_m.begin > end) continue;
                    longest = std::max(longest, it.duration_s);
                    at = it.range_m.begin;
                }
                count += longest > 0;
                size = std::max(size, longest);
            }
            return count;
        };
        for (const auto& [wheel, kind] : {std::pair{WheelEvent::Kind::locks_up, LapFinding::Kind::locks_up},
                                          {WheelEvent::Kind::spins, LapFinding::Kind::spins_wheels}}) {
            double size = 0, at = 0, other = 0, nowhere = 0;
            const std::size_t here = in(wheels_, wheel, size, at), there = in(wheels_a_, wheel, other, nowhere);
            if (2 * here <= b_.size() || 2 * there > a_.size()) continue;
            add(kind, row, at, size, "s", row.own_s, here);
        }
    }

    /// Where B pulls less on most straights that are long enough to tell.
    void of_the_car() {
        constexpr double least_straight_m = 100, least_s = 0.012;
        std::size_t straights = 0, weaker = 0;
        double loss = 0;
        for (const LedgerRow& row : ledger_.rows) {
            loss += row.pull_s.value_or(0);
            if (row.straight_m.length() < least_straight_m || !row.pull_s) continue;
            ++straights;
            weaker += *row.pull_s > least_s * std::min(1.0, row.straight_m.length() / 300) &&
                      row.end_mps - row.begin_mps < -0.2;
        }
        if (straights < 2 || 3 * weaker < 2 * straights || loss < 0.06) return;
        LapFinding it{LapFinding::Kind::pulls_less,     0,    0,         0,
                      "% of the time on the straights", loss, b_.size(), b_.size()};
        double time = 0;
        const LapProfile base = profile_of(a_.front());
        for (const LedgerRow& row : ledger_.rows)
            time += base.elapsed_at(row.straight_m.end) - base.elapsed_at(row.straight_m.begin);
        it.size = 100 * loss / std::max(1.0, time);
        out_.push_back(it);
    }

    std::span<const PreparedLap> a_, b_;
    const Ledger& ledger_;
    Side side_a_, side_b_;
    std::vector<LineOffset> offsets_, offsets_a_;  ///< beside A's first lap
    std::vector<std::vector<WheelEvent>> wheels_, wheels_a_;
    double trust_m_ = 0;
    std::vector<LapFinding> out_;
};

}  // namespace

std::string_view kind_name(LapFinding::Kind kind) {
    switch (kind) {
        case LapFinding::Kind::brakes_early:
            return "brakes_early";
        case LapFinding::Kind::brakes_late:
            return "brakes_late";
        case LapFinding::Kind::brakes_softly:
            return "brakes_softly";
        case LapFinding::Kind::overslowed:
            return "overslowed";
        case LapFinding::Kind::lifts:
            return "lifts";
        case LapFinding::Kind::brakes_needlessly:
            return "brakes_needlessly";
        case LapFinding::Kind::coasts:
            return "coasts";
        case LapFinding::Kind::throttle_late:
            return "throttle_late";
        case LapFinding::Kind::wide:
            return "wide";
        case LapFinding::Kind::locks_up:
            return "locks_up";
        case LapFinding::Kind::spins_wheels:
            return "spins_wheels";
        case LapFinding::Kind::pulls_less:
            return "pulls_less";
    }
    return "";
}

Result<std::vector<LapFinding>> findings_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    const auto ledger = ledger_of(a, b);
    if (!ledger) return pass_on(ledger.error());
    return Finder(a, b, *ledger).all();
}

std::string finding_words(const LapFinding& it, const Track& track, const WordUnits& units) {
    const auto number = [](double value, int decimals) {
        char buffer[32];
        std::snprintf(buffer, sizeof buffer, "%.*f", decimals, value);
        return std::string(buffer);
    };
    const auto length = [&](double m, int decimals) { return number(m * units.per_m, decimals) + " " + units.length; };
    std::string where = "On the straights";
    for (const Corner& corner : track.corners) {
        if (it.corner == corner.number) where = corner.title();
    }
    std::string what;
    switch (it.kind) {
        case LapFinding::Kind::brakes_early:
            what = "brakes " + length(it.size, 0) + " earlier";
            break;
        case LapFinding::Kind::brakes_late:
            what = "brakes " + length(it.size, 0) + " later";
            break;
        case LapFinding::Kind::brakes_softly:
            what = "brakes " + number(it.size, 2) + " g softer";
            break;
        case LapFinding::Kind::overslowed:
            what = number(it.size * units.per_kmh, 1) + " " + units.speed + " slower at the slowest place";
            break;
        case LapFinding::Kind::lifts:
            what = std::isfinite(it.size) ? "lifts by " + number(it.size, 0) + " % where A stays flat"
                                          : "lifts where A stays flat";
            break;
        case LapFinding::Kind::brakes_needlessly:
            what = "brakes (" + number(it.size, 2) + " g) where A does not";
            break;
        case LapFinding::Kind::coasts:
            what = "is on neither pedal " + number(it.size, 2) + " s longer";
            break;
        case LapFinding::Kind::throttle_late:
            what = "on full throttle for good " + length(it.size, 0) + " later";
            break;
        case LapFinding::Kind::wide:
            what = length(it.size, 1) + " further out at the apex";
            break;
        case LapFinding::Kind::locks_up:
            what = "locks a wheel up for " + number(it.size, 2) + " s";
            break;
        case LapFinding::Kind::spins_wheels:
            what = "spins a wheel for " + number(it.size, 2) + " s";
            break;
        case LapFinding::Kind::pulls_less:
            what = "pulls less: possibly power, drag, weight or wind";
            break;
    }
    std::string out = where + ": " + what;
    if (it.of > 1) out += ", on " + std::to_string(it.seen_on) + " of " + std::to_string(it.of) + " laps";
    return out + "; costs " + number(it.loss_s, 2) + " s.";
}

}  // namespace rendak
