#include "core/recording/gpx.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/recording/readers.h"
#include "core/recording/table_mapping.h"
#include "tests/support/demo_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;

namespace {

std::string gpx(const std::string& points) {
    return "<?xml version=\"1.0\"?>\n<gpx version=\"1.1\" creator=\"Phone\">\n<trk><trkseg>\n" + points +
           "</trkseg></trk>\n</gpx>\n";
}

std::string point(double lat, const std::string& time, const std::string& more = "") {
    return "<trkpt lat=\"" + std::to_string(lat) + "\" lon=\"4.5\">" + more + "<time>" + time + "</time></trkpt>\n";
}

Result<ReadRecording> read(const std::string& text) {
    const TempFolder folder;
    return read_logged_file(folder.write("a.gpx", text));
}

}  // namespace

TEST(Gpx, PositionsHeightSpeedAndCourse) {
    std::string points;
    for (int i = 0; i < 5; ++i) {
        points += point(57 + 0.001 * i, "2026-06-13T07:00:0" + std::to_string(i) + ".500Z",
                        "<ele>1" + std::to_string(i) + "</ele><extensions><x:TrackPoint><x:speed>2" +
                            std::to_string(i) + "</x:speed><x:course>90</x:course></x:TrackPoint></extensions>");
    }
    const auto out = read(gpx(points));
    ASSERT_TRUE(out) << out.error().text();
    EXPECT_DOUBLE_EQ(*out->recording.start_unix_s, 1781334000.5);
    EXPECT_EQ(out->recording.logger, "Phone");
    EXPECT_NEAR(out->recording.find("latitude")->at(3), 57.003, 1e-9);
    EXPECT_EQ(out->recording.find("altitude")->at(2), 12);
    EXPECT_EQ(out->recording.find("speed")->at(4), 24);
    EXPECT_EQ(out->recording.find("heading")->at(0), 90);
    EXPECT_NEAR(out->recording.find("speed")->clock.rate_hz, 1, 1e-9);
}

TEST(Gpx, WhatIsWrongIsSaidAndWhatIsThereIsKept) {
    const std::string good = point(57, "2026-06-13T07:00:00Z") + point(57.001, "2026-06-13T07:00:01Z");
    const auto cut = read(gpx(good + point(57.002, "2026-06-13T07:00:02Z")).substr(0, 250));
    ASSERT_TRUE(cut) << cut.error().text();
    EXPECT_NE(cut->notes.at(0).find("ends in the middle"), std::string::npos);
    const auto route = read(gpx("<trkpt lat=\"1\" lon=\"2\"/><trkpt lat=\"1\" lon=\"2\"/>"));
    ASSERT_FALSE(route);
    EXPECT_NE(route.error().message.find("have no times"), std::string::npos);
    const auto empty = read(gpx(""));
    ASSERT_FALSE(empty);
    const auto odd = read(
        gpx(good + point(157, "2026-06-13T07:00:03Z") + point(57.1, "2026-06-13T07:00:00Z") + point(57.2, "soon")));
    ASSERT_TRUE(odd);
    EXPECT_EQ(odd->notes.size(), 3U);
    EXPECT_EQ(odd->recording.find("latitude")->size(), 2U);
}

TEST(Gpx, WrittenInOtherWays) {
    const auto at = [](int i, const std::string& lat, const std::string& inside) {
        return "<trkpt lat=\"" + lat + "\" lon=\"4,8\"><time>2026-06-13t07:00:0" + std::to_string(i) + "z</time>" +
               inside + "</trkpt>";
    };
    const auto commas = read(gpx(at(0, "57,001", "<ele>1,5</ele>") + at(1, "57,002", "") + at(2, "57,003", "")));
    ASSERT_TRUE(commas) << commas.error().text();
    EXPECT_NEAR(commas->recording.find("latitude")->at(1), 57.002, 1e-9) << "decimal commas";
    EXPECT_NEAR(commas->recording.find("longitude")->at(1), 4.8, 1e-9);
    EXPECT_NEAR(commas->recording.find("altitude")->at(0), 1.5, 1e-6);
    const auto empty = read(gpx(at(0, "57.1", "") + at(1, "", "") + at(2, "57.2", "")));
    ASSERT_TRUE(empty);
    EXPECT_GT(empty->recording.find("latitude")->value_at(0), 57) << "an empty position is none";
    for (std::size_t i = 0; i < empty->recording.find("latitude")->size(); ++i)
        EXPECT_NE(empty->recording.find("latitude")->at(i), 0);
    const auto named = read(gpx(at(0, "57.1", "<speed unit=\"km/h\">36</speed>") + at(1, "57.2", "<speed>72</speed>")));
    ASSERT_TRUE(named);
    EXPECT_NEAR(named->recording.find("speed")->at(1), 20, 1e-5);
    const auto unknown = read(gpx(at(0, "57.1", "<speed unit=\"leagues\">36</speed>") + at(1, "57.2", "")));
    ASSERT_TRUE(unknown);
    EXPECT_EQ(unknown->recording.find("speed"), nullptr);
    EXPECT_NE(unknown->notes.at(0).find("leagues"), std::string::npos);
}

TEST(Gpx, NamespacedRootUtf16AndOrder) {
    const std::string prefixed =
        "<?xml version=\"1.0\"?><g:gpx xmlns:g=\"http://www.topografix.com/GPX/1/1\" creator=\"Box\"><g:trk><g:trkseg>"
        "<g:trkpt lat=\"57.1\" lon=\"4\"><g:time>2026-06-13T07:00:00Z</g:time></g:trkpt>"
        "<g:trkpt lat=\"57.2\" lon=\"4\"><g:time>2026-06-13T07:00:01Z</g:time></g:trkpt></g:trkseg></g:trk></g:gpx>";
    const auto named = read(prefixed);
    ASSERT_TRUE(named) << named.error().text();
    EXPECT_EQ(named->recording.find("latitude")->size(), 2U);
    EXPECT_EQ(named->recording.logger, "Box");
    std::string wide = "\xFF\xFE";
    for (const char c : prefixed) wide += std::string{c, '\0'};
    const auto utf16 = read(wide);
    ASSERT_TRUE(utf16) << utf16.error().text();
    EXPECT_NEAR(utf16->recording.find("latitude")->at(1), 57.2, 1e-9);
    const auto mixed =
        read(gpx(point(57.3, "2026-06-13T07:00:02Z") + point(57.4, "2026-06-13T07:00:03Z") + "</trkseg><trkseg>" +
                 point(57.1, "2026-06-13T07:00:00Z") + point(57.2, "2026-06-13T07:00:01Z")));
    ASSERT_TRUE(mixed);
    const Channel* latitude = mixed->recording.find("latitude");
    ASSERT_EQ(latitude->size(), 4U) << "no segment is lost";
    EXPECT_NEAR(latitude->at(0), 57.1, 1e-9);
    EXPECT_NEAR(latitude->at(3), 57.4, 1e-9);
    EXPECT_NE(mixed->notes.at(0).find("sorted"), std::string::npos);
}

TEST(Gpx, TracksOfTwoCarsAreNotOneRecording) {
    const auto track = [](double from_lat, int begin, int end, const char* part) {
        std::string out = "<trk><trkseg>\n";
        for (int i = begin; i < end; ++i) {
            const std::string second = (i < 10 ? "0" : "") + std::to_string(i);
            out += point(from_lat + 2e-4 * i, "2026-06-13T07:00:" + second + part + "Z");
        }
        return out + "</trkseg></trk>\n";
    };
    const auto file = [](const std::string& tracks) {
        return "<?xml version=\"1.0\"?>\n<gpx version=\"1.1\">\n" + tracks + "</gpx>\n";
    };
    // One behind the other by 440 m, at the very same moments and between them.
    for (const char* part : {"", ".500"}) {
        const auto two = read(file(track(57, 0, 50, "") + track(57.004, 0, 50, part)));
        ASSERT_FALSE(two) << part;
        EXPECT_NE(two.error().message.find("of several cars"), std::string::npos);
    }
    // Two receivers in one car, stints one after the other, and a track that is there twice are one recording.
    EXPECT_TRUE(read(file(track(57, 0, 50, "") + track(57.00001, 0, 50, ".500"))));
    EXPECT_TRUE(read(file(track(57, 25, 50, "") + track(57, 0, 25, ""))));
    EXPECT_TRUE(read(file(track(57, 0, 50, "") + track(57, 20, 50, ""))));
    EXPECT_TRUE(read(file(track(57, 0, 50, "") + "<trk><trkseg></trkseg></trk>")));
}

TEST(Gpx, ARunGoesOutAndComesBack) {
    const TempFolder folder;
    const Recording& recording = *demo_world().runs[2].recording;  // with a drop-out
    ASSERT_TRUE(write_gpx(recording, folder / "run.gpx"));
    const auto back = read_gpx(folder / "run.gpx");
    ASSERT_TRUE(back) << back.error().text();
    const Channel *latitude = back->recording.find("latitude"), *original = recording.find("latitude");
    ASSERT_EQ(latitude->size(), original->size());
    std::size_t missing = 0;
    for (std::size_t i = 0; i < original->size(); ++i) {
        missing += std::isnan(latitude->at(i));
        if (!std::isnan(original->at(i))) EXPECT_NEAR(latitude->at(i), original->at(i), 1e-8);
    }
    EXPECT_EQ(missing, 80U) << "4 s at 20 Hz";
    EXPECT_NEAR(*back->recording.start_unix_s, *recording.start_unix_s, 1e-3);
    Recording none;
    EXPECT_FALSE(write_gpx(none, folder / "none.gpx"));
}

TEST(TableMapping, ColumnsUnitsAndNamesCanBeSaidAndAreRemembered) {
    const TempFolder folder;
    const auto file = folder.write("a.csv", "time,Foo,Bar,Speed\n0,1,5,36\n0.1,2,6,72\n0.2,3,7,72\n0.3,4,8,72\n");
    const auto preview = preview_table(file);
    ASSERT_TRUE(preview) << preview.error().text();
    EXPECT_EQ(preview->matched, (std::vector<std::string>{"time", "", "", "speed"}));
    EXPECT_EQ(preview->rows.size(), 4U);
    EXPECT_EQ(preview->rows[1][3], "72");
    TableMapping mapping;
    mapping.columns = {
        {"Foo", true, "brake_front", "bar"}, {"Bar", false, TableMapping::by_itself, ""}, {"Speed", true, "", "km/h"}};
    ReadOptions options;
    options.csv.mapping = table_mapping_from_json(to_json(mapping));
    EXPECT_EQ(options.csv.mapping, mapping);
    const auto out = read_logged_file(file, options);
    ASSERT_TRUE(out) << out.error().text();
    EXPECT_EQ(out->recording.channels.size(), 2U);
    EXPECT_NEAR(out->recording.find("brake_front")->at(3), 4e5, 1);
    EXPECT_EQ(out->recording.find("brake_front")->name, "Foo");
    EXPECT_EQ(out->recording.find("speed"), nullptr) << "said to be no known quantity";
    EXPECT_NEAR(out->recording.find_name("Speed")->at(1), 20, 1e-5);
    const auto again = preview_table(folder.write("b.csv", "time,Foo,Bar,Speed\n0,9,9,9\n1,2,3,4\n2,2,3,4\n"));
    EXPECT_EQ(again->key, preview->key) << "the same shape";
    EXPECT_FALSE(table_mapping_from_json("[1]"));
    EXPECT_FALSE(table_mapping_from_json("{\"columns\":[3]}"));
}
