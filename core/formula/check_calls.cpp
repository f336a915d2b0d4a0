#include <algorithm>
#include <cmath>

#include "core/formula/call_types.h"
#include "core/formula/checker.h"
#include "core/formula/scalar.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr std::size_t none = static_cast<std::size_t>(-1);

}  // namespace

bool Checker::call(int i) {
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
    if (function->row->takes_first) return first_of(i);
    for (std::size_t k = 0; k < arguments.size(); ++k) {
        if (arguments[k] >= 0 &&
            !argument(*function, function->parameters[std::min(k, function->parameters.size() - 1)], arguments[k]))
            return false;
    }
    CallTypes types(*this, i, *function);
    if (!function->row->type(types)) return false;
    fold(i, *function, arguments);
    set_state(i, *function, arguments);
    return true;
}

bool Checker::sort_arguments(int i, const Function& function) {
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
        const bool needed = !parameters[p].optional && !(parameters[p].repeated && function.row->takes_first);
        if (needed && sorted[p] < 0) return wrong(i, "The argument " + parameters[p].name + " is missing." + how);
    }
    if (function.row->takes_first && sorted.back() < 0) sorted.pop_back();
    out_.arguments[index(i)] = std::move(sorted);
    return true;
}

bool Checker::argument(const Function& function, const Parameter& parameter, int i) {
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
        if (!constant(i)) return wrong(i, who + " is one value for the whole run; this changes from sample to sample.");
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
                                    ". Divide by the unit it is meant in, such as / 1 " + usual_unit(type(i)) + ".");
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

bool Checker::first_of(int i) {
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
        if (chosen < 0 && unknown_name_) out_.notes.push_back(problem_->sentence + " The next alternative is taken.");
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

void Checker::fold(int i, const Function& function, const std::vector<int>& given) {
    if (function.is_over_time()) return;
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
    const FunctionRow& row = *function.row;
    if (row.table.value == nullptr) {
        constant(i) = formula::apply(row.pointwise, values);
        return;
    }
    const CallTypes call(*this, i, function);
    const auto first = call.list(1), second = given.size() > 2 ? call.list(2) : first;
    const auto slopes = row.table.slopes == nullptr ? std::vector<double>{} : row.table.slopes(first, second);
    constant(i) = row.table.value(values[0], first, second, slopes);
}

void Checker::set_state(int i, const Function& function, const std::vector<int>& given) {
    const auto steps = [&](int argument) {
        return argument < 0 || out_.states[index(argument)] || constant(argument).has_value() ||
               node(argument).kind == Node::Kind::list;
    };
    if (function.row->steps == Steps::yes) out_.states[index(i)] = true;
    if (function.row->steps == Steps::as_arguments)
        out_.states[index(i)] = std::all_of(given.begin(), given.end(), steps);
}

// ---- what the rules of the functions see --------------------------------------------------------------

int CallTypes::at(std::size_t k) const {
    const auto& given = checker_.out_.arguments[Checker::index(call_)];
    return k < given.size() ? given[k] : -1;
}
std::size_t CallTypes::count() const {
    return checker_.out_.arguments[Checker::index(call_)].size();
}
bool CallTypes::has(std::size_t k) const {
    return at(k) >= 0;
}
const Type& CallTypes::type(std::size_t k) const {
    return checker_.type(at(k));
}
double CallTypes::constant(std::size_t k, double otherwise) const {
    return has(k) ? checker_.constant(at(k)).value_or(otherwise) : otherwise;
}
std::vector<double> CallTypes::list(std::size_t k) const {
    std::vector<double> out;
    for (const int child : checker_.node(at(k)).children) out.push_back(*checker_.constant(child));
    return out;
}
bool CallTypes::is_word(std::size_t k) const {
    const Node& node = checker_.node(at(k));
    return node.kind == Node::Kind::name && (node.text == "lap" || node.text == "run");
}
std::string CallTypes::said(std::size_t k) const {
    return checker_.said(at(k));
}
Type& CallTypes::out() {
    return checker_.type(call_);
}
bool CallTypes::wrong(std::size_t k, std::string sentence) {
    return checker_.wrong(at(k), std::move(sentence));
}
bool CallTypes::wrong_item(std::size_t k, std::size_t item, std::string sentence) {
    return checker_.wrong(checker_.node(at(k)).children[item], std::move(sentence));
}
bool CallTypes::wrong_call(std::string sentence) {
    return checker_.wrong(call_, std::move(sentence));
}
bool CallTypes::agree(std::size_t a, std::size_t b, const std::string& doing) {
    return checker_.agree(call_, at(a), at(b), doing);
}
bool CallTypes::agree_wholly(std::size_t a, std::size_t b, const std::string& doing) {
    return checker_.agree_wholly(call_, at(a), at(b), doing);
}
bool CallTypes::positive(std::size_t k) {
    if (!has(k) || constant(k) > 0) return true;
    return wrong(k, function_.parameters[k].name + " of " + name() + " must be more than nothing.");
}
bool CallTypes::whole_number(std::size_t k, int low, int high) {
    const double value = constant(k, low);
    if (value == std::floor(value) && value >= low && value <= high) return true;
    return wrong(k, function_.parameters[k].name + " of " + name() + " is a whole number from " + std::to_string(low) +
                        " to " + std::to_string(high) + ".");
}
bool CallTypes::choice(std::size_t condition, std::size_t a, std::size_t b) {
    return checker_.choice(call_, at(condition), at(a), at(b));
}

namespace types {

bool plain(CallTypes& call) {
    call.out() = Type{};
    return true;
}
bool condition(CallTypes& call) {
    call.out() = condition_type();
    return true;
}
bool as_first(CallTypes& call) {
    call.out() = call.type(0);
    return true;
}
bool difference(CallTypes& call) {
    call.out() = call.type(0);
    call.out().weight = 0;
    return true;
}
bool angle(CallTypes& call) {
    call.out() = type_of(*parse_unit("rad"));
    return true;
}
bool all_alike(CallTypes& call) {
    for (std::size_t k = 1; k < call.count(); ++k) {
        if (call.has(k) && !call.agree_wholly(0, k, "held against each other")) return false;
    }
    return as_first(call);
}

}  // namespace types

}  // namespace rendak::formula
