#include "core/chassis/stretch_spectra.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/set_difference.h"
#include "core/base/text.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/samples.h"

namespace rendak {
namespace {

/// A stretch has to be so much longer than a segment that it is on quicker laps too.
constexpr double short_share = 1.05;

/// One curve: which channel it takes on a stretch.
struct Curve {
    std::string title;
    std::string left, right;  ///< the channel where the corner turns left, or right; alike for one wheel
};

std::vector<Curve> curves_of(const SpectrumWish& wish, const PreparedLap& lap) {
    const auto wheel = [&](std::size_t w) { return wish.channel + "_" + wheel_corners[w]; };
    const bool by_wheel = std::any_of(wheel_corners.begin(), wheel_corners.end(), [&](const char* corner) {
        return lap.recording->find(wish.channel + "_" + corner) != nullptr;
    });
    if (!by_wheel) return {{wish.channel, wish.channel, wish.channel}};
    std::vector<Curve> out;
    for (const std::size_t axle : {0U, 2U}) {
        if (axle == 0 ? !wish.front : !wish.rear) continue;
        if (wish.wheels == WheelChoice::each) {
            for (const std::size_t w : {axle, axle + 1}) {
                std::string name = wheel_corners[w];
                std::transform(name.begin(), name.end(), name.begin(),
                               [](char c) { return static_cast<char>(c - 32); });
                out.push_back({name, wheel(w), wheel(w)});
            }
        } else {
            const bool loaded = wish.wheels == WheelChoice::loaded;
            const std::string outer_of_left = wheel(axle + (loaded ? 1 : 0)), other = wheel(axle + (loaded ? 0 : 1));
            out.push_back({std::string(axle == 0 ? "front" : "rear") + (loaded ? ", loaded" : ", unloaded"),
                           outer_of_left, other});
        }
    }
    return out;
}

void average(LapSpectra& curve) {
    std::vector<const Spectrum*> told;
    for (const Spectrum& lap : curve.laps)
        if (lap.known()) told.push_back(&lap);
    if (told.empty()) return;
    curve.mean = *told.front();
    curve.mean.segments = 0;
    for (const Spectrum* lap : told) curve.mean.segments += lap->segments;
    for (std::size_t i = 0; i < curve.mean.psd.size(); ++i) {
        std::vector<double> here;
        for (const Spectrum* lap : told) here.push_back(lap->psd[i]);
        curve.mean.psd[i] = mean_value(here);
        const auto likely = likely_mean(here);
        if (!likely) continue;
        curve.low.push_back(std::max(0.0, likely->begin));
        curve.high.push_back(likely->end);
    }
}

}  // namespace

std::vector<double> LapSpectra::told_bands() const {
    return finite_values(bands);
}

StretchKind proposed_stretches(const SpectrumWish& wish) {
    return wish.front && !wish.rear ? StretchKind::corners : StretchKind::exits;
}

Result<std::vector<LapSpectra>> stretch_spectra(std::span<const PreparedLap> laps, std::span<const Stretch> stretches,
                                                const SpectrumWish& wish, const JobContext& job) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    if (stretches.empty())
        return fail(ErrorCode::not_found, "There is no such stretch on this track. Choose another kind, or places.");
    const std::vector<Curve> curves = curves_of(wish, laps.front());
    std::vector<LapSpectra> out;
    double longest = 0;
    for (const Stretch& stretch : stretches) longest = std::max(longest, stretch.time_s);
    std::string without;  // a channel that is nowhere
    for (const Curve& curve : curves) {
        LapSpectra made{
            curve.title, std::vector<Spectrum>(laps.size()), std::vector<double>(laps.size(), std::nan("")), {}, {},
            {}};
        // Laps of one rate are told apart from those of another: their frequencies are not the same.
        double rate_hz = 0;
        for (const PreparedLap& lap : laps) {
            for (const std::string* channel : {&curve.left, &curve.right})
                if (const Channel* found = lap.recording->find(*channel))
                    rate_hz = std::max(rate_hz, found->clock.mean_rate_hz());
            if (rate_hz > 0) break;
        }
        if (!(rate_hz > 0)) {
            if (without.empty()) without = curve.left;
            continue;
        }
        if (wish.band_hz.end > rate_hz / 2 * (1 + 1e-6))
            return fail(ErrorCode::bad_input,
                        "It is logged at " + fixed(rate_hz, 0) + " Hz, which shows nothing above " +
                            fixed(rate_hz / 2, 1) + " Hz. Choose a band that ends there.",
                        curve.left);
        const std::size_t segment = segment_samples(wish.segment_s, rate_hz);
        const double segment_s = static_cast<double>(segment) / rate_hz;
        const auto each = [&](std::size_t k) {
            Welch welch(segment, rate_hz, wish.detrend);
            std::size_t wanted = 0, taken = 0;
            for (const Stretch& stretch : stretches) {
                // As many as half an overlap makes of the reference lap's stretch; none where that is too short.
                if (stretch.time_s < short_share * segment_s) continue;
                const double halves = std::max(0.0, std::round(2 * (stretch.time_s / segment_s - 1)));
                const std::size_t segments = 1 + static_cast<std::size_t>(halves);
                wanted += segments;
                SampledStretch part =
                    sampled(*laps[k].recording, stretch.left ? curve.left : curve.right, time_on(laps[k], stretch));
                if (std::abs(part.rate_hz - rate_hz) > 1e-3 * rate_hz) continue;
                leave_out_stuck(part);
                taken += welch.add_spread(part.values, segments);
            }
            // A lap that lacks a part would be held against laps that have it.
            if (taken < wanted) return;
            made.laps[k] = welch.spectrum();
            made.bands[k] = made.laps[k].band_rms(wish.band_hz);
        };
        for (std::size_t k = 0; k < laps.size(); ++k) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            each(k);
        }
        average(made);
        if (made.known()) out.push_back(std::move(made));
    }
    if (!out.empty()) return out;
    if (!without.empty()) return fail(ErrorCode::not_found, "None of these laps has the channel it needs.", without);
    return fail(ErrorCode::not_found, "No stretch is as long as a segment of " + fixed(wish.segment_s, 2) +
                                          " s (the longest takes " + fixed(longest, 2) +
                                          " s), or samples are missing. Choose a shorter segment.");
}

std::vector<int> where_they_differ(const LapSpectra& a, const LapSpectra& b) {
    std::vector<int> out(std::min(a.mean.psd.size(), b.mean.psd.size()), 0);
    if (std::abs(a.mean.step_hz - b.mean.step_hz) > 1e-9) return std::vector<int>(out.size(), 0);
    for (std::size_t i = 0; i < out.size(); ++i) {
        std::vector<double> left, right;
        for (const Spectrum& lap : a.laps)
            if (lap.known()) left.push_back(lap.psd[i]);
        for (const Spectrum& lap : b.laps)
            if (lap.known()) right.push_back(lap.psd[i]);
        const auto likely = likely_difference(left, right);
        if (!likely || likely->contains(0)) continue;
        out[i] = likely->begin > 0 ? 1 : -1;
    }
    return out;
}

}  // namespace rendak
