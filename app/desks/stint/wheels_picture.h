#pragma once

#include <QWidget>
#include <functional>

#include "app/desks/stint/stint_data.h"
#include "app/plot/scale.h"

namespace rendak::app {

/// The four wheels, laid out like the car from above: a reading over the laps or round the lap, or all readings at the
/// cursor.
class WheelsPicture : public QWidget {
    Q_OBJECT
  public:
    enum class Mode { laps, round, cursor };
    explicit WheelsPicture(QWidget* parent = nullptr);
    void set_data(std::shared_ptr<const StintData> stints);
    void show_kind(std::size_t kind);
    void set_mode(Mode mode);
    [[nodiscard]] std::size_t kind() const { return kind_; }
    [[nodiscard]] Mode mode() const { return mode_; }
    /// Value of a channel of a run (by its place in the data) at the cursor; asked when it is painted.
    void set_cursor_values(std::function<double(std::size_t run, const std::string& channel)> values);
    void set_cursor(double at_m);
    /// Kinds that one of the runs has.
    [[nodiscard]] std::vector<std::size_t> kinds() const;
    /// What stands beside a wheel, line by line.
    [[nodiscard]] QStringList words(std::size_t wheel) const;
    /// Where the two runs differ most round the lap, in a sentence; empty where there are no two.
    [[nodiscard]] QString spike_words() const;
    [[nodiscard]] QRectF plot_of(std::size_t wheel) const;
    [[nodiscard]] QSize minimumSizeHint() const override { return {240, 110}; }

  Q_SIGNALS:
    void lap_clicked(LapRef lap);
    void place_clicked(double at_m, const QString& channel);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    /// Something of each run, behind one word for it.
    struct Line {
        QString word;
        std::vector<std::pair<int, QString>> of_runs = {};  ///< slot and text
        bool strong = false;
    };
    [[nodiscard]] QRectF cell_of(std::size_t wheel) const;
    [[nodiscard]] std::vector<Line> lines(std::size_t wheel) const;
    [[nodiscard]] Scale x_scale(std::size_t wheel) const;
    /// The same for the four: they are read against each other.
    [[nodiscard]] Interval y_values() const;
    void paint_wheel(QPainter& painter, std::size_t wheel) const;
    void paint_at_cursor(QPainter& painter, std::size_t wheel) const;

    std::shared_ptr<const StintData> data_;
    std::size_t kind_ = 0;
    Mode mode_ = Mode::laps;
    double cursor_m_ = 0;
    std::function<double(std::size_t, const std::string&)> at_cursor_;
};

}  // namespace rendak::app
