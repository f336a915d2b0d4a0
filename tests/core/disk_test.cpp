// Full disks, read-only folders and kills: a clear error, nothing lost, nothing half there.
#include <fcntl.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/mount.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <filesystem>
#include <fstream>

#include "core/base/file_io.h"
#include "core/intake/import.h"
#include "core/logger/collect.h"
#include "core/recording/csv_writer.h"
#include "core/recording/recording_file.h"
#include "demo/stand_in.h"
#include "tests/support/demo_world.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::TempFolder;

namespace {

/// A tmpfs of a few hundred kB; needs root.
class SmallDisk {
  public:
    explicit SmallDisk(const char* size)
        : mounted_(::mount("tmpfs", folder_.path().c_str(), "tmpfs", 0, (std::string("size=") + size).c_str()) == 0) {}
    ~SmallDisk() {
        if (mounted_) ::umount2(folder_.path().c_str(), MNT_DETACH);
    }
    [[nodiscard]] bool mounted() const { return mounted_; }
    [[nodiscard]] const std::filesystem::path& path() const { return folder_.path(); }
    void fill(std::size_t leave) const {
        std::error_code code;
        const auto space = std::filesystem::space(path(), code).available;
        if (space > leave) std::ofstream(path() / "filler", std::ios::binary) << std::string(space - leave, 'x');
    }

  private:
    TempFolder folder_;
    bool mounted_;
};

std::size_t recordings_in(const std::filesystem::path& library) {
    return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(library / "recordings"),
                                                  std::filesystem::directory_iterator()));
}

/// Starts rendak-cli on a library with its output thrown away.
pid_t start_cli(const std::filesystem::path& library, const std::vector<std::string>& arguments) {
    std::vector<std::string> words{"rendak-cli", "--library", library.string()};
    words.insert(words.end(), arguments.begin(), arguments.end());
    std::vector<char*> pointers;
    for (std::string& word : words) pointers.push_back(word.data());
    pointers.push_back(nullptr);
    const std::string program = test::own_cli();
    const pid_t child = ::fork();
    if (child == 0) {
        const int null = ::open("/dev/null", O_WRONLY);
        ::dup2(null, 1);
        ::dup2(null, 2);
        ::execv(program.c_str(), pointers.data());
        ::_exit(127);
    }
    return child;
}

}  // namespace

TEST(FullDisk, ImportSaysSoAndLeavesNothing) {
    const SmallDisk disk("2m");
    if (!disk.mounted()) GTEST_SKIP() << "needs root to mount a small tmpfs";
    const TempFolder elsewhere;
    const auto file = elsewhere.write("oval.csv", test::oval_table(30, 100).text);
    auto library = Library::open(disk.path() / "lib");
    ASSERT_TRUE(library) << library.error().text();
    disk.fill(40'000);
    const auto run = import_file(**library, file, {});
    ASSERT_FALSE(run);
    EXPECT_EQ(run.error().code, ErrorCode::io);
    EXPECT_NE(run.error().message.find("disk is full"), std::string::npos) << run.error().text();
    EXPECT_TRUE((*library)->runs().value().empty());
    EXPECT_EQ(recordings_in(disk.path() / "lib"), 0U);
    std::filesystem::remove(disk.path() / "filler");
    EXPECT_TRUE(import_file(**library, elsewhere.write("small.csv", test::oval_table(2, 5).text), {}))
        << "with space again it works";
}

TEST(FullDisk, ExportSaysSoAndLeavesNothing) {
    const SmallDisk disk("1m");
    if (!disk.mounted()) GTEST_SKIP() << "needs root to mount a small tmpfs";
    const auto& recording = *test::demo_world().runs[0].recording;
    const auto csv = write_csv(recording, disk.path() / "out.csv");
    ASSERT_FALSE(csv);
    EXPECT_NE(csv.error().message.find("disk is full"), std::string::npos) << csv.error().text();
    const auto h5 = write_recording(recording, disk.path() / "out.rdk.h5");
    ASSERT_FALSE(h5);
    EXPECT_NE(h5.error().message.find("disk is full"), std::string::npos) << h5.error().text();
    const auto text = write_file(disk.path() / "big.txt", std::string(2'000'000, 'x'));
    ASSERT_FALSE(text);
    EXPECT_TRUE(std::filesystem::is_empty(disk.path()));
}

TEST(ReadOnlyFolder, IsSaid) {
    const SmallDisk disk("1m");
    if (!disk.mounted()) GTEST_SKIP() << "needs root to mount a read-only file system";
    ASSERT_EQ(::mount("tmpfs", disk.path().c_str(), "tmpfs", MS_REMOUNT | MS_RDONLY, "size=1m"), 0);
    const auto library = Library::open(disk.path() / "lib");
    ASSERT_FALSE(library);
    EXPECT_NE(library.error().message.find("read-only"), std::string::npos) << library.error().text();
    const auto written = write_recording(*test::demo_world().runs[0].recording, disk.path() / "a.rdk.h5");
    ASSERT_FALSE(written);
    EXPECT_EQ(written.error().code, ErrorCode::io);
    EXPECT_FALSE(write_file(disk.path() / "a.txt", "x"));
}

TEST(FullDisk, ADownloadSaysSoKeepsThePartAndGoesOnWhenThereIsRoom) {
    const SmallDisk disk("8m");
    if (!disk.mounted()) GTEST_SKIP() << "needs root to mount a small tmpfs";
    const TempFolder elsewhere;
    std::filesystem::create_directories(elsewhere / "card");
    elsewhere.write("card/REC0001.csv", test::oval_table(30, 50).text);
    demo::StandIn logger;
    ASSERT_TRUE(logger.start(elsewhere / "card"));
    const auto link = http_logger(logger.url());
    const auto files = *link->list({});
    ASSERT_GT(files[0].size, 500'000U);
    auto library = Library::open(disk.path() / "lib");
    ASSERT_TRUE(library) << library.error().text();
    disk.fill(400'000);
    const auto full = collect(**library, *link, files, {});
    ASSERT_TRUE(full[0].error);
    EXPECT_EQ(full[0].error->code, ErrorCode::io);
    EXPECT_NE(full[0].error->message.find("disk is full"), std::string::npos) << full[0].error->text();
    EXPECT_TRUE((*library)->runs().value().empty());
    const auto erased = erase_verified(**library, *link, files);
    ASSERT_TRUE(erased);
    EXPECT_TRUE(erased->gone.empty()) << "what did not arrive stays on the card";
    std::filesystem::remove(disk.path() / "filler");
    const auto again = collect(**library, *link, files, {});
    ASSERT_TRUE(again[0].imported) << again[0].error->text();
    EXPECT_GT(again[0].fetched.resumed_at, 0U) << "not from the start";
    EXPECT_TRUE(state_in_library(**library, files[0]).value().verified);
}

TEST(TwoRendaks, DownloadTheSameRecordingsAtOnceAndHaveEachOnce) {
    const TempFolder folder;
    std::filesystem::create_directories(folder / "card");
    for (int i = 1; i <= 4; ++i)
        folder.write("card/REC000" + std::to_string(i) + ".csv", test::oval_table(3 + i, 20).text);
    demo::StandIn logger({.bytes_per_s = 4e6});
    ASSERT_TRUE(logger.start(folder / "card"));
    const auto lib = folder / "lib";
    ASSERT_TRUE(Library::open(lib));
    std::vector<pid_t> children;
    for (int k = 0; k < 2; ++k) {
        const pid_t child = start_cli(lib, {"logger", "fetch", "--url", logger.url()});
        children.push_back(child);
    }
    for (const pid_t child : children) {
        int status = 0;
        ::waitpid(child, &status, 0);
        EXPECT_TRUE(WIFEXITED(status));
    }
    // One of the two may have met the other's half-written part; a last fetch makes everything whole.
    const auto link = http_logger(logger.url());
    const auto files = *link->list({});
    auto library = Library::open(lib);
    for (const Collected& one : collect(**library, *link, files, {})) EXPECT_TRUE(one.imported) << one.error->text();
    EXPECT_EQ((*library)->runs().value().size(), 4U);
    EXPECT_EQ(recordings_in(lib), 4U);
    for (const LoggedFile& file : files) EXPECT_TRUE(state_in_library(**library, file).value().verified) << file.name;
}

TEST(Kill, AtManyMomentsOfAnImportLeavesTheLibraryWhole) {
    const TempFolder folder;
    const auto file = folder.write("oval.csv", test::oval_table(60, 50).text);
    const auto lib = folder / "lib";
    {
        auto library = Library::open(lib);
        ASSERT_TRUE(import_file(**library, folder.write("first.csv", test::oval_table(2, 10).text), {}));
    }
    int killed = 0, finished = 0;
    for (int moment = 0; moment < 40; ++moment) {
        const pid_t child = start_cli(lib, {"import", file.string()});
        ::usleep(static_cast<useconds_t>(1500 * moment));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        (WIFSIGNALED(status) ? killed : finished) += 1;
        auto library = Library::open(lib, Library::Open::existing);
        ASSERT_TRUE(library) << library.error().text();
        const auto runs = (*library)->runs().value();
        ASSERT_GE(runs.size(), 1U);
        ASSERT_LE(runs.size(), 2U);
        EXPECT_EQ(recordings_in(lib), runs.size()) << "no file without a run, no run without a file";
        for (const RunRow& run : runs) EXPECT_TRUE((*library)->open_run(run.id)) << "every run opens";
        // Begin again, so that later moments are of an import too.
        if (runs.size() == 2) ASSERT_TRUE((*library)->remove_run(runs.back().id));
    }
    EXPECT_GT(killed, 5) << "the test must have killed something";
}

TEST(Kill, AtManyMomentsOfADownloadKeepsEveryByteAndHalvesNothing) {
    const TempFolder folder;
    std::filesystem::create_directories(folder / "card");
    folder.write("card/REC0001.csv", test::oval_table(2, 10).text);
    folder.write("card/REC0002.csv", test::oval_table(60, 50).text);
    folder.write("card/REC0003.csv", test::oval_table(40, 50).text);
    const auto lib = folder / "lib";
    demo::StandIn logger({.bytes_per_s = 1e7});
    ASSERT_TRUE(logger.start(folder / "card"));
    const auto link = http_logger(logger.url());
    const auto files = *link->list({});
    std::uint64_t total = 0;
    for (const LoggedFile& file : files) total += file.size;
    int killed = 0;
    std::size_t before = 0;
    // What is looked for is on the disk; under the sanitizers some moments do.
    const int step = test::under_sanitizers() ? 4 : 1;
    for (int moment = 0; moment < 60; moment += step) {
        const pid_t child = start_cli(lib, {"logger", "fetch", "--url", logger.url()});
        ::usleep(static_cast<useconds_t>(20000 + 4000 * moment));
        ::kill(child, SIGKILL);
        int status = 0;
        ::waitpid(child, &status, 0);
        killed += WIFSIGNALED(status);
        if (!std::filesystem::exists(lib / "library.sqlite")) continue;
        auto library = Library::open(lib, Library::Open::existing);
        ASSERT_TRUE(library) << library.error().text();
        const auto runs = (*library)->runs().value();
        ASSERT_GE(runs.size(), before) << "what was counted stays";
        before = runs.size();
        EXPECT_EQ(recordings_in(lib), runs.size());
        for (const LoggedFile& file : files) {
            const auto run = (*library)->find_raw(file.sha256).value();
            if (!run) continue;
            EXPECT_TRUE((*library)->open_run(*run));
            EXPECT_TRUE(state_in_library(**library, file).value().verified) << "the original of every run is whole";
        }
        if (runs.size() == files.size()) break;
    }
    EXPECT_GT(killed, 5);
    auto library = Library::open(lib);
    (void)collect(**library, *link, files, {});
    EXPECT_EQ((*library)->runs().value().size(), files.size());
    for (const LoggedFile& file : files) EXPECT_TRUE(state_in_library(**library, file).value().verified);
    // The kernel may hold a megabyte of a killed process's connection; far more would mean that it began again.
    EXPECT_LT(logger.bytes_sent(), total + static_cast<std::uint64_t>(killed) * 3'000'000);
}
