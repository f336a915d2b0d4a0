#include "app/film/film_speaker.h"

#include <QAudioSink>
#include <QMediaDevices>
#include <cmath>
#include <memory>

#include "app/film/sound_stream.h"

namespace rendak::app {
namespace {

constexpr double most_off_s = 0.1;
constexpr int device_ms = 120;

}  // namespace

/// On the thread: the stream and the device that draws from it.
class FilmSpeaker::Work : public QObject {
  public:
    explicit Work(FilmSpeaker& speaker) : speaker_(speaker) {}

    void take(const std::optional<Wish>& wish) {
        if (!wish) {
            if (sink_) sink_->suspend();
            if (stream_) stream_->rest();
            playing_ = false;
            say({});
            refused_.clear();  // another time there may be a device
            return;
        }
        const bool same = playing_ && wish->files == files_ && wish->times == stream_->times() &&
                          std::abs(stream_->film_s() - stream_->times() * device_ms / 1000.0 - wish->film_s) <
                              most_off_s * std::max(1.0, wish->times);
        if (same) return;
        // What could not be heard is not tried again at every frame.
        if (wish->files == refused_) return;
        if (!stream_) stream_ = std::make_unique<SoundStream>();
        // The device draws that much ahead.
        const auto done = stream_->play(wish->files, wish->film_s + wish->times * device_ms / 1000.0, wish->times,
                                        JobContext{speaker_.stop_.get_token(), {}});
        files_ = wish->files;
        playing_ = done.has_value();
        if (!done) {
            refused_ = wish->files;
            say(QString::fromStdString(done.error().text()));
            return;
        }
        refused_.clear();
        if (!sink_) open();
        if (sink_ && sink_->state() == QAudio::SuspendedState) sink_->resume();
        say(sink_ ? QString() : QObject::tr("This machine has no sound device that can be used."));
    }

  private:
    void open() {
        const QAudioDevice device = QMediaDevices::defaultAudioOutput();
        QAudioFormat format;
        format.setSampleRate(SoundStream::rate_hz);
        format.setChannelCount(1);
        format.setSampleFormat(QAudioFormat::Float);
        if (device.isNull() || !device.isFormatSupported(format)) {
            refused_ = files_;
            return;
        }
        sink_ = std::make_unique<QAudioSink>(device, format);
        sink_->setBufferSize(static_cast<qsizetype>(sizeof(float)) * SoundStream::rate_hz * device_ms / 1000);
        sink_->start(stream_.get());
        if (sink_->error() == QAudio::NoError) return;
        sink_.reset();
        refused_ = files_;
    }

    void say(const QString& trouble) {
        QMetaObject::invokeMethod(
            &speaker_, [speaker = &speaker_, trouble] { speaker->tell(trouble); }, Qt::QueuedConnection);
    }

    FilmSpeaker& speaker_;
    std::unique_ptr<SoundStream> stream_;
    std::unique_ptr<QAudioSink> sink_;  // behind the stream that it draws from: it goes first
    std::vector<std::string> files_, refused_;
    bool playing_ = false;
};

FilmSpeaker::FilmSpeaker(QObject* parent) : QObject(parent), work_(new Work(*this)) {
    work_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, work_, &QObject::deleteLater);
}

FilmSpeaker::~FilmSpeaker() {
    if (!thread_.isRunning()) {
        delete work_;
        return;
    }
    stop_.request_stop();
    thread_.quit();
    thread_.wait();
}

void FilmSpeaker::follow(std::optional<Wish> wish) {
    if (!wish && resting_) return;
    resting_ = !wish;
    if (!thread_.isRunning()) thread_.start();
    {
        const std::scoped_lock lock(mutex_);
        if (std::exchange(asked_, std::optional(std::move(wish)))) return;  // one is on its way already
    }
    QMetaObject::invokeMethod(
        work_,
        [this] {
            std::optional<Wish> newest;
            {
                const std::scoped_lock lock(mutex_);
                newest = std::move(*asked_);
                asked_.reset();
            }
            work_->take(newest);
        },
        Qt::QueuedConnection);
}

void FilmSpeaker::tell(const QString& trouble) {
    if (trouble == trouble_) return;
    trouble_ = trouble;
    Q_EMIT trouble_changed();
}

}  // namespace rendak::app
