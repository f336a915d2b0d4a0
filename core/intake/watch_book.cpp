#include "core/intake/watch_book.h"

#include <algorithm>
#include <cmath>
#include <ctime>
#include <nlohmann/json.hpp>

#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/formula/syntax.h"
#include "core/intake/freshness.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* rules_setting = "watch_rules";
constexpr const char* watch_key_prefix = "watch: ";

std::string kept_name(const std::string& rule) {
    return watch_key_prefix + rule;
}

Json number(double value) {
    return std::isfinite(value) ? Json(value) : Json(nullptr);
}

double number_of(const Json& from, const char* key) {
    const auto found = from.find(key);
    return found == from.end() || !found->is_number() ? std::nan("") : found->get<double>();
}

std::string text_of(const Json& from, const char* key) {
    const auto found = from.find(key);
    return found == from.end() || !found->is_string() ? std::string() : found->get<std::string>();
}

/// Changes with all that the answer of a rule rests on.
std::string mark_of(Freshness::OfRun& run, const WatchRule& rule) {
    std::string out = watch_rules_to_json({rule}) + run.formula(rule.condition);
    if (!rule.value.empty()) out += run.formula(rule.value);
    for (const std::string& it : rule.beside) out += run.formula(it);
    return out;
}

/// The same said, whatever was computed anew for it.
bool says_the_same(const WatchTold& a, const WatchTold& b) {
    if (a.events.size() != b.events.size()) return false;
    for (std::size_t k = 0; k < a.events.size(); ++k) {
        constexpr double near_s = 0.5;
        if (std::abs(a.events[k].when.time_s.begin - b.events[k].when.time_s.begin) > near_s) return false;
    }
    return true;
}

}  // namespace

std::vector<WatchRule> WatchBook::in_force() const {
    std::vector<WatchRule> out;
    const auto add = [&](const WatchRule& rule) {
        if (!rule.off) out.push_back(rule);
    };
    const auto named = [](const std::string& name) { return [&name](const WatchRule& it) { return it.name == name; }; };
    for (const WatchRule& shipped : shipped_watch_rules()) {
        const auto replaced = std::find_if(own.begin(), own.end(), named(shipped.name));
        add(replaced == own.end() ? shipped : *replaced);
    }
    for (const WatchRule& rule : own) {
        const auto& shipped = shipped_watch_rules();
        if (std::none_of(shipped.begin(), shipped.end(), named(rule.name))) add(rule);
    }
    return out;
}

const WatchRule* WatchBook::find(const std::string& name) const {
    for (const auto* list : {&own, &shipped_watch_rules()}) {
        for (const WatchRule& it : *list) {
            if (it.name == name) return &it;
        }
    }
    return nullptr;
}

Result<WatchBook> watch_book(const Library& library) {
    const auto text = library.setting(rules_setting);
    if (!text) return pass_on(text.error());
    WatchBook out;
    if (text->empty()) return out;
    auto rules = watch_rules_from_json(*text, "watch rules of the library");
    if (!rules) return pass_on(rules.error());
    out.own = std::move(*rules);
    return out;
}

Result<void> put_watch_rule(Library& library, const WatchRule& rule) {
    // Shape and sizes are those of a file of rules.
    if (const auto checked = watch_rules_from_json(watch_rules_to_json({rule}), rule.name); !checked)
        return pass_on(checked.error());
    std::vector<std::string> formulas{rule.condition};
    if (!rule.value.empty()) formulas.push_back(rule.value);
    formulas.insert(formulas.end(), rule.beside.begin(), rule.beside.end());
    for (const std::string& text : formulas) {
        if (const auto parsed = formula::parse(text); !parsed)
            return fail(ErrorCode::bad_input, parsed.error().sentence, rule.name + ": " + text);
    }
    auto book = watch_book(library);
    if (!book) return pass_on(book.error());
    const auto known =
        std::find_if(book->own.begin(), book->own.end(), [&](const WatchRule& it) { return it.name == rule.name; });
    if (known == book->own.end())
        book->own.push_back(rule);
    else
        *known = rule;
    return library.set_setting(rules_setting, watch_rules_to_json(book->own));
}

Result<void> remove_watch_rule(Library& library, const std::string& name) {
    auto book = watch_book(library);
    if (!book) return pass_on(book.error());
    if (std::erase_if(book->own, [&](const WatchRule& it) { return it.name == name; }) == 0)
        return fail(ErrorCode::not_found, "This library has no rule of its own that is called " + name + ".");
    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return begun;
    if (auto done = library.set_setting(rules_setting, watch_rules_to_json(book->own)); !done) return done;
    if (auto done = library.drop_results(kept_name(name)); !done) return done;
    return act.commit();
}

Result<std::vector<KeptWatch>> kept_watch(const Library& library, RunId run) {
    const auto book = watch_book(library);
    if (!book) return pass_on(book.error());
    const auto kept = library.kept_results(run, watch_key_prefix);
    if (!kept) return pass_on(kept.error());
    std::vector<KeptWatch> out;
    if (kept->empty()) return out;
    const auto row = library.run(run);
    if (!row) return pass_on(row.error());
    auto fresh = Freshness::of(library);
    if (!fresh) return pass_on(fresh.error());
    auto mark = fresh->of_run(library, *row);
    if (!mark) return pass_on(mark.error());
    for (const WatchRule& rule : book->in_force()) {
        for (const KeptResult& it : *kept) {
            if (it.what != kept_name(rule.name)) continue;
            if (auto told = told_from_json(it.content))
                out.push_back({rule, std::move(*told), it.seen_unix_s, it.made_of != mark_of(*mark, rule)});
        }
    }
    return out;
}

Result<std::size_t> check_watch_rules(Library& library, const std::vector<RunId>& runs, const JobContext& job) {
    const auto book = watch_book(library);
    if (!book) return pass_on(book.error());
    const std::vector<WatchRule> rules = book->in_force();
    auto fresh = Freshness::of(library);
    if (!fresh) return pass_on(fresh.error());
    std::size_t opened = 0, finished = 0;
    for (const RunId id : runs) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        const auto row = library.run(id);
        if (!row) return pass_on(row.error());
        auto mark = fresh->of_run(library, *row);
        if (!mark) return pass_on(mark.error());
        const auto kept = library.kept_results(id, watch_key_prefix);
        if (!kept) return pass_on(kept.error());
        const auto before = [&](const WatchRule& rule) {
            const auto found = std::find_if(kept->begin(), kept->end(),
                                            [&](const KeptResult& it) { return it.what == kept_name(rule.name); });
            return found == kept->end() ? nullptr : &*found;
        };
        std::vector<const WatchRule*> open;
        for (const WatchRule& rule : rules) {
            const KeptResult* it = before(rule);
            // What cannot be read any more is as good as not there.
            if (it == nullptr || it->made_of != mark_of(*mark, rule) || !told_from_json(it->content))
                open.push_back(&rule);
        }
        if (!open.empty()) {
            const auto run = load_run(library, id);
            if (!run) return pass_on(run.error());
            ++opened;
            std::vector<WatchTold> told(open.size());
            parallel_for(open.size(), 1, [&](std::size_t k) {
                if (!job.stopped()) told[k] = watch_run(**run, *open[k], job.stop);
            });
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            Library::Act act(library);
            if (auto begun = act.begun(); !begun) return pass_on(begun.error());
            for (std::size_t k = 0; k < open.size(); ++k) {
                KeptResult result{kept_name(open[k]->name), mark_of(*mark, *open[k]), told_to_json(*open[k], told[k]),
                                  static_cast<int>(told[k].events.size())};
                if (const KeptResult* it = before(*open[k])) {
                    const auto former = told_from_json(it->content);
                    if (former && says_the_same(*former, told[k])) result.seen_unix_s = it->seen_unix_s;
                }
                if (auto done = library.keep_result(id, result); !done) return pass_on(done.error());
            }
            if (auto done = act.commit(); !done) return pass_on(done.error());
        }
        job.report(static_cast<double>(++finished) / static_cast<double>(runs.size()));
    }
    return opened;
}

Result<void> set_watch_seen(Library& library, RunId run, const std::string& rule, bool seen) {
    return library.set_result_seen(run, kept_name(rule), seen ? static_cast<double>(std::time(nullptr)) : 0);
}

Result<std::vector<RunId>> unwatched_runs(const Library& library) {
    return library.runs_without_results(watch_key_prefix);
}

Result<std::map<RunId, int>> unseen_watch(const Library& library) {
    return library.unseen_results(watch_key_prefix);
}

Result<WatchTrend> watch_trend(const Library& library, const std::string& rule, const std::string& car) {
    auto rows = library.runs();
    if (!rows) return pass_on(rows.error());
    std::erase_if(*rows, [&](const RunRow& it) { return it.car != car; });
    std::stable_sort(rows->begin(), rows->end(), [](const RunRow& a, const RunRow& b) {
        return a.start_unix_s.value_or(0) < b.start_unix_s.value_or(0);
    });
    const auto book = watch_book(library);
    if (!book) return pass_on(book.error());
    const WatchRule* found = book->find(rule);
    if (found == nullptr) return fail(ErrorCode::not_found, "There is no watch rule " + rule + ".");
    const auto fuel = std::find(found->beside.begin(), found->beside.end(), "fuel");
    WatchTrend out;
    for (const RunRow& row : *rows) {
        const auto kept = library.kept_results(row.id, kept_name(rule));
        if (!kept) return pass_on(kept.error());
        const auto told = kept->empty() || kept->front().what != kept_name(rule)
                              ? std::nullopt
                              : told_from_json(kept->front().content);
        if (!told || !told->why_not.empty()) continue;
        WatchTrend::Step step{row.id, row.name, told->events.size(), std::nullopt};
        for (const WatchEvent& it : told->events) {
            const bool worse = found->worst_is_low ? it.when.worst < step.worst : it.when.worst > step.worst;
            if (std::isnan(step.worst) || worse) step.worst = it.when.worst;
            if (!step.first_lap) step.first_lap = it.lap;
        }
        if (!told->events.empty() && fuel != found->beside.end()) {
            constexpr double litres_per_m3 = 1000;
            const auto at = static_cast<std::size_t>(fuel - found->beside.begin());
            if (at < told->events.front().beside.size()) step.fuel_l = litres_per_m3 * told->events.front().beside[at];
        }
        out.steps.push_back(std::move(step));
    }
    std::vector<const WatchTrend::Step*> speaking;
    for (const WatchTrend::Step& it : out.steps) {
        if (it.times > 0) speaking.push_back(&it);
    }
    if (out.steps.empty()) {
        out.text = "It was not checked on a run of this car yet, or none logs what it needs.";
    } else if (speaking.empty()) {
        out.text = "It is silent in all " + counted(out.steps.size(), "run", "runs") + ".";
    } else {
        out.text =
            "It speaks in " + std::to_string(speaking.size()) + " of " + counted(out.steps.size(), "run", "runs");
        const WatchTrend::Step& last = *speaking.back();
        if (last.first_lap) {
            out.text += ", last in " + last.name + " from lap " + std::to_string(*last.first_lap) + " on";
            if (std::isfinite(last.fuel_l)) out.text += ", with " + fixed(last.fuel_l, 1) + " l";
        }
        out.text += ".";
        // Earlier: with more fuel where that is known, else in an earlier lap.
        const auto earlier = [](const WatchTrend::Step& than, const WatchTrend::Step& it) {
            if (std::isfinite(than.fuel_l) && std::isfinite(it.fuel_l)) return it.fuel_l > than.fuel_l + 0.5;
            return than.first_lap && it.first_lap && *it.first_lap < *than.first_lap;
        };
        bool each = speaking.size() >= 2;
        for (std::size_t k = 1; k < speaking.size(); ++k) each = each && earlier(*speaking[k - 1], *speaking[k]);
        if (each) out.text += " Each run earlier than the one before.";
    }
    return out;
}

std::string told_to_json(const WatchRule& rule, const WatchTold& told) {
    Json out{{"rule", rule.name},
             {"known_s", told.known_s},
             {"unit", told.value_unit},
             {"why_not", told.why_not},
             {"events", Json::array()}};
    for (const WatchEvent& it : told.events) {
        Json beside = Json::array();
        for (std::size_t k = 0; k < it.beside.size(); ++k)
            beside.push_back(
                {{"what", rule.beside[k]}, {"value", number(it.beside[k])}, {"unit", told.beside_units[k]}});
        out["events"].push_back({{"from_s", it.when.time_s.begin},
                                 {"to_s", it.when.time_s.end},
                                 {"lap", it.lap ? Json(*it.lap) : Json(nullptr)},
                                 {"kind", it.lap ? Json(lap_kind_name(it.kind)) : Json(nullptr)},
                                 {"place_m", it.place_m ? Json(*it.place_m) : Json(nullptr)},
                                 {"worst", number(it.when.worst)},
                                 {"worst_at_s", it.when.worst_at_s},
                                 {"beside", std::move(beside)}});
    }
    return out.dump();
}

std::optional<WatchTold> told_from_json(const std::string& text) {
    const Json read = Json::parse(text, nullptr, false);
    if (!read.is_object() || !read.contains("events") || !read["events"].is_array()) return std::nullopt;
    WatchTold out;
    out.known_s = number_of(read, "known_s");
    out.value_unit = text_of(read, "unit");
    out.why_not = text_of(read, "why_not");
    for (const Json& it : read["events"]) {
        if (!it.is_object()) return std::nullopt;
        WatchEvent event;
        event.when = {
            {number_of(it, "from_s"), number_of(it, "to_s")}, number_of(it, "worst"), number_of(it, "worst_at_s")};
        if (const double lap = number_of(it, "lap"); std::isfinite(lap)) {
            event.lap = static_cast<int>(lap);
            event.kind = lap_kind_from_name(text_of(it, "kind"));
        }
        if (const double place = number_of(it, "place_m"); std::isfinite(place)) event.place_m = place;
        const auto beside = it.find("beside");
        if (beside != it.end() && beside->is_array()) {
            for (const Json& each : *beside) {
                if (!each.is_object()) return std::nullopt;
                event.beside.push_back(number_of(each, "value"));
                if (out.events.empty()) out.beside_units.push_back(text_of(each, "unit"));
            }
        }
        out.events.push_back(std::move(event));
    }
    return out;
}

}  // namespace rendak
