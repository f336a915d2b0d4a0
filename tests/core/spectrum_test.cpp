#include "core/signal/spectrum.h"

#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>

#include "core/analysis/chance.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/resonance.h"
#include "tests/support/own_build.h"

namespace rendak {
namespace {

const nlohmann::json& stored() {
    static const auto all = nlohmann::json::parse(std::ifstream(test::tests_folder() / "fixtures/spectrum_scipy.json"));
    return all;
}

std::vector<float> noise(std::size_t n, unsigned seed, double sd = 1) {
    std::mt19937 engine(seed);
    std::normal_distribution<double> normal(0, sd);
    std::vector<float> out(n);
    for (float& x : out) x = static_cast<float>(normal(engine));
    return out;
}

double mean_square(const std::vector<float>& x) {
    double mean = 0, sum = 0;
    for (const float v : x) mean += static_cast<double>(v) / static_cast<double>(x.size());
    for (const float v : x) sum += (static_cast<double>(v) - mean) * (static_cast<double>(v) - mean);
    return sum / static_cast<double>(x.size());
}

TEST(Spectrum, IsWhatSciPySays) {
    const auto x = stored()["x"].get<std::vector<float>>();
    const double rate = stored()["rate_hz"];
    ASSERT_EQ(stored()["spectra"].size(), 12U);
    for (const auto& one : stored()["spectra"]) {
        const std::string name = one["detrend"];
        const Detrend detrend = name == "none" ? Detrend::none : name == "mean" ? Detrend::mean : Detrend::line;
        const Spectrum made = spectrum_of(x, rate, one["segment"], detrend);
        const auto psd = one["psd"].get<std::vector<double>>();
        ASSERT_EQ(made.psd.size(), psd.size());
        EXPECT_NEAR(made.step_hz, one["step_hz"].get<double>(), 1e-12);
        const double most = *std::max_element(psd.begin(), psd.end());
        for (std::size_t i = 0; i < psd.size(); ++i)
            EXPECT_NEAR(made.psd[i], psd[i], 2e-6 * most + 1e-5 * psd[i]) << one["segment"] << " " << name << " " << i;
    }
}

TEST(Spectrum, KeepsTheEnergy) {
    // Parseval: what moves at all frequencies together is the mean square of the signal.
    for (const std::size_t segment : {64U, 250U, 1000U}) {
        const auto x = noise(200'000, 3, 2.5);
        const Spectrum made = spectrum_of(x, 500, segment, Detrend::none);
        EXPECT_NEAR(made.band_rms({0, 250}) / std::sqrt(mean_square(x)), 1, 0.01) << segment;
        // White noise: a band has its share.
        EXPECT_NEAR(made.band_rms({50, 100}) / std::sqrt(mean_square(x) / 5), 1, 0.04) << segment;
    }
}

TEST(Spectrum, ASineHasItsRootMeanSquare) {
    std::vector<float> x(5000);
    for (std::size_t i = 0; i < x.size(); ++i)
        x[i] = static_cast<float>(4 * std::sin(2 * std::numbers::pi * 12 * static_cast<double>(i) / 500) + 7);
    const Spectrum made = spectrum_of(x, 500, 500, Detrend::line);
    EXPECT_NEAR(made.band_rms({10, 14}), 4 / std::sqrt(2.0), 0.002);
    EXPECT_NEAR(made.band_rms({20, 250}), 0, 1e-3);
    // A band's borders take their share of a step.
    EXPECT_NEAR(made.band_rms({11, 12}) * made.band_rms({11, 12}) + made.band_rms({12, 13}) * made.band_rms({12, 13}),
                made.band_rms({11, 13}) * made.band_rms({11, 13}), 1e-9);
}

TEST(Spectrum, MissingSamplesLeaveTheirSegmentsOut) {
    auto x = noise(2000, 4);
    x[700] = std::nanf("");
    const Spectrum with = spectrum_of(x, 100, 200, Detrend::line);
    EXPECT_EQ(with.segments, 19U - 2U);
    for (const double value : with.psd) EXPECT_TRUE(std::isfinite(value));
    std::vector<float> nothing(1000, std::nanf(""));
    EXPECT_FALSE(spectrum_of(nothing, 100, 200, Detrend::none).known());
    EXPECT_FALSE(spectrum_of({x.data(), 199}, 100, 200, Detrend::none).known());
    EXPECT_TRUE(std::isnan(spectrum_of(nothing, 100, 200, Detrend::none).band_rms({1, 10})));
}

TEST(Spectrum, SegmentsAreSpreadOverAShortStretch) {
    const auto x = noise(500, 5);
    Welch a(200, 100, Detrend::line), b(200, 100, Detrend::line);
    EXPECT_EQ(a.add_spread(x, 4), 4U);
    b.add({x.data(), 200});
    for (const std::size_t from : {100U, 200U, 300U}) b.add({x.data() + from, 200});
    for (std::size_t i = 0; i < a.spectrum().psd.size(); ++i)
        EXPECT_DOUBLE_EQ(a.spectrum().psd[i], b.spectrum().psd[i]) << i;
    EXPECT_EQ(a.add_spread({x.data(), 150}, 2), 0U) << "shorter than a segment";
    a.clear();
    EXPECT_FALSE(a.spectrum().known());
}

TEST(Spectrum, SegmentsHaveQuickLengths) {
    EXPECT_EQ(segment_samples(1, 500), 500U);
    EXPECT_EQ(segment_samples(1, 200), 200U);
    EXPECT_EQ(segment_samples(1.01, 503), 512U);  // 508.03: 512 is nearer than 500
    EXPECT_EQ(segment_samples(0.001, 20), 8U);
    for (const double seconds : {0.3, 0.77, 1.9, 4.1}) {
        std::size_t n = segment_samples(seconds, 97);
        EXPECT_NEAR(static_cast<double>(n), seconds * 97, 0.1 * seconds * 97 + 4);
        EXPECT_EQ(n % 2, 0U);
        for (const std::size_t factor : {2U, 3U, 5U})
            while (n % factor == 0) n /= factor;
        EXPECT_EQ(n, 1U);
    }
}

TEST(Chance, IsWhatSciPySays) {
    const auto& chances = stored()["chances"];
    for (const auto& one : chances["t"])
        EXPECT_NEAR(t_beyond(one["beyond"], one["degrees"]) / one["t"].get<double>(), 1, 1e-8) << one;
    for (const auto& one : chances["f"])
        EXPECT_NEAR(f_chance(one["f"], one["between"], one["within"]) / one["chance"].get<double>(), 1, 1e-9) << one;
    const auto groups = chances["groups"].get<std::vector<std::vector<double>>>();
    EXPECT_NEAR(one_way(groups).chance, chances["groups_chance"].get<double>(), 1e-12);
    EXPECT_EQ(one_way(groups).within, 7);
    // The interval of a mean is Student's, as SciPy's t of the same degrees.
    const std::vector<double> values{3, 5, 10};
    const auto likely = likely_mean(values);
    ASSERT_TRUE(likely);
    EXPECT_NEAR(likely->end - 6, t_beyond(0.025, 2) * std::sqrt(13.0 / 3), 0.01);
    EXPECT_NEAR(likely->begin + likely->end, 12, 1e-12);
    EXPECT_FALSE(likely_mean({3}));
    // Other causes are added in squares, about the same middle.
    const auto wider = widened(Interval{7, 13}, {4.0, 12.0});
    EXPECT_DOUBLE_EQ(wider->begin, 10 - 13);
    EXPECT_DOUBLE_EQ(wider->end, 10 + 13);
    EXPECT_FALSE(widened(std::nullopt, {4.0}));
    EXPECT_EQ(finite_values({1, std::nan(""), 2, INFINITY}), (std::vector<double>{1, 2}));
    // Nothing to tell it by.
    EXPECT_EQ(one_way({{1.0}, {2.0}}).chance, 1);
    EXPECT_EQ(one_way({}).chance, 1);
    EXPECT_EQ(one_way({{1.0, 2.0, 3.0}}).chance, 1);
}

TEST(Resonance, IsFoundInTheSpectrumOfOneMass) {
    // A mass on spring and damper over a road whose slope is white, step by step.
    for (const double damping : {0.12, 0.3, 0.6}) {
        const double f0 = 3.2, w = 2 * std::numbers::pi * f0, step = 1.0 / 500;
        const auto push = noise(300'000, 8, 1);
        std::vector<float> travel;
        double x = 0, v = 0;
        for (const float p : push) {
            v += step * (static_cast<double>(p) / std::sqrt(step) - w * w * x - 2 * damping * w * v);
            x += step * v;
            travel.push_back(static_cast<float>(x));
        }
        const auto found = resonance_of(spectrum_of(travel, 500, 2000, Detrend::line));
        ASSERT_TRUE(found) << damping;
        EXPECT_NEAR(found->hz, f0, 0.12) << damping;
        EXPECT_NEAR(found->damping / damping, 1, 0.12) << damping;
    }
    // What has no such shape is not called one.
    EXPECT_FALSE(resonance_of(spectrum_of(noise(100'000, 9), 500, 2000, Detrend::line)));
    EXPECT_FALSE(resonance_of(Spectrum{}));
}

}  // namespace
}  // namespace rendak
