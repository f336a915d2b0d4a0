// Bad input: each gives a sentence that says what, where and what to do; nothing crashes.
#include <gtest/gtest.h>

#include <random>

#include "core/recording/csv_reader.h"
#include "core/recording/readers.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

/// The error of reading a text, with the checks that hold for every error.
Error error_of(const std::string& text, const CsvOptions& options = {}) {
    const TempFolder folder;
    const auto file = folder.write("bad.csv", text);
    const auto read = read_logged_file(file, {options});
    if (read) {
        ADD_FAILURE() << "was read although it is bad";
        return {};
    }
    EXPECT_NE(read.error().where.find("bad.csv"), std::string::npos) << "must say where: " << read.error().text();
    EXPECT_EQ(read.error().message.back(), '.') << "must be a sentence: " << read.error().message;
    return read.error();
}

bool contains(const Error& error, const std::string& words) {
    return error.text().find(words) != std::string::npos;
}

}  // namespace

TEST(BadTable, EmptyFile) {
    EXPECT_TRUE(contains(error_of(""), "The file is empty"));
}

TEST(BadTable, MissingFileAndFolder) {
    const auto missing = read_logged_file("/nowhere/at/all.csv");
    ASSERT_FALSE(missing);
    EXPECT_EQ(missing.error().code, ErrorCode::not_found);
    const TempFolder folder;
    const auto is_folder = read_logged_file(folder.path());
    ASSERT_FALSE(is_folder);
    EXPECT_NE(is_folder.error().message.find("folder"), std::string::npos);
}

TEST(BadTable, TextThatIsNoTable) {
    EXPECT_TRUE(contains(error_of("Dear diary,\ntoday we went to the track.\nIt rained, and then it did not.\n"),
                         "No table of numbers"));
    EXPECT_TRUE(contains(error_of("a,b,c\n"), "No table of numbers"));
}

TEST(BadTable, BinaryAndUtf16) {
    EXPECT_TRUE(contains(error_of(std::string("PK\3\4\0\0\0\0\1\2", 10)), "binary"));
    EXPECT_TRUE(contains(error_of(std::string("\xFF\xFEt\0,\0", 6)), "No table of numbers"));
}

TEST(BadTable, WrongColumnCountNamesTheLine) {
    const Error few = error_of("time,a,b\n0,1,2\n1,2\n2,3,4\n3,4,5\n");
    EXPECT_TRUE(contains(few, "Line 3 has 2 values, the table has 3 columns")) << few.text();
    EXPECT_TRUE(contains(few, "bad.csv:3"));
    const Error many = error_of("time,a,b\n0,1,2\n1,2,3\n2,3,4,9\n3,4,5\n");
    EXPECT_TRUE(contains(many, "Line 4 has 4 values")) << many.text();
}

TEST(BadTable, AFileCutInItsLastLineIsSavedAndSaid) {
    const TempFolder folder;
    const auto read = read_csv(folder.write("cut.csv", "time,a,b\n0,1,2\n1,2,3\n2,3,4\n3,4"));
    ASSERT_TRUE(read);
    EXPECT_EQ(read->recording.channels.front().size(), 3U);
    bool said = false;
    for (const auto& note : read->notes) said = said || note.find("ends in the middle of line 5") != std::string::npos;
    EXPECT_TRUE(said);
}

TEST(BadTable, TimesThatDoNotRise) {
    std::string backwards = "time,a\n", repeated = "time,a\n";
    for (int i = 0; i < 100; ++i) {
        backwards += std::to_string(i % 10) + ".5," + std::to_string(i) + "\n";
        repeated += std::to_string(i / 4) + "," + std::to_string(i) + "\n";
    }
    EXPECT_TRUE(contains(error_of(backwards), "does not rise"));
    EXPECT_TRUE(contains(error_of(backwards), "bad.csv:")) << "must name the line";
    const Error coarse = error_of(repeated);
    EXPECT_TRUE(contains(coarse, "75 rows repeat"));
    EXPECT_TRUE(contains(coarse, "--rate")) << "must say what to do";
}

TEST(BadTable, AFewRepeatedTimesAreLeftOutAndSaid) {
    std::string text = "time,a\n";
    for (int i = 0; i < 100; ++i) text += std::to_string(i == 50 ? 49 : i) + "," + std::to_string(i) + "\n";
    const TempFolder folder;
    const auto read = read_csv(folder.write("t.csv", text));
    ASSERT_TRUE(read);
    bool said = false;
    for (const auto& note : read->notes)
        said = said || note.find("1 row was left out because the time does not rise") != std::string::npos;
    EXPECT_TRUE(said);
}

TEST(BadTable, ColumnsOfNothing) {
    const TempFolder folder;
    const auto read = read_csv(folder.write("t.csv", "time,speed [m/s],a\n0,nan,1\n1,NaN,2\n2,,3\n3,nan,4\n"));
    ASSERT_TRUE(read);
    EXPECT_EQ(read->recording.find("speed"), nullptr);
    bool said = false;
    for (const auto& note : read->notes)
        said = said || note.find("\"speed\" holds no number at all") != std::string::npos;
    EXPECT_TRUE(said);
    EXPECT_TRUE(contains(error_of("time,a\n0,nan\n1,nan\n2,nan\n"), "No column of the table holds any number"));
}

TEST(BadTable, OneSample) {
    EXPECT_TRUE(contains(error_of("time,a\n0,1\n"), "at least two are needed"));
}

TEST(BadTable, NoTimeAndNoRate) {
    EXPECT_TRUE(contains(error_of("speed [m/s],gear\n1,1\n2,1\n1,2\n"), "No time column was found"));
    EXPECT_TRUE(contains(error_of("speed [m/s],gear\n1,1\n2,1\n1,2\n", {-5.0, 1}), "above 0 Hz"));
}

TEST(BadTable, UnknownUnitsAndWrongDimensionsAreSaid) {
    const TempFolder folder;
    const auto read = read_csv(folder.write("t.csv", "time,speed [°C],boost [furlong]\n0,1,1\n1,2,2\n2,3,3\n"));
    ASSERT_TRUE(read);
    EXPECT_EQ(read->recording.find("speed"), nullptr) << "a temperature is no speed";
    ASSERT_NE(read->recording.find_name("boost"), nullptr);
    EXPECT_EQ(read->recording.find_name("boost")->at(2), 3);
    EXPECT_GE(read->notes.size(), 3U);
}

TEST(BadTable, MutatedTablesNeverCrash) {
    const std::string good =
        "Time [s];Speed "
        "[km/h];Gear;Lat;Lon\n0,0;10,5;1;57,1;4,8\n0,1;11,5;2;57,1;4,8\n0,2;12,5;3;57,1;4,8\n0,3;13,5;3;57,1;4,8\n";
    std::mt19937 engine(2026);
    std::uniform_int_distribution<std::size_t> place(0, good.size() - 1), count(1, 12);
    std::uniform_int_distribution<int> byte(0, 255);
    const TempFolder folder;
    int read_fine = 0;
    for (int round = 0; round < 3000; ++round) {
        std::string text = good;
        for (std::size_t k = count(engine); k-- > 0;) {
            const std::size_t at = place(engine) % text.size();
            if (round % 3 == 0)
                text[at] = static_cast<char>(byte(engine));
            else if (round % 3 == 1)
                text.erase(at, count(engine));
            else
                text.insert(at, 1, ";,\n\"\t .-e:"[static_cast<std::size_t>(byte(engine)) % 10]);
            if (text.empty()) text = "x";
        }
        const auto read = read_csv(folder.write("m.csv", text), {{}, 1});
        if (read)
            ++read_fine;
        else
            EXPECT_FALSE(read.error().message.empty());
    }
    EXPECT_GT(read_fine, 100) << "mutations so hard that nothing is read test nothing";
}
