#include "app/desks/compare/value_panel.h"

#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/plot/view_out.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int value_row_px = 17, value_head_px = 22, letter_px = 24;
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
    for (const auto told : {&Focus::pin_changed, &Focus::slid_changed})
        connect(&focus_, told, this, [this] {
            setMinimumHeight(sizeHint().height());
            update();
        });
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
        const bool between = is_between_laps(quantity);
        if (!logged || (between && laps < 2)) continue;
        out.push_back({quantity, -1});
        for (int slot = between ? 1 : 0; slot < laps; ++slot) out.push_back({quantity, slot});
    }
    return out;
}

QSize ValuePanel::sizeHint() const {
    return {310, head_height() + static_cast<int>(rows().size()) * value_row_px + 6};
}

const RangeFigures& ValuePanel::figures(const std::string& quantity, int slot) const {
    const auto key = std::pair(quantity, slot);
    const auto found = figures_.find(key);
    if (found != figures_.end()) return found->second;
    const Interval range = comparison_.range_m();
    const ComparedLap& lap = comparison_.laps().laps[static_cast<std::size_t>(slot)];
    if (!is_between_laps(quantity) && !comparison_.ready(quantity)) {
        static const RangeFigures none;
        return none;
    }
    if (quantity == "gap") return figures_[key] = figures_in_range(lap.gap, range);
    if (quantity == "line_offset")
        return figures_[key] = figures_in_range(GapCurve{lap.offset.distance_m, lap.offset.left_m}, range);
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
    const bool gap = is_between_laps(quantity);
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

int ValuePanel::head_height() const {
    const bool pinned = !comparison_.laps().empty() && comparison_.pin_in_view().has_value();
    return value_head_px + (pinned ? (static_cast<int>(comparison_.laps().laps.size()) + 1) * value_row_px + 4 : 0) +
           static_cast<int>(slid().size()) * value_row_px;
}

/// Whose values at the cursor are of another place, in words.
QStringList ValuePanel::slid() const {
    QStringList out;
    for (int slot = 1; slot < static_cast<int>(comparison_.laps().laps.size()); ++slot) {
        if (comparison_.slid_m(slot) != 0)
            out << tr("%1 %2; low, mean and high as driven").arg(slot_letter(slot), comparison_.slid_words(slot));
    }
    return out;
}

std::optional<ValuePanel::Between> ValuePanel::between(int slot) const {
    const auto pin = comparison_.pin_in_view();
    if (!pin || slot >= static_cast<int>(comparison_.laps().laps.size())) return std::nullopt;
    const double cursor = comparison_.cursor_in_view();
    Between out;
    out.time_s = comparison_.time_in_view_s(slot, cursor) - comparison_.time_in_view_s(slot, *pin);
    if (!comparison_.laps().on_track()) {
        out.way_m = out.gap_s = std::nan("");
        return out;
    }
    const ComparedLap& lap = comparison_.laps().laps[static_cast<std::size_t>(slot)];
    if (comparison_.axis() == Axis::run) {  // seconds know no way without places
        out.way_m = out.gap_s = std::nan("");
    } else {
        out.way_m = cursor - *pin;
        out.gap_s = lap.gap.at(cursor) - lap.gap.at(*pin);
    }
    return out;
}

QString ValuePanel::pin_text(const std::string& quantity, int slot, PinCell cell) const {
    const Shown how = shown(quantity);
    const auto pin = comparison_.pin_in_view();
    if (cell == PinCell::value || !pin) return text(quantity, slot, Cell::value);
    const auto both = between(slot);
    if (quantity == "gap") return cell == PinCell::change && both ? how.difference_text(both->gap_s) : QString();
    if (is_between_laps(quantity)) return {};
    if (!comparison_.ready(quantity)) return QString();
    const double a = comparison_.time_in_view_s(slot, *pin),
                 b = comparison_.time_in_view_s(slot, comparison_.cursor_in_view());
    const PreparedLap& lap = comparison_.laps().laps[static_cast<std::size_t>(slot)].lap;
    const Interval time_s{std::min(a, b), std::max(a, b)};
    const BetweenFigures found = between_in_time(lap, quantity, time_s);
    const auto number = [&](double value) {
        return std::isfinite(value) ? signed_number(value, how.decimals + 1) : QStringLiteral("–");
    };
    switch (cell) {
        case PinCell::value:
            break;
        case PinCell::change:
            return how.difference_text(b < a ? -found.change : found.change);
        case PinCell::mean:
            return how.text(figures_in_time(lap, quantity, time_s).mean);
        case PinCell::slope:
            return number(how.difference_from_si(found.slope_per_s));
        case PinCell::area:
            // Of a quantity whose zero lies elsewhere (°C) the area is of the shown numbers.
            return number((found.area_s - how.offset * time_s.length()) / how.factor);
    }
    return {};
}

QString ValuePanel::data_text() const {
    const bool pinned = comparison_.pin_in_view().has_value();
    QString out = tr("Channel,Unit,Lap,At cursor,") +
                  (pinned ? tr("Since pin,Mean,Per s,Area") : tr("Minus A,Low,Mean,High")) + u'\n';
    for (const Row& row : rows()) {
        if (row.slot < 0) continue;
        const Shown how = shown(row.quantity);
        const QString by_hand = comparison_.slid_words(row.slot);
        QStringList cells{
            csv_cell(how.label), how.unit,
            csv_cell(slot_letter(row.slot) + (by_hand.isEmpty() ? QString() : QStringLiteral(" (%1)").arg(by_hand)))};
        for (int c = 0; c < 5; ++c) {
            // A real minus is for people.
            QString text = cell_text(row.quantity, row.slot, c).replace(QChar(0x2212), u'-');
            cells << (text == QStringLiteral("–") ? QString() : text);
        }
        out += cells.join(u',') + u'\n';
    }
    return comparison_.laps().empty() ? QString() : out;
}

QString ValuePanel::cell_text(const std::string& quantity, int slot, int column) const {
    return comparison_.pin_in_view() ? pin_text(quantity, slot, static_cast<PinCell>(column))
                                     : text(quantity, slot, static_cast<Cell>(column));
}

/// What lies between pin and cursor, a row a lap.
void ValuePanel::paint_between(QPainter& painter) const {
    const Theme& t = theme();
    painter.setFont(small_font(true));
    painter.setPen(t.mute);
    const QString heads[] = {tr("time"), tr("minus A"), tr("way"), tr("gap by"), {}};
    painter.drawText(QRect(8, 0, letter_px + 60, value_row_px), Qt::AlignLeft | Qt::AlignVCenter, tr("since pin"));
    for (int c = 0; c < 4; ++c)
        painter.drawText(column_area(width(), 0, value_row_px, c + 1), Qt::AlignRight | Qt::AlignVCenter, heads[c]);
    const auto first = between(0);
    for (int slot = 0; slot < static_cast<int>(comparison_.laps().laps.size()); ++slot) {
        const auto found = between(slot);
        if (!found || !first) continue;
        const int y = value_row_px * (slot + 1);
        painter.setPen(Qt::NoPen);
        painter.setBrush(t.lap(slot));
        painter.drawRoundedRect(QRect(8, y + 2, 14, value_row_px - 4), 3, 3);
        painter.setFont(small_font(true));
        painter.setPen(t.on_lap);
        painter.drawText(QRect(8, y + 2, 14, value_row_px - 4), Qt::AlignCenter, slot_letter(slot));
        painter.setFont(body_font());
        painter.setPen(t.ink);
        const QString cells[] = {with_unit(QString::number(found->time_s, 'f', 3), QStringLiteral("s")),
                                 slot == 0 ? QString() : signed_number(found->time_s - first->time_s, 3),
                                 std::isfinite(found->way_m) ? distance_text(found->way_m, 1) : QStringLiteral("–"),
                                 slot == 0 ? QString() : signed_number(found->gap_s, 3)};
        for (int c = 0; c < 4; ++c)
            painter.drawText(column_area(width(), y, value_row_px, c + 1), Qt::AlignRight | Qt::AlignVCenter, cells[c]);
    }
}

QRect ValuePanel::cell_area(const std::string& quantity, int slot, Cell cell) const {
    int y = head_height();
    for (const Row& row : rows()) {
        if (row.quantity == quantity && row.slot == slot)
            return column_area(width(), y, value_row_px, static_cast<int>(cell));
        y += value_row_px;
    }
    return {};
}

void ValuePanel::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.fillRect(rect(), t.panel);
    if (comparison_.laps().empty()) return;
    const bool pinned = comparison_.pin_in_view().has_value();
    if (pinned) paint_between(painter);
    painter.setFont(small_font(true));
    painter.setPen(t.mute);
    const QStringList heads =
        pinned ? QStringList{tr("at cursor"), tr("since pin"), tr("mean"), tr("per s"), tr("area, · s")}
               : QStringList{tr("at cursor"), tr("minus A"), tr("low"), tr("mean"), tr("high")};
    const QStringList by_hand = slid();
    int top = head_height() - value_head_px - static_cast<int>(by_hand.size()) * value_row_px;
    for (const QString& words : by_hand) {
        painter.drawText(QRect(8, top, width() - 16, value_row_px), Qt::AlignLeft | Qt::AlignVCenter, words);
        top += value_row_px;
    }
    for (int c = 0; c < 5; ++c)
        painter.drawText(column_area(width(), top, value_head_px, c), Qt::AlignRight | Qt::AlignVCenter, heads[c]);
    int y = head_height();
    for (const Row& row : rows()) {
        const Shown how = shown(row.quantity);
        if (row.slot < 0) {
            painter.setPen(t.grid);
            painter.drawLine(6, y, width() - 6, y);
            painter.setFont(body_font(true));
            painter.setPen(t.ink);
            painter.drawText(QRect(8, y, width() - 16, value_row_px), Qt::AlignLeft | Qt::AlignVCenter, how.label);
            const int label = painter.fontMetrics().horizontalAdvance(how.label);
            painter.setFont(small_font());
            painter.setPen(t.mute);
            QString extra = how.unit;
            if (!how.up.isEmpty())
                extra += (extra.isEmpty() ? QString() : QStringLiteral(" · ")) + tr("+ = %1").arg(how.up);
            painter.drawText(QRect(14 + label, y, width() - label - 20, value_row_px), Qt::AlignLeft | Qt::AlignVCenter,
                             extra);
        } else {
            const QColor& colour = t.lap(row.slot);
            painter.setPen(Qt::NoPen);
            painter.setBrush(colour);
            painter.drawRoundedRect(QRect(8, y + 2, 14, value_row_px - 4), 3, 3);
            painter.setFont(small_font(true));
            painter.setPen(t.on_lap);
            painter.drawText(QRect(8, y + 2, 14, value_row_px - 4), Qt::AlignCenter, slot_letter(row.slot));
            for (const Cell cell : {Cell::value, Cell::difference, Cell::low, Cell::mean, Cell::high}) {
                const bool first = cell == Cell::value;
                painter.setFont(first ? number_font() : body_font());
                painter.setPen(t.ink);
                if (row.quantity == "gap" && first) {
                    const double gap = comparison_.value_at_cursor(row.slot, "gap");
                    painter.setPen(gap >= 0 ? t.lost : t.won);
                }
                if (!pinned && (cell == Cell::low || cell == Cell::high)) painter.setPen(t.accent);
                painter.drawText(column_area(width(), y, value_row_px, static_cast<int>(cell)),
                                 Qt::AlignRight | Qt::AlignVCenter,
                                 cell_text(row.quantity, row.slot, static_cast<int>(cell)));
            }
        }
        y += value_row_px;
    }
}

bool ValuePanel::jump_at(QPoint at, double* place) const {
    if (comparison_.pin_in_view()) return false;
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
    int y = head_height();
    for (const Row& row : rows()) {
        if (row.slot >= 0 && event->pos().y() >= y && event->pos().y() < y + value_row_px)
            Q_EMIT lap_menu_asked(row.slot, event->globalPos());
        y += value_row_px;
    }
}

void ValuePanel::mouseMoveEvent(QMouseEvent* event) {
    double place = 0;
    const bool jumps = !comparison_.laps().empty() && jump_at(event->position().toPoint(), &place);
    setCursor(jumps ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(jumps ? tr("Put the cursor there: %1")
                           .arg(comparison_.axis() == Axis::run
                                    ? with_unit(QString::number(place, 'f', 0), QStringLiteral("s"))
                                    : distance_text(place))
                     : QString());
}

}  // namespace rendak::app
