#pragma once

#include <QImage>
#include <QObject>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

#include "core/video/film_book.h"

namespace rendak::app {

/// A film that frames are asked of. It is opened, sought and decoded on a thread of its own; of several frames asked
/// for quickly one after another only the newest counts.
class FilmSource : public QObject {
    Q_OBJECT
  public:
    /// `small_copy`: a copy for quick jumps; need not be there.
    FilmSource(std::vector<std::string> files, std::filesystem::path small_copy, QObject* parent = nullptr);
    ~FilmSource() override;

    /// None while it is being opened.
    [[nodiscard]] const std::optional<FilmFacts>& facts() const { return facts_; }
    [[nodiscard]] const std::vector<std::string>& files() const { return files_; }
    /// Why it cannot be shown.
    [[nodiscard]] const std::optional<Error>& error() const { return error_; }
    /// The frame that is to be seen at a moment of the film; none outside of it, or while it is being opened.
    [[nodiscard]] std::optional<std::size_t> frame_at(double film_s) const;
    [[nodiscard]] double time_of(std::size_t frame) const { return times_s_[frame]; }
    [[nodiscard]] std::size_t frames() const { return times_s_.size(); }
    /// To be shown within so many pixels.
    void ask(std::size_t frame, QSize within);
    /// What is shown now, and which frame it is.
    [[nodiscard]] const QImage& image() const { return image_; }
    [[nodiscard]] std::optional<std::size_t> shown() const { return shown_; }
    /// A frame was asked for and is not there yet.
    [[nodiscard]] bool busy() const;

  Q_SIGNALS:
    void changed();

  private:
    struct Wish {
        std::size_t frame = 0;
        QSize within;
        bool operator==(const Wish&) const = default;
    };
    void work(const std::stop_token& stop);
    void give(std::size_t frame, QImage image, bool last);

    const std::vector<std::string> files_;
    const std::filesystem::path small_copy_;
    std::optional<FilmFacts> facts_;
    std::optional<Error> error_;
    std::vector<double> times_s_;
    QImage image_;
    std::optional<std::size_t> shown_;
    std::optional<Wish> asked_;  ///< last
    mutable std::mutex mutex_;
    std::condition_variable_any woken_;
    std::optional<Wish> wish_;  ///< for the thread
    bool working_ = false;
    std::jthread thread_;  ///< the last member: it uses the others
};

}  // namespace rendak::app
