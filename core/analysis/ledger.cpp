#include "core/analysis/ledger.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/analysis/corner_events.h"
#include "core/analysis/gap_stretches.h"
#include "core/analysis/set_difference.h"
#include "core/analysis/technique.h"
#include "core/base/median.h"
#include "core/base/parallel.h"

namespace rendak {
namespace {

using Events = std::vector<std::vector<CornerEvents>>;  // of each lap of a set
using Place = std::optional<double> CornerEvents::*;

std::optional<double> middle_of(const Events& events, std::size_t corner, Place place) {
    std::vector<double> known;
    for (const auto& lap : events) {
        if (lap[corner].*place) known.push_back(*(lap[corner].*place));
    }
    if (known.empty()) return std::nullopt;
    return median_of(std::move(known));
}

/// Where a set's driver slows down for a corner: lifts, or brakes.
std::optional<double> slows_down(const Events& events, std::size_t corner) {
    const auto lift = middle_of(events, corner, &CornerEvents::lift_m),
               brake = middle_of(events, corner, &CornerEvents::brake_on_m);
    if (!lift || !brake) return lift ? lift : brake;
    return std::min(*lift, *brake);
}

bool mostly_slows(const Events& events, std::size_t corner) {
    const auto slow = std::count_if(events.begin(), events.end(), [&](const auto& lap) { return lap[corner].slows; });
    return 2 * slow > static_cast<std::ptrdiff_t>(events.size());
}

/// The places that a corner is cut at, the same for all laps.
struct Marks {
    double begin_m = 0, turn_in_m = 0, slowest_m = 0, exit_m = 0, end_m = 0;
    bool flat = false;  ///< neither side slows down for it
};

std::vector<Marks> marks_of(const Track& track, std::span<const PreparedLap> laps_a,
                            std::span<const PreparedLap> laps_b, const Events& a, const Events& b) {
    constexpr double approach_m = 50, before_m = 4;
    const auto& corners = track.corners;
    std::vector<Marks> out(corners.size());
    double passed = 0;
    for (std::size_t k = 0; k < corners.size(); ++k) {
        const Corner& corner = corners[k];
        const double before = k == 0 ? 0 : corners[k - 1].apex_m;
        Marks& it = out[k];
        const auto of_a = slows_down(a, k), of_b = slows_down(b, k);
        it.flat = !of_a && !of_b && !mostly_slows(a, k) && !mostly_slows(b, k);
        it.begin_m = of_a && of_b   ? std::min(*of_a, *of_b) - before_m
                     : of_a || of_b ? (of_a ? *of_a : *of_b) - before_m
                                    : std::max(corner.start_m - approach_m, 0.5 * (before + corner.apex_m));
        it.begin_m = std::clamp(it.begin_m, passed, std::max(passed, corner.apex_m));
        it.turn_in_m = std::clamp(middle_of(a, k, &CornerEvents::turn_in_m).value_or(corner.start_m), it.begin_m,
                                  std::max(it.begin_m, corner.apex_m));
        it.slowest_m = std::clamp(middle_of(a, k, &CornerEvents::slowest_m).value_or(corner.apex_m), it.turn_in_m,
                                  std::max(it.turn_in_m, corner.end_m));
        passed = it.slowest_m;
    }
    for (std::size_t k = 0; k < corners.size(); ++k) {
        Marks& it = out[k];
        it.end_m = k + 1 < corners.size() ? out[k + 1].begin_m : track.length_m;
        const auto full = [&](std::span<const PreparedLap> laps) {
            std::vector<double> known;
            for (const PreparedLap& lap : laps) {
                const DriverActivity driver = lap.activity();
                if (!driver.known()) continue;
                known.push_back(full_from(lap, driver, it.slowest_m, it.end_m).value_or(it.end_m));
            }
            return known.empty() ? corners[k].end_m : median_of(std::move(known));
        };
        it.exit_m = std::clamp(std::max(full(laps_a), full(laps_b)), std::min(it.slowest_m, it.end_m), it.end_m);
        // A corner taken flat has its exit where the road straightens.
        if (it.exit_m <= it.slowest_m) it.exit_m = std::clamp(corners[k].end_m, it.exit_m, it.end_m);
    }
    return out;
}

/// One lap held against the baseline, in the cells of the ledger.
struct LapCells {
    struct Row {
        double braking_s = 0, entry_s = 0, exit_s = 0, straight_s = 0, here_s = 0;
        double carried_s = 0, pull_s = 0;
        double begin_mps = 0, end_mps = 0, expected_end_mps = 0;
        [[nodiscard]] double own_s() const { return braking_s + entry_s + exit_s; }
        [[nodiscard]] double loss_s() const { return own_s() + straight_s; }
    };
    std::vector<Row> rows;
};

/// B's speed minus A's at a place: mean over half a second of what follows, which a sensor's noise does not bend.
double faster_at(const LapProfile& base, const LapProfile& lap, double place_m, double end_m) {
    const double reach = std::min(end_m - place_m, 0.5 * base.speed_at(place_m));
    double sum = 0;
    int count = 0;
    for (double s = place_m; s <= place_m + std::max(0.0, reach); s += LapProfile::step_m) {
        sum += lap.speed_at(s) - base.speed_at(s);
        ++count;
    }
    return count > 0 ? sum / count : 0;
}

/// Books a lap's differences, place by place from the line on. What an earlier row still causes is taken out of the
/// later ones; it ends where the car slows down for a corner.
class Booking {
  public:
    Booking(const LapProfile& base, const PullCurve& pull, const LapProfile& lap, const std::vector<Marks>& marks)
        : base_(base), pull_(pull), lap_(lap), marks_(marks) {
        out_.rows.resize(marks.size() + 1);
    }

    LapCells cells() {
        follow_straight(0, 0, marks_.empty() ? base_.length_m : marks_.front().begin_m);
        for (std::size_t k = 0; k < marks_.size(); ++k) {
            const Marks& at = marks_[k];
            LapCells::Row& row = out_.rows[k + 1];
            row.here_s = gained(at.begin_m, at.exit_m);
            if (pull_.known()) at.flat ? enter_flat(k) : slow_down(k);
            row.braking_s = own(k + 1, at.begin_m, at.turn_in_m);
            row.entry_s = own(k + 1, at.turn_in_m, at.slowest_m);
            row.exit_s = own(k + 1, at.slowest_m, at.exit_m);
            if (!at.flat) earlier_.clear();
            follow_straight(k + 1, at.exit_m, at.end_m);
        }
        return std::move(out_);
    }

  private:
    /// What is still lost, or won, because of an earlier row: its exit, or how the car pulled there.
    struct Cause {
        std::size_t row;
        bool by_pull;
        Carried carried;
    };

    [[nodiscard]] double gained(double from, double to) const {
        return (lap_.elapsed_at(to) - lap_.elapsed_at(from)) - (base_.elapsed_at(to) - base_.elapsed_at(from));
    }
    /// To where the car slows down after a place: through corners that nobody slows down for.
    [[nodiscard]] double slows_after(std::size_t row) const {
        for (std::size_t k = row; k < marks_.size(); ++k) {
            if (!marks_[k].flat) return marks_[k].begin_m;
        }
        return base_.length_m;
    }
    /// Books to the causes what they cost between two places, and returns that.
    double book(std::size_t here, double from_m, double to_m) {
        double sum = 0;
        for (const Cause& cause : earlier_) {
            const double lost = cause.carried.lost_s(from_m, to_m);
            sum += lost;
            LapCells::Row& row = out_.rows[cause.row];
            (cause.by_pull ? row.pull_s : row.carried_s) += lost;
            if (cause.row != here) row.straight_s += lost;
        }
        return sum;
    }
    [[nodiscard]] double own(std::size_t row, double from_m, double to_m) {
        double behind = 0;
        if (meeting_.lost_s > 0 && meeting_.at_m > meeting_from_m_) {
            const double part = std::min(to_m, meeting_.at_m) - std::max(from_m, meeting_from_m_);
            behind = std::max(0.0, part) / (meeting_.at_m - meeting_from_m_) * meeting_.lost_s;
        }
        // Until the speeds met: to the causes, by their shares.
        for (std::size_t i = 0; i < earlier_.size() && behind != 0; ++i) {
            const Cause& cause = earlier_[i];
            LapCells::Row& to = out_.rows[cause.row];
            (cause.by_pull ? to.pull_s : to.carried_s) += behind * shares_[i];
            to.straight_s += behind * shares_[i];
        }
        const bool flat = marks_[row - 1].flat;
        return gained(from_m, to_m) - behind - (flat ? book(row, from_m, to_m) : 0);
    }
    [[nodiscard]] double left_at(double place_m) const {
        double sum = 0;
        for (const Cause& cause : earlier_) sum += cause.carried.faster_at(place_m);
        return sum;
    }
    void slow_down(std::size_t k) {
        meeting_from_m_ = marks_[k].begin_m;
        const double left = left_at(meeting_from_m_);
        meeting_ = meeting_of(base_, pull_, meeting_from_m_, left);
        // No further than the corner: what is different at its exit is its own.
        if (meeting_.at_m > marks_[k].exit_m) {
            meeting_.lost_s *= (marks_[k].exit_m - meeting_from_m_) / (meeting_.at_m - meeting_from_m_);
            meeting_.at_m = marks_[k].exit_m;
        }
        shares_.clear();
        for (const Cause& cause : earlier_)
            shares_.push_back(left != 0 ? cause.carried.faster_at(meeting_from_m_) / left : 0);
    }
    /// How the car pulled on the straight before goes on through a corner that nobody slows down for.
    void enter_flat(std::size_t k) {
        const double at = marks_[k].begin_m;
        meeting_ = {};
        earlier_.push_back(
            {k,
             true,
             {base_, pull_, at, faster_at(base_, lap_, at, base_.length_m) - left_at(at), slows_after(k + 1)}});
    }
    void follow_straight(std::size_t r, double from_m, double to_m) {
        LapCells::Row& row = out_.rows[r];
        const double here = gained(from_m, to_m);
        row.here_s += here;
        row.straight_s += here;
        row.begin_mps = faster_at(base_, lap_, from_m, base_.length_m);
        row.end_mps = to_m - from_m > 1
                          ? faster_at(base_, lap_, std::max(from_m, to_m - 0.5 * base_.speed_at(to_m)), to_m)
                          : row.begin_mps;
        if (!pull_.known()) return;
        earlier_.push_back({r, false, {base_, pull_, from_m, row.begin_mps - left_at(from_m), slows_after(r)}});
        row.expected_end_mps = left_at(to_m);
        double of_others = 0;
        for (const Cause& cause : earlier_) of_others += cause.row != r ? cause.carried.lost_s(from_m, to_m) : 0;
        const double caused = book(r, from_m, to_m);
        row.pull_s += here - caused;
        row.straight_s -= of_others;
    }

    const LapProfile& base_;
    const PullCurve& pull_;
    const LapProfile& lap_;
    const std::vector<Marks>& marks_;
    LapCells out_;
    std::vector<Cause> earlier_;
    Meeting meeting_;
    double meeting_from_m_ = 0;
    std::vector<double> shares_;  ///< of `earlier_` in what is lost until the speeds meet
};

/// Below a few laps a thread costs more than it brings.
constexpr std::size_t laps_a_thread = 4;

Events events_of(std::span<const PreparedLap> laps) {
    Events out(laps.size());
    parallel_for(laps.size(), laps_a_thread, [&](std::size_t k) { out[k] = corner_events(laps[k]); });
    return out;
}

std::vector<LapProfile> profiles_of(std::span<const PreparedLap> laps) {
    std::vector<LapProfile> out(laps.size());
    parallel_for(laps.size(), laps_a_thread, [&](std::size_t k) { out[k] = profile_of(laps[k]); });
    return out;
}

/// Below this the speeds of two laps cannot be told apart for a verdict.
constexpr double alike_mps = 0.35;

LedgerRow::Verdict verdict_of(double begin_mps, double end_mps, double expected_mps) {
    if (std::abs(end_mps - expected_mps) <= alike_mps) {
        return std::abs(begin_mps) <= alike_mps && std::abs(end_mps) <= alike_mps ? LedgerRow::Verdict::none
                                                                                  : LedgerRow::Verdict::parallel;
    }
    return std::abs(end_mps) > std::abs(expected_mps) ? LedgerRow::Verdict::opening : LedgerRow::Verdict::closing;
}

}  // namespace

bool could_be_chance(const LedgerRow& row) {
    return row.likely_s && row.likely_s->contains(0);
}

bool needs_more_laps(const LedgerRow& row) {
    constexpr double least_s = 0.03;
    return row.corner != 0 && could_be_chance(row) && std::abs(row.loss_s) >= least_s;
}

const char* verdict_name(LedgerRow::Verdict verdict) {
    switch (verdict) {
        case LedgerRow::Verdict::none:
            return "none";
        case LedgerRow::Verdict::parallel:
            return "parallel";
        case LedgerRow::Verdict::closing:
            return "closing";
        case LedgerRow::Verdict::opening:
            return "opening";
    }
    return "none";
}

Result<Ledger> ledger_of(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    if (a.empty() || b.empty())
        return fail(ErrorCode::bad_input, "A side without a lap: both need at least one complete lap that counts.");
    const Track& track = *a.front().track;
    for (const auto& side : {a, b}) {
        for (const PreparedLap& lap : side) {
            if (std::abs(lap.map.length_m() - a.front().map.length_m()) > 1e-6)
                return fail(ErrorCode::bad_input, "The laps are of different tracks. Take laps of one track.");
        }
    }
    const auto events_a = events_of(a), events_b = events_of(b);
    const auto laps_a = profiles_of(a), laps_b = profiles_of(b);
    const LapProfile base = mean_of(laps_a);
    Ledger out;
    out.a_laps = a.size();
    out.b_laps = b.size();
    out.pull = pull_curve(a);
    for (const Events* events : {&events_a, &events_b}) {
        for (const auto& lap : *events) out.inferred = out.inferred || (!lap.empty() && lap.front().inferred);
    }
    const auto marks = marks_of(track, a, b, events_a, events_b);
    std::vector<LapCells> cells_a(a.size()), cells_b(b.size());
    parallel_for(a.size() + b.size(), laps_a_thread, [&](std::size_t k) {
        const bool of_a = k < a.size();
        const std::size_t at = of_a ? k : k - a.size();
        (of_a ? cells_a : cells_b)[at] = Booking(base, out.pull, (of_a ? laps_a : laps_b)[at], marks).cells();
    });
    std::vector<double> times_a, times_b;
    for (const PreparedLap& lap : a) times_a.push_back(lap.time_s());
    for (const PreparedLap& lap : b) times_b.push_back(lap.time_s());
    out.total_s = mean_value(times_b) - mean_value(times_a);
    out.likely_s = likely_difference(times_a, times_b);
    if (out.pull.known()) {
        const auto pulls = [](const std::vector<LapCells>& cells) {
            std::vector<double> sums;
            for (const LapCells& lap : cells)
                sums.push_back(std::accumulate(lap.rows.begin(), lap.rows.end(), 0.0,
                                               [](double sum, const auto& it) { return sum + it.pull_s; }));
            return sums;
        };
        const auto pulls_a = pulls(cells_a), pulls_b = pulls(cells_b);
        out.pull_s = mean_value(pulls_b) - mean_value(pulls_a);
        for (const double lost : pulls_b) out.lap_pulls_s.push_back(lost - mean_value(pulls_a));
        out.likely_pull_s = likely_difference(pulls_a, pulls_b);
    }
    for (std::size_t r = 0; r <= marks.size(); ++r) {
        LedgerRow row;
        row.name = r == 0 ? "From the line" : track.corners[r - 1].title();
        row.corner = r == 0 ? 0 : track.corners[r - 1].number;
        const double begin = r == 0 ? 0 : marks[r - 1].begin_m;
        row.range_m = {begin, r == marks.size() ? base.length_m : marks[r].begin_m};
        row.straight_m = r == 0 ? row.range_m : Interval{marks[r - 1].exit_m, marks[r - 1].end_m};
        const auto column = [&](const std::vector<LapCells>& cells, auto value) {
            std::vector<double> values;
            for (const LapCells& lap : cells) values.push_back(value(lap.rows[r]));
            return values;
        };
        // A's own laps against A's mean are zero together but for what carrying bends: the difference is B's.
        const auto both = [&](auto value) {
            return mean_value(column(cells_b, value)) - mean_value(column(cells_a, value));
        };
        row.braking_s = both([](const auto& it) { return it.braking_s; });
        row.entry_s = both([](const auto& it) { return it.entry_s; });
        row.exit_s = both([](const auto& it) { return it.exit_s; });
        row.straight_s = both([](const auto& it) { return it.straight_s; });
        row.here_s = both([](const auto& it) { return it.here_s; });
        row.own_s = row.braking_s + row.entry_s + row.exit_s;
        row.loss_s = row.own_s + row.straight_s;
        row.begin_mps = both([](const auto& it) { return it.begin_mps; });
        row.end_mps = both([](const auto& it) { return it.end_mps; });
        if (out.pull.known()) {
            row.carried_s = both([](const auto& it) { return it.carried_s; });
            row.pull_s = both([](const auto& it) { return it.pull_s; });
            const double expected = both([](const auto& it) { return it.expected_end_mps; });
            constexpr double least_straight_m = 60;
            if (row.straight_m.length() > least_straight_m)
                row.verdict = verdict_of(row.begin_mps, row.end_mps, expected);
        }
        const auto losses_a = column(cells_a, [](const auto&it) { return it.loss_s(); }),
                   losses_b = column(cells_b, [](const auto&it) { return it.loss_s(); });
        row.likely_s = likely_difference(losses_a, losses_b);
        row.likely_own_s = likely_difference(column(cells_a, [](const auto& it) { return it.own_s(); }),
                                             column(cells_b, [](const auto& it) { return it.own_s(); }));
        const double middle_a = mean_value(losses_a);
        for (const double loss : losses_b) row.lap_losses_s.push_back(loss - middle_a);
        if (could_be_chance(row)) row.laps_needed = laps_needed(losses_a, losses_b);
        for (std::size_t k = 0; k < losses_b.size(); ++k) {
            constexpr double timing_s = 0.005;
            const double noise = std::max(timing_s, std::hypot(gap_error_s(a.front(), b[k], row.range_m.begin),
                                                               gap_error_s(a.front(), b[k], row.range_m.end)));
            const double own = losses_b[k] - middle_a;
            row.seen_on += std::abs(own) > noise && (own > 0) == (row.loss_s > 0);
        }
        out.rows.push_back(std::move(row));
    }
    return out;
}

Result<std::vector<Worth>> worth_of(std::span<const PreparedLap> laps) {
    if (laps.empty()) return fail(ErrorCode::bad_input, "There is no complete lap that counts.");
    const PullCurve pull = pull_curve(laps);
    if (!pull.known())
        return fail(ErrorCode::bad_input,
                    "How this car gains speed cannot be told: it is hardly ever on full throttle in these laps, or has "
                    "no speed logged.");
    constexpr double km_h = 1 / 3.6;
    const auto events = events_of(laps);
    const LapProfile base = mean_of(profiles_of(laps));
    const Track& track = *laps.front().track;
    const auto marks = marks_of(track, laps, laps, events, events);
    std::vector<Worth> out;
    for (std::size_t k = 0; k < marks.size(); ++k) {
        const Marks& at = marks[k];
        // Down to where the car slows down: through corners that it takes flat.
        double until = base.length_m;
        for (std::size_t next = k + 1; next < marks.size() && until == base.length_m; ++next) {
            if (!marks[next].flat) until = marks[next].begin_m;
        }
        Worth worth{track.corners[k].title(),
                    track.corners[k].number,
                    at.slowest_m,
                    at.exit_m,
                    until,
                    base.speed_at(at.slowest_m),
                    0,
                    0};
        const auto down_to_the_next = [&](double from_m) { return -Carried(base, pull, from_m, km_h, until).lost_s(); };
        worth.exit_s = down_to_the_next(at.exit_m);
        // On the way in: who brakes as hard down to a higher speed is quicker all the way, by less the faster it is.
        for (double s = at.turn_in_m; s < at.slowest_m; s += LapProfile::step_m) {
            const double v = base.speed_at(s);
            worth.slowest_s +=
                std::min(LapProfile::step_m, at.slowest_m - s) * km_h * std::min(1.0, worth.slowest_mps / v) / (v * v);
        }
        for (double s = at.slowest_m; s < at.exit_m; s += LapProfile::step_m) {
            const double v = base.speed_at(s);
            worth.slowest_s += std::min(LapProfile::step_m, at.exit_m - s) * (1 / v - 1 / (v + km_h));
        }
        worth.slowest_s += worth.exit_s;
        out.push_back(std::move(worth));
    }
    return out;
}

}  // namespace rendak
