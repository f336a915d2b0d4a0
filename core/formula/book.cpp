#include "core/formula/book.h"

#include <algorithm>
#include <cmath>

#include "core/base/sha256.h"
#include "core/base/text.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr std::size_t deepest_chain = 100;

}  // namespace

const Formula* Book::find(const std::string& name) const {
    const auto found = entries.find(name);
    return found == entries.end() ? nullptr : &found->second.formula;
}

Book book_for(const std::vector<FormulaSet>& sets, const std::string& car, const std::string& event) {
    Book book;
    const auto add = [&](const FormulaSet& set) {
        for (const Formula& formula : set.formulas) {
            if (name_problem(formula.name).empty()) book.entries[formula.name] = {formula, set.name};
        }
    };
    add(starter_set());
    for (const auto kind : {Scope::Kind::everything, Scope::Kind::car, Scope::Kind::event}) {
        for (const FormulaSet& set : sets) {
            if (set.scope.kind != kind) continue;
            if (kind == Scope::Kind::car && set.scope.name != car) continue;
            if (kind == Scope::Kind::event && set.scope.name != event) continue;
            add(set);
        }
    }
    return book;
}

Constants constants_for(const std::vector<CarSheet>& sheets, const std::string& car, const std::string& date) {
    const CarSheet* best = nullptr;
    const CarSheet* later = nullptr;
    for (const CarSheet& sheet : sheets) {
        if (sheet.car != car) continue;
        // Dates as 2026-05-16 compare as text; a sheet without one is valid from ever.
        if (date.empty() || sheet.valid_from <= date) {
            if (best == nullptr || best->valid_from < sheet.valid_from ||
                (best->valid_from == sheet.valid_from && best->season < sheet.season))
                best = &sheet;
        } else if (later == nullptr || sheet.valid_from < later->valid_from) {
            later = &sheet;
        }
    }
    Constants out;
    if (best == nullptr) {
        if (later != nullptr)
            out.stale = "The car sheet of " + car + " is valid only from " + later->valid_from + ", after this run.";
        return out;
    }
    out.sheet = car + (best->season.empty() ? "" : ", " + best->season);
    if (!date.empty() && best->valid_from.size() >= 4 && date.size() >= 4 &&
        best->valid_from.substr(0, 4) != date.substr(0, 4))
        out.stale =
            "The constants of " + out.sheet + " are valid from " + best->valid_from + ", a season before this run.";
    for (const SheetValue& value : best->values) {
        const std::string name = plain_name(value.name);
        const auto number = sheet_number(value.value);
        const auto unit = parse_compound_unit(value.unit);
        if (!number)
            out.unreadable[name] =
                value.name + " in the car sheet of " + out.sheet + " is no number (" + value.value + ").";
        else if (!unit)
            out.unreadable[name] =
                value.name + " in the car sheet of " + out.sheet + " has an unknown unit (" + value.unit + ").";
        else
            out.values[name] = {value.name, unit->to_si(*number), type_of(*unit)};
    }
    return out;
}

Resolver::Resolver(const Book& book, const Constants& constants, const Aliases& aliases, const Recording* recording)
    : book_(book), constants_(constants), aliases_(aliases), recording_(recording) {}

const Checked<CheckedFormula>& Resolver::checked(const std::string& name) {
    if (const auto found = checked_.find(name); found != checked_.end()) return found->second;
    const Formula* formula = book_.find(name);
    if (formula == nullptr)
        return checked_.emplace(name, tl::unexpected(Problem{0, 0, "There is no formula " + name + "."})).first->second;
    under_way_.push_back(name);
    depths_.push_back(0);
    auto result = check(formula->text, names(), formula->unit);
    under_way_.pop_back();
    depth_[name] = depths_.back();
    depths_.pop_back();
    return checked_.emplace(name, std::move(result)).first->second;
}

Names Resolver::names(const std::string& as) {
    Names out;
    out.find = [this, as](const std::string& name) { return find(name, as); };
    out.all = [this] {
        std::vector<std::string> all;
        for (const Quantity& quantity : all_quantities()) all.emplace_back(quantity.id);
        for (const auto& [name, entry] : book_.entries) all.push_back(name);
        for (const auto& [name, constant] : constants_.values) all.push_back("car." + name);
        if (recording_ != nullptr) {
            for (const Channel& channel : recording_->channels) all.push_back(plain_name(channel.name));
        }
        return all;
    };
    return out;
}

tl::expected<Named, NotNamed> Resolver::find(const std::string& name, const std::string& as) {
    const auto not_there = [](std::string sentence) { return tl::unexpected(NotNamed{false, std::move(sentence)}); };
    Named named;
    named.id = name;
    if (name.starts_with("car.")) {
        const std::string key = name.substr(4);
        const auto constant = constants_.values.find(key);
        if (constant != constants_.values.end()) {
            named.kind = Named::Kind::constant;
            named.type = constant->second.type;
            named.value = constant->second.value;
            named.note = constants_.stale;
            return named;
        }
        if (const auto why = constants_.unreadable.find(key); why != constants_.unreadable.end())
            return not_there(why->second);
        if (constants_.sheet.empty())
            return not_there("There is no car sheet with " + key + " for this car." +
                             (constants_.stale.empty() ? "" : " " + constants_.stale));
        std::vector<std::string> known;
        for (const auto& [other, value] : constants_.values) known.push_back(other);
        const std::string near = nearest(key, known);
        return not_there("The car sheet of " + constants_.sheet + " has no " + key + "." +
                         (near.empty() ? "" : " Did you mean car." + near + "?"));
    }
    if (name.find('.') != std::string::npos)
        return not_there("Only constants of the car sheet have a dot in their name: car." +
                         name.substr(name.rfind('.') + 1) + ".");

    if (name == as) return not_there(name + " uses itself.");
    if (book_.find(name) != nullptr) {
        const auto begun = std::find(under_way_.begin(), under_way_.end(), name);
        if (begun != under_way_.end()) {
            std::string circle;
            for (auto it = begun; it != under_way_.end(); ++it) circle += *it + " → ";
            return not_there("These formulas use each other in a circle: " + circle + name + ".");
        }
        if (under_way_.size() > deepest_chain) return not_there("More than 100 formulas build on each other here.");
        const auto& inner = checked(name);
        if (!inner) return not_there(name + " cannot be used: " + inner.error().sentence);
        const std::size_t depth = depth_[name] + 1;
        if (depth > deepest_chain) return not_there("More than 100 formulas build on each other here.");
        if (!depths_.empty()) depths_.back() = std::max(depths_.back(), depth);
        named.kind = Named::Kind::formula;
        named.type = inner->type();
        named.value = inner->value();
        named.is_state = inner->is_state;
        return named;
    }

    const Quantity* quantity = find_quantity(name);
    const bool exact = quantity != nullptr;
    if (!exact) quantity = match_quantity(name, aliases_);
    const Channel* by_quantity =
        quantity != nullptr && recording_ != nullptr ? recording_->find_logged(quantity->id) : nullptr;
    // A channel of the run that is called just so, and that no quantity stands for.
    if (!exact && by_quantity == nullptr && recording_ != nullptr) {
        for (const Channel& channel : recording_->channels) {
            if (plain_name(channel.name) != name || channel.size() == 0) continue;
            const auto unit = parse_compound_unit(channel.unit);
            named.id = std::string(by_name_prefix) + channel.name;
            if (unit) named.type = type_of(*unit);
            if (!unit)
                named.note =
                    name + ": the unit \"" + channel.unit + "\" is not known; its values count as plain numbers.";
            named.is_state = channel.steps();
            return named;
        }
    }
    if (quantity == nullptr) return tl::unexpected(NotNamed{});
    if (recording_ != nullptr && by_quantity == nullptr)
        return not_there("This run has no " + std::string(quantity->id) + " (" + std::string(quantity->label) + ").");
    named.id = std::string(quantity->id);
    named.type = type_of(*parse_unit(quantity->unit));
    const auto shown = parse_unit(quantity->shown_unit);
    if (shown && shown->offset != 0) named.type.weight = 1;
    named.is_state = quantity->is_state;
    if (!exact) named.note = name + " is read as " + named.id + ".";
    if (by_quantity != nullptr && folded(by_quantity->name) != folded(name) &&
        folded(by_quantity->name) != folded(quantity->label))
        named.note = name + " is the logger's \"" + by_quantity->name + "\".";
    return named;
}

std::string Resolver::fingerprint(const CheckedFormula& formula, const std::string& text, double rate_hz) {
    std::string all = text + '\n' + std::to_string(rate_hz);
    for (const Use& use : formula.uses) {
        all += '\n' + use.written + '=' + use.named.id;
        if (use.named.value) {
            const double value = *use.named.value;
            all.append(reinterpret_cast<const char*>(&value), sizeof value);
        } else if (use.named.kind == Named::Kind::formula) {
            all += fingerprint(use.named.id);
        } else if (use.named.id.starts_with("driver_")) {
            // The car sheet can say what counts as that.
            for (const auto& [name, constant] : constants_.values) all += name + "=" + std::to_string(constant.value);
        }
    }
    return sha256_of(all);
}

std::string Resolver::fingerprint(const std::string& name) {
    if (const auto found = fingerprints_.find(name); found != fingerprints_.end()) return found->second;
    const Formula* formula = book_.find(name);
    const auto& result = checked(name);
    const std::string made = formula == nullptr ? std::string()
                             : result           ? fingerprint(*result, formula->text, formula->rate_hz)
                                                : sha256_of("! " + result.error().sentence);
    return fingerprints_[name] = made;
}

std::map<std::string, std::vector<std::string>> users_of(const Book& book) {
    std::map<std::string, std::vector<std::string>> out;
    for (const auto& [name, entry] : book.entries) {
        const auto syntax = parse(entry.formula.text);
        if (!syntax) continue;
        for (const std::string& used : names_in(*syntax)) out[used].push_back(name);
    }
    return out;
}

}  // namespace rendak::formula
