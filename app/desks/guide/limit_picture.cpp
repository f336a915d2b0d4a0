#include "app/desks/guide/limit_picture.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/plot/leader_line.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/units/gravity.h"

namespace rendak::app {
namespace {

QString why_left_out(CornerReach::Left_out why) {
    switch (why) {
        case CornerReach::Left_out::no:
            break;
        case CornerReach::Left_out::banked:
            return LimitPicture::tr("the road leans");
        case CornerReach::Left_out::crested:
            return LimitPicture::tr("over a crest");
        case CornerReach::Left_out::flat:
            return LimitPicture::tr("taken flat: it shows the engine");
        case CornerReach::Left_out::suspicious:
            return LimitPicture::tr("suspiciously far above the others");
    }
    return {};
}

QString title_of(const Track& track, int number) {
    return QString::fromStdString(corner_title(track, number));
}

}  // namespace

LimitPicture::LimitPicture(QWidget* parent) : QWidget(parent) {
    setMinimumSize(320, 420);
    setAccessibleName(tr("What the car was seen to reach, by speed"));
    setMouseTracking(true);
}

void LimitPicture::set_data(std::shared_ptr<const GuideData> guide) {
    data_ = std::move(guide);
    update();
}

double LimitPicture::most_mps() const {
    double out = 40;
    for (const double v : data_->speed_mps) out = std::max(out, v);
    return 1.05 * out;
}

double LimitPicture::most_mps2() const {
    const ObservedLimit& limit = *data_->limit;
    double out = 10;
    for (const CornerReach& it : limit.corners) out = std::max(out, it.lateral_mps2);
    if (limit.braking) out = std::max(out, limit.braking->at(limit.braking->seen_mps.end));
    for (const auto* it : {&data_->calculated_lateral, &data_->calculated_braking}) {
        for (const auto& point : it->points) out = std::max(out, point.mps2);
    }
    return 1.1 * out;
}

QRectF LimitPicture::plot_in(QRectF area) const {
    return area.adjusted(48, 46, -14, -0.34 * area.height());
}

QPointF LimitPicture::at(QRectF plot, double speed_mps, double mps2) const {
    return {plot.left() + speed_mps / most_mps() * plot.width(), plot.bottom() - mps2 / most_mps2() * plot.height()};
}

QPointF LimitPicture::place_of(int corner) const {
    if (data_ == nullptr || data_->limit == nullptr) return {};
    const CornerReach* it = data_->limit->reach_of(corner);
    return it == nullptr ? QPointF() : at(plot_in(rect()), it->speed_mps, it->lateral_mps2);
}

QString LimitPicture::words() const {
    if (data_ == nullptr) return {};
    if (data_->limit == nullptr) return data_->no_pace;
    const ObservedLimit& limit = *data_->limit;
    const Shown speed = shown("speed");
    const auto in_g = [](double mps2) { return QString::number(mps2 / standard_gravity_mps2, 'f', 2); };
    const auto at_speed = [&](double mps) {
        return QString::number(mps * speed.difference_from_si(1), 'f', 0) + u' ' + speed.unit;
    };
    const Interval seen = limit.lateral.seen_mps;
    QStringList out;
    out << tr("Observed, over %1: lateral %2 g at %3 to %4 g at %5, in %6.")
               .arg(counted(static_cast<qsizetype>(limit.laps), tr("lap"), tr("laps")),
                    in_g(limit.lateral.at(seen.begin)), at_speed(seen.begin), in_g(limit.lateral.at(seen.end)),
                    at_speed(seen.end),
                    counted(static_cast<qsizetype>(limit.lateral.support), tr("corner"), tr("corners")));
    if (!limit.lateral.by_speed) out << tr("The speeds are too much alike to tell how it grows with speed.");
    if (limit.left_share && limit.right_share)
        out << tr("Left turns reach %1 % of it, right ones %2 %.")
                   .arg(QString::number(100 * *limit.left_share, 'f', 0),
                        QString::number(100 * *limit.right_share, 'f', 0));
    if (limit.braking)
        out << tr("Braking %1 g at %2 to %3 g at %4.")
                   .arg(in_g(limit.braking->at(limit.braking->seen_mps.begin)), at_speed(limit.braking->seen_mps.begin),
                        in_g(limit.braking->at(limit.braking->seen_mps.end)), at_speed(limit.braking->seen_mps.end));
    else
        out << tr("How hard it brakes cannot be told.");
    QStringList higher;
    for (const CornerReach& it : limit.corners) {
        if (it.higher_lap)
            higher << tr("%1 (lap %2: %3 g against %4 g)")
                          .arg(title_of(*data_->track, it.corner))
                          .arg(it.higher_lap->lap)
                          .arg(in_g(it.higher_mps2), in_g(it.quickest_lap_mps2));
    }
    if (!higher.isEmpty())
        out << tr("Slower laps reached more than the quickest in %1.").arg(higher.join(QStringLiteral(", ")));
    QStringList left_out;
    for (const CornerReach& it : limit.corners) {
        if (it.left_out != CornerReach::Left_out::no)
            left_out << title_of(*data_->track, it.corner) + QStringLiteral(" (") + why_left_out(it.left_out) + u')';
    }
    if (!left_out.isEmpty())
        out << tr("Left out: %1. Click a hollow mark to let it count.").arg(left_out.join(QStringLiteral(", ")));
    if (!data_->put_back.empty()) {
        QStringList back;
        for (const int it : data_->put_back) back << title_of(*data_->track, it);
        out << tr("Put back by hand: %1; a click leaves it out again.").arg(back.join(QStringLiteral(", ")));
    }
    if (data_->calculated_lateral.known() || data_->calculated_braking.known())
        out << tr("Dashed: calculated, from the car sheet.");
    else
        out << tr("A calculated limit can be written on the car sheet: \"Lateral limit at 120 km/h\".");
    return out.join(u' ');
}

void LimitPicture::paint(QPainter& painter, QRectF area) const {
    const Theme& t = theme();
    painter.fillRect(area, t.panel);
    if (data_ == nullptr) return;
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(body_font());
    if (data_->limit == nullptr) {
        painter.setPen(t.mute);
        painter.drawText(area.adjusted(20, 20, -20, -20), Qt::AlignCenter | Qt::TextWordWrap, data_->no_pace);
        painter.restore();
        return;
    }
    const ObservedLimit& limit = *data_->limit;
    const QRectF plot = plot_in(area);
    const Shown speed = shown("speed");
    painter.setPen(t.ink);
    painter.setFont(body_font(true));
    painter.drawText(QRectF(area.left() + 12, area.top() + 6, area.width() - 24, 20), Qt::AlignLeft | Qt::AlignVCenter,
                     tr("The limit that was seen"));
    painter.setFont(small_font());
    // Steps of the person's speed, and of half a g.
    const double per_mps = speed.difference_from_si(1);
    for (double v = 0; v <= most_mps() * per_mps; v += 50) {
        const double x = at(plot, v / per_mps, 0).x();
        painter.setPen(t.grid);
        painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()));
        painter.setPen(t.mute);
        painter.drawText(QRectF(x - 30, plot.bottom() + 2, 60, 14), Qt::AlignCenter, QString::number(v, 'f', 0));
    }
    painter.drawText(QRectF(plot.right() - 60, plot.bottom() + 14, 60, 14), Qt::AlignRight, speed.unit);
    for (double a = 0; a <= most_mps2() / standard_gravity_mps2; a += 0.5) {
        const double y = at(plot, 0, a * standard_gravity_mps2).y();
        painter.setPen(t.grid);
        painter.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y));
        painter.setPen(t.mute);
        painter.drawText(QRectF(plot.left() - 44, y - 7, 40, 14), Qt::AlignRight | Qt::AlignVCenter,
                         QString::number(a, 'f', 1));
    }
    painter.drawText(QRectF(plot.left() - 44, plot.top() - 18, 40, 14), Qt::AlignRight, QStringLiteral("g"));
    const auto curve = [&](const QPen& pen, Interval seen, const auto& value, const QString& name) {
        QPolygonF line;
        for (int k = 0; k <= 40; ++k) {
            const double v = seen.begin + seen.length() * k / 40.0;
            line << at(plot, v, value(v));
        }
        painter.setPen(pen);
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
        // Behind its end, where there is room; a line that falls is named above its begin, else one that rises above
        // its end.
        constexpr double mark_px = 12, high_px = 14;
        const double wide = painter.fontMetrics().horizontalAdvance(name) + 2;
        QRectF label(line.back().x() + mark_px, line.back().y() - high_px / 2, wide, high_px);
        if (label.right() > plot.right())
            label.moveTopLeft(line.back().y() > line.front().y()
                                  ? QPointF(line.front().x() + mark_px, line.front().y() - high_px)
                                  : QPointF(line.back().x() - wide, line.back().y() - high_px - 4));
        painter.drawText(label, Qt::AlignLeft | Qt::AlignVCenter, name);
    };
    curve(
        QPen(t.lap(0), 2), limit.lateral.seen_mps, [&](double v) { return limit.lateral.at(v); }, tr("lateral"));
    if (limit.braking)
        curve(
            QPen(t.lost, 2), limit.braking->seen_mps, [&](double v) { return limit.braking->at(v); }, tr("braking"));
    if (limit.driving.known())
        curve(
            QPen(t.won, 2), {limit.driving.speed_mps.front(), limit.driving.speed_mps.back()},
            [&](double v) { return limit.driving.at(v); }, tr("driving"));
    for (const auto& [calculated, tone] :
         {std::pair{&data_->calculated_lateral, t.lap(0)}, {&data_->calculated_braking, t.lost}}) {
        if (calculated->known())
            curve(
                QPen(tone, 1.4, Qt::DashLine), {0.15 * most_mps(), 0.95 * most_mps()},
                [limit_line = calculated](double v) { return limit_line->at(v); }, tr("calculated"));
    }
    // A corner's mark points to its hand; hollow: left out. Those lie on top: they are there to be clicked.
    painter.setFont(small_font(true));
    std::vector<const CornerReach*> marks;
    for (const CornerReach& it : limit.corners) marks.push_back(&it);
    std::stable_partition(marks.begin(), marks.end(),
                          [](const CornerReach* it) { return it->left_out == CornerReach::Left_out::no; });
    struct Numbered {
        const CornerReach* corner;
        QPointF here;
        QRectF number;
        bool counts, far;  ///< far: a line says whose number it is
    };
    std::vector<Numbered> all;
    for (const CornerReach* it : marks) {
        Numbered one{it, at(plot, it->speed_mps, it->lateral_mps2), {}, false, false};
        one.counts = it->left_out == CornerReach::Left_out::no;
        // Below the mark or above it, in a crowd further away: each has its number.
        one.number = QRectF(one.here.x() - 9, 0, 18, 13);
        constexpr double far_px = 18;
        for (const double down : {5.0, -18.0, 17.0, -30.0, 29.0, -42.0, 41.0, -54.0, 53.0, 65.0}) {
            one.number.moveTop(one.here.y() + down);
            one.far = std::abs(down) > far_px;
            if (std::none_of(all.begin(), all.end(),
                             [&](const Numbered& other) { return other.number.intersects(one.number); }))
                break;
        }
        all.push_back(one);
    }
    // From below: lines, a plate for each number that keeps lines and curves out of it, marks, numbers.
    for (const Numbered& one : all)
        if (one.far) draw_leader_line(painter, one.here, one.number.center());
    for (const Numbered& one : all) painter.fillRect(one.number.adjusted(3, 1, -3, -1), t.panel);
    for (const Numbered& one : all) {
        const double to = one.corner->left ? -1 : 1;
        painter.setPen(QPen(t.lap(0), 1.2));
        painter.setBrush(one.counts ? QBrush(t.lap(0)) : QBrush(t.panel));
        painter.drawPolygon(QPolygonF() << one.here + QPointF(6 * to, 0) << one.here + QPointF(-4 * to, -5)
                                        << one.here + QPointF(-4 * to, 5));
    }
    for (const Numbered& one : all) {
        painter.setPen(one.counts ? t.ink : t.mute);
        painter.drawText(one.number, Qt::AlignCenter, QString::number(one.corner->corner));
    }
    painter.setFont(body_font());
    painter.setPen(t.ink);
    painter.drawText(
        QRectF(area.left() + 12, plot.bottom() + 32, area.width() - 24, area.bottom() - plot.bottom() - 36),
        Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, words());
    painter.restore();
}

void LimitPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter, rect());
}

int LimitPicture::corner_at(QPointF place) const {
    if (data_ == nullptr || data_->limit == nullptr) return 0;
    constexpr double near_px = 10;
    int out = 0;
    double least = near_px;
    for (const CornerReach& it : data_->limit->corners) {
        const QPointF away = place_of(it.corner) - place;
        const double far = std::hypot(away.x(), away.y());
        if (far >= least) continue;
        least = far;
        out = it.corner;
    }
    return out;
}

void LimitPicture::mouseReleaseEvent(QMouseEvent* event) {
    if (const int corner = corner_at(event->position()); corner != 0) Q_EMIT corner_clicked(corner);
}

bool LimitPicture::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QWidget::event(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    const int corner = corner_at(help->pos());
    if (corner == 0) return QWidget::event(event);
    const CornerReach& it = *data_->limit->reach_of(corner);
    const Shown speed = shown("speed");
    QString text =
        tr("%1: %2 g at %3 %4, %5 % of the limit")
            .arg(title_of(*data_->track, corner), QString::number(it.lateral_mps2 / standard_gravity_mps2, 'f', 2),
                 QString::number(it.speed_mps * speed.difference_from_si(1), 'f', 0), speed.unit,
                 QString::number(100 * it.used, 'f', 0));
    if (it.left_out != CornerReach::Left_out::no) text += tr("; left out: %1").arg(why_left_out(it.left_out));
    QToolTip::showText(help->globalPos(), text, this);
    return true;
}

}  // namespace rendak::app
