#pragma once

#include <QIODevice>
#include <optional>
#include <string>
#include <vector>

#include "core/video/film_link.h"

namespace rendak::app {

/// The sound of a film as a stream that a sound device draws from: mono, 32-bit floats, decoded a second ahead of what
/// is drawn. Played quicker or slower the pitch goes along, as everything does. Before, behind and without a film it
/// is silent. Not for several threads at once.
class SoundStream : public QIODevice {
    Q_OBJECT
  public:
    static constexpr int rate_hz = 48'000;

    explicit SoundStream(QObject* parent = nullptr);

    /// From a moment of a film on, so many times as quick. A film that is open stays open. Fails where there is none,
    /// or one without sound.
    [[nodiscard]] Result<void> play(const std::vector<std::string>& files, double film_s, double times,
                                    const JobContext& job = {});
    /// Silence from here on.
    void rest();
    /// Moment of the film of the next sample that is drawn.
    [[nodiscard]] double film_s() const;
    [[nodiscard]] double times() const { return times_; }

    [[nodiscard]] bool isSequential() const override { return true; }
    [[nodiscard]] qint64 bytesAvailable() const override;

  protected:
    qint64 readData(char* out, qint64 most) override;
    qint64 writeData(const char*, qint64) override { return -1; }

  private:
    void decode();

    JobContext job_;
    std::vector<std::string> files_;
    std::optional<FilmReader> film_;
    double begin_s_ = 0, times_ = 1;  ///< of the film at the first sample of `ahead_`
    std::vector<float> ahead_;
    std::size_t drawn_ = 0;  ///< of `ahead_`
    bool resting_ = true;
};

}  // namespace rendak::app
