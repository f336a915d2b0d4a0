// The command line as a person or a script uses it: JSON on standard output, messages on standard error, exit codes.
#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>

#include "tests/support/temp_folder.h"

using nlohmann::json;
using rendak::test::oval_table;
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
        const std::string command = std::string(RENDAK_CLI) + " --library " + (folder_ / "lib").string() + " " +
                                    arguments + " 2>" + err.string();
        std::FILE* pipe = ::popen(command.c_str(), "r");
        Outcome outcome{-1, "", ""};
        std::array<char, 4096> buffer{};
        while (const auto n = std::fread(buffer.data(), 1, buffer.size(), pipe)) outcome.out.append(buffer.data(), n);
        outcome.code = WEXITSTATUS(::pclose(pipe));
        outcome.err = read_all(err);
        return outcome;
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
    const auto demo = folder_ / "demo";
    ASSERT_EQ(run("demo --write " + demo.string()).code, 0);
    const auto runs = run("--library " + demo.string() + " runs").value();
    ASSERT_EQ(runs.size(), 12U);
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
