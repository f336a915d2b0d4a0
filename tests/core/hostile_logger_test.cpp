// Loggers that send without end, without hurry or without sense, and cards that point elsewhere.
#include <gtest/gtest.h>
#include <sys/resource.h>

#include <chrono>
#include <filesystem>
#include <thread>

#include "core/logger/collect.h"
#include "core/logger/fetch.h"
#include "core/logger/http_client.h"
#include "tests/support/got.h"
#include "tests/support/raw_server.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::RawServer;
using rendak::test::TempFolder;

namespace {

constexpr const char* ok = "HTTP/1.1 200 OK\r\n";
const std::string megabyte(1U << 20, ' ');

double seconds_of(const std::function<void()>& work) {
    const auto begin = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

std::size_t peak_memory_kb() {
    rusage usage{};
    ::getrusage(RUSAGE_SELF, &usage);
    return static_cast<std::size_t>(usage.ru_maxrss);
}

/// The list of a server is refused with a sentence, without taking more memory than a list may.
void expect_refused(const RawServer::Answer& answer, const std::string& word) {
    const RawServer server(answer);
    const std::size_t before = peak_memory_kb();
    const auto list = http_logger(server.url())->list({});
    ASSERT_FALSE(list);
    EXPECT_NE(list.error().message.find(word), std::string::npos) << list.error().text();
    EXPECT_LT(peak_memory_kb() - before, 400'000U);
}

}  // namespace

TEST(HostileLogger, WithoutEndIsCutOff) {
    expect_refused(
        [](const auto&, const auto& send) {
            for (bool more = send(std::string(ok)); more;) more = send("X-A: " + std::string(1000, 'a') + "\r\n");
        },
        "cut off");
    expect_refused(
        [](const auto&, const auto& send) {
            for (bool more = send(std::string(ok) + "X: "); more;) more = send(megabyte);
        },
        "cut off");
    expect_refused(
        [](const auto&, const auto& send) {
            for (bool more = send(std::string(ok) + "Content-Length: 10737418240\r\n\r\n"); more;)
                more = send(megabyte);
        },
        "cut off");
    expect_refused(
        [](const auto&, const auto& send) {
            bool more = send(std::string(ok) + "Transfer-Encoding: chunked\r\n\r\n");
            while (more) more = send("100000\r\n" + megabyte + "\r\n");
        },
        "cut off");
}

TEST(HostileLogger, OfNonsenseIsRefused) {
    const auto with = [](const std::string& body) {
        return [body](const auto&, const auto& send) { send(std::string(ok) + "Connection: close\r\n\r\n" + body); };
    };
    expect_refused(with(std::string(100'000, '[')), "no logger that Rendak can read");
    expect_refused(with("[{\"number\": 1, \"name\": \"x\", \"sha256\": \"../../x\"}]"), "readable SHA-256");
    const std::string sha = std::string(64, 'a');
    for (const char* quick : {"\"\"", "12", "null", "\"0123\"", "\"../../../../../../../../../../x/\""})
        expect_refused(with("[{\"number\": 1, \"sha256\": \"" + sha + "\", \"xxh3\": " + quick + "}]"),
                       "readable XXH3");
    expect_refused(with("{}"), "not readable");
    std::string many = "[";
    for (int i = 0; i < 100'001; ++i) many += "{},";
    expect_refused(with(many + "{}]"), "more than 100 000");
}

TEST(HostileLogger, ThatDripsIsLeftAlone) {
    // A byte now and then would keep a timeout of single reads waiting for ever.
    const RawServer server([](const auto&, const auto& send) {
        bool more = send(std::string(ok) + "Content-Length: 100000\r\n\r\n");
        while (more) {
            std::this_thread::sleep_for(std::chrono::milliseconds(100));
            more = send(" ");
        }
    });
    HttpRequest request;
    request.url = server.url() + "/v1/recordings";
    request.most_seconds = 1.5;
    const double total = seconds_of([&] {
        const auto answer = ask(request, {});
        ASSERT_FALSE(answer);
        EXPECT_EQ(answer.error().code, ErrorCode::io);
    });
    EXPECT_LT(total, 20);
    request.most_seconds = 0;
    request.drip_seconds = 1;
    EXPECT_FALSE(ask(request, {})) << "nor without a limit on the whole";
}

TEST(HostileLogger, EveryWaitCanBeCancelled) {
    const RawServer silent([](const auto&, const auto& send) {
        while (send("")) std::this_thread::sleep_for(std::chrono::milliseconds(10));
    });
    const auto link = http_logger(silent.url());
    LoggedFile file;
    file.number = 1;
    file.size = 1000;
    const std::function<void(const JobContext&)> waits[] = {
        [&](const JobContext& job) { EXPECT_EQ(link->list(job).error().code, ErrorCode::cancelled); },
        [&](const JobContext& job) { EXPECT_EQ(link->state(job).error().code, ErrorCode::cancelled); },
        [&](const JobContext& job) { EXPECT_EQ(link->set_clock(0, job).error().code, ErrorCode::cancelled); },
        [&](const JobContext& job) { EXPECT_EQ(link->erase(file, job).error().code, ErrorCode::cancelled); },
        [&](const JobContext& job) {
            EXPECT_EQ(link->read(
                              file, 0, [](auto) { return true; }, job)
                          .error()
                          .code,
                      ErrorCode::cancelled);
        }};
    for (const auto& wait : waits) {
        std::stop_source stop;
        std::thread user([&] {
            std::this_thread::sleep_for(std::chrono::milliseconds(150));
            stop.request_stop();
        });
        const double seconds = seconds_of([&] { wait({stop.get_token(), {}}); });
        user.join();
        EXPECT_LT(seconds, 10) << "the wait alone would take fifteen";
    }
}

TEST(HostileCard, LinksAreNeitherListedNorErased) {
    const TempFolder folder;
    std::filesystem::create_directories(folder / "card");
    std::filesystem::create_directories(folder / "mine/below");
    const auto mine = folder.write("mine/thesis.csv", test::oval_table(2, 10).text);
    folder.write("mine/below/other.csv", test::oval_table(2, 12).text);
    std::filesystem::create_symlink(mine, folder / "card/REC0001.csv");
    std::filesystem::create_directory_symlink(folder / "mine/below", folder / "card/more");
    folder.write("card/REC0002.csv", test::oval_table(3, 10).text);
    auto library = std::move(*Library::open(folder / "lib"));
    const auto link = card_folder((folder / "card").string());
    const auto files = test::got(link->list({}));
    ASSERT_EQ(files.size(), 1U);
    EXPECT_EQ(files[0].name, "REC0002.csv");
    // Asked for by name all the same, as after a swap of the file for a link.
    auto forged = files[0];
    for (const char* name : {"REC0001.csv", "more/other.csv", "../mine/thesis.csv"}) {
        forged.name = name;
        const auto erased = link->erase(forged, {});
        ASSERT_FALSE(erased) << name;
    }
    (void)collect(*library, *link, files, {});
    std::filesystem::remove(folder / "card/REC0002.csv");
    std::filesystem::copy_file(test::got(library->raw_files({1})).empty()
                                   ? mine
                                   : folder / "lib" / test::got(library->raw_files({1}))[0].archive_file,
                               folder / "mine/same.csv");
    std::filesystem::create_symlink(folder / "mine/same.csv", folder / "card/REC0002.csv");
    EXPECT_FALSE(link->erase(files[0], {})) << "even of the right content";
    for (const char* kept : {"mine/thesis.csv", "mine/below/other.csv", "mine/same.csv"})
        EXPECT_TRUE(std::filesystem::exists(folder / kept)) << kept;
}

TEST(LeftOvers, AnOriginalIsKeptOnceWhateverTheDay) {
    const TempFolder folder;
    std::filesystem::create_directories(folder / "card");
    folder.write("card/REC0001.csv", test::oval_table(2, 10).text);
    const auto link = card_folder((folder / "card").string());
    const auto files = test::got(link->list({}));
    FetchOptions options;
    options.day = "2026-06-13";
    ASSERT_TRUE(fetch(*link, files[0], folder / "originals", options));
    options.day = "2026-06-14";  // the import had failed, or was killed; fetched again the next day
    const auto again = fetch(*link, files[0], folder / "originals", options);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->file, folder / "originals/2026-06-13/REC0001.csv");
    EXPECT_TRUE(std::filesystem::is_empty(folder / "originals/2026-06-14") ||
                !std::filesystem::exists(folder / "originals/2026-06-14"));
}

TEST(Card, OfAFileThatHasGrownSinceItWasListedWhatWasListedIsFetched) {
    namespace fs = std::filesystem;
    const TempFolder folder;
    fs::create_directories(folder / "card");
    const std::string text = test::oval_table(2, 10).text;
    folder.write("card/REC0001.csv", text);
    const auto link = card_folder((folder / "card").string());
    const auto before = test::got(link->list({}));
    folder.write("card/REC0001.csv", text + text.substr(text.find('\n') + 1));
    EXPECT_EQ(test::read_all(test::got(fetch(*link, before[0], folder / "originals")).file), text);
    const auto after = test::got(link->list({}));
    EXPECT_NE(after[0].sha256, before[0].sha256);
    EXPECT_EQ(fs::file_size(test::got(fetch(*link, after[0], folder / "originals")).file), after[0].size);
}

TEST(HostileLogger, WhatSendsMoreThanItListedIsRefused) {
    namespace fs = std::filesystem;
    /// Three times what it lists, in blocks that know no end.
    class Overflowing : public LoggerLink {
      public:
        [[nodiscard]] std::string address() const override { return "made"; }
        Result<LoggerState> state(const JobContext&) override { return LoggerState{}; }
        Result<std::vector<LoggedFile>> list(const JobContext&) override { return std::vector<LoggedFile>{}; }
        Result<void> read(const LoggedFile& file, std::uint64_t, const std::function<bool(std::string_view)>& sink,
                          const JobContext&) override {
            for (std::uint64_t sent = 0; sent < 3 * file.size; sent += megabyte.size()) {
                if (!sink(megabyte)) return fail(ErrorCode::cancelled, "Cancelled.");
            }
            return {};
        }
        Result<void> erase(const LoggedFile&, const JobContext&) override { return {}; }
        Result<double> set_clock(double unix_s, const JobContext&) override { return unix_s; }
    };
    const TempFolder folder;
    Overflowing link;
    LoggedFile file;
    file.name = "REC0001.csv";
    file.size = (2U << 20) + 7;
    file.sha256 = std::string(64, 'a');
    const auto fetched = fetch(link, file, folder / "originals");
    ASSERT_FALSE(fetched);
    EXPECT_NE(fetched.error().message.find("damaged twice"), std::string::npos) << fetched.error().text();
    EXPECT_FALSE(fs::exists(folder / "originals/unsorted/REC0001.csv"));
    EXPECT_FALSE(fs::exists(folder / "originals/.unfinished" / file.sha256)) << "nothing of it is gone on with";
}

TEST(LeftOvers, DownloadsThatNobodyNeedsAreSwept) {
    namespace fs = std::filesystem;
    const TempFolder folder;
    fs::create_directories(folder / "card");
    folder.write("card/REC0001.csv", test::oval_table(2, 10).text);
    const auto link = card_folder((folder / "card").string());
    const auto files = test::got(link->list({}));
    auto library = std::move(*Library::open(folder / "lib"));
    ASSERT_TRUE(collect(*library, *link, files, {})[0].imported);
    const std::string waiting = "lib/originals/.unfinished/";
    const auto in_library = folder.write(waiting + files[0].sha256, "some of it");
    const auto fresh = folder.write(waiting + std::string(64, 'a'), "a part of yesterday");
    const auto old = folder.write(waiting + std::string(64, 'b'), "a part of last year");
    fs::last_write_time(old, fs::file_time_type::clock::now() - std::chrono::hours(24 * 365));
    library = std::move(*Library::open(folder / "lib"));
    EXPECT_FALSE(fs::exists(in_library)) << "its recording came in another way";
    EXPECT_TRUE(fs::exists(fresh));
    EXPECT_FALSE(fs::exists(old)) << "its logger is gone";
}
