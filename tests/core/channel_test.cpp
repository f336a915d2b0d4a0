#include "core/signal/channel.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace rendak;

namespace {

Channel regular(std::vector<float> values, double rate_hz, double start_s = 0, std::string quantity = "speed") {
    ChannelStorage storage;
    storage.floats.assign(values.begin(), values.end());
    return make_channel("c", std::move(quantity), "m/s", std::move(storage), start_s, rate_hz);
}

Channel irregular(std::vector<double> times, std::vector<float> values) {
    ChannelStorage storage;
    storage.floats.assign(values.begin(), values.end());
    storage.times_s.assign(times.begin(), times.end());
    return make_channel("c", "", "", std::move(storage));
}

}  // namespace

TEST(Channel, LinearBetweenSamplesAndNothingOutside) {
    const Channel c = regular({0, 10, 20}, 10, 5);
    EXPECT_DOUBLE_EQ(c.value_at(5.05), 5);
    EXPECT_DOUBLE_EQ(c.value_at(5.2), 20) << "the last sample belongs to the channel";
    EXPECT_TRUE(std::isnan(c.value_at(4.99)));
    EXPECT_TRUE(std::isnan(c.value_at(5.21)));
}

TEST(Channel, StatesKeepThePreviousValue) {
    const Channel gear = regular({2, 3, 4}, 1, 0, "gear");
    EXPECT_DOUBLE_EQ(gear.value_at(0.99), 2);
    EXPECT_DOUBLE_EQ(gear.value_at(1.0), 3);
}

TEST(Channel, MissingNeighboursGiveMissing) {
    const Channel c = regular({1, std::nanf(""), 3}, 1);
    EXPECT_TRUE(std::isnan(c.value_at(0.5)));
    EXPECT_DOUBLE_EQ(c.value_at(2), 3);
}

TEST(SampleClock, FindsEverySampleAgain) {
    for (const double rate : {20.0, 50.0, 100.0, 500.0, 33.3}) {
        SampleClock clock{0.123, rate, 5000, {}};
        for (std::size_t i = 0; i < clock.size; i += 7) EXPECT_EQ(clock.first_at_or_after(clock.time_at(i)), i) << rate;
        EXPECT_EQ(clock.first_at_or_after(-1), 0U);
        EXPECT_EQ(clock.first_at_or_after(1e6), clock.size);
    }
}

TEST(SampleClock, IrregularTimes) {
    const Channel c = irregular({0, 1, 3}, {0, 1, 3});
    EXPECT_EQ(c.clock.first_at_or_after(1.5), 2U);
    EXPECT_DOUBLE_EQ(c.value_at(2), 2);
    EXPECT_DOUBLE_EQ(c.clock.mean_rate_hz(), 2.0 / 3);
}

TEST(Channel, APartIsAnotherViewOfTheSameSamples) {
    Channel even = regular({0, 10, 20, 30, 40}, 10, 5);
    even.is_state = true;
    const Channel part = part_of(even, 1, 4);
    ASSERT_EQ(part.size(), 3U);
    EXPECT_EQ(part.floats().data(), even.floats().data() + 1);
    EXPECT_DOUBLE_EQ(part.clock.time_at(0), even.clock.time_at(1));
    EXPECT_TRUE(part.is_state);
    EXPECT_DOUBLE_EQ(part.value_at(5.25), 20);
    EXPECT_TRUE(std::isnan(part.value_at(5.35)));

    const Channel uneven = irregular({0, 1, 4, 9}, {1, 2, 3, 4});
    const Channel later = part_of(uneven, 2, 4);
    EXPECT_DOUBLE_EQ(later.clock.start_s, 4);
    EXPECT_DOUBLE_EQ(later.value_at(6.5), 3.5);
    EXPECT_EQ(part_of(uneven, 2, 2).size(), 0U);
    EXPECT_EQ(part_of(part_of(uneven, 1, 4), 1, 2).at(0), 3);
}

TEST(Statistics, LowMeanHighWithPlaces) {
    const Channel c = regular({4, std::nanf(""), -2, 7, 1}, 1);
    const Statistics all = statistics(c, 0, 99);
    EXPECT_EQ(all.count, 4U);
    EXPECT_DOUBLE_EQ(all.low, -2);
    EXPECT_EQ(all.low_index, 2U);
    EXPECT_DOUBLE_EQ(all.high, 7);
    EXPECT_EQ(all.high_index, 3U);
    EXPECT_DOUBLE_EQ(all.mean, 2.5);
    EXPECT_EQ(statistics(c, 1, 2).count, 0U);
    EXPECT_TRUE(std::isnan(statistics(c, 1, 2).mean));
}

TEST(Statistics, AreTheSameWhereverTheyBeginAndEnd) {
    std::vector<float> samples;
    for (int i = 0; i < 41; ++i) samples.push_back(i % 7 == 3 ? std::nanf("") : static_cast<float>((i * 37) % 11 - 5));
    const Channel c = regular(samples, 10);
    for (std::size_t from = 0; from < 12; ++from) {
        for (std::size_t to = from; to <= samples.size(); ++to) {
            // One sample after the other, as the words say it: the first of equal ones is named.
            Statistics expected;
            double sum = 0;
            for (std::size_t i = from; i < to; ++i) {
                const auto value = static_cast<double>(samples[i]);
                if (std::isnan(value)) continue;
                if (expected.count == 0 || value < expected.low) expected.low_index = i;
                if (expected.count == 0 || value > expected.high) expected.high_index = i;
                expected.low = expected.count == 0 ? value : std::min(expected.low, value);
                expected.high = expected.count == 0 ? value : std::max(expected.high, value);
                sum += value;
                ++expected.count;
            }
            const Statistics got = statistics(c, from, to);
            ASSERT_EQ(got.count, expected.count) << from << " " << to;
            if (got.count == 0) continue;
            EXPECT_EQ(got.low, expected.low);
            EXPECT_EQ(got.high, expected.high);
            EXPECT_EQ(got.low_index, expected.low_index);
            EXPECT_EQ(got.high_index, expected.high_index);
            EXPECT_NEAR(got.mean, sum / static_cast<double>(got.count), 1e-12);
        }
    }
    const float most = std::numeric_limits<float>::infinity();
    EXPECT_EQ(statistics(regular({std::nanf(""), most, most}, 1), 0, 3).low_index, 1U);
    EXPECT_EQ(statistics(regular({std::nanf(""), -most}, 1), 0, 2).high_index, 1U);
}
