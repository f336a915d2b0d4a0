#pragma once

#include <QString>
#include <array>
#include <memory>
#include <optional>
#include <vector>

#include "app/text/shown.h"
#include "core/intake/lap_scatter.h"
#include "core/intake/round_the_lap.h"
#include "core/intake/stint_pair.h"
#include "core/intake/tread.h"
#include "core/intake/windows.h"

namespace rendak::app {

/// One run of the tray over its laps.
struct StintRun {
    std::shared_ptr<const RunData> run;
    int slot = 0;        ///< of its first lap on the tray: letter and colour
    QString title = {};  ///< among the others
    std::optional<Stint> stint = {};
    QString problem = {};  ///< why there is none
    std::vector<TreadReading> tread = {};
    Windows windows = {};
    LapScatter scatter = {};
    /// Of each reading of wheel_kinds(), by kind and wheel.
    std::vector<RoundTheLap> rounds = {};

    [[nodiscard]] const RoundTheLap& round(std::size_t kind, std::size_t wheel) const {
        return rounds[kind * wheel_ids.size() + wheel];
    }
};

/// What the desk shows of the runs on the tray; the first one is A's.
struct StintData {
    std::vector<StintRun> runs;
    std::optional<std::size_t> other = {};  ///< held against the first one
    std::optional<StintPair> pair = {};
    std::optional<DuctReading> ducts = {};

    [[nodiscard]] const StintRun& a() const { return runs.front(); }
    [[nodiscard]] const StintRun* b() const { return other ? &runs[*other] : nullptr; }
    /// The same opened run; null where it is not among them.
    [[nodiscard]] const StintRun* of(const std::shared_ptr<const RunData>& run) const;
};

/// Works it out; `runs` have run, slot and title. `other`: the run to be held against the first. What `former` knows of
/// the same opened runs is taken from there.
[[nodiscard]] Result<std::shared_ptr<const StintData>> stint_data(std::vector<StintRun> runs,
                                                                  std::optional<std::size_t> other,
                                                                  const StintData* former, const JobContext& job);

/// Letters for "A" and "B" of core's sentences.
[[nodiscard]] QString with_letters(const std::string& sentence, int slot_a, int slot_b);

/// What the pace did, with what it rests on; in sentences.
[[nodiscard]] QString pace_headline(const StintData& data);
/// What else became better, and the price of it; what was taken out and left out.
[[nodiscard]] QString pace_foot(const StintData& data);
/// What discs and straights say of the ducts; empty where nothing is told.
[[nodiscard]] QString duct_words(const StintData& data);
/// How much laps scatter and where that comes from.
[[nodiscard]] QString scatter_words(const StintData& data);
/// A figure of a pair in people's units.
[[nodiscard]] QString figure_words(const StintFigure& figure, double value);
[[nodiscard]] QString figure_change(const StintFigure& figure);
/// How it is read: without the zero of its unit where it is a difference.
[[nodiscard]] Shown shown_of(const StintFigure& figure);
[[nodiscard]] Shown seconds_shown(const QString& label);

}  // namespace rendak::app
