#include "app/desks/compare/replay.h"

#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr double speeds[] = {0.1, 0.25, 0.5, 1, 2, 4};
constexpr int row_px = 34, head_px = 16, frame_ms = 16;

}  // namespace

Replay::Replay(Focus& focus, Comparison& comparison, QObject* parent)
    : QObject(parent), focus_(focus), comparison_(comparison) {
    timer_.setTimerType(Qt::PreciseTimer);
    timer_.setInterval(frame_ms);
    connect(&timer_, &QTimer::timeout, this, [this] { advance(static_cast<double>(clock_.restart()) * 1e-3); });
    connect(&comparison_, &Comparison::changed, this, [this] {
        if (comparison_.laps().empty()) stop();
    });
}

void Replay::start() {
    if (comparison_.laps().empty() || running()) return;
    // From where the cursor is; at the end, or out of sight, from the beginning.
    const Interval view = comparison_.view();
    const double at = comparison_.cursor_in_view();
    if (!view.contains(at) || at > view.end - 1e-3 * view.length()) comparison_.set_cursor_in_view(view.begin);
    clock_.start();
    timer_.start();
    Q_EMIT changed();
}

void Replay::stop() {
    if (!running()) return;
    timer_.stop();
    Q_EMIT changed();
}

void Replay::set_speed(double times) {
    speed_ = std::clamp(times, speeds[0], speeds[std::size(speeds) - 1]);
    Q_EMIT changed();
}

void Replay::step_speed(int step) {
    std::size_t now = 0;
    while (now + 1 < std::size(speeds) && speeds[now] < speed_ - 1e-9) ++now;
    const auto next = std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(now) + step, 0, std::ssize(speeds) - 1);
    set_speed(speeds[next]);
}

void Replay::set_by_time(bool on) {
    by_time_ = on;
    Q_EMIT changed();
}

void Replay::advance(double seconds) {
    if (comparison_.laps().empty()) return;
    const Interval view = comparison_.view();
    const LapMap& a = comparison_.laps().baseline().lap.map;
    const double by_s = seconds * speed_;
    double at = comparison_.cursor_in_view();
    if (comparison_.axis() == Axis::run) {
        at += by_s;
    } else {
        const double t = a.time_at(at) + by_s;
        at = t >= a.end_s() ? a.length_m() + 1 : a.distance_at(t);
    }
    // In a loop.
    if (at > view.end) at = view.begin;
    comparison_.set_cursor_in_view(at);
}

double Replay::time_of(int slot) const {
    if (comparison_.axis() == Axis::run) return comparison_.cursor_time_s(slot);
    const auto& laps = comparison_.laps().laps;
    const LapMap& map = laps[static_cast<std::size_t>(slot)].lap.map;
    const double place = comparison_.cursor_in_view();
    if (!by_time_) return map.time_at(place);
    const LapMap& a = laps.front().lap.map;
    return std::min(map.start_s() + a.time_at(place) - a.start_s(), map.end_s());
}

ReplayBoard::ReplayBoard(Focus& focus, Comparison& comparison, Replay& replay, QWidget* parent)
    : QWidget(parent), comparison_(comparison), replay_(replay) {
    setAccessibleName(tr("What each car does at this moment"));
    connect(&focus, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
    connect(&replay, &Replay::changed, this, qOverload<>(&QWidget::update));
    connect(&comparison, &Comparison::changed, this, [this] {
        activities_.clear();
        most_revs_.clear();
        setFixedHeight(sizeHint().height());
        update();
    });
    setFixedHeight(sizeHint().height());
}

QSize ReplayBoard::sizeHint() const {
    const int laps = std::max(1, static_cast<int>(comparison_.laps().laps.size()));
    return {600, head_px + row_px * laps + 2};
}

ReplayBoard::Row ReplayBoard::row(int slot) const {
    const ComparedLap& it = comparison_.laps().laps[static_cast<std::size_t>(slot)];
    const Recording& recording = *it.lap.recording;
    const double t = replay_.time_of(slot), missing = std::nan("");
    const auto value = [&](const char* quantity) {
        const Channel* channel = recording.find_logged(quantity);
        return channel == nullptr ? missing : channel->value_at(t);
    };
    if (!activities_.contains(slot)) {
        const DriverActivity activity = it.lap.activity();
        activities_.emplace(slot, activity);
        most_revs_[slot] = figures_in_time(it.lap, "engine_speed", {it.lap.map.start_s(), it.lap.map.end_s()}).high;
    }
    const DriverActivity& activity = activities_.at(slot);
    Row out;
    out.throttle = activity.throttle(t);
    out.brake = activity.brake(t);
    out.steering_deg = value("steering") * 180 / std::numbers::pi;
    out.gear = value("gear");
    out.revs = value("engine_speed");
    out.revs_share = out.revs / most_revs_[slot];
    out.speed_mps = value("speed");
    out.lateral_mps2 = value("lateral_acceleration");
    out.along_mps2 = value("longitudinal_acceleration");
    out.gap_s = slot == 0 || !comparison_.laps().on_track() ? missing : it.gap.at(it.lap.map.distance_at(t));
    return out;
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
    for (int c = 0; c < 7; ++c) painter.drawText(column(c, 0, head_px), Qt::AlignCenter, names[c]);
    painter.drawText(QRectF(0, 0, 30, head_px), Qt::AlignCenter, QStringLiteral("%1×").arg(replay_.speed(), 0, 'g', 3));
    for (int slot = 0; slot < static_cast<int>(comparison_.laps().laps.size()); ++slot) {
        const Row now = row(slot);
        const QColor& colour = theme_now.lap(slot);
        const int y = head_px + slot * row_px;
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
        if (std::isfinite(now.steering_deg)) {
            // To the left is positive.
            const double at = wheel.center().x() - std::clamp(now.steering_deg / 180, -1.0, 1.0) * wheel.width() / 2;
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawPolygon(QPolygonF() << QPointF(at, wheel.top()) << QPointF(at - 5, wheel.bottom())
                                            << QPointF(at + 5, wheel.bottom()));
        }
        painter.setPen(theme_now.ink);
        painter.setFont(headline_font());
        painter.drawText(column(2, y, row_px), Qt::AlignCenter,
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
        painter.drawText(column(4, y, row_px), Qt::AlignCenter, with_unit(speed.text(now.speed_mps), speed.unit));
        // A dot in a ring of 2 g: left is left, down is braking.
        const QRectF g = column(5, y + 2, row_px - 4);
        const double radius = g.height() / 2;
        painter.setPen(QPen(theme_now.rule, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(g.center(), radius, radius);
        if (std::isfinite(now.lateral_mps2) && std::isfinite(now.along_mps2)) {
            constexpr double ring_mps2 = 2 * 9.80665;
            double x = -now.lateral_mps2 / ring_mps2, up = now.along_mps2 / ring_mps2;
            const double beyond = std::max(1.0, std::hypot(x, up));
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawEllipse(g.center() + QPointF(x, -up) * (radius / beyond), 3.5, 3.5);
        }
        painter.setPen(now.gap_s > 0 ? theme_now.lost : theme_now.won);
        painter.setFont(number_font());
        if (std::isfinite(now.gap_s))
            painter.drawText(column(6, y, row_px), Qt::AlignCenter, signed_number(now.gap_s, 2));
    }
}

}  // namespace rendak::app
