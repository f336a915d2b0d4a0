#include "app/film/sound_stream.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace rendak::app {
namespace {

/// Decoded at once.
constexpr double block_s = 1;

}  // namespace

SoundStream::SoundStream(QObject* parent) : QIODevice(parent) {
    open(QIODevice::ReadOnly | QIODevice::Unbuffered);
}

Result<void> SoundStream::play(const std::vector<std::string>& files, double film_s, double times,
                               const JobContext& job) {
    rest();
    job_ = job;
    if (files != files_ || !film_) {
        film_.reset();
        files_ = files;
        auto opened = FilmReader::open(files, job);
        if (!opened) return pass_on(opened.error());
        film_.emplace(std::move(*opened));
    }
    if (!film_->facts().sound) return fail(ErrorCode::not_found, "The film has no sound.");
    begin_s_ = film_s;
    times_ = times;
    resting_ = false;
    decode();
    return {};
}

void SoundStream::rest() {
    resting_ = true;
    ahead_.clear();
    drawn_ = 0;
}

double SoundStream::film_s() const {
    return begin_s_ + times_ * static_cast<double>(drawn_) / rate_hz;
}

qint64 SoundStream::bytesAvailable() const {
    // It never ends: what is not there is silence.
    return static_cast<qint64>(sizeof(float)) * rate_hz + QIODevice::bytesAvailable();
}

void SoundStream::decode() {
    begin_s_ = film_s();
    drawn_ = 0;
    ahead_.assign(static_cast<std::size_t>(block_s * rate_hz), 0.0F);
    // Told at another rate and played at this one it is quicker or slower.
    const auto rate = static_cast<int>(std::lround(rate_hz / times_));
    auto samples = film_->sound(begin_s_, block_s * times_, rate, job_);
    if (samples) std::copy_n(samples->begin(), std::min(samples->size(), ahead_.size()), ahead_.begin());
}

qint64 SoundStream::readData(char* out, qint64 most) {
    const auto wanted = static_cast<std::size_t>(most) / sizeof(float);
    std::size_t given = 0;
    while (given < wanted) {
        if (resting_) {
            std::memset(out + given * sizeof(float), 0, (wanted - given) * sizeof(float));
            break;
        }
        if (drawn_ == ahead_.size()) decode();
        const std::size_t now = std::min(wanted - given, ahead_.size() - drawn_);
        std::memcpy(out + given * sizeof(float), ahead_.data() + drawn_, now * sizeof(float));
        drawn_ += now;
        given += now;
    }
    return static_cast<qint64>(wanted * sizeof(float));
}

}  // namespace rendak::app
