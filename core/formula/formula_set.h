#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/interval.h"
#include "core/base/result.h"

namespace rendak::formula {

/// A math channel: a named formula and how its result is shown. Values of `range` are in `unit`.
struct Formula {
    std::string name;  ///< plain name (is_plain_name), by which everything refers to it
    std::string unit;  ///< shown in; empty: the usual one of its dimension
    std::string text;
    std::string comment;
    int decimals = 2;
    std::optional<Interval> range = {};  ///< of the display
    double rate_hz = 0;                  ///< 0: from the inputs
    bool operator==(const Formula&) const = default;
};

/// Whose formulas a set holds.
struct Scope {
    enum class Kind { everything, car, event };
    Kind kind = Kind::everything;
    std::string name;  ///< of the car or event
    bool operator==(const Scope&) const = default;
};

/// A formula set: a named, versioned group of math channels. Stored as JSON (docs/formats.md).
struct FormulaSet {
    std::string name;
    Scope scope = {};
    std::string remarks = {};
    std::vector<Formula> formulas = {};
    bool operator==(const FormulaSet&) const = default;

    [[nodiscard]] const Formula* find(const std::string& formula) const;
};

inline constexpr std::size_t most_formulas = 1'000;
inline constexpr std::string_view starter_name = "Starter";

/// The set that Rendak ships: read-only, weaker than every set of the user's.
[[nodiscard]] const FormulaSet& starter_set();

/// Why a formula cannot have this name, in a sentence; "" when it can. Names of quantities, functions and of the run
/// itself are taken.
[[nodiscard]] std::string name_problem(const std::string& name);

/// One JSON file. Reading checks shape, names and sizes, not the formulas.
[[nodiscard]] std::string set_to_json(const FormulaSet& set);
[[nodiscard]] Result<FormulaSet> set_from_json(const std::string& text, const std::string& where);

/// One formula as text, to be pasted into a message:
///   # understeer is positive
///   understeer_angle in ° from -5 to 5 with 1 decimals at 50 Hz = steering / car.steering_ratio - …
/// Everything between the name and the = may be left out.
[[nodiscard]] std::string formula_to_text(const Formula& formula);
[[nodiscard]] Result<Formula> formula_from_text(const std::string& text);

/// What an import, or going from one version to another, would change.
struct SetChange {
    enum class Kind { added, removed, changed, same };
    Kind kind = Kind::same;
    std::string name;
    std::optional<Formula> before, after;
};
/// Of all formulas of both sets, changes first, in the order of names.
[[nodiscard]] std::vector<SetChange> differences(const FormulaSet& before, const FormulaSet& after);

/// What to do with a formula that comes in.
enum class Merge {
    keep,       ///< mine stays; a new one is left out
    take,       ///< the incoming one is added or takes the place of mine
    take_both,  ///< the incoming one is added under a free name ("roll_2")
};
/// `mine` with the formulas of `incoming` merged by choice; a formula that is not named in `choices` is kept as it is.
/// Formulas that come in under a new name are also renamed where the other incoming ones use them.
[[nodiscard]] FormulaSet merged(const FormulaSet& mine, const FormulaSet& incoming,
                                const std::vector<std::pair<std::string, Merge>>& choices);

/// The text of a formula with one name replaced by another, wherever it stands as a name.
[[nodiscard]] std::string renamed_in(const std::string& text, const std::string& from, const std::string& to);

/// "corner_radius" -> "Corner radius", for lists and lanes.
[[nodiscard]] std::string label_of(const std::string& name);

}  // namespace rendak::formula
