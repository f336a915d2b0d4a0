#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/interval.h"
#include "core/intake/stint.h"

namespace rendak {

/// One figure of two stints, before and after.
struct StintFigure {
    enum class Way { less, more, nearer_zero, neither };  ///< which is better
    enum class Verdict { better, worse, alike, other, unknown };
    std::string title;
    std::string shown_as;        ///< a quantity in whose units people read it; "" for seconds
    bool is_difference = false;  ///< of two readings: without the zero of its unit
    double a = std::nan(""), b = std::nan("");
    std::optional<Interval> likely = {};  ///< 95 % of b − a
    Way way = Way::neither;
    std::vector<double> laps_a = {}, laps_b = {};  ///< of every lap of the stints, as a and b; NaN where it has none
    /// Alike where the difference may be chance, unknown where that cannot be told.
    [[nodiscard]] Verdict verdict() const;
};

/// Two stints by lap of the stint.
struct StintPair {
    std::vector<StintFigure> figures;  ///< those that both have
    /// b − a of a lap, weight taken out, over the laps of the stint that tell on both sides.
    std::optional<Interval> fall_off_difference;        ///< 95 % of b's fall-off minus a's
    std::optional<int> b_quicker_from, a_quicker_from;  ///< lap of the stint from which it is, surely and to the end
    std::string text;  ///< what became of the pace, in a sentence: "A" and "B" stand for the stints
};
[[nodiscard]] StintPair compare_stints(const Stint& a, const Stint& b);

/// Hotter discs are no loss as long as they stay below the end of their window; where the straight got quicker, they
/// are what it was bought with.
struct DuctReading {
    double hottest_a = std::nan(""), hottest_b = std::nan("");  ///< mean of the hottest disc; K
    std::optional<double> most;                                 ///< upper end of the window
    double top_speed_a = std::nan(""), top_speed_b = std::nan("");
    std::optional<Interval> discs_likely, top_speed_likely;  ///< 95 % of b − a
    enum class Says { nothing, gain, too_hot, costs_nothing, cooler } says = Says::nothing;
};
[[nodiscard]] Result<DuctReading> compare_ducts(const std::shared_ptr<const RunData>& run_a, const Stint& a,
                                                const std::shared_ptr<const RunData>& run_b, const Stint& b,
                                                const JobContext& job = {});

}  // namespace rendak
