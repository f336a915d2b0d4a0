#include "core/intake/shared_track.h"

#include <gtest/gtest.h>

#include <thread>
#include <vector>

#include "core/intake/run_data.h"
#include "tests/support/demo_data.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

class SharedTrack : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::saturday_library(), folder_.path());
        auto library = Library::open(folder_.path());
        ASSERT_TRUE(library) << library.error().text();
        library_ = std::move(*library);
        const auto row = library_->run({2});
        ASSERT_TRUE(row) << row.error().text();
        id_ = row->track;
    }
    [[nodiscard]] std::shared_ptr<const Track> get() const {
        auto track = shared_track(*library_, id_);
        EXPECT_TRUE(track) << track.error().text();
        return track ? *track : nullptr;
    }
    test::TempFolder folder_;
    std::unique_ptr<Library> library_;
    TrackId id_;
};

TEST_F(SharedTrack, RunsOfATrackShareIt) {
    const auto first = load_run(*library_, {2}), second = load_run(*library_, {3});
    ASSERT_TRUE(first && second);
    EXPECT_EQ((*first)->track, (*second)->track);
    EXPECT_EQ((*first)->track, get());
}

TEST_F(SharedTrack, ThreadsThatAskAtOnceGetTheSame) {
    // A name that nobody has asked for yet: each of them finds nothing and reads.
    ASSERT_TRUE(library_->rename_track(id_, "Asked by many"));
    std::vector<std::shared_ptr<const Track>> got(6);
    std::vector<std::thread> threads;
    for (auto& out : got) {
        threads.emplace_back([&out, folder = folder_.path(), id = id_] {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return;
            if (auto track = shared_track(**library, id)) out = *track;
        });
    }
    for (std::thread& it : threads) it.join();
    ASSERT_NE(got.front(), nullptr);
    for (const auto& it : got) EXPECT_EQ(it, got.front());
}

TEST_F(SharedTrack, ACopyIsNobodyElses) {
    const auto before = get();
    auto copy = read_track(*library_, id_);
    ASSERT_TRUE(copy);
    copy->line.clear();
    EXPECT_GT(get()->line.size(), 100U);
    EXPECT_EQ(get(), before);
}

TEST_F(SharedTrack, AnotherNameOrShapeIsThereAtOnceAndOldOnesStayAsTheyAre) {
    const auto before = get();
    const std::string name = before->name;
    ASSERT_TRUE(library_->rename_track(id_, "Other name"));
    EXPECT_EQ(get()->name, "Other name");
    EXPECT_EQ(before->name, name);
    Track changed = *get();
    ASSERT_GT(changed.corners.size(), 1U);
    changed.corners.pop_back();
    // By a second connection, as another program would.
    const auto other = Library::open(folder_.path());
    ASSERT_TRUE(other);
    ASSERT_TRUE((*other)->put_track("Other name", changed.length_m, track_to_geojson(changed)));
    EXPECT_EQ(get()->corners.size(), before->corners.size() - 1);
    EXPECT_EQ(get()->name, "Other name");
}

TEST_F(SharedTrack, WhatCannotBeReadIsAnErrorEachTime) {
    const auto track = get();
    ASSERT_TRUE(library_->put_track(track->name, track->length_m, "{"));
    for (int i = 0; i < 2; ++i) EXPECT_FALSE(shared_track(*library_, id_));
    ASSERT_TRUE(library_->put_track(track->name, track->length_m, track_to_geojson(*track)));
    EXPECT_TRUE(shared_track(*library_, id_));
}

TEST_F(SharedTrack, ManyTracksAreEachTheirOwn) {
    const Track first = *get();
    std::vector<TrackId> ids;
    for (int i = 0; i < 12; ++i) {
        Track one = first;
        one.name = "Track " + std::to_string(i);
        one.sector_lines_m = {100.0 + i};
        const auto id = library_->put_track(one.name, one.length_m, track_to_geojson(one));
        ASSERT_TRUE(id) << id.error().text();
        ids.push_back(*id);
    }
    for (int round = 0; round < 2; ++round) {
        for (std::size_t i = 0; i < ids.size(); ++i) {
            const auto track = shared_track(*library_, ids[i]);
            ASSERT_TRUE(track);
            EXPECT_EQ((*track)->name, "Track " + std::to_string(i));
            ASSERT_EQ((*track)->sector_lines_m.size(), 1U);
            EXPECT_NEAR((*track)->sector_lines_m[0], 100.0 + static_cast<double>(i), 1e-6);
        }
    }
}

}  // namespace
}  // namespace rendak
