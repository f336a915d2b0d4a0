#include "app/desks/compare/value_panel.h"

#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int row_px = 17, head_px = 22, letter_px = 24;
constexpr std::array<double, 5> shares{0.22, 0.21, 0.19, 0.19, 0.19};

QRect column_area(int width, int y, int height, int column) {
    double from = letter_px;
    const double usable = width - letter_px - 6;
    for (int i = 0; i < column; ++i) from += usable * shares[static_cast<std::size_t>(i)];
    return QRect(static_cast<int>(from), y, static_cast<int>(usable * shares[static_cast<std::size_t>(column)]),
                 height);
}

}  // namespace

ValuePanel::ValuePanel(Focus& focus, Comparison& comparison, QWidget* parent)
    : QWidget(parent), focus_(focus), comparison_(comparison) {
    setMouseTracking(true);
    setAccessibleName(tr("Values at the cursor and in the range"));
    connect(&comparison_, &Comparison::changed, this, [this] {
        forget_figures();
        setMinimumHeight(sizeHint().height());
    });
    connect(&focus_, &Focus::range_changed, this, &ValuePanel::forget_figures);
    connect(&focus_, &Focus::cursor_changed, this, qOverload<>(&QWidget::update));
}

void ValuePanel::forget_figures() {
    figures_.clear();
    update();
}

void ValuePanel::set_quantities(std::vector<std::string> quantities) {
    quantities_ = std::move(quantities);
    setMinimumHeight(sizeHint().height());
    update();
}

std::vector<ValuePanel::Row> ValuePanel::rows() const {
    std::vector<Row> out;
    const int laps = static_cast<int>(comparison_.laps().laps.size());
    for (const std::string& quantity : quantities_) {
        const bool logged = [&] {
            for (int slot = 0; slot < laps; ++slot) {
                if (!comparison_.trace(slot, quantity).empty()) return true;
            }
            return false;
        }();
        if (!logged || (quantity == "gap" && laps < 2)) continue;
        out.push_back({quantity, -1});
        for (int slot = quantity == "gap" ? 1 : 0; slot < laps; ++slot) out.push_back({quantity, slot});
    }
    return out;
}

QSize ValuePanel::sizeHint() const {
    return {310, head_px + static_cast<int>(rows().size()) * row_px + 6};
}

const RangeFigures& ValuePanel::figures(const std::string& quantity, int slot) const {
    const auto key = std::pair(quantity, slot);
    const auto found = figures_.find(key);
    if (found != figures_.end()) return found->second;
    const Interval range = comparison_.range_m();
    const ComparedLap& lap = comparison_.laps().laps[static_cast<std::size_t>(slot)];
    if (quantity != "gap" && !comparison_.ready(quantity)) {
        static const RangeFigures none;
        return none;
    }
    if (quantity == "gap") return figures_[key] = figures_in_range(lap.gap, range);
    if (comparison_.axis() == Axis::run) {
        const Interval view = comparison_.view();
        const double start = lap.lap.map.start_s();
        return figures_[key] = figures_in_time(lap.lap, quantity, {view.begin + start, view.end + start});
    }
    return figures_[key] = figures_in_range(lap.lap, quantity, range);
}

QString ValuePanel::text(const std::string& quantity, int slot, Cell cell) const {
    const Shown how = shown(quantity);
    const double value = comparison_.value_at_cursor(slot, quantity);
    const bool gap = quantity == "gap";
    const auto plain = [&](double si) { return gap ? how.difference_text(si) : how.text(si); };
    switch (cell) {
        case Cell::value:
            return plain(value);
        case Cell::difference:
            return slot == 0 || gap ? QString() : how.difference_text(value - comparison_.value_at_cursor(0, quantity));
        case Cell::low:
            return plain(figures(quantity, slot).low);
        case Cell::mean:
            return plain(figures(quantity, slot).mean);
        case Cell::high:
            return plain(figures(quantity, slot).high);
    }
    return {};
}

QRect ValuePanel::cell_area(const std::string& quantity, int slot, Cell cell) const {
    int y = head_px;
    for (const Row& row : rows()) {
        if (row.quantity == quantity && row.slot == slot)
            return column_area(width(), y, row_px, static_cast<int>(cell));
        y += row_px;
    }
    return {};
}

void ValuePanel::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.panel);
    if (comparison_.laps().empty()) return;
    painter.setFont(small_font(true));
    painter.setPen(t.mute);
    const QString heads[] = {tr("at cursor"), tr("minus A"), tr("low"), tr("mean"), tr("high")};
    for (int c = 0; c < 5; ++c)
        painter.drawText(column_area(width(), 0, head_px, c), Qt::AlignRight | Qt::AlignVCenter, heads[c]);
    int y = head_px;
    for (const Row& row : rows()) {
        const Shown how = shown(row.quantity);
        if (row.slot < 0) {
            painter.setPen(t.grid);
            painter.drawLine(6, y, width() - 6, y);
            painter.setFont(body_font(true));
            painter.setPen(t.ink);
            painter.drawText(QRect(8, y, width() - 16, row_px), Qt::AlignLeft | Qt::AlignVCenter, how.label);
            const int label = painter.fontMetrics().horizontalAdvance(how.label);
            painter.setFont(small_font());
            painter.setPen(t.mute);
            QString extra = how.unit;
            if (!how.up.isEmpty())
                extra += (extra.isEmpty() ? QString() : QStringLiteral(" · ")) + tr("+ = %1").arg(how.up);
            painter.drawText(QRect(14 + label, y, width() - label - 20, row_px), Qt::AlignLeft | Qt::AlignVCenter,
                             extra);
        } else {
            const QColor& colour = t.lap(row.slot);
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawRoundedRect(QRect(8, y + 2, 14, row_px - 4), 3, 3);
            painter.setFont(small_font(true));
            painter.setPen(t.on_lap);
            painter.drawText(QRect(8, y + 2, 14, row_px - 4), Qt::AlignCenter, slot_letter(row.slot));
            for (const Cell cell : {Cell::value, Cell::difference, Cell::low, Cell::mean, Cell::high}) {
                const bool first = cell == Cell::value;
                painter.setFont(first ? number_font() : body_font());
                painter.setPen(t.ink);
                if (row.quantity == "gap" && first) {
                    const double gap = comparison_.value_at_cursor(row.slot, "gap");
                    painter.setPen(gap >= 0 ? t.lost : t.won);
                }
                if (cell == Cell::low || cell == Cell::high) painter.setPen(t.accent);
                painter.drawText(column_area(width(), y, row_px, static_cast<int>(cell)),
                                 Qt::AlignRight | Qt::AlignVCenter, text(row.quantity, row.slot, cell));
            }
        }
        y += row_px;
    }
}

bool ValuePanel::jump_at(QPoint at, double* place) const {
    for (const Row& row : rows()) {
        if (row.slot < 0) continue;
        for (const Cell cell : {Cell::low, Cell::high}) {
            if (!cell_area(row.quantity, row.slot, cell).contains(at)) continue;
            const RangeFigures& found = figures(row.quantity, row.slot);
            if (std::isnan(found.low)) return false;
            *place = cell == Cell::low ? found.low_at_m : found.high_at_m;
            return true;
        }
    }
    return false;
}

void ValuePanel::mouseReleaseEvent(QMouseEvent* event) {
    double place = 0;
    if (!comparison_.laps().empty() && jump_at(event->position().toPoint(), &place))
        comparison_.set_cursor_in_view(place);
}

void ValuePanel::contextMenuEvent(QContextMenuEvent* event) {
    int y = head_px;
    for (const Row& row : rows()) {
        if (row.slot >= 0 && event->pos().y() >= y && event->pos().y() < y + row_px)
            Q_EMIT lap_menu_asked(row.slot, event->globalPos());
        y += row_px;
    }
}

void ValuePanel::mouseMoveEvent(QMouseEvent* event) {
    double place = 0;
    const bool jumps = !comparison_.laps().empty() && jump_at(event->position().toPoint(), &place);
    setCursor(jumps ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(jumps ? tr("Put the cursor there: %1")
                           .arg(with_unit(QString::number(place, 'f', 0),
                                          comparison_.axis() == Axis::run ? QStringLiteral("s") : QStringLiteral("m")))
                     : QString());
}

}  // namespace rendak::app
