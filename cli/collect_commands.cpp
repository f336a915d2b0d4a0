#include "cli/collect_commands.h"

#include <algorithm>
#include <chrono>
#include <map>
#include <nlohmann/json.hpp>

#include "core/bundle/bundle.h"
#include "core/intake/tidy.h"
#include "core/logger/collect.h"

namespace rendak::cli {
namespace {

double computer_now() {
    return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
}

Json json_of(const LoggedFile& file, const CollectState& state) {
    Json out;
    out["number"] = file.number;
    out["name"] = file.name;
    out["start_unix_s"] = file.start_unix_s ? Json(*file.start_unix_s) : Json(nullptr);
    out["duration_s"] = file.duration_s ? Json(*file.duration_s) : Json(nullptr);
    out["laps"] = file.laps ? Json(*file.laps) : Json(nullptr);
    out["size"] = file.size;
    out["sha256"] = file.sha256;
    out["complete"] = file.complete;
    out["run"] = state.run ? Json(state.run->value) : Json(nullptr);
    out["verified"] = state.verified;
    return out;
}

/// The recordings of these numbers; an empty list of numbers takes those that `otherwise` wants.
Result<std::vector<LoggedFile>> chosen(const std::vector<LoggedFile>& files, const std::vector<int>& numbers,
                                       const auto& otherwise) {
    std::vector<LoggedFile> out;
    for (const LoggedFile& file : files) {
        const bool named = std::find(numbers.begin(), numbers.end(), file.number) != numbers.end();
        if (numbers.empty() ? otherwise(file) : named) out.push_back(file);
    }
    for (const int number : numbers) {
        const bool there =
            std::any_of(files.begin(), files.end(), [&](const LoggedFile& file) { return file.number == number; });
        if (!there)
            return fail(ErrorCode::not_found, "There is no recording " + std::to_string(number) + " on the logger.");
    }
    return out;
}

Result<std::map<std::string, CollectState>> states_of(const Library& library, const std::vector<LoggedFile>& files) {
    std::map<std::string, CollectState> out;
    for (const LoggedFile& file : files) {
        const auto state = state_in_library(library, file);
        if (!state) return pass_on(state.error());
        out[file.sha256] = *state;
    }
    return out;
}

const char* name_of(BundleItem::Kind kind) {
    switch (kind) {
        case BundleItem::Kind::run:
            return "run";
        case BundleItem::Kind::track:
            return "track";
        case BundleItem::Kind::setup:
            return "setup";
        case BundleItem::Kind::car_sheet:
            return "car_sheet";
        case BundleItem::Kind::alias:
            return "channel_name";
        case BundleItem::Kind::formula_set:
            return "formula_set";
        case BundleItem::Kind::film:
            return "film";
    }
    return "";
}

const char* name_of(BundleItem::State state) {
    return state == BundleItem::State::fresh ? "new" : state == BundleItem::State::same ? "same" : "clash";
}

}  // namespace

int logger_list(const std::string& folder, const std::string& url) {
    auto library = Library::open(folder);
    if (!library) return report(library.error());
    const auto link = open_logger(url);
    if (!link) return report(link.error());
    const auto state = (*link)->state({});
    if (!state) return report(state.error());
    const auto files = (*link)->list({});
    if (!files) return report(files.error());
    for (const std::string& warning : logger_warnings(*state, computer_now())) say(warning);
    Json out = Json::array();
    for (const LoggedFile& file : *files) {
        const auto here = state_in_library(**library, file);
        if (!here) return report(here.error());
        out.push_back(json_of(file, *here));
    }
    return print(out);
}

int logger_fetch(const std::string& folder, const std::string& url, const std::vector<int>& numbers,
                 const ImportOptions& filing, double clock_shift_s) {
    auto library = Library::open(folder);
    if (!library) return report(library.error());
    const auto link = open_logger(url);
    if (!link) return report(link.error());
    const auto files = (*link)->list({});
    if (!files) return report(files.error());
    const auto states = states_of(**library, *files);
    if (!states) return report(states.error());
    const auto wanted = chosen(*files, numbers, [&](const LoggedFile& file) { return !states->at(file.sha256).run; });
    if (!wanted) return report(wanted.error());
    CollectOptions options;
    options.filing = filing;
    options.clock_shift_s = clock_shift_s;
    options.fetch.day = day_text(computer_now());
    Json out = Json::array();
    int code = done;
    for (const Collected& one : collect(**library, **link, *wanted, options, spoken_progress("fetching"))) {
        if (one.error) {
            code = report(*one.error);
            continue;
        }
        for (const std::string& note : one.imported->notes) say(one.file.name + ": " + note);
        const auto here = state_in_library(**library, one.file);
        if (!here) return report(here.error());
        Json entry = json_of(one.file, *here);
        entry["resumed_at"] = one.fetched.resumed_at;
        entry["lost_links"] = one.fetched.lost_links;
        entry["original"] = one.fetched.file.string();
        out.push_back(std::move(entry));
    }
    const int printed = print(out);
    return code == done ? printed : code;
}

int logger_clock(const std::string& url, bool set) {
    const auto link = open_logger(url);
    if (!link) return report(link.error());
    if (set) {
        if (const auto now = (*link)->set_clock(computer_now(), {}); !now) return report(now.error());
    }
    const auto state = (*link)->state({});
    if (!state) return report(state.error());
    const double computer = computer_now();
    Json out;
    out["computer_unix_s"] = computer;
    out["logger_unix_s"] = state->clock_unix_s ? Json(*state->clock_unix_s) : Json(nullptr);
    out["logger_minus_computer_s"] = state->clock_unix_s ? Json(*state->clock_unix_s - computer) : Json(nullptr);
    return print(out);
}

int logger_erase(const std::string& folder, const std::string& url, const std::vector<int>& numbers, bool yes) {
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto link = open_logger(url);
    if (!link) return report(link.error());
    const auto files = (*link)->list({});
    if (!files) return report(files.error());
    const auto states = states_of(**library, *files);
    if (!states) return report(states.error());
    const auto wanted =
        chosen(*files, numbers, [&](const LoggedFile& file) { return states->at(file.sha256).verified; });
    if (!wanted) return report(wanted.error());
    Json out;
    out["erased"] = Json::array();
    out["kept"] = Json::array();
    if (!yes) {
        out["would_erase"] = Json::array();
        for (const LoggedFile& file : *wanted) {
            const CollectState& state = states->at(file.sha256);
            if (state.verified)
                out["would_erase"].push_back(json_of(file, state));
            else
                out["kept"].push_back(
                    {{"number", file.number}, {"name", file.name}, {"reason", "it is not verified in the library"}});
        }
        say("Nothing was erased: add --yes to erase these.");
        return print(out);
    }
    const auto erased = erase_verified(**library, **link, *wanted);
    if (!erased) return report(erased.error());
    for (const LoggedFile& file : erased->gone) out["erased"].push_back({{"number", file.number}, {"name", file.name}});
    for (const auto& [file, reason] : erased->kept) {
        out["kept"].push_back({{"number", file.number}, {"name", file.name}, {"reason", reason}});
        say(file.name + " was not erased: " + reason + ".");
    }
    const int printed = print(out);
    return erased->kept.empty() ? printed : failed;
}

int tidy_run(const std::string& folder, std::int64_t run, const std::vector<std::string>& cures) {
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    auto findings = tidy(**library, {run});
    if (!findings) return report(findings.error());
    for (const std::string& id : cures) {
        const auto found =
            std::find_if(findings->begin(), findings->end(), [&](const Finding& one) { return one.id == id; });
        if (found == findings->end()) return misuse("run " + std::to_string(run) + " has no finding \"" + id + "\"");
        if (!found->apply) return misuse("there is no cure for \"" + id + "\": " + found->what);
        if (const auto cured = found->apply(**library); !cured) return report(cured.error());
        say(found->cure + ": done.");
    }
    if (!cures.empty()) findings = tidy(**library, {run});
    if (!findings) return report(findings.error());
    Json out = Json::array();
    for (const Finding& one : *findings)
        out.push_back({{"finding", one.id},
                       {"what", one.what},
                       {"cure", one.cure.empty() ? Json(nullptr) : Json(one.cure)},
                       {"accepted", one.accepted}});
    return print(out);
}

int bundle_write(const std::string& folder, const std::vector<std::int64_t>& runs, const std::string& file,
                 bool films) {
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    BundleContents contents;
    contents.films = films;
    for (const auto run : runs) contents.runs.push_back({run});
    if (const auto written = write_bundle(**library, contents, file, spoken_progress("writing")); !written)
        return report(written.error());
    return print({{"file", file}, {"runs", runs}});
}

int bundle_read(const std::string& folder, const std::string& file, bool look, const std::vector<std::string>& take,
                const std::vector<std::string>& leave) {
    auto library = Library::open(folder);
    if (!library) return report(library.error());
    const auto items = preview_bundle(**library, file);
    if (!items) return report(items.error());
    Json out;
    out["items"] = Json::array();
    for (const BundleItem& item : *items)
        out["items"].push_back({{"key", item.key},
                                {"kind", name_of(item.kind)},
                                {"state", name_of(item.state)},
                                {"title", item.title},
                                {"difference", item.difference}});
    if (look) return print(out);
    for (const std::string& key : take) {
        const bool known =
            std::any_of(items->begin(), items->end(), [&](const BundleItem& item) { return item.key == key; });
        if (!known) return misuse("the bundle holds nothing called \"" + key + "\"");
    }
    const auto taken = take_bundle(**library, file, {take.begin(), take.end()}, {leave.begin(), leave.end()});
    if (!taken) return report(taken.error());
    out["runs"] = Json::array();
    for (const RunId run : taken->runs) out["runs"].push_back(run.value);
    for (const std::string& text : taken->told) say(text);
    return print(out);
}

}  // namespace rendak::cli
