#include "core/formula/formula_set.h"

#include <algorithm>
#include <charconv>
#include <map>
#include <set>

#include "core/base/text.h"
#include "core/formula/functions.h"
#include "core/formula/lexer.h"
#include "core/formula/syntax.h"
#include "core/signal/quantity.h"

namespace rendak::formula {

const Formula* FormulaSet::find(const std::string& formula) const {
    const auto found =
        std::find_if(formulas.begin(), formulas.end(), [&](const Formula& it) { return it.name == formula; });
    return found == formulas.end() ? nullptr : &*found;
}

std::string name_problem(const std::string& name) {
    if (name.empty()) return "A formula needs a name.";
    if (!is_plain_name(name)) {
        const std::string plain = plain_name(name);
        return "A name is made of letters, digits and _, and begins with a letter." +
               (plain.empty() || !is_plain_name(plain) ? std::string() : " How about " + plain + "?");
    }
    if (find_quantity(name) != nullptr)
        return name + " is what loggers measure; choose another name, such as " + name + "_2.";
    if (find_function(name) != nullptr) return name + " is a function; choose another name.";
    if (find_builtin(name) != nullptr || name == "lap" || name == "run" || name == "car" || name == "missing")
        return name + " already stands for something in every formula; choose another name.";
    return {};
}

std::vector<SetChange> differences(const FormulaSet& before, const FormulaSet& after) {
    std::map<std::string, SetChange> by_name;
    for (const Formula& formula : before.formulas)
        by_name[formula.name] = {SetChange::Kind::removed, formula.name, formula, {}};
    for (const Formula& formula : after.formulas) {
        SetChange& change = by_name[formula.name];
        change.name = formula.name;
        change.after = formula;
        change.kind = !change.before              ? SetChange::Kind::added
                      : *change.before == formula ? SetChange::Kind::same
                                                  : SetChange::Kind::changed;
    }
    std::vector<SetChange> out;
    for (auto& [name, change] : by_name) out.push_back(std::move(change));
    std::stable_partition(out.begin(), out.end(), [](const SetChange& it) { return it.kind != SetChange::Kind::same; });
    return out;
}

std::string renamed_in(const std::string& text, const std::string& from, const std::string& to) {
    const auto tokens = tokens_of(text);
    if (!tokens) return text;
    std::string out = text;
    for (std::size_t i = tokens->size(); i-- > 0;) {
        const Token& token = (*tokens)[i];
        if (token.kind != Token::Kind::name || token.text != from) continue;
        // Behind a dot it is a constant of that name, before a = the name of an argument.
        if (i > 0 && (*tokens)[i - 1].text == "." && (*tokens)[i - 1].kind == Token::Kind::mark) continue;
        const Token& next = (*tokens)[i + 1];
        if (next.kind == Token::Kind::mark && (next.text == "=" || next.text == "(")) continue;
        out.replace(token.from, token.to - token.from, to);
    }
    return out;
}

FormulaSet merged(const FormulaSet& mine, const FormulaSet& incoming,
                  const std::vector<std::pair<std::string, Merge>>& choices) {
    FormulaSet out = mine;
    std::set<std::string> taken;
    for (const Formula& formula : mine.formulas) taken.insert(formula.name);
    for (const Formula& formula : incoming.formulas) taken.insert(formula.name);
    std::map<std::string, std::string> new_names;
    for (const auto& [name, merge] : choices) {
        if (merge != Merge::take_both || mine.find(name) == nullptr) continue;
        for (int number = 2;; ++number) {
            const std::string candidate = name + "_" + std::to_string(number);
            if (!taken.insert(candidate).second) continue;
            new_names[name] = candidate;
            break;
        }
    }
    for (const auto& [name, merge] : choices) {
        const Formula* found = incoming.find(name);
        if (merge == Merge::keep || found == nullptr) continue;
        Formula formula = *found;
        for (const auto& [from, to] : new_names) formula.text = renamed_in(formula.text, from, to);
        if (const auto renamed = new_names.find(name); renamed != new_names.end()) formula.name = renamed->second;
        const auto present = std::find_if(out.formulas.begin(), out.formulas.end(),
                                          [&](const Formula& it) { return it.name == formula.name; });
        if (present != out.formulas.end())
            *present = std::move(formula);
        else
            out.formulas.push_back(std::move(formula));
    }
    return out;
}

std::string label_of(const std::string& name) {
    std::string out = name;
    std::replace(out.begin(), out.end(), '_', ' ');
    if (!out.empty() && out[0] >= 'a' && out[0] <= 'z') out[0] = static_cast<char>(out[0] - 'a' + 'A');
    for (const char* corner : {" fl", " fr", " rl", " rr"}) {
        if (out.ends_with(corner)) {
            for (std::size_t i = out.size() - 2; i < out.size(); ++i) out[i] = static_cast<char>(out[i] - 'a' + 'A');
        }
    }
    return out;
}

}  // namespace rendak::formula
