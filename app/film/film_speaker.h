#pragma once

#include <QObject>
#include <QThread>
#include <mutex>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace rendak::app {

/// Lets the sound of a film be heard while it is played, on a thread of its own: opening a sound device and decoding
/// may take their time. Nothing is opened before something is to be heard.
class FilmSpeaker : public QObject {
    Q_OBJECT
  public:
    explicit FilmSpeaker(QObject* parent = nullptr);
    ~FilmSpeaker() override;

    struct Wish {
        std::vector<std::string> files;
        double film_s = 0, times = 1;
    };
    /// What is to be heard at this moment; said again and again while it plays. What is heard already goes on unless it
    /// is more than a tenth of a second off. No wish: silence.
    void follow(std::optional<Wish> wish);
    /// Why nothing is heard; empty while it is, or while nobody asked.
    [[nodiscard]] const QString& trouble() const { return trouble_; }

  Q_SIGNALS:
    void trouble_changed();

  private:
    class Work;
    void tell(const QString& trouble);

    std::stop_source stop_;
    QThread thread_;
    Work* work_;  ///< lives on the thread
    std::mutex mutex_;
    std::optional<std::optional<Wish>> asked_;  ///< newest; an empty wish: silence
    bool resting_ = true;
    QString trouble_;
};

}  // namespace rendak::app
