// The command line as a person or a script uses it: JSON on standard output, messages on standard error, exit codes.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>
#include <set>

#include "demo/stand_in.h"
#include "tests/support/demo_data.h"
#include "tests/support/figures_only.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

using nlohmann::json;
using rendak::test::oval_table;
using rendak::test::own_cli;
using rendak::test::read_all;
using rendak::test::TempFolder;

namespace {

struct Outcome {
    int code;
    std::string out, err;
    [[nodiscard]] json value() const { return json::parse(out); }
};

class Cli : public testing::Test {
  protected:
    Outcome run(const std::string& arguments) {
        const auto err = folder_ / "stderr.txt";
        const std::string command =
            own_cli() + " --library " + (folder_ / "lib").string() + " " + arguments + " 2>" + err.string();
        std::FILE* pipe = ::popen(command.c_str(), "r");
        Outcome outcome{-1, "", ""};
        std::array<char, 4096> buffer{};
        while (const auto n = std::fread(buffer.data(), 1, buffer.size(), pipe)) outcome.out.append(buffer.data(), n);
        outcome.code = WEXITSTATUS(::pclose(pipe));
        outcome.err = read_all(err);
        return outcome;
    }
    /// The demo as the program writes it.
    [[nodiscard]] std::filesystem::path weekend() const {
        rendak::test::copy_library(rendak::test::weekend_library(), folder_ / "demo");
        return folder_ / "demo";
    }
    TempFolder folder_;
};

}  // namespace

TEST_F(Cli, AForeignTableGoesAllTheWay) {
    const auto oval = oval_table(4, 10, 45);
    const auto file = folder_.write("oval.csv", oval.text);
    const auto imported = run("import " + file.string() + " --driver Osei --car 27");
    ASSERT_EQ(imported.code, 0) << imported.err;
    EXPECT_EQ(imported.value()[0]["run"], 1);
    EXPECT_NE(imported.err.find("taken as m/s by the distance between positions"), std::string::npos);

    const auto channels = run("channels --run 1").value();
    ASSERT_EQ(channels.size(), 3U);
    EXPECT_EQ(channels[2]["quantity"], "speed");
    EXPECT_EQ(channels[2]["rate_hz"], 10);

    const auto early = run("laps --run 1");
    EXPECT_EQ(early.code, 0);
    EXPECT_TRUE(early.value().empty());
    EXPECT_NE(early.err.find("no track yet"), std::string::npos);

    const auto learnt = run("track learn --run 1 --name Oval --start " + std::to_string(oval.start_latitude_deg) + "," +
                            std::to_string(oval.start_longitude_deg) + ",0");
    ASSERT_EQ(learnt.code, 0) << learnt.err;
    EXPECT_NEAR(learnt.value()["length_m"].get<double>(), oval.lap_s * 45, 1);
    EXPECT_EQ(learnt.value()["corners"].size(), 2U);
    EXPECT_EQ(run("track list").value()[0]["track"], "Oval");

    const auto laps = run("laps --run 1").value();
    ASSERT_EQ(laps.size(), 6U);
    EXPECT_EQ(laps[1]["kind"], "flying");
    EXPECT_NEAR(laps[1]["time_s"].get<double>(), oval.lap_s, 0.002);
    for (const char* field : {"lap", "kind", "included", "start_s", "time_s", "length_m"})
        EXPECT_TRUE(laps[0].contains(field)) << field;

    const auto gap = run("gap --baseline 1:1 --lap 1:2 --step 25").value();
    ASSERT_EQ(gap["distance_m"].size(), gap["gap_s"].size());
    EXPECT_EQ(gap["gap_s"].front(), 0.0);
    EXPECT_NEAR(gap["gap_s"].back().get<double>(), laps[2]["time_s"].get<double>() - laps[1]["time_s"].get<double>(),
                1e-3);

    const auto runs = run("runs").value();
    EXPECT_EQ(runs[0]["driver"], "Osei");
    EXPECT_EQ(runs[0]["flying_laps"], 4);
}

TEST_F(Cli, ImportingTwiceIsSaidAndIsNoFailure) {
    const auto file = folder_.write("oval.csv", oval_table(2, 10).text);
    ASSERT_EQ(run("import " + file.string()).code, 0);
    const auto again = run("import " + file.string());
    EXPECT_EQ(again.code, 0);
    EXPECT_TRUE(again.value()[0]["already_in_library"].get<bool>());
    EXPECT_EQ(run("runs").value().size(), 1U);
}

TEST_F(Cli, AnImportAsksAndTakesAnswers) {
    std::string text = "time,Speed,Brake\n";
    for (int i = 0; i < 60; ++i)
        text += std::to_string(i / 10) + "." + std::to_string(i % 10) + "," + std::to_string(90 + i) + "," +
                std::to_string(i % 60) + "\n";
    const std::string file = folder_.write("open.csv", text).string();
    const auto asked = run("import " + file);
    EXPECT_EQ(asked.code, 1);
    const json questions = asked.value()[0]["questions"];
    ASSERT_EQ(questions.size(), 2U) << asked.out;
    EXPECT_TRUE(run("runs").value().empty()) << "nothing before the answers";
    std::string takes;
    for (const auto& question : questions)
        takes += " --take '" + question["answers"][1]["take"][0].get<std::string>() + "'";
    const auto taken = run("import " + file + takes);
    ASSERT_EQ(taken.code, 0) << taken.err;
    const auto channels = run("channels --run 1").value();
    EXPECT_EQ(channels[0]["source_unit"], "mph");
    EXPECT_EQ(channels[1]["quantity"], "brake_front");
    EXPECT_EQ(run("import " + file + " --take Speed=quickness:mph").code, 2);
    const auto kept = run("import " + file + " --keep-unanswered");
    ASSERT_EQ(kept.code, 0) << kept.err;
    EXPECT_TRUE(run("channels --run 2").value()[0]["quantity"].is_null());
}

TEST_F(Cli, BackupBestLapsAndResults) {
    const auto oval = oval_table(4, 10, 45);
    ASSERT_EQ(run("import " + folder_.write("oval.csv", oval.text).string() + " --driver Osei --air 21.5").code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval --start " + std::to_string(oval.start_latitude_deg) + "," +
                  std::to_string(oval.start_longitude_deg) + ",0")
                  .code,
              0);
    EXPECT_EQ(run("runs").value()[0]["air_c"], 21.5);
    const auto best = run("library best --driver Osei");
    ASSERT_EQ(best.value().size(), 1U) << best.err;
    EXPECT_NEAR(best.value()[0]["time_s"].get<double>(), oval.lap_s, 0.002);
    const auto backup = run("library backup --to " + (folder_ / "backup").string());
    ASSERT_EQ(backup.code, 0) << backup.err;
    EXPECT_EQ(run("library backup --to " + (folder_ / "backup").string()).value()["copied"], 0);
    const auto results = folder_.write(
        "results.csv", "Lap,Lap time\n1," + std::to_string(oval.lap_s) + "\n2," + std::to_string(oval.lap_s) + "\n");
    const auto held = run("results import " + results.string() + " --run 1");
    ASSERT_EQ(held.code, 0) << held.err;
    EXPECT_EQ(held.value()["matched"], 2);
}

TEST_F(Cli, ExportsReadBack) {
    ASSERT_EQ(run("import " + folder_.write("oval.csv", oval_table(2, 10).text).string()).code, 0);
    ASSERT_EQ(run("export --run 1 --format h5 --out " + (folder_ / "o.rdk.h5").string()).code, 0);
    ASSERT_EQ(run("export --run 1 --format csv --out " + (folder_ / "o.csv").string()).code, 0);
    EXPECT_TRUE(run("import " + (folder_ / "o.rdk.h5").string()).value()[0]["already_in_library"].get<bool>())
        << "the recording file keeps every bit";
    EXPECT_EQ(read_all(folder_ / "o.csv").substr(0, 34), "Time,latitude,longitude,speed\ns,de");
}

TEST_F(Cli, LapsAreSwitchedWithAReason) {
    const auto oval = oval_table(3, 10);
    ASSERT_EQ(run("import " + folder_.write("oval.csv", oval.text).string()).code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0) << "a start line is suggested";
    const auto laps = run("lap --lap 1:1 --out --reason traffic");
    ASSERT_EQ(laps.code, 0) << laps.err;
    EXPECT_FALSE(laps.value()[1]["included"].get<bool>());
    EXPECT_EQ(laps.value()[1]["reason"], "traffic");
}

TEST_F(Cli, NotesSwitchNothingAndBothCanBeSaidAtOnce) {
    const auto oval = oval_table(3, 10);
    ASSERT_EQ(run("import " + folder_.write("oval.csv", oval.text).string()).code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0);
    const auto noted = run("lap --lap 1:1 --note 'a tow'");
    ASSERT_EQ(noted.code, 0) << noted.err;
    EXPECT_EQ(noted.value()[1]["note"], "a tow");
    EXPECT_TRUE(noted.value()[1]["counts"].get<bool>());
    EXPECT_FALSE(noted.value()[1]["switched_by_hand"].get<bool>());
    const auto both = run("lap --lap 1:1 --out --reason 'locked up' --note ''").value();
    EXPECT_EQ(both[1]["note"], "");
    EXPECT_EQ(both[1]["reason"], "locked up");
    EXPECT_FALSE(both[1]["counts"].get<bool>());
    EXPECT_EQ(run("lap --lap 1:1").code, 2) << "nothing was asked for";
    EXPECT_EQ(run("lap --lap 1:77 --note x").code, 1);
    const auto sections = run("sections --runs 1").value();
    EXPECT_NE(sections["not_counted"].get<std::string>().find("1 lap left out"), std::string::npos)
        << sections["not_counted"];
}

TEST_F(Cli, TablesMixDriversOnlyWhenAsked) {
    const auto first = folder_.write("a.csv", oval_table(4, 10, 40).text),
               second = folder_.write("b.csv", oval_table(4, 10, 44).text);
    ASSERT_EQ(run("import " + first.string() + " --driver Osei").code, 0);
    ASSERT_EQ(run("import " + second.string() + " --driver Brandvold").code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0);
    const auto alone = run("ideal --runs 1,2"), mixed = run("ideal --runs 1,2 --mixed");
    ASSERT_EQ(alone.code, 0) << alone.err;
    EXPECT_EQ(alone.value()["best"]["lap"].get<std::string>().substr(0, 2), "1:");
    EXPECT_EQ(mixed.value()["best"]["lap"].get<std::string>().substr(0, 2), "2:") << "Brandvold is quicker";
    EXPECT_NE(alone.value()["not_counted"].get<std::string>().find("of other drivers or cars"), std::string::npos);
    EXPECT_EQ(mixed.value()["not_counted"], "");
}

TEST_F(Cli, StopsAndOverlaysNeedNoPlaces) {
    // Two loggers in one car, the second switched on 12 s later; a stop of 20 s on the way, laps by the counter.
    const auto table = [](double late_s) {
        std::string text = "Time [s],Speed [km/h],Lap\n";
        for (int i = 0; i < 4000; ++i) {
            const double t = i * 0.1 + late_s;
            const double moving = 130 + 40 * std::sin(t / 3.3) + 30 * std::sin(t / 7.9 + 1);
            text += std::to_string(i * 0.1) + "," + std::to_string(t > 200 && t < 220 ? 0 : moving) + "," +
                    std::to_string(static_cast<int>(t / 80)) + "\n";
        }
        return text;
    };
    ASSERT_EQ(run("import " + folder_.write("a.csv", table(0)).string()).code, 0);
    ASSERT_EQ(run("import " + folder_.write("b.csv", table(12)).string()).code, 0);
    const auto laps = run("laps --run 1").value();
    ASSERT_EQ(laps.size(), 5U);
    EXPECT_EQ(laps[2]["kind"], "stopped");
    const auto stops = run("stops --run 1").value();
    ASSERT_EQ(stops.size(), 1U);
    EXPECT_NEAR(stops[0]["standing_s"].get<double>(), 20, 0.4);
    EXPECT_EQ(stops[0]["lap"], 2);
    const auto overlay = run("overlay --baseline 1 --run 2");
    ASSERT_EQ(overlay.code, 0) << overlay.err;
    EXPECT_NEAR(overlay.value()["shift_s"].get<double>(), 12, 0.05);
    EXPECT_EQ(overlay.value()["by"], "speed");
    EXPECT_EQ(run("overlay --baseline 1 --run 9").code, 1);
    EXPECT_EQ(run("stops --run 9").code, 1);
}

TEST_F(Cli, FailuresExitWithOneAndASentence) {
    EXPECT_EQ(run("runs").code, 1) << "no library yet";
    EXPECT_EQ(run("import /nowhere/x.csv").code, 1);
    const auto bad = run("import " + folder_.write("bad.csv", "no table at all\n").string());
    EXPECT_EQ(bad.code, 1);
    EXPECT_NE(bad.err.find("bad.csv: No table of numbers"), std::string::npos) << bad.err;
    EXPECT_EQ(run("runs").value().size(), 0U) << "nothing is half-imported";
    EXPECT_EQ(run("laps --run 5").code, 1);
    EXPECT_EQ(run("gap --baseline 1:1 --lap 1:2").code, 1);
}

TEST_F(Cli, WrongUseExitsWithTwo) {
    EXPECT_EQ(run("").code, 2);
    EXPECT_EQ(run("fly").code, 2);
    EXPECT_EQ(run("laps").code, 2);
    EXPECT_EQ(run("laps --run x").code, 2);
    EXPECT_EQ(run("gap --baseline one --lap two").code, 2);
    EXPECT_EQ(run("export --run 1 --format pdf --out x").code, 2);
    EXPECT_EQ(run("track learn --run 1 --name x --start here").code, 2);
    EXPECT_EQ(run("--help").code, 0);
}

TEST_F(Cli, TheDemoTellsWhereTheTimeIs) {
    const auto demo = weekend();
    const auto runs = run("--library " + demo.string() + " runs").value();
    ASSERT_EQ(runs.size(), 17U);
    const auto a = "2:" + std::to_string(runs[1]["best_lap"].get<int>()),
               b = "3:" + std::to_string(runs[2]["best_lap"].get<int>());
    const auto where = run("--library " + demo.string() + " where --baseline " + a + " --lap " + b).value();
    double most = 0;
    int corner = 0;
    for (const auto& zone : where) {
        if (zone["loss_s"].get<double>() <= most) continue;
        most = zone["loss_s"];
        corner = zone["corner"];
    }
    EXPECT_EQ(corner, 5);
}

TEST_F(Cli, TheLedgerOfTwoRunsAddsUpAndItsFindingsHavePlaces) {
    const std::string demo = "--library " + weekend().string() + " ";
    const auto two = run(demo + "ledger --a 2:best --b 3:1");
    ASSERT_EQ(two.code, 0) << two.err;
    const json laps = two.value();
    EXPECT_TRUE(laps["low_s"].is_null()) << "one lap against one says nothing of how sure";
    const auto sum = [](const json& ledger, const char* field) {
        double out = 0;
        for (const json& row : ledger["rows"]) out += row[field].get<double>();
        return out;
    };
    EXPECT_NEAR(sum(laps, "loss_s"), laps["total_s"], 1e-3);
    EXPECT_NEAR(sum(laps, "here_s"), laps["total_s"], 1e-3);
    const auto sets = run(demo + "ledger --a 2 --b 3");
    ASSERT_EQ(sets.code, 0) << sets.err;
    const json runs = sets.value();
    EXPECT_EQ(runs["a"].size(), 8U);
    EXPECT_EQ(runs["b"].size(), 5U);
    EXPECT_NEAR(sum(runs, "loss_s"), runs["total_s"], 1e-3);
    EXPECT_LT(runs["low_s"], runs["total_s"]);
    EXPECT_GT(runs["high_s"], runs["total_s"]);
    const json& fifth = runs["rows"][5];
    EXPECT_EQ(fifth["corner"], 5);
    EXPECT_EQ(fifth["seen_on"], 5);
    EXPECT_EQ(fifth["of"], 5);
    EXPECT_GT(fifth["low_s"], 0.5);
    EXPECT_NEAR(fifth["own_s"].get<double>() + fifth["carried_s"].get<double>() + fifth["pull_s"].get<double>(),
                fifth["loss_s"], 1e-6);
    double phases = 0;
    for (const auto& [name, value] : fifth["phases"].items()) phases += value.get<double>();
    EXPECT_NEAR(phases, fifth["loss_s"], 1e-6);

    const json found = run(demo + "findings --a 2 --b 3").value();
    const auto of_kind = [&](const char* kind) {
        std::vector<int> corners;
        for (const json& it : found["findings"]) {
            if (it["kind"] == kind) corners.push_back(it["corner"]);
            EXPECT_FALSE(it["text"].get<std::string>().empty());
            EXPECT_EQ(it["of"], 5);
        }
        return corners;
    };
    const auto early = of_kind("brakes_early"), lifts = of_kind("lifts");
    EXPECT_NE(std::find(early.begin(), early.end(), 5), early.end());
    EXPECT_NE(std::find(lifts.begin(), lifts.end(), 6), lifts.end());

    const json techniques = run(demo + "technique --runs 2:3,4 --run 3:1 --mixed").value();
    ASSERT_EQ(techniques["corners"].size(), 14U);
    ASSERT_EQ(techniques["corners"][4]["laps"].size(), 3U);
    const json &a = techniques["corners"][4]["laps"][1], &b = techniques["corners"][4]["laps"][2];
    EXPECT_NEAR(a["brake_on_m"].get<double>() - b["brake_on_m"].get<double>(), 14, 4);
    EXPECT_GT(a["brake_peak_g"], 1.0);
    EXPECT_TRUE(techniques["corners"][5]["laps"][0]["lift_m"].is_null()) << "flat there";

    const json worth = run(demo + "worth --run 2").value();
    ASSERT_EQ(worth["corners"].size(), 14U);
    for (const json& it : worth["corners"]) {
        EXPECT_GT(it["exit_s_per_kmh"], 0);
        EXPECT_GE(it["slowest_s_per_kmh"], it["exit_s_per_kmh"]);
    }
    EXPECT_TRUE(run(demo + "lockups --run 2").value()["events"].is_array());
    int off = 0;
    for (int lap = 1; lap <= 8; ++lap) {
        const auto answer = run(demo + "excursions --lap 3:" + std::to_string(lap));
        if (answer.code != 0) continue;  // there are not as many laps
        const json all = answer.value();
        for (const json& it : all["excursions"]) {
            ++off;
            EXPECT_EQ(it["corner"], 1);
            EXPECT_EQ(it["steps"][3]["answer"], true) << "a wheel locked";
            EXPECT_EQ(it["steps"][0]["answer"], false) << "not too late";
        }
    }
    EXPECT_EQ(off, 1) << "as the demo's plan has it";

    const json list = run(demo + "worklist --a 2 --b 3").value();
    ASSERT_GT(list["places"].size(), 3U);
    EXPECT_EQ(list["places"][0]["corner"], 5);
    EXPECT_EQ(list["places"][0]["effort"], "driver");
    EXPECT_TRUE(list["places"][0]["sure"]);
    EXPECT_FALSE(list["places"][0]["findings"].empty());
    EXPECT_TRUE(found["groups"].get<std::string>().starts_with("Most of it in Turn 5 and Turn 6"));
    EXPECT_TRUE(found["reverse"].is_array());

    // A driver's day is all of his runs of that day.
    const json day = run(demo + "ledger --a 5:day --b 3").value();
    std::set<int> of_day;
    for (const json& lap : day["a"]) of_day.insert(lap["run"].get<int>());
    EXPECT_GT(of_day.size(), 3U) << "Sunday's, and neither Saturday's nor the hill's";
    EXPECT_FALSE(of_day.contains(1) || of_day.contains(2) || of_day.contains(14));

    // What cannot be is said, with what to do.
    const auto mixed = run(demo + "ledger --a 2 --a 3 --b 3");
    EXPECT_EQ(mixed.code, 1);
    EXPECT_NE(mixed.err.find("mixed when asked for"), std::string::npos);
    EXPECT_EQ(run(demo + "ledger --a 2 --a 3 --b 3 --mixed").code, 0);
    EXPECT_NE(run(demo + "ledger --a two --b 3").err.find("Write RUN, RUN:best"), std::string::npos);
    EXPECT_EQ(run(demo + "findings --a 2:77 --b 3").code, 1);
    EXPECT_EQ(run(demo + "worth --run 99").code, 1);
    EXPECT_EQ(run(demo + "ledger --a 2").code, 2);
}

TEST_F(Cli, WorkItemsAreMadeListedAndPutAway) {
    const TempFolder folder;
    rendak::test::copy_library(rendak::test::saturday_library(), folder.path());
    const std::string own = "--library " + folder.path().string() + " ";
    EXPECT_TRUE(run(own + "work").value()["items"].empty());
    const json made = run(own + "work-add --a 2 --b 3 --corner 5 --kind brakes_early").value();
    ASSERT_EQ(made["items"].size(), 1U);
    EXPECT_EQ(made["items"][0]["figure"], "brake_before_apex_m");
    EXPECT_GT(made["items"][0]["from"].get<double>() - made["items"][0]["target"].get<double>(), 8);
    const json list = run(own + "work").value();
    ASSERT_EQ(list["items"].size(), 1U);
    EXPECT_EQ(list["items"][0]["corner"], "Turn 5");
    EXPECT_EQ(list["items"][0]["met"], false);
    EXPECT_NEAR(list["items"][0]["next"].get<double>(), list["items"][0]["target"].get<double>(), 1e-9);
    const std::string id = std::to_string(list["items"][0]["id"].get<int>());
    EXPECT_EQ(run(own + "work-close " + id).code, 0);
    EXPECT_TRUE(run(own + "work").value()["items"].empty());
    EXPECT_EQ(run(own + "work-close " + id + " --reopen").code, 0);
    EXPECT_EQ(run(own + "work").value()["items"].size(), 1U);
    EXPECT_EQ(run(own + "work-close 77").code, 1);
    const auto none = run(own + "work-add --a 2 --b 3 --corner 1 --kind locks_up");
    EXPECT_EQ(none.code, 1);
    EXPECT_NE(none.err.find("no such finding"), std::string::npos) << none.err;
}

TEST_F(Cli, FilmsAreAddedPutInStepAndCut) {
    RENDAK_FIGURES_ONLY("VideoDeskTest and FilmBook");
    const std::string demo = "--library " + weekend().string() + " ";
    const json truth = json::parse(read_all(folder_ / "demo/truth/films.json"));
    const auto list = run(demo + "video list");
    ASSERT_EQ(list.code, 0) << list.err;
    const json films = list.value();
    ASSERT_EQ(films.size(), 4U);
    std::size_t in_step = 0;
    for (const json& film : films) {
        EXPECT_EQ(film["there"], true);
        const std::string name = film["files"][0]["file"];
        for (const json& place : film["places"]) {
            // Within two frames of where it was filmed.
            EXPECT_NEAR(place["offset_s"].get<double>(), truth[name].get<double>(), 0.08) << name << place;
            ++in_step;
        }
    }
    EXPECT_EQ(in_step, 3U);
    // The one that is left to be tried: proposed, and written only when told to.
    const auto proposed = run(demo + "video sync 4 --run 3");
    ASSERT_EQ(proposed.code, 0) << proposed.err;
    EXPECT_NEAR(proposed.value()["offset_s"].get<double>(), truth["saturday-run-3-driver.mp4"].get<double>(), 0.08);
    EXPECT_EQ(proposed.value()["written"], false);
    EXPECT_EQ(run(demo + "video list").value()[3]["places"].size(), 0U);
    // By the camera's own log, and near what is said; the log of another run is refused.
    const std::string log = " --log " + (folder_ / "demo/demo-files/video/saturday-run-3-driver-log.gpx").string();
    const auto by_log = run(demo + "video sync 4 --run 3" + log);
    ASSERT_EQ(by_log.code, 0) << by_log.err;
    EXPECT_NEAR(by_log.value()["offset_s"].get<double>(), truth["saturday-run-3-driver.mp4"].get<double>(), 0.08);
    EXPECT_NE(by_log.value()["why"].get<std::string>().find("the camera's log"), std::string::npos);
    const auto other_log = run(demo + "video sync 4 --run 2" + log);
    EXPECT_EQ(other_log.code, 1);
    EXPECT_NE(other_log.err.find("not of this run"), std::string::npos) << other_log.err;
    EXPECT_EQ(run(demo + "video sync 4 --run 3 --near 122").code, 0);
    EXPECT_EQ(run(demo + "video sync 4 --run 3 --near 90").code, 1) << "nothing goes along there";
    // A film of another run does not lie there.
    EXPECT_EQ(run(demo + "video sync 4 --run 1").code, 1);
    const auto marks = run(demo + "video sync 4 --run 3 --mark 2,125.5 --mark 102,225.51");
    ASSERT_EQ(marks.code, 0) << marks.err;
    EXPECT_NEAR(marks.value()["rate"].get<double>(), 1.0001, 1e-6);
    EXPECT_NEAR(marks.value()["offset_s"].get<double>(), 123.4998, 1e-3);
    const auto nudged = run(demo + "video sync 4 --run 3 --nudge -0.04");
    EXPECT_NEAR(nudged.value()["offset_s"].get<double>(), 123.4598, 1e-3);
    EXPECT_EQ(run(demo + "video sync 4 --run 3 --mark 2,125.5 --mark 60,260").code, 1) << "they contradict each other";
    EXPECT_EQ(run(demo + "video sync 9 --run 3 --offset 1").code, 1);
    EXPECT_EQ(run(demo + "video add").code, 2);
    EXPECT_EQ(run(demo + "video add " + (folder_ / "demo/demo-files/video/saturday-run-2-forward.mp4").string()).code,
              1)
        << "it is there already";
    // Moved away, and found again by its content.
    const auto videos = folder_ / "demo/videos";
    std::filesystem::create_directories(folder_ / "elsewhere");
    std::filesystem::rename(videos / "saturday-run-3-driver.mp4", folder_ / "elsewhere/other-name.mp4");
    EXPECT_EQ(run(demo + "video list").value()[3]["there"], false);
    EXPECT_EQ(run(demo + "video find " + (folder_ / "elsewhere").string()).value()["found"], 1);
    EXPECT_EQ(run(demo + "video list").value()[3]["there"], true);
    // A clip of a corner of both laps.
    const auto clip = folder_ / "clip.mp4";
    const auto cut =
        run(demo + "video clip --laps 2:best 3:best --from 1900 --to 2000 --lead 1 --out " + clip.string());
    ASSERT_EQ(cut.code, 0) << cut.err;
    EXPECT_GT(cut.value()["frames"], 60);
    EXPECT_EQ(std::filesystem::file_size(clip), cut.value()["bytes"].get<std::uintmax_t>());
    EXPECT_EQ(run(demo + "video clip --laps 4:best --out " + (folder_ / "no.mp4").string()).code, 1)
        << "nobody filmed that";
    EXPECT_FALSE(std::filesystem::exists(folder_ / "no.mp4"));
    EXPECT_EQ(run(demo + "video remove 4").code, 0);
    EXPECT_EQ(run(demo + "video list").value().size(), 3U);
}

TEST_F(Cli, TheManualNamesEveryFieldOfAnExplanation) {
    RENDAK_FIGURES_ONLY("the commands themselves");
    const std::string demo = "--library " + weekend().string() + " ";
    const std::string manual = read_all(rendak::test::tests_folder().parent_path() / "docs/commands.md");
    ASSERT_GT(manual.size(), 1000U);
    std::set<std::string> keys;
    const std::function<void(const json&)> collect = [&](const json& value) {
        if (value.is_object()) {
            for (const auto& [key, inside] : value.items()) {
                keys.insert(key);
                collect(inside);
            }
        } else if (value.is_array()) {
            for (const json& inside : value) collect(inside);
        }
    };
    for (const char* words : {"ledger --a 2 --b 3",
                              "findings --a 2 --b 3",
                              "technique --run 2:best",
                              "worth --run 2:best",
                              "overview --a 2 --b 3",
                              "guide --run 2",
                              "lapfigures --runs 2",
                              "stint --runs 4",
                              "day --event \"Skerrow Point test weekend\"",
                              "windows --run 4",
                              "watch check --runs 4",
                              "line --runs 2 --against 3 --quickest",
                              "limit --runs 2",
                              "pace --runs 2:best --usual 2",
                              "lockups --run 3:3,5",
                              "worklist --a 2 --b 3",
                              "excursions --lap 3:5",
                              "heights --runs 2",
                              "dampers --runs 6 --against 9",
                              "spectrum --runs 6 --against 9",
                              "ladder --runs 6,7,8,9,10,11",
                              "balance --runs 4 --against 5",
                              "pull --runs 2 --against 12",
                              "strikes --runs 2 3 --mixed",
                              "hints --runs 4",
                              "video list",
                              "video sync 4 --run 3",
                              "trial new --a 2 --b 12 --aim fast --only-show"})
        collect(run(demo + words).value());
    // What every answer carries, and the names of the laps.
    for (const char* usual : {"run", "lap", "laps", "time_s", "track", "corners", "name"}) keys.erase(usual);
    EXPECT_GT(keys.size(), 40U);
    for (const std::string& key : keys)
        EXPECT_NE(manual.find("`" + key), std::string::npos) << key << " is not in docs/commands.md";
}

TEST_F(Cli, ChassisOnTheDemosRuns) {
    const std::string demo = "--library " + weekend().string() + " ";
    // The ladder is found from the sheets, its best is the planted one, and the exits are where it is judged.
    const json ladder = run(demo + "ladder --event \"Skerrow Point test weekend\"").value();
    EXPECT_EQ(ladder["line"], "Bump rear");
    EXPECT_EQ(ladder["best"], 8) << ladder["text"];
    EXPECT_EQ(ladder["says"], "inside");
    EXPECT_EQ(ladder["stretches"][0]["name"], "Exit of Turn 3");
    EXPECT_EQ(run(demo + "ladder --runs 2,3").code, 1);
    EXPECT_EQ(run(demo + "ladder").code, 2);
    // A table has one line a step.
    const std::string table = run(demo + "ladder --runs 6,7,8,9,10,11 --csv").out;
    EXPECT_EQ(std::count(table.begin(), table.end(), '\n'), 7);
    EXPECT_TRUE(table.starts_with("value,laps,mean,low_mean,high_mean,change,verdict\n2.0,3,")) << table;
    // What was planted in the long runs: X understeers by 0.022 rad a g, Y by 0.010.
    const json balance = run(demo + "balance --runs 4 --against 5").value();
    EXPECT_NEAR(balance["a"]["slope_rad_per_mps2"]["mean"].get<double>() * 9.80665, 0.022, 0.0015);
    EXPECT_NEAR(balance["b"]["slope_rad_per_mps2"]["mean"].get<double>() * 9.80665, 0.010, 0.0015);
    const json pull = run(demo + "pull --runs 2").value()["a"];
    EXPECT_NEAR(pull["power_w"].get<double>(), 178e3, 0.03 * 178e3);
    EXPECT_NEAR(pull["drag_area_m2"].get<double>() * 1.2 / 1.22, 0.86, 0.05 * 0.86);
    const json heights = run(demo + "heights --runs 2").value();
    EXPECT_GT(heights["axles"][0]["times_a_lap"], 1);
    bool crest = false;
    for (const json& place : heights["places"])
        crest = crest || (place["cause"] == "compression of the road" && place["place"] == "before Turn 6");
    EXPECT_TRUE(crest);
    EXPECT_EQ(run(demo + "dampers --runs 6 --against 9").value()["wheels"].size(), 4U);
    const std::string histogram = run(demo + "dampers --runs 6 --on exits --csv").out;
    EXPECT_EQ(std::count(histogram.begin(), histogram.end(), '\n'), 61);
    EXPECT_EQ(run(demo + "dampers --runs 6 --on nowhere").code, 2) << "not among the kinds";
    EXPECT_EQ(run(demo + "dampers --runs 6 --from 100").code, 1);
    EXPECT_EQ(run(demo + "spectrum --runs 6 --from 100 --to 90").code, 1);
    EXPECT_EQ(run(demo + "spectrum --runs 6 --channel nothing").code, 1);
    const json own = run(demo + "spectrum --runs 6 --from 900 --to 1400 --wheels each --axle both").value();
    EXPECT_EQ(own["curves"].size(), 4U);
    // A hill climb has one lap a run, and corners of its own.
    EXPECT_EQ(run(demo + "balance --runs 16").code, 0);
    EXPECT_NE(run(demo + "hints --runs 16").value()["none"].get<std::string>().find("takes three"), std::string::npos);
}

TEST_F(Cli, TrialsAreKeptDecidedAndFoundAgain) {
    const std::string in = "--library " + weekend().string() + " ";
    EXPECT_TRUE(run(in + "trial list").value().empty());
    EXPECT_EQ(run(in + "trial new --a 2 --b 12 --aim nowhere").code, 1);
    const json made = run(in + "trial new --a 2 --b 12 --aim slow --by Engineer").value();
    EXPECT_EQ(made["net"]["verdict"], "gain") << made["text"];
    const std::string id = std::to_string(made["id"].get<int>());
    EXPECT_EQ(run(in + "trial decide " + id + " --verdict keep --words \"calmer on entry\"").value()["verdict"],
              "keep");
    const json shown = run(in + "trial show " + id).value();
    EXPECT_EQ(shown["kept"]["decided_by"], "Engineer");
    EXPECT_EQ(shown["kept"]["words"], "calmer on entry");
    EXPECT_EQ(shown["today"]["net"], made["net"]);
    EXPECT_EQ(run(in + "trial list").value().size(), 1U);
    EXPECT_EQ(run(in + "trial drop " + id).code, 0);
    EXPECT_EQ(run(in + "trial show " + id).code, 1);
    EXPECT_EQ(run(in + "ladder --runs 6,7,8,9,10,11 --plan").value()["next"].size(), 3U);
    EXPECT_EQ(run(in + "runsheet").value()[0]["change"], "Bump rear 7 clicks");
    EXPECT_EQ(run(in + "runsheet --event \"Skerrow Point test weekend\" --clear").code, 0);
    EXPECT_TRUE(run(in + "runsheet").value().empty());
    EXPECT_EQ(run(in + "runsheet --clear").code, 2);
}

TEST_F(Cli, LimitAndPace) {
    const std::string demo = "--library " + weekend().string() + " ";
    const json limit = run(demo + "limit --runs 2").value()["limits"][0];
    EXPECT_EQ(limit["laps"], 8);
    EXPECT_NEAR(limit["lateral"]["at_rest_g"].get<double>(), 1.4, 0.06);
    EXPECT_EQ(limit["corners"][2]["left_out"], "banked");
    // Only speeds that were seen are told; nothing was calculated.
    for (const json& row : limit["by_speed"]) {
        EXPECT_EQ(row["lateral_g"].is_null(), row["kmh"] < 60 || row["kmh"] > 160) << row;
        EXPECT_TRUE(row["calculated_lateral_g"].is_null());
    }
    const json back = run(demo + "limit --runs 2 --put-back 3").value()["limits"][0];
    EXPECT_TRUE(back["corners"][2]["left_out"].is_null());
    const json all = run(demo + "limit --car \"Club prototype 27\"").value();
    EXPECT_GE(all["limits"].size(), 5U);
    EXPECT_EQ(run(demo + "limit --car 27").value(), all) << "a word of its name that no other car has";
    EXPECT_EQ(run(demo + "limit").code, 2);
    EXPECT_EQ(run(demo + "limit --car 2 --runs 2").code, 2);
    EXPECT_NE(run(demo + "limit --car 99").err.find("No run of a car 99"), std::string::npos);
    // A car of another kind has more wing, which its fast corners show and its slow ones do not.
    const json guest = run(demo + "limit --car 8").value()["limits"][0]["lateral"],
               own = run(demo + "limit --runs 2").value()["limits"][0]["lateral"];
    EXPECT_NEAR(guest["per_v2_1_per_m"].get<double>() / own["per_v2_1_per_m"].get<double>(), 2.65 / 1.75, 0.15);
    EXPECT_NEAR(guest["at_rest_g"].get<double>(), own["at_rest_g"].get<double>(), 0.05);
    // What falls away is found from the demo's own laps.
    const json corners = run(demo + "guide --track \"Skerrow Point\"").value()["corners"];
    for (const json& it : corners) {
        const bool told = it["warnings"].dump().find("falls away at the exit") != std::string::npos;
        EXPECT_EQ(told, it["corner"] == 10) << it["warnings"];
    }
    // Who lifts in Turn 6 leaves time there that the car has shown.
    const json pace = run(demo + "pace --runs 3:best --usual 2").value()["laps"][0];
    EXPECT_LT(pace["pace_s"].get<double>(), pace["time_s"].get<double>() - 1);
    double unused = 0;
    std::string most;
    double largest = 0;
    for (const json& row : pace["corners"]) {
        unused += row["unused_s"].get<double>();
        if (row["unused_s"] <= largest) continue;
        largest = row["unused_s"];
        most = row["name"];
    }
    EXPECT_NEAR(unused, pace["time_s"].get<double>() - pace["pace_s"].get<double>(), 1e-6);
    EXPECT_EQ(most, "Turn 5");
    EXPECT_EQ(run(demo + "pace --runs 14").value()["laps"].size(), 1U) << "up a hill too";
}

TEST_F(Cli, LapsHaveTheFiguresThatAreAskedFor) {
    const std::string demo = "--library " + weekend().string() + " lapfigures ";
    const json table = run(demo + "--runs 3,5").value();
    const auto column = [](const json& of, const std::string& name) {
        for (std::size_t i = 0; i < of["columns"].size(); ++i)
            if (of["columns"][i]["column"] == name) return i;
        ADD_FAILURE() << name;
        return std::size_t{0};
    };
    const std::size_t time = column(table, "lap_time end"), coasting = column(table, "coasting_time end"),
                      top = column(table, "speed high");
    EXPECT_EQ(table["columns"][time]["better"], "less");
    EXPECT_EQ(table["columns"][top]["better"], "more");
    // Out and in laps and an excursion are there, with the reason, and set nothing.
    double sum = 0, best = 1e9, counting = 0;
    bool excursion = false, out_lap = false;
    for (const json& lap : table["laps"]) {
        if (lap["run"] == 3 && lap["lap"] == 5)
            excursion = lap["why"].get<std::string>().find("excursion") != std::string::npos;
        out_lap = out_lap || lap["kind"] == "out";
        if (!lap["counts"].get<bool>()) {
            EXPECT_FALSE(lap["why"].get<std::string>().empty());
            continue;
        }
        ++counting;
        sum += lap["values"][coasting].get<double>();
        best = std::min(best, lap["values"][time].get<double>());
    }
    EXPECT_TRUE(excursion && out_lap);
    EXPECT_EQ(table["columns"][coasting]["laps"], counting);
    EXPECT_NEAR(table["columns"][coasting]["mean"].get<double>(), sum / counting, 1e-9);
    for (const json& lap : table["laps"]) {
        const bool is_best = lap["run"] == table["best_lap"]["run"] && lap["lap"] == table["best_lap"]["lap"];
        EXPECT_EQ(is_best, lap["counts"].get<bool>() && lap["values"][time] == best);
    }
    // A long run burns fuel and heats its oil; a limit is said with its unit.
    const json stint =
        run(demo + "--runs 5 --set engine --set fuel --columns \"oil_temperature above 100 °C; speed low in 5\"")
            .value();
    bool burns = false, heats = false;
    for (const json& trend : stint["trends"]) {
        if (trend["column"] == "fuel end") burns = std::abs(trend["per_lap"].get<double>() + 1.08e-3) < 2e-5;
        if (trend["column"] == "oil_temperature mean") heats = trend["likely"][0] > 0;
    }
    EXPECT_TRUE(burns && heats) << stint["trends"];
    EXPECT_FALSE(stint["missing"].empty()) << "no battery is logged";
    for (const json& lap : stint["laps"]) {
        const json &hot = lap["values"][0], &slow = lap["values"][1];
        EXPECT_TRUE(hot >= 0 && hot <= 1);
        EXPECT_EQ(slow.is_null(), lap["kind"] != "flying" && lap["kind"] != "stopped") << "an out lap has no places";
        if (!slow.is_null()) EXPECT_NEAR(slow.get<double>(), 14, 2) << "the hairpin";
    }
    const std::string csv = run(demo + "--runs 2 --columns \"speed high; nonsense mean\" --format csv").out;
    EXPECT_EQ(csv.substr(0, csv.find('\n')), "run,lap,kind,counts,speed high [m/s],nonsense mean");
    EXPECT_EQ(std::count(csv.begin(), csv.end(), '\n'), 11);
    EXPECT_NE(run(demo + "--runs 2 --columns \"oil_temperature above 100\"").err.find("Give this limit its unit"),
              std::string::npos);
    EXPECT_NE(run(demo + "--runs 2 --columns \"oil_temperature above 3 m\"").err.find("unit of something else"),
              std::string::npos);
    EXPECT_EQ(run(demo + "--runs 2 --columns \"speed often\"").code, 1);
    EXPECT_NE(run(demo + "--runs 2 --set nonsense").err.find("There are: driver"), std::string::npos);
    EXPECT_EQ(run(demo + "--runs 99").code, 1);
    EXPECT_EQ(run(demo).code, 2);
}

TEST_F(Cli, StintsWindowsAndWatchRules) {
    const std::string demo = "--library " + weekend().string() + " ";
    const json both = run(demo + "stint --runs 4,5").value();
    const json& stints = both["runs"];
    ASSERT_EQ(stints.size(), 2U);
    EXPECT_EQ(stints[0]["balance"][0]["kind"], "tyre_temperature");
    EXPECT_GT(stints[0]["balance"][0]["front_minus_rear"].get<double>(),
              stints[1]["balance"][0]["front_minus_rear"].get<double>() + 8);
    EXPECT_EQ(stints[0]["s_per_litre"], 0.016) << "of the car sheet";
    EXPECT_GT(stints[0]["tread"]["fl"]["straight"]["inner_minus_outer"], 5);
    EXPECT_EQ(stints[0]["scatter"]["sections"].size(), 28U);
    ASSERT_EQ(both["against_first"].size(), 1U);
    EXPECT_NE(both["against_first"][0]["text"].get<std::string>().find("B keeps its pace better"), std::string::npos);
    EXPECT_EQ(both["against_first"][0]["figures"][0]["verdict"], "better");
    const json steady = run(demo + "stint --runs 4 --fuel-effect 0.05").value()["runs"][0];
    EXPECT_GT(steady["fall_off"]["per_lap"].get<double>(), stints[0]["fall_off"]["per_lap"].get<double>() + 0.02);
    EXPECT_EQ(run(demo + "stint --runs 4 --fuel-effect much").code, 2);
    EXPECT_EQ(run(demo + "windows --run 4").value()["windows"][0]["channel"], "tyre_temperature_fl");
    const json day = run(demo + "day --event \"Skerrow Point test weekend\"").value()["runs"];
    EXPECT_EQ(day.size(), 14U);
    EXPECT_EQ(day[0]["name"], "Run 1");
    EXPECT_EQ(run(demo + "day --event Nowhere").code, 1);
    // The shipped rules, saved and read again, say the same.
    const TempFolder folder;
    const auto file = folder.path() / "rules.json";
    std::ofstream(file) << run("watch list").out;
    const json shipped = run(demo + "watch check --runs 4").value();
    EXPECT_EQ(run(demo + "watch check --runs 4 --rules " + file.string()).value(), shipped);
    const json& oil = shipped["runs"][0]["rules"][0];
    EXPECT_EQ(oil["rule"], "Oil pressure low for the revs");
    EXPECT_GT(oil["events"].size(), 15U);
    EXPECT_EQ(oil["events"][0]["beside"][2]["what"], "fuel");
    std::ofstream(file) << R"([{"name": "fast", "condition": "speed > 230 km/h", "value": "speed", "for_s": 1}])";
    const json own = run(demo + "watch check --all --rules " + file.string()).value()["runs"];
    EXPECT_EQ(own.size(), 17U);
    EXPECT_GT(own[1]["rules"][0]["events"].size(), 5U);
    std::ofstream(file) << "nonsense";
    EXPECT_NE(run(demo + "watch check --runs 4 --rules " + file.string()).err.find("no list of watch rules"),
              std::string::npos);
    EXPECT_EQ(run(demo + "watch check").code, 2);
    EXPECT_EQ(run(demo + "watch check --runs 4 --all").code, 2);
}

TEST_F(Cli, WatchRulesAreKeptInTheLibrary) {
    const TempFolder folder;
    rendak::test::copy_library(rendak::test::saturday_library(), folder.path());
    const std::string in = "--library " + folder.path().string() + " ";
    const std::size_t shipped = run("watch list").value().size();
    const std::string fast =
        "watch add --name Fast --condition \"speed > 230 km/h\" --value speed --for 1 --beside \"gear;throttle\"";
    const json added = run(in + fast + " --check").value();
    EXPECT_EQ(added["opened"], 3) << "each of the runs";
    EXPECT_EQ(run(in + "watch list").value().size(), shipped + 1);
    EXPECT_EQ(run(in + "watch list").value().back()["beside"].size(), 2U);
    const json trend = run(in + "watch trend --name Fast --car \"Club prototype 27\"").value();
    EXPECT_EQ(trend["runs"].size(), 3U);
    EXPECT_GT(trend["runs"][1]["times"], 4);
    EXPECT_NE(trend["text"].get<std::string>().find("It speaks in"), std::string::npos);
    EXPECT_EQ(run(in + "watch add --name Bad --condition \"speed >\"").code, 1);
    EXPECT_EQ(run(in + "watch add --name Bad").code, 2);
    // A shipped one put off, and back.
    EXPECT_EQ(run(in + "watch add --name \"Oil hot\" --condition \"oil_temperature > 100 °C\" --off").code, 0);
    EXPECT_EQ(run(in + "watch list").value().size(), shipped);
    EXPECT_EQ(run(in + "watch remove --name \"Oil hot\"").code, 0);
    EXPECT_EQ(run(in + "watch remove --name \"Oil hot\"").code, 1);
    EXPECT_EQ(run(in + "watch trend --name Nothing --car X").code, 1);
    // What comes in is checked by the library's rules, its own ones too.
    const auto file = folder.path() / "demo-files" / "card" / "REC0004.MF4";
    ASSERT_TRUE(std::filesystem::exists(file));
    const auto imported = run(in + "import " + file.string());
    ASSERT_EQ(imported.code, 0) << imported.err;
    const json watch = imported.value()[0]["watch"];
    EXPECT_NE(std::find(watch.begin(), watch.end(), "Fast"), watch.end()) << watch;
    EXPECT_NE(imported.err.find("Fast: "), std::string::npos);
}

TEST_F(Cli, AHillClimbHasALedgerToo) {
    const std::string demo = "--library " + weekend().string() + " ";
    // The runs up Corrin Hill: from a standing start to the finish, a lap each.
    std::vector<int> climbs;
    for (const json& it : run(demo + "runs").value()) {
        if (it.value("track", "") == "Corrin Hill") climbs.push_back(it["run"]);
    }
    ASSERT_GE(climbs.size(), 2U);
    const auto a = std::to_string(climbs[0]), b = std::to_string(climbs[1]);
    const auto outcome = run(demo + "ledger --mixed --a " + a + ":best --b " + b + ":best");
    ASSERT_EQ(outcome.code, 0) << outcome.err;
    const json ledger = outcome.value();
    double sum = 0, end = 0;
    for (const json& row : ledger["rows"]) {
        EXPECT_NEAR(row["from_m"], end, 1e-6);
        end = row["to_m"];
        sum += row["loss_s"].get<double>();
        EXPECT_LT(std::abs(row["loss_s"].get<double>()), 5) << row["name"];
    }
    EXPECT_NEAR(sum, ledger["total_s"], 1e-3);
    const auto elsewhere = run(demo + "ledger --a 2:best --mixed --b " + b + ":best");
    EXPECT_EQ(elsewhere.code, 1);
    EXPECT_NE(elsewhere.err.find("different tracks"), std::string::npos);
}

TEST_F(Cli, RecordingsAreFetchedFiledAndErased) {
    const auto demo = weekend();
    // Download it yourself: a practice logger serves Saturday; runs 1 to 3 are known by their content.
    rendak::demo::StandIn logger({.clock_offset_s = -90});
    ASSERT_TRUE(logger.start(demo / "demo-files/card"));
    const std::string at = "--library " + demo.string() + " logger ", url = " --url " + logger.url();
    const auto listed = run(at + "list" + url);
    ASSERT_EQ(listed.code, 0) << listed.err;
    EXPECT_NE(listed.err.find("clock is wrong"), std::string::npos);
    ASSERT_EQ(listed.value().size(), 6U);
    EXPECT_EQ(listed.value()[1]["run"], 2);
    EXPECT_TRUE(listed.value()[1]["verified"].get<bool>());
    EXPECT_TRUE(listed.value()[3]["run"].is_null());
    EXPECT_NEAR(run(at + "clock" + url).value()["logger_minus_computer_s"].get<double>(), -90, 3);
    EXPECT_NEAR(run(at + "clock --set" + url).value()["logger_minus_computer_s"].get<double>(), 0, 3);
    const auto fetched = run(at + "fetch --number 4 --driver Brandvold --tyres C1" + url);
    ASSERT_EQ(fetched.code, 0) << fetched.err;
    EXPECT_EQ(fetched.value()[0]["run"], 18);
    const auto row = run("--library " + demo.string() + " runs --json").value()[17];
    EXPECT_EQ(row["tyre_set"], "C1");
    EXPECT_EQ(row["flying_laps"], 6);
    EXPECT_EQ(row["track"], "Skerrow Point");
    EXPECT_EQ(run(at + "fetch --number 17" + url).code, 1);
    const auto asked = run(at + "erase" + url);
    EXPECT_EQ(asked.value()["would_erase"].size(), 4U);
    EXPECT_EQ(run(at + "list" + url).value().size(), 6U) << "nothing goes unasked";
    EXPECT_EQ(run(at + "erase --yes --number 4,5" + url).code, 1) << "5 is not in the library";
    EXPECT_EQ(run(at + "erase --yes" + url).value()["erased"].size(), 3U);
    EXPECT_EQ(run(at + "list" + url).value().size(), 2U);
    const auto rest = run(at + "fetch" + url);
    ASSERT_EQ(rest.code, 0) << rest.err;
    EXPECT_NE(rest.err.find("ends in the middle"), std::string::npos);
    const auto found = run("--library " + demo.string() + " tidy --run 20").value();
    EXPECT_TRUE(std::any_of(found.begin(), found.end(), [](const auto& one) { return one["finding"] == "split"; }));
    EXPECT_EQ(run("--library " + demo.string() + " tidy --run 20 --cure nothing").code, 2);
    ASSERT_EQ(run("--library " + demo.string() + " tidy --run 20 --cure split").code, 0);
    EXPECT_EQ(run("--library " + demo.string() + " runs").value().size(), 21U);
}

TEST_F(Cli, PlacesAndSections) {
    const std::string in = "--library " + weekend().string() + " ";
    const auto laps = run(in + "laps --run 3").value();
    EXPECT_NE(laps[3]["doubt"].get<std::string>().find("traffic?"), std::string::npos);
    EXPECT_GT(laps[3]["trust_m"].get<double>(), 0.05);
    const auto sections = run(in + "sections --runs 2,3").value();
    EXPECT_EQ(sections["laps"].size(), 15U);
    EXPECT_EQ(run(in + "sections --run 2 --sectors").value()["sections"].size(), 3U);
    const auto ideal = run(in + "ideal --runs 2,3 --effect 0.5").value();
    EXPECT_LT(ideal["ideal_s"].get<double>(), ideal["best"]["time_s"].get<double>());
    EXPECT_NEAR(ideal["ideal_s"].get<double>(), sections["ideal_s"].get<double>(), 1e-9);
    EXPECT_LE(ideal["fastest_loop"]["time_s"].get<double>(), ideal["best"]["time_s"].get<double>());
    EXPECT_EQ(ideal["runs"][0]["effect"].get<std::string>().substr(0, 3), "Yes");
    const auto aligned = run(in + "align --runs 2,3,1").value();
    for (const auto& item : aligned["runs"]) EXPECT_FALSE(item["misplaced"].get<bool>());
    EXPECT_NEAR(aligned["runs"][2]["loggers_line_behind_m"].get<double>(), 55, 4);
    const auto peaks = run(in + "peaks --run 2").value();
    EXPECT_TRUE(peaks["corners"][2]["banked"].get<bool>());
    EXPECT_FALSE(peaks["corners"][4]["banked"].get<bool>());
    EXPECT_EQ(run(in + "sections --runs 2,14").code, 1) << "two tracks";
}

TEST_F(Cli, ALaunchSetByHandCountsAndIsFoundAgain) {
    const std::string in = "--library " + weekend().string() + " ";
    const auto climb = run(in + "laps --run 14").value();
    EXPECT_EQ(climb[1]["kind"], "flying");
    const auto late = run(in + "launch --run 14 --at 5.5").value();
    EXPECT_NEAR(late[1]["start_s"].get<double>(), 5.5, 1e-9);
    EXPECT_NEAR(run(in + "launch --run 14").value()[1]["start_s"].get<double>(), climb[1]["start_s"].get<double>(),
                1e-9);
}

TEST_F(Cli, TracksAreEditedMovedSurveyedAndShared) {
    const auto file = folder_.write("oval.csv", oval_table(4, 20, 45).text);
    ASSERT_EQ(run("import " + file.string()).code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0);
    const auto before = run("laps --run 1").value();
    const auto moved = run("track start --name Oval --at 150");
    ASSERT_EQ(moved.code, 0) << moved.err;
    const auto after = run("laps --run 1").value();
    EXPECT_GT(std::abs(after[1]["start_s"].get<double>() - before[1]["start_s"].get<double>()), 1);
    EXPECT_EQ(run("track start --name Oval --at 1,2").code, 2);
    EXPECT_EQ(run("track start --name Oval --at 10,10,0").code, 1) << "another part of the world";
    const auto out = folder_ / "oval.geojson";
    ASSERT_EQ(run("track export --name Oval --out " + out.string()).code, 0);
    const std::string other = "--library " + (folder_ / "other").string() + " ";
    ASSERT_EQ(run(other + "import " + file.string()).code, 0);
    const auto edited = run(other + "track edit " + out.string() + " --name \"Big Oval\"");
    ASSERT_EQ(edited.code, 0) << edited.err;
    EXPECT_EQ(edited.value()["runs_cut"].size(), 1U) << "the run without a track is recognised";
    EXPECT_NEAR(run(other + "laps --run 1").value()[1]["start_s"].get<double>(), after[1]["start_s"].get<double>(),
                1e-3);
    EXPECT_EQ(run("track edit " + file.string()).code, 1) << "no track file";
    EXPECT_EQ(run("track survey --name Nowhere").code, 1);
    const auto surveyed = run("track survey --name Oval");
    ASSERT_EQ(surveyed.code, 0) << surveyed.err;
    EXPECT_EQ(surveyed.value()["edges"], "spread of laps");
    EXPECT_EQ(run("track survey --name Oval --left 1:1").code, 2);
}

TEST_F(Cli, ASurveyKeepsTheHeightThatItsLapsDoNotLog) {
    const auto oval = oval_table(4, 10, 45);
    ASSERT_EQ(run("import " + folder_.write("oval.csv", oval.text).string()).code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0);
    // Somebody has measured the height of the road; these laps log none.
    const auto file = folder_ / "oval.geojson";
    ASSERT_EQ(run("track export --name Oval --out " + file.string()).code, 0);
    json track = json::parse(read_all(file));
    for (json& feature : track["features"]) {
        if (feature["properties"]["role"] != "centreline") continue;
        const std::size_t points = feature["geometry"]["coordinates"].size() - 1;
        feature["properties"]["height_m"] = json(std::vector<double>(points, 12.5));
        feature["properties"]["height_sd_m"] = json(std::vector<double>(points, 0.1));
    }
    ASSERT_EQ(run("track edit --name Oval " + folder_.write("high.geojson", track.dump()).string()).code, 0);
    const auto surveyed = run("track survey --name Oval");
    ASSERT_EQ(surveyed.code, 0) << surveyed.err;
    EXPECT_NE(surveyed.err.find("neither height nor lateral"), std::string::npos) << surveyed.err;
    EXPECT_EQ(surveyed.value()["height_m"]["high"], 12.5);
    ASSERT_EQ(run("track export --name Oval --out " + file.string()).code, 0);
    EXPECT_NE(read_all(file).find("height_m"), std::string::npos) << "and it is still filed with the track";
}

TEST_F(Cli, EveryFormatGoesOutAndComesBack) {
    const auto file = folder_.write("oval.csv", oval_table(3, 20, 45).text);
    ASSERT_EQ(run("import " + file.string()).code, 0);
    int expected = 2;
    for (const std::string format : {"mdf", "gpx", "csv"}) {
        const auto out = folder_ / ("out." + format);
        ASSERT_EQ(run("export --run 1 --format " + format + " --out " + out.string()).code, 0);
        const auto back = run("import " + out.string());
        ASSERT_EQ(back.code, 0) << back.err;
        const bool same = back.value()[0]["already_in_library"];
        if (format == "mdf") EXPECT_TRUE(same) << "bit for bit";
        if (!same) EXPECT_EQ(back.value()[0]["run"], expected++);
    }
}

TEST_F(Cli, ABundleGoesToAColleague) {
    const auto file = folder_.write("oval.csv", oval_table(4, 20, 45).text);
    ASSERT_EQ(run("import " + file.string() + " --driver Osei").code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0);
    const auto bundle = folder_ / "b.zip";
    ASSERT_EQ(run("bundle write --runs 1 --out " + bundle.string()).code, 0);
    EXPECT_EQ(run("bundle write --runs 7 --out " + bundle.string()).code, 1);
    const std::string other = "--library " + (folder_ / "other").string() + " ";
    const auto looked = run(other + "bundle read --look " + bundle.string());
    ASSERT_EQ(looked.code, 0) << looked.err;
    EXPECT_EQ(looked.value()["items"][0]["state"], "new");
    EXPECT_TRUE(run(other + "runs").value().empty());
    EXPECT_EQ(run(other + "bundle read --take nothing " + bundle.string()).code, 2);
    EXPECT_EQ(run(other + "bundle read " + bundle.string()).value()["runs"].size(), 1U);
    EXPECT_EQ(run(other + "runs").value()[0]["flying_laps"], run("runs").value()[0]["flying_laps"]);
    EXPECT_EQ(run(other + "bundle read " + file.string()).code, 1) << "no bundle";
}

TEST_F(Cli, FormulasAreCheckedComputedAndExported) {
    const auto oval = oval_table(4, 10, 45);
    const auto file = folder_.write("oval.csv", oval.text);
    ASSERT_EQ(run("import " + file.string() + " --car 27").code, 0);
    ASSERT_EQ(run("track learn --run 1 --name Oval").code, 0);

    const auto fine = run("formula check 'double_speed in mph = speed * 2'");
    EXPECT_EQ(fine.code, 0) << fine.err;
    EXPECT_EQ(fine.value()["unit_si"], "m/s");
    const auto wrong = run("formula check 'speed + 2 * sped'");
    EXPECT_EQ(wrong.code, 1);
    EXPECT_EQ(wrong.value()["from"], 12);
    EXPECT_NE(wrong.err.find("            ^^^^\n"), std::string::npos) << wrong.err;
    EXPECT_NE(wrong.value()["problem"].get<std::string>().find("Did you mean speed?"), std::string::npos);
    EXPECT_NE(run("formula check --run 1 'brake_front > 1 bar'").err.find("This run has no brake_front"),
              std::string::npos);

    // The oval is driven at one speed.
    const auto laps = run("laps --run 1").value();
    const auto speed = run("formula eval --run 1 --lap 2 --expr 'speed * 2' --unit m/s");
    ASSERT_EQ(speed.code, 0) << speed.err;
    EXPECT_NEAR(speed.value()["mean"], 90, 0.5);
    const auto integral =
        run("formula eval --run 1 --lap 2 --expr 'cumulative_trapezoid(speed, reset=lap)' --unit m").value();
    EXPECT_NEAR(integral["last"], laps[2]["length_m"].get<double>(), 10);
    const auto samples = run("formula eval --run 1 --lap 2 --expr speed --samples").value();
    EXPECT_EQ(samples["values"].size(), samples["time_s"].size());
    EXPECT_EQ(samples["unit"], "km/h");
    EXPECT_NEAR(samples["values"][5], 162, 2);
    EXPECT_EQ(run("formula eval --run 1 --lap 99 --expr speed").code, 1);
    EXPECT_EQ(run("formula eval --run 1 --expr 'speed +'").code, 1);

    const auto table = folder_ / "with.csv";
    ASSERT_EQ(run("export --run 1 --formulas combined_g,corner_radius --out " + table.string()).code, 0);
    EXPECT_NE(read_all(table).find("Corner radius"), std::string::npos);
    const auto refused = run("export --run 1 --formulas brake_balance --out " + (folder_ / "no.csv").string());
    EXPECT_EQ(refused.code, 1);
    EXPECT_NE(refused.err.find("This run has no brake_front"), std::string::npos) << refused.err;
    EXPECT_EQ(run("formula rest --run 1").code, 1);  // it never stands
    EXPECT_EQ(run("formula rest --run 1 --range 1,3").value()["figures"][0]["count"], 20);
}

TEST_F(Cli, FormulaSetsComeAndGoWithoutOverwriting) {
    ASSERT_EQ(run("import " + folder_.write("oval.csv", oval_table(4, 10, 45).text).string()).code, 0);
    const auto set = [&](const std::string& name, const std::string& text) {
        const json out{{"rendak", "formula set"},
                       {"version", 1},
                       {"name", "Ours"},
                       {"formulas", json::array({{{"name", "pace"}, {"formula", text}}})}};
        return folder_.write(name, out.dump());
    };
    const auto first = set("first.json", "speed * 1"), second = set("second.json", "speed * 2");
    EXPECT_EQ(run("formula check " + first.string()).code, 0);
    EXPECT_EQ(run("formula set import " + first.string()).value()["version"], 1);
    const auto look = run("formula set import --look --take pace " + second.string()).value();
    EXPECT_EQ(look["changes"][0]["what"], "clashes");
    EXPECT_FALSE(look.contains("version"));
    const auto kept = run("formula set import " + second.string()).value();
    EXPECT_EQ(kept["changes"][0]["taken"], "no");
    const auto formula_now = [&] {
        for (const auto& it : run("formula set list").value()) {
            if (it["name"] == "Ours")
                return it["formulas"][0]["formula"].get<std::string>() + " v" +
                       std::to_string(it["version"].get<int>());
        }
        return std::string();
    };
    EXPECT_EQ(formula_now(), "speed * 1 v1");
    EXPECT_EQ(run("formula set import --take pace " + second.string()).code, 0);
    EXPECT_EQ(formula_now(), "speed * 2 v2");
    const auto out = folder_ / "out.json";
    EXPECT_EQ(run("formula set export Ours --out " + out.string()).code, 0);
    EXPECT_EQ(json::parse(read_all(out))["formulas"][0]["formula"], "speed * 2");
    EXPECT_EQ(run("formula set export Nobody --out " + out.string()).code, 1);
    EXPECT_EQ(run("formula set import " + folder_.write("bad.json", "{}").string()).code, 1);
    EXPECT_EQ(run("formula set export Starter --out " + out.string()).code, 0);
    EXPECT_NE(run("formula set import " + out.string()).err.find("read-only"), std::string::npos);
}
