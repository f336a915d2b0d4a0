#include "core/formula/check.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/base/text.h"
#include "core/formula/scalar.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr std::size_t none = static_cast<std::size_t>(-1);

std::size_t index(int node) {
    return static_cast<std::size_t>(node);
}

bool is_temperature(const Type& type) {
    return type.kind == Type::Kind::number && type.powers == std::array<int, 6>{0, 0, 0, 12, 0, 0};
}

/// Walks the tree from the leaves up; the first problem ends it.
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

    Checked<CheckedFormula> all(std::string_view unit) {
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

  private:
    static std::string usual_or_plain(const Type& type) {
        const std::string unit = usual_unit(type);
        return unit.empty() ? "no unit" : unit;
    }
    const Node& node(int i) const { return out_.syntax.at(i); }
    Type& type(int i) { return out_.types[index(i)]; }
    std::optional<double>& constant(int i) { return out_.constants[index(i)]; }

    bool wrong(std::size_t from, std::size_t to, std::string sentence) {
        problem_ = Problem{from, to, std::move(sentence)};
        return false;
    }
    bool wrong(int i, std::string sentence) { return wrong(node(i).from, node(i).to, std::move(sentence)); }
    /// "a speed (wheel_speed_fl)": what a part is, with its own words where they are short.
    std::string said(int i) {
        const Node& part = node(i);
        const std::string_view words = text_.substr(std::min(part.from, text_.size()), part.to - part.from);
        const std::string what = described(type(i));
        return words.size() > 40 ? what : what + " (" + std::string(words) + ")";
    }

    bool visit(int i) {
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

    bool number(int i) {
        const auto unit = parse_compound_unit(node(i).text);
        if (!unit) return wrong(i, "The unit \"" + node(i).text + "\" is not known.");
        type(i) = type_of(*unit);
        constant(i) = unit->to_si(node(i).number);
        if (!std::isfinite(*constant(i))) return wrong(i, "This number is too large to be held.");
        return true;
    }

    /// Looks a name up; says what to do when it cannot be used.
    bool name(int i) {
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
    tl::expected<Named, NotNamed> look_up(int i) {
        const std::string& written = node(i).text;
        if (const Builtin* builtin = find_builtin(written)) {
            Named named;
            named.kind = Named::Kind::builtin;
            named.id = written;
            named.type = type_of(*parse_compound_unit(builtin->unit));
            named.is_state = builtin->is_state;
            return named;
        }
        return names_.find(written);
    }
    std::string sentence_for(int i, const NotNamed& why) const {
        const std::string& written = node(i).text;
        if (!why.unknown) return why.sentence;
        if (find_function(written) != nullptr)
            return written +
                   " is a function; its arguments follow in brackets: " + find_function(written)->signature() + ".";
        std::vector<std::string> known = names_.all ? names_.all() : std::vector<std::string>{};
        for (const Builtin& builtin : all_builtins()) known.emplace_back(builtin.name);
        const std::string near = nearest(written, known);
        return "\"" + written + "\" is not known." + (near.empty() ? "" : " Did you mean " + near + "?");
    }
    bool take(int i, Named found) {
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

    bool list(int i) {
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

    bool is_number(int i, const char* doing) {
        if (type(i).kind == Type::Kind::number) return true;
        return wrong(i, type(i).is_condition() ? "This is a condition; " + std::string(doing) +
                                                     " needs a number. number( ) makes 1 and 0 of it."
                                               : "A list cannot stand here.");
    }
    bool is_condition(int i, const std::string& doing) {
        if (type(i).is_condition()) return true;
        return wrong(
            i, doing + " needs a condition, and this is " + said(i) + ". Compare it with something, such as > 0.");
    }
    /// The two may be added, compared or chosen between.
    bool agree(int at, int a, int b, const std::string& doing) {
        if (type(a).is_condition() && type(b).is_condition()) return true;
        if (!is_number(a, doing.c_str()) || !is_number(b, doing.c_str())) return false;
        if (alike(type(a), type(b))) return true;
        std::string hint;
        if ((type(a).is_angle() && type(b).is_plain()) || (type(b).is_angle() && type(a).is_plain()))
            hint = " If the plain number is meant in radians, multiply it by 1 rad.";
        else if (type(b).is_plain() && node(b).kind == Node::Kind::number)
            hint = " Write the number with its unit, such as " + print_number(node(b).number) + " " +
                   usual_unit(type(a)) + ".";
        else if (type(a).is_plain() && node(a).kind == Node::Kind::number)
            hint = " Write the number with its unit, such as " + print_number(node(a).number) + " " +
                   usual_unit(type(b)) + ".";
        const std::string sentence = said(a) + " and " + said(b) + " cannot be " + doing + "." + hint;
        std::string capital = sentence;
        if (!capital.empty() && capital[0] >= 'a' && capital[0] <= 'z')
            capital[0] = static_cast<char>(capital[0] - 'a' + 'A');
        return wrong(at, capital);
    }
    static std::string print_number(double value) {
        Syntax one;
        Node only;
        only.number = value;
        one.nodes.push_back(only);
        one.root = 0;
        return print(one);
    }
    /// As agree(), and a temperature does not meet a difference of temperatures.
    bool agree_wholly(int at, int a, int b, const std::string& doing) {
        if (!agree(at, a, b, doing)) return false;
        if (std::abs(type(a).weight - type(b).weight) < 1e-9) return true;
        return wrong(at,
                     "One of these is a temperature, the other a difference of temperatures. Write temperatures in °C "
                     "(90 °C) and differences in K (5 K).");
    }

    bool unary(int i) {
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

    bool binary(int i) {
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

    bool is_missing(int i) const { return node(i).kind == Node::Kind::name && node(i).text == "missing"; }
    bool conditional(int i) {
        const Node& at = node(i);
        for (const int child : at.children) {
            if (!visit(child)) return false;
        }
        if (!is_condition(at.children[1], "\"if\"")) return false;
        return choice(i, at.children[1], at.children[0], at.children[2]);
    }
    bool choice(int i, int condition, int a, int b) {
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

    // ---- calls -----------------------------------------------------------------------------------

    bool call(int i) {
        const Node& at = node(i);
        const Function* function = find_function(at.text);
        if (function == nullptr) {
            std::vector<std::string> known;
            for (const Function& it : all_functions()) known.push_back(it.name);
            const std::string near = nearest(at.text, known);
            return wrong(at.from, at.from + at.text.size(),
                         "There is no function " + at.text + "." + (near.empty() ? "" : " Did you mean " + near + "?"));
        }
        out_.functions[index(i)] = function;
        if (!sort_arguments(i, *function)) return false;
        const std::vector<int>& arguments = out_.arguments[index(i)];
        if (function->fn == Fn::first_of) return first_of(i);
        for (std::size_t k = 0; k < arguments.size(); ++k) {
            if (arguments[k] >= 0 &&
                !argument(*function, function->parameters[std::min(k, function->parameters.size() - 1)], arguments[k]))
                return false;
        }
        return result(i, *function, arguments);
    }

    /// Brings the arguments of a call into the order of the parameters.
    bool sort_arguments(int i, const Function& function) {
        const Node& at = node(i);
        const auto& parameters = function.parameters;
        std::vector<int> sorted(parameters.size(), -1);
        const std::string how = " It is written " + function.signature() + ".";
        for (std::size_t k = 0; k < at.children.size(); ++k) {
            std::size_t place = none;
            if (at.names[k].empty()) {
                place = k;
                if (place >= parameters.size()) {
                    if (!parameters.back().repeated)
                        return wrong(at.children[k], function.name + " takes fewer arguments." + how);
                    sorted.push_back(at.children[k]);
                    continue;
                }
            } else {
                for (std::size_t p = 0; p < parameters.size(); ++p) {
                    if (parameters[p].name == at.names[k]) place = p;
                }
                if (place == none)
                    return wrong(at.children[k], function.name + " has no argument called " + at.names[k] + "." + how);
            }
            if (sorted[place] >= 0)
                return wrong(at.children[k], "The argument " + parameters[place].name + " is given twice.");
            sorted[place] = at.children[k];
        }
        for (std::size_t p = 0; p < parameters.size(); ++p) {
            // first_of( ) of one thing says that it may be missing.
            const bool needed = !parameters[p].optional && !(parameters[p].repeated && function.fn == Fn::first_of);
            if (needed && sorted[p] < 0) return wrong(i, "The argument " + parameters[p].name + " is missing." + how);
        }
        if (function.fn == Fn::first_of && sorted.back() < 0) sorted.pop_back();
        out_.arguments[index(i)] = std::move(sorted);
        return true;
    }

    bool argument(const Function& function, const Parameter& parameter, int i) {
        const auto is_word = [&](std::string_view word) {
            return node(i).kind == Node::Kind::name && node(i).text == word;
        };
        if (parameter.shape == Shape::per || parameter.shape == Shape::reset) {
            if (is_word("lap") || is_word("run")) return true;
            if (parameter.shape == Shape::per) return wrong(i, "per= is either lap or run.");
        }
        if (!visit(i)) return false;
        const std::string who = parameter.name + " of " + function.name;
        const auto one_number = [&](const Type& wanted, const std::string& what) {
            if (!is_number(i, who.c_str())) return false;
            if (!alike(type(i), wanted)) return wrong(i, who + " is " + what + "; this is " + said(i) + ".");
            if (!constant(i))
                return wrong(i, who + " is one value for the whole run; this changes from sample to sample.");
            if (!std::isfinite(*constant(i))) return wrong(i, who + " comes out as no number.");
            return true;
        };
        const auto in = [](const char* unit) { return type_of(*parse_compound_unit(unit)); };
        switch (parameter.shape) {
            case Shape::number:
                return is_number(i, function.name.c_str());
            case Shape::condition:
            case Shape::reset:
                return is_condition(i, function.name + "( )");
            case Shape::any:
                if (type(i).kind == Type::Kind::list) return wrong(i, "A list cannot stand here.");
                return true;
            case Shape::plain:
                if (!is_number(i, function.name.c_str())) return false;
                if (!type(i).is_plain())
                    return wrong(i, function.name + " works on plain numbers; this is " + said(i) +
                                        ". Divide by the unit it is meant in, such as / 1 " + usual_unit(type(i)) +
                                        ".");
                return true;
            case Shape::constant:
                if (!is_number(i, who.c_str())) return false;
                if (!constant(i))
                    return wrong(i, who + " is one value for the whole run; this changes from sample to sample.");
                return true;
            case Shape::count:
                return one_number(Type{}, "a plain number");
            case Shape::time:
                return one_number(in("s"), "a time, such as 0.2 s");
            case Shape::rate:
                return one_number(in("Hz"), "a rate, such as 5 Hz");
            case Shape::length:
                return one_number(in("m"), "a place, such as 850 m");
            case Shape::list:
                if (type(i).kind != Type::Kind::list) return wrong(i, who + " is a list: [1, 2, 3].");
                return true;
            case Shape::per:
                return true;
        }
        return true;
    }

    /// The first alternative that this run has. A name that nobody knows is passed over, and told.
    bool first_of(int i) {
        const std::vector<int> arguments = out_.arguments[index(i)];
        int chosen = -1;
        std::string passed;
        for (const int candidate : arguments) {
            const auto uses = out_.uses.size();
            missing_name_ = false;
            if (visit(candidate)) {
                if (chosen < 0) {
                    chosen = candidate;
                } else {
                    out_.uses.resize(uses);  // what is not taken is not used
                    if (!agree_wholly(i, chosen, candidate, "alternatives of each other")) return false;
                }
                continue;
            }
            out_.uses.resize(uses);
            // Only a name that is not there may be passed over; everything else is a mistake.
            if (!missing_name_) return false;
            if (chosen < 0)
                passed += (passed.empty() ? "" : ", ") + node(candidate).text;
            else if (unknown_name_)
                out_.notes.push_back(problem_->sentence + " It is one of the alternatives here.");
            if (chosen < 0 && unknown_name_)
                out_.notes.push_back(problem_->sentence + " The next alternative is taken.");
        }
        if (chosen < 0) {
            const std::string why = problem_ ? problem_->sentence : "";
            missing_name_ = true;  // an alternative around this one may pass over it
            return wrong(i, "None of these alternatives is there. " + why);
        }
        const Node& taken = node(chosen);
        if (!passed.empty() && taken.to <= text_.size())
            out_.notes.push_back("Not there: " + passed + "; " +
                                 std::string(text_.substr(taken.from, taken.to - taken.from)) + " is taken.");
        problem_.reset();
        out_.arguments[index(i)] = {chosen};
        type(i) = type(chosen);
        constant(i) = constant(chosen);
        out_.states[index(i)] = out_.states[index(chosen)];
        return true;
    }

    bool result(int i, const Function& function, const std::vector<int>& given) {
        const auto has = [&](std::size_t k) { return k < given.size() && given[k] >= 0; };
        const int x = given[0];
        Type& out = type(i);
        const auto word = [&](std::size_t k) {
            return node(given[k]).kind == Node::Kind::name &&
                   (node(given[k]).text == "lap" || node(given[k]).text == "run");
        };
        const Type second = type_of(*parse_compound_unit("s"));
        const auto positive = [&](std::size_t k) {
            if (has(k) && !(*constant(given[k]) > 0))
                return wrong(given[k],
                             function.parameters[k].name + " of " + function.name + " must be more than nothing.");
            return true;
        };
        const auto whole_number = [&](std::size_t k, int low, int high) {
            if (!has(k)) return true;
            const double value = *constant(given[k]);
            if (value != std::floor(value) || value < low || value > high)
                return wrong(given[k], function.parameters[k].name + " of " + function.name +
                                           " is a whole number from " + std::to_string(low) + " to " +
                                           std::to_string(high) + ".");
            return true;
        };
        switch (function.fn) {
            case Fn::abs:
                out = type(x);
                out.weight = std::abs(out.weight);
                break;
            case Fn::sqrt:
            case Fn::cbrt: {
                const auto root = raised(type(x), function.fn == Fn::sqrt ? 1.0 / 2 : 1.0 / 3);
                if (!root) return wrong(x, "The unit of this has no such root.");
                out = *root;
                break;
            }
            case Fn::sin:
            case Fn::cos:
            case Fn::tan:
                if (!type(x).is_angle() && !type(x).is_plain())
                    return wrong(x, function.name + " needs an angle; this is " + said(x) + ".");
                break;
            case Fn::arcsin:
            case Fn::arccos:
            case Fn::arctan:
                out = type_of(*parse_unit("rad"));
                break;
            case Fn::arctan2:
                if (!agree(i, given[0], given[1], "the two sides of one angle")) return false;
                out = type_of(*parse_unit("rad"));
                break;
            case Fn::hypot:
            case Fn::mod:
                if (!agree(i, given[0], given[1], function.fn == Fn::mod ? "divided with a remainder" : "combined"))
                    return false;
                out = type(x);
                out.weight = 0;
                break;
            case Fn::minimum:
            case Fn::maximum:
            case Fn::clip:
            case Fn::coalesce:
                for (const int other : given) {
                    if (!agree_wholly(i, x, other, "held against each other")) return false;
                }
                out = type(x);
                break;
            case Fn::where: {
                if (!choice(i, given[0], given[1], given[2])) return false;
                break;
            }
            case Fn::isnan:
                out = condition_type();
                break;
            case Fn::nan_to_num:
                if (has(1) && !agree_wholly(i, x, given[1], "held against each other")) return false;
                out = type(x);
                break;
            case Fn::bit:
                out = condition_type();
                [[fallthrough]];
            case Fn::left_shift:
            case Fn::right_shift:
                if (!whole_number(1, 0, 23)) return false;
                break;
            case Fn::interp:
            case Fn::pchip: {
                const auto &xs = node(given[1]).children, &ys = node(given[2]).children;
                Type points = type(given[1]);
                points.kind = Type::Kind::number;
                if (!alike(type(x), points) || std::abs(type(x).weight - points.weight) > 1e-9)
                    return wrong(given[1], "The table is read by " + described(points) + ", but x is " + said(x) + ".");
                if (xs.size() != ys.size())
                    return wrong(given[2], "xs has " + counted(xs.size(), "value", "values") + ", ys has " +
                                               std::to_string(ys.size()) + ".");
                if (xs.size() < 2) return wrong(given[1], "A table needs two points at least.");
                for (std::size_t k = 1; k < xs.size(); ++k) {
                    if (!(*constant(xs[k]) > *constant(xs[k - 1])))
                        return wrong(xs[k], "The values of xs must rise; this one does not.");
                }
                out = type(given[2]);
                out.kind = Type::Kind::number;
                break;
            }
            case Fn::polyval:
                out = type(given[1]);
                out.kind = Type::Kind::number;
                break;
            case Fn::gradient:
                out = quotient(type(x), second);
                break;
            case Fn::cumulative_trapezoid:
                out = product(type(x), second);
                break;
            case Fn::savgol_filter: {
                if (!positive(1) || !whole_number(2, 0, 6) || !whole_number(3, 0, 4)) return false;
                const int order = has(2) ? static_cast<int>(*constant(given[2])) : 2,
                          deriv = has(3) ? static_cast<int>(*constant(given[3])) : 0;
                if (deriv > order) return wrong(given[3], "deriv is higher than the order of the polynomial.");
                out = type(x);
                for (int k = 0; k < deriv; ++k) out = quotient(out, second);
                break;
            }
            case Fn::lowpass:
            case Fn::highpass:
                if (!positive(1) || !whole_number(2, 1, 8)) return false;
                out = type(x);
                if (function.fn == Fn::highpass) out.weight = 0;
                break;
            case Fn::uniform_filter:
            case Fn::minimum_filter:
            case Fn::maximum_filter:
            case Fn::median_filter:
            case Fn::resample:
                if (!positive(1)) return false;
                out = type(x);
                break;
            case Fn::delay:
                out = type(x);
                break;
            case Fn::hysteresis:
                if (!agree_wholly(i, x, given[1], "compared") || !agree_wholly(i, x, given[2], "compared"))
                    return false;
                out = condition_type();
                break;
            case Fn::debounce:
            case Fn::lasting:
                out = condition_type();
                break;
            case Fn::time_while:
                out = second;
                break;
            case Fn::distance_while:
                out = type_of(*parse_unit("m"));
                break;
            case Fn::share_while:
            case Fn::count_rises:
            case Fn::number:
                out = Type{};
                break;
            case Fn::std:
            case Fn::ptp:
                out = type(x);
                out.weight = 0;
                break;
            case Fn::mean:
                out = type(x).is_condition() ? Type{} : type(x);
                break;
            case Fn::min:
            case Fn::max:
            case Fn::median:
            case Fn::first:
            case Fn::last:
                out = type(x);
                break;
            case Fn::value_at:
                if (has(1) == has(2))
                    return wrong(i, "value_at needs a place or a time: value_at(speed, place=850 m).");
                out = type(x);
                break;
            default:
                break;  // plain numbers from plain numbers
        }
        if (function.fn == Fn::cumulative_trapezoid && has(1) && !word(1) && !type(given[1]).is_condition())
            return wrong(given[1], "reset= is lap, run or a condition.");
        fold(i, function, given);
        set_state(i, function, given);
        return true;
    }

    void fold(int i, const Function& function, const std::vector<int>& given) {
        if (!is_pointwise(function.fn)) return;
        std::vector<double> values;
        for (const int argument : given) {
            if (argument < 0) {
                values.push_back(0);
                continue;
            }
            if (node(argument).kind == Node::Kind::list) break;
            if (!constant(argument)) return;
            values.push_back(*constant(argument));
        }
        const auto listed = [&](std::size_t k) {
            std::vector<double> out;
            for (const int child : node(given[k]).children) out.push_back(*constant(child));
            return out;
        };
        if (function.fn == Fn::interp || function.fn == Fn::pchip) {
            const auto xs = listed(1), ys = listed(2);
            constant(i) = function.fn == Fn::interp ? table_at(values[0], xs, ys)
                                                    : pchip_at(values[0], xs, ys, pchip_slopes(xs, ys));
        } else if (function.fn == Fn::polyval) {
            double sum = 0;
            for (const double coefficient : listed(1)) sum = sum * values[0] + coefficient;
            constant(i) = sum;
        } else {
            constant(i) = formula::apply(function.fn, std::span<const double>(values));
        }
    }

    void set_state(int i, const Function& function, const std::vector<int>& given) {
        const auto all_states = [&] {
            return std::all_of(given.begin(), given.end(), [&](int argument) {
                return argument < 0 || out_.states[index(argument)] || constant(argument).has_value() ||
                       node(argument).kind == Node::Kind::list;
            });
        };
        switch (function.fn) {
            case Fn::floor:
            case Fn::ceil:
            case Fn::rint:
            case Fn::trunc:
            case Fn::sign:
            case Fn::bitwise_and:
            case Fn::bitwise_or:
            case Fn::bitwise_xor:
            case Fn::left_shift:
            case Fn::right_shift:
            case Fn::count_rises:
            case Fn::number:
            case Fn::mean:
            case Fn::min:
            case Fn::max:
            case Fn::std:
            case Fn::ptp:
            case Fn::median:
            case Fn::first:
            case Fn::last:
            case Fn::value_at:
                out_.states[index(i)] = true;
                break;
            case Fn::where:
                break;  // choice() said it
            case Fn::minimum:
            case Fn::maximum:
            case Fn::clip:
            case Fn::coalesce:
            case Fn::abs:
            case Fn::mod:
            case Fn::delay:
            case Fn::resample:
            case Fn::nan_to_num:
                out_.states[index(i)] = all_states();
                break;
            default:
                break;
        }
    }

    std::string_view text_;
    const Names& names_;
    CheckedFormula out_;
    std::vector<char> done_;
    std::optional<Problem> problem_;
    bool missing_name_ = false, unknown_name_ = false;
};

void collect_names(const Syntax& syntax, int i, std::set<std::string>& seen, std::vector<std::string>& out) {
    const Node& node = syntax.at(i);
    if (node.kind == Node::Kind::name && seen.insert(node.text).second) out.push_back(node.text);
    for (const int child : node.children) collect_names(syntax, child, seen, out);
}

}  // namespace

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
