// Where a film lies on a run, found by itself: made-up circuits, noise, vibration, cuts of light; and never a wrong
// one.
#include <gtest/gtest.h>

#include <cmath>
#include <iostream>

#include "core/intake/import.h"
#include "core/signal/correlation.h"
#include "core/video/film_offset.h"
#include "core/video/log_offset.h"
#include "core/video/propose_place.h"
#include "demo/camera.h"
#include "demo/noise.h"
#include "demo/sensors.h"
#include "tests/support/exact_laps.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

using test::drawn_circuit;
using test::got;

TEST(CorrelationByLag, IsPearsonsAtEveryLag) {
    demo::Noise noise(4);
    std::vector<float> a(70), b(160);
    for (float& it : a) it = static_cast<float>(noise.normal());
    for (float& it : b) it = static_cast<float>(noise.normal());
    a[13] = std::nanf("");
    b[90] = std::nanf("");
    for (std::size_t k = 0; k < a.size(); ++k)
        if (std::isfinite(a[k]) && std::isfinite(b[k + 50])) b[k + 50] = 0.8F * a[k] + 0.3F * b[k + 50];
    for (float& it : b) it = 100 + 7 * it;
    const Correlation found = correlation_by_lag(a, b, 20);
    ASSERT_EQ(found.r.size(), a.size() + b.size() - 1);
    for (std::size_t i = 0; i < found.r.size(); ++i) {
        double n = 0, sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
        for (std::size_t k = 0; k < a.size(); ++k) {
            const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(k) + found.lag(i);
            if (at < 0 || at >= static_cast<std::ptrdiff_t>(b.size())) continue;
            const double x = static_cast<double>(a[k]), y = static_cast<double>(b[static_cast<std::size_t>(at)]);
            if (!std::isfinite(x) || !std::isfinite(y)) continue;
            n += 1;
            sa += x;
            sb += y;
            saa += x * x;
            sbb += y * y;
            sab += x * y;
        }
        if (n < 20) {
            EXPECT_EQ(found.r[i], 0);
            continue;
        }
        const double r = (sab - sa * sb / n) / std::sqrt((saa - sa * sa / n) * (sbb - sb * sb / n));
        EXPECT_NEAR(static_cast<double>(found.r[i]), r, 2e-3) << found.lag(i);
    }
    const auto best = std::max_element(found.r.begin(), found.r.end());
    EXPECT_EQ(found.lag(static_cast<std::size_t>(best - found.r.begin())), 50);
}

TEST(LogOffset, OfACamerasOwnReceiverIsFoundAndOfAnotherRunIsNone) {
    RENDAK_FIGURES_ONLY("LogOffset.NeedsSpeedsAndDates");
    int found = 0, worlds = 0, strangers = 0;
    for (unsigned seed = 1; seed <= 8; ++seed) {
        const test::MadeWorld world(600 + seed, 2600 + 300 * seed);
        const demo::RunPlan plan = test::MadeWorld::plan(4, 600 + seed, 0.8),
                            other = test::MadeWorld::plan(4, 700 + seed, 0.8);
        const demo::Drive drive = demo::drive_run(world.circuit(), plan.car, plan);
        const Recording run = demo::main_logger(world.circuit(), plan.car, plan, drive, {.suspension = false});
        // Part of the drive, by a clock of its own.
        Recording log = demo::pocket_logger(world.circuit(), plan, drive);
        const double from = 40 + 9 * seed, length = seed % 2 == 0 ? 45 : 130;
        for (Channel& it : log.channels) {
            ChannelStorage part;
            for (double t = from; t < from + length; t += 0.05) part.doubles.push_back(it.value_at(t));
            it = make_channel(it.name, it.quantity, it.unit, std::move(part), 0, 20);
        }
        ++worlds;
        const auto at = offset_of_log(log, run);
        if (at) EXPECT_NEAR(*at, demo::pocket_late_s + from, 0.04) << seed;
        found += at ? 1 : 0;
        const Recording stranger =
            demo::main_logger(world.circuit(), other.car, other, demo::drive_run(world.circuit(), other.car, other),
                              {.suspension = false});
        strangers += offset_of_log(log, stranger) ? 1 : 0;
    }
    std::cout << "logs placed " << found << " of " << worlds << ", on another run " << strangers << '\n';
    EXPECT_GE(found, 7);
    EXPECT_EQ(strangers, 0);
}

TEST(LogOffset, NeedsSpeedsAndDates) {
    const auto plan = test::MadeWorld::plan(2, 5, 0.5);
    const demo::Drive drive = demo::drive_run(drawn_circuit(), plan.car, plan);
    Recording run = demo::main_logger(drawn_circuit(), plan.car, plan, drive, {.suspension = false});
    Recording log = demo::pocket_logger(drawn_circuit(), plan, drive);
    EXPECT_FALSE(hint_of_log(1000.0, log, run)) << "it has no date";
    log.start_unix_s = 5000;
    EXPECT_FALSE(hint_of_log(std::nullopt, log, run));
    // A film that began 60.4 s after the log did, dated by whole seconds.
    const auto hint = got(hint_of_log(5060.0, log, run));
    EXPECT_NEAR(hint.offset_s, demo::pocket_late_s + 60.4, hint.within_s);
    std::erase_if(log.channels, [](const Channel& it) { return it.quantity == "speed"; });
    const auto none = offset_of_log(log, run);
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().text().find("no speed"), std::string::npos);
}

TEST(FilmMotion, TellsHowFarThePictureMovedToAPartOfAPixel) {
    constexpr int width = 192, height = 72;
    const auto drawn = [&](double shift, double light) {
        std::vector<std::uint8_t> out(width * height);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                out[static_cast<std::size_t>(y * width + x)] = static_cast<std::uint8_t>(std::lround(
                    110 + light + 40 * std::sin(0.11 * (x - shift)) + 25 * std::sin(0.037 * (x - shift) + 1)));
        return out;
    };
    const auto still = drawn(0, 0);
    for (const double shift : {0.0, 0.4, -1.3, 3.7, -9.25, 15.5}) {
        const Moved moved = moved_between(still, drawn(shift, 0), width, height);
        for (const float part : moved.across_px) EXPECT_NEAR(static_cast<double>(part), shift, 0.08) << shift;
        EXPECT_EQ(moved.change > 0.01F, shift != 0);
    }
    // A slow change of the light is none of the motion; a flash, and one grey wall, tell nothing.
    EXPECT_NEAR(static_cast<double>(moved_between(still, drawn(2, 12), width, height).across_px[1]), 2, 0.1);
    EXPECT_TRUE(std::isnan(moved_between(still, drawn(2, 40), width, height).across_px[1]));
    const std::vector<std::uint8_t> wall(width * height, 90);
    EXPECT_TRUE(std::isnan(moved_between(wall, wall, width, height).change));
    EXPECT_TRUE(std::isnan(moved_between(still, drawn(60, 0), width, height).across_px[1]) ||
                std::abs(moved_between(still, drawn(60, 0), width, height).across_px[1]) <= 24)
        << "no more than was looked at is told";
}

TEST(EngineSound, StandsAtItsPitch) {
    // A tone that rises from 100 to 400 Hz, two octaves in 4 s, in noise and under a hum that never changes.
    constexpr int rate = 8000;
    std::vector<float> samples(4 * rate);
    double phase = 0;
    demo::Noise noise(2);
    for (std::size_t i = 0; i < samples.size(); ++i) {
        const double t = static_cast<double>(i) / rate, hz = 100 * std::exp2(t / 2);
        phase += 2 * 3.14159265358979 * hz / rate;
        samples[i] = static_cast<float>(0.2 * std::sin(phase) + 0.3 * std::sin(2 * 3.14159265358979 * 50 * t) +
                                        0.05 * noise.normal());
    }
    const EngineSound sound = engine_sound(samples, rate, 0);
    ASSERT_GT(sound.moments(), 100U);
    for (const std::size_t moment : {20U, 60U, 100U, 140U}) {
        std::size_t top = 0;
        for (std::size_t p = 0; p < EngineSound::pitches; ++p)
            if (sound.loud[p][moment] > sound.loud[top][moment]) top = p;
        const double t = EngineSound::step_s * static_cast<double>(moment) + EngineSound::window_s / 2;
        EXPECT_NEAR(static_cast<double>(top), 24 * std::log2(100 * std::exp2(t / 2) / EngineSound::lowest_hz), 2)
            << moment;
    }
    EXPECT_EQ(engine_sound({samples.data(), 100}, rate, 0).moments(), 0U) << "too short";
}

TEST(DriveSignals, AreThereWithoutAYawRate) {
    auto run = demo::saturday()[1];
    run.laps.resize(2);
    const demo::Drive drive = demo::drive_run(drawn_circuit(), run.car, run);
    Recording recording = demo::main_logger(drawn_circuit(), run.car, run, drive, {.suspension = false});
    const DriveSignals all = drive_signals(recording);
    ASSERT_EQ(all.yaw_radps.size(), all.speed_mps.size());
    ASSERT_FALSE(all.revs_hz.empty());
    std::erase_if(recording.channels,
                  [](const Channel& it) { return it.quantity == "yaw_rate" || it.quantity == "engine_speed"; });
    const DriveSignals some = drive_signals(recording);
    EXPECT_TRUE(some.revs_hz.empty());
    // Lateral acceleration over speed is the same turning.
    double off = 0, size = 0;
    for (std::size_t i = 0; i < all.samples(); ++i) {
        if (!(all.speed_mps[i] > 15) || !std::isfinite(all.yaw_radps[i] + some.yaw_radps[i])) continue;
        off += std::abs(static_cast<double>(all.yaw_radps[i] - some.yaw_radps[i]));
        size += std::abs(static_cast<double>(all.yaw_radps[i]));
    }
    EXPECT_LT(off, 0.15 * size);
    std::erase_if(recording.channels, [](const Channel& it) { return it.quantity == "lateral_acceleration"; });
    EXPECT_TRUE(drive_signals(recording).yaw_radps.empty());
}

/// A run and a film of it, for trials of finding the offset.
struct Filmed {
    demo::Drive drive;
    Recording recording;
    double truth_s = 0;
    OffsetFound found;
};

Filmed film_of(const demo::Circuit& circuit, std::uint64_t seed, demo::CameraPlan plan, bool by_motion, bool by_sound,
               int laps = 3) {
    const test::TempFolder folder;
    demo::RunPlan run = demo::saturday()[1];
    run.seed = seed;
    run.laps.resize(static_cast<std::size_t>(laps) + 1);
    Filmed out;
    out.drive = demo::drive_run(circuit, run.car, run);
    out.recording = demo::main_logger(circuit, run.car, run, out.drive, {.suspension = false});
    out.truth_s = plan.time_s.begin;
    plan.seed = seed;
    const auto file = folder / "film.mp4";
    if (const auto done = demo::film_run(circuit, out.drive, out.recording, plan, file); !done)
        throw std::runtime_error(done.error().text());
    FilmReader film = got(FilmReader::open({file.string()}));
    const Interval all{0, film.facts().duration_s};
    const DriveSignals signals = drive_signals(out.recording);
    std::optional<FilmMotion> motion;
    std::optional<EngineSound> sound;
    if (by_motion) motion = got(film_motion(film, all));
    if (by_sound) sound = got(engine_sound_of(film, all));
    out.found = find_offset(signals, motion ? &*motion : nullptr, sound ? &*sound : nullptr);
    return out;
}

TEST(FilmOffset, IsFoundOfALapByMotionAndBySound) {
    RENDAK_FIGURES_ONLY("FilmOffset.NothingIsToldOfWhatTellsNothing");
    for (int k = 0; k < 3; ++k) {
        demo::CameraPlan plan;
        plan.width = 240;
        plan.height = 136;
        plan.time_s = {60.0 + 41.37 * k, 170.0 + 41.37 * k};
        const bool motion = k != 1, sound = k != 0;
        if (k > 0) plan.codec = "mpeg4";  // less work than H.264
        const Filmed it = film_of(drawn_circuit(), 500 + static_cast<std::uint64_t>(k), plan, motion, sound);
        std::string cues;
        for (const OffsetCue& cue : it.found.cues)
            cues += cue.name + " " + std::to_string(cue.offset_s - it.truth_s) + " s, fits " +
                    std::to_string(cue.fits) + ", clear " + std::to_string(cue.clear) + "; ";
        ASSERT_TRUE(it.found.at) << it.found.why << " " << cues;
        EXPECT_NEAR(it.found.at->offset_s, it.truth_s, 0.08) << it.found.why << " " << cues;
        EXPECT_FALSE(it.found.why.empty());
        EXPECT_GT(it.found.check_film_s, 50);
    }
}

TEST(FilmOffset, ACameraWhoseClockRunsSlowIsToldSo) {
    RENDAK_FIGURES_ONLY("FilmOffset.NothingIsToldOfWhatTellsNothing");
    demo::CameraPlan plan;
    plan.width = 240;
    plan.height = 136;
    plan.time_s = {40, 230};
    plan.clock_rate = 1.0004;
    plan.codec = "mpeg4";
    const Filmed it = film_of(drawn_circuit(), 611, plan, true, true);
    ASSERT_TRUE(it.found.at) << it.found.why;
    EXPECT_NEAR(it.found.at->rate, 1.0004, 5e-5);
    for (const double film_s : {0.0, 95.0, 189.0})
        EXPECT_NEAR(it.found.at->run_s(film_s), it.truth_s + 1.0004 * film_s, 0.06) << film_s;
}

TEST(FilmOffset, NothingIsToldOfWhatTellsNothing) {
    // A film of another run: no offset is right.
    DriveSignals drive;
    FilmMotion motion;
    demo::Noise noise(8);
    double yaw = 0, turns = 0;
    for (int k = 0; k < 12000; ++k) {
        yaw += 0.1 * (noise.normal() - yaw);
        drive.yaw_radps.push_back(static_cast<float>(yaw));
        drive.speed_mps.push_back(static_cast<float>(40 + 10 * yaw));
    }
    for (int k = 0; k < 1500; ++k) {
        turns += 0.1 * (noise.normal() - turns);
        motion.time_s.push_back(0.04 * k);
        motion.across[1].push_back(static_cast<float>(turns));
        motion.change.push_back(static_cast<float>(0.2 + 0.02 * noise.normal()));
    }
    const OffsetFound other = find_offset(drive, &motion, nullptr);
    EXPECT_FALSE(other.at) << other.why;
    EXPECT_NE(other.why.find("cannot be told"), std::string::npos);
    // One that stands still.
    FilmMotion still = motion;
    std::fill(still.across[1].begin(), still.across[1].end(), 0.0F);
    std::fill(still.change.begin(), still.change.end(), 0.001F);
    EXPECT_FALSE(find_offset(drive, &still, nullptr).at);
    // A run that goes round and round alike: two places are as good as each other.
    DriveSignals round;
    for (int k = 0; k < 6000; ++k)
        round.yaw_radps.push_back(static_cast<float>(std::sin(0.01 * k) + std::sin(0.03 * k)));
    FilmMotion part;
    for (int k = 0; k < 1500; ++k) {
        part.time_s.push_back(0.05 * k);
        part.across[1].push_back(
            static_cast<float>(std::sin(0.01 * (k + 200)) + std::sin(0.03 * (k + 200)) + 0.1 * noise.normal()));
        part.change.push_back(0.2F);
    }
    EXPECT_FALSE(find_offset(round, &part, nullptr).at);
    // Too short, and nothing at all.
    FilmMotion little;
    little.time_s.assign(motion.time_s.begin(), motion.time_s.begin() + 200);
    little.across[1].assign(motion.across[1].begin(), motion.across[1].begin() + 200);
    little.change.assign(motion.change.begin(), motion.change.begin() + 200);
    EXPECT_FALSE(find_offset(drive, &little, nullptr).at);
    EXPECT_FALSE(find_offset(drive, nullptr, nullptr).at);
}

TEST(ProposePlace, AFilmThatFitsAnotherRunOfTheEventBetterIsNotProposed) {
    RENDAK_FIGURES_ONLY("FilmOffset.NothingIsToldOfWhatTellsNothing");
    const test::TempFolder folder;
    auto library = got(Library::open(folder / "library"));
    // The same driver drives the same three laps again, each of another pace.
    demo::RunPlan plan = test::MadeWorld::plan(3, 81, 0.05), again = plan;
    again.seed = 82;
    for (demo::RunPlan* it : {&plan, &again})
        for (std::size_t lap = 0; lap < it->laps.size(); ++lap)
            it->laps[lap].pace = 1 - 0.02 * static_cast<double>(lap);
    const auto filed = [&](const demo::RunPlan& it, const char* name) {
        const demo::Drive drive = demo::drive_run(drawn_circuit(), it.car, it);
        Recording recording = demo::main_logger(drawn_circuit(), it.car, it, drive, {.suspension = false});
        recording.source_name = std::string(name) + ".MF4";
        ImportOptions options;
        options.event = "A day";
        options.name = name;
        options.car = "Ours";
        return got(import_recording(*library, {std::move(recording), {}}, options)).run;
    };
    const RunId own = filed(plan, "Filmed"), other = filed(again, "Alike");
    const demo::Drive drive = demo::drive_run(drawn_circuit(), plan.car, plan);
    demo::CameraPlan camera;
    camera.width = 240;
    camera.height = 134;
    camera.sound = false;
    camera.shake_px = 0.8;
    camera.time_s = {drive.crossings_s[1] - 3, drive.crossings_s[2] + 3};
    const auto file = folder / "film.mp4";
    ASSERT_TRUE(demo::film_run(drawn_circuit(), drive,
                               demo::main_logger(drawn_circuit(), plan.car, plan, drive, {.suspension = false}), camera,
                               file));
    const KeptFilm film = got(add_film(*library, {{file}, "forward", "Ours", false}));
    const auto on = [&](RunId run) { return got(propose_place(*library, film, *got(load_run(*library, run)))); };
    const OffsetFound right = on(own), wrong = on(other);
    ASSERT_TRUE(right.at) << right.why;
    EXPECT_NEAR(right.at->offset_s, camera.time_s.begin, 0.08);
    EXPECT_FALSE(wrong.at) << wrong.at->offset_s;
    EXPECT_NE(wrong.why.find("fits Filmed better"), std::string::npos) << wrong.why;
    // Where somebody has put it there all the same, it is not proposed either.
    ASSERT_TRUE(place_film(*library, film.id, {other, {camera.time_s.begin, 1}, "by hand", {}}));
    const KeptFilm placed = got(kept_film(*library, film.id));
    EXPECT_FALSE(got(propose_place(*library, placed, *got(load_run(*library, other)))).at);
}

}  // namespace
}  // namespace rendak
