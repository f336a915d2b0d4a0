#include "app/desks/guide/guide_page.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/plot/map_placing.h"
#include "app/plot/road_picture.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double degrees = 180 / std::numbers::pi;

/// One page being painted, from its top to its foot.
class Page {
  public:
    Page(QPainter& painter, QRectF area, const GuideData& data, std::size_t corner)
        : painter_(painter), area_(area), data_(data), it_(data.guide.corners[corner]), at_(corner) {
        const double before = it_.events.turn_in_m.value_or(it_.corner.start_m);
        range_m_ = {std::max(0.0, std::min(it_.range_m.begin, before - 40) - 20),
                    std::min(data.track->length_m,
                             std::max(it_.corner.end_m + 60, std::min(it_.range_m.end, it_.corner.end_m + 160)))};
    }

    void paint() {
        painter_.save();
        painter_.setRenderHint(QPainter::Antialiasing);
        title();
        // What is written comes last; the pictures share what it leaves.
        const double text = text_height(), left = area_.bottom() - y_ - text;
        const double plan = std::clamp(0.5 * left, 90.0, 260.0), unrolled = std::clamp(left - plan, 120.0, 300.0);
        paint_plan(QRectF(area_.left(), y_, area_.width(), plan));
        y_ += plan;
        paint_unrolled(QRectF(area_.left(), y_, area_.width(), unrolled));
        y_ += unrolled + 4;
        words();
        painter_.restore();
    }

  private:
    [[nodiscard]] QString text() const {
        const QString own = own_words(data_, at_);
        return QString::fromStdString(guide_words(it_, *data_.track, guide_units())) +
               (own.isEmpty() ? QString() : u' ' + own);
    }
    [[nodiscard]] QString beware() const {
        QStringList out;
        for (const std::string& it : guide_warnings(it_, *data_.track, guide_units()))
            out << QString::fromStdString(it);
        return out.isEmpty() ? QString() : GuidePage::tr("Beware: %1.").arg(out.join(QStringLiteral("; ")));
    }
    [[nodiscard]] double height_of(const QString& words, const QFont& font) const {
        if (words.isEmpty()) return 0;
        return QFontMetricsF(font)
            .boundingRect(QRectF(0, 0, area_.width() - 24, 4000), Qt::TextWordWrap, words)
            .height();
    }
    [[nodiscard]] double text_height() const {
        return 20 + height_of(text(), body_font()) + 8 + height_of(beware(), body_font(true)) + 8;
    }

    void title() {
        const Theme& t = theme();
        const GuideUnits units = guide_units();
        painter_.setPen(t.ink);
        painter_.setFont(headline_font());
        const QString name = QString::fromStdString(it_.corner.title());
        const QRectF line(area_.left() + 12, area_.top() + 4, area_.width() - 24, 22);
        painter_.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, name);
        const double wide = painter_.fontMetrics().horizontalAdvance(name) + 14;
        painter_.setFont(small_font());
        painter_.setPen(t.mute);
        const auto length = [&](double m) {
            return QString::number(m * units.per_m, 'f', 0) + u' ' + QString::fromStdString(units.length);
        };
        const QString facts = QStringList{QString::fromStdString(guide_kind(it_)),
                                          QStringLiteral("%1°").arg(it_.corner.angle_deg, 0, 'f', 0),
                                          GuidePage::tr("%1 at its tightest").arg(length(it_.corner.radius_m)),
                                          GuidePage::tr("%1 long").arg(length(it_.corner.end_m - it_.corner.start_m))}
                                  .join(QStringLiteral(" · "));
        painter_.drawText(
            line.adjusted(wide, 2, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
            painter_.fontMetrics().elidedText(facts, Qt::ElideRight, static_cast<int>(line.width() - wide)));
        y_ = line.bottom() + 2;
    }

    /// In plan, driven from the foot of the picture upwards.
    void paint_plan(QRectF box) {
        const Theme& t = theme();
        const Track& track = *data_.track;
        const Point way = track.tangent_at(it_.corner.start_m);
        const auto turned = [&](Point p) { return Point{p.x * way.y - p.y * way.x, p.x * way.x + p.y * way.y}; };
        const Interval shown{std::max(0.0, it_.corner.start_m - 60), std::min(track.length_m, it_.corner.end_m + 60)};
        const bool edges = track.edges.source != Edges::Source::none;
        const auto across = [&](double s, double left) {
            return turned(track.position_at(s) + left_of(track.tangent_at(s)) * left);
        };
        constexpr double usual_half_m = 6;
        std::vector<Point> sides[2], line;
        Bounds bounds;
        const auto take = [&](std::vector<Point>& into, Point p) {
            if (!std::isfinite(p.x) || !std::isfinite(p.y)) return;
            into.push_back(p);
            bounds.take(p);
        };
        for (double s = shown.begin; s <= shown.end; s += 2) {
            take(sides[0], across(s, edges ? track.value_at(track.edges.left_m, s) : usual_half_m));
            take(sides[1], across(s, edges ? -track.value_at(track.edges.right_m, s) : -usual_half_m));
            take(line, turned(data_.line[data_.cell(s)]));
        }
        if (line.size() < 2) return;
        const QRectF inside = box.adjusted(90, 28, -90, -10);
        const MapPlacing placed = MapPlacing::fitting(bounds.low, bounds.high, inside.size(), 0);
        const auto pixel = [&](Point p) { return inside.topLeft() + placed.to_pixel(p, inside.size()); };
        const auto path_of = [&](const std::vector<Point>& points) {
            QPainterPath path;
            for (const Point& p : points) path.elementCount() == 0 ? path.moveTo(pixel(p)) : path.lineTo(pixel(p));
            return path;
        };
        QPen edge(t.mute, 1.2);
        // Where the edges are not known the road is only as wide as roads are.
        if (track.edges.source != Edges::Source::driven) edge.setStyle(Qt::DashLine);
        painter_.setBrush(Qt::NoBrush);
        painter_.setPen(edge);
        for (const auto& side : sides) painter_.drawPath(path_of(side));
        if (data_.quickest != nullptr) {
            std::vector<Point> other;
            for (double s = shown.begin; s <= shown.end; s += 2) other.push_back(across(s, data_.quickest->left_at(s)));
            painter_.setPen(QPen(t.accent, 1.4, Qt::DotLine));
            painter_.drawPath(path_of(other));
        }
        painter_.setPen(QPen(t.lap(0), 2));
        painter_.drawPath(path_of(line));
        const Shown speed = shown_speed();
        const auto mark = [&](std::optional<double> at_m, const QString& word, std::optional<double> mps = {}) {
            if (!at_m || !shown.contains(*at_m)) return;
            const std::size_t cell = data_.cell(*at_m);
            const QPointF here = pixel(turned(data_.line[cell]));
            painter_.setPen(QPen(t.panel, 1));
            painter_.setBrush(t.lap(0));
            painter_.drawEllipse(here, 4, 4);
            painter_.setPen(t.lap(0));
            painter_.setFont(small_font(true));
            const QString words =
                word + u' ' +
                QString::number(mps.value_or(data_.speed_mps[cell]) * speed.difference_from_si(1), 'f', 0);
            // On the outer side of the bend, where no line is.
            const QPointF out = pixel(across(*at_m, it_.corner.left ? -20 : 20)) - pixel(across(*at_m, 0));
            const double wide = painter_.fontMetrics().horizontalAdvance(words) + 6, far = std::hypot(out.x(), out.y());
            const QPointF away = far > 0 ? here + out / far * 16 : here;
            const bool to_left = out.x()<-0.3 * far, to_right = out.x()> 0.3 * far;
            QRectF at(to_left ? away.x() - wide : to_right ? away.x() : away.x() - wide / 2, away.y() - 8, wide, 15);
            while (std::any_of(taken_.begin(), taken_.end(), [&](const QRectF& other) { return other.intersects(at); }))
                at.translate(0, out.y() < 0 ? -13 : 13);
            taken_.push_back(at);
            painter_.drawText(at,
                              Qt::AlignVCenter | (to_left    ? Qt::AlignRight
                                                  : to_right ? Qt::AlignLeft
                                                             : Qt::AlignHCenter),
                              words);
        };
        mark(it_.events.brake_on_m, GuidePage::tr("brake"), it_.brake_mps);
        mark(it_.events.turn_in_m, GuidePage::tr("turn-in"));
        mark(it_.events.slowest_m, it_.flat ? GuidePage::tr("flat") : GuidePage::tr("slowest"), it_.slowest_mps);
        mark(it_.events.full_throttle_m, GuidePage::tr("full throttle"));
    }

    [[nodiscard]] static Shown shown_speed() { return shown("speed"); }

    void paint_unrolled(QRectF box) {
        const Theme& t = theme();
        constexpr double label_px = 62;
        const GuideUnits units = guide_units();
        const double zero_m = it_.events.turn_in_m.value_or(it_.corner.start_m);
        const double left = box.left() + label_px, right = box.right() - 12;
        const auto x_of = [&](double s) {
            return left + (s - range_m_.begin) / std::max(1.0, range_m_.length()) * (right - left);
        };
        painter_.setFont(small_font(true));
        painter_.setPen(t.ink);
        painter_.drawText(QRectF(box.left() + 12, box.top(), box.width(), 15), Qt::AlignLeft | Qt::AlignVCenter,
                          GuidePage::tr("The corner unrolled"));
        painter_.setFont(small_font());
        painter_.setPen(t.mute);
        painter_.drawText(
            QRectF(box.left() + 150, box.top(), box.width() - 160, 15), Qt::AlignLeft | Qt::AlignVCenter,
            GuidePage::tr("%1 from %2")
                .arg(QString::fromStdString(units.length),
                     it_.events.turn_in_m ? GuidePage::tr("turn-in") : GuidePage::tr("the corner's begin")));
        paint_phases(QRectF(left, box.top() + 18, right - left, 8), x_of);
        const double top = box.top() + 30, ticks = 14, lane = (box.bottom() - top - ticks) / 3;
        // Metres, in steps that people count in.
        const double span = range_m_.length() * units.per_m;
        const double step = (span > 600 ? 120 : span > 300 ? 60 : 30) / units.per_m;
        for (double s = zero_m + std::ceil((range_m_.begin - zero_m) / step) * step; s <= range_m_.end; s += step) {
            painter_.setPen(t.grid);
            painter_.drawLine(QPointF(x_of(s), top), QPointF(x_of(s), box.bottom() - ticks));
            painter_.setPen(t.mute);
            painter_.drawText(QRectF(x_of(s) - 30, box.bottom() - ticks, 60, ticks), Qt::AlignCenter,
                              QString::number((s - zero_m) * units.per_m, 'f', 0));
        }
        paint_height(QRectF(left, top, right - left, lane - 4), x_of);
        paint_lean(QRectF(left, top + lane, right - left, lane - 4), x_of);
        paint_speed(QRectF(left, top + 2 * lane, right - left, lane - 4), x_of);
    }

    void lane_name(QRectF lane, const QString& name, const QString& unit) {
        painter_.setFont(small_font(true));
        painter_.setPen(theme().ink);
        painter_.drawText(QRectF(area_.left() + 8, lane.top(), 50, 15), Qt::AlignRight | Qt::AlignVCenter, name);
        painter_.setFont(small_font());
        painter_.setPen(theme().mute);
        painter_.drawText(QRectF(area_.left() + 8, lane.top() + 13, 50, 14), Qt::AlignRight | Qt::AlignVCenter, unit);
    }
    void not_known(QRectF lane) {
        painter_.setPen(theme().mute);
        painter_.drawText(lane, Qt::AlignCenter, GuidePage::tr("not known here"));
    }

    /// Braking hatched, turning dotted, the rest of the way plain, as on the ledger's phases.
    void paint_phases(QRectF strip, auto x_of) {
        const Theme& t = theme();
        const auto piece = [&](double from_m, double to_m, Qt::BrushStyle style) {
            const double a = std::max(strip.left(), x_of(from_m)), b = std::min(strip.right(), x_of(to_m));
            if (b <= a) return;
            painter_.fillRect(QRectF(a, strip.top(), b - a, strip.height()), QBrush(t.mute, style));
        };
        painter_.fillRect(strip, t.track);
        const double turn_in = it_.events.turn_in_m.value_or(it_.corner.start_m);
        const double slowest = it_.events.slowest_m.value_or(it_.corner.apex_m);
        if (it_.events.brake_on_m)
            piece(*it_.events.brake_on_m, std::max(turn_in, *it_.events.brake_on_m), Qt::BDiagPattern);
        piece(turn_in, slowest, Qt::Dense5Pattern);
        piece(slowest, std::max(slowest, it_.events.full_throttle_m.value_or(it_.corner.end_m)), Qt::Dense6Pattern);
    }

    void paint_height(QRectF lane, auto x_of) {
        const Theme& t = theme();
        const GuideUnits units = guide_units();
        lane_name(lane, GuidePage::tr("Height"), QString::fromStdString(units.length));
        double low = 1e9, high = -1e9;
        for (std::size_t i = data_.cell(range_m_.begin); i <= data_.cell(range_m_.end); ++i) {
            if (!std::isfinite(data_.height_m[i])) continue;
            low = std::min(low, data_.height_m[i]);
            high = std::max(high, data_.height_m[i]);
        }
        if (low > high) return not_known(lane);
        // Never so large that a metre looks like a hill.
        const double span = std::max(4.0, high - low);
        QPolygonF road;
        for (std::size_t i = data_.cell(range_m_.begin); i <= data_.cell(range_m_.end); ++i)
            road << QPointF(x_of(static_cast<double>(i) * GuideData::step_m),
                            lane.bottom() - 3 - (data_.height_m[i] - low) / span * (lane.height() - 20));
        QPolygonF under = road;
        under << QPointF(road.back().x(), lane.bottom()) << QPointF(road.front().x(), lane.bottom());
        painter_.setPen(Qt::NoPen);
        painter_.setBrush(t.range);
        painter_.drawPolygon(under);
        painter_.setPen(QPen(t.ink, 1.3));
        painter_.setBrush(Qt::NoBrush);
        painter_.drawPolyline(road);
        painter_.setFont(small_font());
        const auto say = [&](const std::optional<double>& climb, const QString& where, Qt::Alignment side) {
            if (!climb) return;
            painter_.drawText(lane, side | Qt::AlignTop, signed_number(*climb * units.per_m, 1) + u' ' + where);
        };
        painter_.setPen(t.ink);
        say(it_.climbs_in_m, GuidePage::tr("on the way in"), Qt::AlignLeft);
        say(it_.climbs_out_m, GuidePage::tr("on the way out"), Qt::AlignRight);
    }

    void paint_lean(QRectF lane, auto x_of) {
        const Theme& t = theme();
        lane_name(lane, GuidePage::tr("Lean"), QStringLiteral("°"));
        const double middle = lane.center().y(), most_rad = 6 / degrees;
        constexpr std::size_t every = 4;
        const std::size_t begin = data_.cell(range_m_.begin), end = data_.cell(range_m_.end);
        const auto first = data_.lean_rad.begin() + static_cast<std::ptrdiff_t>(begin);
        if (std::none_of(first, first + static_cast<std::ptrdiff_t>(end - begin + 1),
                         [](double lean) { return std::isfinite(lean); }))
            return not_known(lane);
        painter_.setPen(t.rule);
        painter_.drawLine(QPointF(lane.left(), middle), QPointF(lane.right(), middle));
        for (std::size_t i = begin; i <= end; i += every) {
            const double raw = data_.lean_rad[i];
            if (!std::isfinite(raw)) continue;
            const double lean = (it_.corner.left ? -1 : 1) * raw;
            // What may as well be nothing is faint.
            QColor tone = lean > 0 ? t.won : t.lost;
            if (!Lean{lean, data_.lean_sd_rad[i]}.told()) tone.setAlphaF(0.3F);
            const double up = std::clamp(lean / most_rad, -1.0, 1.0) * (0.5 * lane.height() - 2);
            const double x = x_of(static_cast<double>(i) * GuideData::step_m);
            const double wide = x_of(range_m_.begin + every * GuideData::step_m) - lane.left();
            painter_.fillRect(QRectF(x, up > 0 ? middle - up : middle, std::max(1.0, 0.75 * wide), std::abs(up)), tone);
        }
        painter_.setFont(small_font(true));
        const auto say = [&](const std::optional<Lean>& lean, Qt::Alignment side) {
            if (!lean || !lean->told()) return;
            painter_.setPen(lean->rad > 0 ? t.won : t.lost);
            // Where the bars are not.
            painter_.drawText(lane, side | (lean->rad > 0 ? Qt::AlignBottom : Qt::AlignTop),
                              GuidePage::tr("%1° ± %2 %3")
                                  .arg(std::abs(lean->rad) * degrees, 0, 'f', 1)
                                  .arg(lean->sd_rad * degrees, 0, 'f', 1)
                                  .arg(lean->rad > 0 ? GuidePage::tr("your way") : GuidePage::tr("away")));
        };
        say(it_.lean_in, Qt::AlignLeft);
        say(it_.lean_middle, Qt::AlignHCenter);
        say(it_.lean_out, Qt::AlignRight);
    }

    void paint_speed(QRectF lane, auto x_of) {
        const Theme& t = theme();
        const Shown speed = shown_speed();
        lane_name(lane, GuidePage::tr("Speed"), speed.unit);
        double low = 1e9, high = 0;
        for (std::size_t i = data_.cell(range_m_.begin); i <= data_.cell(range_m_.end); ++i) {
            low = std::min(low, data_.speed_mps[i]);
            high = std::max(high, data_.speed_mps[i]);
        }
        const double span = std::max(5.0, high - low);
        QPolygonF curve;
        for (std::size_t i = data_.cell(range_m_.begin); i <= data_.cell(range_m_.end); ++i)
            curve << QPointF(x_of(static_cast<double>(i) * GuideData::step_m),
                             lane.bottom() - 3 - (data_.speed_mps[i] - low) / span * (lane.height() - 8));
        painter_.setPen(QPen(t.lap(0), 1.6));
        painter_.setBrush(Qt::NoBrush);
        painter_.drawPolyline(curve);
    }

    void words() {
        const Theme& t = theme();
        const auto block = [&](const QString& words, const QFont& font, const QColor& ink) {
            if (words.isEmpty()) return;
            painter_.setFont(font);
            painter_.setPen(ink);
            QRectF used;
            painter_.drawText(QRectF(area_.left() + 12, y_, area_.width() - 24, 4000), Qt::TextWordWrap, words, &used);
            y_ += used.height() + 6;
        };
        block(GuidePage::tr("In words"), small_font(true), t.ink);
        block(text(), body_font(), t.ink);
        block(beware(), body_font(true), t.lost);
    }

    QPainter& painter_;
    QRectF area_;
    const GuideData& data_;
    const GuideCorner& it_;
    std::size_t at_;
    Interval range_m_;
    double y_ = 0;
    std::vector<QRectF> taken_;
};

}  // namespace

QString own_words(const GuideData& data, std::size_t corner) {
    QStringList out;
    const int number = data.guide.corners[corner].corner.number;
    if (const PaceRow* row = data.pace_of(number)) {
        constexpr double least_s = 0.03;
        if (row->unused_s() >= least_s)
            out << GuidePage::tr("This lap leaves %1 s here of what the car has already shown.")
                       .arg(QString::number(row->unused_s(), 'f', 2));
    }
    if (corner < data.across.size() && data.across[corner].told && data.across[corner].missed_m)
        out << QString::fromStdString(line_words(data.across[corner], data.first_line, *data.track));
    for (const GripUse& use : data.use) {
        if (use.corner != number || !use.mean) continue;
        const auto per_cent = [](double share) { return QString::number(100 * share, 'f', 0); };
        if (use.entry && use.exit)
            out << GuidePage::tr("Of the grip seen it uses %1 % to the slowest place, %2 % behind it.")
                       .arg(per_cent(*use.entry), per_cent(*use.exit));
    }
    for (const GripUseOverLaps& it : data.use_over_laps) {
        if (it.corner != number) continue;
        const auto often = [&](const std::optional<GripShare>& share, const QString& where) {
            if (share && share->laps > 1 && share->little_laps > 0)
                out << GuidePage::tr("Less than %1 % of it %2 on %3 of %4 laps.")
                           .arg(QString::number(100 * GripShare::little, 'f', 0), where)
                           .arg(share->little_laps)
                           .arg(share->laps);
        };
        often(it.entry, GuidePage::tr("to the slowest place"));
        often(it.exit, GuidePage::tr("behind it"));
    }
    if (data.quickest != nullptr) {
        constexpr double least_s = 0.02;
        for (const QuickestLine::Row& row : data.quickest->rows) {
            if (row.corner == number && row.gain_s() >= least_s)
                out << GuidePage::tr(
                           "The dotted line would be %1 s quicker here, for a point with this car's limits: a "
                           "comparison, no aim.")
                           .arg(QString::number(row.gain_s(), 'f', 2));
        }
    }
    return out.join(u' ');
}

GuidePage::GuidePage(QWidget* parent) : QWidget(parent) {
    setMinimumSize(320, 420);
    setAccessibleName(tr("The corner: in plan, unrolled, and in words"));
}

void GuidePage::set_data(std::shared_ptr<const GuideData> guide) {
    data_ = std::move(guide);
    corner_ = 0;
    update();
}

void GuidePage::set_corner(std::size_t corner) {
    corner_ = corner;
    update();
}

QString GuidePage::words() const {
    if (data_ == nullptr || data_->guide.corners.empty()) return {};
    return QString::fromStdString(guide_words(data_->guide.corners[corner_], *data_->track, guide_units()));
}

QStringList GuidePage::warnings() const {
    QStringList out;
    if (data_ == nullptr || data_->guide.corners.empty()) return out;
    for (const std::string& it : guide_warnings(data_->guide.corners[corner_], *data_->track, guide_units()))
        out << QString::fromStdString(it);
    return out;
}

void GuidePage::paint_page(QPainter& painter, QRectF area, const GuideData& guide, std::size_t corner) {
    painter.fillRect(area, theme().panel);
    if (corner < guide.guide.corners.size()) Page(painter, area, guide, corner).paint();
}

void GuidePage::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    if (data_ != nullptr) paint_page(painter, rect(), *data_, corner_);
}

}  // namespace rendak::app
