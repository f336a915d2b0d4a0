#include "app/desks/compare/replay_board.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/units/gravity.h"

namespace rendak::app {
namespace {

constexpr int board_row_px = 34, board_head_px = 16;

}  // namespace

ReplayBoard::ReplayBoard(Focus& focus, Comparison& comparison, Replay& replay, QWidget* parent)
    : QWidget(parent), comparison_(comparison), replay_(replay) {
    setAccessibleName(tr("What each car does at this moment"));
    connect(&focus, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
    connect(&replay, &Replay::changed, this, qOverload<>(&QWidget::update));
    connect(&comparison, &Comparison::changed, this, [this] {
        moments_.clear();
        setFixedHeight(sizeHint().height());
        update();
    });
    setFixedHeight(sizeHint().height());
}

QSize ReplayBoard::sizeHint() const {
    const int laps = std::max(1, static_cast<int>(comparison_.laps().laps.size()));
    return {600, board_head_px + board_row_px * laps + 2};
}

ReplayBoard::Row ReplayBoard::row(int slot) const {
    const ComparedLap& it = comparison_.laps().laps[static_cast<std::size_t>(slot)];
    const double t = replay_.time_of(slot);
    const auto known = moments_.try_emplace(slot, it.lap).first;
    const bool none = slot == 0 || !comparison_.laps().on_track();
    return {known->second.at(t), none ? std::nan("") : it.gap.at(it.lap.map.distance_at(t))};
}

void ReplayBoard::paintEvent(QPaintEvent*) {
    const Theme& theme_now = theme();
    QPainter painter(this);
    painter.fillRect(rect(), theme_now.paper);
    if (comparison_.laps().empty()) return;
    painter.setRenderHint(QPainter::Antialiasing);
    // Columns: letter, brake | throttle, steering, gear, revs, speed, g, gap.
    const double usable = width() - 30 - 8;
    const double shares[] = {0.26, 0.14, 0.07, 0.15, 0.14, 0.10, 0.14};
    const auto column = [&](int at, int y, int high) {
        double x = 30;
        for (int i = 0; i < at; ++i) x += usable * shares[i];
        return QRectF(x, y, usable * shares[at] - 8, high);
    };
    painter.setFont(small_font());
    painter.setPen(theme_now.mute);
    const QString names[] = {
        tr("brake | throttle"), tr("steering"), tr("gear"), tr("revs"), tr("speed"), tr("g"), tr("gap")};
    for (int c = 0; c < 7; ++c) painter.drawText(column(c, 0, board_head_px), Qt::AlignCenter, names[c]);
    painter.drawText(QRectF(0, 0, 30, board_head_px), Qt::AlignCenter,
                     QStringLiteral("%1×").arg(replay_.speed(), 0, 'g', 3));
    for (int slot = 0; slot < static_cast<int>(comparison_.laps().laps.size()); ++slot) {
        const Row it = row(slot);
        const CarMoment& now = it.now;
        const QColor& colour = theme_now.lap(slot);
        const int y = board_head_px + slot * board_row_px;
        painter.setPen(Qt::NoPen);
        painter.setBrush(colour);
        painter.drawRoundedRect(QRectF(8, y + 9, 16, 16), 3, 3);
        painter.setPen(theme_now.on_lap);
        painter.setFont(small_font(true));
        painter.drawText(QRectF(8, y + 9, 16, 16), Qt::AlignCenter, slot_letter(slot));
        // Both pedals from the middle out: the left foot to the left.
        const QRectF pedals = column(0, y + 9, 16);
        const double middle = pedals.center().x(), half = pedals.width() / 2 - 2;
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme_now.grid);
        painter.drawRect(pedals);
        if (std::isfinite(now.brake)) {
            painter.setBrush(theme_now.lost);
            const double size = half * std::clamp(now.brake, 0.0, 1.0);
            painter.drawRect(QRectF(middle - size, pedals.top(), size, pedals.height()));
        }
        if (std::isfinite(now.throttle)) {
            painter.setBrush(theme_now.won);
            painter.drawRect(QRectF(middle, pedals.top(), half * std::clamp(now.throttle, 0.0, 1.0), pedals.height()));
        }
        painter.fillRect(QRectF(middle - 0.5, pedals.top() - 2, 1, pedals.height() + 4), theme_now.ink);
        // Steering: a pointer over a line whose middle is straight on, half a turn to either end.
        const QRectF wheel = column(1, y + 9, 16);
        painter.setPen(QPen(theme_now.rule, 1));
        painter.drawLine(QPointF(wheel.left(), wheel.center().y()), QPointF(wheel.right(), wheel.center().y()));
        painter.drawLine(QPointF(wheel.center().x(), wheel.top()), QPointF(wheel.center().x(), wheel.bottom()));
        if (std::isfinite(now.steering_rad)) {
            // To the left is positive.
            const double at =
                wheel.center().x() - std::clamp(now.steering_rad / std::numbers::pi, -1.0, 1.0) * wheel.width() / 2;
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawPolygon(QPolygonF() << QPointF(at, wheel.top()) << QPointF(at - 5, wheel.bottom())
                                            << QPointF(at + 5, wheel.bottom()));
        }
        painter.setPen(theme_now.ink);
        painter.setFont(headline_font());
        painter.drawText(column(2, y, board_row_px), Qt::AlignCenter,
                         std::isfinite(now.gear) ? QString::number(std::lround(now.gear)) : QStringLiteral("–"));
        const QRectF revs = column(3, y + 9, 16);
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme_now.grid);
        painter.drawRect(revs);
        painter.setFont(body_font());
        if (std::isfinite(now.revs_share)) {
            painter.setBrush(theme_now.rule);
            painter.drawRect(
                QRectF(revs.left(), revs.top(), revs.width() * std::clamp(now.revs_share, 0.0, 1.0), revs.height()));
        }
        painter.setPen(theme_now.ink);
        painter.drawText(revs, Qt::AlignCenter, shown("engine_speed").text(now.revs));
        painter.setFont(number_font());
        const Shown speed = shown("speed");
        painter.drawText(column(4, y, board_row_px), Qt::AlignCenter, with_unit(speed.text(now.speed_mps), speed.unit));
        // A dot in a ring of 2 g: left is left, down is braking.
        const QRectF g = column(5, y + 2, board_row_px - 4);
        const double radius = g.height() / 2;
        painter.setPen(QPen(theme_now.rule, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(g.center(), radius, radius);
        if (std::isfinite(now.lateral_mps2) && std::isfinite(now.along_mps2)) {
            constexpr double ring_mps2 = 2 * standard_gravity_mps2;
            double x = -now.lateral_mps2 / ring_mps2, up = now.along_mps2 / ring_mps2;
            const double beyond = std::max(1.0, std::hypot(x, up));
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawEllipse(g.center() + QPointF(x, -up) * (radius / beyond), 3.5, 3.5);
        }
        painter.setPen(it.gap_s > 0 ? theme_now.lost : theme_now.won);
        painter.setFont(number_font());
        if (std::isfinite(it.gap_s))
            painter.drawText(column(6, y, board_row_px), Qt::AlignCenter, signed_number(it.gap_s, 2));
    }
}

}  // namespace rendak::app
