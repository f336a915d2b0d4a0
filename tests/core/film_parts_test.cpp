// What films are held against the data by, on pictures and sounds that are made: how a picture moves, at which pitch it
// sounds, what the data say, and how facts travel.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>

#include "core/video/drive_signals.h"
#include "core/video/engine_sound.h"
#include "core/video/film_json.h"
#include "core/video/film_motion.h"
#include "tests/support/made_channel.h"

using namespace rendak;
using namespace rendak::test;

namespace {

constexpr int width = 192, height = 72;

/// A landscape of smooth hills, seen from `at_px` further to the left or right; `light` is added to all of it.
std::vector<std::uint8_t> view(double at_px, unsigned seed, double light = 0, double contrast = 50) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> phase(0, 2 * std::numbers::pi);
    std::array<double, 6> phases{};
    for (double& it : phases) it = phase(random);
    std::vector<std::uint8_t> out;
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            double value = 120 + light;
            for (std::size_t k = 0; k < phases.size(); ++k)
                value += contrast / 6 * std::sin((x - at_px) * 0.05 * (1.0 + 0.7 * static_cast<double>(k)) + phases[k]);
            out.push_back(static_cast<std::uint8_t>(std::clamp(value, 0.0, 255.0)));
        }
    }
    return out;
}

}  // namespace

TEST(FilmMoves, ByPartsOfAPixelToEitherSide) {
    for (const double by : {-9.0, -3.5, -0.4, 0.0, 0.25, 1.0, 4.6, 12.0}) {
        for (unsigned seed = 1; seed < 4; ++seed) {
            const Moved moved = moved_between(view(0, seed), view(by, seed), width, height);
            for (const float across : moved.across_px) EXPECT_NEAR(across, by, 0.15) << by << " px, landscape " << seed;
        }
    }
}

TEST(FilmMoves, TheLightOfAllOfItIsNoMotion) {
    const Moved brighter = moved_between(view(0, 5), view(3, 5, 12), width, height);
    for (const float across : brighter.across_px) EXPECT_NEAR(across, 3, 0.15);
    const Moved flash = moved_between(view(0, 5), view(3, 5, 60), width, height);
    for (const float across : flash.across_px) EXPECT_TRUE(std::isnan(across)) << "a tunnel's mouth";
    EXPECT_TRUE(std::isnan(flash.change));
    const Moved still = moved_between(view(0, 5), view(0, 5), width, height);
    EXPECT_EQ(still.change, 0);
    EXPECT_GT(moved_between(view(0, 5), view(9, 5), width, height).change, 0.1);
}

TEST(FilmMoves, AWallThatShowsNothingTellsNothing) {
    const std::vector<std::uint8_t> grey(static_cast<std::size_t>(width) * height, 90);
    const Moved moved = moved_between(grey, grey, width, height);
    for (const float across : moved.across_px) EXPECT_TRUE(std::isnan(across));
}

TEST(EngineSounds, AToneIsLoudestAtItsPitch) {
    constexpr int rate_hz = 8000;
    // Four tones one after the other: at each pitch the median is that of silence.
    const std::vector<double> tones{150, 310, 620, 1200};
    std::vector<float> samples;
    std::mt19937 random(9);
    std::normal_distribution<float> noise(0, 0.2F);
    for (const double hz : tones) {
        for (int i = 0; i < 2 * rate_hz; ++i)
            samples.push_back(static_cast<float>(0.5 * std::sin(2 * std::numbers::pi * hz * i / rate_hz)) +
                              noise(random));
    }
    const EngineSound sound = engine_sound(samples, rate_hz, 40);
    EXPECT_EQ(sound.begin_s, 40);
    ASSERT_EQ(sound.loud.size(), EngineSound::pitches);
    EXPECT_NEAR(static_cast<double>(sound.moments()) * EngineSound::step_s, 8, 0.2);
    for (std::size_t k = 0; k < tones.size(); ++k) {
        const auto moment = static_cast<std::size_t>((2 * static_cast<double>(k) + 1) / EngineSound::step_s);
        std::size_t loudest = 0;
        for (std::size_t p = 0; p < EngineSound::pitches; ++p) {
            if (sound.loud[p][moment] > sound.loud[loudest][moment]) loudest = p;
        }
        const double pitch = 24 * std::log2(tones[k] / EngineSound::lowest_hz);
        EXPECT_NEAR(static_cast<double>(loudest), pitch, 4) << tones[k] << " Hz";
        EXPECT_GT(sound.loud[loudest][moment], 1);
    }
    EXPECT_EQ(engine_sound(std::span(samples).first(100), rate_hz, 0).moments(), 0U) << "too short for a window";
}

TEST(DriveSignals, AreEvenMeansOfWhatIsLogged) {
    Recording recording;
    recording.channels.push_back(made_channel("speed", "m/s", 10, 2, 32, [](double t) { return 20 + t; }));
    recording.channels.push_back(made_channel("yaw_rate", "rad/s", 50, 2, 32, [](double t) { return 0.1 * t; }));
    recording.channels.push_back(made_channel("engine_speed", "rad/s", 20, 2, 32, [](double) { return 628.31853; }));
    const DriveSignals signals = drive_signals(recording);
    EXPECT_EQ(signals.begin_s, 2);
    ASSERT_EQ(signals.speed_mps.size(), signals.samples());
    ASSERT_EQ(signals.yaw_radps.size(), signals.samples());
    EXPECT_EQ(signals.samples(), static_cast<std::size_t>(30 / DriveSignals::step_s) + 1);
    for (std::size_t i = 4; i + 4 < signals.samples(); ++i) {
        const double t = 2 + DriveSignals::step_s * static_cast<double>(i);
        ASSERT_NEAR(signals.speed_mps[i], 20 + t, 0.01) << t;
        ASSERT_NEAR(signals.yaw_radps[i], 0.1 * t, 0.01) << t;
        ASSERT_NEAR(signals.revs_hz[i], 100, 1e-3) << t;
    }
}

TEST(DriveSignals, TheYawRateComesFromTheLateralAccelerationWhereItIsNotLogged) {
    Recording recording;
    recording.channels.push_back(made_channel("speed", "m/s", 10, 0, 20, [](double t) { return t < 10 ? 30.0 : 2.0; }));
    recording.channels.push_back(made_channel("lateral_acceleration", "m/s²", 10, 0, 20, [](double) { return 6.0; }));
    const DriveSignals signals = drive_signals(recording);
    ASSERT_EQ(signals.yaw_radps.size(), signals.samples());
    EXPECT_NEAR(signals.yaw_radps[100], 6.0 / 30, 1e-3);
    EXPECT_EQ(signals.yaw_radps[600], 0) << "at walking pace it says nothing";
    EXPECT_TRUE(signals.revs_hz.empty());
    const DriveSignals nothing = drive_signals({});
    EXPECT_TRUE(nothing.speed_mps.empty() && nothing.yaw_radps.empty() && nothing.revs_hz.empty());
}

TEST(FilmFactsAndWishes, TravelWhole) {
    FilmFacts facts;
    facts.width = 1920;
    facts.height = 1080;
    facts.turned_deg = 270;
    facts.codec = "h264";
    facts.container = "mp4 – \"odd\"";
    facts.frames_per_s = 59.94;
    facts.even = false;
    facts.duration_s = 1234.5678;
    facts.frames = 74'000;
    facts.sound = true;
    facts.sound_hz = 48'000;
    facts.start_unix_s = 1'776'503'000.25;
    facts.part_begin_s = {0, 600.125, 1200.25};
    facts.doubt = "Its end is missing.";
    const auto again = film_facts_of(nlohmann::json::parse(to_json(facts).dump()));
    EXPECT_EQ(to_json(again), to_json(facts));
    EXPECT_EQ(again.start_unix_s, facts.start_unix_s);
    EXPECT_EQ(again.part_begin_s, facts.part_begin_s);
    EXPECT_EQ(again.container, facts.container);
    facts.start_unix_s.reset();
    EXPECT_EQ(film_facts_of(to_json(facts)).start_unix_s, std::nullopt) << "a camera that knows no time";
    FilmWish wish{"out.mkv", 1280, 720, 30, 22'050, "mpeg4", 19, 15, "2026-04-18T09:00:00Z"};
    EXPECT_EQ(to_json(film_wish_of(nlohmann::json::parse(to_json(wish).dump()))), to_json(wish));
    // What lacks a part is no fact.
    const nlohmann::json all = to_json(facts);
    for (const auto& part : all.items()) {
        auto lacking = all;
        lacking.erase(part.key());
        EXPECT_THROW((void)film_facts_of(lacking), nlohmann::json::exception) << part.key();
    }
    EXPECT_THROW((void)film_wish_of(nlohmann::json::array()), nlohmann::json::exception);
}
