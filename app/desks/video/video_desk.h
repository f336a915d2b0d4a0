#pragma once

#include <array>
#include <map>

#include "app/film/film_speaker.h"
#include "app/film/film_tile.h"
#include "app/film/lap_films.h"
#include "app/focus/replay.h"
#include "app/workspace/desk.h"

class QComboBox;
class QGridLayout;
class QLabel;
class QMenu;
class QPushButton;
class QStackedLayout;

namespace rendak::app {

class MomentStrip;

/// The picture at the same place as the data: up to two cameras of A and of the active lap, at the cursor; played, put
/// in step, and cut into clips.
class VideoDesk : public Desk {
    Q_OBJECT
  public:
    explicit VideoDesk(Workspace& workspace, QWidget* parent = nullptr);

    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    [[nodiscard]] QString state() const override;
    void restore(const QString& state) override;

    [[nodiscard]] Replay& replay() { return replay_; }
    [[nodiscard]] QString headline() const;
    [[nodiscard]] QString told() const;
    /// Tiles that show a film, A's first.
    [[nodiscard]] std::vector<FilmTile*> shown_tiles() const;
    [[nodiscard]] FilmTile* chosen_tile() const;
    /// What is to be heard now: the chosen film, while it plays.
    [[nodiscard]] std::optional<FilmSpeaker::Wish> to_hear() const;
    /// Every frame that is to be seen is.
    [[nodiscard]] bool up_to_date() const;
    /// The chosen tile alone over the whole screen, and back.
    void set_full_screen(bool on);
    void enlarge(FilmTile* tile);
    /// Adds films as they are, without asking; the same as the menu after its questions.
    void add_films(const std::vector<std::vector<std::filesystem::path>>& films, const QString& camera, bool keep);
    void add_folder(const std::filesystem::path& folder, const QString& camera);
    void find_moved(const std::filesystem::path& folder);
    void take_out(std::int64_t film);
    /// A clip of what is picked; the same as the dialog after its questions.
    struct Clip {
        bool both = false, beside = false;
        std::optional<Interval> range_m = {};  ///< none: the whole lap
        double lead_s = 2;
        QSize size = {};
        QString file = {};
    };
    void write_clip(const Clip& clip);

    // Putting the chosen film in step (video_sync.cpp).
    void propose();
    /// By what the camera's own receiver recorded.
    void propose_by_log(const std::filesystem::path& log);
    void nudge(double by_s);
    void mark_here();
    void by_clocks();

  protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QWidget* build_full();
    QWidget* build_tools(QWidget* parent);
    QWidget* build_sync(QWidget* parent);
    QWidget* build_empty();
    void build_menus();
    void refresh();
    void lay_out();
    void show_moments();
    void tell();
    void hear();
    void fill_films_menu();
    void choose_tile(FilmTile* tile);
    void choose_film(std::int64_t film);
    void step_frames(int by);
    void set_style(const FilmStyle& style);
    void look(const std::filesystem::path& log);
    void ask_clip();
    void ask_files();
    void put_place(const FilmPlace& place, const QString& what);
    [[nodiscard]] FilmStyle style_of_car() const;

    static constexpr std::size_t most_tiles = 4;
    Replay replay_;
    QStackedLayout* stack_;
    QWidget *tiles_holder_, *sync_, *full_ = nullptr;
    QGridLayout* grid_;
    std::array<FilmTile*, most_tiles> tiles_{};
    FilmTile *chosen_ = nullptr, *large_ = nullptr;
    QLabel *headline_, *told_, *empty_words_;
    QPushButton *play_, *sound_, *figures_, *films_, *clip_, *propose_, *mark_, *clocks_, *empty_go_;
    std::vector<QPushButton*> nudges_;
    QComboBox *speed_, *lock_, *film_box_;
    QMenu *figures_menu_, *films_menu_;
    MomentStrip* strip_;
    FilmStyle style_ = usual_film_style();
    std::vector<KeptFilm> known_;
    std::map<std::pair<int, std::size_t>, std::int64_t> wishes_;  ///< films that were chosen for a slot's tiles
    FilmSpeaker speaker_;
    FilmSources sources_;
    std::vector<FilmMark> marks_;  ///< of the chosen film, said in this sitting
    std::int64_t marks_of_ = 0;
    Latest proposing_, adding_, clipping_;
    std::string before_;  ///< what the tiles were made from
};

}  // namespace rendak::app
