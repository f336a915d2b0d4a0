// From the car's logger into the library, whatever the logger does.
#include "core/logger/collect.h"

#include <gtest/gtest.h>

#include <fstream>
#include <thread>

#include "core/base/sha256.h"
#include "core/recording/mdf.h"
#include "core/recording/recording_file.h"
#include "demo/card.h"
#include "demo/stand_in.h"
#include "tests/support/demo_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::read_all;
using rendak::test::TempFolder;

namespace {

/// A card with two small tables and a recording of the demo's run 1.
class CollectTest : public testing::Test {
  protected:
    void SetUp() override {
        std::filesystem::create_directories(folder_ / "card");
        folder_.write("card/REC0001.csv", test::oval_table(2, 10, 45).text);
        folder_.write("card/REC0002.csv", test::oval_table(3, 20, 40).text);
        ASSERT_TRUE(demo::write_card_file(*test::demo_world().runs[0].recording, folder_ / "card/REC0003.MF4"));
        library_ = std::move(*Library::open(folder_ / "lib"));
        options_.fetch.wait_s = 0.01;
        options_.fetch.day = "2026-06-13";
        options_.filing.driver = "Osei";
    }
    std::unique_ptr<demo::StandIn> logger(const demo::Troubles& troubles = {}) {
        auto out = std::make_unique<demo::StandIn>(troubles);
        const auto port = out->start(folder_ / "card");
        EXPECT_TRUE(port) << port.error().text();
        link_ = http_logger(out->url());
        return out;
    }
    std::vector<LoggedFile> listed() {
        auto files = link_->list({});
        EXPECT_TRUE(files) << files.error().text();
        return files ? *files : std::vector<LoggedFile>{};
    }
    void expect_all_there() {
        ASSERT_EQ(library_->runs().value().size(), 3U);
        for (const char* name : {"REC0001.csv", "REC0002.csv", "REC0003.MF4"}) {
            EXPECT_EQ(read_all(folder_ / "lib/originals/2026-06-13" / name), read_all(folder_ / "card" / name));
        }
        for (const LoggedFile& file : listed())
            EXPECT_TRUE(state_in_library(*library_, file).value().verified) << file.name;
        EXPECT_TRUE(std::filesystem::is_empty(folder_ / "lib/originals/.unfinished"));
    }

    TempFolder folder_;
    std::unique_ptr<Library> library_;
    std::unique_ptr<LoggerLink> link_;
    CollectOptions options_;
};

}  // namespace

TEST_F(CollectTest, ListsFetchesVerifiesAndFiles) {
    const auto stand_in = logger();
    const auto files = listed();
    ASSERT_EQ(files.size(), 3U);
    EXPECT_EQ(files[2].name, "REC0003.MF4");
    EXPECT_DOUBLE_EQ(*files[2].start_unix_s, 1072917120);
    EXPECT_GT(*files[2].duration_s, 300);
    EXPECT_EQ(files[2].sha256, *sha256_of_file(folder_ / "card/REC0003.MF4"));
    EXPECT_FALSE(state_in_library(*library_, files[0]).value().run);
    double last = 0;
    JobContext job;
    job.progress = [&](double x) {
        EXPECT_GE(x, last - 1e-9) << "progress only rises";
        last = x;
    };
    const auto done = collect(*library_, *link_, files, options_, job);
    ASSERT_EQ(done.size(), 3U);
    for (const Collected& one : done) EXPECT_TRUE(one.imported) << one.error->text();
    EXPECT_NEAR(last, 1, 0.01);
    expect_all_there();
    EXPECT_EQ(library_->runs().value()[0].driver, "Osei");
    const auto sent = stand_in->bytes_sent();
    const auto again = collect(*library_, *link_, files, options_);
    EXPECT_TRUE(again[1].imported->already_there);
    EXPECT_EQ(stand_in->bytes_sent(), sent) << "nothing is fetched twice";
    EXPECT_EQ(library_->runs().value().size(), 3U);
}

TEST_F(CollectTest, ALostLinkGoesOnAtTheByteWhereItStopped) {
    const auto stand_in = logger({.drop_after = 700'000, .drops = 5});
    const auto files = listed();
    const auto done = collect(*library_, *link_, files, options_);
    for (const Collected& one : done) ASSERT_TRUE(one.imported) << one.error->text();
    EXPECT_EQ(done[2].fetched.lost_links, 5);
    std::uint64_t size = 0;
    for (const LoggedFile& file : files) size += file.size;
    EXPECT_EQ(stand_in->bytes_sent(), size) << "every byte once";
    expect_all_there();
}

TEST_F(CollectTest, ALinkThatStaysLostKeepsWhatHasArrived) {
    auto stand_in = logger({.drop_after = 1'500'000, .drops = 1'000'000});
    const auto files = listed();
    options_.fetch.tries = 2;
    stand_in->stop();  // not there any more
    const auto none = collect(*library_, *link_, files, options_);
    ASSERT_TRUE(none[0].error);
    EXPECT_EQ(none[0].error->code, ErrorCode::io);
    EXPECT_NE(none[0].error->message.find("does not answer"), std::string::npos);
    EXPECT_TRUE(library_->runs().value().empty());
    stand_in = logger();
    const auto done = collect(*library_, *link_, files, options_);
    for (const Collected& one : done) EXPECT_TRUE(one.imported);
    expect_all_there();
}

TEST_F(CollectTest, CancelKeepsThePartAndTheNextTimeGoesOn) {
    const auto stand_in = logger();
    const auto files = listed();
    std::stop_source stop;
    JobContext job{stop.get_token(), [&](double x) {
                       if (x > 0.3) stop.request_stop();
                   }};
    const auto cut = collect(*library_, *link_, files, options_, job);
    ASSERT_TRUE(cut[2].error);
    EXPECT_EQ(cut[2].error->code, ErrorCode::cancelled);
    const auto part = folder_ / "lib/originals/.unfinished" / files[2].sha256;
    ASSERT_TRUE(std::filesystem::exists(part));
    const auto have = std::filesystem::file_size(part);
    EXPECT_GT(have, 0U);
    const auto done = collect(*library_, *link_, {files[2]}, options_);
    ASSERT_TRUE(done[0].imported);
    EXPECT_EQ(done[0].fetched.resumed_at, have);
    expect_all_there();
}

TEST_F(CollectTest, ADamagedRecordingIsFetchedAgainAndOneThatStaysDamagedIsRefused) {
    {
        const auto stand_in = logger({.corrupt_number = 3});
        const auto done = collect(*library_, *link_, {listed()[2]}, options_);
        EXPECT_TRUE(done[0].imported) << "damaged once only";
        ASSERT_TRUE(library_->remove_run(done[0].imported->run));
        std::filesystem::remove_all(folder_ / "lib/originals");
    }
    const auto stand_in = logger({.corrupt_number = 3, .corruptions = 1000});
    const auto files = listed();
    const auto done = collect(*library_, *link_, files, options_);
    EXPECT_TRUE(done[0].imported) << "the others are not held up";
    ASSERT_TRUE(done[2].error);
    EXPECT_NE(done[2].error->message.find("damaged twice"), std::string::npos);
    EXPECT_EQ(library_->runs().value().size(), 2U);
    const auto erased = erase_verified(*library_, *link_, files);
    ASSERT_TRUE(erased);
    ASSERT_EQ(erased->kept.size(), 1U);
    EXPECT_EQ(erased->kept[0].second, "it is not in the library");
}

TEST_F(CollectTest, ALoggerThatNamesNoQuickDigestIsCheckedByTheOther) {
    const auto stand_in = logger({.corrupt_number = 3, .corruptions = 1000});
    auto files = listed();
    for (LoggedFile& file : files) {
        EXPECT_EQ(file.xxh3, *file_digest(folder_ / "card" / file.name));
        file.xxh3.clear();
    }
    const auto done = collect(*library_, *link_, files, options_);
    EXPECT_TRUE(done[0].imported);
    ASSERT_TRUE(done[2].error);
    EXPECT_NE(done[2].error->message.find("damaged twice"), std::string::npos);
}

TEST_F(CollectTest, OfTwoDigestsThatContradictEachOtherNothingIsErased) {
    const auto stand_in = logger();
    auto files = listed();
    files[0].sha256 = files[1].sha256;
    files[0].sha256.front() = files[0].sha256.front() == '0' ? '1' : '0';
    const auto done = collect(*library_, *link_, {files[0]}, options_);
    ASSERT_TRUE(done[0].imported) << "it arrived as it was sent";
    const auto erased = erase_verified(*library_, *link_, {files[0]});
    ASSERT_TRUE(erased);
    EXPECT_TRUE(erased->gone.empty());
    ASSERT_EQ(erased->kept.size(), 1U);
    EXPECT_EQ(erased->kept[0].second, "its kept original is damaged");
    EXPECT_EQ(listed().size(), 3U);
}

TEST(Fetch, WhatCannotBeMadeSafeIsSaid) {
    const TempFolder folder;
    const auto gone = keep_safe(folder / "gone.MF4");
    ASSERT_FALSE(gone);
    EXPECT_EQ(gone.error().code, ErrorCode::not_found);
    EXPECT_NE(gone.error().text().find("gone.MF4"), std::string::npos);
    folder.write("there.MF4", "abc");
    EXPECT_TRUE(keep_safe(folder / "there.MF4"));
}

TEST_F(CollectTest, ErasesOnlyWhatIsVerifiedAndChecksAfterwards) {
    const auto stand_in = logger();
    const auto files = listed();
    (void)collect(*library_, *link_, {files[0], files[2]}, options_);
    // One original is lost, one run lies in the bin: both must stay on the card.
    const auto refuse = [&](const std::string& reason) {
        const auto erased = erase_verified(*library_, *link_, {files[0]});
        ASSERT_TRUE(erased);
        ASSERT_EQ(erased->kept.size(), 1U);
        EXPECT_EQ(erased->kept[0].second, reason);
        EXPECT_EQ(listed().size(), 3U);
    };
    const RunId run = *library_->find_raw(files[0].sha256).value();
    ASSERT_TRUE(library_->set_binned(run, true));
    refuse("its run lies in the bin");
    ASSERT_TRUE(library_->set_binned(run, false));
    const auto original = folder_ / "lib/originals/2026-06-13/REC0001.csv";
    const std::string bytes = read_all(original);
    std::ofstream(original) << std::string(bytes.size(), 'x');
    refuse("its kept original is damaged");
    std::filesystem::remove(original);
    refuse("its original is not kept with the library");
    std::ofstream(original) << bytes;
    const auto erased = erase_verified(*library_, *link_, files);
    ASSERT_TRUE(erased) << erased.error().text();
    EXPECT_EQ(erased->gone.size(), 2U);
    ASSERT_EQ(erased->kept.size(), 1U);
    EXPECT_EQ(erased->kept[0].first.name, "REC0002.csv");
    EXPECT_EQ(listed().size(), 1U);
}

TEST_F(CollectTest, ALoggerThatOnlySaysItHasErasedIsFoundOut) {
    const auto stand_in = logger({.keeps_erased = true});
    const auto files = listed();
    (void)collect(*library_, *link_, {files[0]}, options_);
    const auto erased = erase_verified(*library_, *link_, {files[0]});
    ASSERT_TRUE(erased);
    EXPECT_TRUE(erased->gone.empty());
    EXPECT_EQ(erased->kept[0].second, "the logger still lists it after erasing");
}

TEST_F(CollectTest, NumbersThatStartAgainNeverMixRecordingsUp) {
    const auto stand_in = logger({.restart_numbering = true});
    const auto before = listed();
    (void)collect(*library_, *link_, {before[0]}, options_);
    ASSERT_TRUE(link_->erase(before[0], {}));
    EXPECT_EQ(listed()[0].number, 1) << "another recording has number 1 now";
    EXPECT_EQ(listed()[0].name, "REC0002.csv");
    // The old list would erase or fetch the wrong one.
    const auto wrong = link_->erase(before[0], {});
    ASSERT_FALSE(wrong);
    EXPECT_NE(wrong.error().message.find("another one now"), std::string::npos);
    EXPECT_EQ(listed().size(), 2U);
    EXPECT_FALSE(state_in_library(*library_, listed()[0]).value().run) << "told by content, not by number";
}

TEST_F(CollectTest, ClocksAreReadSetAndCorrected) {
    const auto stand_in = logger({.clock_offset_s = -3600, .nearly_full = true});
    const auto now = [] {
        return std::chrono::duration<double>(std::chrono::system_clock::now().time_since_epoch()).count();
    };
    auto state = link_->state({});
    ASSERT_TRUE(state);
    EXPECT_NEAR(*state->clock_unix_s, now() - 3600, 2);
    EXPECT_EQ(logger_warnings(*state, now()).size(), 3U) << "card, count, clock";
    const auto set = link_->set_clock(now(), {});
    ASSERT_TRUE(set);
    EXPECT_NEAR(*set, now(), 2);
    EXPECT_EQ(logger_warnings(*link_->state({}), now()).size(), 2U);
    options_.clock_shift_s = 3600;
    (void)collect(*library_, *link_, {listed()[2]}, options_);
    EXPECT_DOUBLE_EQ(*library_->runs().value()[0].start_unix_s, 1072917120 + 3600.0);
    EXPECT_DOUBLE_EQ(library_->runs().value()[0].clock_shift_s, 3600);
}

TEST_F(CollectTest, ARecordingCutOffByALossOfPowerIsSavedAsFarAsItGoes) {
    const auto stand_in = logger({.cut_off_number = 3});
    const auto files = listed();
    EXPECT_FALSE(files[2].complete);
    const auto done = collect(*library_, *link_, {files[2]}, options_);
    ASSERT_TRUE(done[0].imported) << done[0].error->text();
    const auto whole = read_mdf(folder_ / "card/REC0003.MF4");
    const double share = library_->run(done[0].imported->run)->duration_s / whole->recording.span_s().length();
    EXPECT_NEAR(share, 0.6, 0.05);
    bool said = false;
    for (const std::string& note : done[0].imported->notes)
        said = said || note.find("ends in the middle") != std::string::npos;
    EXPECT_TRUE(said);
}

TEST_F(CollectTest, ACardIsALoggerToo) {
    folder_.write("card/readme.pdf", "no recording");
    auto link = open_logger((folder_ / "card").string());
    ASSERT_TRUE(link);
    link_ = std::move(*link);
    const auto files = listed();
    ASSERT_EQ(files.size(), 3U);
    const auto done = collect(*library_, *link_, files, options_);
    for (const Collected& one : done) EXPECT_TRUE(one.imported) << one.error->text();
    expect_all_there();
    EXPECT_FALSE(link_->set_clock(0, {}));
    // Pulled out while it is read: nothing is half there.
    std::filesystem::rename(folder_ / "card", folder_ / "pulled out");
    const auto gone = link_->list({});
    ASSERT_FALSE(gone);
    EXPECT_NE(gone.error().message.find("pulled out"), std::string::npos);
    EXPECT_FALSE(open_logger((folder_ / "card").string()));
    EXPECT_FALSE(open_logger("https://127.0.0.1"));
}

TEST_F(CollectTest, ACardPulledOutInTheMiddleOfACopyIsTakenUpAgain) {
    link_ = card_folder((folder_ / "card").string());
    const auto files = listed();
    options_.fetch.tries = 2;
    bool moved = false;
    JobContext job;
    job.progress = [&](double x) {
        if (x < 0.2 || moved) return;
        moved = true;
        std::filesystem::resize_file(folder_ / "card/REC0003.MF4", 3'000'000);
    };
    const std::string whole = read_all(folder_ / "card/REC0003.MF4");
    const auto cut = collect(*library_, *link_, {files[2]}, options_, job);
    ASSERT_TRUE(cut[0].error);
    EXPECT_EQ(cut[0].error->code, ErrorCode::io) << cut[0].error->text();
    EXPECT_TRUE(library_->runs().value().empty());
    std::ofstream(folder_ / "card/REC0003.MF4", std::ios::binary) << whole;
    const auto done = collect(*library_, *link_, files, options_);
    for (const Collected& one : done) EXPECT_TRUE(one.imported) << one.error->text();
    expect_all_there();
}

TEST_F(CollectTest, PeersThatTalkNonsenseAreRefused) {
    EXPECT_FALSE(http_logger("http://127.0.0.1:1")->list({})) << "nobody listens";
}

TEST(Fetch, NamesFromOutsideStayInTheirFolder) {
    const TempFolder folder;
    std::filesystem::create_directories(folder / "card/deep");
    folder.write("card/deep/REC1.csv", "a");
    const auto link = card_folder((folder / "card").string());
    LoggedFile file = (*link->list({}))[0];
    EXPECT_EQ(file.name, "deep/REC1.csv");
    const auto fetched = fetch(*link, file, folder / "originals");
    ASSERT_TRUE(fetched) << fetched.error().text();
    EXPECT_EQ(fetched->file, folder / "originals/unsorted/REC1.csv");
    // Another recording of the same name gets a name of its own.
    folder.write("card/deep/REC1.csv", "b");
    const auto second = fetch(*link, (*link->list({}))[0], folder / "originals");
    ASSERT_TRUE(second);
    EXPECT_EQ(second->file, folder / "originals/unsorted/REC1-2.csv");
}
