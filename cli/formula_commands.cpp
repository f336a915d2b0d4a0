#include "cli/formula_commands.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/output.h"
#include "core/analysis/at_rest.h"
#include "core/base/file_io.h"
#include "core/intake/run_data.h"
#include "core/units/compound_unit.h"

namespace rendak::cli {
namespace {

using formula::Formula;
using formula::FormulaSet;
using formula::Problem;

Json json_of(const Problem& problem) {
    return {{"ok", false}, {"from", problem.from}, {"to", problem.to}, {"problem", problem.sentence}};
}

/// The line of the text with the wrong part underlined, then the sentence.
void point_at(const std::string& text, const Problem& problem) {
    const std::size_t from = std::min(problem.from, text.size());
    const std::size_t begin = from == 0 ? 0 : text.rfind('\n', from - 1) + 1;
    const std::size_t end = std::min(text.find('\n', from), text.size());
    say(text.substr(begin, end - begin));
    say(std::string(from - begin, ' ') +
        std::string(std::max<std::size_t>(1, std::min(problem.to, end) - std::min(from, end)), '^'));
    say(problem.sentence);
}

/// What a formula can be checked against: a run, or the library's sets and no run at all.
struct Ground {
    std::shared_ptr<const RunData> run;
    FormulaInputs inputs;
    std::unique_ptr<formula::Resolver> resolver;

    [[nodiscard]] formula::Checked<formula::CheckedFormula> check(const std::string& text, const std::string& unit,
                                                                  const std::string& as = {}) {
        return run != nullptr ? run->formulas->check(text, unit, as) : formula::check(text, resolver->names(as), unit);
    }
};

Result<Ground> ground(const std::string& folder, std::int64_t run) {
    Ground out;
    if (run != 0) {
        const auto library = open_existing(folder);
        if (!library) return pass_on(library.error());
        auto loaded = load_checked(**library, {run});
        if (!loaded) return pass_on(loaded.error());
        out.run = *loaded;
        return out;
    }
    std::vector<FormulaSet> sets;
    std::vector<CarSheet> sheets;
    if (std::filesystem::exists(folder)) {
        const auto library = open_existing(folder);
        if (!library) return pass_on(library.error());
        auto read_sets = formula_sets(**library);
        if (!read_sets) return pass_on(read_sets.error());
        auto read_sheets = (*library)->car_sheets();
        if (!read_sheets) return pass_on(read_sheets.error());
        auto aliases = (*library)->aliases();
        if (!aliases) return pass_on(aliases.error());
        sets = std::move(*read_sets);
        sheets = std::move(*read_sheets);
        out.inputs.aliases = std::move(*aliases);
    }
    out.inputs.book = formula::book_for(sets, {}, {});
    // Without a run any car's constants will do to check units.
    if (!sheets.empty()) out.inputs.constants = formula::constants_for(sheets, sheets.back().car, {});
    return out;
}

Json described(const formula::CheckedFormula& checked) {
    Json out{{"ok", true},
             {"kind", checked.type().is_condition() ? "condition" : "number"},
             {"unit", formula::usual_unit(checked.type())}};
    if (const auto dimension = formula::dimension_of(checked.type())) out["unit_si"] = si_symbol(*dimension);
    if (checked.value()) out["value_si"] = *checked.value();
    out["uses"] = Json::array();
    for (const formula::Use& use : checked.uses) {
        Json one{{"name", use.written}, {"stands_for", use.named.id}};
        if (use.named.value) one["value_si"] = *use.named.value;
        out["uses"].push_back(std::move(one));
    }
    out["notes"] = checked.notes;
    return out;
}

/// "name in unit = formula" or a formula alone.
Formula one_formula(const std::string& text) {
    if (auto whole = formula::formula_from_text(text)) return *whole;
    Formula out;
    out.text = text;
    return out;
}

Result<std::string> text_of_file(const std::string& file) {
    const auto mapped = MappedFile::open(file);
    if (!mapped) return pass_on(mapped.error());
    return std::string((*mapped)->text());
}

bool is_file(const std::string& text) {
    std::error_code code;
    return text.size() < 4000 && text.find('\n') == std::string::npos && std::filesystem::is_regular_file(text, code);
}

}  // namespace

int check_formula(const std::string& folder, const std::string& text, const std::string& unit, std::int64_t run) {
    auto against = ground(folder, run);
    if (!against) return report(against.error());
    std::string content = text;
    if (is_file(text)) {
        const auto read = text_of_file(text);
        if (!read) return report(read.error());
        content = *read;
    }
    const auto prepare = [&] {
        if (against->run == nullptr)
            against->resolver = std::make_unique<formula::Resolver>(against->inputs.book, against->inputs.constants,
                                                                    against->inputs.aliases, nullptr);
    };
    if (is_file(text) && content.find("\"formula set\"") != std::string::npos) {
        const auto set = formula::set_from_json(content, text);
        if (!set) return report(set.error());
        // The set's own formulas know each other.
        for (const Formula& formula : set->formulas) against->inputs.book.entries[formula.name] = {formula, set->name};
        prepare();
        Json out = Json::array();
        bool fine = true;
        for (const Formula& formula : set->formulas) {
            const auto checked = against->check(formula.text, formula.unit, formula.name);
            Json one = checked ? described(*checked) : json_of(checked.error());
            one["name"] = formula.name;
            if (!checked) {
                say(formula.name + ":");
                point_at(formula.text, checked.error());
                fine = false;
            }
            out.push_back(std::move(one));
        }
        print(out);
        return fine ? done : failed;
    }
    prepare();
    const Formula formula = one_formula(content);
    const auto checked = against->check(formula.text, unit.empty() ? formula.unit : unit, formula.name);
    if (!checked) {
        point_at(formula.text, checked.error());
        print(json_of(checked.error()));
        return failed;
    }
    return print(described(*checked));
}

int evaluate_formula(const std::string& folder, std::int64_t run, int lap, const std::string& text,
                     const std::string& unit, bool samples) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto data = load_checked(**library, {run});
    if (!data) return report(data.error());
    RunFormulas& formulas = *(*data)->formulas;
    Formula formula = one_formula(text);
    if (!unit.empty()) formula.unit = unit;
    // The name of a formula brings its own unit and rate.
    if (const Formula* known = formulas.inputs().book.find(formula.text); known != nullptr) {
        formula.rate_hz = known->rate_hz;
        if (formula.unit.empty()) formula.unit = known->unit;
    }
    const auto checked = formulas.check(formula.text, formula.unit, formula.name);
    if (!checked) {
        point_at(formula.text, checked.error());
        return failed;
    }
    formula::Evaluation options;
    options.rate_hz = formula.rate_hz;
    if (lap != 0) {
        const auto found =
            std::find_if((*data)->laps.begin(), (*data)->laps.end(), [&](const Lap& it) { return it.number == lap; });
        if (found == (*data)->laps.end())
            return report({ErrorCode::not_found, "There is no such lap.", "run " + std::to_string(run)});
        options.range_s = {found->start_s, found->end_s};
    }
    const auto channel = formulas.evaluate(*checked, options);
    if (!channel) {
        point_at(formula.text, channel.error());
        return failed;
    }
    const std::string shown_in = formula.unit.empty() ? formula::usual_unit(checked->type()) : formula.unit;
    const auto shown = parse_compound_unit(shown_in);
    const auto people = [&](double si) { return shown ? shown->from_si(si) : si; };
    const Interval range = options.range_s.empty() ? Interval{-1e300, 1e300} : options.range_s;
    const std::size_t from = channel->clock.first_at_or_after(range.begin),
                      to = channel->clock.first_at_or_after(range.end);
    Json out{{"run", run}, {"unit", shown_in}, {"rate_hz", channel->clock.mean_rate_hz()}, {"notes", checked->notes}};
    if (lap != 0) out["lap"] = lap;
    const Statistics figures = statistics(*channel, from, to);
    const auto number = [&](double si) { return figures.count == 0 ? Json() : Json(people(si)); };
    out["low"] = number(figures.low);
    out["mean"] = number(figures.mean);
    out["high"] = number(figures.high);
    out["last"] = Json();
    for (std::size_t i = to; i-- > from;) {
        if (std::isnan(channel->at(i))) continue;
        out["last"] = people(channel->at(i));
        break;
    }
    out["count"] = figures.count;
    out["missing"] = to - from - figures.count;
    if (samples) {
        out["time_s"] = Json::array();
        out["values"] = Json::array();
        for (std::size_t i = from; i < to; ++i) {
            out["time_s"].push_back(channel->clock.time_at(i));
            const double value = channel->at(i);
            out["values"].push_back(std::isnan(value) ? Json() : Json(people(value)));
        }
    }
    return print(out);
}

int list_formula_sets(const std::string& folder) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    Json out = Json::array();
    const auto add = [&](const FormulaSet& set, int version, bool shipped) {
        Json one{{"name", set.name},
                 {"version", version},
                 {"shipped", shipped},
                 {"for", Json::parse(formula::set_to_json(set))["for"]}};
        one["formulas"] = Json::array();
        for (const Formula& formula : set.formulas)
            one["formulas"].push_back({{"name", formula.name}, {"unit", formula.unit}, {"formula", formula.text}});
        out.push_back(std::move(one));
    };
    add(formula::starter_set(), 1, true);
    const auto versions = (*library)->formula_sets();
    if (!versions) return report(versions.error());
    for (const FormulaVersion& version : *versions) {
        const auto set = formula::set_from_json(version.content, "formula set " + version.set_name);
        if (!set) return report(set.error());
        add(*set, version.version, false);
    }
    return print(out);
}

int export_formula_set(const std::string& folder, const std::string& name, const std::string& file) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    std::string content;
    if (name == formula::starter_name) content = formula::set_to_json(formula::starter_set());
    const auto versions = (*library)->formula_sets();
    if (!versions) return report(versions.error());
    for (const FormulaVersion& version : *versions) {
        if (version.set_name == name) content = version.content;
    }
    if (content.empty()) return report({ErrorCode::not_found, "There is no formula set \"" + name + "\".", folder});
    if (const auto written = write_file(file, content); !written) return report(written.error());
    return print({{"set", name}, {"file", file}});
}

int import_formula_set(const std::string& folder, const std::string& file, const std::string& as,
                       const std::vector<std::string>& take, const std::vector<std::string>& both, bool look) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto content = text_of_file(file);
    if (!content) return report(content.error());
    auto incoming = formula::set_from_json(*content, file);
    if (!incoming) return report(incoming.error());
    if (!as.empty()) incoming->name = as;
    if (incoming->name == formula::starter_name)
        return report({ErrorCode::exists, "The starter set is read-only. Give the set another name with --as.", file});
    FormulaSet mine = *incoming;
    mine.formulas.clear();
    const auto versions = (*library)->formula_sets();
    if (!versions) return report(versions.error());
    for (const FormulaVersion& version : *versions) {
        if (version.set_name != incoming->name) continue;
        auto read = formula::set_from_json(version.content, "formula set " + version.set_name);
        if (!read) return report(read.error());
        mine = std::move(*read);
    }
    const auto in = [](const std::vector<std::string>& list, const std::string& name) {
        return std::find(list.begin(), list.end(), name) != list.end();
    };
    Json changes = Json::array();
    std::vector<std::pair<std::string, formula::Merge>> choices;
    for (const formula::SetChange& change : formula::differences(mine, *incoming)) {
        using Kind = formula::SetChange::Kind;
        if (change.kind == Kind::removed) continue;  // mine alone: stays
        formula::Merge merge = change.kind == Kind::added ? formula::Merge::take : formula::Merge::keep;
        if (change.kind == Kind::changed && in(take, change.name)) merge = formula::Merge::take;
        if (change.kind == Kind::changed && in(both, change.name)) merge = formula::Merge::take_both;
        choices.emplace_back(change.name, merge);
        const char* what = change.kind == Kind::added ? "new" : change.kind == Kind::same ? "equal" : "clashes";
        Json one{{"name", change.name},
                 {"what", what},
                 {"taken", merge == formula::Merge::take        ? "yes"
                           : merge == formula::Merge::take_both ? "beside"
                                                                : "no"}};
        if (change.kind == Kind::changed) {
            one["mine"] = change.before->text;
            one["incoming"] = change.after->text;
        }
        changes.push_back(std::move(one));
    }
    Json out{{"set", incoming->name}, {"changes", changes}};
    const FormulaSet result = formula::merged(mine, *incoming, choices);
    if (!look && !(result == mine)) {
        const auto version = (*library)->add_formula_version(
            result.name, formula::set_to_json(result), "Import of " + std::filesystem::path(file).filename().string());
        if (!version) return report(version.error());
        out["version"] = *version;
    }
    return print(out);
}

int measure_at_rest(const std::string& folder, std::int64_t run, const std::vector<std::string>& channels,
                    const std::vector<double>& range_s) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto data = load_checked(**library, {run});
    if (!data) return report(data.error());
    const Recording& recording = *(*data)->recording;
    std::optional<Interval> range;
    if (range_s.size() == 2 && range_s[1] > range_s[0]) range = Interval{range_s[0], range_s[1]};
    if (!range_s.empty() && !range) return misuse("a range is written FROM,TO in seconds of the recording");
    if (!range) range = standing_range(recording);
    if (!range)
        return report({ErrorCode::not_found,
                       "The car never stands for 2 s in this run. Give a range with --range FROM,TO.",
                       "run " + std::to_string(run)});
    std::vector<std::string> names = channels;
    if (names.empty()) {
        for (const Channel& channel : recording.channels) names.push_back(channel.name);
    }
    Json out{{"run", run}, {"from_s", range->begin}, {"to_s", range->end}};
    out["figures"] = Json::array();
    for (const RestFigure& figure : figures_at_rest(recording, names, *range)) {
        const Channel* channel = recording.find_name(figure.channel);
        out["figures"].push_back({{"channel", figure.channel},
                                  {"unit", channel->unit},
                                  {"mean", figure.mean},
                                  {"deviation", figure.deviation},
                                  {"drift", figure.drift},
                                  {"count", figure.count}});
    }
    return print(out);
}

}  // namespace rendak::cli
