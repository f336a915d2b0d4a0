#include "app/focus/replay.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace rendak::app {
namespace {

constexpr double speeds[] = {0.1, 0.25, 0.5, 1, 2, 4};
constexpr int frame_ms = 16;

}  // namespace

Replay::Replay(Focus& focus, Comparison& comparison, QObject* parent)
    : QObject(parent), focus_(focus), comparison_(comparison) {
    timer_.setTimerType(Qt::PreciseTimer);
    timer_.setInterval(frame_ms);
    connect(&timer_, &QTimer::timeout, this, [this] {
        // Counted from the start of the clock: whole milliseconds a tick would run some 3 % slow.
        const double now_s = static_cast<double>(clock_.nsecsElapsed()) * 1e-9;
        advance(now_s - std::exchange(clock_s_, now_s));
    });
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
    clock_s_ = 0;
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

}  // namespace rendak::app
