// Nothing let in: files that were made to read others, to hang, to crash or to fill the memory and the disk.
#include <fcntl.h>
#include <gtest/gtest.h>
#include <hdf5.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <unistd.h>
#include <zip.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "core/base/file_io.h"
#include "core/base/json_bounds.h"
#include "core/base/text.h"
#include "core/bundle/bundle.h"
#include "core/intake/import.h"
#include "core/recording/csv_writer.h"
#include "core/recording/formats.h"
#include "core/recording/mdf_file.h"
#include "core/recording/readers.h"
#include "core/recording/recording_file.h"
#include "core/track/track.h"
#include "demo/sensors.h"
#include "tests/support/got.h"
#include "tests/support/mdf_builder.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::got;
using rendak::test::MdfBuilder;
using rendak::test::raw;
using rendak::test::read_all;
using rendak::test::TempFolder;
using rendak::test::under_sanitizers;
namespace fs = std::filesystem;

namespace {

/// A sound recording file put together by hand, whose one channel's samples `make` adds to the group.
fs::path h5_with(const fs::path& file, const std::function<void(hid_t channels, hid_t group)>& make,
                 bool group_wanted = true) {
    const hid_t out = H5Fcreate(file.c_str(), H5F_ACC_TRUNC, H5P_DEFAULT, H5P_DEFAULT);
    const auto text = [](hid_t where, const char* name, const char* value) {
        const hid_t type = H5Tcopy(H5T_C_S1), space = H5Screate(H5S_SCALAR);
        H5Tset_size(type, std::strlen(value));
        const hid_t made = H5Acreate2(where, name, type, space, H5P_DEFAULT, H5P_DEFAULT);
        H5Awrite(made, type, value);
        H5Aclose(made);
        H5Sclose(space);
        H5Tclose(type);
    };
    text(out, "format", "rendak recording");
    const hid_t channels = H5Gcreate2(out, "channels", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
    hid_t group = -1;
    if (group_wanted) {
        group = H5Gcreate2(channels, "0000", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
        text(group, "name", "Speed");
        const hid_t space = H5Screate(H5S_SCALAR);
        const hid_t rate = H5Acreate2(group, "rate_hz", H5T_IEEE_F64LE, space, H5P_DEFAULT, H5P_DEFAULT);
        const double value = 10;
        H5Awrite(rate, H5T_NATIVE_DOUBLE, &value);
        H5Aclose(rate);
        H5Sclose(space);
    }
    make(channels, group);
    if (group >= 0) H5Gclose(group);
    H5Gclose(channels);
    H5Fclose(out);
    return file;
}

void dataset(hid_t group, const char* name, hid_t type, hsize_t size, const std::function<void(hid_t)>& settings) {
    const hid_t space = H5Screate_simple(1, &size, nullptr), creation = H5Pcreate(H5P_DATASET_CREATE);
    settings(creation);
    const hid_t made = H5Dcreate2(group, name, type, space, H5P_DEFAULT, creation, H5P_DEFAULT);
    ASSERT_GE(made, 0);
    H5Dclose(made);
    H5Pclose(creation);
    H5Sclose(space);
}

void expect_file_refused(const fs::path& file, const std::string& word) {
    const auto read = open_recording(file);
    ASSERT_FALSE(read) << word;
    EXPECT_NE(read.error().message.find(word), std::string::npos) << read.error().text();
}

Recording small_recording() {
    Recording out;
    out.source_name = "a.csv";
    for (int c = 0; c < 5; ++c) {
        ChannelStorage storage;
        for (int i = 0; i < 300; ++i) storage.floats.push_back(static_cast<float>(i * (c + 1)));
        out.channels.push_back(make_channel("Channel " + std::to_string(c), "", "m", std::move(storage), 0, 20));
    }
    return out;
}

struct ZipContent {
    std::string name, text;
};
fs::path zip_of(const fs::path& file, const std::vector<ZipContent>& contents) {
    int code = 0;
    zip* archive = zip_open(file.c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code);
    for (const ZipContent& it : contents) {
        const auto index =
            zip_file_add(archive, it.name.c_str(), zip_source_buffer(archive, it.text.data(), it.text.size(), 0), 0);
        // A million points take ten seconds to be packed well.
        if (it.name.ends_with("json"))
            zip_set_file_compression(archive, static_cast<zip_uint64_t>(index), ZIP_CM_DEFLATE, 1);
    }
    zip_close(archive);
    return file;
}

std::string nested(std::size_t levels) {
    return std::string(levels, '[') + std::string(levels, ']');
}

double seconds_for(const std::function<void()>& work) {
    const auto begin = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

/// A circle of `count` points as a track file; `change` may spoil it.
std::string circle(std::size_t count, const std::function<void(nlohmann::json&)>& change = {}) {
    nlohmann::json line = nlohmann::json::array();
    const double radius_deg = 0.002;
    for (std::size_t i = 0; i <= count; ++i) {
        const double angle = 2 * 3.14159265358979 * static_cast<double>(i % count) / static_cast<double>(count);
        line.push_back({4 + radius_deg * std::cos(angle) / std::cos(0.99), 57 + radius_deg * std::sin(angle)});
    }
    const double length_m = 2 * 3.14159265358979 * radius_deg * 111'320;
    nlohmann::json root = {
        {"type", "FeatureCollection"},
        {"features",
         {{{"type", "Feature"},
           {"properties", {{"role", "centreline"}, {"name", "Round"}, {"length_m", length_m}}},
           {"geometry", {{"type", "LineString"}, {"coordinates", line}}}},
          {{"type", "Feature"},
           {"properties", {{"role", "start"}}},
           {"geometry",
            {{"type", "LineString"},
             {"coordinates", {{4 + 0.0015 / std::cos(0.99), 57.0}, {4 + 0.0025 / std::cos(0.99), 57.0}}}}}}}}};
    if (change) change(root);
    return root.dump();
}

std::string refused_track(const std::string& text) {
    const auto read = track_from_geojson(text, "round.geojson");
    return read ? "" : read.error().message;
}

}  // namespace

TEST(HostileRecording, ReadsNoOtherFileOfThisComputer) {
    const TempFolder folder;
    const auto secret = folder.write("secret.bin", std::string(4000, 's'));
    (void)h5_with(folder / "other.h5", [](hid_t, hid_t group) {
        dataset(group, "samples", H5T_IEEE_F32LE, 1000,
                [](hid_t creation) { H5Pset_alloc_time(creation, H5D_ALLOC_TIME_EARLY); });
    });
    const std::string other = (folder / "other.h5").string();
    expect_file_refused(h5_with(folder / "external.h5",
                                [&](hid_t, hid_t group) {
                                    dataset(group, "samples", H5T_IEEE_F32LE, 1000, [&](hid_t creation) {
                                        H5Pset_external(creation, secret.c_str(), 0, 4000);
                                    });
                                }),
                        "another file");
    expect_file_refused(h5_with(folder / "link.h5",
                                [&](hid_t, hid_t group) {
                                    H5Lcreate_external(other.c_str(), "/channels/0000/samples", group, "samples",
                                                       H5P_DEFAULT, H5P_DEFAULT);
                                }),
                        "link");
    expect_file_refused(h5_with(
                            folder / "group-link.h5",
                            [&](hid_t channels, hid_t) {
                                H5Lcreate_external(other.c_str(), "/channels/0000", channels, "0000", H5P_DEFAULT,
                                                   H5P_DEFAULT);
                            },
                            false),
                        "link");
    expect_file_refused(h5_with(folder / "soft.h5",
                                [](hid_t channels, hid_t group) {
                                    H5Lcreate_soft("/channels/0000/samples", group, "samples", H5P_DEFAULT,
                                                   H5P_DEFAULT);
                                    (void)channels;
                                }),
                        "link");
    expect_file_refused(h5_with(folder / "virtual.h5",
                                [&](hid_t, hid_t group) {
                                    const hsize_t size = 1000;
                                    const hid_t source = H5Screate_simple(1, &size, nullptr);
                                    dataset(group, "samples", H5T_IEEE_F32LE, size, [&](hid_t creation) {
                                        const hid_t all = H5Screate_simple(1, &size, nullptr);
                                        H5Pset_virtual(creation, all, other.c_str(), "/channels/0000/samples", source);
                                        H5Sclose(all);
                                    });
                                    H5Sclose(source);
                                }),
                        "neither contiguous nor chunked");
    EXPECT_TRUE(open_recording(other)) << "the plain one is read";
}

TEST(HostileRecording, ClaimsOfMemoryAreRefused) {
    const TempFolder folder;
    const double seconds = seconds_for([&] {
        expect_file_refused(h5_with(folder / "claim.h5",
                                    [](hid_t, hid_t group) {
                                        dataset(group, "samples", H5T_IEEE_F32LE, 1ULL << 40, [](hid_t creation) {
                                            const hsize_t chunk = 1U << 20;
                                            H5Pset_chunk(creation, 1, &chunk);
                                        });
                                    }),
                            "cut off");
        expect_file_refused(h5_with(folder / "chunk.h5",
                                    [](hid_t, hid_t group) {
                                        dataset(group, "samples", H5T_IEEE_F32LE, 1U << 28, [](hid_t creation) {
                                            const hsize_t chunk = 1U << 28;
                                            H5Pset_chunk(creation, 1, &chunk);
                                        });
                                    }),
                            "cut off");
    });
    EXPECT_LT(seconds, 60);
}

TEST(HostileRecording, ChangedBytesNeverReachThisProcess) {
    // HDF5 1.10 dies of some of these; then the reader dies, and this test goes on.
    const TempFolder folder;
    ASSERT_TRUE(write_recording(small_recording(), folder / "sound.rdk.h5"));
    const std::string sound = read_all(folder / "sound.rdk.h5");
    std::mt19937 random(11);
    int refused = 0;
    for (int i = 0; i < 60; ++i) {
        std::string changed = sound;
        for (int k = 0; k < 1 + i % 12; ++k) {
            // The structures lie at the front and between the samples.
            const std::size_t at =
                random() % (i % 2 == 0 ? std::min<std::size_t>(4096, changed.size()) : changed.size());
            changed[at] = static_cast<char>(random());
        }
        const auto file = folder.write("changed-" + std::to_string(i) + ".h5", changed);
        const auto read = open_recording(file);
        refused += !read;
        if (read) (void)content_digest(**read);
    }
    EXPECT_GT(refused, 5);
}

TEST(HostileFile, PipesAndDevicesAreRefusedEverywhereAndNeverWaitedFor) {
    const TempFolder folder;
    const auto pipe = folder / "pipe";
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    auto library = std::move(*Library::open(folder / "lib"));
    const double seconds = seconds_for([&] {
        for (const fs::path& file : {pipe, fs::path("/dev/zero"), fs::path("/dev/null"), folder.path()}) {
            EXPECT_FALSE(import_file(*library, file, {})) << file;
            EXPECT_FALSE(open_recording(file)) << file;
            EXPECT_FALSE(preview_bundle(*library, file)) << file;
            EXPECT_FALSE(take_bundle(*library, file)) << file;
            EXPECT_FALSE(read_text_file(file)) << file;
            EXPECT_TRUE(is_table(format_of(file)));
        }
    });
    EXPECT_LT(seconds, 30);
    // A sparse giant claims what no disk holds.
    const int giant = ::open((folder / "giant.csv").c_str(), O_RDWR | O_CREAT, 0600);
    ASSERT_EQ(::ftruncate(giant, off_t{1} << 42), 0);
    ::close(giant);
    const auto refused = import_file(*library, folder / "giant.csv", {});
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("claims"), std::string::npos) << refused.error().text();
}

TEST(HostileFile, OnlyRegularFilesAreReplacedByAnExport) {
    const TempFolder folder;
    const Recording recording = small_recording();
    const auto pipe = folder / "pipe";
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    for (const fs::path& target : {pipe, folder.path()}) {
        EXPECT_FALSE(write_csv(recording, target)) << target;
        EXPECT_FALSE(write_recording(recording, target)) << target;
        EXPECT_FALSE(write_file(target, "x")) << target;
    }
    EXPECT_TRUE(fs::is_fifo(pipe));
    // A node like /dev/full, in a folder that may be written.
    if (::mknod((folder / "full").c_str(), S_IFCHR | 0666, makedev(1, 7)) == 0) {
        EXPECT_FALSE(write_csv(recording, folder / "full"));
        EXPECT_TRUE(fs::is_character_file(folder / "full"));
    }
    // A link is followed: what it points to is replaced, with its rights.
    const auto real = folder.write("real.csv", "old");
    fs::permissions(real, fs::perms::owner_read | fs::perms::owner_write);
    fs::create_symlink(real, folder / "link.csv");
    ASSERT_TRUE(write_csv(recording, folder / "link.csv"));
    EXPECT_TRUE(fs::is_symlink(folder / "link.csv"));
    EXPECT_NE(read_all(real).find("Channel 0"), std::string::npos);
    EXPECT_EQ(fs::status(real).permissions(), fs::perms::owner_read | fs::perms::owner_write);
    fs::create_symlink(folder / "nowhere.csv", folder / "dangling.csv");
    EXPECT_FALSE(write_csv(recording, folder / "dangling.csv"));
}

TEST(HostileBundle, DeepJsonAndGiantsAreRefusedWithASentence) {
    const TempFolder folder;
    auto library = std::move(*Library::open(folder / "lib"));
    const auto said = [&](const std::vector<ZipContent>& contents) {
        const auto taken = take_bundle(*library, zip_of(folder / "a.zip", contents));
        return taken ? std::string() : taken.error().message;
    };
    EXPECT_NE(said({{"bundle.json", nested(50'000)}}).find("nested"), std::string::npos);
    EXPECT_NE(said({{"bundle.json", "{\"rendak_bundle\":1,\"formula_sets\":[" + nested(20'000) + "]}"}}).find("nested"),
              std::string::npos);
    std::string many = "{\"rendak_bundle\":1,\"aliases\":[";
    for (int i = 0; i < 10'001; ++i) many += std::string(i > 0 ? "," : "") + "{}";
    EXPECT_NE(said({{"bundle.json", many + "]}"}}).find("more than 10000"), std::string::npos);
    const std::string track = "{\"rendak_bundle\":1,\"tracks\":[{\"name\":\"T\",\"file\":\"tracks/1.geojson\"}]}";
    EXPECT_NE(said({{"bundle.json", track},
                    {"tracks/1.geojson", "{\"features\":[{\"properties\":{\"role\":" + nested(60'000) + "}}]}"}})
                  .find("nested"),
              std::string::npos);
    const auto points = [&](int count) {
        return seconds_for([&] {
            EXPECT_NE(said({{"bundle.json", track}, {"tracks/1.geojson", circle(count)}}).find("more than"),
                      std::string::npos);
        });
    };
    // No more than reading them: computing with them would take the square of it.
    const double some = points(250'000);
    // How long a million take says nothing of this program where the sanitizers slow all of it down.
    if (!under_sanitizers())
        EXPECT_LT(points(1'000'000), 8 * some + 2) << "a million points are refused before anything is computed";
    EXPECT_TRUE(got(library->tracks()).empty());
}

TEST(HostileBundle, ABombIsNotUnpacked) {
    const TempFolder folder;
    auto library = std::move(*Library::open(folder / "lib"));
    const std::string digest(32, 'a');
    const auto file =
        zip_of(folder / "bomb.zip",
               {{"bundle.json", "{\"rendak_bundle\":1,\"runs\":[{\"name\":\"R\",\"recording\":\"" + digest + "\"}]}"},
                {"recordings/" + digest + ".rdk.h5", std::string(300U << 20, '\0')}});
    ASSERT_LT(fs::file_size(file), 1U << 20);
    const auto taken = take_bundle(*library, file);
    ASSERT_FALSE(taken);
    EXPECT_NE(taken.error().message.find("hundred times"), std::string::npos) << taken.error().text();
    EXPECT_TRUE(fs::is_empty(folder / "lib/recordings"));
}

TEST(HostileMdf, ListsThatLeadBackToThemselvesEnd) {
    const TempFolder folder;
    for (int which = 0; which < 3; ++which) {
        MdfBuilder file;
        file.channel({.name = "t", .type = 2, .sync = 1, .bits = 64, .unit = "s"});
        file.channel({.name = "x", .byte_offset = 8, .bits = 32});
        const auto first = file.channels();
        std::string records;
        for (int i = 0; i < 10; ++i) records += raw(0.1 * i) + raw(static_cast<float>(i));
        const auto data = file.block("DT", {}, records);
        file.group(first, data, 10, 12);
        // The first channel's link to the next leads back to itself; or the group's, or the data group's.
        if (which == 0) file.link(first, 0, first);
        const auto places = file.bytes();
        if (which > 0) {
            const auto place = places.find(which == 1 ? "##CG" : "##DG");
            file.link(place, 0, place);
        }
        const double seconds = seconds_for([&] {
            const auto read = read_logged_file(folder.write("ring.mf4", file.bytes()));
            ASSERT_FALSE(read) << which;
            EXPECT_NE(read.error().message.find("comes back to itself"), std::string::npos) << read.error().text();
        });
        EXPECT_LT(seconds, 10);
    }
}

TEST(HostileMdf, RecordLengthsInWhichNothingFitsCostNoTime) {
    std::string rows(24, 'x');
    const double seconds = seconds_for([&] { mdf::untranspose(std::string(24, 'a'), 4'000'000'000, rows.data()); });
    EXPECT_EQ(rows, std::string(24, 'a'));
    EXPECT_LT(seconds, 1);
    std::string turned(24, 'x');
    mdf::transpose(rows, 1ULL << 40, turned.data());
    EXPECT_EQ(turned, rows);
    mdf::untranspose({}, 8, nullptr);
}

TEST(HostileMdf, FewBytesMakeNoGiants) {
    // A thousand channels over the same eight bytes of a packed record: small on disk, huge in memory.
    const TempFolder folder;
    MdfBuilder file;
    file.channel({.name = "t", .type = 2, .sync = 1, .bits = 64, .unit = "s"});
    for (int i = 0; i < 1500; ++i) file.channel({.name = "x", .data_type = 0, .bits = 1});
    const auto first = file.channels();
    std::string records;
    for (int i = 0; i < 1'500'000; ++i) records += raw(0.001 * i);
    file.group(first, file.packed(records, 1, 8), 1'500'000, 8);
    const auto path = folder.write("wide.mf4", file.bytes());
    const auto read = read_logged_file(path);
    if (memory_for_one_file() < 1500ULL * 1'500'000 * 16) {
        ASSERT_FALSE(read);
        EXPECT_NE(read.error().message.find("memory"), std::string::npos) << read.error().text();
    }
}

TEST(HostileTable, FewBytesMakeNoGiants) {
    const TempFolder folder;
    const auto said = [&](const std::string& text) {
        const auto read = read_logged_file(folder.write("a.csv", text));
        return read ? std::string() : read.error().message;
    };
    std::string wide = "time", row = "0";
    for (int i = 0; i < 9000; ++i) {
        wide += ",x" + std::to_string(i);
        row += ",1";
    }
    std::string short_rows = wide + "\n";
    for (int i = 0; i < 20; ++i) short_rows += row + "\n";
    for (int i = 0; i < 300'000; ++i) short_rows += "1\n";
    EXPECT_NE(said(short_rows).find("do not have the 9001 values"), std::string::npos) << "that would be 11 GB";
    for (int i = 0; i < 2000; ++i) {
        wide += ",y" + std::to_string(i);
        row += ",1";
    }
    EXPECT_NE(said(wide + "\n" + row + "\n" + row + "\n").find("columns"), std::string::npos);
}

TEST(HostileGpx, DeepElementsAreRefused) {
    const TempFolder folder;
    std::string text = "<?xml version=\"1.0\"?><gpx version=\"1.1\">";
    for (int i = 0; i < 200'000; ++i) text += "<a>";
    const auto read = read_logged_file(folder.write("deep.gpx", text));
    ASSERT_FALSE(read);
    EXPECT_NE(read.error().message.find("nested"), std::string::npos) << read.error().text();
}

TEST(HostileJson, BoundsAreHeldAndSound) {
    EXPECT_TRUE(check_json("{\"a\": [1, 2, {\"b\": \"[[[[[[[[[[\\\"]]]]\"}]}", "", {1000, 10, 4}));
    EXPECT_FALSE(check_json(nested(5), "", {1000, 100, 4}));
    EXPECT_FALSE(check_json("[1,2,3,4,5,6,7]", "", {1000, 5, 4}));
    EXPECT_FALSE(check_json(std::string(1001, ' '), "", {1000, 5, 4}));
}

TEST(HostileTrack, IsCheckedBeforeItIsTaken) {
    EXPECT_EQ(refused_track(circle(400)), "");
    const auto line = [](nlohmann::json& root) -> nlohmann::json& {
        return root["features"][0]["geometry"]["coordinates"];
    };
    EXPECT_NE(refused_track(circle(400, [&](auto& root) { line(root)[7][1] = 999; })).find("latitude 999"),
              std::string::npos);
    EXPECT_NE(refused_track(circle(400, [&](auto& root) { line(root)[7] = line(root)[8]; })).find("even steps"),
              std::string::npos);
    EXPECT_NE(refused_track(circle(400, [&](auto& root) { root["features"].push_back(root["features"][0]); }))
                  .find("two centrelines"),
              std::string::npos);
    EXPECT_NE(refused_track(circle(400, [&](auto& root) { root["features"].push_back(root["features"][1]); }))
                  .find("two start lines"),
              std::string::npos);
    EXPECT_NE(refused_track(circle(400,
                                   [&](auto& root) {
                                       root["features"][1]["geometry"]["coordinates"] = {{0, 0}, {0, 0.0001}};
                                   }))
                  .find("start line lies"),
              std::string::npos);
    EXPECT_NE(refused_track(circle(400, [&](auto& root) { root["features"][0]["properties"]["length_m"] = 3; }))
                  .find("m long"),
              std::string::npos);
    EXPECT_NE(refused_track(circle(60'000)).find("more than"), std::string::npos);
}

TEST(HostileTrack, AnEditThatFailsLeavesTheStoredTrackAsItWas) {
    const TempFolder folder;
    const auto lib = folder / "lib";
    {
        auto library = std::move(*Library::open(lib));
        const auto round = track_from_geojson(circle(400), "");
        ASSERT_TRUE(file_track(*library, *round, {}));
    }
    const std::string before = read_all(lib / "tracks/round.geojson");
    const auto bad = folder.write(
        "bad.geojson", circle(400, [](auto& root) { root["features"][0]["geometry"]["coordinates"][7][1] = 999; }));
    const std::string command = test::own_cli() + " --library " + lib.string() + " track edit " + bad.string() + " >" +
                                (folder / "out").string() + " 2>&1";
    EXPECT_EQ(WEXITSTATUS(std::system(command.c_str())), 1);
    EXPECT_NE(read_all(folder / "out").find("latitude 999"), std::string::npos);
    EXPECT_EQ(read_all(lib / "tracks/round.geojson"), before);
    EXPECT_EQ(got(std::move(*Library::open(lib))->track_geojson({1})), before);
}

TEST(HostileText, NeitherSteersTheTerminalNorBreaksTheOutput) {
    EXPECT_EQ(utf8_of("m/s\xb2"), "m/s²") << "Windows-1252, as spreadsheets write it";
    EXPECT_EQ(utf8_of("\xb5s \xe2\x82\xac \x80"), "µs € €");
    EXPECT_EQ(utf8_of("\xc0\xaf \xed\xa0\x80"), "À¯ í\u00a0€") << "overlong forms and surrogates are no UTF-8";
    EXPECT_EQ(printable("a\x1b[2J\x07\nb"), "a\ufffd[2J\ufffd b");
    EXPECT_EQ(printable("x\u202e4fm.exe \u009b31m"), "x\ufffd4fm.exe \ufffd31m");
    EXPECT_EQ(printable_lines("one\ntwo\x1b"), "one\ntwo\ufffd");

    const TempFolder folder;
    const auto lib = folder / "lib";
    const auto table = folder.write("a.csv", "time,Speed\x1b[2J [m/s\xb2],\xb5 strain\n0,1,2\n0.1,2,3\n0.2,3,4\n");
    const std::string cli = test::own_cli() + " --library " + lib.string() + " ";
    const auto run = [&](const std::string& arguments) {
        return WEXITSTATUS(std::system(
            (cli + arguments + " >" + (folder / "out").string() + " 2>" + (folder / "err").string()).c_str()));
    };
    const auto expect_clean = [&](const char* what) {
        const std::string out = read_all(folder / "out"), err = read_all(folder / "err");
        EXPECT_FALSE(nlohmann::json::parse(out, nullptr, false).is_discarded()) << what << out;
        for (const std::string& text : {out, err}) {
            EXPECT_EQ(utf8_of(text), text) << what;
            EXPECT_EQ(text.find('\x1b'), std::string::npos) << what;
            EXPECT_EQ(text.find("\xc2\x9b"), std::string::npos) << what;
        }
    };
    ASSERT_EQ(run("import " + table.string() + " --driver $'Os\\xe9i\\x1b[31m' --event $'\\xc2\\x9b31m'"), 0)
        << read_all(folder / "err");
    expect_clean("import");
    ASSERT_EQ(run("runs"), 0);
    expect_clean("runs");
    EXPECT_EQ(run("channels --run 1"), 0);
    expect_clean("channels");
    folder.write("round.geojson", circle(400));
    ASSERT_EQ(run("track edit " + (folder / "round.geojson").string() + " --name $'Str\\xe4\\x1b[2Jcke'"), 0)
        << read_all(folder / "err");
    expect_clean("track edit");
    ASSERT_EQ(run("track list"), 0);
    expect_clean("track list");
    EXPECT_EQ(run("import $'no\\x1b]0;such\\x07.csv'"), 1);
    EXPECT_EQ(read_all(folder / "err").find('\x1b'), std::string::npos);
}
