#pragma once

#include "app/desks/compare/beside.h"
#include "app/desks/compare/pages.h"
#include "app/desks/compare/picture_window.h"
#include "app/desks/compare/replay_board.h"
#include "app/jobs/jobs.h"
#include "app/plot/map_canvas.h"
#include "app/plot/phase_bar.h"
#include "app/plot/shape_strip.h"
#include "app/plot/trace_canvas.h"
#include "app/workspace/desk.h"

class QDoubleSpinBox;
class QLabel;
class QMenu;
class QPushButton;
class QSplitter;
class QStackedLayout;
class QToolButton;

namespace rendak::app {

class ChannelPicker;

/// Two to eight laps on traces and the map: where is the time.
class CompareDesk : public Desk {
    Q_OBJECT
  public:
    explicit CompareDesk(Workspace& workspace, QWidget* parent = nullptr);

    [[nodiscard]] TraceCanvas& canvas() { return *canvas_; }
    [[nodiscard]] MapCanvas& map() { return *map_; }
    [[nodiscard]] ShapeStrip& strip() { return *strip_; }
    [[nodiscard]] ValuePanel& values() { return beside_->values(); }
    [[nodiscard]] Beside& beside() { return *beside_; }
    [[nodiscard]] Replay& replay() { return *replay_; }
    [[nodiscard]] ReplayBoard& board() { return *board_; }
    /// A channel's colour for a lap alone; one that cannot be seen or told apart is exchanged for the nearest that can,
    /// and that is said.
    void colour_channel(const std::string& quantity, const QColor& wished);

    void take_focus() override;
    [[nodiscard]] QString state() const override;
    void restore(const QString& state) override;
    [[nodiscard]] QStringList windows() const override;
    void open_windows(const QStringList& windows) override;
    /// One picture in a window of its own.
    PictureWindow* open_picture(PictureWindow::Shows shows);
    void add_findables(std::vector<Findable>& out) override;
    void show_pictures(PictureBook& book) override;
    void step_corner(int step);
    void go_to_corner(int number);
    void step_cursor(double pixels);
    [[nodiscard]] QString help_under_pointer() const;
    /// How a quantity was painted the last time.
    [[nodiscard]] static MapPaint kept_paint(const std::string& quantity);
    void step_beside(int step);
    /// To the next or previous thing that the active lap does, measured against A's.
    void step_event(int step);
    /// By a pixel, a metre at least; 0 puts the active lap back.
    void slide(int direction);
    void go_to_event(int slot, const LapEvent& event);
    void set_paint(const MapPaint& paint);
    /// The list of channels, below its button.
    void show_picker();
    [[nodiscard]] ChannelPicker& picker() { return *picker_; }
    void show_map(MapCanvas::View view);
    /// Another page of lanes; cursor and range stay.
    void show_page(const QString& name);
    void step_page(int step);
    [[nodiscard]] QString page() const { return page_; }
    /// The lanes are no longer as the page keeps them.
    [[nodiscard]] bool page_is_touched() const { return touched_; }
    /// The lanes as they are become the page's.
    void keep_page();
    /// The lanes as the page keeps them.
    void back_to_page() { show_page(page_); }
    /// Writes onto the active lap at the cursor: on the trace of a quantity, or on the map when that is empty.
    void note_on_picture(const std::string& quantity, const QString& text);
    /// The views that can be given out: traces, map, and what stands beside the traces.
    [[nodiscard]] std::vector<ViewOut> views_out();
    /// A page that somebody wrote to a file, beside one's own.
    void take_page(const QString& file);
    /// The panel beside the traces: map and values.
    void show_side(bool on);
    [[nodiscard]] bool side_is_shown() const;
    [[nodiscard]] QString changes_text() const;
    [[nodiscard]] Pages& pages() { return pages_; }

  private:
    void add_keys();
    QWidget* build_top(QWidget* parent);
    QWidget* build_overlay(QWidget* parent);
    QWidget* build_side(QWidget* parent);
    QWidget* build_empty();
    void refresh();
    void fill_picker();
    void toggle_lane(const std::string& quantity, bool on);
    void fill_paint_menu();
    void ask_paint_limits();
    void fill_marks_menu();
    void fill_marks();
    void fill_pages_menu();
    void order_lanes();
    void show_changes(int slot);
    void show_over_time();
    void tell_stops();
    void find_shift();
    void flip_sign(const std::string& quantity);
    /// Lanes for what these laps have; used until somebody chooses lanes by hand.
    [[nodiscard]] std::vector<Lane> fitting_lanes(const std::vector<Lane>& wanted) const;
    void set_lanes_quietly(std::vector<Lane> lanes);
    void lanes_touched();
    void tell_missing();
    void ask_channel_colour(const std::string& quantity);
    [[nodiscard]] std::vector<Lane> lanes_to_keep() const;
    [[nodiscard]] std::vector<Lane> lanes_of_page() const;
    void tell_page();
    void fill_out_menu();
    void fill_notes_menu(QMenu& menu);
    void ask_picture_note(bool on_map);
    void ask_picture_file(const ViewOut& view);
    void ask_data_file(const ViewOut& view);
    /// Makes a view's data on a worker, and goes on with them.
    void make_data(const ViewOut& view, const std::function<void(const std::string&)>& then);
    void print_view(const ViewOut& view);
    void write_page_file();
    void read_page_file();
    void show_lanes_of_page();

    Pages pages_;
    QString page_ = Pages::first();
    bool lanes_by_hand_ = false;
    bool touched_ = false;             ///< lanes were changed since the page was shown
    std::vector<Lane> touched_lanes_;  ///< those, with what these runs do not have
    QSplitter* halves_;
    QToolButton* pages_button_;
    bool fitting_ = false;  ///< lanes are being set by the desk, not by a person
    QStackedLayout* stack_;
    QLabel *headline_, *evidence_, *changes_, *empty_text_;
    QWidget* overlay_;  ///< moves one whole run over another
    QLabel* shift_label_;
    QDoubleSpinBox* shift_;
    QPushButton* find_shift_;
    Latest matching_, giving_out_;
    QPushButton *distance_, *time_, *run_;
    QPushButton *plan_, *lines_, *side_;
    QMenu* paint_menu_;
    bool map_fits_range_ = false;  ///< what the next click on Fit does
    QMenu *pages_menu_, *marks_menu_, *out_menu_;
    QToolButton* channels_;
    ChannelPicker* picker_;
    TraceCanvas* canvas_;
    ShapeStrip* strip_;
    PhaseBar* phases_;
    MapCanvas* map_;
    Beside* beside_;
    Replay* replay_;
    ReplayBoard* board_;
};

}  // namespace rendak::app
