#pragma once

#include "app/workspace/workspace.h"
#include "core/formula/formula_set.h"

namespace rendak::app {

/// Shows what an incoming set would change, side by side; what to do with each formula, or nothing when it was
/// cancelled.
[[nodiscard]] std::optional<std::vector<std::pair<std::string, formula::Merge>>> ask_merge(
    const formula::FormulaSet& mine, const formula::FormulaSet& incoming, QWidget* parent);

/// Name, scope and remarks of a set; nothing when it was cancelled.
[[nodiscard]] std::optional<formula::FormulaSet> ask_set(Workspace& workspace, const formula::FormulaSet& before,
                                                         QWidget* parent);

/// All versions of a set with what each changed; the content to go back to, or nothing.
[[nodiscard]] std::optional<formula::FormulaSet> ask_version(Workspace& workspace, const std::string& set,
                                                             QWidget* parent);

/// Means of channels while the car of a run stands still, as constants for its car sheet.
void measure_constants(Workspace& workspace, std::shared_ptr<const RunData> run, QWidget* parent);

}  // namespace rendak::app
