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

constexpr double apart_s = 2;
/// What an offset must be better by than every other one, in standard errors.
constexpr double clear_enough = 3;
constexpr std::size_t most_rivals = 12;

/// The best lags that are more than 2 s apart, best first.
std::vector<std::ptrdiff_t> peaks_of(std::ptrdiff_t first_lag, std::vector<double> z) {
    std::vector<std::ptrdiff_t> out;
    const auto beside = static_cast<std::ptrdiff_t>(apart_s / DriveSignals::step_s);
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
        if (std::abs(rival - lag) * DriveSignals::step_s > apart_s)
            out = std::min(out, cue.better_by(lag, rival).value_or(out));
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
        if (!it.fits() || std::abs(it.beside - about.middle) * DriveSignals::step_s > 0.25) continue;
        at_s.push_back(cue.film_begin_s() + film_window_s * (static_cast<double>(w) + 0.5));
        beside_s.push_back(it.beside * DriveSignals::step_s);
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
    for (double t = film_s.begin + 0.6 * film_s.length(); t < film_s.end - 1; t += DriveSignals::step_s) {
        const auto i = static_cast<std::ptrdiff_t>(std::lround((at.run_s(t) - drive.begin_s) / DriveSignals::step_s));
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

/// What a film and a run are held against each other by, and the part of the film that it is of.
struct Cues {
    std::vector<std::unique_ptr<FilmCue>> all;
    Interval film_s;
    bool upside_down = false;
};

/// The part of the picture that turns most as the car does.
std::unique_ptr<FilmCue> turning_cue(const DriveSignals& drive, const FilmMotion& motion, bool& upside_down) {
    const double begin_s = motion.time_s.front();
    const std::vector<float> yaw = calmed(drive.yaw_radps);
    std::unique_ptr<FilmCue> best;
    double best_fit = -1;
    for (const std::vector<float>& part : motion.across) {
        const std::vector<float> across = calmed(on_even_steps(motion.time_s, part, begin_s));
        if (yaw.empty() || static_cast<double>(across.size()) * DriveSignals::step_s <= least_shared_s) continue;
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
            upside_down = sign < 0;
        }
    }
    return best;
}

/// How much of the picture changes, against the speed; both by factors.
std::unique_ptr<FilmCue> moving_cue(const DriveSignals& drive, const FilmMotion& motion) {
    const double begin_s = motion.time_s.front();
    std::vector<float> change = on_even_steps(motion.time_s, motion.change, begin_s);
    std::vector<float> speed = drive.speed_mps;
    for (float& it : change) it = std::log(std::max(it, 1e-3F));
    for (float& it : speed) it = std::log(std::max(it, 0.5F));
    if (speed.empty() || static_cast<double>(change.size()) * DriveSignals::step_s <= least_shared_s) return nullptr;
    return alike_cue("moving", calmed(change), speed, begin_s, drive.begin_s, 6, 1, false);
}

Cues cues_of(const DriveSignals& drive, const FilmMotion* motion, const EngineSound* sound) {
    Cues out;
    if (motion != nullptr && !motion->time_s.empty()) {
        out.film_s = {motion->time_s.front(), motion->time_s.back()};
        if (auto cue = turning_cue(drive, *motion, out.upside_down)) out.all.push_back(std::move(cue));
        if (auto cue = moving_cue(drive, *motion)) out.all.push_back(std::move(cue));
    }
    if (sound != nullptr && static_cast<double>(sound->moments()) * DriveSignals::step_s > least_shared_s &&
        !drive.revs_hz.empty()) {
        if (out.film_s.length() <= 0)
            out.film_s = {sound->begin_s,
                          sound->begin_s + DriveSignals::step_s * static_cast<double>(sound->moments())};
        out.all.push_back(sound_cue(*sound, drive.revs_hz, drive.begin_s));
    }
    std::erase_if(out.all, [](const auto& it) { return it->z.empty(); });
    return out;
}

/// The best lag of a cue at an offset that another one says.
std::ptrdiff_t best_near(const FilmCue& cue, double offset_s) {
    const auto near = static_cast<std::ptrdiff_t>(std::lround(cue.lag(offset_s)));
    std::ptrdiff_t best = near;
    for (const std::ptrdiff_t k : {near - 2, near - 1, near + 1, near + 2})
        if (cue.z_at(k) > cue.z_at(best)) best = k;
    return best;
}

/// Offsets that one cue or another fits best at, held against each other.
class Rivals {
  public:
    explicit Rivals(const Cues& cues) : cues_(cues) {
        for (const auto& cue : cues.all)
            for (const std::ptrdiff_t lag : peaks_of(cue->first_lag, cue->z))
                offsets_.push_back(cue->offset_s(static_cast<double>(lag)));
    }
    [[nodiscard]] bool empty() const { return offsets_.empty(); }

    struct Best {
        double offset_s = 0;
        double clear = 0;  ///< standard errors by which it is better than the best other one
    };
    /// The one that is better than all others by most, of those that no cue is against.
    [[nodiscard]] Best best() const {
        Best out{offsets_.front(), 0};
        for (const double it : offsets_)
            if (const double by = clear_at(it); by > out.clear && holds(it)) out = {it, by};
        return out;
    }

  private:
    /// A cue that fits nothing there (hands before the lens) says nothing either.
    [[nodiscard]] bool holds(double offset_s) const {
        return std::all_of(cues_.all.begin(), cues_.all.end(), [&](const auto& cue) {
            const std::ptrdiff_t lag = best_near(*cue, offset_s);
            return cue->fit_at(lag) < cue->least_fit() || cue->holds(lag);
        });
    }
    [[nodiscard]] double clear_at(double offset_s) const {
        double out = std::numeric_limits<double>::infinity();
        for (const double rival : offsets_)
            if (std::abs(rival - offset_s) > apart_s) out = std::min(out, better_by(offset_s, rival).value_or(out));
        if (std::isfinite(out)) return out;
        // Without a rival: than nothing.
        double z = 0;
        for (const auto& cue : cues_.all) z += cue->z_at(best_near(*cue, offset_s));
        return z;
    }
    /// All cues together; none where none of them tells.
    [[nodiscard]] std::optional<double> better_by(double offset_s, double rival_s) const {
        double sum = 0, count = 0;
        for (const auto& cue : cues_.all) {
            if (cue->name == "moving" && cues_.all.size() > 1) continue;  // it parts no two laps
            const std::ptrdiff_t here = best_near(*cue, offset_s), there = best_near(*cue, rival_s);
            if (std::max(cue->fit_at(here), cue->fit_at(there)) < cue->least_fit()) continue;
            const auto by = cue->better_by(here, there);
            if (!by) continue;
            sum += *by;
            ++count;
        }
        return count > 0 ? std::optional(sum / std::sqrt(count)) : std::nullopt;
    }

    const Cues& cues_;
    std::vector<double> offsets_;
};

/// What an offset rests on, and the cue that tells it most finely: sound, then turning; that it moves alone says too
/// little.
struct Rests {
    std::string words;
    const FilmCue* finest = nullptr;
};
/// Fails with a sentence where a cue is against it.
Result<Rests> rests_of(const Cues& cues, double offset_s, OffsetFound& out) {
    Rests rests;
    for (const auto& cue : cues.all) {
        const auto peaks = peaks_of(cue->first_lag, cue->z);
        if (peaks.empty()) continue;
        const double own = cue->offset_s(cue->finely(peaks.front())), alone = clear_of(*cue, peaks.front());
        out.cues.push_back({cue->name, own, cue->fit_at(peaks.front()), alone});
        if (std::abs(own - offset_s) >= 0.5 && alone > clear_enough && cue->fit_at(peaks.front()) > cue->least_fit())
            return fail(ErrorCode::not_found, "It cannot be told: " + cue->name + " fits " +
                                                  fixed(std::abs(own - offset_s), 1) + " s beside the rest.");
        const std::ptrdiff_t lag = best_near(*cue, offset_s);
        if (cue->fit_at(lag) < cue->least_fit()) continue;
        if (!cue->holds(lag)) {
            // What is heard changes at moments: a lap driven alike on another day turns alike, and shifts elsewhere.
            if (cue->name == "sound")
                return fail(ErrorCode::not_found,
                            "It cannot be told: the picture turns as the car does, and the sound does not go along.");
            continue;
        }
        if (cue->name == "turning") out.left_over = 1 - cue->top_fit(lag) * cue->top_fit(lag);
        rests.words += (rests.words.empty() ? "" : ", ") + cue->name;
        if (cue->name != "moving") rests.finest = cue.get();
    }
    return rests;
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
    const Cues cues = cues_of(drive, motion, sound);
    out.upside_down = cues.upside_down;
    const std::string about = near ? "within " + fixed(near->within_s, 0) + " s of " + near->from : std::string();
    if (near) {
        out.near = near->from;
        for (const auto& cue : cues.all) cue->keep_near(near->offset_s, near->within_s);
    }
    if (cues.all.empty()) {
        out.why =
            "It cannot be told: the film and the run have nothing to be held against each other, or less than 20 s.";
        return out;
    }
    const Rivals rivals(cues);
    if (rivals.empty()) {
        out.why = "It cannot be told: nothing of the film goes along with the data.";
        return out;
    }
    const Rivals::Best best = rivals.best();
    const auto rests = rests_of(cues, best.offset_s, out);
    if (!rests) {
        out.why = rests.error().message;
        return out;
    }
    if (rests->finest == nullptr || best.clear < clear_enough) {
        out.why =
            near ? "It cannot be told: " + about +
                       " picture and sound do not go along with the data. Mark one event in both."
                 : "It cannot be told by itself: no offset is clearly better than all others. Mark one event in both.";
        return out;
    }
    const FilmCue& finest = *rests->finest;
    const std::ptrdiff_t lag = best_near(finest, best.offset_s);
    out.at = drift_of(finest, lag)
                 .value_or(FilmOffset{finest.offset_s(static_cast<double>(lag) + finest.windows_at(lag).middle), 1});
    out.clear = best.clear;
    out.check_film_s = telling_moment(drive, *out.at, cues.film_s);
    out.why = near ? "Told by " + rests->words + ", " + about + "."
                   : "Told by " + rests->words + "; " + fixed(out.clear, 0) +
                         " standard errors better than any other offset.";
    return out;
}

}  // namespace rendak
