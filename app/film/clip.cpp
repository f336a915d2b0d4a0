#include "app/film/clip.h"

#include <QImage>
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <future>

#include "core/base/text.h"

namespace rendak::app {
namespace {

constexpr int sound_hz = 48000;

/// Encoders want even numbers.
QSize even(QSize size) {
    return {std::max(2, size.width() / 2 * 2), std::max(2, size.height() / 2 * 2)};
}

/// A part that is open.
struct Seen {
    FilmReader film;
    std::unique_ptr<const FilmMoments> moments;
    FilmOffset at;
};

Result<Seen> open_part(const ClipPart& part, const PreparedLap* baseline, const JobContext& job) {
    auto film = FilmReader::open(part.files, {job.stop, {}});
    if (!film) return pass_on(film.error());
    const double begin = part.at.film_s(part.run_s.begin), end = part.at.film_s(part.run_s.end);
    if (begin < -0.05 || end > film->facts().duration_s + 0.05)
        return fail(ErrorCode::not_found,
                    "The film does not cover this part of the lap: it has " + fixed(film->facts().duration_s, 1) +
                        " s, from " + fixed(begin, 1) + " to " + fixed(end, 1) + " s would be needed.",
                    part.files.front());
    return Seen{std::move(*film), std::make_unique<FilmMoments>(part.run, part.lap, part.slot, baseline), part.at};
}

/// One picture with its figures, onto the canvas.
Result<void> paint_part(Seen& seen, double run_s, QPainter& painter, const QRect& box, const FilmStyle& style,
                        const JobContext& job) {
    const double duration = seen.film.facts().duration_s;
    const auto frame = seen.film.frame_at(std::clamp(seen.at.film_s(run_s), 0.0, duration - 1e-4));
    if (!frame) return fail(ErrorCode::not_found, "The film does not cover this part of the lap.");
    const FilmFacts& facts = seen.film.facts();
    QSize size(facts.width, facts.height);
    size.scale(box.size(), Qt::KeepAspectRatio);
    const auto pixels = seen.film.picture(*frame, std::max(2, size.width()), std::max(2, size.height()), job);
    if (!pixels && pixels.error().code == ErrorCode::cancelled) return pass_on(pixels.error());
    const QRect inside(box.center() - QPoint(size.width() / 2 - 1, size.height() / 2 - 1), size);
    if (pixels) {
        const QImage image(pixels->data(), size.width(), size.height(), size.width() * 4, QImage::Format_RGB32);
        painter.drawImage(inside.topLeft(), image);
    }
    paint_film_figures(painter, inside, seen.moments->at(run_s), style);
    return {};
}

}  // namespace

Interval clip_span(const PreparedLap& lap, std::optional<Interval> range_m, double lead_s) {
    if (!range_m || lap.track == nullptr) return {lap.map.start_s() - lead_s, lap.map.end_s() + std::min(lead_s, 1.0)};
    return {lap.map.time_at(range_m->begin) - lead_s, lap.map.time_at(range_m->end)};
}

double expected_clip_bytes(QSize size, double frames_per_s, double seconds) {
    // What x264 needs of pictures from a car at the quality that is used; and the sound.
    constexpr double bits_a_pixel = 0.09, sound_bits = 96e3;
    return seconds * (bits_a_pixel * size.width() * size.height() * frames_per_s + sound_bits) / 8;
}

Result<ClipPart> clip_part(const Library& library, const std::string& camera, std::shared_ptr<const RunData> run,
                           const PreparedLap& lap, int slot, Interval run_s) {
    const auto films = kept_films(library);
    if (!films) return pass_on(films.error());
    for (const KeptFilm& film : *films) {
        const FilmPlace* place = film.place_on(run->row.id);
        if (place == nullptr || film.camera != camera) continue;
        const double begin = place->at.film_s(run_s.begin), end = place->at.film_s(run_s.end);
        if (end < 0 || begin > film.duration_s) continue;
        auto files = film_paths(library, film);
        if (!files) return pass_on(files.error());
        // A lead-in that was not filmed is left out.
        const Interval there{std::max(run_s.begin, place->at.run_s(0)),
                             std::min(run_s.end, place->at.run_s(film.duration_s))};
        return ClipPart{std::move(*files), place->at, std::move(run), lap, slot, there};
    }
    return fail(ErrorCode::not_found,
                "No film of the camera \"" + camera + "\" lies on this lap. Add one, and put it in step with the run.",
                run->row.name);
}

Result<ClipMade> make_clip(const ClipWish& wish, const JobContext& job) {
    if (wish.parts.empty()) return fail(ErrorCode::bad_input, "There is nothing to be seen in this clip.");
    if (wish.beside && wish.parts.size() < 2)
        return fail(ErrorCode::bad_input, "Beside each other there are two laps.");
    std::vector<Seen> seen;
    for (const ClipPart& part : wish.parts) {
        auto opened = open_part(part, &wish.parts.front().lap, job);
        if (!opened) return pass_on(opened.error());
        seen.push_back(std::move(*opened));
    }
    const FilmFacts& first = seen.front().film.facts();
    const QSize each = even(wish.size.isEmpty() ? QSize(first.width, first.height) : wish.size);
    const QSize whole = wish.beside ? QSize(2 * each.width(), each.height()) : each;
    const double rate = std::clamp(first.frames_per_s, 5.0, 120.0);
    FilmWish film;
    film.file = wish.file;
    film.width = whole.width();
    film.height = whole.height();
    film.frames_per_s = rate;
    film.sound_hz = first.sound ? sound_hz : 0;
    film.quality = 22;
    auto writer = FilmWriter::begin(film);
    if (!writer) return pass_on(writer.error());
    const std::size_t shown = wish.beside ? 1 : wish.parts.size();
    double seconds = 0, done_s = 0;
    for (std::size_t p = 0; p < shown; ++p) seconds += wish.parts[p].run_s.length();
    ClipMade out;
    std::future<Result<void>> encoding;
    const auto encoded = [&]() -> Result<void> { return encoding.valid() ? encoding.get() : Result<void>(); };
    QImage canvas(whole, QImage::Format_RGB32);
    for (std::size_t p = 0; p < shown; ++p) {
        const ClipPart& part = wish.parts[p];
        const auto frames = static_cast<std::int64_t>(std::floor(part.run_s.length() * rate));
        if (film.sound_hz > 0) {
            if (auto done = encoded(); !done) return pass_on(done.error());
            const double from = part.at.film_s(part.run_s.begin);
            const auto sound = seen[p].film.sound(from, static_cast<double>(frames) / rate, sound_hz, job);
            if (!sound) return pass_on(sound.error());
            if (auto done = writer->put_sound(*sound); !done) return pass_on(done.error());
        }
        for (std::int64_t k = 0; k < frames; ++k) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing of the clip is left.", wish.file);
            const double run_s = part.run_s.begin + static_cast<double>(k) / rate;
            canvas.fill(Qt::black);
            QPainter painter(&canvas);
            if (auto done = paint_part(seen[p], run_s, painter, QRect(QPoint(0, 0), each), wish.style, job); !done)
                return pass_on(done.error());
            if (wish.beside) {
                // The other one where this one is.
                const PreparedLap &a = wish.parts[0].lap, &b = wish.parts[1].lap;
                const double before = run_s - a.map.start_s(), behind = run_s - a.map.end_s();
                const double other = before < 0   ? b.map.start_s() + before
                                     : behind > 0 ? b.map.end_s() + behind
                                                  : b.map.time_at(a.map.distance_at(run_s));
                if (auto done =
                        paint_part(seen[1], other, painter, QRect(QPoint(each.width(), 0), each), wish.style, job);
                    !done)
                    return pass_on(done.error());
            }
            painter.end();
            // One is encoded while the next is decoded.
            if (auto done = encoded(); !done) return pass_on(done.error());
            std::memcpy(writer->pixels().data(), canvas.constBits(), static_cast<std::size_t>(canvas.sizeInBytes()));
            const auto number = static_cast<std::int64_t>(out.frames++);
            encoding = std::async(std::launch::async, [&writer, number] { return writer->put(number); });
            job.report(std::min(0.99, (done_s + static_cast<double>(k) / rate) / seconds));
        }
        done_s += part.run_s.length();
    }
    if (auto done = encoded(); !done) return pass_on(done.error());
    if (auto done = writer->finish(); !done) return pass_on(done.error());
    out.seconds = static_cast<double>(out.frames) / rate;
    out.coded_as = writer->coded_as();
    std::error_code code;
    out.bytes = std::filesystem::file_size(wish.file, code);
    job.report(1);
    return out;
}

}  // namespace rendak::app
