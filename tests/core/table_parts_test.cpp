// Steps of reading a table, each by itself: its characters, its lines, its rows in the order of time.
#include <gtest/gtest.h>

#include <cmath>
#include <numeric>
#include <random>

#include "core/recording/fill_values.h"
#include "core/recording/row_order.h"
#include "core/recording/table_body.h"
#include "core/recording/table_rows.h"
#include "core/recording/table_text.h"
#include "core/recording/table_units.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using test::got;

namespace {

const double none = std::nan("");

/// Rows as if they had been read: columns by the quantities they are.
struct Rows {
    TableRows rows;
    explicit Rows(const std::vector<std::pair<std::string, std::vector<double>>>& columns) {
        rows.file = "t.csv";
        rows.shape.first_data_line = 2;
        rows.shape.columns.resize(columns.size());
        rows.columns = std::vector<BodyColumn>(columns.size());
        rows.count = columns.front().second.size();
        for (std::size_t c = 0; c < columns.size(); ++c) {
            rows.shape.columns[c].name = columns[c].first;
            BodyColumn& column = rows.columns[c];
            column.head = &rows.shape.columns[c];
            column.quantity = find_quantity(columns[c].first);
            column.is_double = true;
            column.doubles.assign(columns[c].second.begin(), columns[c].second.end());
        }
    }
    [[nodiscard]] bool says(const std::string& words) const {
        for (const std::string& note : rows.notes)
            if (note.find(words) != std::string::npos) return true;
        return false;
    }
    [[nodiscard]] std::vector<double> column(std::size_t c) const { return rows.values(rows.columns[c]); }
};

std::vector<double> counting(std::size_t count, double step = 1) {
    std::vector<double> out(count);
    for (std::size_t i = 0; i < count; ++i) out[i] = step * static_cast<double>(i);
    return out;
}

/// Times 0, 0.1 … and a channel that tells which row each was.
struct Timed : Rows {
    std::vector<double> times;
    explicit Timed(std::vector<double> seconds)
        : Rows({{"speed", counting(seconds.size())}}), times(std::move(seconds)) {}
    [[nodiscard]] Result<std::vector<double>> ordered() { return order_rows(rows, times, "time"); }
};

std::string utf16(const std::u16string& text, bool big, bool mark) {
    std::string out = mark ? (big ? "\xFE\xFF" : "\xFF\xFE") : "";
    for (const char16_t unit : text) {
        const char low = static_cast<char>(unit & 0xFF), high = static_cast<char>(unit >> 8);
        out += big ? high : low;
        out += big ? low : high;
    }
    return out;
}

}  // namespace

// ---- characters ------------------------------------------------------------------------------------

TEST(TableCharacters, OfSixteenBitsBecomeEight) {
    const test::TempFolder folder;
    // A letter of one byte, of two, of three, and one beyond the sixteen bits.
    const std::u16string text = u"time;µ;€;\U0001F3C1\n0;1;2;3\n";
    const std::string eight = "time;\xC2\xB5;\xE2\x82\xAC;\xF0\x9F\x8F\x81\n0;1;2;3\n";
    for (const bool big : {false, true}) {
        const auto read = got(TableText::open(folder.write("t.csv", utf16(text, big, true))));
        EXPECT_TRUE(read.was_utf16());
        EXPECT_EQ(read.text(), eight) << big;
    }
}

TEST(TableCharacters, OfSixteenBitsAreKnownWithoutAMark) {
    const test::TempFolder folder;
    for (const bool big : {false, true}) {
        const auto read = got(TableText::open(folder.write("t.csv", utf16(u"time,speed\n0,10\n1,11\n", big, false))));
        EXPECT_EQ(read.text(), "time,speed\n0,10\n1,11\n") << big;
    }
}

TEST(TableCharacters, HalvesOfAPairAreReplaced) {
    const test::TempFolder folder;
    const std::u16string broken{u'a', char16_t(0xDC01), u'b', u'\n', u'1', u'2', u'3', u'4'};
    const auto read = got(TableText::open(folder.write("t.csv", utf16(broken, false, true))));
    EXPECT_EQ(read.text(),
              "a\xEF\xBF\xBD"
              "b\n1234");
}

TEST(TableCharacters, OfEightBitsStayWhereTheyAre) {
    const test::TempFolder folder;
    for (const std::string text : {"time,\xB5m\n0,1\n", "short", "", "\xEF\xBB\xBFtime\n0\n"}) {
        const auto read = got(TableText::open(folder.write("t.csv", text)));
        EXPECT_EQ(read.text(), text);
        EXPECT_FALSE(read.was_utf16());
        EXPECT_FALSE(read.shrank());
    }
    EXPECT_FALSE(TableText::open(folder / "gone.csv"));
}

// ---- lines -----------------------------------------------------------------------------------------

TEST(TableLines, AreCountedWithOrWithoutALastEnd) {
    EXPECT_EQ(lines_of(""), 0U);
    EXPECT_EQ(lines_of("a"), 1U);
    EXPECT_EQ(lines_of("a\n"), 1U);
    EXPECT_EQ(lines_of("a\nb"), 2U);
    EXPECT_EQ(lines_of("\n\n\n"), 3U);
    EXPECT_EQ(lines_of("a\r\nb\r\n"), 2U);
}

TEST(TableLines, BlocksEndWithThemAndLoseNothing) {
    std::mt19937 random(5);
    std::string text = "head,line\n";
    while (text.size() < 5'000'000) text += std::string(random() % 200, 'x') + "\n";
    text += "no end";
    const auto blocks = cut_into_blocks(text, 10);
    ASSERT_GE(blocks.size(), 4U);
    std::size_t at = 10, lines = 0;
    for (const TextBlock& block : blocks) {
        EXPECT_EQ(block.begin, at);
        EXPECT_TRUE(block.end == text.size() || text[block.end - 1] == '\n');
        lines += lines_of(std::string_view(text).substr(block.begin, block.end - block.begin));
        at = block.end;
    }
    EXPECT_EQ(at, text.size());
    EXPECT_EQ(lines, lines_of(std::string_view(text).substr(10)));
    EXPECT_TRUE(cut_into_blocks(text, text.size()).empty());
    // A line longer than a block is one block.
    EXPECT_EQ(cut_into_blocks(std::string(3'000'000, 'x'), 0).size(), 1U);
}

TEST(TableLines, CellsAreBareAndQuotesHoldDelimiters) {
    const auto cells = [](std::string_view line, char delimiter) {
        std::vector<std::string> out;
        for (const auto cell : split_cells(line, delimiter)) out.emplace_back(cell);
        return out;
    };
    EXPECT_EQ(cells("a, b ,c", ','), (std::vector<std::string>{"a", "b", "c"}));
    EXPECT_EQ(cells("\"a,b\",c", ','), (std::vector<std::string>{"a,b", "c"}));
    EXPECT_EQ(cells("a;;b;", ';').size(), 4U);
    EXPECT_EQ(cells("1\t2", '\t'), (std::vector<std::string>{"1", "2"}));
    for (const char* missing : {"", "nan", "NaN", "n/a", "null", "-"}) EXPECT_TRUE(is_missing(missing)) << missing;
    for (const char* value : {"0", "-1", "none of it", "x"}) EXPECT_FALSE(is_missing(value)) << value;
}

// ---- columns ---------------------------------------------------------------------------------------

TEST(TableColumns, ExtentsAreThoseOfTheNumbersThatAreThere) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> any(-1000, 1000);
    for (const bool is_double : {false, true}) {
        for (std::size_t count = 0; count < 40; ++count) {
            BodyColumn column;
            column.is_double = is_double;
            double low = std::numeric_limits<double>::infinity(), high = -low;
            std::size_t filled = 0;
            column.floats.resize(count);
            column.doubles.resize(count);
            for (std::size_t i = 0; i < count; ++i) {
                column.set(i, random() % 3 == 0 ? none : any(random));
                if (std::isnan(column.at(i))) continue;
                low = std::min(low, column.at(i));
                high = std::max(high, column.at(i));
                ++filled;
            }
            const Extent extent = extent_of(column, count);
            EXPECT_EQ(extent.low, low) << count;
            EXPECT_EQ(extent.high, high) << count;
            EXPECT_EQ(extent.filled, filled) << count;
        }
    }
}

TEST(TableColumns, AreFoundByTheirQuantityWhileTheyAreWanted) {
    Rows table({{"speed", {1, 2}}, {"nonsense", {3, 4}}, {"speed", {5, 6}}});
    EXPECT_EQ(table.rows.find("speed"), &table.rows.columns[0]);
    table.rows.columns[0].wanted = false;
    EXPECT_EQ(table.rows.find("speed"), &table.rows.columns[2]);
    EXPECT_EQ(table.rows.find("nonsense"), nullptr);
    EXPECT_EQ(table.rows.where(3), "t.csv:5");
    EXPECT_EQ(table.rows.values(table.rows.columns[2], 1, 2), std::vector<double>{6});
}

TEST(TableColumns, RowsAreKeptAndPutInAnotherOrder) {
    Rows table({{"speed", {1, 2, 3, 4}}, {"gear", {5, 6, none, 8}}});
    table.rows.reorder({3, 2, 1, 0});
    EXPECT_EQ(table.column(0), (std::vector<double>{4, 3, 2, 1}));
    EXPECT_TRUE(std::isnan(table.column(1)[1]));
    table.rows.keep({0, 2});
    EXPECT_EQ(table.rows.count, 2U);
    EXPECT_EQ(table.column(0), (std::vector<double>{4, 2}));
    EXPECT_EQ(table.column(1), (std::vector<double>{8, 6}));
}

TEST(TableColumns, ALongTableIsLookedAtWhereTheCarGoes) {
    std::vector<double> speed(200'000, 0);
    for (std::size_t i = 120'000; i < 190'000; ++i) speed[i] = 50;
    Rows table({{"speed", speed}});
    const auto stretch = table.rows.lively_rows();
    EXPECT_EQ(stretch.to - stretch.from, 50'000U);
    EXPECT_GE(stretch.from, 119'990U);
    Rows unknown({{"gear", counting(200'000)}});
    EXPECT_EQ(unknown.rows.lively_rows().from, 75'000U) << "its middle";
    Rows small({{"speed", {1, 2, 3}}});
    EXPECT_EQ(small.rows.lively_rows().to, 3U);
}

TEST(TableColumns, PlacesAndTimesWantManyDigits) {
    Rows table({{"speed", {1}}, {"latitude", {1}}, {"longitude", {1}}, {"time", {1}}});
    for (std::size_t c = 0; c < 4; ++c) EXPECT_EQ(wants_double(table.rows.columns[c]), c > 0) << c;
    table.rows.shape.columns[0].many_digits = true;
    EXPECT_TRUE(wants_double(table.rows.columns[0]));
}

TEST(TableColumns, OneRowMakesNoRecording) {
    const Rows one({{"speed", {1}}});
    const auto error = too_short(one.rows).value();
    EXPECT_EQ(error.code, ErrorCode::bad_input);
    EXPECT_NE(error.message.find("1 row"), std::string::npos) << error.message;
}

// ---- rows in the order of time ---------------------------------------------------------------------

TEST(RowOrder, ThatRisesStays) {
    Timed table(counting(100, 0.1));
    EXPECT_EQ(got(table.ordered()), table.times);
    EXPECT_TRUE(table.rows.notes.empty());
    EXPECT_EQ(table.column(0), counting(100));
}

TEST(RowOrder, BlocksThatFillEachOthersHolesAreSorted) {
    auto times = counting(300, 0.1);
    std::rotate(times.begin() + 100, times.begin() + 200, times.end());
    Timed table(times);
    EXPECT_EQ(got(table.ordered()), counting(300, 0.1));
    EXPECT_TRUE(table.says("not in order of time"));
    const auto rows = table.column(0);
    EXPECT_EQ(rows[100], 200) << "the cells went with their times";
    EXPECT_EQ(rows[250], 150);
}

TEST(RowOrder, RowsWithoutTimeAreLeftOutAndSaid) {
    auto times = counting(100, 0.1);
    times[40] = times[41] = none;
    Timed table(times);
    EXPECT_EQ(got(table.ordered()).size(), 98U);
    EXPECT_EQ(table.rows.count, 98U);
    EXPECT_TRUE(table.says("2 rows were left out"));
    EXPECT_TRUE(table.says("first at line 42"));
    EXPECT_EQ(table.column(0)[40], 42);
}

TEST(RowOrder, ASingleTimeThatJumpsIsDamaged) {
    auto times = counting(100, 0.1);
    times[30] = 5e6;
    Timed table(times);
    const auto ordered = got(table.ordered());
    EXPECT_EQ(ordered.size(), 99U);
    EXPECT_NEAR(ordered[30], 3.1, 1e-9);
    EXPECT_EQ(ordered.back(), times.back()) << "the rows behind it keep their times";
}

TEST(RowOrder, AClockThatIsSetBackGoesOn) {
    auto times = counting(200, 0.1);
    for (std::size_t i = 120; i < 200; ++i) times[i] -= 7;
    Timed table(times);
    const auto ordered = got(table.ordered());
    ASSERT_EQ(ordered.size(), 200U);
    for (std::size_t i = 1; i < 200; ++i) EXPECT_NEAR(ordered[i] - ordered[i - 1], 0.1, 1e-6) << i;
    EXPECT_TRUE(table.says("is set back 1 time"));
}

TEST(RowOrder, AClockThatRunsOverMidnightGoesOn) {
    std::vector<double> times;
    for (int i = 0; i < 200; ++i) times.push_back(std::fmod(86390 + 0.1 * i, 86400));
    Timed table(times);
    const auto ordered = got(table.ordered());
    ASSERT_EQ(ordered.size(), 200U);
    EXPECT_NEAR(ordered.back(), 86390 + 19.9, 1e-6);
    // So do seconds of a minute and counters of sixteen bits in milliseconds.
    for (const double period : {60.0, 65.536}) {
        std::vector<double> turning;
        for (int i = 0; i < 3000; ++i) turning.push_back(std::fmod(0.1 * i, period));
        Timed counter(turning);
        EXPECT_NEAR(got(counter.ordered()).back(), 299.9, 1e-6) << period;
    }
}

TEST(RowOrder, TwoRowsOfOneTimeAreOneWhereTheirCellsDoNotClash) {
    // Channels of two rates, each in rows of its own.
    Rows table({{"speed", {1, none, 2, none, 3, none}}, {"gear", {none, 4, none, 5, none, 6}}});
    const auto ordered = got(order_rows(table.rows, {0, 0, 0.1, 0.1, 0.2, 0.2}, "time"));
    EXPECT_EQ(ordered, (std::vector<double>{0, 0.1, 0.2}));
    EXPECT_EQ(table.column(0), (std::vector<double>{1, 2, 3}));
    EXPECT_EQ(table.column(1), (std::vector<double>{4, 5, 6}));
    EXPECT_TRUE(table.says("they are one row"));
}

TEST(RowOrder, AFewRepeatedTimesAreLeftOut) {
    auto times = counting(100, 0.1);
    times[50] = times[49];
    Timed table(times);
    EXPECT_EQ(got(table.ordered()).size(), 99U);
    EXPECT_TRUE(table.says("1 repeated"));
}

TEST(RowOrder, ATimeThatDoesNotRiseIsRefused) {
    Timed stands(std::vector<double>(50, 3.0));
    const auto refused = stands.ordered();
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, ErrorCode::needs_rate);
    EXPECT_NE(refused.error().message.find("does not rise"), std::string::npos);
    std::mt19937 random(3);
    std::vector<double> any;
    for (int i = 0; i < 100; ++i) any.push_back(static_cast<double>(random() % 1000));
    Timed mixed(any);
    EXPECT_FALSE(mixed.ordered());
    Timed nothing({none, none, none});
    EXPECT_FALSE(nothing.ordered());
}

TEST(RowOrder, HolesAreSaid) {
    auto times = counting(300, 0.1);
    for (std::size_t i = 100; i < 300; ++i) times[i] += 2;
    Timed table(times);
    EXPECT_EQ(got(table.ordered()), times);
    EXPECT_TRUE(table.says("20 rows are missing in 1 place"));
}

TEST(FillValues, AreMissingSamplesWhereTheyCanBeNothingElse) {
    const auto with = [](double fill, std::size_t times, double low, double high) {
        std::vector<double> out;
        for (std::size_t i = 0; i < 60; ++i) out.push_back(low + (high - low) * static_cast<double>(i % 12) / 11);
        for (std::size_t i = 0; i < times; ++i) out[5 + 7 * i] = fill;
        return out;
    };
    const auto missing = [&](double fill, std::size_t times, double low, double high) {
        Rows it({{"speed", with(fill, times, low, high)}});
        const std::vector<Extent> extents = take_out_fill_values(it.rows);
        std::size_t count = 0;
        for (const double value : it.column(0)) count += std::isnan(value);
        EXPECT_EQ(extents[0].filled, 60 - count);
        EXPECT_EQ(it.says("stands for a missing value"), count > 0);
        if (count > 0) EXPECT_LE(extents[0].high, high);
        return count;
    };
    for (const double fill : {-9999.0, -999.0, -999.25, 9999.0, 65535.0, 1e38, -1e30})
        EXPECT_EQ(missing(fill, 4, 0, 300), 4U) << fill;
    EXPECT_EQ(missing(-9999, 4, 20, 20), 4U) << "a constant with holes";
    EXPECT_EQ(missing(65535, 4, 0, 0), 0U) << "a switch has two values";
    EXPECT_EQ(missing(-9999, 1, 0, 300), 0U) << "once it may be a spike";
    EXPECT_EQ(missing(1e38, 1, 0, 300), 1U);
    EXPECT_EQ(missing(9999, 4, 800, 9800), 0U) << "revs come that far";
    EXPECT_EQ(missing(-9998, 4, 0, 300), 0U) << "no number that programs write";
    // Times are no measured values, and all of a column is no hole.
    Rows clock({{"time", with(-9999, 4, 0, 300)}, {"speed", std::vector<double>(60, -9999)}});
    (void)take_out_fill_values(clock.rows);
    EXPECT_EQ(clock.column(0)[5], -9999);
    EXPECT_EQ(clock.column(1)[5], -9999);
}
