#include "app/film/film_source.h"

#include <QMetaObject>
#include <algorithm>
#include <cstring>

namespace rendak::app {
namespace {

/// As large as fits, of the film's own shape, never larger than it was filmed.
QSize fitting(const FilmFacts& facts, QSize within) {
    QSize out(facts.width, facts.height);
    if (out.width() > within.width() || out.height() > within.height()) out.scale(within, Qt::KeepAspectRatio);
    return {std::max(2, out.width()), std::max(2, out.height())};
}

QImage image_of(std::span<const std::uint8_t> pixels, QSize size) {
    QImage out(size, QImage::Format_RGB32);
    for (int y = 0; y < size.height(); ++y)
        std::memcpy(
            out.scanLine(y),
            pixels.data() + std::size_t{4} * static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width()),
            std::size_t{4} * static_cast<std::size_t>(size.width()));
    return out;
}

}  // namespace

FilmSource::FilmSource(std::vector<std::string> files, std::filesystem::path small_copy, QObject* parent)
    : QObject(parent), files_(std::move(files)), small_copy_(std::move(small_copy)) {
    thread_ = std::jthread([this](const std::stop_token& stop) { work(stop); });
}

FilmSource::~FilmSource() {
    thread_.request_stop();
    woken_.notify_all();
    thread_.join();
}

std::optional<std::size_t> FilmSource::frame_at(double film_s) const {
    if (times_s_.empty()) return std::nullopt;
    return frame_at_moment(times_s_, facts_->duration_s, film_s);
}

void FilmSource::ask(std::size_t frame, QSize within) {
    const Wish wish{frame, within};
    if (asked_ == wish || !facts_) return;
    asked_ = wish;
    const std::scoped_lock lock(mutex_);
    wish_ = wish;
    woken_.notify_all();
}

bool FilmSource::busy() const {
    if (!facts_ && !error_) return true;
    const std::scoped_lock lock(mutex_);
    return wish_.has_value() || working_;
}

void FilmSource::give(std::size_t frame, QImage image, bool last) {
    QMetaObject::invokeMethod(
        this,
        [this, frame, last, it = std::move(image)] {
            image_ = it;
            shown_ = frame;
            if (last) {
                const std::scoped_lock lock(mutex_);
                working_ = wish_.has_value();
            }
            Q_EMIT changed();
        },
        Qt::QueuedConnection);
}

void FilmSource::work(const std::stop_token& stop) {
    const JobContext job{stop, {}};
    // A disk that is slow or gone is waited for here.
    const auto there = check_film_files(files_);
    auto film = there ? FilmReader::open(files_, job) : Result<FilmReader>(pass_on(there.error()));
    if (stop.stop_requested()) return;
    QMetaObject::invokeMethod(
        this,
        [this, facts = film ? std::optional(film->facts()) : std::nullopt,
         error = film ? std::nullopt : std::optional(film.error()),
         times = film ? film->times_s() : std::vector<double>()]() mutable {
            facts_ = std::move(facts);
            error_ = std::move(error);
            times_s_ = std::move(times);
            Q_EMIT changed();
        },
        Qt::QueuedConnection);
    if (!film) return;
    std::optional<FilmReader> small;
    std::error_code code;
    if (!small_copy_.empty() && std::filesystem::exists(small_copy_, code)) {
        // One that is not of the same frames is none.
        if (auto opened = FilmReader::open({small_copy_.string()}, job);
            opened && opened->facts().frames == film->facts().frames)
            small.emplace(std::move(*opened));
    }
    std::optional<std::size_t> before;
    while (!stop.stop_requested()) {
        Wish wish;
        {
            std::unique_lock lock(mutex_);
            if (!woken_.wait(lock, stop, [this] { return wish_.has_value(); })) return;
            wish = *wish_;
            wish_.reset();
            working_ = true;
        }
        // A jump is shown small first: from a film with far key frames the large one takes its time.
        const bool jump = !before || wish.frame < *before || wish.frame > *before + 8;
        if (jump && small) {
            const QSize size = fitting(small->facts(), wish.within);
            if (const auto pixels = small->picture(wish.frame, size.width(), size.height(), job))
                give(wish.frame, image_of(*pixels, size), false);
            const std::scoped_lock lock(mutex_);
            if (wish_) continue;
        }
        const QSize size = fitting(film->facts(), wish.within);
        const auto pixels = film->picture(wish.frame, size.width(), size.height(), job);
        if (stop.stop_requested()) return;
        before = wish.frame;
        // A frame that is damaged is none: the one before it would be a lie.
        give(wish.frame, pixels ? image_of(*pixels, size) : QImage(), true);
    }
}

}  // namespace rendak::app
