#include "core/video/engine_sound.h"

#include <algorithm>
#include <cmath>

#include "core/signal/spectrum.h"

namespace rendak {
namespace {

constexpr int rate_hz = 8000;
constexpr double block_s = 240;

double pitch_hz(double number) {
    return EngineSound::lowest_hz * std::exp2(number / 24);
}

}  // namespace

EngineSound engine_sound(std::span<const float> samples, int rate, double begin_s) {
    EngineSound out;
    out.begin_s = begin_s;
    const std::size_t window = segment_samples(EngineSound::window_s, rate);
    const auto hop = static_cast<std::size_t>(std::lround(EngineSound::step_s * rate));
    if (samples.size() < window) return out;
    const std::size_t moments = (samples.size() - window) / hop + 1;
    out.loud.assign(EngineSound::pitches, std::vector<float>(moments, 0.0F));
    Welch welch(window, rate, Detrend::mean);
    for (std::size_t m = 0; m < moments; ++m) {
        welch.clear();
        welch.add(samples.subspan(m * hop, window));
        const Spectrum spectrum = welch.spectrum();
        if (!spectrum.known()) continue;
        for (std::size_t p = 0; p < EngineSound::pitches; ++p) {
            // The mean of a pitch as wide as several steps; between two steps where it is narrower.
            const double low = pitch_hz(static_cast<double>(p) - 0.5), high = pitch_hz(static_cast<double>(p) + 0.5);
            const double at = (low + high) / 2 / spectrum.step_hz, below = std::floor(at);
            const auto first = static_cast<std::size_t>(std::ceil(low / spectrum.step_hz));
            const auto last = static_cast<std::size_t>(std::floor(high / spectrum.step_hz));
            double mean = 0;
            if (last >= first + 2 && last < spectrum.psd.size()) {
                for (std::size_t i = first; i <= last; ++i)
                    mean += spectrum.psd[i] / static_cast<double>(last - first + 1);
            } else if (const auto b = static_cast<std::size_t>(below); b + 1 < spectrum.psd.size()) {
                mean = spectrum.psd[b] * (1 - at + below) + spectrum.psd[b + 1] * (at - below);
            }
            out.loud[p][m] = static_cast<float>(std::log10(mean + 1e-14));
        }
    }
    // What always hums is not the engine's revs; a moment that is louder at all pitches is not either.
    for (auto& row : out.loud) {
        std::vector<float> sorted = row;
        std::nth_element(sorted.begin(), sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() / 2), sorted.end());
        const float usual = sorted[sorted.size() / 2];
        for (float& it : row) it -= usual;
    }
    for (std::size_t m = 0; m < moments; ++m) {
        float mean = 0;
        for (const auto& row : out.loud) mean += row[m];
        mean /= static_cast<float>(EngineSound::pitches);
        for (auto& row : out.loud) row[m] = std::clamp(row[m] - mean, -1.5F, 3.0F);
    }
    return out;
}

Result<EngineSound> engine_sound_of(FilmReader& film, Interval film_s, const JobContext& job) {
    if (!film.facts().sound) return fail(ErrorCode::not_found, "The film has no sound.");
    std::vector<float> all;
    for (double from = film_s.begin; from < film_s.end; from += block_s) {
        const auto some = film.sound(from, std::min(block_s, film_s.end - from), rate_hz, job);
        if (!some) return pass_on(some.error());
        all.insert(all.end(), some->begin(), some->end());
        job.report((from - film_s.begin) / std::max(1e-9, film_s.length()));
    }
    double power = 0;
    for (const float it : all) power += static_cast<double>(it) * static_cast<double>(it);
    if (all.empty() || !(power / static_cast<double>(all.size()) > 1e-9))
        return fail(ErrorCode::not_found, "The film is silent.");
    return engine_sound(all, rate_hz, film_s.begin);
}

}  // namespace rendak
