#include <gtest/gtest.h>

#include <cmath>

#include "core/track/path.h"
#include "core/track/smoother.h"
#include "demo/noise.h"
#include "tests/support/figures_only.h"

using namespace rendak;

namespace {

/// A car on a circle of 100 m radius at 30 m/s.
Point on_circle(double t) {
    return {100 * std::cos(0.3 * t), 100 * std::sin(0.3 * t)};
}

std::vector<Fix> circle_fixes(double noise_m, double rate_hz = 20, double seconds = 60) {
    demo::Noise noise(4);
    std::vector<Fix> fixes;
    for (int i = 0; i < seconds * rate_hz; ++i) {
        const double t = i / rate_hz;
        fixes.push_back({t, on_circle(t) + Point{noise_m * noise.normal(), noise_m * noise.normal()}, true});
    }
    return fixes;
}

double rms_error(const Path& path) {
    double sum = 0;
    for (std::size_t i = 0; i < path.size(); ++i) {
        const Point d = path.position[i] - on_circle(path.time_s[i]);
        sum += dot(d, d);
    }
    return std::sqrt(sum / static_cast<double>(path.size()));
}

}  // namespace

TEST(Smoother, TakesNoiseOutAndEstimatesIt) {
    const Path path = smooth_path({57, 4}, circle_fixes(0.3));
    EXPECT_NEAR(path.noise_m, 0.3, 0.05);
    EXPECT_LT(rms_error(path), 0.5 * 0.3 * std::sqrt(2.0)) << "at most half of the raw scatter is left";
}

TEST(Smoother, LeavesCleanFixesAlone) {
    const Path path = smooth_path({57, 4}, circle_fixes(0));
    EXPECT_LT(rms_error(path), 0.01);
    EXPECT_NEAR(length(path.velocity[path.size() / 2]), 30, 0.05);
}

TEST(Smoother, HoursAreSmoothedInBlocksThatNobodySees) {
    RENDAK_FIGURES_ONLY("Smoother and Alignment");
    // Four hours at 20 Hz are several blocks; each hour of them by itself is one.
    auto fixes = circle_fixes(0.2, 20, 4 * 3600);
    for (std::size_t i = 99'900; i < 100'100; ++i) fixes[i].valid = false;  // a drop-out over the edge of a block
    const Path whole = smooth_path({57, 4}, fixes);
    EXPECT_LT(rms_error(smooth_path({57, 4}, circle_fixes(0.2, 20, 4 * 3600))), 0.5 * 0.2 * std::sqrt(2.0));
    for (const std::size_t middle : {100'000, 200'000}) {
        const std::size_t from = middle - 50'000;
        const Path part = smooth_path({57, 4}, std::span(fixes).subspan(from, 100'000));
        const std::size_t at = whole.index_before(part.time_s.front() + 1e-9);
        double worst = 0;
        for (std::size_t i = 5'000; i + 5'000 < part.size(); ++i)
            worst = std::max(worst, length(part.position[i] - whole.position[at + i]));
        EXPECT_LT(worst, 0.06) << "about " << middle << ": two smoothings of the same fixes agree";
    }
}

TEST(Smoother, RejectsOutliers) {
    auto fixes = circle_fixes(0.1);
    for (std::size_t i = 100; i < fixes.size(); i += 150) fixes[i].position = fixes[i].position + Point{25, -40};
    EXPECT_LT(rms_error(smooth_path({57, 4}, fixes)), 0.15);
}

TEST(Smoother, FollowsAJumpThatLasts) {
    auto fixes = circle_fixes(0.05);
    for (std::size_t i = 600; i < fixes.size(); ++i) fixes[i].position = fixes[i].position + Point{8, 0};
    const Path path = smooth_path({57, 4}, fixes);
    const Point off = path.position.back() - on_circle(path.time_s.back());
    EXPECT_NEAR(off.x, 8, 0.5) << "a lasting shift is real and must not be refused for ever";
}

TEST(Smoother, FlagsDropOutsAndOnlyThose) {
    auto fixes = circle_fixes(0.1);
    for (std::size_t i = 400; i < 440; ++i) fixes[i].valid = false;  // 2 s
    fixes[800].valid = false;                                        // a single one is no drop-out
    const Path path = smooth_path({57, 4}, fixes);
    for (std::size_t i = 0; i < path.size(); ++i) {
        const bool inside = path.time_s[i] > 19.99 && path.time_s[i] < 21.96;
        EXPECT_EQ(path.bridged[i] != 0, inside) << path.time_s[i];
    }
}

TEST(Smoother, FillsSlowReceiversIn) {
    const Path path = smooth_path({57, 4}, circle_fixes(0, 5));
    for (std::size_t i = 1; i < path.size(); ++i) ASSERT_LT(path.time_s[i] - path.time_s[i - 1], 0.0501);
    EXPECT_LT(rms_error(path), 0.05);
}

TEST(Smoother, QuickReceiversGiveNoMorePointsThanAPathNeeds) {
    for (const double rate_hz : {40.0, 50.0, 100.0, 200.0}) {
        auto fixes = circle_fixes(0.1, rate_hz);
        const auto at = [&](double t) { return static_cast<std::size_t>(std::lround(t * rate_hz)); };
        for (std::size_t i = at(20); i < at(22); ++i) fixes[i].valid = false;
        const Path path = smooth_path({57, 4}, fixes);
        EXPECT_LT(path.size(), 60 / 0.025 + 4) << rate_hz;
        double travelled = 0;
        for (std::size_t i = 1; i < path.size(); ++i) {
            ASSERT_LT(path.time_s[i] - path.time_s[i - 1], 0.0501) << rate_hz;
            travelled += length(path.position[i] - path.position[i - 1]);
            const bool inside = path.time_s[i] > 20 - 1e-9 && path.time_s[i] < 22 - 1 / rate_hz + 1e-9;
            EXPECT_EQ(path.bridged[i] != 0, inside) << rate_hz << " Hz at " << path.time_s[i];
        }
        EXPECT_EQ(path.time_s.front(), fixes.front().time_s);
        EXPECT_EQ(path.time_s.back(), fixes.back().time_s);
        EXPECT_NEAR(path.distance_m.back(), travelled, 0.0005 * travelled);
        // Between its points it is where it would be with all of them.
        double sum = 0;
        for (double t = 1; t < 19; t += 0.0037) {
            const Point off = path.position_at(t) - on_circle(t);
            sum += dot(off, off);
        }
        EXPECT_LT(std::sqrt(sum / (18 / 0.0037)), 0.5 * 0.1 * std::sqrt(2.0)) << rate_hz;
    }
    // Without noise there is only what leaving out costs.
    const Path clean = smooth_path({57, 4}, circle_fixes(0, 200));
    double worst = 0;
    for (double t = 5; t < 55; t += 0.0037) worst = std::max(worst, length(clean.position_at(t) - on_circle(t)));
    EXPECT_LT(worst, 2e-4);
}

TEST(Smoother, FixesThatAreAskedForByPiecesGiveThePathOfAll) {
    auto fixes = circle_fixes(0.2, 20, 3 * 3600);                          // three pieces
    for (std::size_t i = 79'000; i < 83'000; ++i) fixes[i].valid = false;  // a drop-out over where pieces meet
    std::vector<Point> hints(fixes.size());
    for (std::size_t i = 0; i < hints.size(); ++i)
        hints[i] = {-30 * std::sin(0.3 * fixes[i].time_s), 30 * std::cos(0.3 * fixes[i].time_s)};
    const Path whole = smooth_path({57, 4}, fixes, hints);
    std::size_t let_go = 0, most = 0;
    const Fixes asked(
        fixes.size(), [&](std::size_t i) { return fixes[i]; }, [&] { ++let_go; });
    const Path path = smooth_path({57, 4}, asked, survey(asked), [&](std::span<const Fix> piece) {
        most = std::max(most, piece.size());
        EXPECT_TRUE(piece.front().valid && piece.back().valid) << "a gap is bridged from both of its ends";
        std::vector<Point> out;
        for (const Fix& fix : piece) out.push_back({-30 * std::sin(0.3 * fix.time_s), 30 * std::cos(0.3 * fix.time_s)});
        return out;
    });
    EXPECT_GT(let_go, 4U);
    EXPECT_LT(most, 100'000U);
    ASSERT_EQ(path.size(), whole.size());
    for (std::size_t i = 0; i < path.size(); i += 7) {
        ASSERT_EQ(path.time_s[i], whole.time_s[i]);
        ASSERT_LT(length(path.position[i] - whole.position[i]), 1e-6) << path.time_s[i];
    }
}

TEST(Smoother, ASurveyFindsWhereFixesBeginAndEnd) {
    auto fixes = circle_fixes(0.3, 20, 30);
    for (std::size_t i = 0; i < 7; ++i) fixes[i].valid = false;
    fixes.back().valid = false;
    const FixSurvey about = survey(Fixes(fixes));
    EXPECT_EQ(about.first, 7U);
    EXPECT_EQ(about.behind, fixes.size() - 1);
    EXPECT_EQ(about.valid, fixes.size() - 8);
    EXPECT_NEAR(about.noise_m, 0.3, 0.06);
    for (Fix& fix : fixes) fix.valid = false;
    EXPECT_EQ(survey(Fixes(fixes)).valid, 0U);
    EXPECT_EQ(survey(Fixes(fixes)).behind, 0U);
}

TEST(Smoother, NothingAndOneFix) {
    EXPECT_EQ(smooth_path({57, 4}, {}).size(), 0U);
    const Fix one{0, {1, 2}, true};
    EXPECT_EQ(smooth_path({57, 4}, std::span(&one, 1)).size(), 0U);
}
