#pragma once

#include "app/film/film_tile.h"
#include "app/film/lap_films.h"
#include "app/focus/replay.h"
#include "app/workspace/workspace.h"

class QLabel;
class QPushButton;

namespace rendak::app {

/// The film of A and that of the active lap below it, at the cursor; beside the traces. The one that was clicked last
/// is heard while it plays.
class FilmsBeside : public QWidget {
    Q_OBJECT
  public:
    explicit FilmsBeside(Workspace& workspace, QWidget* parent = nullptr);
    /// Where cars are after the same time their films are, too.
    void follow(const Replay& replay);
    [[nodiscard]] FilmTile& tile(std::size_t which) { return *tiles_[which]; }
    /// It takes what is there: the panel beside the traces is as wide as the others need it.
    [[nodiscard]] QSize sizeHint() const override { return {200, 220}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {120, 120}; }
    [[nodiscard]] bool up_to_date() const;
    /// "Run 2, lap 4: frame 1201 of 3000", a line a film.
    [[nodiscard]] QString data_text() const;
    /// "Sound", and why nothing is heard; to be laid out above the films.
    [[nodiscard]] QList<QWidget*> tools() const;
    [[nodiscard]] bool is_silent() const;
    void set_silent(bool on);
    [[nodiscard]] std::optional<FilmSpeaker::Wish> to_hear() const;

  Q_SIGNALS:
    void silence_changed();

  protected:
    void hideEvent(QHideEvent* event) override;
    void showEvent(QShowEvent* event) override;

  private:
    void refresh();
    void choose(std::size_t which);
    void mark_heard();
    void show_moments();
    Workspace& workspace_;
    const Replay* replay_ = nullptr;
    std::array<FilmTile*, 2> tiles_{};
    std::size_t heard_ = 0;
    QPushButton* sound_;
    QLabel* trouble_;
    FilmSources sources_;
    FilmSpeaker speaker_;
};

}  // namespace rendak::app
