#include <gtest/gtest.h>

#include <cmath>

#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "core/intake/sign_check.h"
#include "core/laps/cut.h"
#include "core/laps/gap.h"
#include "core/recording/csv_writer.h"
#include "demo/sensors.h"
#include "demo/write_demo.h"
#include "tests/support/demo_data.h"
#include "tests/support/demo_world.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::demo_world;
using rendak::test::TempFolder;

namespace {

bool is_said(const std::vector<std::string>& notes, const std::string& words) {
    for (const auto& note : notes) {
        if (note.find(words) != std::string::npos) return true;
    }
    return false;
}

}  // namespace

TEST(Intake, ARunWithoutGpsIsLearntAsAShapeAndTheNextOneIsRecognised) {
    const TempFolder folder;
    auto library = std::move(*Library::open(folder / "lib"));
    const auto blind = [](std::size_t r) {
        Recording out = *demo_world().runs[r].recording;
        std::erase_if(out.channels, [](const Channel& channel) {
            return channel.quantity == "latitude" || channel.quantity == "longitude" || channel.quantity == "altitude";
        });
        out.digest.clear();
        return out;
    };
    const auto first = import_recording(*library, {blind(0), {}}, {});
    ASSERT_TRUE(first) << first.error().text();
    EXPECT_TRUE(is_said(first->notes, "the track's shape can be learnt"));
    const auto counted = library->laps(first->run).value();
    EXPECT_TRUE(std::any_of(counted.begin(), counted.end(), [](const Lap& lap) { return lap.counts(); }))
        << "until then its laps are the logger's";
    EXPECT_EQ(counted[1].trust_m, 0) << "they have no places";
    const auto learnt = learn_track_from_run(*library, first->run, "Shape", {});
    ASSERT_TRUE(learnt) << learnt.error().text();
    EXPECT_EQ(library->laps(first->run).value().size(), 6U);
    const auto second = import_recording(*library, {blind(2), {}}, {});
    ASSERT_TRUE(second);
    EXPECT_TRUE(is_said(second->notes, "placed on Shape by its bends (shape only)"));
    const auto laps = library->laps(second->run).value();
    ASSERT_EQ(laps.size(), 9U);
    EXPECT_GT(laps[2].trust_m, 2.5);
    EXPECT_NE(laps[2].reason.find("places are good to"), std::string::npos);
    const auto run = load_run(*library, second->run);
    ASSERT_TRUE(run);
    ASSERT_TRUE((*run)->path);
    EXPECT_TRUE((*run)->path->by_shape);
    EXPECT_TRUE(prepare_lap(**run, 2));
    // A run with positions is not taken for this one: a shape has no place on earth.
    const auto placed = import_recording(*library, {*demo_world().runs[1].recording, {}}, {});
    ASSERT_TRUE(placed);
    EXPECT_FALSE(library->run(placed->run)->track);
}

TEST(Intake, AForeignCircuitFromTableToGap) {
    const TempFolder folder;
    const auto oval = test::oval_table(5, 10, 40);
    auto library = Library::open(folder / "lib");
    ASSERT_TRUE(library);
    const auto run = import_file(**library, folder.write("oval.csv", oval.text), {});
    ASSERT_TRUE(run) << run.error().text();
    EXPECT_TRUE((*library)->laps(run->run).value().empty());
    EXPECT_TRUE(is_said(run->notes, "learn the track"));
    const auto learnt = learn_track_from_run(**library, run->run, "Oval",
                                             StartPlace{{oval.start_latitude_deg, oval.start_longitude_deg}, 0});
    ASSERT_TRUE(learnt) << learnt.error().text();
    const auto laps = (*library)->laps(run->run).value();
    ASSERT_EQ(laps.size(), 7U);
    EXPECT_EQ(laps.front().kind, LapKind::part);
    EXPECT_EQ(laps.back().kind, LapKind::part);
    for (std::size_t i = 1; i + 1 < laps.size(); ++i) {
        EXPECT_EQ(laps[i].kind, LapKind::flying);
        EXPECT_NEAR(laps[i].time_s(), oval.lap_s, 0.002);
        EXPECT_NEAR(laps[i].length_m, oval.lap_s * 40, 2);
    }
    const auto data = load_run(**library, run->run);
    ASSERT_TRUE(data);
    const auto a = prepare_lap(**data, 1), b = prepare_lap(**data, 3);
    ASSERT_TRUE(a && b);
    for (const double g : gap_between(a->map, b->map).gap_s) EXPECT_NEAR(g, 0, 0.004) << "even speed: no gap anywhere";
    EXPECT_FALSE(prepare_lap(**data, 0)) << "a part lap cannot be compared";
    EXPECT_NE((*data)->recording->find("lateral_acceleration"), nullptr) << "added from the path";
    EXPECT_NEAR((*data)->recording->find("lateral_acceleration")->value_at(laps[1].start_s + (250 + 125.0) / 40),
                40.0 * 40 / 80, 0.8)
        << "left turn: positive";
}

TEST(Intake, RecordingsThatStartAndEndOnTheLineLoseNoLap) {
    const TempFolder folder;
    const auto oval = test::oval_table(3, 20, 40, 0);
    auto library = Library::open(folder / "lib");
    const auto run = import_file(**library, folder.write("oval.csv", oval.text), {});
    ASSERT_TRUE(run);
    ASSERT_TRUE(learn_track_from_run(**library, run->run, "Oval",
                                     StartPlace{{oval.start_latitude_deg, oval.start_longitude_deg}, 0}));
    int flying = 0;
    for (const Lap& lap : test::got((*library)->laps(run->run))) flying += lap.kind == LapKind::flying;
    EXPECT_GE(flying, 2);
}

TEST(Intake, TheTrackIsRecognisedOnTheNextImport) {
    const TempFolder folder;
    auto library = Library::open(folder / "lib");
    const auto first = import_file(**library, folder.write("a.csv", test::oval_table(4, 20, 40).text), {});
    const auto oval = test::oval_table(3, 20, 35);
    ASSERT_TRUE(learn_track_from_run(**library, first->run, "Oval",
                                     StartPlace{{oval.start_latitude_deg, oval.start_longitude_deg}, 0}));
    const auto second = import_file(**library, folder.write("b.csv", oval.text), {});
    ASSERT_TRUE(second);
    EXPECT_TRUE(is_said(second->notes, "Recognised the track by position: Oval"));
    const auto laps = (*library)->laps(second->run).value();
    const Lap* best = best_lap(laps);
    ASSERT_NE(best, nullptr);
    EXPECT_NEAR(best->time_s(), oval.lap_s, 0.002);
    EXPECT_EQ((*library)->run(second->run)->event, "Oval");
}

TEST(Intake, SameBytesTwiceIsOneRun) {
    const TempFolder folder;
    auto library = Library::open(folder / "lib");
    const auto text = test::oval_table(2, 10).text;
    const auto a = import_file(**library, folder.write("a.csv", text), {}),
               b = import_file(**library, folder.write("b.csv", text), {});
    ASSERT_TRUE(a && b);
    EXPECT_TRUE(b->already_there);
    EXPECT_EQ(a->run, b->run);
    EXPECT_EQ((*library)->runs().value().size(), 1U);
}

TEST(Intake, UnknownTrackNameIsRefusedAndNothingIsFiled) {
    const TempFolder folder;
    auto library = Library::open(folder / "lib");
    ImportOptions options;
    options.track = "Nowhere";
    const auto run = import_file(**library, folder.write("a.csv", test::oval_table(2, 10).text), options);
    ASSERT_FALSE(run);
    EXPECT_EQ(run.error().code, ErrorCode::not_found);
    EXPECT_TRUE((*library)->runs().value().empty());
}

TEST(Intake, PositionsAtZeroZeroAreMissing) {
    const TempFolder folder;
    auto library = Library::open(folder / "lib");
    std::string some = "time,lat,lon,speed [m/s]\n", all = some;
    for (int i = 0; i < 200; ++i) {
        const std::string t = std::to_string(i * 0.1);
        some += t + (i < 50 ? ",0,0,5\n" : "," + std::to_string(57 + i * 1e-5) + ",4.5,11\n");
        all += t + ",0.0,0.0,5\n";
    }
    const auto a = import_file(**library, folder.write("a.csv", some), {});
    ASSERT_TRUE(a);
    EXPECT_TRUE(is_said(a->notes, "50 positions are 0/0"));
    EXPECT_TRUE(std::isnan((*(*library)->open_run(a->run))->find("latitude")->at(10)));
    const auto b = import_file(**library, folder.write("b.csv", all), {});
    ASSERT_TRUE(b);
    EXPECT_TRUE(is_said(b->notes, "hold no position"));
    const auto learnt = learn_track_from_run(**library, b->run, "x", {});
    ASSERT_FALSE(learnt);
    EXPECT_FALSE(learnt.error().message.empty());
}

TEST(Intake, OppositeSignsAreFoundAndTurnedRound) {
    const auto& world = demo_world();
    EXPECT_TRUE(opposite_signs(*world.runs[1].recording, *world.runs[1].path).empty());
    const Recording wrong =
        with_flipped(*world.runs[1].recording, {"lateral_acceleration", "steering", "longitudinal_acceleration"});
    const auto found = opposite_signs(wrong, *world.runs[1].path);
    EXPECT_EQ(found, (std::vector<std::string>{"lateral_acceleration", "steering", "longitudinal_acceleration"}));

    const TempFolder folder;
    ASSERT_TRUE(
        write_csv(demo::pocket_logger(world.circuit, world.runs[1].plan, world.runs[1].drive), folder / "pocket.csv"));
    auto library = Library::open(folder / "lib");
    const auto run = import_file(**library, folder / "pocket.csv", {});
    ASSERT_TRUE(run);
    EXPECT_TRUE(is_said(run->notes, "Lateral is logged with the opposite sign; it is turned round so that up = left"));
    EXPECT_EQ((*library)->flipped_quantities(run->run).value(), (std::vector<std::string>{"lateral_acceleration"}));
    const auto data = load_run(**library, run->run);
    const auto original = (*library)->open_run(run->run);
    EXPECT_EQ((*data)->recording->find("lateral_acceleration")->at(4000),
              -(*original)->find("lateral_acceleration")->at(4000));
}

TEST(Intake, CancelledImportLeavesTheLibraryAsItWas) {
    const TempFolder folder;
    auto library = Library::open(folder / "lib");
    const auto file = folder.write("a.csv", test::oval_table(5, 50).text);
    for (const int stop_after : {0, 1, 2, 3}) {
        std::stop_source source;
        int reports = 0;
        if (stop_after == 0) source.request_stop();
        const JobContext job{source.get_token(), [&](double) {
                                 if (++reports == stop_after) source.request_stop();
                             }};
        const auto run = import_file(**library, file, {}, job);
        ASSERT_FALSE(run) << stop_after;
        EXPECT_EQ(run.error().code, ErrorCode::cancelled);
        EXPECT_TRUE((*library)->runs().value().empty());
        EXPECT_TRUE(std::filesystem::is_empty(folder / "lib/recordings"));
    }
    EXPECT_TRUE(import_file(**library, file, {}));
}

TEST(Demo, IsWrittenTheSameEveryTimeAndOnce) {
    RENDAK_FIGURES_ONLY("demo.saturday");
    const TempFolder a, b;
    test::copy_library(test::saturday_library(), a.path());
    ASSERT_TRUE(demo::write_demo(b.path(), {}, {.sunday = false, .waiting = false, .films = false}));
    for (const char* file :
         {"card/REC0001.MF4", "card/REC0002.MF4", "card/REC0003.MF4", "card/REC0004.MF4", "card/REC0005.MF4",
          "card/REC0006.MF4", "saturday-run-2-pocket.csv", "saturday-run-3-phone.gpx"}) {
        EXPECT_TRUE(std::filesystem::exists(a.path() / "demo-files" / file)) << file;
        EXPECT_EQ(test::read_all(a.path() / "truth/saturday-run-2.json"),
                  test::read_all(b.path() / "truth/saturday-run-2.json"));
    }
    const auto first = Library::open(a.path()), second = Library::open(b.path());
    ASSERT_EQ((*first)->runs().value().size(), 3U);
    for (std::size_t i = 0; i < 3; ++i)
        EXPECT_EQ((*first)->runs().value()[i].digest, (*second)->runs().value()[i].digest)
            << "same content on every write";
    ASSERT_TRUE(demo::write_demo(a.path(), {}, {.sunday = false, .waiting = false, .films = false}));
    EXPECT_EQ((*first)->runs().value().size(), 3U) << "writing again adds nothing";
}
