// What the library stands on: statements and transactions of its catalogue, contents that are kept beside the
// recordings, and memory that is mapped.
#include <gtest/gtest.h>
#include <sqlite3.h>

#include <algorithm>
#include <cstdio>
#include <fstream>

#include "core/base/buffer.h"
#include "core/base/file_io.h"
#include "core/base/mapping_guard.h"
#include "core/base/own_program.h"
#include "core/library/derived.h"
#include "core/library/sql.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;
namespace fs = std::filesystem;

namespace {

/// A catalogue of its own in memory: laps with a name and a time.
class SqlTest : public testing::Test {
  protected:
    SqlTest() : database_(opened()) {
        const auto made = database_.execute(
            "CREATE TABLE lap (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, time_s REAL);"
            "INSERT INTO lap (name, time_s) VALUES ('out', 131.5), ('quick', 106.126), ('untimed', NULL);");
        EXPECT_TRUE(made);
    }
    static sqlite3* opened() {
        sqlite3* handle = nullptr;
        EXPECT_EQ(sqlite3_open(":memory:", &handle), SQLITE_OK);
        return handle;
    }
    std::int64_t count() {
        sql::Statement laps(database_, "SELECT count(*) FROM lap");
        EXPECT_TRUE(laps.step());
        return laps.integer(0);
    }
    Result<void> add(const std::string& name) {
        return sql::Statement(database_, "INSERT INTO lap (name, time_s) VALUES (?, ?)").bind(name).bind(100.0).run();
    }

    sql::Connection database_;
};

}  // namespace

TEST_F(SqlTest, ValuesComeBackAsTheyWentIn) {
    sql::Statement in(database_, "INSERT INTO lap (id, name, time_s) VALUES (?, ?, ?)");
    const std::int64_t far = (std::int64_t{1} << 60) + 7;
    ASSERT_TRUE(in.bind(far).bind(std::string("Überrunde \"9\" – ½")).bind(0.1 + 0.2).run());
    EXPECT_EQ(database_.last_id(), far);
    sql::Statement out(database_, "SELECT id, name, time_s FROM lap WHERE id = ?");
    ASSERT_TRUE(got(out.bind(far).found()));
    EXPECT_EQ(out.integer(0), far);
    EXPECT_EQ(out.text(1), "Überrunde \"9\" – ½");
    EXPECT_EQ(out.real(2), 0.1 + 0.2) << "to the last bit";
    EXPECT_FALSE(out.is_null(2));
    EXPECT_FALSE(out.step());
    EXPECT_TRUE(out.status());
}

TEST_F(SqlTest, NothingIsToldFromZero) {
    sql::Statement untimed(database_, "SELECT time_s FROM lap WHERE name = 'untimed'");
    ASSERT_TRUE(untimed.step());
    EXPECT_TRUE(untimed.is_null(0));
    EXPECT_EQ(untimed.optional_real(0), std::nullopt);
    EXPECT_EQ(untimed.text(0), "");
    sql::Statement put(database_, "UPDATE lap SET time_s = ? WHERE name = 'out'");
    ASSERT_TRUE(put.bind(std::optional<double>()).run());
    sql::Statement again(database_, "SELECT time_s FROM lap WHERE name = 'out'");
    ASSERT_TRUE(again.step());
    EXPECT_EQ(again.optional_real(0), std::nullopt);
}

TEST_F(SqlTest, TextThatIsNoUtf8ComesInReadable) {
    ASSERT_TRUE(add("caf\xe9 \xff"));
    sql::Statement out(database_, "SELECT name FROM lap WHERE id = last_insert_rowid()");
    ASSERT_TRUE(out.step());
    const std::string name = out.text(0);
    EXPECT_EQ(name.substr(0, 3), "caf");
    EXPECT_EQ(name.find('\xff'), std::string::npos);
}

TEST_F(SqlTest, AllRowsOrTheReason) {
    sql::Statement rows(database_, "SELECT name FROM lap ORDER BY id");
    EXPECT_EQ(got(rows.all([](const sql::Statement& row) { return row.text(0); })),
              (std::vector<std::string>{"out", "quick", "untimed"}));
    sql::Statement none(database_, "SELECT name FROM lap WHERE id = 99");
    EXPECT_EQ(got(none.found()), false) << "no row is no error";
    sql::Statement wrong(database_, "SELECT name FROM nowhere");
    EXPECT_FALSE(wrong.step());
    EXPECT_FALSE(wrong.status()) << "no answer is no empty answer";
    EXPECT_FALSE(sql::Statement(database_, "SELECT name FROM nowhere").found());
    EXPECT_FALSE(sql::Statement(database_, "SELEC").run());
}

TEST_F(SqlTest, ErrorsAreSentencesThatDoNotShowTheDatabasesOwnWords) {
    const auto twice = add("quick");
    ASSERT_FALSE(twice);
    EXPECT_EQ(twice.error().code, ErrorCode::exists);
    EXPECT_NE(twice.error().message.find("Nothing was changed"), std::string::npos);
    for (const int code : {SQLITE_FULL, SQLITE_READONLY, SQLITE_CANTOPEN, SQLITE_BUSY, SQLITE_CORRUPT, SQLITE_NOTADB,
                           SQLITE_CONSTRAINT, SQLITE_NOMEM, SQLITE_IOERR, SQLITE_CONSTRAINT_UNIQUE}) {
        const Error error = sql::database_error(database_.handle(), code);
        EXPECT_EQ(error.message.find("SQL"), std::string::npos) << error.message;
        EXPECT_EQ(error.message.find("constraint"), std::string::npos) << error.message;
        EXPECT_TRUE(error.message.ends_with('.')) << error.message;
    }
}

TEST_F(SqlTest, ATransactionStandsOrFallsWhole) {
    {
        sql::Transaction part(database_);
        ASSERT_TRUE(part.begun());
        EXPECT_TRUE(database_.in_transaction());
        ASSERT_TRUE(add("one"));
        ASSERT_TRUE(add("two"));
    }
    EXPECT_FALSE(database_.in_transaction());
    EXPECT_EQ(count(), 3) << "not committed: taken back";
    {
        sql::Transaction part(database_);
        ASSERT_TRUE(add("one"));
        EXPECT_FALSE(add("one"));
        ASSERT_TRUE(add("two"));
        ASSERT_TRUE(part.commit());
    }
    EXPECT_EQ(count(), 5) << "a statement that failed is no reason for the others";
}

TEST_F(SqlTest, OneInsideAnotherIsAPartOfIt) {
    {
        sql::Transaction outer(database_);
        ASSERT_TRUE(add("outer"));
        {
            sql::Transaction inner(database_);
            ASSERT_TRUE(inner.begun());
            ASSERT_TRUE(add("lost"));
        }
        EXPECT_TRUE(database_.in_transaction()) << "the outer one still runs";
        EXPECT_EQ(count(), 4);
        {
            sql::Transaction inner(database_);
            ASSERT_TRUE(add("kept"));
            ASSERT_TRUE(inner.commit());
        }
        ASSERT_TRUE(outer.commit());
    }
    EXPECT_EQ(count(), 5);
    {
        sql::Transaction outer(database_);
        {
            sql::Transaction inner(database_);
            ASSERT_TRUE(add("late"));
            ASSERT_TRUE(inner.commit());
        }
    }
    EXPECT_EQ(count(), 5) << "what an inner one committed falls with the outer one";
}

namespace {

bool write_text(std::FILE* file, const std::string& text) {
    return std::fwrite(text.data(), 1, text.size(), file) == text.size();
}
std::string content_of(const std::shared_ptr<const MappedFile>& file) {
    return file == nullptr ? "(none)" : std::string(file->text().substr(Derived::begin));
}

class DerivedTest : public testing::Test {
  protected:
    [[nodiscard]] Derived of(const std::string& key, std::int64_t run = 1) const {
        return {folder_.path(), "0123abcd", RunId{run}, key};
    }
    /// Contents and their digests; what else stands there only spares a look at them.
    [[nodiscard]] std::vector<fs::path> files() const {
        std::vector<fs::path> out;
        if (!fs::exists(folder_ / "derived")) return out;
        for (const auto& entry : fs::directory_iterator(folder_ / "derived")) {
            const std::string end = entry.path().extension();
            if (end == ".path" || end == ".digest") out.push_back(entry.path());
        }
        return out;
    }
    TempFolder folder_;
};

}  // namespace

TEST_F(DerivedTest, ComesBackWholeUnderItsKeyAndNoOther) {
    EXPECT_EQ(of("a").open(), nullptr) << "nothing was kept yet";
    of("a").put([](std::FILE* file) { return write_text(file, "the path of the run"); });
    EXPECT_EQ(content_of(of("a").open()), "the path of the run");
    EXPECT_EQ(of("b").open(), nullptr) << "another track, another path";
    EXPECT_EQ(of("a", 2).open(), nullptr) << "another run of the same recording";
    of("a", 2).put([](std::FILE* file) { return write_text(file, "second"); });
    EXPECT_EQ(content_of(of("a").open()), "the path of the run");
    EXPECT_EQ(content_of(of("a", 2).open()), "second");
}

TEST_F(DerivedTest, OfARunOneContentIsKept) {
    for (const char* key : {"a", "b", "c"}) of(key).put([&](std::FILE* file) { return write_text(file, key); });
    EXPECT_EQ(content_of(of("c").open()), "c");
    EXPECT_EQ(of("a").open(), nullptr);
    EXPECT_EQ(files().size(), 2U) << "the content and its digest";
}

TEST_F(DerivedTest, WhatIsDamagedOrNotFinishedCountsAsNotThere) {
    of("a").put([](std::FILE* file) { return write_text(file, std::string(5000, 'x')); });
    ASSERT_NE(of("a").open(), nullptr);
    for (const fs::path& file : files()) {
        const std::string whole = read_all(file);
        std::string damaged = whole;
        damaged[damaged.size() / 2] ^= 1;
        std::ofstream(file, std::ios::binary) << damaged;
        EXPECT_EQ(of("a").open(), nullptr) << file;
        std::ofstream(file, std::ios::binary) << whole.substr(0, whole.size() / 3);
        EXPECT_EQ(of("a").open(), nullptr) << file;
        fs::remove(file);
        EXPECT_EQ(of("a").open(), nullptr) << file;
        std::ofstream(file, std::ios::binary) << whole;
    }
    EXPECT_NE(of("a").open(), nullptr) << "as it was";
    // Whoever cannot write it all leaves what was there.
    of("a").put([](std::FILE*) { return false; });
    EXPECT_EQ(content_of(of("a").open()), std::string(5000, 'x'));
}

TEST_F(DerivedTest, SweepingTakesWhatNobodyKnows) {
    of("a").put([](std::FILE* file) { return write_text(file, "mine"); });
    Derived(folder_.path(), "ffff", RunId{9}, "x").put([](std::FILE* file) { return write_text(file, "gone"); });
    ASSERT_EQ(files().size(), 4U);
    Derived::sweep(folder_.path(), [](const std::string& digest) { return digest == "0123abcd"; });
    EXPECT_EQ(files().size(), 2U);
    EXPECT_EQ(content_of(of("a").open()), "mine");
    Derived::sweep(folder_ / "nowhere", [](const std::string&) { return false; });
}

TEST(MappedMemory, LetGoComesBackFromTheFile) {
    const TempFolder folder;
    std::string text;
    for (int i = 0; i < 60'000; ++i) text += std::to_string(i) + ' ';
    const auto mapped = got(MappedFile::open(folder.write("long.txt", text)));
    ASSERT_EQ(mapped->text(), text);
    const auto resident = [] {
        std::ifstream in("/proc/self/smaps_rollup");
        std::string word;
        long kb = 0;
        while (in >> word) {
            if (word == "Rss:") in >> kb;
        }
        return kb;
    };
    const long before = resident();
    let_go(mapped->data(), mapped->size());
    if (before > 0) EXPECT_LT(resident(), before - static_cast<long>(text.size()) / 1024 / 2);
    EXPECT_EQ(mapped->text(), text);
    EXPECT_FALSE(mapped->shrank());
    // Other memory is left alone.
    std::vector<char> own(1 << 20, 'y');
    let_go(own.data(), own.size());
    EXPECT_EQ(std::count(own.begin(), own.end(), 'y'), 1 << 20);
    let_go(nullptr, 1 << 20);
}

TEST(MappedMemory, OfAFileThatShrankPagesStayWhatTheyAre) {
    const TempFolder folder;
    const fs::path file = folder.write("short.txt", std::string(1 << 20, 'z'));
    const auto mapped = got(MappedFile::open(file));
    const unsigned long before = shrunk_mappings();
    fs::resize_file(file, 4096);
    EXPECT_EQ(mapped->data()[0], 'z');
    EXPECT_EQ(mapped->data()[500'000], '\xff') << "no death, and no number that was not there";
    EXPECT_TRUE(mapped->shrank());
    EXPECT_GT(shrunk_mappings(), before);
    let_go(mapped->data(), mapped->size());
    EXPECT_EQ(mapped->data()[500'000], '\xff') << "not a zero that looks like a sample";
}

TEST(Buffers, GrowAndShrinkLikeVectorsWhereverTheyLie) {
    // Around the size from which memory comes in huge pages.
    for (const std::size_t count : {std::size_t{3}, huge_from_bytes / 8 - 1, huge_from_bytes / 8, huge_from_bytes}) {
        Buffer<double> numbers;
        numbers.resize(count);
        for (std::size_t i = 0; i < count; ++i) numbers[i] = static_cast<double>(i);
        numbers.resize(2 * count);
        for (std::size_t i = 0; i < count; ++i) ASSERT_EQ(numbers[i], static_cast<double>(i));
        const Buffer<double> copy = numbers;
        numbers.resize(1);
        numbers.shrink_to_fit();
        EXPECT_EQ(copy[count - 1], static_cast<double>(count - 1));
        EXPECT_EQ(numbers.front(), 0);
    }
    const Buffer<std::string> words(3, "kept");
    EXPECT_EQ(words[2], "kept");
    EXPECT_THROW((void)UnsetAllocator<double>().allocate(std::size_t(-1) / 4), std::bad_alloc);
}

TEST(OwnProgram, IsBesideThisOneOrMissing) {
    const fs::path reader = own_program("rendak-reader");
    EXPECT_FALSE(reader.empty());
    EXPECT_TRUE(fs::exists(reader));
    EXPECT_EQ(reader.parent_path(), fs::read_symlink("/proc/self/exe").parent_path());
    EXPECT_TRUE(own_program("rendak-nothing").empty());
}
