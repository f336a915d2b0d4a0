#include "core/chassis/dampers.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/set_difference.h"
#include "core/base/text.h"
#include "core/chassis/damper_speed.h"
#include "core/chassis/resonance.h"
#include "core/chassis/stretch_spectra.h"

namespace rendak {
namespace {

/// How the body of a wheel's corner swings, from the spectra of its travel over whole laps.
void tell_damping(DamperFigures& wheel, std::span<const PreparedLap> laps) {
    const std::string channel = "damper_" + wheel.wheel;
    const Stretch whole{"", {0, laps.front().map.length_m()}, 0, false, quickest_of(laps).time_s()};
    SpectrumWish wish;
    wish.channel = channel;
    wish.segment_s = 4;
    const auto spectra = stretch_spectra(laps, {&whole, 1}, wish);
    if (!spectra) return;
    const auto all = resonance_of(spectra->front().mean);
    if (!all) return;
    wheel.ride_hz = all->hz;
    wheel.damping = all->damping;
    std::vector<double> each;
    for (const Spectrum& lap : spectra->front().laps) {
        if (!lap.known()) continue;
        if (const auto one = resonance_of(lap)) each.push_back(one->damping);
    }
    double low = all->damping, high = all->damping;
    if (const auto likely = likely_mean(each)) {
        // As wide as the laps' mean is unsure, about what all of them together say.
        low -= likely->length() / 2;
        high += likely->length() / 2;
        wheel.damping_likely = Interval{low, high};
    }
    using Says = DamperFigures::Says;
    wheel.says = high < lively_below ? Says::lively : low > dead_above ? Says::dead : Says::fine;
}

}  // namespace

const char* says_name(DamperFigures::Says says) {
    switch (says) {
        case DamperFigures::Says::lively:
            return "too lively";
        case DamperFigures::Says::dead:
            return "too dead";
        case DamperFigures::Says::fine:
            return "neither";
        case DamperFigures::Says::nothing:
            break;
    }
    return "cannot be told";
}

std::string damper_words(const DamperFigures& wheel) {
    if (!wheel.damping) return "How the body swings here cannot be told: the spectrum of the travel has no such shape.";
    const std::string measured = "It swings at " + fixed(*wheel.ride_hz, 1) + " Hz with " +
                                 fixed(100 * *wheel.damping, 0) + " % of critical damping";
    switch (wheel.says) {
        case DamperFigures::Says::lively:
            return measured + ": too lively, it goes on swinging behind a bump and the tyre's load with it.";
        case DamperFigures::Says::dead:
            return measured + ": too dead, the wheel cannot follow the road and the tyre is pressed and let go.";
        default:
            return measured + ".";
    }
}

std::optional<std::array<double, DamperScale::bins>> axle_shares(std::span<const DamperFigures> wheels, bool front) {
    std::array<double, DamperScale::bins> out{};
    double told = 0;
    for (const DamperFigures& wheel : wheels) told += (wheel.wheel[0] == 'f') == front ? 1 : 0;
    if (told == 0) return std::nullopt;
    for (const DamperFigures& wheel : wheels) {
        if ((wheel.wheel[0] == 'f') != front) continue;
        for (std::size_t k = 0; k < out.size(); ++k) out[k] += wheel.share[k] / told;
    }
    return out;
}

Result<std::vector<DamperFigures>> dampers_of(std::span<const PreparedLap> laps, std::span<const Stretch> stretches,
                                              double fast_mps, const JobContext& job) {
    if (laps.empty()) return fail(ErrorCode::not_found, "There is no lap to look at.");
    if (stretches.empty())
        return fail(ErrorCode::not_found, "There is no such stretch on this track. Choose another kind, or places.");
    if (!(fast_mps > 0)) return fail(ErrorCode::bad_input, "The border of slow and fast must be above 0 mm/s.");
    std::vector<DamperFigures> out;
    for (const char* corner : wheel_corners) {
        DamperFigures wheel;
        wheel.wheel = corner;
        std::vector<double> all;
        double bump = 0, rebound = 0, bumps = 0, rebounds = 0;
        for (const PreparedLap& lap : laps) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            const DamperSpeed speed = damper_speed(lap, std::string("damper_") + corner);
            if (!speed.known()) continue;
            DamperShares shares;
            double count = 0, squares = 0;
            for (const Stretch& stretch : stretches) {
                for (const float sample : speed.samples.during(time_on(lap, stretch))) {
                    if (!std::isfinite(sample)) continue;
                    const auto v = static_cast<double>(sample);
                    all.push_back(v);
                    ++count;
                    squares += v * v;
                    (v > fast_mps     ? shares.bump_fast
                     : v > 0          ? shares.bump_slow
                     : v >= -fast_mps ? shares.rebound_slow
                                      : shares.rebound_fast) += 1;
                    (v > 0 ? bump : rebound) += std::abs(v);
                    (v > 0 ? bumps : rebounds) += 1;
                }
            }
            if (count == 0) continue;
            for (double* share : {&shares.bump_fast, &shares.bump_slow, &shares.rebound_slow, &shares.rebound_fast})
                *share /= count;
            wheel.laps.push_back(shares);
            wheel.rms_mps.push_back(std::sqrt(squares / count));
        }
        if (all.empty()) continue;
        const auto n = static_cast<double>(all.size());
        for (const double v : all) {
            if (std::abs(v) > DamperScale::end_mps) wheel.beyond += 1 / n;
            wheel.share[DamperScale::bin_of(v)] += 1 / n;
        }
        for (const DamperShares& lap : wheel.laps) {
            const auto laps_told = static_cast<double>(wheel.laps.size());
            wheel.shares.bump_fast += lap.bump_fast / laps_told;
            wheel.shares.bump_slow += lap.bump_slow / laps_told;
            wheel.shares.rebound_slow += lap.rebound_slow / laps_told;
            wheel.shares.rebound_fast += lap.rebound_fast / laps_told;
        }
        wheel.bump_mps = bumps > 0 ? bump / bumps : 0;
        wheel.rebound_mps = rebounds > 0 ? rebound / rebounds : 0;
        const auto at = [&](double share) {
            const auto place = all.begin() + static_cast<std::ptrdiff_t>(share * (n - 1));
            std::nth_element(all.begin(), place, all.end());
            return *place;
        };
        wheel.fastest_bump_mps = std::max(0.0, at(0.99));
        wheel.fastest_rebound_mps = std::max(0.0, -at(0.01));
        tell_damping(wheel, laps);
        out.push_back(std::move(wheel));
    }
    if (out.empty()) return fail(ErrorCode::not_found, "No damper travel is logged at 50 Hz or more in these laps.");
    return out;
}

}  // namespace rendak
