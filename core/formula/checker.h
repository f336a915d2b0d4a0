#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/formula/call_types.h"
#include "core/formula/check.h"

namespace rendak::formula {

/// Walks the tree from the leaves up; the first problem ends it. Calls are in check_calls.cpp.
class Checker {
  public:
    Checker(const Syntax& syntax, std::string_view text, const Names& names) : text_(text), names_(names) {
        out_.syntax = syntax;
        const std::size_t count = syntax.nodes.size();
        out_.types.resize(count);
        out_.constants.resize(count);
        out_.functions.resize(count);
        out_.arguments.resize(count);
        out_.named.resize(count);
        done_.resize(count);
        out_.states.resize(count);
    }

    Checked<CheckedFormula> all(std::string_view unit);

  private:
    friend class CallTypes;

    static std::size_t index(int node) { return static_cast<std::size_t>(node); }
    static std::string usual_or_plain(const Type& type);
    const Node& node(int i) const { return out_.syntax.at(i); }
    Type& type(int i) { return out_.types[index(i)]; }
    std::optional<double>& constant(int i) { return out_.constants[index(i)]; }
    bool wrong(std::size_t from, std::size_t to, std::string sentence);
    bool wrong(int i, std::string sentence) { return wrong(node(i).from, node(i).to, std::move(sentence)); }
    /// "a speed (wheel_speed_fl)": what a part is, with its own words where they are short.
    std::string said(int i);
    bool visit(int i);
    bool number(int i);
    /// Looks a name up; says what to do when it cannot be used.
    bool name(int i);
    tl::expected<Named, NotNamed> look_up(int i);
    std::string sentence_for(int i, const NotNamed& why) const;
    bool take(int i, Named found);
    bool list(int i);
    bool is_number(int i, const char* doing);
    bool is_condition(int i, const std::string& doing);
    /// The two may be added, compared or chosen between.
    bool agree(int at, int a, int b, const std::string& doing);
    static std::string print_number(double value);
    /// As agree(), and a temperature does not meet a difference of temperatures.
    bool agree_wholly(int at, int a, int b, const std::string& doing);
    bool unary(int i);
    bool binary(int i);
    bool is_missing(int i) const { return node(i).kind == Node::Kind::name && node(i).text == "missing"; }
    bool conditional(int i);
    bool choice(int i, int condition, int a, int b);

    bool call(int i);
    /// Brings the arguments of a call into the order of the parameters.
    bool sort_arguments(int i, const Function& function);
    bool argument(const Function& function, const Parameter& parameter, int i);
    /// The first alternative that this run has. A name that nobody knows is passed over, and told.
    bool first_of(int i);
    /// A call of constants is one.
    void fold(int i, const Function& function, const std::vector<int>& given);
    void set_state(int i, const Function& function, const std::vector<int>& given);
    std::string_view text_;
    const Names& names_;
    CheckedFormula out_;
    std::vector<char> done_;
    std::optional<Problem> problem_;
    bool missing_name_ = false, unknown_name_ = false;
};

}  // namespace rendak::formula
