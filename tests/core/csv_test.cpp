#include "core/recording/csv_reader.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/recording/csv_writer.h"
#include "core/recording/table_shape.h"
#include "demo/sensors.h"
#include "tests/support/demo_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

bool says(const ReadRecording& read, const std::string& words) {
    for (const auto& note : read.notes) {
        if (note.find(words) != std::string::npos) return true;
    }
    return false;
}

ReadRecording read_text(const std::string& text, const CsvOptions& options = {}) {
    const TempFolder folder;
    auto read = read_csv(folder.write("t.csv", text), options);
    EXPECT_TRUE(read) << (read ? "" : read.error().text());
    return read ? std::move(*read) : ReadRecording{};
}

}  // namespace

TEST(Csv, CommaPointNamesWithUnitsInBrackets) {
    const auto read = read_text("Time [s],Speed [km/h],Brake Pressure Front (bar)\n0.0,36,0\n0.1,72,10\n0.2,108,20\n");
    const Channel* speed = read.recording.find("speed");
    ASSERT_NE(speed, nullptr);
    EXPECT_NEAR(speed->at(1), 20, 1e-5);
    EXPECT_EQ(speed->unit, "m/s");
    EXPECT_EQ(speed->source_unit, "km/h");
    EXPECT_EQ(speed->clock.rate_hz, 10);
    EXPECT_NEAR(read.recording.find("brake_front")->at(2), 2e6, 1);
    EXPECT_TRUE(says(read, "comma"));
}

TEST(Csv, SemicolonDecimalCommaUnitRowAndPreamble) {
    const auto read = read_text(
        "Logger;Club box\nDriver;Osei\n\nTime;GPS Speed;Steering Angle;Comment\ns;km/h;deg;\n"
        "0,00;100,5;-10,25;go\n0,05;101,5;0;go\n0,10;102,5;10,25;go\n");
    ASSERT_NE(read.recording.find("speed"), nullptr);
    EXPECT_NEAR(read.recording.find("speed")->at(0) * 3.6, 100.5, 1e-4);
    EXPECT_NEAR(read.recording.find("steering")->at(2), 10.25 * 3.14159265358979 / 180, 1e-6);
    EXPECT_EQ(read.recording.find("speed")->clock.rate_hz, 20);
    EXPECT_EQ(read.recording.find_name("Comment"), nullptr);
    EXPECT_TRUE(says(read, "\"Comment\" holds text"));
    EXPECT_TRUE(says(read, "semicolon, decimal comma"));
    EXPECT_TRUE(says(read, "names and units above"));
}

TEST(Csv, TabsQuotesCrLfAndByteOrderMark) {
    const auto read = read_text("\xEF\xBB\xBF\"Time\"\t\"Gear\"\r\n\"0\"\t\"1\"\r\n\"1\"\t\"2\"\r\n\"2\"\t\"3\"\r\n");
    ASSERT_NE(read.recording.find("gear"), nullptr);
    EXPECT_EQ(read.recording.find("gear")->size(), 3U);
    EXPECT_EQ(read.recording.find("gear")->at(2), 3);
}

TEST(Csv, UnitsInTheName) {
    const auto read = read_text(
        "time_s,speed_kph,accel_lat,lat_deg,lon_deg\n0,36,0.5,57.1,4.8\n0.5,72,0.5,57.2,4.9\n1.0,72,1,57.3,4.9\n");
    EXPECT_NEAR(read.recording.find("speed")->at(1), 20, 1e-5);
    ASSERT_NE(read.recording.find("latitude"), nullptr);
    EXPECT_NEAR(read.recording.find("latitude")->at(2), 57.3, 1e-12) << "positions stay in degrees";
}

TEST(Csv, FixedRateFromOptionAndFromTheHead) {
    const auto asked = read_text("Speed [m/s],Gear\n1,1\n2,1\n3,2\n", {50.0, 1});
    EXPECT_EQ(asked.recording.find("speed")->clock.rate_hz, 50);
    EXPECT_TRUE(says(asked, "50 Hz apart as asked for"));
    const auto coarse = read_text("time,gear\n1,1\n1,2\n1,3\n2,4\n", {10.0, 1});
    EXPECT_EQ(coarse.recording.find("gear")->clock.rate_hz, 10) << "a rate that was asked for wins over a useless time";
    const auto head = read_text("Sample rate (Hz),25\nSpeed [m/s],Gear\n1,1\n2,1\n3,2\n");
    EXPECT_EQ(head.recording.find("speed")->clock.rate_hz, 25);
}

TEST(Csv, ChannelsOfDifferentRatesAsEmptyCells) {
    std::string text = "time,speed [m/s],oil temp [°C]\n";
    for (int i = 0; i <= 100; ++i) {
        char line[64];
        std::snprintf(line, sizeof line, "%.2f,%d,%s\n", i * 0.01, i,
                      i % 10 == 0 ? std::to_string(80 + i).c_str() : "");
        text += line;
    }
    const auto read = read_text(text);
    EXPECT_EQ(read.recording.find("speed")->clock.rate_hz, 100);
    const Channel* oil = read.recording.find("oil_temperature");
    ASSERT_NE(oil, nullptr);
    EXPECT_EQ(oil->clock.rate_hz, 10);
    EXPECT_EQ(oil->size(), 11U);
    EXPECT_NEAR(oil->at(3), 110 + 273.15, 1e-3);
}

TEST(Csv, HolesAreMissingSamples) {
    std::string text = "time,speed [m/s],gear\n";
    for (int i = 0; i < 100; ++i)
        text += std::to_string(i * 0.1) + "," + (i >= 40 && i < 60 ? "" : std::to_string(i)) + ",3\n";
    const auto read = read_text(text);
    const Channel* speed = read.recording.find("speed");
    EXPECT_EQ(speed->size(), 100U);
    EXPECT_TRUE(std::isnan(speed->at(45)));
    EXPECT_EQ(speed->at(60), 60);
}

TEST(Csv, SpeedUnitFromPositions) {
    for (const auto& [factor, unit] : {std::pair{1.0, "m/s"}, {3.6, "km/h"}, {1 / 0.44704, "mph"}}) {
        std::string text = "time,lat,lon,speed\n";
        for (int i = 0; i < 400; ++i) {
            char line[96];
            std::snprintf(line, sizeof line, "%.1f,%.8f,4.8,%.3f\n", i * 0.1, 57 + i * 3.0 / 111195.0, 30 * factor);
            text += line;
        }
        const auto read = read_text(text);
        EXPECT_NEAR(read.recording.find("speed")->at(10), 30, 0.01) << unit;
        EXPECT_TRUE(says(read, std::string("taken as ") + unit + " by the distance between positions")) << unit;
    }
}

TEST(Csv, AssumedUnitsAreSaid) {
    const auto read = read_text("time,throttle,latacc,steering\n0,0,0.1,-90\n1,55,1.2,10\n2,100,-1.1,95\n");
    EXPECT_NEAR(read.recording.find("throttle")->at(1), 0.55, 1e-6);
    EXPECT_NEAR(read.recording.find("lateral_acceleration")->at(1), 1.2 * 9.80665, 1e-5);
    EXPECT_TRUE(says(read, "\"throttle\" names no unit: taken as %"));
    EXPECT_TRUE(says(read, "\"latacc\" names no unit: taken as g"));
    EXPECT_TRUE(says(read, "\"steering\" names no unit: taken as deg"));
}

TEST(Csv, TimesAsClockTextDatesAndMilliseconds) {
    const auto clock = read_text("time,gear\n23:59:59.9,1\n00:00:00.0,2\n00:00:00.1,3\n");
    EXPECT_NEAR(clock.recording.find("gear")->clock.time_at(2), 0.2, 1e-9) << "past midnight";
    const auto date = read_text(
        "timestamp,gear\n2026-06-13T10:00:00.000Z,1\n2026-06-13T10:00:00.500Z,2\n2026-06-13T10:00:01.000Z,2\n");
    ASSERT_TRUE(date.recording.start_unix_s);
    EXPECT_DOUBLE_EQ(*date.recording.start_unix_s, 1781344800);
    EXPECT_EQ(date.recording.find("gear")->clock.rate_hz, 2);
    const auto ms = read_text("time,gear\n0,1\n50,2\n100,3\n150,3\n");
    EXPECT_EQ(ms.recording.find("gear")->clock.rate_hz, 20);
    EXPECT_TRUE(says(ms, "milliseconds"));
    const auto unix_time = read_text("time,gear\n1781344800.0,1\n1781344800.1,2\n1781344800.2,3\n");
    EXPECT_NEAR(unix_time.recording.find("gear")->clock.rate_hz, 10, 0.01);
    EXPECT_EQ(*unix_time.recording.start_unix_s, 1781344800);
}

TEST(Csv, NeutralAndReverseAreGears) {
    const auto read = read_text("time,Gear,Throttle [%]\n0,N,0\n0.1,N,0\n0.2,R,0\n0.3,N,5\n0.4,1,20\n0.5,2,60\n");
    const Channel* gear = read.recording.find("gear");
    ASSERT_NE(gear, nullptr);
    EXPECT_EQ(gear->at(0), 0);
    EXPECT_EQ(gear->at(2), -1);
    EXPECT_EQ(gear->at(5), 2);
}

TEST(Csv, TwoRowsThatChangedPlacesAreSorted) {
    std::string text = "time,a\n";
    for (int i = 0; i < 60; ++i) {
        const int at = i == 20 ? 21 : i == 21 ? 20 : i;
        text += std::to_string(at / 10) + "." + std::to_string(at % 10) + "," + std::to_string(at) + "\n";
    }
    const auto read = read_text(text);
    ASSERT_EQ(read.recording.find_name("a")->size(), 60U);
    EXPECT_EQ(read.recording.find_name("a")->at(20), 20);
    EXPECT_TRUE(says(read, "they were sorted"));
}

TEST(Csv, NumbersOfManyDigitsKeepThem) {
    const auto read = read_text(
        "time,Odometer [m],Pulses\n0,41234.567,123456789\n0.1,41239.012,123456790\n0.2,41243.457,123456791\n");
    EXPECT_NEAR(read.recording.find_name("Odometer")->at(1), 41239.012, 1e-9);
    EXPECT_EQ(read.recording.find_name("Pulses")->at(2), 123456791);
}

TEST(Csv, WithoutNamesTheFirstRisingColumnIsTheTime) {
    const auto read = read_text("0,5,1\n0.5,6,1\n1,7,2\n1.5,8,2\n");
    ASSERT_EQ(read.recording.channels.size(), 2U);
    EXPECT_EQ(read.recording.channels[0].name, "Column 2");
    EXPECT_EQ(read.recording.channels[0].clock.rate_hz, 2);
    EXPECT_TRUE(says(read, "without names"));
}

TEST(Csv, ThreadsAndBlocksDoNotChangeTheResult) {
    // Several blocks of 1 MB, rows of uneven length across the borders.
    std::string text = "time,a,b\n";
    for (int i = 0; i < 120'000; ++i)
        text += std::to_string(i * 0.01) + "," + std::to_string(i % 977) + "." + std::string(i % 5 + 1, '3') + "," +
                std::to_string(-i) + "\n";
    ASSERT_GT(text.size(), 2U << 20);
    const TempFolder folder;
    const auto file = folder.write("t.csv", text);
    const auto one = read_csv(file, {{}, 1}), four = read_csv(file, {{}, 4});
    ASSERT_TRUE(one && four);
    EXPECT_EQ(content_digest(one->recording), content_digest(four->recording));
    const Channel* b = four->recording.find_name("b");
    ASSERT_EQ(b->size(), 120'000U);
    for (std::size_t i = 0; i < b->size(); i += 501) ASSERT_EQ(b->at(i), -static_cast<double>(i));
}

TEST(Csv, CancelStopsAndProgressGrows) {
    std::string text = "time,a\n";
    for (int i = 0; i < 300'000; ++i) text += std::to_string(i * 0.01) + "," + std::to_string(i) + "\n";
    const TempFolder folder;
    const auto file = folder.write("t.csv", text);
    std::stop_source source;
    double last = 0;
    int reports = 0;
    JobContext job{source.get_token(), [&](double x) {
                       EXPECT_GE(x, last);
                       last = x;
                       if (++reports == 4) source.request_stop();
                   }};
    const auto read = read_csv(file, {{}, 1}, job);
    ASSERT_FALSE(read);
    EXPECT_EQ(read.error().code, ErrorCode::cancelled);
    EXPECT_LT(last, 0.9);
}

TEST(Csv, WrittenTablesReadBackTheSame) {
    const auto& world = test::demo_world();
    Recording recording = demo::pocket_logger(world.circuit, world.runs[0].plan, world.runs[0].drive);
    recording.start_unix_s = 1781344800.25;
    // A slower channel and a regular hole beside it.
    ChannelStorage slow, holed;
    for (int i = 0; i < 500; ++i) slow.floats.push_back(static_cast<float>(350 + i * 0.01));
    for (int i = 0; i < 2000; ++i)
        holed.floats.push_back(i > 700 && i < 800 ? std::nanf("") : static_cast<float>(i) * 0.25F);
    recording.channels.push_back(make_channel("Oil Temp", "oil_temperature", "K", std::move(slow), 0, 2));
    recording.channels.push_back(make_channel("Gear", "gear", "", std::move(holed), 0, 10));
    const TempFolder folder;
    ASSERT_TRUE(write_csv(recording, folder / "out.csv"));
    const auto read = read_csv(folder / "out.csv");
    ASSERT_TRUE(read) << read.error().text();
    ASSERT_EQ(read->recording.channels.size(), recording.channels.size());
    ASSERT_TRUE(read->recording.start_unix_s) << "the date goes with it";
    EXPECT_NEAR(*read->recording.start_unix_s, *recording.start_unix_s, 1e-5);
    for (const Channel& before : recording.channels) {
        const Channel* after = read->recording.find_name(before.name);
        ASSERT_NE(after, nullptr) << before.name;
        EXPECT_EQ(after->quantity, before.quantity);
        EXPECT_EQ(after->unit, before.unit);
        EXPECT_NEAR(after->clock.rate_hz, before.clock.rate_hz, 1e-6) << before.name;
        ASSERT_EQ(after->size(), before.size()) << before.name;
        for (std::size_t i = 0; i < before.size(); i += 3) {
            if (std::isnan(before.at(i)))
                ASSERT_TRUE(std::isnan(after->at(i)));
            else
                ASSERT_NEAR(after->at(i), before.at(i), 1e-6 * std::abs(before.at(i)) + 1e-9)
                    << before.name << " " << i;
        }
    }
}

TEST(TableShape, TimeTexts) {
    EXPECT_DOUBLE_EQ(*parse_time_text("01:02:03.5", '.'), 3723.5);
    EXPECT_DOUBLE_EQ(*parse_time_text("1:24,318", ','), 84.318);
    EXPECT_DOUBLE_EQ(*parse_time_text("1970-01-02 00:00:01", '.'), 86401);
    EXPECT_DOUBLE_EQ(*parse_time_text("2026-06-13T12:00:00+02:00", '.'), 1781344800);
    EXPECT_FALSE(parse_time_text("12.5", '.'));
    EXPECT_FALSE(parse_time_text("a:b", '.'));
    EXPECT_FALSE(parse_time_text("2026-13-41T00:00:00", '.'));
    EXPECT_FALSE(parse_time_text("::", '.'));
}
