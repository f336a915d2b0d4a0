// One drive, written down in every way that people and programs write positions, times and numbers: it must come back
// as it was, or be asked for. Places on all four quarters of the earth.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdio>
#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/recording/csv_reader.h"
#include "core/recording/recording.h"
#include "tests/support/temp_folder.h"

using namespace rendak;

namespace {

std::string text(const char* format, double value) {
    char out[64];
    std::snprintf(out, sizeof out, format, value);
    return out;
}

/// A circle of 150 m, 40 s at ten rows a second, driven with 20 … 32 m/s.
struct WrittenDrive {
    static constexpr int rows = 400;
    std::vector<double> latitude, longitude, speed;
    WrittenDrive(double north, double east) {
        double angle = 0.3;
        for (int i = 0; i < rows; ++i) {
            const double v = 26 + 6 * std::sin(0.05 * i);
            latitude.push_back(north + 150 * std::sin(angle) / 111194.93);
            longitude.push_back(east + 150 * std::cos(angle) / (111194.93 * std::cos(north * M_PI / 180)));
            speed.push_back(v);
            angle += v * 0.1 / 150;
        }
    }
    [[nodiscard]] static double time_s(int row) { return 0.1 * row; }
};

/// A way of writing: names of the columns with their units, and their cells in one row.
struct Way {
    const char* name;
    std::string head;
    std::function<std::string(double latitude, double longitude)> cells;
};

struct Read {
    std::optional<Recording> recording;
    bool asked = false;
    std::string words;
};
Read read_table(const std::string& table) {
    const test::TempFolder folder;
    auto read = read_csv(folder.write("t.csv", table));
    Read out;
    if (read)
        out.recording = std::move(read->recording);
    else {
        out.asked = read.error().code == ErrorCode::needs_answer;
        out.words = read.error().text();
    }
    return out;
}

std::string minutes_of(double value, const char* format) {
    const double size = std::abs(value), degrees = std::floor(size);
    return text(format, degrees * 100 + (size - degrees) * 60);
}
std::string marks_of(double value) {
    const double size = std::abs(value);
    const double degrees = std::floor(size), minutes = std::floor((size - degrees) * 60);
    const double seconds = ((size - degrees) * 60 - minutes) * 60;
    return text("%.0f", degrees) + "°" + text("%02.0f", minutes) + "'" + text("%07.4f", seconds) + "\"";
}
std::string north(double value) {
    return value < 0 ? "S" : "N";
}
std::string east(double value) {
    return value < 0 ? "W" : "E";
}

const std::vector<Way>& ways() {
    static const std::vector<Way> all{
        {"degrees", "Latitude [deg];Longitude [deg]",
         [](double a, double b) { return text("%.8f", a) + ";" + text("%.8f", b); }},
        {"degrees, no unit", "latitude;longitude",
         [](double a, double b) { return text("%.8f", a) + ";" + text("%.8f", b); }},
        {"longitude first", "Lon;Lat", [](double a, double b) { return text("%.8f", b) + ";" + text("%.8f", a); }},
        {"letters behind", "Latitude;Longitude",
         [](double a, double b) {
             return text("%.8f", std::abs(a)) + north(a) + ";" + text("%.8f", std::abs(b)) + east(b);
         }},
        {"letters before", "Latitude;Longitude",
         [](double a, double b) {
             return north(a) + text("%.8f", std::abs(a)) + ";" + east(b) + text("%.8f", std::abs(b));
         }},
        {"letters in columns of their own", "Latitude;N/S;Longitude;E/W",
         [](double a, double b) {
             return text("%.8f", std::abs(a)) + ";" + north(a) + ";" + text("%.8f", std::abs(b)) + ";" + east(b);
         }},
        {"degrees and minutes in one number", "Latitude;N/S;Longitude;E/W",
         [](double a, double b) {
             return minutes_of(a, "%010.5f") + ";" + north(a) + ";" + minutes_of(b, "%011.5f") + ";" + east(b);
         }},
        {"degrees and minutes, as short as they are", "Latitude;N/S;Longitude;E/W",
         [](double a, double b) {
             return minutes_of(a, "%.5f") + ";" + north(a) + ";" + minutes_of(b, "%.5f") + ";" + east(b);
         }},
        {"degrees with leading zeros", "Latitude;Longitude",
         [](double a, double b) { return text("%013.8f", a) + ";" + text("%013.8f", b); }},
        {"minutes", "Latitude [min];Longitude [min]",
         [](double a, double b) { return text("%.6f", 60 * a) + ";" + text("%.6f", 60 * b); }},
        {"radians", "Latitude [rad];Longitude [rad]",
         [](double a, double b) { return text("%.10f", a * M_PI / 180) + ";" + text("%.10f", b * M_PI / 180); }},
        {"ten millionths", "Latitude [1e-7 deg];Longitude [1e-7 deg]",
         [](double a, double b) { return text("%.0f", 1e7 * a) + ";" + text("%.0f", 1e7 * b); }},
        {"degrees, minutes, seconds", "Latitude;Longitude",
         [](double a, double b) { return marks_of(a) + north(a) + ";" + marks_of(b) + east(b); }},
        {"both in one cell", "Position", [](double a, double b) { return text("%.8f", a) + " " + text("%.8f", b); }},
        {"longitude from 0 to 360", "Latitude;Longitude",
         [](double a, double b) { return text("%.8f", a) + ";" + text("%.8f", b < 0 ? b + 360 : b); }},
        {"decimal comma", "Latitude;Longitude",
         [](double a, double b) {
             std::string out = text("%.8f", a) + ";" + text("%.8f", b);
             for (char& c : out) c = c == '.' ? ',' : c;
             return out;
         }},
    };
    return all;
}

}  // namespace

TEST(TableWriting, PositionsComeBackOrAreAskedFor) {
    const std::pair<double, double> quarters[] = {{47.2, 8.4},    {-33.9, 151.2}, {38.1, -122.4},
                                                  {-23.7, -46.7}, {51.5, -0.1},   {0.3, 32.5}};
    int right = 0, asked = 0, refused = 0;
    for (const Way& way : ways()) {
        for (const auto& [north_deg, east_deg] : quarters) {
            const WrittenDrive drive(north_deg, east_deg);
            std::string table = "time [s];speed [m/s];" + way.head + "\n";
            const bool comma = std::string(way.name) == "decimal comma";
            for (int i = 0; i < WrittenDrive::rows; ++i) {
                const auto row = static_cast<std::size_t>(i);
                std::string line = text("%.1f", WrittenDrive::time_s(i)) + ";" + text("%.3f", drive.speed[row]) + ";";
                if (comma)
                    for (char& c : line) c = c == '.' ? ',' : c;
                table += line + way.cells(drive.latitude[row], drive.longitude[row]) + "\n";
            }
            const std::string where =
                std::string(way.name) + " at " + text("%.1f", north_deg) + ", " + text("%.1f", east_deg);
            const Read read = read_table(table);
            if (!read.recording) {
                (read.asked ? asked : refused) += 1;
                EXPECT_FALSE(read.words.empty());
                continue;
            }
            const Channel* latitude = read.recording->find("latitude");
            const Channel* longitude = read.recording->find("longitude");
            ASSERT_TRUE(latitude != nullptr && longitude != nullptr) << where;
            ASSERT_EQ(latitude->size(), static_cast<std::size_t>(WrittenDrive::rows)) << where;
            for (std::size_t i = 0; i < WrittenDrive::rows; ++i) {
                // Within a decimetre and a half: that of five decimals of a minute and four of a second is less.
                ASSERT_NEAR(latitude->at(i), drive.latitude[i], 1.5e-6) << where << ", row " << i;
                ASSERT_NEAR(longitude->at(i), drive.longitude[i], 1.5e-6) << where << ", row " << i;
            }
            ++right;
        }
    }
    const int all = static_cast<int>(ways().size() * std::size(quarters));
    std::printf("Positions: %d right, %d asked, %d refused of %d\n", right, asked, refused, all);
    EXPECT_EQ(right, all);
}

// ---- times -------------------------------------------------------------------------------------------

namespace {

struct Clock {
    const char* name;
    const char* head;
    std::function<std::string(double seconds)> cell;
    bool dated = false;  ///< it says that it was on 13 June 2026 at 10:59:50 UTC
};

constexpr double begin_unix_s = 1781348390;  // 2026-06-13 10:59:50 UTC: the drive runs over the hour

std::string of_day(double seconds, const char* format) {
    const double t = 39590 + seconds;
    const int h = static_cast<int>(t / 3600), m = static_cast<int>(t / 60) % 60;
    char out[64];
    std::snprintf(out, sizeof out, format, h, m, t - 3600.0 * h - 60.0 * m);
    return out;
}

const std::vector<Clock>& clocks() {
    static const std::vector<Clock> all{
        {"seconds", "time [s]", [](double t) { return text("%.1f", t); }},
        {"milliseconds", "time [ms]", [](double t) { return text("%.0f", 1e3 * t); }},
        {"msec", "time (msec)", [](double t) { return text("%.0f", 1e3 * t); }},
        {"microseconds", "time [µs]", [](double t) { return text("%.0f", 1e6 * t); }},
        {"nanoseconds", "time [ns]", [](double t) { return text("%.0f", 1e9 * t); }},
        {"minutes", "time [min]", [](double t) { return text("%.8f", t / 60); }},
        {"hours", "time [h]", [](double t) { return text("%.10f", t / 3600); }},
        {"Unix seconds", "time", [](double t) { return text("%.1f", begin_unix_s + t); }, true},
        {"Unix milliseconds", "time", [](double t) { return text("%.0f", 1e3 * (begin_unix_s + t)); }, true},
        {"a clock", "time", [](double t) { return of_day(t, "%02d:%02d:%04.1f"); }},
        {"a date and a clock", "time", [](double t) { return "2026-06-13 " + of_day(t, "%02d:%02d:%06.3f"); }, true},
        {"ISO", "time", [](double t) { return "2026-06-13T" + of_day(t, "%02d:%02d:%06.3fZ"); }, true},
        {"day first", "time", [](double t) { return "13.06.2026 " + of_day(t, "%02d:%02d:%06.3f"); }, true},
        {"a month's name", "time", [](double t) { return "13-Jun-2026 " + of_day(t, "%02d:%02d:%06.3f"); }, true},
        {"a stop watch", "time", [](double t) { return "0:" + text("%06.3f", t); }},
        {"hhmmss", "time [hhmmss]", [](double t) { return of_day(t, "%02d%02d%04.1f"); }},
        {"Zeit", "Zeit [s]", [](double t) { return text("%.1f", t); }},
    };
    return all;
}

}  // namespace

TEST(TableWriting, TimesComeBackOrAreAskedFor) {
    const WrittenDrive drive(47.2, 8.4);
    int right = 0, asked = 0, refused = 0;
    for (const Clock& clock : clocks()) {
        std::string table = std::string(clock.head) + ";speed [m/s];latitude [deg];longitude [deg]\n";
        for (int i = 0; i < WrittenDrive::rows; ++i) {
            const auto row = static_cast<std::size_t>(i);
            table += clock.cell(WrittenDrive::time_s(i)) + ";" + text("%.3f", drive.speed[row]) + ";" +
                     text("%.8f", drive.latitude[row]) + ";" + text("%.8f", drive.longitude[row]) + "\n";
        }
        const Read read = read_table(table);
        if (!read.recording) {
            (read.asked ? asked : refused) += 1;
            ADD_FAILURE() << clock.name << ": " << read.words;
            continue;
        }
        const Channel* speed = read.recording->find("speed");
        ASSERT_NE(speed, nullptr) << clock.name;
        ASSERT_EQ(speed->size(), static_cast<std::size_t>(WrittenDrive::rows)) << clock.name;
        const double first = speed->clock.time_at(0);
        for (std::size_t i = 0; i < WrittenDrive::rows; ++i)
            ASSERT_NEAR(speed->clock.time_at(i) - first, 0.1 * static_cast<double>(i), 0.002)
                << clock.name << ", row " << i;
        if (clock.dated) {
            ASSERT_TRUE(read.recording->start_unix_s) << clock.name;
            EXPECT_NEAR(*read.recording->start_unix_s + first, begin_unix_s, 1) << clock.name;
        }
        ++right;
    }
    std::printf("Times: %d right, %d asked, %d refused of %zu\n", right, asked, refused, clocks().size());
}

// ---- numbers -----------------------------------------------------------------------------------------

TEST(TableWriting, NumbersOfAllHandsAreTheSame) {
    struct Hand {
        const char* name;
        char delimiter;
        std::function<std::string(double)> cell;
    };
    const auto with = [](const std::string& cell, char from, const std::string& to) {
        std::string out;
        for (const char c : cell) out += c == from ? to : std::string(1, c);
        return out;
    };
    const auto grouped = [](double value, const std::string& between, char sign) {
        std::string whole = text("%.0f", std::floor(std::abs(value))),
                    rest = text("%.2f", std::abs(value) - std::floor(std::abs(value)));
        for (auto at = static_cast<std::ptrdiff_t>(whole.size()) - 3; at > 0; at -= 3)
            whole.insert(static_cast<std::size_t>(at), between);
        return (value < 0 ? "-" : "") + whole + sign + rest.substr(2);
    };
    const std::vector<Hand> hands{
        {"point", ',', [](double x) { return text("%.2f", x); }},
        {"comma", ';', [&](double x) { return with(text("%.2f", x), '.', ","); }},
        {"spaces between thousands", ';', [&](double x) { return grouped(x, " ", ','); }},
        {"points between thousands", ';', [&](double x) { return grouped(x, ".", ','); }},
        {"commas between thousands", ';', [&](double x) { return grouped(x, ",", '.'); }},
        {"apostrophes between thousands", ';', [&](double x) { return grouped(x, "'", '.'); }},
        {"a true minus", ',', [&](double x) { return with(text("%.2f", x), '-', "\xE2\x88\x92"); }},
        {"a minus behind", ',', [](double x) { return text("%.2f", std::abs(x)) + (x < 0 ? "-" : ""); }},
        {"brackets", ',', [](double x) { return x < 0 ? "(" + text("%.2f", -x) + ")" : text("%.2f", x); }},
        {"quotes", ',', [](double x) { return "\"" + text("%.2f", x) + "\""; }},
        {"exponents", ',', [](double x) { return text("%.8e", x); }},
        {"a plus", ',', [](double x) { return text("%+.2f", x); }},
    };
    for (const Hand& hand : hands) {
        std::string table =
            std::string("time [s]") + hand.delimiter + "Engine Speed [rpm]" + hand.delimiter + "Force [N]\n";
        std::vector<double> revs, force;
        for (int i = 0; i < 300; ++i) {
            revs.push_back(std::round(100 * (4500 + 3000 * std::sin(0.1 * i))) / 100);
            force.push_back(std::round(100 * (-2500 * std::cos(0.07 * i) + 300)) / 100);
            std::string time = text("%.1f", 0.1 * i);
            if (hand.cell(1.5).find(',') != std::string::npos) time = with(time, '.', ",");
            table += time + hand.delimiter + hand.cell(revs.back()) + hand.delimiter + hand.cell(force.back()) + "\n";
        }
        const Read read = read_table(table);
        ASSERT_TRUE(read.recording) << hand.name << ": " << read.words;
        const Channel* engine = read.recording->find("engine_speed");
        const Channel* pushed = read.recording->find_name("Force");
        ASSERT_TRUE(engine != nullptr && pushed != nullptr) << hand.name;
        const double to_rpm = engine->unit == "rpm" ? 1 : 30 / M_PI;
        for (std::size_t i = 0; i < revs.size(); ++i) {
            ASSERT_NEAR(engine->at(i) * (engine->unit == "Hz" || engine->unit == "1/s" ? 60 : to_rpm), revs[i], 0.01)
                << hand.name << ", row " << i;
            ASSERT_NEAR(pushed->at(i), force[i], 0.01) << hand.name << ", row " << i;
        }
    }
}

// ---- files -------------------------------------------------------------------------------------------

TEST(TableWriting, DelimitersLineEndsAndMarksMakeNoDifference) {
    const auto written = [](char delimiter, const std::string& line_end, const std::string& mark, bool last_end,
                            bool blanks) {
        std::string out = mark;
        const auto cell = [&](const std::string& value) { return blanks ? "  " + value + " " : value; };
        const auto line = [&](const std::vector<std::string>& cells) {
            for (std::size_t c = 0; c < cells.size(); ++c)
                out += (c == 0 ? "" : std::string(1, delimiter)) + cell(cells[c]);
        };
        line({"time [s]", "speed [km/h]", "Oil pressure [bar]"});
        for (int i = 0; i < 250; ++i) {
            out += line_end;
            line({text("%.2f", 0.05 * i), text("%.1f", 120 + 40 * std::sin(0.03 * i)),
                  i % 5 == 2 ? "" : text("%.2f", 3.5 + 0.002 * i)});
        }
        return out + (last_end ? line_end : "");
    };
    const Read first = read_table(written(',', "\n", "", true, false));
    ASSERT_TRUE(first.recording) << first.words;
    ASSERT_EQ(first.recording->channels.size(), 2U);
    const std::string digest = content_digest(*first.recording);
    int same = 0;
    for (const char delimiter : {',', ';', '\t', '|'}) {
        for (const char* line_end : {"\n", "\r\n"}) {
            for (const char* mark : {"", "\xEF\xBB\xBF"}) {
                for (const bool last_end : {true, false}) {
                    for (const bool blanks : {false, true}) {
                        const Read read = read_table(written(delimiter, line_end, mark, last_end, blanks));
                        const std::string where = std::string("delimiter '") + delimiter + "', line end of " +
                                                  std::to_string(std::string(line_end).size()) +
                                                  (blanks ? ", blanks" : "");
                        ASSERT_TRUE(read.recording) << where << ": " << read.words;
                        EXPECT_EQ(content_digest(*read.recording), digest) << where;
                        same += content_digest(*read.recording) == digest ? 1 : 0;
                    }
                }
            }
        }
    }
    EXPECT_EQ(same, 64);
}

TEST(TableWriting, ManyThreadsReadWhatOneReads) {
    std::string table = "time [s];speed [m/s];latitude [deg];longitude [deg]\n";
    const WrittenDrive drive(47.2, 8.4);
    for (int turn = 0; turn < 60; ++turn)
        for (int i = 0; i < WrittenDrive::rows; ++i) {
            const auto row = static_cast<std::size_t>(i);
            table += text("%.1f", WrittenDrive::time_s(i) + 40 * turn) + ";" + text("%.3f", drive.speed[row]) + ";" +
                     text("%.8f", drive.latitude[row]) + ";" + text("%.8f", drive.longitude[row]) + "\n";
        }
    const test::TempFolder folder;
    const auto file = folder.write("t.csv", table);
    std::set<std::string> digests;
    for (const unsigned threads : {1U, 2U, 5U}) {
        CsvOptions options;
        options.threads = threads;
        const auto read = read_csv(file, options);
        ASSERT_TRUE(read) << read.error().text();
        digests.insert(content_digest(read->recording));
    }
    EXPECT_EQ(digests.size(), 1U);
}
