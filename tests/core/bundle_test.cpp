#include "core/bundle/bundle.h"

#include <gtest/gtest.h>
#include <zip.h>

#include <cmath>
#include <fstream>

#include "core/bundle/bundle_json.h"
#include "core/bundle/zip_file.h"
#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "core/laps/cut.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::read_all;
using rendak::test::TempFolder;

namespace {

using State = BundleItem::State;

/// One library with two runs (one joined into the other), a track, a setup sheet and a car sheet; another that is
/// empty.
class BundleTest : public testing::Test {
  protected:
    void SetUp() override {
        mine_ = std::move(*Library::open(folder_ / "mine"));
        theirs_ = std::move(*Library::open(folder_ / "theirs"));
        const auto oval = test::oval_table(4, 20, 45);
        ImportOptions options;
        options.event = "Test day";
        options.session = "Morning";
        options.name = "Run 1";
        options.driver = "Osei";
        options.car = "27";
        options.tyre_set = "C3";
        options.setup = *mine_->add_setup("27", "Base", {{"Wing", "5", "°"}});
        options.clock_shift_s = 100;
        run_ = import_file(*mine_, folder_.write("a.csv", oval.text), options)->run;
        other_ = import_file(*mine_, folder_.write("b.csv", test::oval_table(3, 10, 44).text), options)->run;
        ASSERT_TRUE(mine_->set_join(other_, run_, 1.5));
        ASSERT_TRUE(learn_track_from_run(*mine_, run_, "Oval", {}));
        ASSERT_TRUE(mine_->put_car_sheet({"27", "2026", "", {{"mass", "775", "kg"}}}));
        ASSERT_TRUE(mine_->put_event({{}, "Test day", "Somewhere", "2026-06-13", "dry", ""}));
        ASSERT_TRUE(mine_->set_alias("pbrkva", "brake_front"));
        ASSERT_TRUE(mine_->switch_lap({run_, 1}, false, "traffic"));
        ASSERT_TRUE(write_bundle(*mine_, {.runs = {run_}}, file_));
    }
    std::map<std::string, BundleItem> preview(const Library& library) {
        const auto items = preview_bundle(library, file_);
        EXPECT_TRUE(items) << items.error().text();
        std::map<std::string, BundleItem> out;
        for (const BundleItem& item : *items) out.emplace(item.key, item);
        return out;
    }
    static void set_entry(const std::filesystem::path& file, const std::string& name, const std::string& text) {
        int code = 0;
        zip* archive = zip_open(file.c_str(), ZIP_CREATE, &code);
        zip_source_t* source = zip_source_buffer(archive, text.data(), text.size(), 0);
        ASSERT_GE(zip_file_add(archive, name.c_str(), source, ZIP_FL_OVERWRITE), 0);
        ASSERT_EQ(zip_close(archive), 0);
    }

    TempFolder folder_;
    std::filesystem::path file_ = folder_ / "to a colleague.zip";
    std::unique_ptr<Library> mine_, theirs_;
    RunId run_, other_;
};

}  // namespace

TEST_F(BundleTest, EverythingArrivesAndNothingIsDoubledTheSecondTime) {
    for (const auto& [key, item] : preview(*theirs_)) EXPECT_EQ(item.state, State::fresh) << key;
    const auto taken = take_bundle(*theirs_, file_);
    ASSERT_TRUE(taken) << taken.error().text();
    EXPECT_EQ(taken->runs.size(), 2U);
    ASSERT_EQ(theirs_->runs().value().size(), 1U) << "joined there, too";
    const RunRow row = theirs_->runs().value()[0], old = *mine_->run(run_);
    EXPECT_EQ(row.event, old.event);
    EXPECT_EQ(row.driver, "Osei");
    EXPECT_EQ(row.tyre_set, "C3");
    EXPECT_EQ(row.setup_name, "Base 1");
    EXPECT_EQ(row.track_name, "Oval");
    EXPECT_EQ(row.digest, old.digest);
    EXPECT_EQ(row.clock_shift_s, 100);
    EXPECT_EQ(theirs_->laps(row.id).value(), mine_->laps(run_).value());
    EXPECT_EQ(theirs_->joined_runs(row.id).value()[0].join_offset_s, 1.5);
    EXPECT_EQ(content_digest(*run_recording(*theirs_, row.id)), content_digest(*run_recording(*mine_, run_)));
    EXPECT_EQ(theirs_->car_sheets().value(), mine_->car_sheets().value());
    EXPECT_EQ(theirs_->aliases().value(), mine_->aliases().value());
    EXPECT_EQ(theirs_->events().value()[0].place, "Somewhere");
    for (const auto& [key, item] : preview(*theirs_))
        EXPECT_EQ(item.state, State::same) << key << ": " << item.difference;
    const auto again = take_bundle(*theirs_, file_);
    ASSERT_TRUE(again);
    EXPECT_TRUE(again->runs.empty());
    EXPECT_TRUE(again->told.empty());
    EXPECT_EQ(theirs_->setups().value().size(), 1U);
}

TEST_F(BundleTest, DoubtsAndNotesOfLapsTravel) {
    auto laps = mine_->laps(run_).value();
    laps[2].doubt = "0.8 s slower than usual in Turn 2: traffic?";
    ASSERT_TRUE(mine_->set_laps(run_, laps));
    ASSERT_TRUE(mine_->set_lap_note({run_, 2}, "behind a slow car"));
    const auto file = folder_ / "again.zip";
    ASSERT_TRUE(write_bundle(*mine_, {.runs = {run_}}, file));
    const auto taken = take_bundle(*theirs_, file);
    ASSERT_TRUE(taken) << taken.error().text();
    const auto arrived = theirs_->laps(theirs_->runs().value()[0].id).value();
    EXPECT_EQ(arrived[1].note, "behind a slow car");
    EXPECT_EQ(arrived[1].number, 2);
    EXPECT_EQ(arrived[2].doubt, laps[2].doubt);
    EXPECT_TRUE(arrived[2].doubtful());
    EXPECT_FALSE(arrived[2].switched_by_hand);
    EXPECT_EQ(arrived[0].reason, "traffic");
}

TEST_F(BundleTest, NotesOnPicturesAndOfficialLapsTravelAndAreAddedWhenTaken) {
    ASSERT_TRUE(mine_->add_picture_note(run_, {0, 12.5, "speed", "kerb: \"hop\""}));
    ASSERT_TRUE(mine_->add_picture_note(run_, {0, 20, "", "wide here"}));
    ASSERT_TRUE(mine_->set_official_laps(run_, std::vector<OfficialLap>{{1, 33.5}, {2, 33.25}}));
    const auto before = file_;
    file_ = folder_ / "noted.zip";
    ASSERT_TRUE(write_bundle(*mine_, {.runs = {run_}}, file_));
    ASSERT_TRUE(take_bundle(*theirs_, file_));
    const RunId id = theirs_->runs().value()[0].id;
    const auto notes = theirs_->picture_notes(id).value();
    ASSERT_EQ(notes.size(), 2U);
    EXPECT_EQ(notes[0].text, "kerb: \"hop\"");
    EXPECT_EQ(notes[0].quantity, "speed");
    EXPECT_EQ(notes[0].at_s, 12.5);
    EXPECT_TRUE(notes[1].quantity.empty());
    EXPECT_EQ(theirs_->official_laps(id).value(), mine_->official_laps(run_).value());
    for (const auto& [key, item] : preview(*theirs_)) EXPECT_EQ(item.state, State::same) << key << item.difference;
    // Who has the run already and writes notes of his own keeps them, and is asked about the new one.
    ASSERT_TRUE(theirs_->remove_picture_note(notes[1].id));
    ASSERT_TRUE(theirs_->add_picture_note(id, {0, 30, "gear", "mine"}));
    const std::string key = "run:" + theirs_->run(id)->digest + ":0";
    EXPECT_EQ(preview(*theirs_).at(key).state, State::clash);
    EXPECT_EQ(preview(*theirs_).at(key).difference, "1 note on its pictures that you do not have");
    ASSERT_TRUE(take_bundle(*theirs_, file_));
    EXPECT_EQ(theirs_->picture_notes(id).value().size(), 2U) << "not unasked";
    ASSERT_TRUE(take_bundle(*theirs_, file_, {key}));
    EXPECT_EQ(theirs_->picture_notes(id).value().size(), 3U);
    EXPECT_EQ(preview(*theirs_).at(key).state, State::same);
    // An older bundle, without either, takes nothing away.
    file_ = before;
    EXPECT_EQ(preview(*theirs_).at(key).state, State::same);
}

TEST_F(BundleTest, WhatClashesStaysUnlessItIsTaken) {
    ASSERT_TRUE(take_bundle(*theirs_, file_));
    const RunId id = theirs_->runs().value()[0].id;
    RunFacts facts = *theirs_->run(id);
    facts.driver = "Brandvold";
    ASSERT_TRUE(theirs_->set_facts(id, facts));
    ASSERT_TRUE(theirs_->put_car_sheet({"27", "2026", "", {{"mass", "700", "kg"}}}));
    ASSERT_TRUE(theirs_->set_alias("pbrkva", "brake_rear"));
    const TrackId track = *theirs_->find_track("Oval").value();
    const std::string own_track = *theirs_->track_geojson(track) + "\n";
    ASSERT_TRUE(theirs_->put_track("Oval", 900, own_track));
    const auto items = preview(*theirs_);
    std::set<std::string> clashes;
    for (const auto& [key, item] : items) {
        if (item.state == State::clash) clashes.insert(key);
    }
    ASSERT_EQ(clashes.size(), 4U);
    EXPECT_NE(
        items.at("run:" + theirs_->run(id)->digest + ":0").difference.find("driver \"Brandvold\" here, \"Osei\" there"),
        std::string::npos);
    ASSERT_TRUE(take_bundle(*theirs_, file_));
    EXPECT_EQ(theirs_->run(id)->driver, "Brandvold") << "nothing is overwritten unasked";
    EXPECT_EQ(theirs_->car_sheets().value()[0].values[0].value, "700");
    EXPECT_EQ(theirs_->aliases().value().at("pbrkva"), "brake_rear");
    EXPECT_EQ(*theirs_->track_geojson(track), own_track);
    ASSERT_TRUE(take_bundle(*theirs_, file_, clashes));
    EXPECT_EQ(theirs_->run(id)->driver, "Osei");
    EXPECT_EQ(theirs_->car_sheets().value()[0].values[0].value, "775");
    EXPECT_EQ(theirs_->aliases().value().at("pbrkva"), "brake_front");
    EXPECT_EQ(*theirs_->track_geojson(track), *mine_->track_geojson(*mine_->find_track("Oval").value()));
}

TEST_F(BundleTest, OddNotesAndLapTimesAreLeftOutAndHarmNothing) {
    ASSERT_TRUE(mine_->add_picture_note(run_, {0, 12.5, "speed", "kept"}));
    const auto file = folder_ / "odd.zip";
    ASSERT_TRUE(write_bundle(*mine_, {.runs = {run_}}, file));
    auto zip = ZipReader::open(file);
    ASSERT_TRUE(zip);
    std::string text = *zip->text("bundle.json", 1 << 24);
    const auto at = text.find("\"picture_notes\"");
    ASSERT_NE(at, std::string::npos);
    const auto list = text.find('[', at), end = text.find(']', list);
    const std::string odd =
        R"([{"at_s": 12.5, "channel": "speed", "text": "kept"}, 7, null, "note", {}, {"at_s": "soon", "text": "no time"},)"
        R"( {"at_s": 1e999, "text": "never"}, {"at_s": 3, "channel": 5, "text": "a map's"}, {"at_s": 4, "channel": "x"},)"
        R"( {"at_s": 5, "text": ["list"]}], "official_laps": [{"number": 1, "time_s": 33.5}, {"number": 1, "time_s": 9},)"
        R"( {"number": -2, "time_s": 33}, {"number": 3, "time_s": -1}, {"number": 4}, 8, {"number": 1e30, "time_s": 5}])";
    text.replace(list, end - list + 1, odd);
    const auto read = bundle_from_json(text, "odd");
    if (!read) {  // 1e999 is no number that JSON has
        EXPECT_FALSE(read.error().message.empty());
        text.replace(text.find("1e999"), 5, "1e99 ");
    }
    const auto again = bundle_from_json(text, "odd");
    ASSERT_TRUE(again) << again.error().text();
    const BundleRun& run = again->runs[0];
    std::set<std::string> texts;
    for (const PictureNote& note : run.picture_notes) {
        texts.insert(note.text);
        EXPECT_TRUE(std::isfinite(note.at_s));
        EXPECT_FALSE(note.text.empty());
    }
    EXPECT_TRUE(texts.contains("kept"));
    EXPECT_TRUE(texts.contains("a map's"));
    EXPECT_FALSE(texts.contains("list"));
    ASSERT_EQ(run.official_laps.size(), 1U);
    EXPECT_EQ(run.official_laps[0], (OfficialLap{1, 33.5})) << "the first of two, and none that cannot be";
}

TEST_F(BundleTest, FreshThingsCanBeLeftOut) {
    std::set<std::string> leave;
    for (const auto& [key, item] : preview(*theirs_)) {
        if (item.kind != BundleItem::Kind::track) leave.insert(key);
    }
    const auto taken = take_bundle(*theirs_, file_, {}, leave);
    ASSERT_TRUE(taken);
    EXPECT_TRUE(theirs_->runs().value().empty());
    EXPECT_TRUE(theirs_->car_sheets().value().empty());
    EXPECT_EQ(theirs_->tracks().value().size(), 1U);
}

TEST_F(BundleTest, UnsafePathsAreRefusedWhole) {
    for (const char* path : {"../evil.txt", "/etc/evil", "tracks/../../evil", "a\\..\\evil", "C:evil"}) {
        const auto bad = folder_ / "bad.zip";
        std::filesystem::copy_file(file_, bad, std::filesystem::copy_options::overwrite_existing);
        set_entry(bad, path, "evil");
        const auto items = preview_bundle(*theirs_, bad);
        ASSERT_FALSE(items) << path;
        EXPECT_NE(items.error().message.find("would leave its folder"), std::string::npos);
        EXPECT_FALSE(take_bundle(*theirs_, bad));
        EXPECT_TRUE(theirs_->runs().value().empty());
    }
    for (const char* good : {"bundle.json", "recordings/a.h5", "notes/", "a/b/c.txt"})
        EXPECT_TRUE(is_safe_zip_path(good)) << good;
    for (const char* bad : {"", "/", "..", "./a", "a//b", "a/..", "a/./b"}) EXPECT_FALSE(is_safe_zip_path(bad)) << bad;
}

TEST_F(BundleTest, DamagedAndForgedBundlesAreRefusedAndLeaveNothing) {
    const std::string bytes = read_all(file_);
    for (std::size_t cut = 0; cut < 10; ++cut) {
        const auto broken = folder_.write("broken.zip", bytes.substr(0, bytes.size() * cut / 10));
        EXPECT_FALSE(preview_bundle(*theirs_, broken));
    }
    // A recording that is not what the bundle says.
    const auto forged = folder_ / "forged.zip";
    std::filesystem::copy_file(file_, forged);
    set_entry(forged, "recordings/" + mine_->run(run_)->digest + ".rdk.h5",
              read_all(folder_ / "mine" / mine_->run(other_)->recording_file));
    const auto taken = take_bundle(*theirs_, forged);
    ASSERT_FALSE(taken);
    EXPECT_NE(taken.error().message.find("digest differs"), std::string::npos) << taken.error().text();
    EXPECT_TRUE(theirs_->runs().value().empty());
    EXPECT_TRUE(std::filesystem::is_empty(folder_ / "theirs/recordings"));
    set_entry(forged, "bundle.json", "{\"rendak_bundle\": 99}");
    EXPECT_EQ(preview_bundle(*theirs_, forged).error().code, ErrorCode::too_new);
    set_entry(forged, "bundle.json", "[]");
    EXPECT_EQ(preview_bundle(*theirs_, forged).error().code, ErrorCode::bad_input);
    EXPECT_FALSE(preview_bundle(*theirs_, folder_ / "nowhere.zip"));
}

TEST_F(BundleTest, CancelLeavesNoBundleAndNoHalfRun) {
    std::stop_source stop;
    stop.request_stop();
    EXPECT_FALSE(write_bundle(*mine_, {.runs = {run_}}, folder_ / "no.zip", {stop.get_token(), {}}));
    EXPECT_FALSE(std::filesystem::exists(folder_ / "no.zip"));
    EXPECT_FALSE(take_bundle(*theirs_, file_, {}, {}, {stop.get_token(), {}}));
    EXPECT_TRUE(theirs_->runs().value().empty());
    EXPECT_FALSE(write_bundle(*mine_, {.runs = {}}, folder_ / "no.zip"));
    EXPECT_FALSE(write_bundle(*mine_, {.runs = {{99}}}, folder_ / "no.zip"));
}

TEST_F(BundleTest, FormulaSetsGoAlongAndClashesAreShown) {
    using formula::FormulaSet;
    using formula::Scope;
    const auto put = [](Library& library, const FormulaSet& set) {
        ASSERT_TRUE(library.add_formula_version(set.name, formula::set_to_json(set), ""));
    };
    put(*mine_, {"Ours", {}, "", {{"pace", "km/h", "speed * 2", ""}}});
    put(*mine_, {"Of the car", {Scope::Kind::car, "27"}, "", {{"push", "", "speed * 3", ""}}});
    put(*mine_, {"Of another car", {Scope::Kind::car, "99"}, "", {{"pull", "", "speed * 4", ""}}});
    ASSERT_TRUE(write_bundle(*mine_, {.runs = {run_}}, file_));
    auto items = preview(*theirs_);
    EXPECT_EQ(items.at("formulas:Ours").state, State::fresh);
    EXPECT_EQ(items.at("formulas:Of the car").state, State::fresh);
    EXPECT_FALSE(items.contains("formulas:Of another car"));
    put(*theirs_, {"Ours", {}, "", {{"pace", "km/h", "speed * 5", ""}, {"only_theirs", "", "speed", ""}}});
    items = preview(*theirs_);
    EXPECT_EQ(items.at("formulas:Ours").state, State::clash);
    ASSERT_TRUE(take_bundle(*theirs_, file_));
    EXPECT_EQ(theirs_->formula_history("Ours").value().size(), 1u);  // never overwritten unasked
    EXPECT_EQ(theirs_->formula_history("Of the car").value().size(), 1u);
    ASSERT_TRUE(take_bundle(*theirs_, file_, {"formulas:Ours"}));
    const auto versions = theirs_->formula_history("Ours").value();
    ASSERT_EQ(versions.size(), 2u);
    const auto now = formula::set_from_json(versions[0].content, "");
    EXPECT_EQ(now->find("pace")->text, "speed * 2");
    EXPECT_NE(now->find("only_theirs"), nullptr);
    EXPECT_EQ(preview(*theirs_).at("formulas:Ours").state, State::same);
}
