#include <array>
#include <charconv>
#include <cmath>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "core/base/json_bounds.h"
#include "core/base/text.h"
#include "core/formula/formula_set.h"
#include "core/formula/syntax.h"

namespace rendak::formula {
namespace {

using nlohmann::json;

constexpr std::array<const char*, 3> scope_names{"everything", "car", "event"};

}  // namespace

std::string set_to_json(const FormulaSet& set) {
    json out;
    out["rendak"] = "formula set";
    out["version"] = 1;
    out["name"] = set.name;
    out["for"] = {{"kind", scope_names[static_cast<std::size_t>(set.scope.kind)]}, {"name", set.scope.name}};
    out["remarks"] = set.remarks;
    out["formulas"] = json::array();
    for (const Formula& formula : set.formulas) {
        json one{
            {"name", formula.name}, {"formula", formula.text}, {"unit", formula.unit}, {"decimals", formula.decimals}};
        if (!formula.comment.empty()) one["comment"] = formula.comment;
        if (formula.range) one["range"] = {formula.range->begin, formula.range->end};
        if (formula.rate_hz > 0) one["rate_hz"] = formula.rate_hz;
        out["formulas"].push_back(std::move(one));
    }
    return out.dump(2, ' ', false, json::error_handler_t::replace) + "\n";
}

Result<FormulaSet> set_from_json(const std::string& text, const std::string& where) {
    const auto wrong = [&](const std::string& sentence) { return fail(ErrorCode::bad_input, sentence, where); };
    if (text.size() > 20'000'000) return wrong("The file is too large to be a formula set.");
    // A set is three levels deep.
    const bool bounded = check_json(text, where, {20'000'000, 200'000, 6}).has_value();
    const json file = bounded ? json::parse(text, nullptr, false) : json();
    if (file.is_discarded() || !file.is_object() || file.value("rendak", json()) != "formula set")
        return wrong("This is no formula set of Rendak. Export one with \"Export set\" to see what it looks like.");
    const json version = file.value("version", json(1));
    if (!version.is_number_integer() || version.get<std::int64_t>() > 1)
        return fail(ErrorCode::too_new, "The set was written by a newer version of Rendak. Update Rendak to read it.",
                    where);
    const auto text_of = [](const json& from, const char* key) {
        const auto found = from.find(key);
        return found != from.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    const auto number_of = [](const json& from, double otherwise) {
        return from.is_number() && std::isfinite(from.get<double>()) ? from.get<double>() : otherwise;
    };
    FormulaSet set;
    set.name = std::string(trimmed(text_of(file, "name")));
    set.remarks = text_of(file, "remarks");
    if (set.name.empty() || set.name.size() > 200) return wrong("The set has no name.");
    if (const auto scope = file.find("for"); scope != file.end() && scope->is_object()) {
        const std::string kind = text_of(*scope, "kind");
        for (std::size_t i = 0; i < scope_names.size(); ++i) {
            if (kind == scope_names[i]) set.scope.kind = static_cast<Scope::Kind>(i);
        }
        set.scope.name = text_of(*scope, "name");
    }
    const auto formulas = file.find("formulas");
    if (formulas == file.end() || !formulas->is_array()) return wrong("The set has no list of formulas.");
    if (formulas->size() > most_formulas)
        return wrong("A set holds at most " + std::to_string(most_formulas) + " formulas.");
    std::set<std::string> seen;
    for (const json& one : *formulas) {
        if (!one.is_object()) return wrong("An entry of the list of formulas is none.");
        Formula formula;
        formula.name = text_of(one, "name");
        formula.text = text_of(one, "formula");
        formula.unit = text_of(one, "unit");
        formula.comment = text_of(one, "comment");
        formula.decimals = static_cast<int>(std::clamp(number_of(one.value("decimals", json(2)), 2), 0.0, 9.0));
        formula.rate_hz = std::clamp(number_of(one.value("rate_hz", json(0)), 0), 0.0, 1e5);
        if (const auto range = one.find("range"); range != one.end() && range->is_array() && range->size() == 2) {
            const Interval limits{number_of((*range)[0], 0), number_of((*range)[1], 0)};
            if (!limits.empty()) formula.range = limits;
        }
        if (const std::string problem = name_problem(formula.name); !problem.empty())
            return wrong("The formula \"" + formula.name.substr(0, 60) + "\" cannot come in: " + problem);
        if (formula.text.size() > longest_text || formula.comment.size() > longest_text || formula.unit.size() > 60)
            return wrong("The formula " + formula.name + " is too long.");
        if (!seen.insert(formula.name).second)
            return wrong("The formula " + formula.name + " stands in the set twice.");
        set.formulas.push_back(std::move(formula));
    }
    return set;
}

std::string formula_to_text(const Formula& formula) {
    std::string out;
    std::istringstream lines(formula.comment);
    for (std::string line; std::getline(lines, line);) out += "# " + line + "\n";
    out += formula.name;
    if (!formula.unit.empty()) out += " in " + formula.unit;
    if (formula.range) out += " from " + exact_number(formula.range->begin) + " to " + exact_number(formula.range->end);
    if (formula.decimals != 2) out += " with " + std::to_string(formula.decimals) + " decimals";
    if (formula.rate_hz > 0) out += " at " + exact_number(formula.rate_hz) + " Hz";
    return out + " = " + formula.text;
}

Result<Formula> formula_from_text(const std::string& text) {
    const auto wrong = [](const std::string& sentence) { return fail(ErrorCode::bad_input, sentence); };
    constexpr const char* how = " It is written: name in unit from low to high = formula.";
    if (text.size() > 2 * longest_text) return wrong("The text is too long for one formula.");
    Formula out;
    std::string_view rest = trimmed(text);
    while (rest.starts_with('#')) {
        const auto end = std::min(rest.find('\n'), rest.size());
        out.comment += (out.comment.empty() ? "" : "\n") + std::string(trimmed(rest.substr(1, end - 1)));
        rest = trimmed(rest.substr(end));
    }
    const auto equals = rest.find('=');
    if (equals == std::string_view::npos) return wrong(std::string("There is no = in this text.") + how);
    std::istringstream head{std::string(rest.substr(0, equals))};
    out.text = std::string(trimmed(rest.substr(equals + 1)));
    head >> out.name;
    if (const std::string problem = name_problem(out.name); !problem.empty()) return wrong(problem);
    const auto number = [](const std::string& word, double& value) {
        const std::string_view digits = word;
        const auto read = std::from_chars(digits.data(), digits.data() + digits.size(), value);
        return read.ec == std::errc() && read.ptr == digits.data() + digits.size() && std::isfinite(value);
    };
    for (std::string word; head >> word;) {
        std::string value, more;
        double a = 0, b = 0;
        if (word == "in" && head >> value) {
            out.unit = value;
        } else if (word == "from" && head >> value >> more >> word && more == "to" && number(value, a) &&
                   number(word, b) && a < b) {
            out.range = Interval{a, b};
        } else if (word == "with" && head >> value >> more && more.starts_with("decimal") && number(value, a) &&
                   a >= 0 && a <= 9) {
            out.decimals = static_cast<int>(a);
        } else if (word == "at" && head >> value >> more && more == "Hz" && number(value, a) && a > 0 && a <= 1e5) {
            out.rate_hz = a;
        } else {
            return wrong("\"" + word + "\" was not understood before the =." + how);
        }
    }
    if (out.text.empty()) return wrong("Nothing follows the =.");
    return out;
}

}  // namespace rendak::formula
