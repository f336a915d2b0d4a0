#pragma once

#include <QPolygonF>
#include <QRectF>
#include <QString>
#include <map>
#include <memory>
#include <optional>

#include "core/analysis/car_moment.h"
#include "core/intake/run_data.h"

namespace rendak::app {

/// What can stand over a picture.
enum class FilmFigure { speed, gear, revs, pedals, circle, steering, lap, gap, corner, map };
struct FilmFigureRow {
    FilmFigure figure;
    const char* id;
    const char* title;  ///< to be translated
    double wide = 0;    ///< in the strip, in its units; 0: it stands elsewhere
};
[[nodiscard]] std::span<const FilmFigureRow> film_figure_rows();
[[nodiscard]] const FilmFigureRow& film_figure_row(FilmFigure figure);

/// Which figures, where and how large; kept for a car.
struct FilmStyle {
    std::vector<FilmFigure> figures;
    bool on_top = false;                       ///< the strip of figures lies along the upper edge
    double size = 1;                           ///< 1: a sixth of the picture's height
    std::map<FilmFigure, QPointF> moved = {};  ///< middle of those that were moved, as shares of the picture
    bool operator==(const FilmStyle&) const = default;

    [[nodiscard]] bool has(FilmFigure figure) const;
};
[[nodiscard]] FilmStyle usual_film_style();
/// As text, and back; what cannot be read is the usual one.
[[nodiscard]] QString to_text(const FilmStyle& style);
[[nodiscard]] FilmStyle film_style_from(const QString& text);

/// Figures of one moment of a lap.
struct FilmMoment {
    CarMoment now;
    int slot = 0;
    QString who, lap, corner;
    double lap_time_s = 0;           ///< since the lap began
    double gap_s = 0;                ///< NaN: none
    const QPolygonF* map = nullptr;  ///< of the track, within 0 … 1
    QPointF place;                   ///< on it
};

/// Makes moments of one lap. Keeps the run that it reads.
class FilmMoments {
  public:
    /// `baseline`: the lap that gaps are to; none, or the same: no gap.
    FilmMoments(std::shared_ptr<const RunData> run, const PreparedLap& lap, int slot, const PreparedLap* baseline);
    FilmMoments(const FilmMoments&) = delete;  // what reads the lap points to it
    FilmMoments& operator=(const FilmMoments&) = delete;
    [[nodiscard]] FilmMoment at(double run_s) const;
    [[nodiscard]] const PreparedLap& lap() const { return lap_; }

  private:
    std::shared_ptr<const RunData> run_;
    PreparedLap lap_;
    CarMoments moments_;
    int slot_;
    std::optional<GapCurve> gap_;
    QPolygonF map_;
    QRectF map_of_;
};

}  // namespace rendak::app
