#include "core/video/film_offset.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>

#include "core/analysis/line_fit.h"
#include "core/base/text.h"
#include "core/video/film_cue.h"

namespace rendak {
namespace {

constexpr double step_s = DriveSignals::step_s;
constexpr double apart_s = 2;
/// What an offset must be better by than every other one, in standard errors.
constexpr double clear_enough = 3;
constexpr std::size_t most_rivals = 12;

/// The best lags that are more than 2 s apart, best first.
std::vector<std::ptrdiff_t> peaks_of(std::ptrdiff_t first_lag, std::vector<double> z) {
    std::vector<std::ptrdiff_t> out;
    const auto beside = static_cast<std::ptrdiff_t>(apart_s / step_s);
    while (out.size() < most_rivals && !z.empty()) {
        const auto top = std::max_element(z.begin(), z.end());
        if (!(*top > 0)) break;
        const std::ptrdiff_t at = top - z.begin();
        out.push_back(first_lag + at);
        for (std::ptrdiff_t k = std::max<std::ptrdiff_t>(0, at - beside);
             k <= std::min(static_cast<std::ptrdiff_t>(z.size()) - 1, at + beside); ++k)
            z[static_cast<std::size_t>(k)] = 0;
    }
    return out;
}

/// How clear a cue alone is: by how much its best lag is better than the best other one.
double clear_of(const FilmCue& cue, std::ptrdiff_t lag) {
    double out = std::numeric_limits<double>::infinity();
    for (const std::ptrdiff_t rival : peaks_of(cue.first_lag, cue.z))
        if (std::abs(rival - lag) * step_s > apart_s) out = std::min(out, cue.better_by(lag, rival).value_or(out));
    return std::isfinite(out) ? out : 0;
}

/// Where the film's clock runs otherwise than the data's, from how the windows of a long film lie one after another:
/// the run's seconds a second of the film, and where the film's beginning lies then. By least squares, where it is told
/// from 1 by more than four standard errors and the film is two minutes long or longer.
std::optional<FilmOffset> drift_of(const FilmCue& cue, std::ptrdiff_t lag) {
    const Windows& about = cue.windows_at(lag);
    std::vector<double> at_s, beside_s;
    for (std::size_t w = 0; w < about.each.size(); ++w) {
        const WindowLag& it = about.each[w];
        if (!it.fits() || std::abs(it.beside - about.middle) * step_s > 0.25) continue;
        at_s.push_back(cue.film_begin_s() + film_window_s * (static_cast<double>(w) + 0.5));
        beside_s.push_back(it.beside * step_s);
    }
    if (at_s.size() < 15 || at_s.back() - at_s.front() < 120) return std::nullopt;
    const LineFit line = fit_line(at_s, beside_s);
    if (!line.known() || !(std::abs(line.slope) > 4 * line.slope_sd) || std::abs(line.slope) > 0.005)
        return std::nullopt;
    return FilmOffset{cue.offset_s(static_cast<double>(lag)) + line.offset, 1 + line.slope};
}

/// A moment in the last third at which the car does something that is to be seen.
double telling_moment(const DriveSignals& drive, const FilmOffset& at, Interval film_s) {
    double best = -1, out = film_s.begin + 0.8 * film_s.length();
    for (double t = film_s.begin + 0.6 * film_s.length(); t < film_s.end - 1; t += step_s) {
        const auto i = static_cast<std::ptrdiff_t>(std::lround((at.run_s(t) - drive.begin_s) / step_s));
        const auto& yaw = drive.yaw_radps.empty() ? drive.speed_mps : drive.yaw_radps;
        if (i < 10 || i + 10 >= static_cast<std::ptrdiff_t>(yaw.size())) continue;
        const double turn = std::abs(
            static_cast<double>(yaw[static_cast<std::size_t>(i + 10)] - yaw[static_cast<std::size_t>(i - 10)]));
        if (turn > best) {
            best = turn;
            out = t;
        }
    }
    return out;
}

}  // namespace

std::string proposed_how(const OffsetFound& found) {
    std::string out;
    for (const OffsetCue& cue : found.cues)
        if (found.at && std::abs(cue.offset_s - found.at->offset_s) < 0.5) out += (out.empty() ? "" : ", ") + cue.name;
    if (!found.near.empty()) out += (out.empty() ? "" : ", ") + found.near;
    return out;
}

OffsetFound find_offset(const DriveSignals& drive, const FilmMotion* motion, const EngineSound* sound,
                        const std::optional<OffsetHint>& near) {
    OffsetFound out;
    const auto least = static_cast<std::size_t>(least_shared_s / step_s);
    std::vector<std::unique_ptr<FilmCue>> cues;
    double begin_s = 0, end_s = 0;
    if (motion != nullptr && !motion->time_s.empty()) {
        begin_s = motion->time_s.front();
        end_s = motion->time_s.back();
        const std::vector<float> yaw = calmed(drive.yaw_radps);
        std::unique_ptr<FilmCue> best;
        double best_fit = -1;
        for (const std::vector<float>& part : motion->across) {
            const std::vector<float> across = calmed(on_even_steps(motion->time_s, part, begin_s));
            if (yaw.empty() || across.size() <= least) continue;
            for (const double sign : {1.0, -1.0}) {
                auto made = alike_cue("turning", across, yaw, begin_s, drive.begin_s, 1.5, sign, true);
                if (made->z.empty()) continue;
                const auto top =
                    static_cast<std::size_t>(std::max_element(made->z.begin(), made->z.end()) - made->z.begin());
                // A camera that hangs upside down and does not say so is rare.
                const double fit = made->fits[top] * (sign > 0 ? 1 : 0.75);
                if (fit <= best_fit) continue;
                best_fit = fit;
                best = std::move(made);
                out.upside_down = sign < 0;
            }
        }
        if (best) cues.push_back(std::move(best));
        std::vector<float> change = on_even_steps(motion->time_s, motion->change, begin_s);
        for (float& it : change) it = std::log(std::max(it, 1e-3F));
        std::vector<float> speed = drive.speed_mps;
        for (float& it : speed) it = std::log(std::max(it, 0.5F));
        if (!speed.empty() && change.size() > least)
            cues.push_back(alike_cue("moving", calmed(change), speed, begin_s, drive.begin_s, 6, 1, false));
    }
    if (sound != nullptr && sound->moments() > least && !drive.revs_hz.empty()) {
        if (end_s <= begin_s) {
            begin_s = sound->begin_s;
            end_s = begin_s + step_s * static_cast<double>(sound->moments());
        }
        cues.push_back(sound_cue(*sound, drive.revs_hz, drive.begin_s));
    }
    std::erase_if(cues, [](const auto& it) { return it->z.empty(); });
    if (near) {
        out.near = near->from;
        for (const auto& cue : cues) cue->keep_near(near->offset_s, near->within_s);
    }
    if (cues.empty()) {
        out.why =
            "It cannot be told: the film and the run have nothing to be held against each other, or less than 20 s.";
        return out;
    }
    // Where each is best, and where all together are.
    const auto near_lag = [](const FilmCue& cue, double offset_s) {
        return static_cast<std::ptrdiff_t>(std::lround(cue.lag(offset_s)));
    };
    const auto best_near = [&](const FilmCue& cue, double offset_s) {
        std::ptrdiff_t best = near_lag(cue, offset_s);
        for (const std::ptrdiff_t k : {best - 2, best - 1, best + 1, best + 2})
            if (cue.z_at(k) > cue.z_at(best)) best = k;
        return best;
    };
    std::vector<double> offsets;
    for (const auto& cue : cues)
        for (const std::ptrdiff_t lag : peaks_of(cue->first_lag, cue->z))
            offsets.push_back(cue->offset_s(static_cast<double>(lag)));
    if (offsets.empty()) {
        out.why = "It cannot be told: nothing of the film goes along with the data.";
        return out;
    }
    // By how much an offset is better than the best other one: the one that is so by most is the one.
    const auto together = [&](double offset_s) {
        double z = 0;
        for (const auto& cue : cues) z += cue->z_at(best_near(*cue, offset_s));
        return z;
    };
    const auto clear_at = [&](double offset_s) {
        double out_by = std::numeric_limits<double>::infinity();
        for (const double rival : offsets) {
            if (std::abs(rival - offset_s) <= apart_s) continue;
            double sum = 0, count = 0;
            for (const auto& cue : cues) {
                if (cue->name == "moving" && cues.size() > 1) continue;  // it parts no two laps
                const std::ptrdiff_t here = best_near(*cue, offset_s), there = best_near(*cue, rival);
                if (std::max(cue->fit_at(here), cue->fit_at(there)) < cue->least_fit()) continue;
                const auto by = cue->better_by(here, there);
                if (!by) continue;
                sum += *by;
                ++count;
            }
            if (count > 0) out_by = std::min(out_by, sum / std::sqrt(count));
        }
        return std::isfinite(out_by) ? out_by : together(offset_s);
    };
    double best = offsets.front(), clear = 0;
    for (const double it : offsets) {
        // A cue that fits nothing here (hands before the lens) says nothing either.
        const bool right = std::all_of(cues.begin(), cues.end(), [&](const auto& cue) {
            const std::ptrdiff_t lag = best_near(*cue, it);
            return cue->fit_at(lag) < cue->least_fit() || cue->holds(lag);
        });
        if (const double by = clear_at(it); by > clear && right) {
            best = it;
            clear = by;
        }
    }
    const FilmCue* finest = nullptr;
    std::string rests;
    for (const auto& cue : cues) {
        const auto peaks = peaks_of(cue->first_lag, cue->z);
        if (peaks.empty()) continue;
        const double own = cue->offset_s(cue->finely(peaks.front()));
        const double alone = clear_of(*cue, peaks.front());
        out.cues.push_back({cue->name, own, cue->fit_at(peaks.front()), alone});
        const bool here = std::abs(own - best) < 0.5;
        if (!here && alone > clear_enough && cue->fit_at(peaks.front()) > cue->least_fit()) {
            out.why =
                "It cannot be told: " + cue->name + " fits " + fixed(std::abs(own - best), 1) + " s beside the rest.";
            return out;
        }
        if (cue->fit_at(best_near(*cue, best)) < cue->least_fit()) continue;
        if (!cue->holds(best_near(*cue, best))) {
            // What is heard changes at moments: a lap driven alike on another day turns alike, and shifts elsewhere.
            if (cue->name == "sound") {
                out.why = "It cannot be told: the picture turns as the car does, and the sound does not go along.";
                return out;
            }
            continue;
        }
        if (cue->name == "turning") {
            const double fit = cue->top_fit(best_near(*cue, best));
            out.left_over = 1 - fit * fit;
        }
        rests += (rests.empty() ? "" : ", ") + cue->name;
        // Sound is told most finely, then turning; that it moves alone says too little.
        if (cue->name != "moving") finest = cue.get();
    }
    if (finest == nullptr || clear < clear_enough) {
        out.why =
            near ? "It cannot be told: within " + fixed(near->within_s, 0) + " s of " + near->from +
                       " picture and sound do not go along with the data. Mark one event in both."
                 : "It cannot be told by itself: no offset is clearly better than all others. Mark one event in both.";
        return out;
    }
    FilmOffset at;
    const std::ptrdiff_t lag = best_near(*finest, best);
    at.offset_s = finest->offset_s(static_cast<double>(lag) + finest->windows_at(lag).middle);
    if (const auto drifting = drift_of(*finest, lag)) at = *drifting;
    out.at = at;
    out.clear = clear;
    out.check_film_s = telling_moment(drive, at, {begin_s, end_s});
    out.why = near ? "Told by " + rests + ", within " + fixed(near->within_s, 0) + " s of " + near->from + "."
                   : "Told by " + rests + "; " + fixed(clear, 0) + " standard errors better than any other offset.";
    return out;
}

}  // namespace rendak
