// What is computed of runs of a library: whether it would come out the same today, what another's copy of a run would
// change, and what all laps of a road say of it.
#include <gtest/gtest.h>

#include <algorithm>
#include <cctype>
#include <functional>
#include <stop_token>

#include "core/bundle/run_difference.h"
#include "core/formula/formula_set.h"
#include "core/intake/freshness.h"
#include "core/intake/road_laps.h"
#include "core/library/run_fields.h"
#include "core/track/track.h"
#include "tests/support/demo_data.h"
#include "tests/support/exact_laps.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using test::got;

namespace {

class MarksOfRuns : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::weekend_library(), folder_.path());
        library_ = got(Library::open(folder_.path(), Library::Open::existing));
    }
    Library& library() { return *library_; }
    RunRow row(std::int64_t id) { return got(library_->run({id})); }
    /// As somebody would ask who starts the program now.
    Freshness::OfRun now(std::int64_t id) {
        auto fresh = got(Freshness::of(*library_));
        return got(fresh.of_run(*library_, row(id)));
    }
    std::string channel(const std::string& name, std::int64_t id = 2) { return now(id).channel(name); }
    std::string formula(const std::string& text, std::int64_t id = 2) { return now(id).formula(text); }

  private:
    test::TempFolder folder_;
    std::unique_ptr<Library> library_;
};

void add_formula(Library& library, const std::string& set, const std::string& name, const std::string& text) {
    formula::FormulaSet made;
    made.name = set;
    made.formulas.emplace_back();
    made.formulas.front().name = name;
    made.formulas.front().text = text;
    ASSERT_TRUE(library.add_formula_version(set, formula::set_to_json(made), ""));
}

TEST_F(MarksOfRuns, AreTheSameWhileNothingChanges) {
    EXPECT_EQ(channel("Speed"), channel("Speed"));
    EXPECT_EQ(formula("speed * 2"), formula("speed * 2"));
    EXPECT_NE(formula("speed * 2"), formula("speed * 3"));
    EXPECT_NE(channel("Speed", 2), channel("Speed", 3)) << "another run is another ground";
    EXPECT_NE(formula("speed * 2", 2), formula("speed * 2", 3));
    EXPECT_EQ(now(2).laps().size(), got(library().laps({2})).size());
}

TEST_F(MarksOfRuns, WhatNobodyComputesFromDoesNotChangeThem) {
    const std::string before = channel("Speed"), computed = formula("speed + throttle");
    RunFacts facts = row(2);
    facts.driver = "Somebody else";
    facts.remarks = "Looked at";
    ASSERT_TRUE(library().set_facts({2}, facts));
    ASSERT_TRUE(library().set_lap_note({{2}, 3}, "a note"));
    ASSERT_TRUE(library().add_picture_note({2}, {0, 120, "speed", "here"}));
    ASSERT_TRUE(library().set_official_laps({2}, std::vector<OfficialLap>{{1, 90.5}}));
    EXPECT_EQ(channel("Speed"), before);
    EXPECT_EQ(formula("speed + throttle"), computed);
}

TEST_F(MarksOfRuns, WhatTheyRestOnChangesThemAndBack) {
    const std::string before = channel("Speed");
    struct Edit {
        const char* what;
        std::function<Result<void>(bool)> make;
    };
    const auto laps = got(library().laps({2}));
    const std::string tyres = row(2).tyre_set;
    const PlaceCorrection place = got(library().place_correction({2}));
    const std::vector<Edit> edits{
        {"turned round", [&](bool on) { return library().set_flipped({2}, "lateral_acceleration", on); }},
        {"not used", [&](bool on) { return library().set_unused({2}, "Speed", on); }},
        {"moved",
         [&](bool on) {
             PlaceCorrection moved = place;
             if (on) moved.delay_s += 0.2;
             return library().set_place_correction({2}, moved);
         }},
        {"cut",
         [&](bool on) {
             auto cut = laps;
             if (on) cut[1].start_s += 0.25;
             return library().set_laps({2}, cut);
         }},
        {"other tyres",
         [&](bool on) {
             RunFacts facts = row(2);
             facts.tyre_set = on ? "Z9" : tyres;
             return library().set_facts({2}, facts);
         }},
    };
    for (const Edit& edit : edits) {
        ASSERT_TRUE(edit.make(true)) << edit.what;
        EXPECT_NE(channel("Speed"), before) << edit.what;
        ASSERT_TRUE(edit.make(false)) << edit.what;
        EXPECT_EQ(channel("Speed"), before) << edit.what;
    }
}

TEST_F(MarksOfRuns, AFormulaChangesWithThoseItIsMadeOf) {
    add_formula(library(), "Mine", "twice", "2 * speed");
    add_formula(library(), "Upon", "four_times", "2 * twice");
    const std::string upon = channel("four_times"), apart = formula("throttle / 100"), logged = channel("Speed");
    EXPECT_TRUE(now(2).has_formula("four_times"));
    EXPECT_FALSE(now(2).has_formula("nobody"));
    add_formula(library(), "Mine", "twice", "2.0001 * speed");
    EXPECT_NE(channel("four_times"), upon);
    EXPECT_EQ(formula("throttle / 100"), apart) << "it asks for nothing of it";
    EXPECT_EQ(channel("Speed"), logged);
}

TEST_F(MarksOfRuns, TheQuickestLineIsOfTheLapsThatCount) {
    const std::string line = formula("quickest_offset"), speed = formula("speed");
    ASSERT_TRUE(library().switch_lap({{2}, 3}, false, "looked at"));
    EXPECT_NE(formula("quickest_offset"), line);
    EXPECT_EQ(formula("speed"), speed);
    ASSERT_TRUE(library().switch_lap({{2}, 3}, true, ""));
    EXPECT_EQ(formula("quickest_offset"), line);
}

TEST_F(MarksOfRuns, WhatTheSheetSaysOfPedalsDecidesOnAllFlags) {
    const std::string before = channel("Speed");
    CarSheet sheet = got(library().car_sheets()).front();
    for (const CarSheet& it : got(library().car_sheets()))
        if (it.car == row(2).car) sheet = it;
    CarSheet other = sheet;
    other.values.push_back({"throttle full", "90", "%"});
    ASSERT_TRUE(library().put_car_sheet(other));
    EXPECT_NE(channel("Speed"), before);
    ASSERT_TRUE(library().put_car_sheet(sheet));
    EXPECT_EQ(channel("Speed"), before);
}

// ---- another's copy of a run -------------------------------------------------------------------------

/// Run 2 as a bundle would bring it.
BundleRun copy_of(const RunRow& row) {
    BundleRun out;
    out.facts = row;
    return out;
}

TEST_F(MarksOfRuns, OfTheSameRunNothingDiffers) {
    const BundleRun theirs = copy_of(row(2));
    EXPECT_EQ(got(difference_of(library(), row(2), theirs, theirs.facts)), "");
    EXPECT_TRUE(got(new_notes(library(), {2}, theirs)).empty());
}

TEST_F(MarksOfRuns, EveryFieldThatDiffersIsNamed) {
    const RunRow mine = row(2);
    for (const RunField& field : all_run_fields()) {
        BundleRun theirs = copy_of(mine);
        if (field.is_text())
            theirs.facts.*field.text = "Other words";
        else
            theirs.facts.*field.number = 1234.5;
        const std::string told = got(difference_of(library(), mine, theirs, theirs.facts));
        std::string label = field.label;
        label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
        EXPECT_EQ(told.find(label + " \""), 0U) << told;
        EXPECT_EQ(told.find("; "), std::string::npos) << "only that: " << told;
    }
    BundleRun theirs = copy_of(mine);
    theirs.facts.driver = "Amari";
    theirs.facts.session = "Monday";
    const std::string told = got(difference_of(library(), mine, theirs, theirs.facts));
    EXPECT_NE(told.find("driver \"" + mine.driver + "\" here, \"Amari\" there"), std::string::npos) << told;
    EXPECT_NE(told.find("session"), std::string::npos) << told;
}

TEST_F(MarksOfRuns, NotesThatAreNewAreCounted) {
    BundleRun theirs = copy_of(row(2));
    theirs.picture_notes = {{7, 100, "speed", "late"}, {8, 200, "", "wide"}};
    ASSERT_TRUE(library().add_picture_note({2}, {0, 100.0004, "speed", "late"}));
    const auto fresh = got(new_notes(library(), {2}, theirs));
    ASSERT_EQ(fresh.size(), 1U);
    EXPECT_EQ(fresh[0].text, "wide");
    EXPECT_EQ(got(difference_of(library(), row(2), theirs, theirs.facts)),
              "1 note on its pictures that you do not have");
    theirs.picture_notes.push_back({9, 100, "throttle", "late"});
    EXPECT_EQ(got(difference_of(library(), row(2), theirs, theirs.facts)),
              "2 notes on its pictures that you do not have");
}

TEST_F(MarksOfRuns, LapTimesOfTheTimingSystemDifferOnlyWhereTheyAreTold) {
    BundleRun theirs = copy_of(row(2));
    ASSERT_TRUE(library().set_official_laps({2}, std::vector<OfficialLap>{{1, 90.5}, {2, 91.5}}));
    EXPECT_EQ(got(difference_of(library(), row(2), theirs, theirs.facts)), "") << "they have none";
    theirs.official_laps = {{1, 90.5}, {2, 91.6}};
    EXPECT_EQ(got(difference_of(library(), row(2), theirs, theirs.facts)), "lap times of the timing system differ");
}

TEST_F(MarksOfRuns, ASetupSheetIsThatOfTheLibrary) {
    BundleRun theirs = copy_of(row(2));
    theirs.setup = "car|base|1";
    EXPECT_EQ(facts_for(theirs, {{"car|base|1", SetupId{5}}}).setup, SetupId{5});
    EXPECT_EQ(facts_for(theirs, {}).setup, SetupId{}) << "not known here";
}

// ---- all laps of a road ------------------------------------------------------------------------------

TEST_F(MarksOfRuns, AllLapsOfARoadAreGathered) {
    const TrackId track = row(2).track;
    const RoadLaps laps = got(road_laps(library(), track));
    std::size_t count = 0;
    for (const RunRow& run : got(library().runs())) {
        if (run.track != track) continue;
        for (const Lap& lap : got(library().laps(run.id))) count += lap.counts() ? 1 : 0;
    }
    EXPECT_EQ(laps.laps.size(), std::min<std::size_t>(count, 60));
    EXPECT_EQ(laps.left_m.size(), laps.laps.size());
    EXPECT_FALSE(laps.cornering.empty());
    for (const auto& lap : laps.left_m) {
        ASSERT_GT(lap.size(), 100U);
        for (std::size_t i = 1; i < lap.size(); ++i) ASSERT_GE(lap[i].distance_m, lap[i - 1].distance_m);
    }
    const auto alone = got(driven_offsets(library(), laps.laps.front()));
    ASSERT_EQ(alone.size(), laps.left_m.front().size());
    EXPECT_EQ(alone[50].value, laps.left_m.front()[50].value);
    // The newest come first, and no more than are asked for.
    const RoadLaps few = got(road_laps(library(), track, {}, 3));
    EXPECT_EQ(few.laps, std::vector(laps.laps.begin(), laps.laps.begin() + 3));
}

TEST_F(MarksOfRuns, ARoadThatNobodyDroveHasNone) {
    EXPECT_FALSE(road_laps(library(), {999}));
    EXPECT_FALSE(driven_offsets(library(), {{999}, 1}));
    EXPECT_FALSE(driven_offsets(library(), {{2}, 999}));
    std::stop_source stop;
    stop.request_stop();
    const auto cancelled = road_laps(library(), row(2).track, {stop.get_token(), {}});
    ASSERT_FALSE(cancelled);
    EXPECT_EQ(cancelled.error().code, ErrorCode::cancelled);
}

TEST_F(MarksOfRuns, HeightAndBankingComeFromTheLapsAndStayWhereTheySayNothing) {
    const Track& drawn = *test::drawn_track();
    const RoadLaps laps = got(road_laps(library(), row(2).track));
    Track known = drawn;
    known.height = known.banking = {};
    const Track shown = got(with_height_and_banking(known, laps));
    EXPECT_EQ(shown.banking.value.size(), known.line.size());
    RoadLaps blind = laps;
    blind.height_m.clear();
    EXPECT_EQ(got(with_height_and_banking(drawn, blind)).height, drawn.height) << "what was known of it stays";
    blind.cornering.clear();
    const auto nothing = with_height_and_banking(drawn, blind);
    ASSERT_FALSE(nothing);
    EXPECT_NE(nothing.error().message.find("neither height nor"), std::string::npos);
}

}  // namespace
