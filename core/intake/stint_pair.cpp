#include "core/intake/stint_pair.h"

#include <algorithm>
#include <functional>

#include "core/analysis/set_difference.h"
#include "core/base/text.h"
#include "core/intake/lap_table.h"
#include "core/intake/windows.h"

namespace rendak {
namespace {

using Way = StintFigure::Way;

using OfWheels = std::function<double(const std::array<double, 4>&)>;

/// A figure of each lap, made of the four readings of a kind; NaN where it has none.
std::vector<double> per_lap(const Stint& stint, std::size_t kind, const OfWheels& figure) {
    std::array<const StintReading*, 4> wheels{};
    for (std::size_t w = 0; w < wheels.size(); ++w) wheels[w] = stint.reading(kind, w);
    std::vector<double> out;
    for (std::size_t k = 0; k < stint.laps.size(); ++k) {
        std::array<double, 4> values{};
        for (std::size_t w = 0; w < wheels.size(); ++w)
            values[w] = wheels[w] == nullptr ? std::nan("") : wheels[w]->values[k];
        out.push_back(figure(values));
    }
    return out;
}

/// The same of the laps that tell.
std::vector<double> of_laps(const Stint& stint, std::size_t kind, const OfWheels& figure) {
    return stint.telling(per_lap(stint, kind, figure));
}

double highest(const std::array<double, 4>& wheels) {
    double out = std::nan("");
    for (const double it : wheels) {
        if (std::isfinite(it) && !(out >= it)) out = it;
    }
    return out;
}

double spread(const std::array<double, 4>& wheels) {
    const auto [low, high] = std::minmax_element(wheels.begin(), wheels.end());
    return std::isfinite(wheels[0] + wheels[1] + wheels[2] + wheels[3]) ? *high - *low : std::nan("");
}

/// The highest values of the laps that tell.
struct Highs {
    std::vector<double> speeds;
    double hottest_disc = 0;
};
Result<Highs> highs_of(const std::shared_ptr<const RunData>& run, const Stint& stint, const JobContext& job) {
    std::vector<LapColumn> columns{{"speed", LapStatistic::high}};
    for (std::size_t w = 0; w < wheel_ids.size(); ++w)
        columns.push_back({wheel_kinds()[wheel_kind::disc].channel(w), LapStatistic::high});
    const auto table = lap_table(std::span(&run, 1), columns, job);
    if (!table) return pass_on(table.error());
    Highs out;
    for (const LapTable::Row& row : table->rows) {
        const auto at = std::find(stint.laps.begin(), stint.laps.end(), row.ref.lap) - stint.laps.begin();
        if (static_cast<std::size_t>(at) == stint.laps.size() || !stint.tells(static_cast<std::size_t>(at))) continue;
        if (std::isfinite(row.figures[0].value)) out.speeds.push_back(row.figures[0].value);
        for (std::size_t w = 1; w < row.figures.size(); ++w)
            out.hottest_disc = row.figures[w].value > out.hottest_disc ? row.figures[w].value : out.hottest_disc;
    }
    return out;
}

class Pair {
  public:
    Pair(const Stint& a, const Stint& b) : a_(a), b_(b) {}

    StintPair compare() {
        pace();
        for (const std::size_t kind : {wheel_kind::carcass, wheel_kind::pressure}) {
            const std::string what = kind == wheel_kind::carcass ? "carcass" : "pressure";
            of_wheels(kind, "front − rear, " + what, Way::nearer_zero,
                      [](const auto& w) { return (w[0] + w[1] - w[2] - w[3]) / 2; });
            of_wheels(kind, "left − right front, " + what, Way::nearer_zero, [](const auto& w) { return w[0] - w[1]; });
            of_wheels(kind, "left − right rear, " + what, Way::nearer_zero, [](const auto& w) { return w[2] - w[3]; });
            if (kind == wheel_kind::pressure) of_wheels(kind, "spread of four pressures", Way::less, spread);
        }
        wear();
        words();
        return std::move(out_);
    }

  private:
    void pace() {
        const std::vector<double> a = a_.telling(a_.steady_s), b = b_.telling(b_.steady_s);
        if (!a.empty() && !b.empty())
            out_.figures.push_back({"lap time", "", false, mean_value(a), mean_value(b), likely_difference(a, b),
                                    Way::less, a_.steady_s, b_.steady_s});
        if (!a_.fall_off || !b_.fall_off) return;
        const double difference = b_.fall_off->per_lap - a_.fall_off->per_lap;
        const double half = std::hypot(a_.fall_off->likely.length() / 2, b_.fall_off->likely.length() / 2);
        out_.fall_off_difference = Interval{difference - half, difference + half};
        out_.figures.push_back({"change of the lap time a lap", "", true, a_.fall_off->per_lap, b_.fall_off->per_lap,
                                out_.fall_off_difference, Way::less});
        // From the last lap back, for as long as one is surely quicker.
        const int last = std::min(a_.lap_of_stint(a_.laps.size() - 1), b_.lap_of_stint(b_.laps.size() - 1));
        const int a0 = a_.laps.front() - 1, b0 = b_.laps.front() - 1;
        for (int lap = last; lap >= 1; --lap) {
            const double gap = b_.fall_off->at(lap + b0) - a_.fall_off->at(lap + a0);
            const double doubt = std::hypot(a_.fall_off->doubt_at(lap + a0), b_.fall_off->doubt_at(lap + b0));
            if (gap + doubt < 0 && !out_.a_quicker_from)
                out_.b_quicker_from = lap;
            else if (gap - doubt > 0 && !out_.b_quicker_from)
                out_.a_quicker_from = lap;
            else
                break;
        }
    }

    template <class Figure>
    void of_wheels(std::size_t kind, const std::string& title, Way way, Figure figure) {
        auto laps_a = per_lap(a_, kind, figure), laps_b = per_lap(b_, kind, figure);
        const auto a = a_.telling(laps_a), b = b_.telling(laps_b);
        if (a.empty() || b.empty()) return;
        out_.figures.push_back({title, wheel_kinds()[kind].channel(0), true, mean_value(a), mean_value(b),
                                likely_difference(a, b), way, std::move(laps_a), std::move(laps_b)});
    }

    /// After as many laps as both have: what is worn adds up, so its scatter is that of the gauge.
    void wear() {
        const std::size_t laps = std::min(a_.laps.size(), b_.laps.size());
        const auto at_end = [&](const Stint& stint, auto figure) {
            std::array<double, 4> wheels{};
            for (std::size_t w = 0; w < wheels.size(); ++w) {
                const StintReading* it = stint.reading(wheel_kind::worn, w);
                wheels[w] = it == nullptr ? std::nan("") : it->values[laps - 1];
            }
            return figure(wheels);
        };
        const auto scatter = [](const Stint& stint) {
            double out = 0;
            for (const StintReading& it : stint.readings) {
                if (it.kind == wheel_kind::worn && it.trend) out = std::max(out, it.trend->scatter);
            }
            return out;
        };
        const double half = 2 * std::hypot(scatter(a_), scatter(b_));
        const auto add = [&](const std::string& title, auto figure) {
            const double a = at_end(a_, figure), b = at_end(b_, figure);
            if (!std::isfinite(a + b)) return;
            out_.figures.push_back({title + " after " + counted(laps, "lap", "laps"),
                                    wheel_kinds()[wheel_kind::worn].channel(0), true, a, b,
                                    Interval{b - a - half, b - a + half}, Way::less,
                                    per_lap(a_, wheel_kind::worn, figure), per_lap(b_, wheel_kind::worn, figure)});
        };
        add("most worn tyre", highest);
        add("fronts worn", [](const auto& w) { return (w[0] + w[1]) / 2; });
        add("rears worn", [](const auto& w) { return (w[2] + w[3]) / 2; });
    }

    void words() {
        if (!a_.fall_off || !b_.fall_off) {
            out_.text = "Too few laps tell to hold the two stints against each other.";
            return;
        }
        const auto loses = [](const LapTrend& it) {
            if (!it.sure()) return std::string("loses nothing that is told from chance");
            return std::string(it.per_lap > 0 ? "loses " : "gains ") + fixed(std::abs(it.per_lap), 2) + " s a lap";
        };
        const bool sure = !out_.fall_off_difference->contains(0);
        const bool b_keeps = b_.fall_off->per_lap < a_.fall_off->per_lap;
        if (sure)
            out_.text =
                (b_keeps ? "B keeps its pace better: it " + loses(*b_.fall_off) + ", A " + loses(*a_.fall_off)
                         : "A keeps its pace better: it " + loses(*a_.fall_off) + ", B " + loses(*b_.fall_off)) +
                ".";
        else
            out_.text = "No difference in how the pace falls off is told from chance (A " + loses(*a_.fall_off) +
                        ", B " + loses(*b_.fall_off) + ").";
        const auto quicker = [&](const char* who, int from) {
            out_.text += from <= 1 ? std::string(" ") + who + " is the quicker car all the way."
                                   : " From lap " + std::to_string(from) + " on " + who + " is the quicker car.";
        };
        if (out_.b_quicker_from) quicker("B", *out_.b_quicker_from);
        if (out_.a_quicker_from) quicker("A", *out_.a_quicker_from);
    }

    const Stint &a_, &b_;
    StintPair out_;
};

}  // namespace

StintFigure::Verdict StintFigure::verdict() const {
    if (!likely) return Verdict::unknown;
    if (likely->contains(0)) return Verdict::alike;
    switch (way) {
        case Way::less:
            return b < a ? Verdict::better : Verdict::worse;
        case Way::more:
            return b > a ? Verdict::better : Verdict::worse;
        case Way::nearer_zero: {
            // On the other side of zero and about as far from it is another fault, not a cure.
            const double half = likely->length() / 2, nearer = std::abs(a) - std::abs(b);
            return nearer > half ? Verdict::better : nearer < -half ? Verdict::worse : Verdict::other;
        }
        case Way::neither:
            break;
    }
    return Verdict::other;
}

StintPair compare_stints(const Stint& a, const Stint& b) {
    return Pair(a, b).compare();
}

Result<DuctReading> compare_ducts(const std::shared_ptr<const RunData>& run_a, const Stint& a,
                                  const std::shared_ptr<const RunData>& run_b, const Stint& b, const JobContext& job) {
    DuctReading out;
    const auto a_highs = highs_of(run_a, a, job), b_highs = highs_of(run_b, b, job);
    if (!a_highs) return pass_on(a_highs.error());
    if (!b_highs) return pass_on(b_highs.error());
    const std::vector<double>&speeds_a = a_highs->speeds, &speeds_b = b_highs->speeds;
    const auto discs_a = of_laps(a, wheel_kind::disc, highest), discs_b = of_laps(b, wheel_kind::disc, highest);
    out.most = window_of(*run_b, wheel_kinds()[wheel_kind::disc].channel(0)).high;
    if (!speeds_a.empty() && !speeds_b.empty()) {
        out.top_speed_a = mean_value(speeds_a);
        out.top_speed_b = mean_value(speeds_b);
        out.top_speed_likely = likely_difference(speeds_a, speeds_b);
    }
    if (discs_a.empty() || discs_b.empty()) return out;
    out.hottest_a = mean_value(discs_a);
    out.hottest_b = mean_value(discs_b);
    out.discs_likely = likely_difference(discs_a, discs_b);
    if (!out.discs_likely || out.discs_likely->contains(0)) return out;
    using Says = DuctReading::Says;
    if (out.hottest_b < out.hottest_a) {
        out.says = Says::cooler;
        return out;
    }
    // The hottest moment decides, not the mean of the laps.
    if (out.most && b_highs->hottest_disc > *out.most)
        out.says = Says::too_hot;
    else if (out.most && out.top_speed_likely && out.top_speed_likely->begin > 0)
        out.says = Says::gain;
    else if (out.most)
        out.says = Says::costs_nothing;
    return out;
}

}  // namespace rendak
