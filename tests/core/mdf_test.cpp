#include "core/recording/mdf.h"

#include <gtest/gtest.h>

#include <cmath>
#include <cstring>
#include <fstream>

#include "core/recording/readers.h"
#include "core/recording/recording_file.h"
#include "tests/support/demo_world.h"
#include "tests/support/mdf_builder.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using namespace rendak::test;

namespace {

/// Ten records: time 0, 0.1 … as a float64, then what `rest` says.
std::string records(const std::function<std::string(int)>& rest, int from = 0, int to = 10) {
    std::string out;
    for (int i = from; i < to; ++i) out += raw(0.1 * i) + rest(i);
    return out;
}

constexpr MdfBuilder::Channel time_channel{.name = "t", .type = 2, .sync = 1, .bits = 64, .unit = "s"};

ReadRecording read_mdf_of(const MdfBuilder& builder) {
    const TempFolder folder;
    auto out = read_logged_file(folder.write("file.mf4", builder.bytes()));
    EXPECT_TRUE(out) << (out ? "" : out.error().text());
    return out ? std::move(*out) : ReadRecording{};
}

std::string mdf_error(const std::string& bytes) {
    const TempFolder folder;
    const auto out = read_logged_file(folder.write("file.mf4", bytes));
    return out ? "" : out.error().message;
}

bool noted(const ReadRecording& read_mdf_of, const std::string& part) {
    for (const auto& note : read_mdf_of.notes) {
        if (note.find(part) != std::string::npos) return true;
    }
    return false;
}

}  // namespace

TEST(Mdf, IntegersAndFloatsOfBothByteOrdersAtAnyBit) {
    MdfBuilder file;
    file.channel(time_channel);
    const auto rest = [](int i) {
        return raw(static_cast<std::int16_t>(-3 * i), true) + raw(static_cast<std::uint16_t>(1000 * i)) +
               raw(static_cast<float>(1.5 * i), true) + raw(-2.25 * i, true) + raw(static_cast<std::int8_t>(-i)) +
               // 5 bits unsigned from bit 2, 5 bits signed from bit 7
               raw(static_cast<std::uint16_t>((i & 31) << 2 | ((-i) & 31) << 7)) +
               raw(static_cast<std::uint32_t>(70000U * static_cast<unsigned>(i)), true);
    };
    file.channel({.name = "int16 big", .data_type = 3, .byte_offset = 8, .bits = 16});
    file.channel({.name = "uint16", .data_type = 0, .byte_offset = 10, .bits = 16});
    file.channel({.name = "float big", .data_type = 5, .byte_offset = 12, .bits = 32});
    file.channel({.name = "double big", .data_type = 5, .byte_offset = 16, .bits = 64});
    file.channel({.name = "int8", .data_type = 2, .byte_offset = 24, .bits = 8});
    file.channel({.name = "bits", .data_type = 0, .bit_offset = 2, .byte_offset = 25, .bits = 5});
    file.channel({.name = "signed bits", .data_type = 2, .bit_offset = 7, .byte_offset = 25, .bits = 5});
    file.channel({.name = "uint32 big", .data_type = 1, .byte_offset = 27, .bits = 32});
    const auto data = file.block("DT", {}, records(rest));
    file.group(file.channels(), data, 10, 31);
    const auto out = read_mdf_of(file);
    ASSERT_EQ(out.recording.channels.size(), 8U);
    EXPECT_DOUBLE_EQ(*out.recording.start_unix_s, 1781334000);
    for (std::size_t i = 0; i < 10; ++i) {
        const double x = static_cast<double>(i);
        EXPECT_EQ(out.recording.find_name("int16 big")->at(i), -3 * x);
        EXPECT_EQ(out.recording.find_name("uint16")->at(i), 1000 * x);
        EXPECT_EQ(out.recording.find_name("float big")->at(i), 1.5 * x);
        EXPECT_EQ(out.recording.find_name("double big")->at(i), -2.25 * x);
        EXPECT_EQ(out.recording.find_name("int8")->at(i), -x);
        EXPECT_EQ(out.recording.find_name("bits")->at(i), x);
        EXPECT_EQ(out.recording.find_name("signed bits")->at(i), -x);
        EXPECT_EQ(out.recording.find_name("uint32 big")->at(i), 70000 * x);
    }
    EXPECT_NEAR(out.recording.channels[0].clock.rate_hz, 10, 1e-9) << "the clock is found";
}

TEST(Mdf, ConversionsUnitsAndValueNames) {
    MdfBuilder file;
    const auto linear = file.conversion(1, {-40, 0.5});
    const auto table = file.conversion(4, {0, 0, 10, 100});
    const auto rational = file.conversion(2, {0, 2, 1, 0, 0, 1});
    const auto names = file.conversion(7, {0, 1}, {file.text("closed"), file.text("open"), file.text("unknown")});
    file.channel(time_channel);
    file.channel({.name = "Oil Temp", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = linear, .unit = "°C"});
    file.channel({.name = "Flap", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = names});
    file.channel({.name = "Table", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = table});
    file.channel({.name = "Rational", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = rational});
    file.channel({.name = "Speed", .data_type = 0, .byte_offset = 8, .bits = 8, .unit = "km/h"});
    const auto data = file.block("DT", {}, records([](int i) { return raw(static_cast<std::uint8_t>(i)); }));
    file.group(file.channels(), data, 10, 9);
    const auto out = read_mdf_of(file);
    const Channel* oil = out.recording.find("oil_temperature");
    ASSERT_NE(oil, nullptr);
    EXPECT_NEAR(oil->at(4), 273.15 - 40 + 2, 1e-4);
    EXPECT_EQ(oil->source_unit, "°C");
    EXPECT_EQ(out.recording.find_name("Table")->at(5), 50);
    EXPECT_EQ(out.recording.find_name("Rational")->at(5), 11);
    EXPECT_NEAR(out.recording.find("speed")->at(9), 2.5, 1e-6);
    EXPECT_TRUE(noted(out, "0 = closed, 1 = open"));
}

TEST(Mdf, ListsOfPlainAndPackedBlocksWithRecordsAcrossThem) {
    const auto rest = [](int i) { return raw(static_cast<float>(i)); };
    const std::string all = records(rest, 0, 40);
    MdfBuilder file;
    file.channel(time_channel);
    file.channel({.name = "x", .byte_offset = 8, .bits = 32});
    const auto first = file.channels();
    const auto a = file.block("DT", {}, all.substr(0, 101)), b = file.packed(all.substr(101, 127), 0, 0),
               c = file.packed(all.substr(228), 1, 12);
    const auto list = file.list({a, b, c});
    const auto head = file.block("HL", {list}, std::string(8, '\0'));
    file.group(first, head, 40, 12);
    const auto out = read_mdf_of(file);
    ASSERT_EQ(out.recording.channels.size(), 1U);
    ASSERT_EQ(out.recording.channels[0].size(), 40U);
    for (std::size_t i = 0; i < 40; ++i) EXPECT_EQ(out.recording.channels[0].at(i), static_cast<double>(i));
}

TEST(Mdf, LongRecordsInPiecesWithHolesTimesThatFallBackAndInfinities) {
    // Many blocks of records for each thread, in two pieces that hold whole records and are read where they lie.
    constexpr int count = 40'000, piece = 16'384 + 5;
    std::string all;
    std::vector<int> slots;  // where record i belongs
    for (int i = 0; i < count; ++i) {
        const int slot = i < 20'000 ? i : i + 10;  // ten samples were lost
        const bool back = i == 30'000;
        slots.push_back(back ? -1 : slot);
        const float value = i == 17 ? INFINITY : static_cast<float>(i);
        all += raw((back ? slot - 5 : slot) * 0.01) + raw(value) + raw(static_cast<std::int16_t>(i % 1000 - 500));
    }
    MdfBuilder file;
    file.channel(time_channel);
    file.channel({.name = "x", .byte_offset = 8, .bits = 32});
    file.channel(
        {.name = "y", .data_type = 2, .byte_offset = 12, .bits = 16, .conversion = file.conversion(1, {1, 0.5})});
    const auto first = file.channels();
    const auto list =
        file.list({file.block("DT", {}, all.substr(0, piece * 14)), file.block("DT", {}, all.substr(piece * 14))});
    file.group(first, list, count, 14);
    const auto out = read_mdf_of(file);
    ASSERT_EQ(out.recording.channels.size(), 2U);
    const Channel &x = out.recording.channels[0], &y = out.recording.channels[1];
    EXPECT_NEAR(x.clock.rate_hz, 100, 1e-6);
    ASSERT_EQ(x.size(), static_cast<std::size_t>(count) + 10);
    std::size_t missing = 0;
    for (std::size_t i = 0; i < x.size(); ++i) missing += std::isnan(x.at(i));
    EXPECT_EQ(missing, 10U + 1 + 1) << "lost, fallen back, infinite";
    for (int i = 0; i < count; ++i) {
        if (slots[static_cast<std::size_t>(i)] < 0 || i == 17) continue;
        const auto slot = static_cast<std::size_t>(slots[static_cast<std::size_t>(i)]);
        ASSERT_EQ(x.at(slot), i);
        ASSERT_EQ(y.at(slot), 1 + 0.5 * (i % 1000 - 500)) << i;
    }
    EXPECT_TRUE(noted(out, "1 sample is infinite"));
    EXPECT_TRUE(noted(out, "does not rise"));
    // One piece that ends inside a record is put together first, and reads the same.
    MdfBuilder odd;
    odd.channel(time_channel);
    odd.channel({.name = "x", .byte_offset = 8, .bits = 32});
    const auto odd_first = odd.channels();
    odd.group(odd_first, odd.list({odd.block("DT", {}, all.substr(0, 1001)), odd.block("DT", {}, all.substr(1001))}),
              count, 14);
    const auto again = read_mdf_of(odd);
    ASSERT_EQ(again.recording.channels.size(), 1U);
    ASSERT_EQ(again.recording.channels[0].size(), x.size());
    for (std::size_t i = 0; i < x.size(); ++i)
        ASSERT_TRUE(again.recording.channels[0].at(i) == x.at(i) || std::isnan(x.at(i))) << i;
}

TEST(Mdf, SeveralGroupsVirtualTimesAndInvalidSamples) {
    MdfBuilder file;
    file.channel(time_channel);
    file.channel({.name = "fast", .byte_offset = 8, .bits = 32, .flags = 2, .invalid_bit = 3});
    const auto data = file.block("DT", {}, records([](int i) {
                                     return raw(static_cast<float>(i)) + raw(static_cast<std::uint8_t>(i == 4 ? 8 : 0));
                                 }));
    file.group(file.channels(), data, 10, 12, 1);
    const auto clock = file.conversion(1, {2.0, 0.5});
    file.channel({.name = "t", .type = 3, .sync = 1, .data_type = 0, .bits = 0, .conversion = clock, .unit = "s"});
    file.channel({.name = "slow", .data_type = 0, .bits = 16});
    std::string counts;
    for (std::uint16_t i = 0; i < 6; ++i) counts += raw(i);
    const auto slow = file.block("DT", {}, counts);
    file.group(file.channels(), slow, 6, 2);
    const auto out = read_mdf_of(file);
    const Channel* fast = out.recording.find_name("fast");
    EXPECT_TRUE(std::isnan(fast->at(4)));
    EXPECT_EQ(fast->at(5), 5);
    const Channel* second = out.recording.find_name("slow");
    EXPECT_DOUBLE_EQ(second->clock.start_s, 2);
    EXPECT_DOUBLE_EQ(second->clock.rate_hz, 2);
    EXPECT_EQ(second->at(5), 5);
}

TEST(Mdf, UnsortedRecordsFindTheirGroups) {
    MdfBuilder file;
    std::string stream;
    for (int i = 0; i < 10; ++i) {
        stream += raw<std::uint8_t>(1) + raw(0.1 * i) + raw(static_cast<float>(i));
        if (i % 2 == 0) stream += raw<std::uint8_t>(2) + raw(0.1 * i) + raw(static_cast<std::int16_t>(-i));
    }
    file.channel(time_channel);
    file.channel({.name = "a", .byte_offset = 8, .bits = 32});
    const auto first = file.channels();
    file.channel(time_channel);
    file.channel({.name = "b", .data_type = 2, .byte_offset = 8, .bits = 16});
    const auto second = file.channels();
    const auto group = [&](std::uint64_t next, std::uint64_t channels, std::uint64_t id, std::uint64_t n,
                           std::uint32_t bytes) {
        return file.block("CG", {next, channels, 0, 0, 0, 0},
                          raw(id) + raw(n) + raw<std::uint64_t>(0) + raw(bytes) + raw<std::uint32_t>(0));
    };
    const auto g2 = group(0, second, 2, 5, 10), g1 = group(g2, first, 1, 10, 12);
    const auto data = file.block("DT", {}, stream);
    file.link(64, 0, file.block("DG", {0, g1, data, 0}, raw<std::uint8_t>(1) + std::string(7, '\0')));
    const auto out = read_mdf_of(file);
    EXPECT_EQ(out.recording.find_name("a")->size(), 10U);
    EXPECT_EQ(out.recording.find_name("b")->size(), 5U);
    EXPECT_EQ(out.recording.find_name("b")->at(2), -4);
}

TEST(Mdf, WrittenFilesComeBackBitForBit) {
    const TempFolder folder;
    const auto& run = demo_world().runs[1];
    for (const MdfWriteOptions options :
         {MdfWriteOptions{}, MdfWriteOptions{true, 0}, MdfWriteOptions{false, 7}, MdfWriteOptions{true, 30}}) {
        ASSERT_TRUE(write_mdf(*run.recording, folder / "run.mf4", options));
        const auto back = read_mdf(folder / "run.mf4");
        ASSERT_TRUE(back) << back.error().text();
        EXPECT_EQ(content_digest(back->recording), content_digest(*run.recording));
        EXPECT_EQ(back->recording.start_unix_s, run.recording->start_unix_s);
        EXPECT_EQ(back->recording.logger, "Main logger");
        for (const Channel& channel : run.recording->channels) {
            const Channel* same = back->recording.find_name(channel.name);
            ASSERT_NE(same, nullptr) << channel.name;
            EXPECT_EQ(same->quantity, channel.quantity);
            EXPECT_EQ(same->unit, channel.unit);
        }
    }
}

TEST(Mdf, AFileThatEndsInTheMiddleGivesWhatIsThere) {
    const TempFolder folder;
    const auto& run = demo_world().runs[1];
    ASSERT_TRUE(write_mdf(*run.recording, folder / "run.mf4", {false, 5}));
    const std::string bytes = read_all(folder / "run.mf4");
    const auto whole = read_mdf(folder / "run.mf4");
    const auto half = read_mdf(folder.write("half.mf4", bytes.substr(0, bytes.size() * 6 / 10 + 3)));
    ASSERT_TRUE(half) << half.error().text();
    EXPECT_TRUE(noted(*half, "ends in the middle"));
    EXPECT_EQ(half->recording.channels.size(), whole->recording.channels.size());
    const double share = half->recording.span_s().length() / whole->recording.span_s().length();
    EXPECT_NEAR(share, 0.6, 0.03);
    const Channel *speed = half->recording.find("speed"), *all = whole->recording.find("speed");
    for (std::size_t i = 0; i < speed->size(); i += 100) EXPECT_EQ(speed->at(i), all->at(i));
}

TEST(Mdf, WhatIsWrongIsSaid) {
    EXPECT_NE(mdf_error("MDF     3.30    Old").find("MDF"), std::string::npos);
    std::string old = "MDF     3.30    Old     ";
    old.resize(200, '\0');
    EXPECT_NE(mdf_error(old).find("versions 4.00 and later are read"), std::string::npos);
    MdfBuilder empty;
    EXPECT_NE(mdf_error(empty.bytes()).find("No channel"), std::string::npos);
    MdfBuilder ring;
    ring.channel(time_channel);
    ring.channel({.name = "x", .byte_offset = 8, .bits = 32});
    const auto first = ring.channels();
    const auto data = ring.block("DT", {}, records([](int i) { return raw(static_cast<float>(i)); }));
    const auto list = ring.list({data});
    ring.link(list, 0, list);
    ring.group(first, list, 10, 12);
    EXPECT_NE(mdf_error(ring.bytes()).find("comes back to itself"), std::string::npos);
    MdfBuilder without_time;
    without_time.channel({.name = "x", .bits = 32});
    const auto only = without_time.channels();
    without_time.group(only, without_time.block("DT", {}, std::string(40, 'x')), 10, 4);
    EXPECT_NE(mdf_error(without_time.bytes()).find("no time of its own"), std::string::npos);
    MdfBuilder outside;  // a channel beyond its record
    outside.channel(time_channel);
    outside.channel({.name = "x", .byte_offset = 4000000, .bits = 32});
    const auto beyond = outside.channels();
    outside.group(beyond, outside.block("DT", {}, records([](int) { return std::string(); })), 10, 8);
    EXPECT_NE(mdf_error(outside.bytes()).find("holds no numbers"), std::string::npos);
}

TEST(Mdf, FormulasTablesOutOfOrderHalfFloatsAndWideIntegers) {
    MdfBuilder file;
    const auto formula = file.conversion(3, {}, {file.text("X*0.5 + sqrt(X1)")});
    const auto table = file.conversion(4, {9, 90, 0, 0, 5, 50});
    const auto broken = file.conversion(3, {}, {file.text("lookup(X)")});
    file.channel(time_channel);
    file.channel({.name = "by formula", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = formula});
    file.channel({.name = "by table", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = table});
    file.channel({.name = "unknown formula", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = broken});
    file.channel({.name = "half", .byte_offset = 9, .bits = 16});
    file.channel({.name = "wide", .data_type = 0, .byte_offset = 11, .bits = 32});
    file.channel({.name = "counted", .type = 6, .data_type = 0, .bits = 0, .conversion = file.conversion(1, {100, 2})});
    file.channel({.name = "infinite", .byte_offset = 15, .bits = 32});
    const auto first = file.channels();
    const auto data = file.block(
        "DT", {}, records([](int i) {
            return raw(static_cast<std::uint8_t>(i)) + raw<std::uint16_t>(static_cast<std::uint16_t>(0xC000 + i)) +
                   raw(4'000'000'001U + static_cast<unsigned>(i)) +
                   raw(i == 3 ? std::numeric_limits<float>::infinity() : 1.0F * static_cast<float>(i));
        }));
    file.group(first, data, 10, 19);
    const auto out = read_mdf_of(file);
    ASSERT_NE(out.recording.find_name("by formula"), nullptr);
    EXPECT_NEAR(out.recording.find_name("by formula")->at(4), 4, 1e-6);
    EXPECT_NEAR(out.recording.find_name("by table")->at(7), 70, 1e-5);
    EXPECT_EQ(out.recording.find_name("unknown formula"), nullptr);
    EXPECT_TRUE(noted(out, "lookup(X)"));
    EXPECT_NEAR(out.recording.find_name("half")->at(1), -2 - 1.0 / 512, 1e-6);
    EXPECT_EQ(out.recording.find_name("wide")->at(6), 4'000'000'007.0) << "all digits";
    EXPECT_NEAR(out.recording.find_name("counted")->at(5), 110, 1e-6);
    EXPECT_TRUE(std::isnan(out.recording.find_name("infinite")->at(3)));
    EXPECT_TRUE(noted(out, "1 sample is infinite"));
}

TEST(Mdf, NamesWithAScaleForAllOthersAndRangesOfFloats) {
    MdfBuilder file;
    const auto scale = file.conversion(1, {10, 2});
    const auto names = file.conversion(7, {7}, {file.text("fault"), scale});
    const auto ranges = file.conversion(8, {5, 8}, {file.text("high"), scale});
    const auto of_keys = file.conversion(7, {3, 7}, {scale, file.text("fault")});
    const auto steps = file.conversion(6, {0, 2, 100, 2, 5, 200, -1});
    file.channel(time_channel);
    file.channel({.name = "named", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = names});
    file.channel({.name = "range", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = ranges});
    file.channel({.name = "of keys", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = of_keys});
    file.channel({.name = "whole steps", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = steps});
    file.channel({.name = "float steps", .byte_offset = 9, .bits = 32, .conversion = steps});
    const auto first = file.channels();
    file.group(first, file.block("DT", {}, records([](int i) {
                                     return raw(static_cast<std::uint8_t>(i)) + raw(static_cast<float>(i));
                                 })),
               10, 13);
    const auto out = read_mdf_of(file);
    EXPECT_NEAR(out.recording.find_name("named")->at(3), 16, 1e-6) << "scaled, not raw";
    EXPECT_TRUE(std::isnan(out.recording.find_name("named")->at(7))) << "a name is no number";
    EXPECT_NEAR(out.recording.find_name("range")->at(9), 28, 1e-6);
    EXPECT_TRUE(std::isnan(out.recording.find_name("range")->at(8)));
    EXPECT_NEAR(out.recording.find_name("range")->at(4), 18, 1e-6);
    EXPECT_NEAR(out.recording.find_name("of keys")->at(3), 16, 1e-6) << "a key with a scale of its own";
    EXPECT_TRUE(std::isnan(out.recording.find_name("of keys")->at(7)));
    EXPECT_EQ(out.recording.find_name("whole steps")->at(2), 100) << "whole numbers fill a range to its end";
    EXPECT_EQ(out.recording.find_name("float steps")->at(2), 200) << "floats do not reach it";
}

TEST(Mdf, AConversionMadeOfItselfEnds) {
    MdfBuilder file;
    std::vector<double> keys;
    for (int i = 0; i < 2000; ++i) keys.push_back(i);
    const auto ring = file.conversion(7, keys, std::vector<std::uint64_t>(2001, 0));
    for (std::size_t i = 0; i < 2001; ++i) file.link(ring, 4 + i, ring);
    file.channel(time_channel);
    file.channel({.name = "x", .data_type = 0, .byte_offset = 8, .bits = 8, .conversion = ring});
    const auto first = file.channels();
    file.group(first, file.block("DT", {}, records([](int i) { return raw(static_cast<std::uint8_t>(i)); })), 10, 9);
    EXPECT_NE(mdf_error(file.bytes()).find("too many others"), std::string::npos);
}

TEST(Mdf, TimesInMillisecondsAndInNothingKnown) {
    const auto of = [](const char* unit) {
        MdfBuilder file;
        file.channel({.name = "t", .type = 2, .sync = 1, .bits = 64, .unit = unit});
        file.channel({.name = "x", .byte_offset = 8, .bits = 32});
        const auto first = file.channels();
        std::string data;
        for (int i = 0; i < 10; ++i) data += raw(100.0 * i) + raw(static_cast<float>(i));
        file.group(first, file.block("DT", {}, data), 10, 12);
        return file;
    };
    for (const char* unit : {"ms", "msec", "milliseconds"})
        EXPECT_NEAR(read_mdf_of(of(unit)).recording.find_name("x")->clock.rate_hz, 10, 1e-6) << unit;
    EXPECT_NE(mdf_error(of("ticks").bytes()).find("\"ticks\", which is not known"), std::string::npos);
}

TEST(Mdf, AsAPowerCutLeavesIt) {
    MdfBuilder file;
    file.channel(time_channel);
    file.channel({.name = "x", .byte_offset = 8, .bits = 32});
    const auto first = file.channels();
    const std::string all = records([](int i) { return raw(static_cast<float>(i)); });
    const auto data = file.block("DT", {}, all);
    file.group(first, data, 0, 12);                             // no record was counted …
    file.bytes().replace(data + 8, 8, raw<std::uint64_t>(24));  // … and no length written
    file.bytes().replace(0, 8, "UnFinMF ");
    const auto out = read_mdf_of(file);
    ASSERT_NE(out.recording.find_name("x"), nullptr);
    EXPECT_EQ(out.recording.find_name("x")->size(), 10U);
    EXPECT_EQ(out.recording.find_name("x")->at(9), 9);
    // The same with the records at the end of the file.
    MdfBuilder last;
    last.channel(time_channel);
    last.channel({.name = "x", .byte_offset = 8, .bits = 32});
    const auto channels = last.channels();
    last.group(channels, 0, 0, 12);
    const auto group = last.bytes().rfind("##DG");
    const auto at_end = last.block("DT", {}, all.substr(0, all.size() - 5));
    last.link(group, 2, at_end);
    last.bytes().replace(at_end + 8, 8, raw<std::uint64_t>(0));
    last.bytes().replace(0, 8, "UnFinMF ");
    EXPECT_EQ(read_mdf_of(last).recording.find_name("x")->size(), 9U);
}

TEST(Mdf, ArraysAndDamagedBlocksAreSaidMembersOfStructuresAreRead) {
    MdfBuilder file;
    file.channel({.name = "member", .byte_offset = 12, .bits = 32});
    const auto member = file.channels();
    file.channel(time_channel);
    file.channel({.name = "row of values", .byte_offset = 8, .bits = 32});
    file.channel({.name = "whole", .data_type = 10, .byte_offset = 12, .bits = 32});
    const auto first = file.channels();
    const auto array = file.block("CA", {0}, std::string(40, '\0'));
    std::uint64_t second = 0, third = 0;
    std::memcpy(&second, file.bytes().data() + first + 24, 8);
    std::memcpy(&third, file.bytes().data() + second + 24, 8);
    file.link(second, 1, array);
    file.link(third, 1, member);
    const auto packed = file.packed(
        records([](int i) { return raw(static_cast<float>(i)) + raw(2.0F * static_cast<float>(i)); }), 0, 16);
    file.group(first, packed, 10, 16);
    const auto out = read_mdf_of(file);
    EXPECT_EQ(out.recording.find_name("row of values"), nullptr);
    EXPECT_TRUE(noted(out, "(an array)"));
    ASSERT_NE(out.recording.find_name("member"), nullptr);
    EXPECT_EQ(out.recording.find_name("member")->at(4), 8);
    // A byte in the middle of the packed block.
    file.bytes()[packed + 24 + 24 + 20] = static_cast<char>(~file.bytes()[packed + 24 + 24 + 20]);
    const TempFolder folder;
    const auto damaged = read_logged_file(folder.write("file.mf4", file.bytes()));
    EXPECT_NE(damaged ? damaged->notes.back().find("damaged") : damaged.error().message.find("damaged"),
              std::string::npos);
}

TEST(Mdf, ListsOfColumnsKeepTheirInvalidBytesApart) {
    MdfBuilder file;
    file.channel(time_channel);
    file.channel({.name = "x", .byte_offset = 8, .bits = 32, .flags = 2, .invalid_bit = 0});
    const auto first = file.channels();
    const auto values = file.block("DV", {}, records([](int i) { return raw(static_cast<float>(i)); }));
    std::string invalid(10, '\0');
    invalid[4] = 1;
    const auto bits = file.block("DI", {}, invalid);
    const auto list = file.block("LD", {0, values, bits},
                                 raw<std::uint32_t>(0x80000000U) + raw<std::uint32_t>(1) + std::string(16, '\0'));
    file.group(first, list, 10, 12, 1);
    const auto out = read_mdf_of(file);
    ASSERT_NE(out.recording.find_name("x"), nullptr);
    EXPECT_EQ(out.recording.find_name("x")->at(9), 9);
    EXPECT_TRUE(std::isnan(out.recording.find_name("x")->at(4)));
}

TEST(Mdf, UserAliasesNameTheQuantity) {
    MdfBuilder file;
    file.channel(time_channel);
    file.channel({.name = "P_Brk VA", .byte_offset = 8, .bits = 32, .unit = "bar"});
    const auto first = file.channels();
    file.group(first, file.block("DT", {}, records([](int i) { return raw(static_cast<float>(i)); })), 10, 12);
    const TempFolder folder;
    ReadOptions options;
    options.csv.aliases = {{"pbrkva", "brake_front"}};
    const auto out = read_logged_file(folder.write("file.mf4", file.bytes()), options);
    ASSERT_TRUE(out);
    const Channel* brake = out->recording.find("brake_front");
    ASSERT_NE(brake, nullptr);
    EXPECT_EQ(brake->name, "P_Brk VA") << "the logger's name stays";
    EXPECT_NEAR(brake->at(3), 3e5, 1);
}
