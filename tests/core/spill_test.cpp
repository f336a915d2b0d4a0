// Memory that lies in files without a name where a recording is larger than the memory for it.
#include "core/base/spill.h"

#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/types.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <numeric>
#include <thread>

#include "core/base/file_io.h"
#include "core/base/mapping_guard.h"
#include "core/recording/csv_reader.h"
#include "core/recording/mdf.h"
#include "core/recording/recording.h"
#include "tests/support/got.h"
#include "tests/support/made_channel.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using test::got;

namespace {

constexpr std::size_t megabyte_bytes = 1U << 20;

SpillBuffer<float> counted_up(std::size_t count) {
    SpillBuffer<float> out(count);
    std::iota(out.begin(), out.end(), 0.0F);
    return out;
}

/// Pages of a piece of memory that lie in this process.
std::size_t pages_here(const void* data, std::size_t bytes) {
    const auto page = static_cast<std::size_t>(::sysconf(_SC_PAGESIZE));
    const Descriptor map(::open("/proc/self/pagemap", O_RDONLY | O_CLOEXEC));
    std::vector<std::uint64_t> entries(bytes / page);
    const auto from = static_cast<off_t>(reinterpret_cast<std::uintptr_t>(data) / page * sizeof(std::uint64_t));
    const auto size = static_cast<ssize_t>(entries.size() * sizeof(std::uint64_t));
    EXPECT_EQ(::pread(map.fd(), entries.data(), static_cast<std::size_t>(size), from), size);
    return static_cast<std::size_t>(
        std::count_if(entries.begin(), entries.end(), [](auto entry) { return entry >> 63 != 0; }));
}

}  // namespace

TEST(Spill, OnlyWhatIsBeyondTheMemoryLiesInFiles) {
    const test::TempFolder folder;
    const auto before = spilled_blocks();
    {
        const auto outside = counted_up(4 * megabyte_bytes);
        EXPECT_EQ(spilled_blocks(), before) << "nobody asked for it";
        const SpillToDisk spill(folder.path(), 2 * megabyte_bytes);
        const auto small = counted_up(1000), first = counted_up(megabyte_bytes / 4),
                   second = counted_up(megabyte_bytes / 4);
        EXPECT_EQ(spilled_blocks(), before) << "two megabytes are left in memory";
        const auto third = counted_up(megabyte_bytes / 4), fourth = counted_up(3 * megabyte_bytes);
        EXPECT_EQ(spilled_blocks(), before + 2);
        const auto tiny = counted_up(100);
        EXPECT_EQ(spilled_blocks(), before + 2) << "what is small is not worth a file";
        for (std::size_t i = 0; i < fourth.size(); i += 1001) ASSERT_EQ(fourth[i], static_cast<float>(i));
        EXPECT_TRUE(std::filesystem::is_empty(folder.path())) << "its files have no name";
    }
    EXPECT_EQ(spilled_blocks(), before);
}

TEST(Spill, WhatWasLetGoComesBack) {
    const test::TempFolder folder;
    const SpillToDisk spill(folder.path(), 0);
    auto numbers = counted_up(2 * megabyte_bytes);
    const std::size_t bytes = numbers.size() * sizeof(float);
    EXPECT_GT(pages_here(numbers.data(), bytes), 1500U);
    let_go(numbers.data(), bytes);
    EXPECT_EQ(pages_here(numbers.data(), bytes), 0U);
    for (std::size_t i = 0; i < numbers.size(); i += 513) ASSERT_EQ(numbers[i], static_cast<float>(i));
    numbers[77] = -1;
    let_go(numbers.data(), bytes);
    EXPECT_EQ(numbers[77], -1) << "what was written, too";
}

TEST(Spill, BuffersGrowMoveAndCopyWhereverTheyLie) {
    const test::TempFolder folder;
    const auto before = spilled_blocks();
    {
        const SpillToDisk spill(folder.path(), megabyte_bytes);
        SpillBuffer<double> grown;
        for (int i = 0; i < 400'000; ++i) grown.push_back(i);
        SpillBuffer<double> copy = grown, moved = std::move(grown);
        copy.resize(800'000);
        copy.resize(10);
        copy.shrink_to_fit();
        EXPECT_EQ(copy[9], 9);
        for (std::size_t i = 0; i < moved.size(); ++i) ASSERT_EQ(moved[i], static_cast<double>(i));
        EXPECT_THROW((void)SpillAllocator<double>().allocate(std::size_t(-1) / 4), std::bad_alloc);
    }
    EXPECT_EQ(spilled_blocks(), before);
}

TEST(Spill, OutlivesItsScopeAndMayEndOnAnotherThread) {
    const test::TempFolder folder;
    const auto before = spilled_blocks();
    SpillBuffer<float> kept;
    {
        const SpillToDisk spill(folder.path(), 0);
        const SpillToDisk within(folder / "nowhere", 0);
        kept = counted_up(megabyte_bytes);
        std::thread([&] {
            const auto there = counted_up(megabyte_bytes);
            EXPECT_EQ(spilled_blocks(), before + 1) << "the scope is its thread's own";
        }).join();
    }
    EXPECT_EQ(spilled_blocks(), before + 1);
    const auto after = counted_up(megabyte_bytes);
    EXPECT_EQ(spilled_blocks(), before + 1) << "the scope has ended";
    std::thread([mine = std::move(kept)]() mutable { mine = SpillBuffer<float>(); }).join();
    EXPECT_EQ(spilled_blocks(), before);
}

TEST(Spill, ADiskThatGivesNothingBackIsNoticed) {
    const test::TempFolder folder;
    const SpillToDisk spill(folder.path(), 0);
    const auto numbers = counted_up(megabyte_bytes);
    EXPECT_FALSE(spill.lost());
    // Its file among those that this process has mapped, made shorter behind its back.
    const auto place = reinterpret_cast<std::uintptr_t>(numbers.data());
    char range[64];
    std::snprintf(range, sizeof range, "%lx-%lx", static_cast<unsigned long>(place),
                  static_cast<unsigned long>(place + numbers.size() * sizeof(float)));
    if (::truncate((std::string("/proc/self/map_files/") + range).c_str(), 0) != 0)
        GTEST_SKIP() << "only root may reach the files that are mapped";
    EXPECT_TRUE(std::isnan(numbers[1000]));
    EXPECT_TRUE(spill.lost());
    EXPECT_FALSE(SpillToDisk(folder.path()).lost()) << "that was before";
}

TEST(Spill, WhereTheFolderCannotTakeItItStaysInMemory) {
    const auto before = spilled_blocks();
    for (const char* folder : {"/nowhere/at/all", "/proc", ""}) {
        const SpillToDisk spill(folder, 0);
        const auto numbers = counted_up(megabyte_bytes);
        EXPECT_EQ(spilled_blocks(), before) << folder;
        EXPECT_EQ(numbers.back(), static_cast<float>(megabyte_bytes - 1));
    }
}

TEST(Spill, RecordingsReadThroughFilesAreTheSame) {
    const test::TempFolder folder;
    std::string table = "time [s],speed [km/h],Force [N],Rare [bar]\n";
    for (int i = 0; i < 120'000; ++i)
        table += std::to_string(i / 100) + "." + (i % 100 < 10 ? "0" : "") + std::to_string(i % 100) + "," +
                 std::to_string(100 + i % 77) + "," + std::to_string(i % 1003) + "," +
                 (i % 10 == 0 ? std::to_string(i % 9) : "") + "\n";
    const auto csv = folder.write("t.csv", table);
    const auto plain = got(read_csv(csv));
    const auto mdf = folder / "t.mf4";
    ASSERT_TRUE(write_mdf(plain.recording, mdf));
    const auto plain_mdf = got(read_mdf(mdf));
    const auto before = spilled_blocks();
    const SpillToDisk spill(folder.path(), 0);
    const auto spilled = got(read_csv(csv));
    EXPECT_GT(spilled_blocks(), before);
    EXPECT_EQ(content_digest(spilled.recording), content_digest(plain.recording));
    const auto between = spilled_blocks();
    const auto spilled_mdf = got(read_mdf(mdf));
    EXPECT_GT(spilled_blocks(), between);
    EXPECT_EQ(content_digest(spilled_mdf.recording), content_digest(plain_mdf.recording));
}
