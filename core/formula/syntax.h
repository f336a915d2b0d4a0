#pragma once

#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

namespace rendak::formula {

/// What is wrong with a formula, in a sentence, and where: bytes [from, to) of its text.
struct Problem {
    std::size_t from = 0, to = 0;
    std::string sentence;
    bool operator==(const Problem&) const = default;
};
template <class T>
using Checked = tl::expected<T, Problem>;

enum class Op {
    negate,
    logical_not,
    add,
    subtract,
    multiply,
    divide,
    power,
    less,
    less_equal,
    greater,
    greater_equal,
    equal,
    not_equal,
    logical_and,
    logical_or
};

/// One node of a formula; children are indices into Syntax::nodes.
struct Node {
    enum class Kind {
        number,       ///< `number` times `text`, a unit (may be empty)
        name,         ///< `text`: channel, formula, "car.mass"
        call,         ///< `text`(children); `names` holds the argument names, empty for positional ones
        list,         ///< [children]
        unary,        ///< op child
        binary,       ///< child op child
        conditional,  ///< children[0] if children[1] else children[2]
    };
    Kind kind = Kind::number;
    Op op = Op::add;
    double number = 0;
    std::string text = {};
    std::vector<int> children = {};
    std::vector<std::string> names = {};
    std::size_t from = 0, to = 0;
};

/// A parsed formula: a tree kept in one vector. Copied and compared as a value.
struct Syntax {
    std::vector<Node> nodes;
    int root = -1;

    [[nodiscard]] const Node& at(int index) const { return nodes[static_cast<std::size_t>(index)]; }
    [[nodiscard]] const Node& child(const Node& node, std::size_t i) const { return at(node.children[i]); }
};

/// Limits that keep a hostile formula harmless.
inline constexpr std::size_t longest_text = 20'000, most_nodes = 2'000;
inline constexpr int deepest = 60;

/// Reads the text of one formula (docs/formulas.md has the grammar). Comments run from # to the end of the line.
[[nodiscard]] Checked<Syntax> parse(std::string_view text);

/// Writes a formula in the one usual way; parsing it again gives the same tree.
[[nodiscard]] std::string print(const Syntax& syntax);

/// Whether two trees say the same, wherever it stands in their texts.
[[nodiscard]] bool same(const Syntax& a, const Syntax& b);

/// True for a word that a formula or channel can be called in a formula: a letter or _, then letters, digits, _; not a
/// keyword.
[[nodiscard]] bool is_plain_name(std::string_view text);

/// "Brake Pres. F" -> "brake_pres_f": the plain name of a channel as a logger called it.
[[nodiscard]] std::string plain_name(std::string_view text);

}  // namespace rendak::formula
