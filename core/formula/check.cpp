#include "core/formula/check.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/formula/checker.h"
#include "core/formula/scalar.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

bool is_temperature(const Type& type) {
    return type.kind == Type::Kind::number && type.powers == std::array<int, 6>{0, 0, 0, 12, 0, 0};
}

void collect_names(const Syntax& syntax, int i, std::set<std::string>& seen, std::vector<std::string>& out) {
    const Node& node = syntax.at(i);
    if (node.kind == Node::Kind::name && seen.insert(node.text).second) out.push_back(node.text);
    for (const int child : node.children) collect_names(syntax, child, seen, out);
}

}  // namespace

Checked<CheckedFormula> Checker::all(std::string_view unit) {
    const int root = out_.syntax.root;
    if (!visit(root)) return tl::unexpected(*problem_);
    const Type& type = out_.type();
    const Node& whole = node(root);
    if (type.kind == Type::Kind::list)
        return tl::unexpected(
            Problem{whole.from, whole.to, "A list is no channel; it belongs into interp( ) or pchip( )."});
    if (is_temperature(type) && std::abs(type.weight) > 1e-9 && std::abs(type.weight - 1) > 1e-9)
        return tl::unexpected(Problem{whole.from, whole.to,
                                      "This adds temperatures up, which gives no temperature. Take their mean, or "
                                      "the difference of two."});
    if (!dimension_of(type))
        return tl::unexpected(
            Problem{whole.from, whole.to,
                    "The result has a broken power of a unit, such as √m. A root may be missing its square."});
    if (!unit.empty()) {
        const auto wanted = parse_compound_unit(unit);
        if (!wanted)
            return tl::unexpected(
                Problem{whole.from, whole.to, "The unit \"" + std::string(unit) + "\" is not known."});
        if (type.is_condition() && !(wanted->dimension == Dimension{}))
            return tl::unexpected(Problem{whole.from, whole.to, "The result is a condition and has no unit."});
        Type shown = type_of(*wanted);
        if (!type.is_condition() && !alike(shown, type))
            return tl::unexpected(Problem{whole.from, whole.to,
                                          "The result is " + described(type) + " (" + usual_or_plain(type) +
                                              "); it cannot be shown in " + std::string(unit) + "."});
        if (wanted->offset != 0 && std::abs(type.weight) < 1e-9)
            return tl::unexpected(
                Problem{whole.from, whole.to, "The result is a difference of temperatures; show it in K."});
    }
    out_.is_state = out_.states[index(root)] || type.is_condition();
    return std::move(out_);
}

std::string Checker::usual_or_plain(const Type& type) {
    const std::string unit = usual_unit(type);
    return unit.empty() ? "no unit" : unit;
}

bool Checker::wrong(std::size_t from, std::size_t to, std::string sentence) {
    problem_ = Problem{from, to, std::move(sentence)};
    return false;
}

std::string Checker::said(int i) {
    const Node& part = node(i);
    const std::string_view words = text_.substr(std::min(part.from, text_.size()), part.to - part.from);
    const std::string what = described(type(i));
    return words.size() > 40 ? what : what + " (" + std::string(words) + ")";
}

bool Checker::visit(int i) {
    if (done_[index(i)]) return true;
    bool fine = false;
    switch (node(i).kind) {
        case Node::Kind::number:
            fine = number(i);
            break;
        case Node::Kind::name:
            fine = name(i);
            break;
        case Node::Kind::call:
            fine = call(i);
            break;
        case Node::Kind::list:
            fine = list(i);
            break;
        case Node::Kind::unary:
            fine = unary(i);
            break;
        case Node::Kind::binary:
            fine = binary(i);
            break;
        case Node::Kind::conditional:
            fine = conditional(i);
            break;
    }
    done_[index(i)] = fine;
    return fine;
}

bool Checker::number(int i) {
    const auto unit = parse_compound_unit(node(i).text);
    if (!unit) return wrong(i, "The unit \"" + node(i).text + "\" is not known.");
    type(i) = type_of(*unit);
    constant(i) = unit->to_si(node(i).number);
    if (!std::isfinite(*constant(i))) return wrong(i, "This number is too large to be held.");
    return true;
}

bool Checker::name(int i) {
    if (node(i).text == "missing") {  // takes the unit of the other side of a choice
        constant(i) = std::nan("");
        return true;
    }
    auto found = look_up(i);
    if (found) return take(i, std::move(*found));
    missing_name_ = true;
    unknown_name_ = found.error().unknown;
    return wrong(i, sentence_for(i, found.error()));
}

tl::expected<Named, NotNamed> Checker::look_up(int i) {
    const std::string& written = node(i).text;
    if (const Builtin* builtin = find_builtin(written)) {
        Named named;
        named.kind = Named::Kind::builtin;
        named.id = written;
        named.type = builtin->is_condition ? condition_type() : type_of(*parse_compound_unit(builtin->unit));
        named.is_state = builtin->is_state;
        return named;
    }
    return names_.find(written);
}

std::string Checker::sentence_for(int i, const NotNamed& why) const {
    const std::string& written = node(i).text;
    if (!why.unknown) return why.sentence;
    if (find_function(written) != nullptr)
        return written + " is a function; its arguments follow in brackets: " + find_function(written)->signature() +
               ".";
    std::vector<std::string> known = names_.all ? names_.all() : std::vector<std::string>{};
    for (const Builtin& builtin : all_builtins()) known.emplace_back(builtin.name);
    const std::string near = nearest(written, known);
    return "\"" + written + "\" is not known." + (near.empty() ? "" : " Did you mean " + near + "?");
}

bool Checker::take(int i, Named found) {
    type(i) = found.type;
    constant(i) = found.value;
    out_.states[index(i)] = found.is_state || found.type.is_condition();
    const Node& at = node(i);
    out_.uses.push_back({at.text, found, at.from, at.to});
    if (!found.note.empty() && std::find(out_.notes.begin(), out_.notes.end(), found.note) == out_.notes.end())
        out_.notes.push_back(found.note);
    out_.named[index(i)] = std::move(found);
    return true;
}

bool Checker::list(int i) {
    const Node& whole = node(i);
    if (whole.children.empty()) return wrong(i, "This list is empty.");
    for (const int child : whole.children) {
        if (!visit(child)) return false;
        if (!constant(child)) return wrong(child, "A list holds constants; this changes from sample to sample.");
        if (!alike(type(child), type(whole.children[0])))
            return wrong(child, "All values of a list have one unit; this is " + said(child) + ", the first is " +
                                    described(type(whole.children[0])) + ".");
    }
    type(i) = type(whole.children[0]);
    type(i).kind = Type::Kind::list;
    return true;
}

bool Checker::is_number(int i, const char* doing) {
    if (type(i).kind == Type::Kind::number) return true;
    return wrong(i, type(i).is_condition() ? "This is a condition; " + std::string(doing) +
                                                 " needs a number. number( ) makes 1 and 0 of it."
                                           : "A list cannot stand here.");
}

bool Checker::is_condition(int i, const std::string& doing) {
    if (type(i).is_condition()) return true;
    return wrong(i, doing + " needs a condition, and this is " + said(i) + ". Compare it with something, such as > 0.");
}

bool Checker::agree(int at, int a, int b, const std::string& doing) {
    if (type(a).is_condition() && type(b).is_condition()) return true;
    if (!is_number(a, doing.c_str()) || !is_number(b, doing.c_str())) return false;
    if (alike(type(a), type(b))) return true;
    std::string hint;
    if ((type(a).is_angle() && type(b).is_plain()) || (type(b).is_angle() && type(a).is_plain()))
        hint = " If the plain number is meant in radians, multiply it by 1 rad.";
    else if (type(b).is_plain() && node(b).kind == Node::Kind::number)
        hint = " Write the number with its unit, such as " + print_number(node(b).number) + " " + usual_unit(type(a)) +
               ".";
    else if (type(a).is_plain() && node(a).kind == Node::Kind::number)
        hint = " Write the number with its unit, such as " + print_number(node(a).number) + " " + usual_unit(type(b)) +
               ".";
    const std::string sentence = said(a) + " and " + said(b) + " cannot be " + doing + "." + hint;
    std::string capital = sentence;
    if (!capital.empty() && capital[0] >= 'a' && capital[0] <= 'z')
        capital[0] = static_cast<char>(capital[0] - 'a' + 'A');
    return wrong(at, capital);
}

std::string Checker::print_number(double value) {
    Syntax one;
    Node only;
    only.number = value;
    one.nodes.push_back(only);
    one.root = 0;
    return print(one);
}

bool Checker::agree_wholly(int at, int a, int b, const std::string& doing) {
    if (!agree(at, a, b, doing)) return false;
    if (std::abs(type(a).weight - type(b).weight) < 1e-9) return true;
    return wrong(at,
                 "One of these is a temperature, the other a difference of temperatures. Write temperatures in °C "
                 "(90 °C) and differences in K (5 K).");
}

bool Checker::unary(int i) {
    const int child = node(i).children[0];
    if (!visit(child)) return false;
    if (node(i).op == Op::logical_not) {
        if (!is_condition(child, "\"not\"")) return false;
        type(i) = condition_type();
    } else {
        if (!is_number(child, "a minus sign")) return false;
        type(i) = type(child);
        type(i).weight = -type(child).weight;
    }
    if (constant(child)) constant(i) = apply(node(i).op, *constant(child), 0);
    return true;
}

bool Checker::binary(int i) {
    const Node& at = node(i);
    const int a = at.children[0], b = at.children[1];
    if (!visit(a) || !visit(b)) return false;
    switch (at.op) {
        case Op::logical_and:
        case Op::logical_or: {
            const std::string word = at.op == Op::logical_and ? "\"and\"" : "\"or\"";
            if (!is_condition(a, word) || !is_condition(b, word)) return false;
            type(i) = condition_type();
            break;
        }
        case Op::add:
        case Op::subtract: {
            const bool adds = at.op == Op::add;
            if (!is_number(a, "arithmetic") || !is_number(b, "arithmetic")) return false;
            if (!agree(i, a, b, adds ? "added" : "subtracted from each other")) return false;
            type(i) = type(a);
            // A length with an angle in it (an arc) is a length.
            if (type(i).powers != type(b).powers) type(i).powers[5] = 0;
            type(i).weight = adds ? type(a).weight + type(b).weight : type(a).weight - type(b).weight;
            break;
        }
        case Op::multiply:
        case Op::divide: {
            if (!is_number(a, "arithmetic") || !is_number(b, "arithmetic")) return false;
            const bool multiplies = at.op == Op::multiply;
            type(i) = multiplies ? product(type(a), type(b)) : quotient(type(a), type(b));
            // A share of a temperature counts as that share of one, so that means come out as temperatures.
            if (constant(b) && type(b).is_plain())
                type(i).weight = multiplies ? type(a).weight * *constant(b) : type(a).weight / *constant(b);
            else if (multiplies && constant(a) && type(a).is_plain())
                type(i).weight = type(b).weight * *constant(a);
            if (!std::isfinite(type(i).weight)) type(i).weight = 0;
            break;
        }
        case Op::power: {
            if (!is_number(a, "a power") || !is_number(b, "a power")) return false;
            if (!type(b).is_plain()) return wrong(b, "An exponent is a plain number; this is " + said(b) + ".");
            if (type(a).is_plain()) break;
            if (!constant(b)) return wrong(b, "What has a unit can only be raised to a constant power.");
            const auto result = raised(type(a), *constant(b));
            if (!result)
                return wrong(
                    b, "A unit cannot be raised to this power. Divide by the unit first: (speed / 1 m/s) ** 0.33.");
            type(i) = *result;
            break;
        }
        default: {
            if (!agree_wholly(i, a, b, "compared")) return false;
            const bool ordered = at.op != Op::equal && at.op != Op::not_equal;
            if (ordered && type(a).is_condition())
                return wrong(i, "Conditions have no order; combine them with and, or, not.");
            type(i) = condition_type();
        }
    }
    if (constant(a) && constant(b)) constant(i) = apply(at.op, *constant(a), *constant(b));
    out_.states[index(i)] = out_.states[index(a)] && out_.states[index(b)];
    return true;
}

bool Checker::conditional(int i) {
    const Node& at = node(i);
    for (const int child : at.children) {
        if (!visit(child)) return false;
    }
    if (!is_condition(at.children[1], "\"if\"")) return false;
    return choice(i, at.children[1], at.children[0], at.children[2]);
}

bool Checker::choice(int i, int condition, int a, int b) {
    if (is_missing(a) != is_missing(b)) {
        type(i) = type(is_missing(a) ? b : a);
        out_.states[index(i)] = out_.states[index(is_missing(a) ? b : a)];
        return true;
    }
    if (!agree_wholly(i, a, b, "the two sides of one choice")) return false;
    type(i) = type(a);
    if (constant(condition) && constant(a) && constant(b))
        constant(i) = std::isnan(*constant(condition)) ? *constant(condition)
                      : *constant(condition) != 0      ? *constant(a)
                                                       : *constant(b);
    const auto steps = [&](int side) { return out_.states[index(side)] || constant(side).has_value(); };
    out_.states[index(i)] = steps(a) && steps(b);
    return true;
}

Checked<CheckedFormula> check(const Syntax& syntax, std::string_view text, const Names& names, std::string_view unit) {
    return Checker(syntax, text, names).all(unit);
}

Checked<CheckedFormula> check(std::string_view text, const Names& names, std::string_view unit) {
    auto syntax = parse(text);
    if (!syntax) return tl::unexpected(syntax.error());
    return check(*syntax, text, names, unit);
}

std::vector<std::string> names_in(const Syntax& syntax) {
    std::set<std::string> seen;
    std::vector<std::string> out;
    collect_names(syntax, syntax.root, seen, out);
    return out;
}

}  // namespace rendak::formula
