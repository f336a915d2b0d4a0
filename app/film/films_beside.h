#pragma once

#include "app/film/film_tile.h"
#include "app/film/lap_films.h"
#include "app/focus/replay.h"
#include "app/workspace/workspace.h"

namespace rendak::app {

/// The film of A and that of the active lap below it, at the cursor; beside the traces.
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

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void refresh();
    void show_moments();
    Workspace& workspace_;
    const Replay* replay_ = nullptr;
    std::array<FilmTile*, 2> tiles_{};
    FilmSources sources_;
    std::string before_;
};

}  // namespace rendak::app
