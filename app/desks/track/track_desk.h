#pragma once

#include <functional>

#include "app/desks/track/track_map.h"
#include "app/desks/track/track_strip.h"
#include "app/workspace/desk.h"
#include "core/intake/edit_track.h"

class QComboBox;
class QLabel;
class QMenu;
class QPushButton;
class QStackedLayout;
class QTableWidget;

namespace rendak::app {

/// The tracks of the library and their editor: start line, corners, sectors, pit lane, edges, height, banking. Every
/// edit can be undone; moving the line, the finish or the direction cuts all runs of the track again.
class TrackDesk : public Desk {
    Q_OBJECT
  public:
    explicit TrackDesk(Workspace& workspace, QWidget* parent = nullptr);

    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    void show_track(TrackId id);
    [[nodiscard]] const Track* track() const { return track_.get(); }
    [[nodiscard]] TrackStrip& strip() { return *strip_; }
    [[nodiscard]] TrackMap& map() { return *map_; }
    [[nodiscard]] QString summary() const;
    [[nodiscard]] QString hint() const;
    void select_corner(int corner);
    void set_place(double distance_m);
    void set_range(Interval range_m);

    // What the buttons do; also called by tests.
    void add_corner_here();
    void delete_selected();
    void join_selected();
    void number_selected(int number);
    void restore_found();
    void add_sector_line();
    void remove_sector_line();
    void start_here();
    void start_at(const StartLine& line);
    void finish_here();
    void turn_round();
    void learn_edges_from_spread();
    void learn_edges_from_laps(LapRef left, LapRef right);
    void learn_height_and_banking();
    void learn_pit_lane();
    /// Refused while runs are cut at it.
    void remove();
    void import_file(const QString& file);
    [[nodiscard]] Result<void> export_file(const QString& file) const;
    /// Whether a file may take the place of the library's track of that name; a question, in tests something else.
    std::function<bool(const QString& name)> ask_to_replace;

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    /// Of the table of corners.
    enum Column { number, name, hand, start, apex, end, radius, angle, bank, columns };
    QWidget* build_full();
    QWidget* build_empty();
    QWidget* build_side(QWidget* parent);
    void list_tracks();
    void refresh();
    void fill_table();
    /// Stores an edited track (or tells why it cannot be); `recut`: laps of all its runs are cut again.
    void store(const QString& text, const Result<Track>& edited, bool recut = false, double start_moved_m = 0);
    void store_state(const QString& text, TrackId id, const TrackState& after, bool recut);
    /// Work on the laps of the library, then store its track.
    void learn(const QString& text,
               const std::function<Result<Track>(Library&, TrackId, Track, const JobContext&)>& work);
    void show_place(double distance_m);
    void preview_start();
    void ask_start_by_place();
    void ask_edge_laps();
    void ask_number();
    void rename();

    TrackId id_;
    Latest previewing_;
    std::shared_ptr<const Track> track_;
    double place_m_ = 0;
    Interval range_m_;
    int selected_ = -1;
    bool filling_ = false;
    bool stale_ = true;  ///< the library changed while the desk was not in sight
    QStackedLayout* stack_;
    QComboBox* tracks_;
    QLabel *summary_, *hint_;
    TrackMap* map_;
    TrackStrip* strip_;
    QTableWidget* corners_;
    std::vector<QPushButton*> corner_buttons_;
    QPushButton *finish_button_ = nullptr, *start_button_ = nullptr, *turn_button_ = nullptr;
};

}  // namespace rendak::app
