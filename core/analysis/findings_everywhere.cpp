#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/analysis/finding_sides.h"
#include "core/analysis/set_difference.h"
#include "core/base/median.h"
#include "core/units/gravity.h"

namespace rendak {
namespace {

using Kind = LapFinding::Kind;

/// Where B pulls less on most straights that are long enough to tell.
void pulls_less(const Side& a, const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings) {
    constexpr double least_straight_m = 100, least_s = 0.012;
    std::size_t straights = 0, slower = 0, weaker = 0;
    double loss = 0;
    for (const LedgerRow& row : ledger.rows) {
        loss += row.pull_s.value_or(0);
        if (row.straight_m.length() < least_straight_m || !row.pull_s) continue;
        ++straights;
        const bool loses = *row.pull_s > least_s * std::min(1.0, row.straight_m.length() / 300);
        slower += loses;
        weaker += loses && row.end_mps - row.begin_mps < -0.2;
    }
    constexpr double much_s = 0.06, surely_s = 0.04;
    const bool on_most = 3 * weaker >= 2 * straights && loss >= much_s;
    const bool surely = ledger.likely_pull_s && ledger.likely_pull_s->begin > 0.25 * loss && loss >= surely_s;
    if (straights < 2 || (!on_most && !(surely && 3 * slower >= 2 * straights))) return;
    double time = 0;
    const LapProfile base = profile_of(a.prepared.front());
    for (const LedgerRow& row : ledger.rows)
        time += base.elapsed_at(row.straight_m.end) - base.elapsed_at(row.straight_m.begin);
    const auto& laps = ledger.lap_pulls_s;
    const auto seen = static_cast<std::size_t>(
        std::count_if(laps.begin(), laps.end(), [&](double lost) { return lost > surely_s / 2; }));
    findings.push_back({Kind::pulls_less, 0, 0, 100 * loss / std::max(1.0, time), "% of the time on the straights",
                        loss, seen, b.size()});
}

/// Softer on the brake in most corners that both brake for.
void brakes_softly(const Side& a, const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings) {
    // A short touch does not show how hard somebody brakes.
    constexpr double softer_share = 0.05, middle_share = 0.06, long_s = 0.6;
    std::vector<std::size_t> softer;
    std::vector<double> shares;
    std::vector<int> explained;
    double size = 0, loss = 0;
    for (std::size_t k = 0; k + 1 < ledger.rows.size(); ++k) {
        const auto peak = [](const Technique& it) { return it.brake_peak_mps2; };
        const auto known_a = a.known(k, peak), known_b = b.known(k, peak);
        if (2 * known_a.size() <= a.size() || 2 * known_b.size() <= b.size()) continue;
        const auto brake_s = a.known(k, [](const Technique& it) { return std::optional(it.brake_s); });
        if (mean_value(brake_s) < long_s) continue;
        const auto it = compared(known_a, known_b, 0);
        shares.push_back(-it->more() / it->a);
        if (shares.back() > softer_share / 4) explained.push_back(ledger.rows[k + 1].corner);
        if (shares.back() < softer_share) continue;
        softer.push_back(k);
        size += -it->more();
        loss += std::max(0.0, ledger.rows[k + 1].braking_s) + std::max(0.0, ledger.rows[k + 1].entry_s);
    }
    const bool few = softer.size() < 3 && (softer.size() < 2 || softer.size() < shares.size());
    if (few || 10 * softer.size() < 7 * shares.size() || median_of(shares) < middle_share) return;
    constexpr double least_s = 0.05;
    if (loss < least_s) return;
    std::erase_if(findings, [&](const LapFinding& it) {
        if (it.kind != Kind::brakes_softly && it.kind != Kind::brakes_early) return false;
        std::size_t k = 0;
        while (k + 2 < ledger.rows.size() && ledger.rows[k + 1].corner != it.corner) ++k;
        if (it.kind == Kind::brakes_early) return it.size < earlier_for_softness(a, k, median_of(shares));
        return std::count(explained.begin(), explained.end(), it.corner) > 0;
    });
    std::size_t seen = 0;
    for (const auto& lap : b.laps) {
        std::size_t here = 0;
        for (const std::size_t k : softer) {
            const auto known_a = a.known(k, [](const Technique& it) { return it.brake_peak_mps2; });
            const double of_a = mean_value(known_a);
            here += lap[k].brake_peak_mps2.value_or(of_a) < (1 - softer_share) * of_a;
        }
        seen += 2 * here > softer.size();
    }
    findings.push_back({Kind::brakes_softly, 0, 0, size / static_cast<double>(softer.size()) / standard_gravity_mps2,
                        "g", loss, seen, b.size()});
}

/// Slower at the slowest place of most corners, by a share of the lateral acceleration that is like in all of them or
/// grows with the speed.
void carries_less(const Side& a, const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings) {
    constexpr double least_share = 0.004, middle_share = 0.012, least_s = 0.05;
    struct Corner {
        std::size_t k;
        double speed_mps, less_mps, less;  ///< `less`: of the square of the speed, a share
        bool sure;
        /// By which 1/v² is larger.
        [[nodiscard]] double step() const { return less / (1 - less) / (speed_mps * speed_mps); }
    };
    // Flat out it is the car's power that makes the speed: what counts is where A nearly always slows down. In the
    // others B may have to where A need not.
    constexpr double nearly_always = 0.8;
    std::vector<Corner> corners, others;
    for (std::size_t k = 0; k + 1 < ledger.rows.size(); ++k) {
        const auto slowest = [](const Technique& it) { return it.slowest_mps; };
        const auto slows = [](const Technique& it) { return it.lift_m || it.brake_on_m; };
        const auto it = compared(a.known(k, slowest), b.known(k, slowest), 0);
        if (!it) continue;
        const double less = 1 - it->b * it->b / (it->a * it->a);
        const Corner corner{k, it->a, -it->more(), less, less > least_share && beyond_scatter(*it, a, b)};
        (a.share(k, slows) >= nearly_always && b.share(k, slows) >= nearly_always ? corners : others).push_back(corner);
    }
    const auto down = static_cast<std::size_t>(
        std::count_if(corners.begin(), corners.end(), [](const Corner& it) { return it.less > least_share; }));
    const bool all_sure = std::all_of(corners.begin(), corners.end(), [](const Corner& it) { return it.sure; });
    if (corners.size() < 2 || 10 * down < 8 * corners.size() || (corners.size() < 4 && !all_sure)) return;
    // One lap of each side scatters by about a hundredth from corner to corner.
    constexpr double single_share = 0.025;
    const bool singles = a.size() < 2 || b.size() < 2;
    const auto sure = std::count_if(corners.begin(), corners.end(), [](const Corner& it) { return it.sure; });
    std::vector<double> shares;
    for (const Corner& it : corners) shares.push_back(it.less);
    const double middle = median_of(shares);
    if (middle < (singles ? single_share : middle_share) || 2 * static_cast<std::size_t>(sure) < corners.size()) return;
    // At the limit of grip the bend is g·µ/v² + k: less downforce adds the same to 1/v² in every corner, less grip adds
    // a share of it. Which of the two fits better?
    std::vector<double> steps;
    for (const Corner& it : corners) steps.push_back(it.step());
    const double step = median_of(steps);
    const auto n = static_cast<double>(corners.size());
    double off_if_downforce = 0, off_if_grip = 0;
    for (const Corner& it : corners) {
        const double square = it.speed_mps * it.speed_mps;
        off_if_downforce += std::abs(it.step() - step) * square;
        off_if_grip += std::abs(it.less - middle);
    }
    constexpr double usual_times = 3;
    const bool grows = off_if_downforce < off_if_grip;
    // So much better that it can be said: found on circuits and cars that it was not tuned to (work_test).
    const bool downforce = off_if_downforce<0.9 * off_if_grip, grip = off_if_downforce> 1.2 * off_if_grip;
    const auto usual = [&](const Corner& it) {
        return grows ? it.step() < usual_times * step : it.less < usual_times * middle;
    };
    double size = 0, loss = 0, pull = 0, count = 0;
    for (const Corner& it : corners) {
        if (!usual(it)) continue;
        const LedgerRow& row = ledger.rows[it.k + 1];
        size += it.less_mps * 3.6;
        loss += row.own_s + row.carried_s.value_or(0);
        ++count;
    }
    for (const LedgerRow& row : ledger.rows) pull += row.pull_s.value_or(0);
    if (loss < least_s) return;
    size /= count;
    std::erase_if(findings, [&](const LapFinding& found) {
        const bool the_same = is_of_driver(found.kind) && found.kind != Kind::wide && found.kind != Kind::coasts &&
                              found.kind != Kind::locks_up && found.kind != Kind::spins_wheels;
        // Less grip stops less, too: softer by a like share is the same thing.
        if (found.kind == Kind::brakes_softly && found.corner == 0) {
            std::vector<double> peaks;
            for (const Corner& it : corners) {
                const auto known = a.known(it.k, [](const Technique& of) { return of.brake_peak_mps2; });
                peaks.insert(peaks.end(), known.begin(), known.end());
            }
            return !peaks.empty() && found.size * standard_gravity_mps2 < usual_times * middle * median_of(peaks);
        }
        const auto explains = [&](const Corner& it) { return ledger.rows[it.k + 1].corner == found.corner; };
        const auto at = std::find_if(corners.begin(), corners.end(), explains);
        if (at != corners.end()) return the_same && usual(*at);
        const auto other = std::find_if(others.begin(), others.end(), explains);
        return the_same && other != others.end() && usual(*other);
    });
    std::size_t seen = 0;
    for (const auto& lap : b.laps) {
        double less = 0;
        for (const Corner& it : corners)
            less += 1 - std::pow(lap[it.k].slowest_mps.value_or(it.speed_mps) / it.speed_mps, 2);
        seen += less / n > least_share;
    }
    LapFinding out{Kind::carries_less, 0, 0, size, "km/h", loss, seen, b.size()};
    char gain[32];
    std::snprintf(gain, sizeof gain, "%.2f", -pull);
    if (downforce && pull < -0.03)
        out.causes = std::string("The more the faster the corner, and on the straights it wins ") + gain +
                     " s: possibly less downforce. Better exits would show on the straights too.";
    else if (downforce)
        out.causes =
            "The more the faster the corner: possibly less downforce. A driver who is careful where it is fast "
            "looks the same.";
    else if (grip)
        out.causes =
            "Alike in slow and fast corners: possibly tyres, the grip of the day, or a driver who uses less of it "
            "everywhere.";
    findings.push_back(std::move(out));
}

}  // namespace

void find_what_is_everywhere(const Side& a, const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings) {
    brakes_softly(a, b, ledger, findings);
    carries_less(a, b, ledger, findings);
    pulls_less(a, b, ledger, findings);
}

void find_odd_laps(const Side& b, const Ledger& ledger, std::vector<LapFinding>& findings) {
    constexpr std::size_t least_laps = 4;
    constexpr double least_s = 0.25, deviations = 6;
    if (b.size() < least_laps) return;
    for (const LedgerRow& row : ledger.rows) {
        if (row.corner == 0) continue;
        const double middle = median_of(row.lap_losses_s);
        std::vector<double> off;
        for (const double loss : row.lap_losses_s) off.push_back(std::abs(loss - middle));
        const double usual = 1.4826 * median_of(off);
        for (std::size_t k = 0; k < b.size(); ++k) {
            const double more = row.lap_losses_s[k] - middle;
            if (more < std::max(least_s, deviations * usual)) continue;
            LapFinding it{
                Kind::odd_lap, row.corner, row.range_m.begin, more, "s", more / static_cast<double>(b.size()), 1,
                b.size()};
            it.lap = b.prepared[k].ref;
            findings.push_back(std::move(it));
        }
    }
}

}  // namespace rendak
