#include "app/film/film_figures.h"

#include <QObject>
#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "app/text/shown.h"
#include "app/theme/film_colours.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr std::array rows{
    FilmFigureRow{FilmFigure::speed, "speed", QT_TRANSLATE_NOOP("Film", "Speed"), 3.6},
    FilmFigureRow{FilmFigure::gear, "gear", QT_TRANSLATE_NOOP("Film", "Gear"), 1.5},
    FilmFigureRow{FilmFigure::revs, "revs", QT_TRANSLATE_NOOP("Film", "Revs"), 4.4},
    FilmFigureRow{FilmFigure::pedals, "pedals", QT_TRANSLATE_NOOP("Film", "Throttle and brake"), 1.5},
    FilmFigureRow{FilmFigure::circle, "circle", QT_TRANSLATE_NOOP("Film", "Friction circle"), 2.4},
    FilmFigureRow{FilmFigure::steering, "steering", QT_TRANSLATE_NOOP("Film", "Steering"), 2.2},
    FilmFigureRow{FilmFigure::lap, "lap", QT_TRANSLATE_NOOP("Film", "Driver, lap and lap time")},
    FilmFigureRow{FilmFigure::gap, "gap", QT_TRANSLATE_NOOP("Film", "Gap")},
    FilmFigureRow{FilmFigure::corner, "corner", QT_TRANSLATE_NOOP("Film", "Corner")},
    FilmFigureRow{FilmFigure::map, "map", QT_TRANSLATE_NOOP("Film", "Map")}};

QString place_words(const Track& track, double at_m) {
    for (const Corner& corner : track.corners)
        if (at_m >= corner.start_m - 30 && at_m <= corner.end_m) return QString::fromStdString(corner.title());
    return {};
}

}  // namespace

std::span<const FilmFigureRow> film_figure_rows() {
    return rows;
}

const FilmFigureRow& film_figure_row(FilmFigure figure) {
    return *std::find_if(rows.begin(), rows.end(), [&](const FilmFigureRow& it) { return it.figure == figure; });
}

bool FilmStyle::has(FilmFigure figure) const {
    return std::find(figures.begin(), figures.end(), figure) != figures.end();
}

FilmStyle usual_film_style() {
    FilmStyle out;
    for (const FilmFigureRow& it : rows) out.figures.push_back(it.figure);
    return out;
}

QString to_text(const FilmStyle& style) {
    QStringList words;
    for (const FilmFigureRow& it : rows)
        if (style.has(it.figure)) words << QLatin1String(it.id);
    QStringList moved;
    for (const auto& [figure, at] : style.moved)
        moved << QStringLiteral("%1@%2,%3")
                     .arg(QLatin1String(film_figure_row(figure).id))
                     .arg(at.x(), 0, 'f', 4)
                     .arg(at.y(), 0, 'f', 4);
    return words.join(u' ') + QStringLiteral("; ") + (style.on_top ? QStringLiteral("top") : QStringLiteral("bottom")) +
           QStringLiteral("; ") + QString::number(style.size) + QStringLiteral("; ") + moved.join(u' ');
}

FilmStyle film_style_from(const QString& text) {
    const QStringList parts = text.split(u';');
    if (parts.size() != 3 && parts.size() != 4) return usual_film_style();
    FilmStyle out;
    for (const QString& word : parts[0].split(u' ', Qt::SkipEmptyParts))
        for (const FilmFigureRow& it : rows)
            if (word == QLatin1String(it.id)) out.figures.push_back(it.figure);
    out.on_top = parts[1].trimmed() == QStringLiteral("top");
    const double size = parts[2].toDouble();
    out.size = size >= 0.4 && size <= 2.5 ? size : 1;
    if (parts.size() < 4) return out;
    for (const QString& word : parts[3].split(u' ', Qt::SkipEmptyParts)) {
        const QStringList name = word.split(u'@'), at = name.back().split(u',');
        if (name.size() != 2 || at.size() != 2) continue;
        bool reads_x = false, reads_y = false;
        const QPointF place(at[0].toDouble(&reads_x), at[1].toDouble(&reads_y));
        if (!reads_x || !reads_y || !QRectF(0, 0, 1, 1).contains(place)) continue;
        for (const FilmFigureRow& it : rows)
            if (name[0] == QLatin1String(it.id)) out.moved[it.figure] = place;
    }
    return out;
}

FilmMoments::FilmMoments(std::shared_ptr<const RunData> run, const PreparedLap& lap, int slot,
                         const PreparedLap* baseline)
    : run_(std::move(run)), lap_(lap), moments_(lap_), slot_(slot) {
    if (baseline != nullptr && lap_.track != nullptr && baseline->track != nullptr && baseline->ref != lap.ref)
        gap_ = gap_between(baseline->map, lap_.map);
    if (lap_.track == nullptr) return;
    for (const Point& it : lap_.track->line) map_ << QPointF(it.x, -it.y);
    map_of_ = map_.boundingRect();
    const double size = std::max({map_of_.width(), map_of_.height(), 1.0});
    map_of_ = QRectF(map_of_.center() - QPointF(size / 2, size / 2), QSizeF(size, size));
    for (QPointF& it : map_) it = (it - map_of_.topLeft()) / size;
}

FilmMoment FilmMoments::at(double run_s) const {
    FilmMoment out;
    out.now = moments_.at(run_s);
    out.slot = slot_;
    out.who = QString::fromStdString(run_->row.driver);
    out.lap = lap_.track == nullptr ? QString() : QObject::tr("lap %1").arg(lap_.ref.lap);
    out.lap_time_s = run_s - lap_.map.start_s();
    out.gap_s = std::nan("");
    const bool inside = run_s >= lap_.map.start_s() && run_s <= lap_.map.end_s();
    if (lap_.track == nullptr || !inside) return out;
    const double at_m = lap_.map.distance_at(run_s);
    out.corner = place_words(*lap_.track, at_m);
    if (gap_) out.gap_s = gap_->at(at_m);
    out.map = &map_;
    const Point here = lap_.track->position_at(at_m);
    out.place = (QPointF(here.x, -here.y) - map_of_.topLeft()) / map_of_.width();
    return out;
}

}  // namespace rendak::app
