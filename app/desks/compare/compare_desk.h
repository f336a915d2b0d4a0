#pragma once

#include "app/desks/compare/pages.h"
#include "app/desks/compare/value_panel.h"
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
    [[nodiscard]] ValuePanel& values() { return *values_; }

    void take_focus() override;
    [[nodiscard]] QString state() const override { return page_; }
    void restore(const QString& state) override;
    void show_pictures(PictureBook& book) override;
    void step_corner(int step);
    void step_cursor(double pixels);
    void set_paint(const MapPaint& paint);
    /// The list of channels, below its button.
    void show_picker();
    [[nodiscard]] ChannelPicker& picker() { return *picker_; }
    void show_map(MapCanvas::View view);
    /// Another page of lanes; cursor and range stay.
    void show_page(const QString& name);
    void step_page(int step);
    [[nodiscard]] QString page() const { return page_; }
    [[nodiscard]] QString changes_text() const;
    [[nodiscard]] Pages& pages() { return pages_; }

  private:
    void add_keys();
    QWidget* build_top();
    QWidget* build_overlay();
    QWidget* build_side();
    QWidget* build_empty();
    void refresh();
    void fill_picker();
    void toggle_lane(const std::string& quantity, bool on);
    void fill_paint_menu();
    void ask_paint_limits();
    void fill_marks_menu();
    void fill_pages_menu();
    void order_lanes();
    void show_changes(int slot);
    void show_over_time();
    void tell_stops();
    void find_shift();
    void go_to_corner(int number);
    void flip_sign(const std::string& quantity);
    /// Lanes for what these laps have; used until somebody chooses lanes by hand.
    [[nodiscard]] std::vector<Lane> fitting_lanes(const std::vector<Lane>& wanted) const;
    void set_lanes_quietly(std::vector<Lane> lanes);
    void save_lanes();
    void show_lanes_of_page();

    Pages pages_;
    QString page_ = Pages::first();
    bool lanes_by_hand_ = false;
    bool fitting_ = false;  ///< lanes are being set by the desk, not by a person
    QStackedLayout* stack_;
    QLabel *headline_, *evidence_, *changes_, *empty_text_;
    QWidget* overlay_;  ///< moves one whole run over another
    QLabel* shift_label_;
    QDoubleSpinBox* shift_;
    QPushButton* find_shift_;
    Latest matching_;
    QPushButton *distance_, *time_, *run_;
    QPushButton *plan_, *lines_, *side_;
    QMenu* paint_menu_;
    bool map_fits_range_ = false;  ///< what the next click on Fit does
    QMenu *pages_menu_, *marks_menu_;
    QToolButton* channels_;
    ChannelPicker* picker_;
    TraceCanvas* canvas_;
    ShapeStrip* strip_;
    PhaseBar* phases_;
    MapCanvas* map_;
    ValuePanel* values_;
};

}  // namespace rendak::app
