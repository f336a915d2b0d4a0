#include "app/desks/compare/laps_picture.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/plot/trace_picture.h"
#include "app/plot/trace_raster.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int columns = 2, cell_px = 64, cell_head_px = 14;

}  // namespace

LapsPicture::LapsPicture(Focus& focus, Comparison& comparison, Jobs& jobs, QWidget* parent)
    : KeptPicture(parent), focus_(focus), comparison_(comparison), reading_(jobs) {
    setAccessibleName(tr("The same range of every lap of the run"));
    connect(&comparison_, &Comparison::changed, this, &LapsPicture::read);
    connect(&focus, &Focus::range_changed, this, [this] { invalidate(); });
    connect(&focus, &Focus::laps_changed, this, [this] { read(); });
}

std::shared_ptr<const RunData> LapsPicture::run() const {
    return comparison_.laps().on_track() ? comparison_.active().run : nullptr;
}

void LapsPicture::show_quantity(const std::string& quantity) {
    quantity_ = is_between_laps(quantity) ? "speed" : quantity;
    read();
}

void LapsPicture::showEvent(QShowEvent* event) {
    read();
    KeptPicture::showEvent(event);
}

void LapsPicture::read() {
    const auto wanted = run();
    if (!isVisible() || !wanted) {
        if (!wanted) {
            read_ = {};
            laps_.clear();
            message_ = tr("Pick laps of a track: then every lap of a run can be looked through here.");
        }
        return invalidate();
    }
    // A run that was opened anew is another one: its laps or corrections changed.
    if (read_ == std::pair(wanted, quantity_)) return invalidate();
    read_ = {wanted, quantity_};
    message_ = tr("Reading the laps …");
    laps_.clear();
    invalidate();
    reading_.run<std::vector<Small>>(
        tr("Laps of the run"),
        [opened = wanted, quantity = quantity_](const JobContext& job) -> Result<std::vector<Small>> {
            std::vector<Small> out;
            const auto laps = complete_laps(*opened);
            for (const RunLap& it : laps) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                out.push_back({it.lap.ref, it.lap.time_s(), it.included, trace_of(it.lap, quantity, Axis::distance)});
                job.report(static_cast<double>(out.size()) / static_cast<double>(laps.size()));
            }
            return out;
        },
        [this](Result<std::vector<Small>> found) {
            if (found) {
                laps_ = std::move(*found);
                message_ = laps_.empty() ? tr("This run has no complete lap.") : QString();
            } else {
                message_ = QString::fromStdString(found.error().text());
            }
            setMinimumHeight(sizeHint().height());
            invalidate();
        });
}

QSize LapsPicture::sizeHint() const {
    const int rows = (static_cast<int>(laps_.size()) + columns - 1) / columns;
    return {310, std::max(120, rows * (cell_px + cell_head_px) + 4)};
}

QRect LapsPicture::area_of(std::size_t lap) const {
    const int place = static_cast<int>(lap), each = width() / columns;
    return {(place % columns) * each, (place / columns) * (cell_px + cell_head_px), each - 4,
            cell_px + cell_head_px - 4};
}

/// Frames and words, and what is to be drawn into each frame; empty where there is only a message.
std::vector<LapsPicture::Cell> LapsPicture::paint_frames(QPainter& painter) const {
    const Theme& t = theme();
    std::vector<Cell> out;
    if (!message_.isEmpty() || !comparison_.laps().on_track()) {
        painter.setFont(body_font());
        painter.setPen(t.mute);
        painter.drawText(rect().adjusted(12, 12, -12, -12), Qt::AlignCenter | Qt::TextWordWrap, message_);
        return out;
    }
    const Trace& base = comparison_.trace(0, quantity_, Axis::distance);
    for (std::size_t i = 0; i < laps_.size(); ++i) {
        const Small& lap = laps_[i];
        const QRect area = area_of(i);
        const int slot = focus_.slot_of(lap.ref);
        painter.setPen(slot >= 0 ? QPen(t.lap(slot), 2) : QPen(t.rule, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(area.adjusted(0, cell_head_px, 0, 0));
        painter.setFont(small_font(slot >= 0));
        painter.setPen(lap.included ? t.ink : t.mute);
        QString words = tr("Lap %1  %2").arg(lap.ref.lap).arg(lap_time(lap.time_s));
        if (slot >= 0) words = slot_letter(slot) + QStringLiteral("  ") + words;
        if (!lap.included) words += tr(" (does not count)");
        painter.drawText(QRect(area.left() + 2, area.top(), area.width() - 2, cell_head_px),
                         Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(words, Qt::ElideRight, area.width() - 2));
        Cell cell{area.adjusted(2, cell_head_px + 2, -2, -2), {}};
        if (slot != 0 && !base.empty()) cell.curves.push_back({&base, t.mute.lighter(150)});
        if (!lap.trace.empty()) cell.curves.push_back({&lap.trace, slot >= 0 ? t.lap(slot) : t.ink});
        out.push_back(std::move(cell));
    }
    return out;
}

Interval LapsPicture::values_si() const {
    std::optional<Interval> values;
    for (const Small& lap : laps_) {
        const auto own = lap.trace.limits(comparison_.range_m());
        if (!own) continue;
        values = values ? Interval{std::min(values->begin, own->begin), std::max(values->end, own->end)} : *own;
    }
    return with_margin(values.value_or(Interval{0, 1}));
}

void LapsPicture::draw_picture(QImage& image) {
    std::vector<Cell> cells;
    {
        QPainter painter(&image);
        cells = paint_frames(painter);
    }
    const double ratio = image.devicePixelRatio();
    std::vector<DrawnLane> lanes;
    const Interval si = values_si();
    for (const Cell& cell : cells) {
        DrawnLane lane;
        lane.area =
            QRect(QPointF(cell.inside.topLeft() * ratio).toPoint(), (QSizeF(cell.inside.size()) * ratio).toSize());
        lane.x = {comparison_.range_m(), cell.inside.left() * ratio, (cell.inside.right() + 1) * ratio};
        lane.y = {si, cell.inside.bottom() * ratio, cell.inside.top() * ratio};
        lane.width_px = lap_trace_width_px * ratio;
        for (const PlottedTrace& curve : cell.curves) lane.traces.push_back({curve.trace, curve.colour.rgb()});
        lanes.push_back(std::move(lane));
    }
    draw_lanes(image, lanes);
}

ViewOut LapsPicture::out(const QString& name) {
    return {name, size(), [this](QPainter& painter, QSize size) {
                painter.fillRect(QRect(QPoint(), size), theme().panel);
                painter.setRenderHint(QPainter::Antialiasing);
                const Interval si = values_si();
                for (const Cell& cell : paint_frames(painter)) {
                    const Scale x{comparison_.range_m(), double(cell.inside.left()), double(cell.inside.right() + 1)},
                        y{si, double(cell.inside.bottom()), double(cell.inside.top())};
                    for (const PlottedTrace& curve : cell.curves)
                        paint_curve(painter, curve, x, y, {}, LinePattern::solid, cell.inside);
                }
            }};
}

void LapsPicture::draw_over(QPainter&) {}

void LapsPicture::mousePressEvent(QMouseEvent* event) {
    for (std::size_t i = 0; i < laps_.size(); ++i) {
        if (!area_of(i).contains(event->position().toPoint())) continue;
        const int known = focus_.slot_of(laps_[i].ref);
        if (known >= 0) return focus_.set_active_slot(known);
        // A stays what it is: a first click adds, the next ones go on with that slot.
        const int slot = comparison_.active_slot();
        if (slot == 0)
            (void)focus_.add_lap(laps_[i].ref);
        else
            focus_.replace_slot(slot, laps_[i].ref);
    }
}

}  // namespace rendak::app
