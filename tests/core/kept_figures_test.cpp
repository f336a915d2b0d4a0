// Figures of laps and answers of watch rules that are kept: the same as worked out, and worked out again where
// something changed that they rest on, and only there.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/formula/formula_set.h"
#include "core/intake/column_sets.h"
#include "core/intake/watch_book.h"
#include "tests/support/demo_data.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using test::got;

namespace {

class KeptFigures : public testing::Test {
  protected:
    // A library each: these tests change it.
    void SetUp() override {
        test::copy_library(test::weekend_library(), folder_.path());
        library_ = got(Library::open(folder_.path(), Library::Open::existing));
    }
    Library& library() { return *library_; }
    std::shared_ptr<const RunData> run(std::int64_t id) { return got(load_run(*library_, {id})); }
    std::vector<LapColumn> columns(const std::string& text) { return got(lap_columns(text)); }
    Result<LapTable> kept(const std::string& text, const std::vector<RunId>& runs = {{2}}) {
        return kept_lap_table(library(), runs, columns(text));
    }
    /// Without its recordings a library can tell only what it kept.
    void take_recordings_away() {
        std::filesystem::rename(library().folder() / "recordings", library().folder() / "elsewhere");
    }
    void put_recordings_back() {
        std::filesystem::rename(library().folder() / "elsewhere", library().folder() / "recordings");
    }
    bool knows(const std::string& text, const std::vector<RunId>& runs = {{2}}) {
        take_recordings_away();
        const bool out = kept(text, runs).has_value();
        put_recordings_back();
        return out;
    }

  private:
    test::TempFolder folder_;
    std::unique_ptr<Library> library_;
};

constexpr const char* some = "lap_time; speed high; oil_temperature above 90 °C; coasting_time end; speed low in 5";

TEST_F(KeptFigures, AreThoseThatAreWorkedOut) {
    const std::vector<std::shared_ptr<const RunData>> runs{run(2), run(3)};
    const LapTable worked = got(lap_table(runs, columns(some)));
    EXPECT_FALSE(knows(some, {{2}, {3}}));
    for (int again = 0; again < 2; ++again) {
        const LapTable table = got(kept(some, {{2}, {3}}));
        ASSERT_EQ(table.rows.size(), worked.rows.size());
        ASSERT_EQ(table.columns.size(), worked.columns.size());
        for (std::size_t r = 0; r < table.rows.size(); ++r) {
            EXPECT_EQ(table.rows[r].ref, worked.rows[r].ref);
            EXPECT_EQ(table.rows[r].counts, worked.rows[r].counts);
            for (std::size_t c = 0; c < table.columns.size(); ++c) {
                const LapFigure &a = table.rows[r].figures[c], &b = worked.rows[r].figures[c];
                EXPECT_TRUE(a.value == b.value || (std::isnan(a.value) && std::isnan(b.value))) << r << " " << c;
                EXPECT_TRUE(a.at_s == b.at_s || (std::isnan(a.at_s) && std::isnan(b.at_s))) << r << " " << c;
            }
        }
        for (std::size_t c = 0; c < table.columns.size(); ++c) {
            EXPECT_EQ(table.columns[c].unit, worked.columns[c].unit);
            EXPECT_EQ(table.columns[c].best, worked.columns[c].best);
        }
        EXPECT_EQ(table.trends.size(), worked.trends.size());
    }
    EXPECT_TRUE(knows(some, {{2}, {3}}));
    EXPECT_FALSE(knows(some, {{2}, {4}})) << "nobody has asked for those of run 4";
    // What no run has is kept as well.
    EXPECT_NE(got(kept("gearbox_temperature mean")).columns[0].missing, "");
    EXPECT_NE(got(kept("gearbox_temperature mean")).columns[0].missing, "");
}

TEST_F(KeptFigures, GoStaleWithWhatTheyRestOn) {
    (void)got(kept(some));
    // A lap that is left out changes what counts, no figure.
    ASSERT_TRUE(library().switch_lap({{2}, 3}, false, "looked at"));
    EXPECT_TRUE(knows(some));
    for (const LapTable::Row& row : got(kept(some)).rows) EXPECT_EQ(row.counts && row.ref.lap == 3, false);
    // A formula: its own columns, and those that build on it.
    formula::FormulaSet ours;
    ours.name = "Ours";
    ours.formulas.emplace_back();
    ours.formulas.front().name = "coasting";
    ours.formulas.front().text = "driver_coasting and speed > 60 km/h";
    ASSERT_TRUE(library().add_formula_version("Ours", formula::set_to_json(ours), ""));
    EXPECT_TRUE(knows("lap_time; speed high; oil_temperature above 90 °C; speed low in 5"));
    EXPECT_FALSE(knows("coasting_time end"));
    (void)got(kept(some));
    EXPECT_TRUE(knows(some));
    // A channel that is said to be something else.
    ASSERT_TRUE(library().set_flipped({2}, "lateral_acceleration", true));
    EXPECT_FALSE(knows("speed high"));
    ASSERT_TRUE(library().set_flipped({2}, "lateral_acceleration", false));
    EXPECT_TRUE(knows("speed high")) << "it is as it was";
    // What the sheet says of pedals.
    CarSheet sheet = got(library().car_sheets()).front();
    for (const CarSheet& it : got(library().car_sheets()))
        if (it.car == run(2)->row.car) sheet = it;
    sheet.values.push_back({"brake on", "9", "bar"});
    ASSERT_TRUE(library().put_car_sheet(sheet));
    EXPECT_FALSE(knows("coasting_time end"));
    (void)got(kept(some));
    EXPECT_TRUE(knows(some));
    // A part that is joined to it, and what is said of that part's channels.
    ASSERT_TRUE(library().set_join({3}, {2}, 3000));
    EXPECT_FALSE(knows("speed high"));
    (void)got(kept("speed high"));
    EXPECT_TRUE(knows("speed high"));
    ASSERT_TRUE(library().set_unused({3}, "Speed", true));
    EXPECT_FALSE(knows("speed high"));
    ASSERT_TRUE(library().set_unused({3}, "Speed", false));
    ASSERT_TRUE(library().set_join({3}, {}, 0));
    (void)got(kept("speed high"));
    // Laps that are cut anew.
    std::vector<Lap> laps = got(library().laps({2}));
    for (Lap& lap : laps) lap.start_s += 0.5;
    ASSERT_TRUE(library().set_laps({2}, laps));
    EXPECT_FALSE(knows("speed high"));
}

TEST_F(KeptFigures, WhatCannotBeReadAnyMoreIsWorkedOutAnew) {
    const LapTable before = got(kept("speed high; fuel end"));
    for (KeptResult it : got(library().kept_results({2}, "lap figures: "))) {
        it.content = it.what.ends_with("high") ? "m/s\n\n1 2 three" : "";
        ASSERT_TRUE(library().keep_result({2}, it));
    }
    EXPECT_FALSE(knows("speed high"));
    const LapTable after = got(kept("speed high; fuel end"));
    for (std::size_t r = 0; r < before.rows.size(); ++r)
        EXPECT_EQ(after.rows[r].figures[0].value, before.rows[r].figures[0].value);
    EXPECT_TRUE(knows("speed high; fuel end"));
    // The same of an answer of a rule: it is no answer, and no reason to ask for ever.
    for (KeptResult it : got(library().kept_results({4}, "watch: Oil pressure"))) {
        it.content = "{";
        ASSERT_TRUE(library().keep_result({4}, it));
    }
    EXPECT_EQ(got(check_watch_rules(library(), {{4}})), 1U);
    EXPECT_EQ(got(check_watch_rules(library(), {{4}})), 0U);
    // A channel alone: what it becomes is told by the first run that has it.
    const LapTable alone = got(kept("oil_temperature; speed", {{2}, {3}}));
    EXPECT_EQ(alone.columns.size(), 4U);
    EXPECT_EQ(alone.columns[0].column.text(), "oil_temperature mean");
    // A run that is not there is an error.
    EXPECT_FALSE(kept("speed high", {{2}, {99}}));
}

TEST_F(KeptFigures, ColumnsCanBeDropped) {
    LapTable table = got(kept("lap_time; speed low; speed high; fuel end", {{4}}));
    const double high = table.rows[3].figures[2].value, fuel = table.rows[3].figures[3].value;
    drop_columns(table, {0, 1});
    ASSERT_EQ(table.columns.size(), 2U);
    EXPECT_EQ(table.columns[0].column.text(), "speed high");
    EXPECT_EQ(table.rows[3].figures[0].value, high);
    EXPECT_EQ(table.rows[3].figures[1].value, fuel);
    for (const LapTable::Trend& it : table.trends) EXPECT_LT(it.column, 2U);
    const auto falls =
        std::find_if(table.trends.begin(), table.trends.end(), [](const auto& it) { return it.column == 1; });
    ASSERT_NE(falls, table.trends.end());
    EXPECT_NEAR(falls->line.per_lap, -1.08e-3, 0.1e-3) << "a litre a lap";
}

TEST_F(KeptFigures, OwnSetsOfColumnsAreKeptAndShared) {
    EXPECT_TRUE(got(column_sets(library())).empty());
    ASSERT_TRUE(put_column_set(library(), "Oil", "oil_pressure low; \"channel:Oil Temp\" high in 9"));
    const auto read = got(columns_of_set(library(), "Oil"));
    ASSERT_EQ(read.size(), 2U);
    EXPECT_EQ(read[1].channel, "channel:Oil Temp");
    EXPECT_EQ(read[1].text(), "\"channel:Oil Temp\" high in 9");
    EXPECT_FALSE(put_column_set(library(), "driver", "speed high")) << "a shipped one";
    EXPECT_FALSE(put_column_set(library(), "Bad", "speed highest"));
    EXPECT_FALSE(put_column_set(library(), " ", "speed high"));
    EXPECT_NE(columns_of_set(library(), "Nope").error().message.find("Oil"), std::string::npos);
    EXPECT_EQ(got(columns_of_set(library(), "fuel")).size(), 3U);
    const std::string file = column_sets_to_json(got(column_sets(library())));
    EXPECT_EQ(got(column_sets_from_json(file, "file")), got(column_sets(library())));
    for (const char* bad : {"", "[]", "{\"a\": 3}", "{\"a\": \"speed nonsense\"}", "{\"\": \"speed high\"}"})
        EXPECT_FALSE(column_sets_from_json(bad, "file")) << bad;
    ASSERT_TRUE(remove_column_set(library(), "Oil"));
    EXPECT_FALSE(remove_column_set(library(), "Oil"));
}

TEST_F(KeptFigures, WatchRulesAreKeptLookedAtAndGoStale) {
    const std::vector<RunId> runs{{2}, {4}};
    // The demo was watched when it was written.
    EXPECT_EQ(got(check_watch_rules(library(), runs)), 0U);
    const auto of = [&](RunId id, const std::string& name) {
        for (const KeptWatch& it : got(kept_watch(library(), id)))
            if (it.rule.name == name) return it;
        ADD_FAILURE() << name;
        return KeptWatch{};
    };
    const std::string oil = "Oil pressure low for the revs";
    const KeptWatch surge = of({4}, oil);
    EXPECT_GT(surge.told.events.size(), 15U);
    EXPECT_FALSE(surge.stale);
    EXPECT_EQ(surge.seen_unix_s, 0);
    // As the rule says it now.
    const WatchTold now = watch_run(*run(4), surge.rule);
    ASSERT_EQ(now.events.size(), surge.told.events.size());
    for (std::size_t k = 0; k < now.events.size(); ++k) {
        EXPECT_EQ(now.events[k].lap, surge.told.events[k].lap);
        EXPECT_EQ(now.events[k].kind, surge.told.events[k].kind);
        EXPECT_EQ(now.events[k].when.worst, surge.told.events[k].when.worst);
        EXPECT_EQ(now.events[k].place_m, surge.told.events[k].place_m);
        EXPECT_EQ(now.events[k].beside.size(), surge.told.events[k].beside.size());
    }
    EXPECT_EQ(got(unseen_watch(library())).at({4}), 2) << "the oil, and the crest that the floor touches";
    ASSERT_TRUE(set_watch_seen(library(), {4}, oil, true));
    EXPECT_EQ(got(unseen_watch(library())).at({4}), 1);
    // A rule of the library's own is open on every run, then on none.
    WatchRule fast{.name = "Fast", .condition = "speed > 230 km/h", .value = "speed", .for_s = 1};
    ASSERT_TRUE(put_watch_rule(library(), fast));
    EXPECT_EQ(got(check_watch_rules(library(), runs)), 2U);
    EXPECT_EQ(got(check_watch_rules(library(), runs)), 0U);
    EXPECT_GT(of({2}, "Fast").told.events.size(), 4U);
    EXPECT_GT(of({4}, oil).seen_unix_s, 0) << "what was looked at stays so";
    // Another limit: it has to be looked at anew where it says something else.
    ASSERT_TRUE(set_watch_seen(library(), {2}, "Fast", true));
    fast.condition = "speed > 229.9 km/h";
    ASSERT_TRUE(put_watch_rule(library(), fast));
    EXPECT_TRUE(of({2}, "Fast").stale);
    EXPECT_EQ(got(check_watch_rules(library(), runs)), 2U);
    EXPECT_GT(of({2}, "Fast").seen_unix_s, 0) << "the same times";
    fast.condition = "speed > 200 km/h";
    ASSERT_TRUE(put_watch_rule(library(), fast));
    EXPECT_EQ(got(check_watch_rules(library(), runs)), 2U);
    EXPECT_EQ(of({2}, "Fast").seen_unix_s, 0);
    // A shipped rule gives way to one of its name, and can be put off.
    ASSERT_TRUE(put_watch_rule(library(), {.name = oil, .condition = "oil_pressure < 0.1 bar", .off = true}));
    for (const KeptWatch& it : got(kept_watch(library(), {4}))) EXPECT_NE(it.rule.name, oil);
    ASSERT_TRUE(remove_watch_rule(library(), oil));
    EXPECT_FALSE(remove_watch_rule(library(), oil)) << "it is shipped";
    EXPECT_EQ(got(watch_book(library())).in_force().size(), shipped_watch_rules().size() + 1);
    EXPECT_FALSE(put_watch_rule(library(), {.name = "Bad", .condition = "speed >"}));
    EXPECT_FALSE(put_watch_rule(library(), {.name = "", .condition = "speed > 3"}));
}

TEST_F(KeptFigures, ARuleOverTheRunsOfACar) {
    const std::string oil = "Oil pressure low for the revs", car = run(4)->row.car;
    WatchTrend trend = got(watch_trend(library(), oil, car));
    EXPECT_EQ(trend.steps.size(), 16U);
    EXPECT_NE(trend.text.find("speaks in 1 of 16 runs, last in Run 5 from lap 13 on, with 13."), std::string::npos)
        << trend.text;
    EXPECT_NE(got(watch_trend(library(), "Over-revs", car)).text.find("silent in all 15 runs"), std::string::npos);
    EXPECT_NE(got(watch_trend(library(), oil, "No car")).text.find("not checked"), std::string::npos);
    EXPECT_FALSE(watch_trend(library(), "No rule", car));
    // Run 6 as if it had surged with more fuel in the tank.
    KeptResult result;
    for (const KeptResult& it : got(library().kept_results({4}, "watch: " + oil))) result = it;
    WatchTold told = *told_from_json(result.content);
    for (WatchEvent& it : told.events) {
        it.lap = *it.lap - 4;
        it.beside[2] += 0.004;
    }
    const WatchRule rule = *got(watch_book(library())).find(oil);
    ASSERT_TRUE(library().keep_result({5}, {"watch: " + oil, "", told_to_json(rule, told), 35}));
    trend = got(watch_trend(library(), oil, car));
    EXPECT_NE(trend.text.find("2 of 16 runs, last in Run 6 from lap 9 on"), std::string::npos) << trend.text;
    EXPECT_NE(trend.text.find("Each run earlier than the one before."), std::string::npos);
    for (const char* bad :
         {"", "[]", "{}", "{\"events\": 3}", "{\"events\": [3]}", "{\"events\": [{\"beside\": [1]}]}"})
        EXPECT_FALSE(told_from_json(bad)) << bad;
}

}  // namespace
