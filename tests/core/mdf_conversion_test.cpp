// From raw numbers to physical ones, as the conversion blocks of MDF 4 say, and values of any width at any bit.
#include "core/recording/mdf_conversion.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "tests/support/mdf_builder.h"

using namespace rendak;
using namespace rendak::mdf;
using test::MdfBuilder;
using test::raw;

namespace {

/// One conversion of a file made for it.
Conversion conversion(std::uint8_t type, const std::vector<double>& values,
                      const std::function<std::vector<std::uint64_t>(MdfBuilder&)>& refs = {}) {
    MdfBuilder file;
    const auto links = refs ? refs(file) : std::vector<std::uint64_t>{};
    const auto place = file.conversion(type, values, links);
    return read_conversion(File(file.bytes()), place);
}

}  // namespace

TEST(MdfConversion, NoneLeavesNumbersAsTheyAre) {
    const Conversion none = read_conversion(File(MdfBuilder().bytes()), 0);
    EXPECT_TRUE(none.identity());
    EXPECT_EQ(none(12.5, false), 12.5);
    EXPECT_TRUE(conversion(0, {})(3, true) == 3);
}

TEST(MdfConversion, LinearAndRational) {
    const auto linear = conversion(1, {-40, 0.5});
    EXPECT_EQ(linear(0, true), -40);
    EXPECT_EQ(linear(200, true), 60);
    EXPECT_EQ(conversion(1, {-40}).kind, Conversion::Kind::unknown) << "a factor is missing";
    const auto rational = conversion(2, {1, 2, 3, 0, 1, 4});
    for (const double x : {0.0, 1.0, -2.5, 10.0}) EXPECT_DOUBLE_EQ(rational(x, false), (x * x + 2 * x + 3) / (x + 4));
    EXPECT_EQ(conversion(2, {1, 2, 3}).kind, Conversion::Kind::unknown);
}

TEST(MdfConversion, TablesBetweenTheirPointsAndBeyond) {
    const auto straight = conversion(4, {0, 10, 10, 30, 20, 0});
    EXPECT_EQ(straight(0, true), 10);
    EXPECT_EQ(straight(5, true), 20);
    EXPECT_EQ(straight(15, false), 15);
    EXPECT_EQ(straight(-3, true), 10) << "held before the first";
    EXPECT_EQ(straight(99, true), 0) << "held behind the last";
    EXPECT_TRUE(std::isnan(straight(std::nan(""), false)));
    const auto steps = conversion(5, {0, 10, 10, 30, 20, 0});
    EXPECT_EQ(steps(4, true), 10);
    EXPECT_EQ(steps(6, true), 30);
    EXPECT_EQ(steps(5, true), 10) << "half-way the lower key";
    EXPECT_EQ(conversion(4, {7, 3})(100, true), 3) << "one point";
}

TEST(MdfConversion, TablesThatAreNotSortedAre) {
    std::mt19937 random(4);
    for (int k = 0; k < 50; ++k) {
        std::vector<std::pair<double, double>> pairs;
        for (int i = 0; i < 12; ++i)
            pairs.emplace_back(5 * i + static_cast<double>(random() % 4), static_cast<double>(random() % 100));
        std::vector<double> sorted, shuffled;
        for (const auto& [key, value] : pairs) sorted.insert(sorted.end(), {key, value});
        std::shuffle(pairs.begin(), pairs.end(), random);
        for (const auto& [key, value] : pairs) shuffled.insert(shuffled.end(), {key, value});
        shuffled.insert(shuffled.end(), {std::nan(""), 5});
        const auto a = conversion(4, sorted), b = conversion(4, shuffled);
        for (double x = -2; x < 62; x += 0.7) ASSERT_EQ(a(x, false), b(x, false)) << x;
    }
}

TEST(MdfConversion, RangesHoldTheirEndForWholeNumbersOnly) {
    const auto ranges = conversion(6, {0, 10, 1, 10, 20, 2, 30, 30, 3, -1});
    EXPECT_EQ(ranges(0, true), 1);
    EXPECT_EQ(ranges(10, true), 1) << "the first that fits";
    EXPECT_EQ(ranges(10, false), 2);
    EXPECT_EQ(ranges(20, true), 2);
    EXPECT_EQ(ranges(20, false), -1) << "the default";
    EXPECT_EQ(ranges(30, false), 3) << "a range of one number";
    EXPECT_EQ(ranges(99, true), -1);
    EXPECT_TRUE(std::isnan(conversion(6, {0, 10, 1})(11, true))) << "no default";
}

TEST(MdfConversion, FormulasAreReadOrSaid) {
    const auto formula = conversion(3, {}, [](MdfBuilder& file) { return std::vector{file.text("2*X+1")}; });
    ASSERT_EQ(formula.kind, Conversion::Kind::formula);
    EXPECT_DOUBLE_EQ(formula(3, true), 7);
    const auto strange = conversion(3, {}, [](MdfBuilder& file) { return std::vector{file.text("launch(X)")}; });
    EXPECT_EQ(strange.kind, Conversion::Kind::unknown);
    ASSERT_FALSE(strange.names.empty());
    EXPECT_NE(strange.names[0].find("launch(X)"), std::string::npos);
    EXPECT_TRUE(std::isnan(strange(3, true)));
}

TEST(MdfConversion, NamesAloneLeaveTheNumbers) {
    const auto names = conversion(7, {0, 1, 2}, [](MdfBuilder& file) {
        return std::vector{file.text("off"), file.text("on"), file.text("broken"), file.text("?")};
    });
    EXPECT_EQ(names.kind, Conversion::Kind::none);
    EXPECT_EQ(names(2, true), 2);
    EXPECT_EQ(names.names, (std::vector<std::string>{"0 = off", "1 = on", "2 = broken"}));
}

TEST(MdfConversion, NamesWithAScaleForTheRest) {
    const auto gear = conversion(7, {14, 15}, [](MdfBuilder& file) {
        return std::vector{file.text("reverse"), file.text("not known"), file.conversion(1, {0, 2})};
    });
    ASSERT_EQ(gear.kind, Conversion::Kind::names);
    EXPECT_EQ(gear(3, true), 6);
    EXPECT_TRUE(std::isnan(gear(14, true))) << "a name is no number";
    const auto single = conversion(7, {5}, [](MdfBuilder& file) {
        return std::vector{file.conversion(1, {100, 0}), std::uint64_t{0}};
    });
    EXPECT_EQ(single(5, true), 100) << "a key with a scale of its own";
    EXPECT_TRUE(std::isnan(single(6, true))) << "no scale for the rest";
}

TEST(MdfConversion, RangesOfNames) {
    const auto state = conversion(8, {0, 9, 10, 19}, [](MdfBuilder& file) {
        return std::vector{file.text("cold"), file.conversion(1, {0, 10}), file.conversion(1, {-1, 0})};
    });
    ASSERT_EQ(state.kind, Conversion::Kind::names);
    EXPECT_TRUE(std::isnan(state(4, true)));
    EXPECT_EQ(state(12, true), 120);
    EXPECT_EQ(state(19, true), 190);
    EXPECT_EQ(state(19, false), -1);
    EXPECT_EQ(state(50, true), -1);
}

TEST(MdfConversion, InsideEachOtherAreBounded) {
    // A conversion whose default is itself, and a tree of them that would never end.
    MdfBuilder file;
    const auto name = file.text("x");
    const auto place = file.conversion(7, {1}, {name, 0});
    file.link(place, 5, place);
    const auto looped = read_conversion(File(file.bytes()), place);
    (void)looped(2, true);
    EXPECT_TRUE(std::isnan(looped(1, true)));
    MdfBuilder tree;
    std::vector<double> keys(200);
    for (std::size_t i = 0; i < keys.size(); ++i) keys[i] = static_cast<double>(i);
    auto leaf = tree.conversion(1, {0, 1});
    for (int depth = 0; depth < 3; ++depth) leaf = tree.conversion(7, keys, std::vector<std::uint64_t>(201, leaf));
    const auto wide = read_conversion(File(tree.bytes()), leaf);
    EXPECT_EQ(wide.kind, Conversion::Kind::unknown);
    EXPECT_EQ(wide.names, std::vector<std::string>{"its conversion is made of too many others"});
}

TEST(MdfConversion, OfAnotherKindOrADamagedPlaceIsNotUnderstood) {
    EXPECT_EQ(conversion(6, {}).kind, Conversion::Kind::unknown);
    MdfBuilder file;
    const auto text = file.text("no conversion");
    EXPECT_TRUE(read_conversion(File(file.bytes()), text).identity());
    EXPECT_TRUE(read_conversion(File(file.bytes()), 1'000'000'000).identity());
}

// ---- values ----------------------------------------------------------------------------------------

namespace {

double value_of(const std::string& bytes, int data_type, std::uint32_t bits, std::uint32_t bit_offset = 0) {
    MdfChannel channel;
    channel.data_type = data_type;
    channel.bit_count = bits;
    channel.bit_offset = bit_offset;
    double out = -77;
    for_each_raw({bytes.data(), 1, bytes.size()}, channel,
                 [&](std::size_t, auto value) { out = static_cast<double>(value); });
    return out;
}

/// What 64 bits say, taken apart one by one.
double by_bits(std::uint64_t word, std::uint32_t bits, bool is_signed) {
    double out = 0;
    for (std::uint32_t b = 0; b < bits; ++b) {
        if ((word >> b & 1) == 0) continue;
        const double worth = std::ldexp(1.0, static_cast<int>(b));
        out += is_signed && b + 1 == bits ? -worth : worth;
    }
    return out;
}

}  // namespace

TEST(MdfValues, OfAnyWidthAtAnyBit) {
    std::mt19937_64 random(8);
    for (int k = 0; k < 3000; ++k) {
        const std::uint32_t bits = 1 + static_cast<std::uint32_t>(random() % 52),
                            offset = static_cast<std::uint32_t>(random() % 8);
        const std::uint64_t all = random(), word = bits >= 64 ? all : all & ((1ULL << bits) - 1);
        const bool is_signed = random() % 2 == 0, big = random() % 2 == 0;
        const std::string bytes = raw(all << offset, false) + std::string(2, '\0');
        const std::size_t used = (offset + bits + 7) / 8;
        std::string field = bytes.substr(0, used);
        if (big) std::reverse(field.begin(), field.end());
        const int type = (is_signed ? 2 : 0) + (big ? 1 : 0);
        // Bits pushed out of the word are not there to be read.
        if (bits + offset > 64) continue;
        ASSERT_EQ(value_of(field + std::string(8, '\0'), type, bits, offset), by_bits(word, bits, is_signed))
            << bits << " bits at " << offset << (big ? " big" : " little") << (is_signed ? " signed" : "");
    }
}

TEST(MdfValues, FloatsOfSixteenBits) {
    const auto half = [](std::uint16_t bits) { return static_cast<double>(half_float(bits)); };
    EXPECT_EQ(half(0x0000), 0);
    EXPECT_TRUE(std::signbit(half(0x8000)));
    EXPECT_EQ(half(0x3C00), 1);
    EXPECT_EQ(half(0xC000), -2);
    EXPECT_EQ(half(0x7BFF), 65504) << "the largest";
    EXPECT_EQ(half(0x0001), std::ldexp(1.0, -24)) << "the smallest";
    EXPECT_NEAR(half(0x3555), 1.0 / 3, 1e-4);
    EXPECT_TRUE(std::isnan(half(0x7C00))) << "infinite is no measurement";
    EXPECT_TRUE(std::isnan(half(0x7E00)));
    EXPECT_EQ(value_of(raw(std::uint16_t{0x3C00}), 4, 16), 1);
    EXPECT_EQ(value_of(raw(std::uint16_t{0x3C00}, true), 5, 16), 1);
}

TEST(MdfValues, RecordsAreShortenedPieceByPiece) {
    AllRecords all;
    all.add({nullptr, 5, 8});
    all.add({nullptr, 7, 8});
    all.add({nullptr, 3, 8});
    EXPECT_EQ(all.count, 15U);
    all.shorten_to(8);
    EXPECT_EQ(all.count, 8U);
    EXPECT_EQ(all.pieces[0].count, 5U);
    EXPECT_EQ(all.pieces[1].count, 3U);
    EXPECT_EQ(all.pieces[2].count, 0U);
    all.shorten_to(100);
    EXPECT_EQ(all.count, 8U) << "never longer";
    // In parts of two they are all there, in their order.
    const char bytes[64] = {};
    AllRecords placed;
    placed.add({bytes, 5, 8});
    placed.add({bytes + 40, 3, 8});
    std::vector<std::pair<std::ptrdiff_t, std::size_t>> seen;
    for (const auto& [part, first] : parts_of(placed, 2)) {
        EXPECT_EQ(part.step, 8U);
        EXPECT_EQ(static_cast<std::size_t>(part.first - bytes) / 8, first);
        seen.emplace_back(part.first - bytes, part.count);
    }
    EXPECT_EQ(seen, (std::vector<std::pair<std::ptrdiff_t, std::size_t>>{{0, 2}, {16, 2}, {32, 1}, {40, 2}, {56, 1}}));
    EXPECT_TRUE(parts_of({}, 2).empty());
}
