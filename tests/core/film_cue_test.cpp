// How well a film lies beside a run at every shift, on signals whose shift is known.
#include "core/video/film_cue.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

using namespace rendak;

namespace {

constexpr double step = DriveSignals::step_s;

std::size_t steps(double seconds) {
    return static_cast<std::size_t>(std::lround(seconds / step));
}

/// What a car does over minutes: turns of some seconds that never come again the same.
std::vector<float> turning(double seconds, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<double> push(0, 1);
    std::vector<float> out;
    double rate = 0, value = 0;
    for (std::size_t i = 0; i < steps(seconds); ++i) {
        rate += step * (push(random) * 8 - 1.5 * rate - 2 * value);
        value += step * rate;
        out.push_back(static_cast<float>(value));
    }
    return out;
}

std::vector<float> part_of(const std::vector<float>& whole, double from_s, double seconds) {
    const auto begin = whole.begin() + static_cast<std::ptrdiff_t>(steps(from_s));
    return {begin, begin + static_cast<std::ptrdiff_t>(steps(seconds))};
}

std::vector<float> noisy(std::vector<float> in, double noise, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<float> any(0, static_cast<float>(noise));
    for (float& x : in) x += any(random);
    return in;
}

std::ptrdiff_t best_lag(const FilmCue& cue) {
    return std::max_element(cue.z.begin(), cue.z.end()) - cue.z.begin() + cue.first_lag;
}

/// A film of a minute from 70 s of a run of three minutes on; the film's clock begins at 5, the run's at 100 s.
struct Turns {
    std::vector<float> data = turning(180, 1);
    std::unique_ptr<FilmCue> cue;
    explicit Turns(double noise = 0.1, double sign = 1, bool by_windows = true) {
        auto film = noisy(part_of(data, 70, 60), noise, 2);
        for (float& x : film) x *= static_cast<float>(sign);
        cue = alike_cue("turns", std::move(film), data, 5, 100, 0.5, sign, by_windows);
    }
};

}  // namespace

TEST(FilmCue, PutsFramesOnEvenSteps) {
    // Frames 50 ms apart, on steps of 25 ms: between two of them the value between theirs.
    const std::vector<double> times{1, 1.05, 1.1, 1.15};
    const auto on = on_even_steps(times, {0, 2, 4, 6}, 1);
    ASSERT_GE(on.size(), 6U);
    for (std::size_t i = 0; i < 5; ++i) EXPECT_NEAR(on[i], static_cast<double>(i), 1e-4) << i;
}

TEST(FilmCue, LeavesOutWhereThereIsNoFrame) {
    // A second without a frame is no straight line.
    std::vector<double> times;
    std::vector<float> values;
    for (int k = 0; k < 20; ++k) {
        times.push_back(k < 10 ? 0.04 * k : 2 + 0.04 * k);
        values.push_back(1);
    }
    const auto on = on_even_steps(times, values, 0);
    EXPECT_NEAR(on[steps(0.2)], 1, 1e-6);
    EXPECT_TRUE(std::isnan(on[steps(1.5)]));
    EXPECT_NEAR(on[steps(2.6)], 1, 1e-6);
}

TEST(FilmCue, CalmsWhatShakesAndKeepsWhatTurns) {
    std::vector<float> shaking, turning, steady(400, 3.0F);
    for (std::size_t i = 0; i < 400; ++i) {
        const double t = static_cast<double>(i) * step;
        shaking.push_back(static_cast<float>(std::sin(2 * M_PI * 12 * t)));
        turning.push_back(static_cast<float>(std::sin(2 * M_PI * 0.3 * t)));
    }
    const auto still = calmed(shaking), same = calmed(turning), level = calmed(steady);
    for (std::size_t i = 20; i < 380; ++i) {
        EXPECT_LT(std::abs(still[i]), 0.12);
        EXPECT_NEAR(same[i], turning[i], 0.05);
        EXPECT_NEAR(level[i], 3, 1e-4);
    }
}

TEST(FilmCue, FindsTheShiftOfTwoSignals) {
    for (const double sign : {1.0, -1.0}) {
        const Turns turns(0.1, sign);
        const auto lag = best_lag(*turns.cue);
        EXPECT_EQ(lag, static_cast<std::ptrdiff_t>(steps(70)));
        EXPECT_NEAR(turns.cue->finely(lag), 70 / step, 0.3);
        // Film time 5 is recording time 170.
        EXPECT_NEAR(turns.cue->offset_s(static_cast<double>(lag)), 165, 1e-9);
        EXPECT_NEAR(turns.cue->lag(165), static_cast<double>(lag), 1e-9);
        EXPECT_GT(turns.cue->fit_at(lag), 0.9);
        EXPECT_GT(turns.cue->z_at(lag), 8);
        EXPECT_TRUE(turns.cue->holds(lag));
    }
}

TEST(FilmCue, GoingAgainstEachOtherIsNotGoingAlong) {
    const Turns turns(0.1, 1);
    auto against = part_of(turns.data, 70, 60);
    for (float& x : against) x = -x;
    const auto cue = alike_cue("turns", against, turns.data, 0, 0, 0.5, 1, true);
    EXPECT_LT(cue->fit_at(static_cast<std::ptrdiff_t>(steps(70))), -0.9);
    EXPECT_LT(cue->fit_at(best_lag(*cue)), 0.8);
}

TEST(FilmCue, WindowsTellTheRightShiftFromItsNeighbours) {
    const Turns turns;
    const auto right = static_cast<std::ptrdiff_t>(steps(70));
    const Windows& at = turns.cue->windows_at(right);
    EXPECT_GE(at.count, 10) << "of fifteen windows of four seconds";
    EXPECT_GT(at.share, 0.9);
    EXPECT_NEAR(at.middle, 0, 0.5);
    EXPECT_LT(at.mean_square, 2.5);
    // Beside the right one the windows say by how much.
    const Windows& beside = turns.cue->windows_at(right - 8);
    EXPECT_NEAR(beside.middle, 8, 0.5);
    // Far from it they fit nowhere together.
    EXPECT_FALSE(turns.cue->holds(right + static_cast<std::ptrdiff_t>(steps(30))));
    EXPECT_EQ(&turns.cue->windows_at(right), &at) << "asked once, kept";
}

TEST(FilmCue, TheRightShiftIsBetterByManyErrors) {
    const Turns turns;
    const auto right = static_cast<std::ptrdiff_t>(steps(70)), wrong = right + static_cast<std::ptrdiff_t>(steps(31));
    const auto better = turns.cue->better_by(right, wrong);
    ASSERT_TRUE(better);
    EXPECT_GT(*better, 5);
    const auto worse = turns.cue->better_by(wrong, right);
    if (worse) {
        EXPECT_LT(*worse, 0);
    }
    // Without windows the two are compared by how well all of it fits.
    const Turns whole(0.1, 1, false);
    EXPECT_NEAR(*whole.cue->better_by(right, wrong), (whole.cue->z_at(right) - whole.cue->z_at(wrong)) / std::sqrt(2.0),
                1e-9);
    EXPECT_TRUE(whole.cue->holds(wrong)) << "nothing is known against it";
}

TEST(FilmCue, NoiseFindsNothing) {
    int sure = 0;
    for (unsigned seed = 10; seed < 20; ++seed) {
        const auto cue = alike_cue("turns", turning(60, seed), turning(180, seed + 100), 0, 0, 0.5, 1, true);
        const auto lag = best_lag(*cue);
        sure += cue->fit_at(lag) >= cue->least_fit() && cue->holds(lag) ? 1 : 0;
    }
    EXPECT_EQ(sure, 0);
}

TEST(FilmCue, CanBeKeptNearWhatIsKnown) {
    const Turns turns;
    turns.cue->keep_near(165, 2);
    EXPECT_EQ(best_lag(*turns.cue), static_cast<std::ptrdiff_t>(steps(70)));
    turns.cue->keep_near(100, 2);
    EXPECT_EQ(turns.cue->z_at(static_cast<std::ptrdiff_t>(steps(70))), 0);
    EXPECT_EQ(turns.cue->fit_at(static_cast<std::ptrdiff_t>(steps(70))), 0);
    // What lies outside all shifts is nothing, too.
    EXPECT_EQ(turns.cue->z_at(1'000'000), 0);
    EXPECT_EQ(turns.cue->z_at(-1'000'000), 0);
}

TEST(FilmCue, HolesInTheFilmAreLeftOut) {
    Turns turns;
    auto film = part_of(turns.data, 70, 60);
    for (std::size_t i = steps(20); i < steps(27); ++i) film[i] = std::nanf("");
    const auto cue = alike_cue("turns", film, turns.data, 5, 100, 0.5, 1, true);
    const auto lag = best_lag(*cue);
    EXPECT_EQ(lag, static_cast<std::ptrdiff_t>(steps(70)));
    EXPECT_LT(cue->windows_at(lag).count, turns.cue->windows_at(lag).count);
    EXPECT_TRUE(cue->holds(lag));
}

namespace {

/// Revs between 50 and 110 turns a second, as gears make them.
std::vector<float> revs(double seconds, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> length(1.2, 4.5), low(50, 70), high(95, 110);
    std::vector<float> out;
    while (out.size() < steps(seconds)) {
        const double lasts = length(random), from = low(random), to = high(random);
        for (double t = 0; t < lasts && out.size() < steps(seconds); t += step)
            out.push_back(static_cast<float>(from + (to - from) * t / lasts));
    }
    return out;
}

/// A sound that is loud at a multiple of the revs and rustles elsewhere.
EngineSound sound_of(const std::vector<float>& revs, double times, double rustle, unsigned seed) {
    std::mt19937 random(seed);
    std::normal_distribution<float> any(0, static_cast<float>(rustle));
    EngineSound out;
    out.loud.assign(EngineSound::pitches, std::vector<float>(revs.size(), 0));
    for (std::size_t i = 0; i < revs.size(); ++i) {
        const double pitch = 24 * std::log2(static_cast<double>(revs[i]) * times / EngineSound::lowest_hz);
        for (std::size_t row = 0; row < EngineSound::pitches; ++row) {
            const double off = static_cast<double>(row) - pitch;
            out.loud[row][i] = static_cast<float>(3 * std::exp(-off * off / 4)) + any(random);
        }
    }
    return out;
}

}  // namespace

TEST(FilmCue, HearsTheEngineAtWhicheverMultipleItSounds) {
    const auto data = revs(150, 3);
    for (const double times : {1.0, 2.0, 3.0}) {
        const EngineSound sound = sound_of(part_of(data, 40, 50), times, 0.5, 4);
        const auto cue = sound_cue(sound, data, 0);
        const auto lag = best_lag(*cue);
        EXPECT_NEAR(static_cast<double>(lag), 40 / step, 1) << times;
        EXPECT_GT(cue->fit_at(lag), cue->least_fit()) << times;
        EXPECT_TRUE(cue->holds(lag)) << times;
        // The middle of a moment's window is what is heard then.
        EXPECT_NEAR(cue->offset_s(static_cast<double>(lag)), 40 - EngineSound::window_s / 2, 2 * step) << times;
        const auto better = cue->better_by(lag, lag + static_cast<std::ptrdiff_t>(steps(20)));
        ASSERT_TRUE(better);
        EXPECT_GT(*better, 4) << times;
    }
}

TEST(FilmCue, AnEngineThatNeverChangesItsPitchTellsNothing) {
    const std::vector<float> steady(steps(120), 80.0F);
    const EngineSound sound = sound_of(std::vector<float>(steps(40), 80.0F), 1, 0.5, 5);
    const auto cue = sound_cue(sound, steady, 0);
    EXPECT_TRUE(cue->z.empty());
    EXPECT_FALSE(cue->holds(0));
}

TEST(FilmCue, AnotherEngineIsNotHeard) {
    int sure = 0;
    for (unsigned seed = 30; seed < 34; ++seed) {
        const EngineSound sound = sound_of(revs(50, seed), 2, 0.5, seed);
        const auto cue = sound_cue(sound, revs(150, seed + 50), 0);
        const auto lag = best_lag(*cue);
        sure += cue->fit_at(lag) >= cue->least_fit() && cue->holds(lag) ? 1 : 0;
    }
    EXPECT_EQ(sure, 0);
}
