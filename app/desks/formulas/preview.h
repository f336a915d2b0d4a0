#pragma once

#include <QStringList>
#include <optional>
#include <stop_token>

#include "app/focus/comparison.h"
#include "app/text/shown.h"
#include "core/formula/book.h"
#include "core/signal/channel.h"

namespace rendak::app {

/// A draft of a formula and what it is tried on.
struct PreviewRequest {
    formula::Formula formula;
    std::string saved_as;            ///< the name that other formulas know it by
    std::optional<ComparedLap> lap;  ///< without one the formula is only checked, with the names below
    int slot = 0;
    std::vector<formula::FormulaSet> sets;
    std::vector<CarSheet> sheets;
    Aliases aliases;
};

/// What a worker found out about the draft.
struct FormulaPreview {
    std::optional<formula::Problem> problem;
    QString result;    ///< "speed in km/h, 100 Hz"
    QStringList uses;  ///< names with what they stand for, as text with links
    std::vector<std::string> notes;
    Trace trace;
    Statistics figures;
    Shown how;
    int slot = 0;
    QStringList units;  ///< in which the result can be shown
    QString lap;        ///< "lap 5 of Run 2"; empty when no lap is picked
};
[[nodiscard]] FormulaPreview preview_of(const PreviewRequest& request, const std::stop_token& stop);

}  // namespace rendak::app
