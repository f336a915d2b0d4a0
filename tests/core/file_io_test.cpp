// Files as they are found and written: what is none, what shrinks, what a killed process left, and small words of
// theirs.
#include "core/base/file_io.h"

#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cmath>
#include <fstream>
#include <set>

#include "core/base/interval.h"
#include "core/base/text.h"
#include "core/recording/csv_writer.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using test::got;
namespace fs = std::filesystem;

namespace {

std::size_t names_in(const fs::path& folder) {
    return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), fs::directory_iterator()));
}

}  // namespace

TEST(RegularFiles, OnlyTheyAreOpened) {
    const test::TempFolder folder;
    folder.write("file", "abc");
    EXPECT_TRUE(open_regular(folder / "file"));
    fs::create_symlink(folder / "file", folder / "link");
    EXPECT_TRUE(open_regular(folder / "link")) << "a link to one is one";
    ASSERT_EQ(::mkfifo((folder / "pipe").c_str(), 0600), 0);
    // A pipe that nobody writes to would be waited for; a device may do something.
    for (const fs::path& none : {folder / "pipe", folder.path(), fs::path("/dev/null"), fs::path("/dev/zero")}) {
        const auto refused = open_regular(none);
        ASSERT_FALSE(refused) << none;
        EXPECT_NE(refused.error().where.find(none.filename().string()), std::string::npos);
    }
    const auto gone = open_regular(folder / "gone");
    ASSERT_FALSE(gone);
    EXPECT_EQ(gone.error().code, ErrorCode::not_found);
}

TEST(RegularFiles, ThatClaimFarMoreThanTheDiskHoldsAreRefused) {
    const test::TempFolder folder;
    const auto hollow = folder.write("hollow", "begin");
    fs::resize_file(hollow, std::uintmax_t{20} << 30);
    const auto refused = open_regular(hollow);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("a copy that broke off?"), std::string::npos) << refused.error().message;
    fs::resize_file(hollow, 1U << 20);
    EXPECT_TRUE(open_regular(hollow)) << "a small hole is none of that";
}

TEST(RegularFiles, AreMappedWholeAndMayBeEmpty) {
    const test::TempFolder folder;
    const auto mapped = got(MappedFile::open(folder.write("file", "some bytes")));
    EXPECT_EQ(mapped->text(), "some bytes");
    EXPECT_EQ(mapped->size(), 10U);
    EXPECT_FALSE(mapped->shrank());
    const auto empty = got(MappedFile::open(folder.write("empty", "")));
    EXPECT_EQ(empty->text(), "");
    EXPECT_FALSE(empty->shrank());
    EXPECT_FALSE(MappedFile::open(folder.path()));
}

TEST(RegularFiles, StatesTellWhetherOneWasWrittenInBetween) {
    const test::TempFolder folder;
    const auto file = folder.write("file", "one");
    const auto before = state_of(file);
    ASSERT_TRUE(before);
    EXPECT_EQ(state_of(file), before);
    EXPECT_EQ(state_of(got(open_regular(file))), before);
    std::ofstream(file, std::ios::app) << "more";
    EXPECT_NE(state_of(file), before);
    folder.write("other", "one");
    EXPECT_NE(state_of(folder / "other"), before) << "another file of the same content";
    EXPECT_FALSE(state_of(folder / "gone"));
    EXPECT_FALSE(state_of(Descriptor()));
}

TEST(RegularFiles, HeadsAndSmallTexts) {
    const test::TempFolder folder;
    const auto file = folder.write("file", "0123456789");
    EXPECT_EQ(got(read_head(file, 4)), "0123");
    EXPECT_EQ(got(read_head(file, 100)), "0123456789");
    EXPECT_EQ(got(read_text_file(file, 10)), "0123456789");
    const auto larger = read_text_file(file, 9);
    ASSERT_FALSE(larger);
    EXPECT_NE(larger.error().message.find("larger than"), std::string::npos);
    EXPECT_FALSE(read_head(folder / "gone", 4));
}

// ---- writing -----------------------------------------------------------------------------------------

TEST(OutputFiles, ReplaceWholeOrNotAtAll) {
    const test::TempFolder folder;
    const auto file = folder.write("file", "before");
    ASSERT_EQ(::chmod(file.c_str(), 0640), 0);
    {
        auto given_up = got(OutputFile::begin(file));
        std::ofstream(given_up.part()) << "half";
        EXPECT_EQ(test::read_all(file), "before");
    }
    EXPECT_EQ(test::read_all(file), "before");
    EXPECT_EQ(names_in(folder.path()), 1U) << "the half one is gone";
    auto done = got(OutputFile::begin(file));
    std::ofstream(done.part()) << "after";
    ASSERT_TRUE(done.finish());
    EXPECT_EQ(test::read_all(file), "after");
    struct stat info {};
    ASSERT_EQ(::stat(file.c_str(), &info), 0);
    EXPECT_EQ(info.st_mode & 07777U, 0640U) << "with the rights that it had";
    EXPECT_EQ(names_in(folder.path()), 1U);
}

TEST(OutputFiles, FollowLinksAndRefuseWhatIsNoFile) {
    const test::TempFolder folder;
    const auto file = folder.write("file", "before");
    fs::create_symlink(file, folder / "link");
    ASSERT_TRUE(write_file(folder / "link", "through the link"));
    EXPECT_TRUE(fs::is_symlink(folder / "link"));
    EXPECT_EQ(test::read_all(file), "through the link");
    fs::create_symlink(folder / "nothing", folder / "broken");
    for (const fs::path& none : {folder / "broken", folder.path(), fs::path("/dev/null"), folder / "no/such/folder"})
        EXPECT_FALSE(write_file(none, "x")) << none;
    EXPECT_EQ(names_in(folder.path()), 3U);
}

TEST(OutputFiles, FailAsValuesWhereThePartIsGone) {
    const test::TempFolder folder;
    auto out = got(OutputFile::begin(folder / "file"));
    const auto failed = out.finish();
    ASSERT_FALSE(failed) << "nothing was written";
    EXPECT_NE(failed.error().message.find("Cannot write the file"), std::string::npos);
    EXPECT_FALSE(move_into_place(folder / "gone", folder / "file"));
    EXPECT_EQ(flush_to_disk(folder / "gone"), ENOENT);
    EXPECT_EQ(flush_to_disk(folder.path()), 0);
}

TEST(OutputFiles, OfAKilledProcessAreClearedByTheNextOne) {
    const test::TempFolder folder;
    auto mine = got(OutputFile::begin(folder / "file"));
    std::ofstream(mine.part()) << "mine";
    // The same name with the number of a process that is not there, as one leaves it that was killed.
    const std::string own = "-" + std::to_string(::getpid()) + "-";
    std::string name = mine.part().filename().string();
    const auto at = name.find(own);
    ASSERT_NE(at, std::string::npos) << name;
    name.replace(at, own.size(), "-4194999-");
    folder.write(name, "left over");
    folder.write(".rendak-part-00000000-4194999-0-file", "of another machine");
    (void)got(OutputFile::begin(folder / "file"));
    EXPECT_FALSE(fs::exists(folder / name));
    EXPECT_TRUE(fs::exists(folder / ".rendak-part-00000000-4194999-0-file"));
    EXPECT_TRUE(fs::exists(mine.part())) << "its process lives";
}

TEST(TemporaryNames, AreOneAProcessAndTellWhatTheyStandFor) {
    std::set<fs::path> names;
    for (int i = 0; i < 50; ++i) names.insert(temporary_name("/some/folder/run.rdk.h5"));
    EXPECT_EQ(names.size(), 50U);
    for (const fs::path& name : names) {
        EXPECT_EQ(name.parent_path(), "/some/folder");
        EXPECT_TRUE(is_temporary_name(name));
        EXPECT_EQ(name_behind(name), "run.rdk.h5");
        EXPECT_LE(name.filename().string().size(), 255U);
    }
    EXPECT_LE(temporary_name(std::string(250, 'x')).filename().string().size(), 255U);
    for (const char* other :
         {"run.rdk.h5", ".rendak-part-", ".rendak-part-0123abcd-1-run", ".rendak-part-0123abcg-1-2-run",
          ".rendak-part-0123abcd-x-2-run", ".rendak-part-0123abcd-1-2-"})
        EXPECT_FALSE(is_temporary_name(other)) << other;
}

TEST(FileErrors, SayWhatAndWhatToDo) {
    const auto of = [](int number) { return io_error("write the file", "/a/b", number); };
    EXPECT_EQ(of(ENOENT).code, ErrorCode::not_found);
    EXPECT_EQ(of(ENOSPC).code, ErrorCode::io);
    EXPECT_NE(of(ENOSPC).message.find("Free some space"), std::string::npos);
    EXPECT_NE(of(EACCES).message.find("permission"), std::string::npos);
    EXPECT_NE(of(EROFS).message.find("read-only"), std::string::npos);
    EXPECT_NE(of(EMFILE).message.find("too many files"), std::string::npos);
    EXPECT_EQ(of(EIO).where, "/a/b");
    EXPECT_EQ(of(EIO).message.rfind("Cannot write the file: ", 0), 0U);
    EXPECT_NE(file_changed("/a/b").message.find("became shorter"), std::string::npos);
    EXPECT_GT(memory_for_one_file(), 1U << 20);
}

// ---- small words -------------------------------------------------------------------------------------

TEST(SmallWords, NumbersAsSheetsHaveThem) {
    EXPECT_EQ(short_number(8), "8");
    EXPECT_EQ(short_number(2.5), "2.5");
    EXPECT_EQ(short_number(-0.125), "-0.125");
    EXPECT_EQ(short_number(1200), "1200");
    EXPECT_EQ(short_number(0.0004), "0");
    EXPECT_EQ(sheet_number("2,5"), 2.5);
    EXPECT_EQ(sheet_number(" +3.25 "), 3.25);
    EXPECT_EQ(sheet_number("-1e3"), -1000);
    for (const char* none : {"", " ", "2 5", "1.2.3", "abc", "5 mm", "nan", "inf", "+"})
        EXPECT_FALSE(sheet_number(none)) << none;
}

TEST(SmallWords, CellsOfTablesAreQuotedWhereTheyMust) {
    EXPECT_EQ(csv_cell("plain"), "plain");
    EXPECT_EQ(csv_cell("a,b"), "\"a,b\"");
    EXPECT_EQ(csv_cell("two\nlines"), "\"two\nlines\"");
}

TEST(SmallWords, IntervalsAreMovedInsideOthers) {
    const auto moved = [](Interval x) { return moved_inside(x, {10, 20}); };
    EXPECT_EQ(moved({12, 15}).begin, 12);
    EXPECT_EQ(moved({5, 8}).begin, 10);
    EXPECT_EQ(moved({5, 8}).end, 13);
    EXPECT_EQ(moved({19, 24}).begin, 15);
    EXPECT_EQ(moved({19, 24}).end, 20);
    EXPECT_EQ(moved({0, 40}).begin, 10) << "longer ones become the limits";
    EXPECT_EQ(moved({0, 40}).end, 20);
}
