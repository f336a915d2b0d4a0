#include "core/signal/overview.h"

#include <gtest/gtest.h>

#include <random>

using namespace rendak;

namespace {

/// The slow and obvious way.
MinMax brute(std::span<const float> samples) {
    MinMax out;
    for (const float v : samples) {
        if (v < out.low) out.low = v;
        if (v > out.high) out.high = v;
    }
    return out;
}

std::vector<float> random_samples(std::size_t n, unsigned seed, double missing = 0.05) {
    std::mt19937 engine(seed);
    std::uniform_real_distribution<float> value(-100, 100);
    std::bernoulli_distribution gap(missing);
    std::vector<float> out(n);
    for (float& v : out) v = gap(engine) ? std::nanf("") : value(engine);
    return out;
}

}  // namespace

TEST(Overview, MinMaxAgreesWithBruteForce) {
    for (const std::size_t n : {0, 1, 3, 4, 7, 8, 9, 63, 64, 65, 1000}) {
        const auto samples = random_samples(n, static_cast<unsigned>(n) + 1);
        EXPECT_EQ(min_max(samples), brute(samples)) << n;
    }
    const std::vector<float> nothing(10, std::nanf(""));
    EXPECT_TRUE(min_max(nothing).empty());
}

TEST(Overview, LevelsShrinkToOneBlock) {
    EXPECT_TRUE(build_overview(std::vector<float>(127)).empty());
    const auto levels = build_overview(random_samples(100'000, 5));
    ASSERT_GE(levels.size(), 2U);
    EXPECT_EQ(levels.front().size(), (100'000U + 63) / 64);
    EXPECT_EQ(levels.back().size(), 1U);
    for (std::size_t i = 1; i < levels.size(); ++i) EXPECT_EQ(levels[i].size(), (levels[i - 1].size() + 3) / 4);
}

TEST(Overview, RangesThroughLevelsAgreeWithBruteForce) {
    const auto samples = random_samples(20'011, 9, 0.2);
    ChannelStorage storage;
    storage.floats.assign(samples.begin(), samples.end());
    Channel channel = make_channel("c", "", "", std::move(storage), 0, 100);
    const auto levels = build_overview(samples);
    for (const auto& level : levels) channel.overview.emplace_back(level);
    std::mt19937 engine(3);
    std::uniform_int_distribution<std::size_t> place(0, samples.size());
    for (int k = 0; k < 3000; ++k) {
        const std::size_t a = place(engine), b = place(engine);
        const std::size_t from = std::min(a, b), to = std::max(a, b);
        ASSERT_EQ(min_max(channel, from, to), brute(std::span(samples).subspan(from, to - from))) << from << " " << to;
    }
}
