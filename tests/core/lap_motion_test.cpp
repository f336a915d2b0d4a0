// How a lap moves, against the exact motion that it was made of; and the innermost loops: lowest and highest of
// samples, blocks of whole lines.
#include "core/analysis/lap_motion.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <random>

#include "core/analysis/car_moment.h"
#include "core/recording/table_body.h"
#include "core/signal/low_high.h"
#include "tests/support/exact_laps.h"
#include "tests/support/made_world.h"

using namespace rendak;
using namespace rendak::test;

namespace {

/// A run on the drawn circuit, with the exact motion.
struct Exact {
    demo::RunPlan plan = MadeWorld::plan(3, 71, 0.3);
    demo::Drive drive = demo::drive_run(drawn_circuit(), plan.car, plan);
    std::vector<PreparedLap> laps = exact_laps(drawn_circuit(), drawn_track(), plan);
};
const Exact& exact() {
    static const Exact it;
    return it;
}
std::size_t step_of(double t_s) {
    return static_cast<std::size_t>(std::lround(t_s / demo::Drive::step_s));
}

}  // namespace

TEST(LapMotions, AddUpToTheLap) {
    ASSERT_GE(exact().laps.size(), 3U);
    for (const PreparedLap& lap : exact().laps) {
        const LapMotion motion = motion_of(lap);
        ASSERT_NEAR(motion.length_m, lap.map.length_m(), 1e-6);
        ASSERT_EQ(motion.size(), static_cast<std::size_t>(std::ceil(motion.length_m / LapMotion::step_m)));
        double sum = 0;
        for (const double step : motion.step_s) {
            ASSERT_GT(step, 0);
            sum += step;
        }
        EXPECT_NEAR(sum, lap.map.end_s() - lap.map.start_s(), 1e-6);
        for (const auto* values :
             {&motion.lateral_mps2, &motion.along_mps2, &motion.grade, &motion.lean_mps2, &motion.crest})
            EXPECT_EQ(values->size(), motion.size());
    }
}

TEST(LapMotions, FollowTheMotionAsItWas) {
    const PreparedLap& lap = exact().laps.at(1);
    const LapMotion motion = motion_of(lap);
    double speed = 0, lateral = 0, along = 0, height = 0;
    for (std::size_t i = 5; i + 5 < motion.size(); ++i) {
        const std::size_t at = step_of(lap.map.time_at(motion.place_m(i)));
        const double v = exact().drive.speed_mps[at];
        speed += std::pow(motion.speed_mps[i] - v, 2);
        lateral += std::pow(motion.lateral_mps2[i] - v * v * exact().drive.curvature[at], 2);
        along += std::pow(motion.along_mps2[i] - 9.80665 * motion.grade[i] - exact().drive.along_mps2[at], 2);
        height += motion.grade[i];
    }
    const auto n = static_cast<double>(motion.size() - 10);
    EXPECT_LT(std::sqrt(speed / n), 0.3) << "m/s";
    EXPECT_LT(std::sqrt(lateral / n), 1.2) << "m/s²: what the sensor's noise and lean of the body leave";
    EXPECT_LT(std::sqrt(along / n), 1.5) << "m/s²: over 0.4 s";
    EXPECT_NEAR(height, 0, 1) << "round a lap it goes up as far as down";
}

TEST(LapMotions, KnowTheirPlaces) {
    const LapMotion motion = motion_of(exact().laps.front());
    for (const double s : {0.0, 0.4, 1.0, 777.7, motion.length_m - 0.5})
        EXPECT_LE(std::abs(motion.place_m(motion.cell(s)) - s), LapMotion::step_m) << s;
    EXPECT_EQ(motion.cell(-50), 0U);
    EXPECT_EQ(motion.cell(1e9), motion.size() - 1);
}

TEST(CarMomentsOfALap, AreWhatIsLoggedThenAndNothingElse) {
    const PreparedLap& lap = exact().laps.at(1);
    const CarMoments moments(lap);
    double most = 0;
    int braking = 0, full = 0;
    for (double t = lap.map.start_s(); t < lap.map.end_s(); t += 0.21) {
        const CarMoment moment = moments.at(t);
        EXPECT_NEAR(moment.speed_mps, exact().drive.speed_mps[step_of(t)], 1.5) << t;
        ASSERT_GE(moment.throttle, -0.02);
        ASSERT_LE(moment.throttle, 1.02);
        ASSERT_GE(moment.brake, -0.02);
        ASSERT_LE(moment.brake, 1.05);
        EXPECT_EQ(moment.gear, std::round(moment.gear));
        most = std::max(most, moment.revs_share);
        braking += moment.brake > 0.3;
        full += moment.throttle > 0.95;
        if (moment.brake > 0.5) EXPECT_LT(moment.along_mps2, 0) << t;
    }
    EXPECT_LE(most, 1.0 + 1e-9);
    EXPECT_GT(most, 0.95);
    EXPECT_GT(braking, 20);
    EXPECT_GT(full, 100);
    PreparedLap bare = lap;
    bare.recording = std::make_shared<const Recording>();
    const CarMoment nothing = CarMoments(bare).at(10);
    for (const double value : {nothing.throttle, nothing.brake, nothing.steering_rad, nothing.gear, nothing.revs,
                               nothing.revs_share, nothing.speed_mps, nothing.lateral_mps2, nothing.along_mps2})
        EXPECT_TRUE(std::isnan(value)) << "not logged is no zero";
}

TEST(LowestAndHighest, AreThoseOfEverySampleWhereverItLies) {
    std::mt19937 random(7);
    std::normal_distribution<float> normal(0, 100);
    std::uniform_int_distribution<int> one_in(0, 5);
    std::vector<float> samples(300);
    for (const bool gaps : {false, true}) {
        for (float& it : samples)
            it = gaps && one_in(random) == 0 ? std::numeric_limits<float>::quiet_NaN() : normal(random);
        for (std::size_t from = 0; from < 9; ++from) {
            for (std::size_t count = 0; count < 200; ++count) {
                float low = 5, high = 6;  // what was seen before
                low_high(samples.data() + from, samples.data() + from + count, low, high);
                float wanted_low = 5, wanted_high = 6;
                for (std::size_t i = from; i < from + count; ++i) {
                    if (samples[i] < wanted_low) wanted_low = samples[i];
                    if (samples[i] > wanted_high) wanted_high = samples[i];
                }
                ASSERT_EQ(low, wanted_low) << from << " + " << count;
                ASSERT_EQ(high, wanted_high) << from << " + " << count;
            }
        }
    }
    std::fill(samples.begin(), samples.end(), std::numeric_limits<float>::quiet_NaN());
    float low = std::numeric_limits<float>::infinity(), high = -low;
    low_high(samples.data(), samples.data() + samples.size(), low, high);
    EXPECT_GT(low, high) << "nothing was there";
}

TEST(TextBlocks, AreWholeLinesAndAllOfThem) {
    std::mt19937 random(3);
    std::uniform_int_distribution<int> size(0, 400);
    for (const bool ends : {true, false}) {
        std::string text = "name;other\n";
        const std::size_t start = text.size();
        while (text.size() < 5'000'000) text += std::string(static_cast<std::size_t>(size(random)), '7') + '\n';
        if (!ends) text += "the last line without its end";
        const auto blocks = cut_into_blocks(text, start);
        ASSERT_GT(blocks.size(), 2U);
        EXPECT_EQ(blocks.front().begin, start);
        EXPECT_EQ(blocks.back().end, text.size());
        for (std::size_t i = 0; i < blocks.size(); ++i) {
            EXPECT_LT(blocks[i].begin, blocks[i].end);
            if (i == 0) continue;
            EXPECT_EQ(blocks[i].begin, blocks[i - 1].end);
            EXPECT_EQ(text[blocks[i].begin - 1], '\n') << i;
        }
    }
    EXPECT_TRUE(cut_into_blocks("head only\n", 10).empty());
    // One line longer than a block stays one.
    const std::string line(3'000'000, '1');
    const auto long_line = cut_into_blocks(line + "\n2\n", 0);
    ASSERT_FALSE(long_line.empty());
    EXPECT_GE(long_line.front().end, line.size());
}

TEST(TextBlocks, AreWorkedOnOnceEachAndStopWhenAskedTo) {
    std::vector<std::atomic<int>> done(57);
    for_each_block(done.size(), 4, {}, [&](std::size_t i) { ++done[i]; });
    for (const auto& times : done) EXPECT_EQ(times, 1);
    std::stop_source stop;
    JobContext job;
    job.stop = stop.get_token();
    std::atomic<int> begun = 0;
    for_each_block(1000, 2, job, [&](std::size_t) {
        if (++begun == 10) stop.request_stop();
    });
    EXPECT_GE(begun, 10);
    EXPECT_LT(begun, 100) << "those at work finish, no others begin";
}
