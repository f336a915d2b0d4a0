#include "core/analysis/findings.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/analysis/finding_sides.h"
#include "core/analysis/set_difference.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

constexpr double least_corner_s = 0.03;

class Finder {
  public:
    Finder(const Side& a, const Side& b, const Ledger& ledger)
        : a_(a.prepared), b_(b.prepared), ledger_(ledger), side_a_(a), side_b_(b) {
        trust_m_ = std::hypot(a_.front().trust_m, b_.front().trust_m);
    }

    std::vector<LapFinding> all() {
        for (std::size_t k = 0; k + 1 < ledger_.rows.size(); ++k) in_corner(k);
        find_what_is_everywhere(side_a_, side_b_, ledger_, out_);
        find_odd_laps(side_b_, ledger_, out_);
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
    /// What costs next to nothing, or little of the row, explains nothing: then it is not added.
    LapFinding* add(LapFinding::Kind kind, const LedgerRow& row, double at_m, double size, const char* unit,
                    double loss_s, std::size_t seen) {
        constexpr double least_s = 0.02, least_share = 0.2;
        if (loss_s < std::max(least_s, least_share * row.loss_s)) return nullptr;
        out_.push_back({kind, row.corner, at_m, size, unit, loss_s, seen, b_.size()});
        return &out_.back();
    }
    [[nodiscard]] static double mean_speed(std::span<const PreparedLap> laps, Interval range_m) {
        std::vector<double> means;
        for (const PreparedLap& lap : laps) means.push_back(figures_in_range(lap, "speed", range_m).mean);
        return mean_value(means);
    }
    [[nodiscard]] bool beyond_scatter(const Compared& it) const { return rendak::beyond_scatter(it, side_a_, side_b_); }

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
            for (const double value : peak) size += value / static_cast<double>(peak.size()) / standard_gravity_mps2;
            // A brush is told apart from a brake that only slows.
            const bool brush = side_b_.share(k, [](const Technique& it) { return it.brushed; }) > 0.5;
            add(brush ? LapFinding::Kind::brushes_brake : LapFinding::Kind::brakes_needlessly, row, at.front(), size,
                "g", corner_s, count_b(brakes));
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
        hesitation(k, row);
        if (a_lifts && b_lifts && out_.size() == before) early_lift(k, row);
        lock_ups(k, row);
        const bool brakes_for_nothing = b_brakes && !a_brakes;
        if (out_.size() == before || brakes_for_nothing) line(k, row);
        if (brakes_for_nothing) overslowing(k, row);
        const bool off_line = out_.size() > before && is_of_line(out_.back().kind);
        if (out_.size() > before && (!off_line || brakes_for_nothing)) return;
        const std::size_t with_line = out_.size();
        // Who coasts comes slower to the brake: then it is late and soft.
        coasting(k, row);
        if (a_brakes && b_brakes && out_.size() == with_line) braking(k, row);
        // Who is slower where nobody slows down came slower.
        if (b_lifts) overslowing(k, row);
        if (out_.size() == before) throttle(k, row);
    }

    static bool is_of_line(LapFinding::Kind kind) {
        using enum LapFinding::Kind;
        return kind == wide || kind == turns_in_early || kind == turns_in_late || kind == pinched;
    }

    /// Some of the throttle is taken back on the way to full, or held short of it, with a foot that was never all down.
    void hesitation(std::size_t k, const LedgerRow& row) {
        constexpr double least = 0.1;
        constexpr double least_still_s = 0.4;
        const auto takes_back = [](const Technique& it) {
            return it.throttle.back.value_or(0) >= least || it.throttle.held_s >= least_still_s;
        };
        if (side_b_.share(k, takes_back) <= 0.5 || side_a_.share(k, takes_back) > 0.3) return;
        if (!out_.empty() && out_.back().corner == row.corner && out_.back().kind == LapFinding::Kind::lifts) return;
        double size = 0, at = 0;
        std::size_t seen = 0;
        for (const auto& lap : side_b_.laps) {
            if (!takes_back(lap[k])) continue;
            const ThrottleShape& it = lap[k].throttle;
            const bool still = it.held_s >= least_still_s;
            size += still ? 1 - it.held_at : *it.back;
            at = still ? it.held_m : it.back_m.value_or(row.range_m.begin);
            ++seen;
        }
        add(LapFinding::Kind::throttle_hesitates, row, at, 100 * size / static_cast<double>(seen), "%",
            row.exit_s + row.carried_s.value_or(0), seen);
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
        const double middle = mean_value(lifts_a);
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

    /// Metres by which B may brake later for coming slower to a place (less than 0: faster), stopping as hard.
    [[nodiscard]] double later_by_speed(double place_m, double stopping_mps2) const {
        if (!(stopping_mps2 > 1)) return 0;
        const Interval before{place_m - 25, place_m - 5};
        const double of_a = mean_speed(a_, before), of_b = mean_speed(b_, before);
        const double by = of_a * (of_a - of_b) / stopping_mps2;
        return std::isfinite(by) ? by : 0;
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
        // Who comes faster has to begin earlier, who comes slower may begin later, by that much.
        const double begins = on ? on->more() - later_by_speed(std::min(on->a, on->b), peak ? peak->a : 0) : 0;
        if (softly)
            add(LapFinding::Kind::brakes_softly, row, from.front(), -peak->more() / standard_gravity_mps2, "g",
                row.braking_s + row.entry_s, peak->seen);
        // A softer brake has to begin earlier: so much is no fault of its own.
        const double for_softness = softly ? earlier_for_softness(side_a_, k, -peak->more() / peak->a) : 0;
        if (on && -on->more() >= least && -begins >= least + for_softness && beyond_scatter(*on))
            add(LapFinding::Kind::brakes_early, row, on->b, -on->more(), "m", row.braking_s + row.entry_s, on->seen);
        // Begun at the same place and kept for longer.
        constexpr double least_longer_m = 8;
        const auto off = compared(side_a_.known(k, [](const Technique& it) { return it.brake_off_m; }),
                                  side_b_.known(k, [](const Technique& it) { return it.brake_off_m; }), least_longer_m);
        if (on && off && !softly && std::abs(on->more()) < least && off->more() >= std::max(least_longer_m, least) &&
            beyond_scatter(*off))
            add(LapFinding::Kind::releases_late, row, off->b, off->more(), "m", row.entry_s + row.exit_s, off->seen);
        if (on && on->more() >= least && begins >= least && beyond_scatter(*on))
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
        if (!it || !beyond_scatter(*it)) return;
        const double least = std::max(least_mps, 0.012 * it->a);
        if (-it->more() < least) return;
        const auto at = side_b_.known(k, [](const Technique& t) { return t.slowest_m; });
        // Who does not brake is as much slower as he came.
        const auto brakes = [](const Technique& t) { return t.brake_on_m.has_value(); };
        if (side_b_.share(k, brakes) < 0.5) {
            const Interval begin{row.range_m.begin - 15, row.range_m.begin + 5};
            const double came_slower = mean_speed(a_, begin) - mean_speed(b_, begin);
            if (came_slower > 0 && -it->more() - came_slower < least) return;
        }
        LapFinding* added = add(LapFinding::Kind::overslowed, row, at.front(), -it->more() * 3.6, "km/h",
                                row.entry_s + row.exit_s + row.carried_s.value_or(0), it->seen);
        if (added == nullptr) return;
        const double least_m = std::max(5.0, 2 * trust_m_);
        const auto place = compared(side_a_.known(k, [](const Technique& t) { return t.slowest_m; }), at, least_m);
        if (place && -place->more() >= least_m && beyond_scatter(*place)) added->earlier_m = -place->more();
    }

    /// Metres to the outside of A's line over a stretch in the mean, over the laps of both sides against one of A's: a
    /// single odd line of A is no reference. Empty where a lap's line is not known.
    struct Outside {
        Compared found;
        double least_m = 0;  ///< what the positions can tell
        [[nodiscard]] bool is_mostly() const { return 2 * found.seen >= found.known_b + 1; }
    };
    [[nodiscard]] std::optional<Outside> outside_over(const Corner& corner, Interval range_m) const {
        constexpr double least_m = 0.8, grid_m = 4;
        double error = 0;
        const auto of = [&](const std::vector<LineOffset>& offsets) {
            std::vector<double> out;
            for (const LineOffset& it : offsets) {
                double sum = 0, count = 0;
                for (double s = range_m.begin; s <= range_m.end; s += grid_m, ++count) sum += it.at(s);
                if (std::isfinite(sum)) out.push_back((corner.left ? -1 : 1) * sum / count);
                error = std::max(error, it.error_m);
            }
            return out;
        };
        const auto outside_a = of(side_a_.offsets), outside = of(side_b_.offsets);
        const auto found = compared(outside_a, outside, least_m / 2);
        if (!found || outside.size() < b_.size()) return std::nullopt;
        return Outside{*found, std::max(least_m, 2 * error / std::sqrt(static_cast<double>(outside.size())))};
    }

    /// Further out where A is nearest to the inner edge; or turned in later (further out on the way in, further in on
    /// the way out) or earlier; or an arc that is tightened in its middle.
    void line(std::size_t k, const LedgerRow& row) {
        const Corner& corner = a_.front().track->corners[k];
        const double in_m = corner.apex_m - corner.start_m, out_m = corner.end_m - corner.apex_m;
        const auto entry = outside_over(corner, {corner.apex_m - 0.7 * in_m, corner.apex_m - 0.15 * in_m}),
                   exit = outside_over(corner, {corner.apex_m + 0.15 * out_m, corner.apex_m + 0.9 * out_m});
        if (entry && exit && entry->is_mostly() && exit->is_mostly()) {
            const double in = entry->found.more(), out = exit->found.more();
            const bool crosses = in * out < 0 && std::min(std::abs(in), std::abs(out)) >= 0.6 * entry->least_m;
            if (crosses && std::max(std::abs(in), std::abs(out)) >= entry->least_m && beyond_scatter(entry->found)) {
                add(in > 0 ? LapFinding::Kind::turns_in_late : LapFinding::Kind::turns_in_early, row,
                    corner.apex_m - 0.5 * in_m, std::abs(in), "m", row.own_s + row.carried_s.value_or(0),
                    entry->found.seen);
                return;
            }
        }
        const auto apex = outside_over(corner, {corner.apex_m, corner.apex_m});
        if (apex && apex->found.more() >= apex->least_m && apex->is_mostly()) {
            add(LapFinding::Kind::wide, row, corner.apex_m, apex->found.more(), "m", row.loss_s, apex->found.seen);
            return;
        }
        constexpr double tighter = 0.15;
        const auto arc = compared(side_a_.known(k, [](const Technique& it) { return it.arc.tightness; }),
                                  side_b_.known(k, [](const Technique& it) { return it.arc.tightness; }), tighter);
        const auto radius = compared(side_a_.known(k, [](const Technique& it) { return it.arc.least_radius_m; }),
                                     side_b_.known(k, [](const Technique& it) { return it.arc.least_radius_m; }), 1);
        if (!arc || !radius || arc->more() < tighter * arc->a || radius->more() > -0.1 * radius->a) return;
        if (!beyond_scatter(*arc) || !beyond_scatter(*radius) || 2 * arc->seen <= arc->known_b) return;
        const auto at = side_b_.known(k, [](const Technique& it) { return it.arc.tightest_m; });
        add(LapFinding::Kind::pinched, row, at.front(), -100 * radius->more() / radius->a, "%",
            row.own_s + row.carried_s.value_or(0), arc->seen);
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
            const std::size_t here = in(side_b_.wheels, wheel, size, at),
                              there = in(side_a_.wheels, wheel, other, nowhere);
            if (2 * here <= b_.size() || 2 * there > a_.size()) continue;
            add(kind, row, at, size, "s", row.own_s, here);
        }
    }

    std::span<const PreparedLap> a_, b_;
    const Ledger& ledger_;
    const Side &side_a_, &side_b_;
    double trust_m_ = 0;
    std::vector<LapFinding> out_;
};

}  // namespace

Result<std::vector<LapFinding>> findings_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    const auto ledger = ledger_of(a, b);
    if (!ledger) return pass_on(ledger.error());
    const Side side_a(a, a.front()), side_b(b, a.front());
    return Finder(side_a, side_b, *ledger).all();
}

Result<LapStory> story_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    auto ledger = ledger_of(a, b);
    if (!ledger) return pass_on(ledger.error());
    const auto other_way = ledger_of(b, a);
    if (!other_way) return pass_on(other_way.error());
    LapStory out;
    const Side side_a(a, a.front()), side_b(b, a.front());
    out.lost = Finder(side_a, side_b, *ledger).all();
    out.won = Finder(side_b, side_a, *other_way).all();
    out.ledger = std::move(*ledger);
    return out;
}

}  // namespace rendak
