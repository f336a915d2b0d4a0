#pragma once

#include <QElapsedTimer>
#include <QWidget>
#include <memory>

#include "app/film/film_paint.h"
#include "app/film/film_source.h"
#include "app/film/film_speaker.h"

namespace rendak::app {

/// One camera of one lap: the frame of a moment with figures over it. Where there is no frame it says why, and shows
/// none.
class FilmTile : public QWidget {
    Q_OBJECT
  public:
    explicit FilmTile(QWidget* parent = nullptr);

    struct Of {
        KeptFilm film;
        std::optional<FilmPlace> place;  ///< on the lap's run; none: it is not in step yet
        std::shared_ptr<FilmSource> source;
        std::shared_ptr<const FilmMoments> moments;
        int slot = 0;
    };
    void set_film(std::optional<Of> of);
    [[nodiscard]] const std::optional<Of>& film() const { return of_; }
    void set_place(const std::optional<FilmPlace>& place);
    void set_style(const FilmStyle& style);
    [[nodiscard]] const FilmStyle& film_style() const { return style_; }
    /// The moment of the run that is to be seen.
    void show_moment(double run_s);
    /// Keeps the frame that is shown while the moment moves on; for marking an event in both.
    void hold(bool on);
    [[nodiscard]] bool holds() const { return held_film_s_.has_value(); }
    /// Moment of the film that is shown.
    [[nodiscard]] double film_s() const;
    [[nodiscard]] std::optional<std::size_t> wanted_frame() const { return wanted_; }
    /// The sound of that moment, played so many times as fast; none where there is none, or a frame is held.
    [[nodiscard]] std::optional<FilmSpeaker::Wish> sound(double times) const;
    /// The frame that is to be seen is the one that is.
    [[nodiscard]] bool up_to_date() const;
    /// What it says instead of a picture; empty when there is one.
    [[nodiscard]] QString message() const;
    void set_active(bool on);
    [[nodiscard]] QSize sizeHint() const override { return {480, 270}; }
    [[nodiscard]] QSize minimumSizeHint() const override { return {120, 68}; }

  Q_SIGNALS:
    void chosen();
    void enlarged();
    /// A figure was dragged to another place.
    void style_changed(const FilmStyle& style);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void ask();
    [[nodiscard]] QRectF picture_box() const;
    [[nodiscard]] FilmMoment moment() const;
    /// The figure under a point.
    [[nodiscard]] std::optional<FigureBox> figure_at(QPointF at) const;

    std::optional<Of> of_;
    FilmStyle style_ = usual_film_style();
    double run_s_ = 0;
    std::optional<double> held_film_s_;
    std::optional<std::size_t> wanted_;
    bool active_ = false;
    QElapsedTimer painted_;
    struct Drag {
        FilmFigure figure;
        QPointF pressed, from_middle;
        bool moved = false;
    };
    std::optional<Drag> drag_;
};

}  // namespace rendak::app
