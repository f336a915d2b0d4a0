// Single rules of reading tables, each with the smallest table that shows it. Whole tables stand in tests/cases.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>

#include "core/base/text.h"
#include "core/recording/csv_reader.h"
#include "core/recording/mdf_formula.h"
#include "core/recording/motion.h"
#include "core/recording/speed_unit.h"
#include "core/recording/table_shape.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

Result<ReadRecording> read_table(const std::string& text, const CsvOptions& options = {}) {
    const TempFolder folder;
    return read_csv(folder.write("t.csv", text), options);
}

bool says_in_notes(const ReadRecording& read, const std::string& words) {
    for (const auto& note : read.notes) {
        if (note.find(words) != std::string::npos) return true;
    }
    return false;
}

/// "time,a" with one row for each i, as `row` writes it.
std::string table(int rows, const std::function<std::string(int)>& row, const std::string& head = "time [s],a\n") {
    std::string text = head;
    for (int i = 0; i < rows; ++i) text += row(i) + "\n";
    return text;
}

std::string at(int tenths) {
    return rendak::fixed(tenths / 10.0, 1);
}

/// A car that goes round a circle of 120 m radius with 15 … 35 m/s, 10 rows a second.
struct Circle {
    std::vector<double> times, latitude, longitude, speed, along;
    explicit Circle(int rows = 400) {
        double angle = 0;
        for (int i = 0; i < rows; ++i) {
            const double t = 0.1 * i, v = 25 + 10 * std::sin(t / 4);
            times.push_back(t);
            speed.push_back(v);
            along.push_back(2.5 * std::cos(t / 4));
            latitude.push_back(47 + 120 * std::sin(angle) / 111194.93);
            longitude.push_back(8 + 120 * std::cos(angle) / (111194.93 * std::cos(47 * 3.14159265 / 180)));
            angle += v * 0.1 / 120;
        }
    }
    [[nodiscard]] Motion motion() const { return {times, latitude, longitude, speed}; }
};

}  // namespace

TEST(TableOrder, RowsOfOneTimeAreMergedWhereTheyDoNotClash) {
    // Two groups of channels, each with a row of its own.
    const auto merged = read_table(table(
        80, [](int i) { return at(i / 2) + (i % 2 == 0 ? "," + std::to_string(i) + "," : ",," + std::to_string(i)); },
        "time [s],a,b\n"));
    ASSERT_TRUE(merged) << merged.error().text();
    EXPECT_EQ(merged->recording.find_name("a")->size(), 40U);
    EXPECT_EQ(merged->recording.find_name("b")->size(), 40U);
    EXPECT_EQ(merged->recording.find_name("b")->at(3), 7);
    EXPECT_TRUE(says_in_notes(*merged, "they are one row"));
}

TEST(TableOrder, CopiesOfRowsAreLeftOutAndAClockThatIsSetBackGoesOn) {
    const auto copies = read_table(table(104, [](int i) {
        const int row = i < 60 ? i : i - 4;
        return at(row) + "," + std::to_string(row);
    }));
    ASSERT_TRUE(copies) << copies.error().text();
    EXPECT_EQ(copies->recording.find_name("a")->size(), 100U);
    EXPECT_TRUE(says_in_notes(*copies, "4 repeated"));
    const auto back = read_table(table(100, [](int i) { return at(i < 60 ? i : i - 25) + "," + std::to_string(i); }));
    ASSERT_TRUE(back) << back.error().text();
    const Channel* channel = back->recording.find_name("a");
    ASSERT_EQ(channel->size(), 100U) << "no row is lost";
    EXPECT_NEAR(channel->clock.time_at(99), 9.9, 1e-9);
    EXPECT_TRUE(says_in_notes(*back, "is set back 1 time, first at line 62"));
}

TEST(TableOrder, CountersRunOver) {
    // Milliseconds in 16 bits.
    const auto counter = read_table(table(
        900, [](int i) { return std::to_string(i * 100 % 65536) + "," + std::to_string(i); }, "time [ms],a\n"));
    ASSERT_TRUE(counter) << counter.error().text();
    EXPECT_NEAR(counter->recording.find_name("a")->clock.rate_hz, 10, 1e-6);
    EXPECT_EQ(counter->recording.find_name("a")->size(), 900U);
    const auto week = read_table(table(
        60,
        [](int i) { return rendak::fixed(604797.0 + i * 0.1 - (i >= 30 ? 604800 : 0), 1) + "," + std::to_string(i); },
        "GPS Time [s],a\n"));
    ASSERT_TRUE(week) << week.error().text();
    EXPECT_EQ(week->recording.find_name("a")->size(), 60U);
}

TEST(TableOrder, HolesAreSaidWithTheirPlace) {
    const auto holes = read_table(table(100, [](int i) { return at(i < 40 ? i : i + 15) + "," + std::to_string(i); }));
    ASSERT_TRUE(holes);
    EXPECT_TRUE(says_in_notes(*holes, "15 rows are missing in 1 place (the longest 1.60 s, at 3.90 s)"));
    EXPECT_TRUE(std::isnan(holes->recording.find_name("a")->at(45)));
}

TEST(TableClocks, EachTimeColumnIsTheClockOfTheColumnsBehindIt) {
    std::string text = "Time [s],Speed [m/s],Time [s],Oil Temp [°C]\n";
    for (int i = 0; i < 100; ++i)
        text += at(i) + "," + std::to_string(20 + i % 7) + "," +
                (i < 10 ? std::to_string(i) + "," + std::to_string(90 + i) : ",") + "\n";
    const auto read = read_table(text);
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_NEAR(read->recording.find("speed")->clock.rate_hz, 10, 1e-9);
    const Channel* oil = read->recording.find("oil_temperature");
    ASSERT_NE(oil, nullptr);
    EXPECT_NEAR(oil->clock.rate_hz, 1, 1e-9);
    EXPECT_EQ(oil->size(), 10U);
    EXPECT_NEAR(oil->at(9), 99 + 273.15, 1e-3);
    EXPECT_TRUE(says_in_notes(*read, "2 time columns"));
}

TEST(TableQuestions, CarryAnswersThatAreTaken) {
    const std::string text = table(
        60, [](int i) { return at(i) + "," + std::to_string(80 + i) + "," + std::to_string(i); },
        "time [s],Speed,Brake Pressure\n");
    const auto asked = read_table(text);
    ASSERT_FALSE(asked);
    EXPECT_EQ(asked.error().code, ErrorCode::needs_answer);
    ASSERT_EQ(asked.error().questions.size(), 1U) << asked.error().message;
    const Question& question = asked.error().questions[0];
    EXPECT_EQ(question.about, "Speed");
    for (const Question::Answer& answer : question.answers) {
        CsvOptions options;
        options.mapping.emplace();
        for (const std::string& take : takes_of(answer)) {
            const auto column = answered_column(take);
            ASSERT_TRUE(column) << take;
            options.mapping->columns.push_back(*column);
        }
        const auto read = read_table(text, options);
        ASSERT_TRUE(read) << read.error().text();
        const Channel* speed = read->recording.find("speed");
        if (answer.take == "Speed=")
            EXPECT_EQ(speed, nullptr);
        else
            EXPECT_NEAR(speed->at(0), answer.take == "Speed=speed:mph" ? 80 * 0.44704 : 80 / 3.6, 1e-4) << answer.take;
    }
    CsvOptions later;
    later.keep_unanswered = true;
    const auto kept = read_table(text, later);
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->recording.find("speed"), nullptr);
    EXPECT_NE(kept->recording.find_name("Speed"), nullptr);
    EXPECT_TRUE(says_in_notes(*kept, "kept under its own name only"));
}

TEST(TableQuestions, AnswersAreCheckedBeforeTheyAreTaken) {
    EXPECT_EQ(answered_column("Speed=speed:mph")->unit, "mph");
    EXPECT_EQ(answered_column("a=b=speed:m/s")->name, "a=b") << "names may hold the sign";
    EXPECT_FALSE(answered_column("Speed=drop")->use);
    EXPECT_TRUE(answered_column("Speed=")->quantity.empty());
    for (const char* wrong : {"Speed", "=speed", "Speed=quickness:mph", ""})
        EXPECT_FALSE(answered_column(wrong)) << wrong;
    EXPECT_EQ(takes_of({"a=speed\nb=gear", ""}), (std::vector<std::string>{"a=speed", "b=gear"}));
}

TEST(TableQuestions, ASignThatMayBeEither) {
    const auto whole = [](const char* name, int first) {
        return table(
            60,
            [first](int i) {
                return std::to_string(i * 100) + "\t" + std::to_string(first + i / 30) + "," + std::to_string(100 + i);
            },
            std::string("Time [ms]\t") + name + "\n");
    };
    const auto revs = read_table(whole("RPM [rpm]", 5));
    ASSERT_TRUE(revs) << revs.error().text();
    EXPECT_NEAR(revs->recording.find("engine_speed")->at(0) * 30 / 3.14159265358979, 5100, 0.1)
        << "no engine runs at 5 rpm";
    EXPECT_TRUE(says_in_notes(*revs, "stands between thousands"));
    const auto unknown = read_table(whole("Boost", 5));
    ASSERT_FALSE(unknown) << "nobody can tell what 5,100 is here";
    EXPECT_EQ(unknown.error().code, ErrorCode::needs_answer);
    EXPECT_EQ(unknown.error().questions.at(0).about, "Boost");
}

TEST(TableHead, UnitsThatDoNotFitTheNameAreNoUnits) {
    for (const auto& [name, left, unit] : {std::tuple{"lat_n", "lat_n", ""},
                                           {"Speed_kmh", "Speed", "kmh"},
                                           {"Speed {km/h}", "Speed", "km/h"},
                                           {"Speed - km/h", "Speed", "km/h"},
                                           {"Speed in mph", "Speed", "mph"},
                                           {"Brake <bar>", "Brake", "bar"},
                                           {"time_ms", "time", "ms"},
                                           {"RPM x 1000", "RPM x 1000", ""}}) {
        const auto shape = find_table_shape(std::string(name) + ";b\n1;2\n2;3\n3;4\n4;5\n", "t.csv");
        ASSERT_TRUE(shape) << name;
        EXPECT_EQ(shape->columns[0].name, left);
        EXPECT_EQ(shape->columns[0].unit, unit) << name;
    }
}

TEST(Motion, TellsTheUnitOfASpeed) {
    const Circle car;
    const auto way = travelled(car.motion());
    ASSERT_TRUE(way);
    EXPECT_NEAR(way->by_position / way->by_speed, 1, 0.02);
    EXPECT_LT(way->spread, 0.02);
    for (const auto& [factor, unit] :
         {std::pair{1.0, "m/s"}, {3.6, "km/h"}, {1 / 0.44704, "mph"}, {3600 / 1852.0, "kn"}}) {
        std::vector<double> speed = car.speed;
        for (double& v : speed) v *= factor;
        EXPECT_EQ(speed_unit_from_positions(car.times, car.latitude, car.longitude, speed), unit);
        // Knots are nobody's unit on a road; 1.94 of them lie too near to mph for an accelerometer.
        if (std::string(unit) != "kn") EXPECT_EQ(speed_unit_from_acceleration(car.times, car.along, speed), unit);
    }
    std::vector<double> odd = car.speed;
    for (double& v : odd) v *= 2.9;
    EXPECT_EQ(speed_unit_from_positions(car.times, car.latitude, car.longitude, odd), "") << "none fits";
    EXPECT_EQ(speed_unit_from_positions(car.times, {}, {}, car.speed), "");
    EXPECT_FALSE(liveliness(car.times, std::vector<double>(car.times.size(), 30.0))) << "it does not change";
    EXPECT_NEAR(liveliness(car.times, car.speed).value_or(0), 2.45, 0.2);
}

TEST(TablePlaces, ThatContradictTheSpeedAreNoPositions) {
    // Degrees that were written a hundred times too large pass for degrees and minutes, and creep.
    const Circle car;
    std::string text = "time [s],Latitude,Longitude,Speed [m/s]\n";
    for (std::size_t i = 0; i < car.times.size(); ++i)
        text += rendak::fixed(car.times[i], 1) + "," + rendak::fixed(car.latitude[i] * 100, 6) + "," +
                rendak::fixed(car.longitude[i] * 100, 6) + "," + rendak::fixed(car.speed[i], 2) + "\n";
    const auto read = read_table(text);
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->recording.find("latitude"), nullptr);
    EXPECT_EQ(read->recording.find("longitude"), nullptr);
    EXPECT_NE(read->recording.find("speed"), nullptr);
    EXPECT_NE(read->recording.find_name("Latitude"), nullptr) << "kept by its name";
}

TEST(MdfFormula, OneLineOfArithmetic) {
    const auto value = [](const char* text, double x) {
        const auto formula = mdf::formula_of(text);
        return formula ? (*formula)(x) : -999;
    };
    EXPECT_DOUBLE_EQ(value("X*0.5+3", 4), 5);
    EXPECT_DOUBLE_EQ(value("2 - 3 - X", 1), -2) << "from left to right";
    EXPECT_DOUBLE_EQ(value("-X^2", 3), -9) << "the power binds more than the sign";
    EXPECT_DOUBLE_EQ(value("2^3^2", 0), 512) << "powers from right to left";
    EXPECT_DOUBLE_EQ(value("X1**2", 3), 9);
    EXPECT_NEAR(value("sqrt(abs(X)) + pow(2, 3)", -16), 12, 1e-12);
    EXPECT_NEAR(value("log10(1e3) + ln(exp(1)) * cos(0)", 0), 4, 1e-12);
    EXPECT_NEAR(value("4*atan(1) - pi", 0), 0, 1e-12);
    for (const char* text : {"", "X+", "lookup(X)", "X y", "(X", "X)", "2,3", "sqrt X", "1e"})
        EXPECT_FALSE(mdf::formula_of(text)) << text;
    EXPECT_FALSE(mdf::formula_of(std::string(1500, '(') + "X" + std::string(1500, ')'))) << "made to break its reader";
    EXPECT_TRUE(std::isinf(value("1/X", 0))) << "that is a missing sample later on";
}
