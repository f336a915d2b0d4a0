#include "core/recording/recording_file.h"

#include <gtest/gtest.h>
#include <hdf5.h>

#include <cmath>
#include <filesystem>
#include <random>

#include "core/signal/overview.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::read_all;
using rendak::test::TempFolder;

namespace {

Recording sample_recording(std::size_t n = 5000) {
    Recording recording;
    recording.source_name = "somewhere.csv";
    recording.logger = "Main logger";
    recording.start_unix_s = 1781344800;
    ChannelStorage speed, latitude, gear;
    for (std::size_t i = 0; i < n; ++i) {
        speed.floats.push_back(i % 97 == 0 ? std::nanf("")
                                           : static_cast<float>(std::sin(0.01 * static_cast<double>(i)) * 40));
        latitude.doubles.push_back(57.0 + 1e-9 * static_cast<double>(i));
        gear.floats.push_back(static_cast<float>(i % 6));
        gear.times_s.push_back(0.1 * static_cast<double>(i) + 0.001 * static_cast<double>(i % 3));
    }
    recording.channels.push_back(make_channel("GPS Speed", "speed", "m/s", std::move(speed), 0.5, 100));
    recording.channels.push_back(make_channel("GPS/Latitude", "latitude", "deg", std::move(latitude), 0, 20));
    recording.channels.push_back(make_channel("Gear", "gear", "", std::move(gear)));
    recording.digest = content_digest(recording);
    return recording;
}

}  // namespace

TEST(RecordingFile, ReadsBackEverySample) {
    const TempFolder folder;
    const Recording before = sample_recording();
    ASSERT_TRUE(write_recording(before, folder / "a.rdk.h5"));
    const auto after = open_recording(folder / "a.rdk.h5");
    ASSERT_TRUE(after) << after.error().text();
    EXPECT_EQ((*after)->source_name, "somewhere.csv");
    EXPECT_EQ((*after)->logger, "Main logger");
    EXPECT_EQ((*after)->start_unix_s, 1781344800);
    ASSERT_EQ((*after)->channels.size(), 3U);
    EXPECT_EQ((*after)->channels[1].name, "GPS/Latitude");
    EXPECT_TRUE((*after)->channels[1].is_double());
    EXPECT_FALSE((*after)->channels[2].clock.times_s.empty());
    EXPECT_EQ(content_digest(**after), before.digest) << "same samples, clocks, names and units";
}

TEST(RecordingFile, SamplesAreMappedAndOverviewsStored) {
    const TempFolder folder;
    const Recording before = sample_recording(50'000);
    ASSERT_TRUE(write_recording(before, folder / "a.rdk.h5"));
    const auto after = open_recording(folder / "a.rdk.h5");
    ASSERT_TRUE(after);
    const Channel& speed = (*after)->channels[0];
    const auto levels = build_overview(before.channels[0].floats());
    ASSERT_EQ(speed.overview.size(), levels.size());
    for (std::size_t i = 0; i < levels.size(); ++i) {
        ASSERT_EQ(speed.overview[i].size(), levels[i].size());
        EXPECT_TRUE(std::equal(levels[i].begin(), levels[i].end(), speed.overview[i].begin()));
    }
    EXPECT_EQ(reinterpret_cast<std::uintptr_t>(speed.floats().data()) % 64, 0U);
}

TEST(RecordingFile, OtherHdf5ProgramsLayoutsAreReadToo) {
    // Chunked, compressed doubles without an overview, as another program may write them.
    const TempFolder folder;
    const auto file = folder / "other.rdk.h5";
    const hid_t out = H5Fcreate(file.c_str(), H5F_ACC_TRUNC, H5P_DEFAULT, H5P_DEFAULT);
    const auto text = [](hid_t where, const char* name, const char* value) {
        const hid_t type = H5Tcopy(H5T_C_S1);
        H5Tset_size(type, H5T_VARIABLE);
        const hid_t space = H5Screate(H5S_SCALAR),
                    attribute = H5Acreate2(where, name, type, space, H5P_DEFAULT, H5P_DEFAULT);
        H5Awrite(attribute, type, &value);
        H5Aclose(attribute);
        H5Sclose(space);
        H5Tclose(type);
    };
    text(out, "format", "rendak recording");
    const hid_t channels = H5Gcreate2(out, "channels", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
    const hid_t group = H5Gcreate2(channels, "0000", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
    text(group, "name", "Speed");
    text(group, "quantity", "speed");
    text(group, "unit", "m/s");
    const hsize_t size = 1000, chunk = 100;
    std::vector<double> values(size);
    for (std::size_t i = 0; i < size; ++i) values[i] = 0.1 * static_cast<double>(i);
    const hid_t space = H5Screate_simple(1, &size, nullptr), creation = H5Pcreate(H5P_DATASET_CREATE);
    H5Pset_chunk(creation, 1, &chunk);
    H5Pset_deflate(creation, 4);
    const hid_t data = H5Dcreate2(group, "samples", H5T_IEEE_F64LE, space, H5P_DEFAULT, creation, H5P_DEFAULT);
    H5Dwrite(data, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, values.data());
    const double rate = 50;
    const hid_t scalar = H5Screate(H5S_SCALAR),
                attribute = H5Acreate2(group, "rate_hz", H5T_NATIVE_DOUBLE, scalar, H5P_DEFAULT, H5P_DEFAULT);
    H5Awrite(attribute, H5T_NATIVE_DOUBLE, &rate);
    H5Aclose(attribute);
    H5Sclose(scalar);
    H5Dclose(data);
    H5Pclose(creation);
    H5Sclose(space);
    H5Gclose(group);
    H5Gclose(channels);
    H5Fclose(out);
    const auto read = open_recording(file);
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ((*read)->channels[0].size(), 1000U);
    EXPECT_NEAR((*read)->find("speed")->value_at(1.0), 5.0, 1e-9);
}

TEST(RecordingFile, TruncatedAnywhereIsAnErrorNotACrash) {
    const TempFolder folder;
    ASSERT_TRUE(write_recording(sample_recording(), folder / "a.rdk.h5"));
    const std::string whole = read_all(folder / "a.rdk.h5");
    for (std::size_t cut = 1; cut < 40; ++cut) {
        const auto file = folder.write("cut.rdk.h5", whole.substr(0, whole.size() * cut / 40));
        const auto read = open_recording(file);
        ASSERT_FALSE(read) << cut;
        EXPECT_NE(read.error().text().find("cut.rdk.h5"), std::string::npos);
        EXPECT_NE(read.error().message.find("damaged or cut off"), std::string::npos) << read.error().message;
    }
}

TEST(RecordingFile, MutatedFilesNeverCrash) {
    // Our own checks of what a file claims. Bytes of HDF5's structures are left alone: Debian's HDF5 1.10.8 itself
    // reads out of bounds on some of them, which no caller can prevent.
    const TempFolder folder;
    ASSERT_TRUE(write_recording(sample_recording(300), folder / "a.rdk.h5"));
    std::mt19937 engine(5);
    std::uniform_real_distribution<double> any(-1e9, 1e9);
    int refused = 0;
    for (int round = 0; round < 60; ++round) {
        const auto file = folder.write("m.rdk.h5", read_all(folder / "a.rdk.h5"));
        const hid_t out = H5Fopen(file.c_str(), H5F_ACC_RDWR, H5P_DEFAULT);
        const hid_t group = H5Gopen2(out, "channels/0000", H5P_DEFAULT);
        const hid_t rate = H5Aopen(group, round % 2 == 0 ? "rate_hz" : "start_s", H5P_DEFAULT);
        const double values[] = {any(engine), std::nan(""), 0, -1, 1e300, std::numeric_limits<double>::infinity()};
        H5Awrite(rate, H5T_NATIVE_DOUBLE, &values[round % 6]);
        H5Aclose(rate);
        if (round % 4 == 0) H5Ldelete(group, round % 8 == 0 ? "samples" : "overview", H5P_DEFAULT);
        H5Gclose(group);
        H5Fclose(out);
        const auto read = open_recording(file);
        if (!read) {
            ++refused;
            EXPECT_NE(read.error().message.find("damaged"), std::string::npos);
            continue;
        }
        double sum = 0;  // touch what is handed out: it must lie inside the file
        for (const Channel& channel : (*read)->channels) {
            for (std::size_t i = 0; i < channel.size(); ++i) sum += std::isfinite(channel.at(i)) ? 1 : 0;
            (void)channel.value_at(1.0);
            (void)min_max(channel, 0, channel.size());
        }
        EXPECT_GT(sum, 0);
    }
    EXPECT_GT(refused, 10);
}

TEST(RecordingFile, NotOursAndNewer) {
    const TempFolder folder;
    const auto text = open_recording(folder.write("a.rdk.h5", "hello"));
    ASSERT_FALSE(text);
    EXPECT_NE(text.error().message.find("no recording file"), std::string::npos);
    const auto file = folder / "b.rdk.h5";
    ASSERT_TRUE(write_recording(sample_recording(10), file));
    const hid_t out = H5Fopen(file.c_str(), H5F_ACC_RDWR, H5P_DEFAULT);
    const hid_t attribute = H5Aopen(out, "version", H5P_DEFAULT);
    const double newer = 99;
    H5Awrite(attribute, H5T_NATIVE_DOUBLE, &newer);
    H5Aclose(attribute);
    H5Fclose(out);
    const auto read = open_recording(file);
    ASSERT_FALSE(read);
    EXPECT_EQ(read.error().code, ErrorCode::too_new);
}

TEST(RecordingFile, CancelLeavesNothingBehind) {
    const TempFolder folder;
    std::stop_source source;
    source.request_stop();
    const auto written = write_recording(sample_recording(), folder / "a.rdk.h5", {source.get_token(), {}});
    ASSERT_FALSE(written);
    EXPECT_EQ(written.error().code, ErrorCode::cancelled);
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

TEST(ContentDigest, DependsOnContentOnly) {
    Recording a = sample_recording(), b = sample_recording();
    b.source_name = "renamed.csv";
    std::swap(b.channels[0], b.channels[2]);
    EXPECT_EQ(content_digest(a), content_digest(b));
    ChannelStorage other;
    for (std::size_t i = 0; i < 5000; ++i) other.floats.push_back(static_cast<float>(i % 6));
    b.channels[0] = make_channel("Gear", "gear", "", std::move(other), 0, 10);
    EXPECT_NE(content_digest(a), content_digest(b));
}
