// The tables of tests/cases: one drive, written in the ways of people and their programs. Each must come in right, with
// a question, or be refused with the reason; never as something else.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>

#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;
using Json = nlohmann::json;

namespace {

struct CaseOutcome {
    std::string kind;  ///< right, asked, refused, silently wrong
    std::string why;
};

struct Wanted {
    const char* key;
    double tolerance;
};
const std::map<std::string, Wanted> wanted{{"latitude", {"lat", 1e-6}},
                                           {"longitude", {"lon", 1e-6}},
                                           {"speed", {"speed", 0.02}},
                                           {"throttle", {"throttle", 0.005}},
                                           {"brake_front", {"brake", 800}},
                                           {"engine_speed", {"revs", 0.02}},
                                           {"lateral_acceleration", {"ay", 0.02}},
                                           {"longitudinal_acceleration", {"ax", 0.02}},
                                           {"heading", {"heading", 0.01}},
                                           {"oil_temperature", {"oil", 0.02}},
                                           {"tyre_pressure_fl", {"pressure", 20}}};

double truth_of_case(const Json& item, const std::string& quantity, double value) {
    const Json signs = item.value("signs", Json::array({1, 1}));
    if (quantity == "latitude") return value * signs[0].get<double>();
    if (quantity == "longitude")
        return std::abs(signs[1].get<double>()) == 1 ? value * signs[1].get<double>() : value + signs[1].get<double>();
    if (quantity == "oil_temperature") return value + 273.15;
    return value;
}

/// Sample by sample against the drive, by the time since the first sample.
std::string compared_with_truth(const Recording& recording, const Json& item, const Json& truth,
                                const std::string& quantity) {
    if (quantity == "time only") return {};
    const Channel* channel = recording.find_logged(quantity);
    if (channel == nullptr) return quantity + " is missing; ";
    const auto& [key, usual] = wanted.at(quantity);
    const Json own = item.value("tolerance", Json::object());
    const bool place = quantity == "latitude" || quantity == "longitude";
    const double tolerance = std::max({usual, own.value(quantity, 0.0), place ? own.value("place", 0.0) : 0.0});
    const auto values = truth[key].get<std::vector<double>>(), times = truth["t"].get<std::vector<double>>();
    const std::size_t gap_from = item.contains("lacks") ? item["lacks"][0].get<std::size_t>() : values.size();
    const std::size_t gap_to = item.contains("lacks") ? item["lacks"][1].get<std::size_t>() : values.size();
    const bool other_times = item["file"].get<std::string>().find("whole_steps") != std::string::npos;
    const Json holes = item.value("holes", Json::object());
    const auto every = holes.value(quantity, std::size_t{0});
    std::size_t row = 0, checked = 0;
    const double start = channel->clock.time_at(0);
    for (std::size_t i = 0; i < channel->size(); ++i) {
        // Every so many rows hold what stands for nothing; such a sample may be missing, or not be there at all.
        while (every > 0 && row < times.size() && row % every == 3 &&
               channel->clock.time_at(i) - start > times[row] - 0.05)
            ++row;
        if (std::isnan(channel->at(i))) continue;
        if (row == gap_from) row = gap_to;
        if (row >= values.size()) return quantity + " has too many samples; ";
        // A row that was left out on purpose.
        const double at = channel->clock.time_at(i) - start;
        if (!other_times && item.contains("rows") && row + 1 < times.size() && at > times[row] + 0.05) ++row;
        if (!other_times && std::abs(at - times[row]) > own.value("time", 2e-3))
            return quantity + " is off by " + std::to_string(at - times[row]) + " s in row " + std::to_string(row) +
                   "; ";
        double off = std::abs(channel->at(i) - truth_of_case(item, quantity, values[row]));
        if (quantity == "heading") off = std::abs(std::remainder(off, 360));
        if (off > tolerance)
            return quantity + " is off by " + std::to_string(off) + " in row " + std::to_string(row) + "; ";
        ++row;
        ++checked;
    }
    const std::size_t empty = every > 0 ? (values.size() + every - 4) / every : 0;
    const std::size_t expected = item.value("rows", values.size() - (gap_to - gap_from) - empty);
    if (checked + (item.contains("lacks") ? 0 : 0) < expected - (item.contains("lacks") ? gap_to - gap_from : 0))
        return quantity + " has " + std::to_string(checked) + " of " + std::to_string(expected) + " samples; ";
    return {};
}

CaseOutcome outcome_of(const std::filesystem::path& folder, const Json& item, const Json& truth) {
    const TempFolder home;
    auto library = Library::open(home.path() / "library");
    if (!library) return {"no library", library.error().text()};
    ImportOptions options;
    const Json said = item.value("options", Json::object());
    if (said.contains("rate")) options.read.csv.rate_hz = said["rate"].get<double>();
    for (const Json& take : said.value("take", Json::array())) {
        const std::string text = take.get<std::string>();
        const auto equals = text.find('='), colon = text.find(':');
        if (!options.read.csv.mapping) options.read.csv.mapping.emplace();
        options.read.csv.mapping->columns.push_back(
            {text.substr(0, equals), true, text.substr(equals + 1, colon - equals - 1), text.substr(colon + 1)});
    }
    const auto imported = import_file(**library, folder / item["file"].get<std::string>(), options);
    if (!imported) {
        const Error& error = imported.error();
        if (error.code == ErrorCode::needs_answer && !error.questions.empty()) return {"asked", error.message};
        return error.message.size() > 20 ? CaseOutcome{"refused", error.message}
                                         : CaseOutcome{"silently wrong", "no reason given"};
    }
    if (!imported->questions.empty()) return {"asked", "which of several channels"};
    if (!item.contains("channels")) return {"silently wrong", "it came in"};
    const auto recording = run_recording(**library, imported->run);
    if (!recording) return {"silently wrong", recording.error().text()};
    std::string why;
    for (const Json& quantity : item["channels"])
        why += compared_with_truth(*recording, item, truth, quantity.get<std::string>());
    if (item.contains("start_unix_s")) {
        const double start = item["start_unix_s"].get<double>();
        const double tolerance = item.value("tolerance", Json::object()).value("start", 0.02);
        if (!recording->start_unix_s || std::abs(*recording->start_unix_s - start) > tolerance)
            why += "the date is wrong; ";
    }
    for (const std::string& note : imported->notes) why += why.empty() ? "" : "\n      " + note;
    return {why.empty() ? "right" : "silently wrong", why};
}

/// Every case of a folder; prints the score.
void score(const std::filesystem::path& folder) {
    std::ifstream file(folder / "expected.json");
    ASSERT_TRUE(file) << folder;
    const Json expected = Json::parse(file);
    std::map<std::string, int> counts{{"right", 0}, {"asked", 0}, {"refused", 0}, {"silently wrong", 0}};
    for (const Json& item : expected["cases"]) {
        const CaseOutcome outcome = outcome_of(folder, item, expected["truth"]);
        ++counts[outcome.kind];
        bool allowed = false;
        for (const Json& kind : item["expect"]) allowed = allowed || kind.get<std::string>() == outcome.kind;
        EXPECT_TRUE(allowed) << item["file"] << " must be " << item["expect"] << " and is " << outcome.kind << ": "
                             << outcome.why;
    }
    std::printf("Tables of others: %d right, %d asked, %d refused, %d silently wrong of %zu\n", counts["right"],
                counts["asked"], counts["refused"], counts["silently wrong"], expected["cases"].size());
    EXPECT_EQ(counts["silently wrong"], 0);
}

}  // namespace

TEST(TableCases, EachComesInRightOrIsAskedOrRefused) {
    score(test::tests_folder() / "cases");
}

TEST(TableCases, MoreOfThemWhereAFolderIsNamed) {
    const char* more = std::getenv("RENDAK_MORE_CASES");
    if (more == nullptr) GTEST_SKIP() << "RENDAK_MORE_CASES names no folder";
    score(more);
}
