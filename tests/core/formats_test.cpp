// The table of file formats: what it names can be recognised, read and written, whatever a file is called.
#include "core/recording/formats.h"

#include <gtest/gtest.h>

#include <fstream>
#include <set>

#include "core/logger/logger_link.h"
#include "demo/sensors.h"
#include "tests/support/demo_world.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::demo_world;
using rendak::test::got;
using rendak::test::TempFolder;

namespace {

/// A minute of a run: small enough to be written in every format.
Recording a_minute() {
    Recording out = *demo_world().runs[1].recording;
    for (Channel& channel : out.channels) {
        ChannelStorage storage;
        const std::size_t from = channel.clock.first_at_or_after(200), to = channel.clock.first_at_or_after(260);
        for (std::size_t i = from; i < to; ++i) {
            if (channel.is_double())
                storage.doubles.push_back(channel.at(i));
            else
                storage.floats.push_back(static_cast<float>(channel.at(i)));
        }
        Channel cut =
            make_channel(channel.name, channel.quantity, channel.unit, std::move(storage), 0, channel.clock.rate_hz);
        channel = std::move(cut);
    }
    out.digest.clear();
    return out;
}

}  // namespace

TEST(Formats, HaveIdsAndEndingsOfTheirOwn) {
    std::set<std::string_view> ids, endings;
    for (const FileFormat& format : all_formats()) {
        EXPECT_TRUE(ids.insert(format.id).second) << format.id;
        EXPECT_FALSE(format.endings.empty()) << format.id;
        for (const std::string_view ending : format.endings) {
            EXPECT_TRUE(endings.insert(ending).second) << ending;
            EXPECT_EQ(ending.front(), '.');
        }
        EXPECT_EQ(find_format(format.id), &format);
        EXPECT_NE(format.read, nullptr);
        EXPECT_NE(format.write, nullptr);
    }
    EXPECT_EQ(find_format("xyz"), nullptr);
    EXPECT_EQ(find_format(""), nullptr);
    const auto tables = std::count_if(all_formats().begin(), all_formats().end(), is_table);
    EXPECT_EQ(tables, 1) << "what nothing else recognises is tried as one kind";
}

TEST(Formats, WhatOneWritesIsRecognisedByItsContentAndReadBack) {
    const TempFolder folder;
    const Recording recording = a_minute();
    for (const FileFormat& format : all_formats()) {
        // Named like something else on purpose.
        const auto file = folder / (std::string("file-") + format.id + ".dat");
        ASSERT_TRUE(format.write(recording, file)) << format.id;
        EXPECT_EQ(&format_of(file), &format) << format.id;
        const auto read = read_logged_file(file);
        ASSERT_TRUE(read) << format.id << ": " << read.error().text();
        const Channel* latitude = read->recording.find("latitude");
        ASSERT_NE(latitude, nullptr) << format.id;
        const Channel* original = recording.find("latitude");
        EXPECT_NEAR(latitude->value_at(30), original->value_at(30), 2e-6) << format.id;
        EXPECT_NEAR(latitude->clock.span_s().length(), original->clock.span_s().length(), 0.2) << format.id;
    }
}

TEST(Formats, NamesOfLoggedFilesAreKnownWhateverTheirLetters) {
    for (const char* name : {"a.csv", "A.CSV", "run.Mf4", "x.gpx", "b.rdk.h5", "c.h5", "c.HDF5", "d.TXT"})
        EXPECT_TRUE(is_named_like_logged(name)) << name;
    for (const char* name : {"a.pdf", "csv", "gpx.png", "notes", "h5", "a.csv.part"})
        EXPECT_FALSE(is_named_like_logged(name)) << name;
}

TEST(Formats, ACardListsWhatTheTableNames) {
    const TempFolder folder;
    for (const FileFormat& format : all_formats()) {
        for (const std::string_view ending : format.endings)
            std::ofstream(folder / ("one" + std::string(ending))) << "something";
    }
    std::ofstream(folder / "readme.pdf") << "something";
    const auto card = got(open_logger(folder.path().string()));
    std::size_t endings = 0;
    for (const FileFormat& format : all_formats()) endings += format.endings.size();
    const auto listed = got(card->list({}));
    EXPECT_EQ(listed.size(), endings);
    for (const LoggedFile& file : listed) EXPECT_NE(file.name, "readme.pdf");
}

TEST(Formats, WhatCannotBeOpenedIsATableWhoseReaderSaysWhy) {
    const TempFolder folder;
    EXPECT_TRUE(is_table(format_of(folder / "nothing.mf4")));
    const auto read = read_logged_file(folder / "nothing.mf4");
    ASSERT_FALSE(read);
    EXPECT_NE(read.error().where.find("nothing.mf4"), std::string::npos);
    folder.write("empty.gpx", "");
    EXPECT_TRUE(is_table(format_of(folder / "empty.gpx")));
    EXPECT_FALSE(read_logged_file(folder / "empty.gpx"));
}
