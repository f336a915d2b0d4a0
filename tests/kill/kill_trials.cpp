// Kills Rendak at every call that changes a file, and at random moments, during every operation that changes anything,
// and looks at what is left: the state before or the state after, nothing between; the same operation again leads to
// the state after; nothing is left over. docs/reliability.md tells what is promised.
//
//   kill_trials                  for KILL_SECONDS (default 45) over all operations: the test
//   kill_trials --kills 1000     so many kills; prints a table by operation
//   kill_trials --only NAME      one operation, at every place
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <functional>
#include <iostream>
#include <random>

#include "core/base/file_io.h"
#include "core/bundle/bundle.h"
#include "core/intake/import.h"
#include "core/library/library.h"
#include "tests/kill/library_state.h"
#include "tests/kill/traced_process.h"
#include "tests/support/got.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;
namespace fs = std::filesystem;

namespace {

struct Operation {
    std::string name;
    std::vector<std::string> words;  ///< LIB, IN and OUT stand for the folders
    bool one_act = true;             ///< false: several acts one after the other, each whole or not at all
    std::function<void(const fs::path& library)> before = {};
    std::string on_the_way = {};  ///< a word of blocks that only states between its acts hold
};

struct Counted {
    int at_calls = 0, at_moments = 0, before = 0, between = 0, after = 0, calls = 0;
};

/// Folders that an operation works on: the library, what comes in (files, a card), what goes out.
struct Ground {
    fs::path library, in, out;
    [[nodiscard]] std::vector<std::string> words(const Operation& operation) const {
        std::vector<std::string> all;
        for (std::string word : operation.words) {
            for (const auto& [name, path] : {std::pair{"LIB", &library}, {"IN", &in}, {"OUT", &out}}) {
                if (word.rfind(name, 0) == 0 && (word.size() == std::strlen(name) || word[std::strlen(name)] == '/'))
                    word = path->string() + word.substr(std::strlen(name));
            }
            all.push_back(word);
        }
        return all;
    }
    [[nodiscard]] std::set<std::string> blocks() const {
        auto all = blocks_of_library(library);
        for (const std::string& block : blocks_of_folder(in)) all.insert("in: " + block);
        for (const std::string& block : blocks_of_folder(out)) all.insert("out: " + block);
        return all;
    }
};

/// A table of two stints with a long stop between.
std::string two_stints() {
    const std::string first = oval_table(3, 10, 40).text;
    std::string out = first;
    const std::size_t last = first.rfind('\n', first.size() - 2) + 1;
    const std::string place = first.substr(first.find(',', last));
    const double end = std::atof(first.c_str() + last);
    const std::string standing = place.substr(0, place.rfind(',')) + ",0\n";
    char line[40];
    for (int i = 1; i <= 6000; ++i) {
        std::snprintf(line, sizeof line, "%.3f", end + 0.1 * i);
        out += line + standing;
    }
    std::size_t at = first.find('\n') + 1;
    while (at < first.size()) {
        const std::size_t next = first.find('\n', at) + 1;
        const std::size_t comma = first.find(',', at);
        std::snprintf(line, sizeof line, "%.3f", end + 600.1 + std::atof(first.c_str() + at));
        out += line + first.substr(comma, next - comma);
        at = next;
    }
    return out;
}

class Trials {
  public:
    Trials() { prepare(); }

    std::vector<Operation> operations() const {
        const std::string cli = test::own_cli(), window = test::own_window_edits();
        const auto command = [&](std::vector<std::string> words) {
            words.insert(words.begin(), {cli, "--library", "LIB"});
            return words;
        };
        const auto edit = [&](const char* name) { return std::vector<std::string>{window, "LIB", name}; };
        std::vector<Operation> all = {
            {"import", command({"import", "IN/new.csv", "--driver", "Osei"})},
            {"import that mends", command({"import", "IN/first.csv"}), true,
             [](const fs::path& library) {
                 auto opened = got(Library::open(library));
                 const auto file = library / got(opened->run({1})).recording_file;
                 fs::resize_file(file, fs::file_size(file) / 2);
                 (void)got(opened->check_recording({1}));
             }},
            {"unfiled --file", command({"unfiled", "--file"}), false,
             [](const fs::path& library) {
                 for (const char* name : {"library.sqlite", "library.sqlite-wal", "library.sqlite-shm"})
                     fs::remove(library / name);
                 fs::remove_all(library / "tracks");
                 fs::create_directories(library / "tracks");
                 (void)got(Library::open(library));
             }},
            {"lap", command({"lap", "--lap", "1:2", "--out", "--reason", "traffic"})},
            {"track learn", command({"track", "learn", "--run", "3", "--name", "Elsewhere"})},
            {"track start", command({"track", "start", "--name", "Oval", "--at", "150"})},
            {"track edit", command({"track", "edit", "IN/oval.geojson"})},
            {"track survey", command({"track", "survey", "--name", "Oval"})},
            {"launch", command({"launch", "--run", "1", "--at", "3"})},
            {"tidy --cure split", command({"tidy", "--run", "4", "--cure", "split"})},
            {"formula set import", command({"formula", "set", "import", "IN/set.json"})},
            {"bundle write", command({"bundle", "write", "--runs", "1,2", "--out", "OUT/runs.zip"})},
            {"bundle read", command({"bundle", "read", "IN/runs.zip"}), false},
            {"bundle read that takes a track", command({"bundle", "read", "IN/other.zip", "--take", "track:Oval"}),
             false},
            {"logger fetch", command({"logger", "fetch", "--url", "IN/card", "--clock-shift", "3600"}), false},
            {"logger erase", command({"logger", "erase", "--url", "IN/card", "--yes"}), false,
             [](const fs::path& library) {
                 const Ground ground{library, library.parent_path() / "in", library.parent_path() / "out"};
                 const Operation fetch{"",
                                       {test::own_cli(), "--library", "LIB", "logger", "fetch", "--url", "IN/card"}};
                 if (run_program(ground.words(fetch)).code != 0) throw std::runtime_error("cannot fetch");
             }},
            {"check that finds damage", command({"check"}), true,
             [](const fs::path& library) {
                 const auto file = library / got(got(Library::open(library))->run({2})).recording_file;
                 fs::remove(file);
             }},
        };
        for (const char* format : {"csv", "mdf", "gpx", "h5"})
            all.push_back({std::string("export ") + format, command({"export", "--run", "1", "--format", format,
                                                                     "--out", std::string("OUT/run.") + format})});
        for (const char* name : {"facts", "two edits as one", "bin", "empty bin", "setup sheet", "start line",
                                 "rename track", "remove track", "undo"})
            all.push_back({std::string("window: ") + name, edit(name)});
        for (Operation& it : all) {
            if (it.name == "window: undo") {
                it.one_act = false;
                it.on_the_way = "|Amari|";
            }
            if (it.name != "window: empty bin") continue;
            it.before = [](const fs::path& library) { check(got(Library::open(library))->set_binned({2}, true)); };
        }
        return all;
    }

    /// The state before and after an operation; false when it does not work here at all.
    bool learn(const Operation& operation) {
        before_ = fresh(operation).blocks();
        const Ground ground = fresh(operation);
        const Ended counting = run_until_change(ground.words(operation), 0);
        can_trace_ = counting.code != -1 || counting.changes > 0;
        const Ground whole = fresh(operation);
        const auto begin = std::chrono::steady_clock::now();
        const Ended ended = run_program(whole.words(operation));
        micros_ = static_cast<unsigned>(
            std::chrono::duration_cast<std::chrono::microseconds>(std::chrono::steady_clock::now() - begin).count());
        after_ = whole.blocks();
        calls_ = counting.changes;
        const bool expected = ended.code == 0 || operation.name == "check that finds damage";
        if (!expected || ended.killed || before_ == after_) {
            complain(operation, "the operation does not work by itself (code " + std::to_string(ended.code) + ")");
            return false;
        }
        return true;
    }
    [[nodiscard]] int calls() const { return can_trace_ ? calls_ : 0; }
    [[nodiscard]] unsigned micros() const { return micros_; }

    /// `at` > 0: at that call; else after `moment` microseconds.
    void kill(const Operation& operation, int at, unsigned moment, Counted& counted) {
        const Ground ground = fresh(operation);
        const Ended ended =
            at > 0 ? run_until_change(ground.words(operation), at) : run_for(ground.words(operation), moment);
        (at > 0 ? counted.at_calls : counted.at_moments) += 1;
        const std::string where = at > 0 ? "killed at call " + std::to_string(at) + " of " + std::to_string(calls_)
                                         : "killed after " + std::to_string(moment) + " us";
        try {
            const auto now = library_of(ground.blocks());
            const auto before = library_of(before_), after = library_of(after_);
            if (now == before)
                ++counted.before;
            else if (now == after)
                ++counted.after;
            else {
                ++counted.between;
                if (operation.one_act)
                    complain(operation, where + ": neither before nor after" + first_foreign(now, before, after));
                for (const std::string& block : now) {
                    if (before.contains(block) || after.contains(block) || is_unfinished(block)) continue;
                    if (!operation.on_the_way.empty() && block.find(operation.on_the_way) != std::string::npos)
                        continue;
                    complain(operation, where + ": half done: " + block.substr(0, 300));
                }
            }
            // Done already: a second time may be another edit (another version, the line moved once more).
            const Ended again = now == after ? ended : run_program(ground.words(operation));
            const auto finished = ground.blocks();
            if (finished != after_)
                complain(operation, where + ", then done again (code " + std::to_string(again.code) +
                                        "): not the state after" + first_foreign(finished, after_, after_) +
                                        first_foreign(after_, finished, finished));
        } catch (const std::exception& problem) {
            complain(operation, where + ": " + problem.what());
        }
    }
    [[nodiscard]] int problems() const { return problems_; }

  private:
    /// What was fetched of a download waits to be used; a file that goes out is judged after the repetition.
    static bool is_unfinished(const std::string& block) { return block.find(".unfinished/") != std::string::npos; }
    static std::set<std::string> library_of(const std::set<std::string>& blocks) {
        std::set<std::string> out;
        for (const std::string& block : blocks) {
            const bool part_outside = block.rfind("out: file .rendak-part-", 0) == 0;
            if (!is_unfinished(block) && !part_outside) out.insert(block);
        }
        return out;
    }
    static std::string first_foreign(const std::set<std::string>& all, const std::set<std::string>& a,
                                     const std::set<std::string>& b) {
        for (const std::string& block : all) {
            if (!a.contains(block) && !b.contains(block)) return ", for example: " + block.substr(0, 300);
        }
        return "";
    }
    void complain(const Operation& operation, const std::string& what) {
        ++problems_;
        std::cout << "FAILED " << operation.name << ": " << what << "\n";
    }

    /// A copy of the prepared ground.
    Ground fresh(const Operation& operation) {
        const fs::path place = folder_ / "trial";
        fs::remove_all(place);
        fs::create_directories(place);
        const Ground ground{place / "lib", place / "in", place / "out"};
        fs::copy(folder_ / "lib", ground.library, fs::copy_options::recursive);
        fs::copy(folder_ / "in", ground.in, fs::copy_options::recursive);
        fs::create_directories(ground.out);
        if (operation.before) operation.before(ground.library);
        return ground;
    }

    void prepare() {
        fs::create_directories(folder_ / "in/card");
        folder_.write("in/first.csv", oval_table(3, 10, 41).text);
        folder_.write("in/new.csv", oval_table(3, 10, 44).text);
        folder_.write("in/card/REC0001.csv", oval_table(2, 10, 45).text);
        folder_.write("in/card/REC0002.csv", oval_table(3, 10, 46).text);
        folder_.write(
            "in/set.json",
            R"({"rendak":"formula set","version":1,"name":"Mine","formulas":[{"name":"fast","formula":"speed * 2"}]})");
        const auto second = folder_.write("second.csv", oval_table(4, 10, 43).text);
        const auto stints = folder_.write("stints.csv", two_stints());
        const auto elsewhere = folder_.write("elsewhere.csv", at_latitude('4'));
        {
            auto library = got(Library::open(folder_ / "lib"));
            (void)got(import_file(*library, folder_ / "in/first.csv", {}));
            (void)got(learn_track_from_run(*library, {1}, "Oval", {}));
            for (const auto& file : {second, elsewhere, stints}) (void)got(import_file(*library, file, {}));
            (void)got(library->add_mark({1}, "Exit", {100, 200}));
            const auto spare = got(import_file(*library, folder_.write("far.csv", at_latitude('8')), {})).run;
            (void)got(learn_track_from_run(*library, spare, "Spare", {}));
            check(library->remove_run(spare));
            std::ofstream(folder_ / "in/oval.geojson") << moved(got(library->track_geojson({1})));
        }
        {
            // A colleague's library with everything that a run can have.
            auto library = got(Library::open(folder_ / "colleague"));
            for (const auto& file : {second, folder_ / "in/new.csv", folder_ / "in/card/REC0002.csv"})
                (void)got(import_file(*library, file, {}));
            (void)got(learn_track_from_run(*library, {1}, "Oval", {}));
            check(library->switch_lap({{2}, 2}, false, "traffic"));
            check(library->set_clock_shift({2}, 120));
            check(library->set_unused({2}, "speed", true));
            check(library->set_place_correction({2}, {1, 2, 0.1, 4.0}));
            check(library->set_join({3}, {2}, 1.5));
            RunFacts facts = got(library->run({2}));
            facts.car = "27";
            facts.event = "Away";
            facts.setup = got(library->add_setup("27", "Base", {{"Wing", "4", ""}}));
            check(library->set_facts({2}, facts));
            check(library->put_car_sheet({"27", "2026", "", {{"mass", "700", "kg"}}}));
            check(library->put_event({{}, "Away", "Somewhere", "2026-06-13", "dry", ""}));
            (void)got(library->add_window({1}, {20, 80}, "A part"));
            for (const auto& [file, runs] :
                 {std::pair<const char*, std::vector<RunId>>{"in/runs.zip", {{2}, {4}}}, {"in/other.zip", {{1}}}})
                check(write_bundle(*library, {.runs = runs}, folder_ / file));
        }
        fs::remove_all(folder_ / "colleague");
    }
    /// The oval at another place: 54 or 58 degrees north.
    static std::string at_latitude(char digit) {
        std::string out = oval_table(3, 10, 42).text;
        for (std::size_t at = out.find(",56."); at != std::string::npos; at = out.find(",56.", at + 4))
            out[at + 2] = digit;
        return out;
    }
    static void check(const Result<void>& done) {
        if (!done) throw std::runtime_error(done.error().text());
    }
    /// The same track with a corner called something.
    static std::string moved(std::string geojson) {
        const auto at = geojson.find("\"name\": \"\"");
        if (at != std::string::npos) geojson.replace(at, 10, "\"name\": \"Gull\"");
        return geojson;
    }

    TempFolder folder_;
    std::set<std::string> before_, after_;
    bool can_trace_ = true;
    int calls_ = 0, problems_ = 0;
    unsigned micros_ = 0;
};

}  // namespace

int main(int count, char** arguments) {
    int kills = 0;
    std::string only;
    for (int i = 1; i + 1 < count; i += 2) {
        if (std::string(arguments[i]) == "--kills") kills = std::atoi(arguments[i + 1]);
        if (std::string(arguments[i]) == "--only") only = arguments[i + 1];
    }
    const char* wanted = std::getenv("KILL_SECONDS");
    const double seconds = kills > 0 || !only.empty() ? 1e9 : wanted == nullptr ? 45 : std::atof(wanted);
    Trials trials;
    // What is prepared does not count: on a slow disk nothing would be killed.
    const auto begin = std::chrono::steady_clock::now();
    const auto running = [&] {
        return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    };
    auto operations = trials.operations();
    if (!only.empty()) std::erase_if(operations, [&](const Operation& it) { return it.name.rfind(only, 0) != 0; });
    std::mt19937 random(kills > 0 ? 7 : static_cast<unsigned>(std::time(nullptr)));
    std::printf("%-32s %6s %9s %10s | %7s %8s %6s\n", "operation", "calls", "at calls", "at moments", "before",
                "between", "after");
    // Where the time does not reach all of them (sanitizers), each start begins at another one.
    std::rotate(operations.begin(), operations.begin() + static_cast<std::ptrdiff_t>(random() % operations.size()),
                operations.end());
    Counted all;
    for (std::size_t i = 0; i < operations.size() && running() < seconds; ++i) {
        const Operation& operation = operations[i];
        const double share_end = seconds * static_cast<double>(i + 1) / static_cast<double>(operations.size());
        if (!trials.learn(operation)) continue;
        Counted counted;
        counted.calls = trials.calls();
        const int most = kills > 0 ? std::max(4, kills / static_cast<int>(operations.size())) : 100'000;
        const int at_calls = std::min(trials.calls(), most * 2 / 3);
        // Every call when there is time for it, else evenly spread ones, beginning anywhere.
        const int stride = only.empty() && kills == 0 ? std::max(1, trials.calls() / 8)
                                                      : std::max(1, trials.calls() / std::max(1, at_calls));
        int tried = 0;
        for (int at = 1 + static_cast<int>(random() % static_cast<unsigned>(stride));
             at <= trials.calls() && tried < most; at += stride, ++tried) {
            if (running() > share_end && tried > 2) break;
            trials.kill(operation, at, 0, counted);
        }
        const int at_moments = kills > 0 ? most - tried : 2;
        for (int k = 0; k < at_moments && (running() < share_end || k < 1); ++k)
            trials.kill(operation, 0, random() % (trials.micros() + 1), counted);
        std::printf("%-32s %6d %9d %10d | %7d %8d %6d\n", operation.name.c_str(), counted.calls, counted.at_calls,
                    counted.at_moments, counted.before, counted.between, counted.after);
        std::fflush(stdout);
        all.at_calls += counted.at_calls;
        all.at_moments += counted.at_moments;
        all.before += counted.before;
        all.between += counted.between;
        all.after += counted.after;
    }
    std::printf("%-32s %6s %9d %10d | %7d %8d %6d\n", "all", "", all.at_calls, all.at_moments, all.before, all.between,
                all.after);
    std::printf("%d kills, %d problems\n", all.at_calls + all.at_moments, trials.problems());
    return trials.problems() == 0 && all.at_calls + all.at_moments > 0 ? 0 : 1;
}
