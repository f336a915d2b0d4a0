#pragma once

#include <functional>
#include <optional>

#include "core/formula/functions.h"
#include "core/formula/syntax.h"
#include "core/formula/type.h"

namespace rendak::formula {

/// What a name in a formula stands for.
struct Named {
    enum class Kind { channel, formula, constant, builtin };
    Kind kind = Kind::channel;
    std::string id;  ///< by which RunView finds its samples; "car.mass" for a constant
    Type type;
    std::optional<double> value;  ///< of a constant, SI
    bool is_state = false;        ///< steps from value to value
    std::string note;             ///< what was substituted, in words; empty when nothing was
};

/// Why a name cannot be used. `unknown`: nobody has heard of it, so that a near name is worth offering; else the
/// sentence says it (a constant that the car sheet lacks, a channel that this run lacks, a circle of formulas).
struct NotNamed {
    bool unknown = true;
    std::string sentence;
};

/// The names a formula may use.
struct Names {
    std::function<tl::expected<Named, NotNamed>(const std::string&)> find;
    std::function<std::vector<std::string>()> all;  ///< for "did you mean"
};

/// A name that a formula uses.
struct Use {
    std::string written;
    Named named;
    std::size_t from = 0, to = 0;
};

/// A formula whose names are known and whose units and types agree, ready to be compiled.
struct CheckedFormula {
    Syntax syntax;
    std::vector<Type> types;                       ///< of each node
    std::vector<std::optional<double>> constants;  ///< value of each node that is one number, SI
    std::vector<const Function*> functions;        ///< of each call
    std::vector<std::vector<int>> arguments;       ///< of each call, in the order of its parameters; -1: not given
    std::vector<Named> named;                      ///< of each name node
    std::vector<char> states;                      ///< of each node: whether it steps from value to value
    std::vector<Use> uses;                         ///< in the order written
    std::vector<std::string> notes;                ///< substitutions and alternatives, in sentences
    bool is_state = false;

    [[nodiscard]] const Type& type() const { return types[static_cast<std::size_t>(syntax.root)]; }
    /// The value when the whole formula is one number.
    [[nodiscard]] std::optional<double> value() const { return constants[static_cast<std::size_t>(syntax.root)]; }
};

/// Checks dimensions, types, names and arguments. `unit`, when not empty, is the unit that the result is to be shown in
/// and must fit it.
[[nodiscard]] Checked<CheckedFormula> check(const Syntax& syntax, std::string_view text, const Names& names,
                                            std::string_view unit = {});
[[nodiscard]] Checked<CheckedFormula> check(std::string_view text, const Names& names, std::string_view unit = {});

/// All names written in a formula (channels, formulas, constants), each once, without knowing what they are.
[[nodiscard]] std::vector<std::string> names_in(const Syntax& syntax);

}  // namespace rendak::formula
