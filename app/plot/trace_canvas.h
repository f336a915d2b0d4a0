#pragma once

#include <vector>

#include "app/focus/comparison.h"
#include "app/plot/lane.h"
#include "app/plot/plot_frame.h"
#include "app/plot/trace_picture.h"
#include "app/plot/view_out.h"

class QMenu;

namespace rendak::app {

/// What is dragged onto lanes from a list of channels: the id of a channel.
inline constexpr const char* channel_mime = "application/x-rendak-channel";

/// The traces of the picked laps: lanes over a common axis, with the cursor on top. Edges between lanes are dragged; a
/// lane's label is dragged to another place or into another lane, and has a menu; its scale is turned and dragged.
class TraceCanvas : public PlotFrame {
    Q_OBJECT
  public:
    TraceCanvas(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);

    void set_lanes(std::vector<Lane> lanes);
    [[nodiscard]] const std::vector<Lane>& lanes() const { return lanes_; }
    /// The lane that keys speak of: under the pointer, or the last one touched.
    [[nodiscard]] std::size_t lane_at_hand() const;
    /// Only the lane at hand, as high as the canvas; and all of them again.
    void show_only(bool on);
    [[nodiscard]] bool shows_only_one() const { return only_.has_value(); }
    /// With a lap alone: each channel in a colour of its own instead of the lap's.
    void colour_by_channel(bool on);
    [[nodiscard]] bool colours_by_channel() const { return by_channel_; }
    void scale_lane(std::size_t lane, LaneScale scale);
    /// What a page wants and these laps lack, in words, by the lane that it would stand behind (-1: above the first).
    void set_missing(std::map<int, QString> words);
    /// Colours or scales changed elsewhere.
    void show_anew() { forget_picture(); }
    /// The gap counted from the left edge of the view, instead of from the line; over the whole run there is no such
    /// place.
    void count_gap_from_view(bool on);
    [[nodiscard]] bool counts_gap_from_view() const { return gap_from_view_ && comparison_.axis() != Axis::run; }
    /// A mark of what a lap does, and where it is drawn.
    struct Moment {
        int slot;
        LapEvent event;
        double pixel;
    };
    [[nodiscard]] std::vector<Moment> moments_in_view() const;
    /// What the label's menu holds.
    void fill_lane_menu(QMenu& menu, std::size_t lane);
    static constexpr int label_width = TracePicture::label_width;
    static constexpr int axis_height = TracePicture::axis_height;

    /// The lanes with a line on top that names the laps; its data are all channels of the lanes on a common grid: a
    /// metre, or on axes of time a hundredth of a second (more where that would be more than 200 000 rows).
    [[nodiscard]] ViewOut out(const QString& name);

    // What a test (and a tooltip) can ask.
    [[nodiscard]] QRect plot_area() const override { return TracePicture::plot_area(size()); }
    /// Of the lanes that are shown.
    [[nodiscard]] QRect lane_area(std::size_t lane) const { return picture().lane_area(size(), lane); }
    [[nodiscard]] Interval lane_values(std::size_t lane) const { return picture().lanes[lane].values; }
    [[nodiscard]] const PlottedLane& shown_lane(std::size_t lane) const { return picture().lanes[lane]; }

  Q_SIGNALS:
    void lanes_changed();
    /// A mark was clicked.
    void moment_asked(int slot, const LapEvent& event);
    /// Asked for by the menu on a lane's label.
    void channel_colour_asked(const std::string& quantity);
    void flip_sign_asked(const std::string& quantity);

  protected:
    void draw_picture(QImage& image) override;
    [[nodiscard]] bool covers_all() const override { return true; }
    void draw_cursor(QPainter& painter) override;
    bool press_own(QMouseEvent* event) override;
    void drag_own(QPoint at) override;
    void release_own() override;
    [[nodiscard]] std::optional<Qt::CursorShape> shape_own(QPoint at) const override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dragLeaveEvent(QDragLeaveEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    /// What a press takes hold of.
    enum class Held { nothing, run, lap, edge, label, scale };
    /// Where a channel would land: into a lane, or before it.
    struct Target {
        std::size_t lane = 0;
        bool joins = false;
    };
    [[nodiscard]] std::optional<std::size_t> lane_under(QPoint at) const;
    [[nodiscard]] std::vector<Lane> shown_lanes() const;
    [[nodiscard]] DataWork data() const;
    [[nodiscard]] Target target_at(QPoint at) const;
    void draw_target(QPainter& painter) const;
    void draw_pin(QPainter& painter, double cursor_px);
    void draw_moments(QPainter& painter);
    [[nodiscard]] std::optional<Moment> moment_under(QPoint at) const;
    void count_gap_from_view(PlottedLane& lane) const;
    void land(const std::string& quantity, Target target);
    void move_values(std::size_t lane, Interval values);
    [[nodiscard]] QColor colour_of(int slot, std::size_t quantity, std::size_t before) const;
    [[nodiscard]] Interval values_of(const Lane& lane, const PlottedLane& plotted, Interval view) const;

    /// What is to be painted, with the view in force.
    [[nodiscard]] const TracePicture& picture() const;
    [[nodiscard]] PlottedLane plotted(const Lane& lane) const;
    void add_gap(PlottedLane& lane) const;
    void add_offset_band(PlottedLane& lane) const;
    void add_notes(TracePicture& picture) const;
    void forget_picture();

    /// The whole run that a drag with Ctrl moves; none where there is none.
    [[nodiscard]] std::optional<RunId> movable_run() const;
    /// The lap that a drag with Ctrl and Shift slides along the road.
    [[nodiscard]] std::optional<int> slidable_slot() const;

    Focus& focus_;
    Comparison& comparison_;
    std::vector<Lane> lanes_;
    mutable std::optional<TracePicture> picture_;  ///< fitted once a change: that is a pass over all samples
    mutable Trace trust_, offset_trust_;           ///< of the bands of gap and line
    Held held_ = Held::nothing;
    std::size_t held_lane_ = 0;  ///< of a label or a scale; the lane above an edge
    double press_shift_s_ = 0, press_slid_m_ = 0;
    QPoint press_at_;
    Interval press_values_;
    std::optional<Target> target_;     ///< while a channel is dragged
    std::optional<std::size_t> only_;  ///< the one lane that is shown
    std::size_t at_hand_ = 0;
    bool by_channel_ = false, gap_from_view_ = false;
    std::map<int, QString> missing_;
};

}  // namespace rendak::app
