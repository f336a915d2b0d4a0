#include "app/desks/compare/corner_card.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/text/figure_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/analysis/corner_road.h"
#include "core/analysis/section_table.h"
#include "core/analysis/set_difference.h"

namespace rendak::app {
namespace {

constexpr int card_head_px = 34, line_px = 150, trace_px = 110, card_row_px = 15, gap_px = 6;

/// A figure of one corner of each lap; where it cannot be told there is none.
std::vector<double> known_values(const CornerFigureTable& table, std::size_t corner, std::size_t figure) {
    std::vector<double> out;
    for (const auto& lap : table) {
        if (std::isfinite(lap[corner][figure])) out.push_back(lap[corner][figure]);
    }
    return out;
}

/// Fits points into an area, as wide as high.
class Fit {
  public:
    Fit(const std::vector<Point>& points, QRect area) : area_(area) {
        low_ = high_ = points.front();
        for (const Point& it : points) {
            low_ = {std::min(low_.x, it.x), std::min(low_.y, it.y)};
            high_ = {std::max(high_.x, it.x), std::max(high_.y, it.y)};
        }
        scale_ =
            std::min(area.width() / std::max(1.0, high_.x - low_.x), area.height() / std::max(1.0, high_.y - low_.y));
    }
    [[nodiscard]] QPointF at(Point p) const {
        return {area_.center().x() + scale_ * (p.x - 0.5 * (low_.x + high_.x)),
                area_.center().y() - scale_ * (p.y - 0.5 * (low_.y + high_.y))};
    }

  private:
    QRect area_;
    Point low_, high_;
    double scale_ = 1;
};

std::size_t cell_of(const DrawnLap& lap, double distance_m) {
    const auto cell = static_cast<std::size_t>(std::max(0.0, distance_m) / DrawnLap::step_m);
    return std::min(cell, lap.line.size() - 1);
}

/// The middle of a place over laps; empty where most do not have it.
std::optional<double> middle(const std::vector<std::vector<CornerEvents>>& events, std::size_t corner,
                             std::optional<double> CornerEvents::*place) {
    double sum = 0, count = 0;
    for (const auto& lap : events) {
        if (!(lap[corner].*place)) continue;
        sum += *(lap[corner].*place);
        ++count;
    }
    if (2 * count <= static_cast<double>(events.size())) return std::nullopt;
    return sum / count;
}

}  // namespace

CornerCard::CornerCard(Story& story, WorkBook& book, QWidget* parent) : QWidget(parent), story_(story), book_(book) {
    setAccessibleName(tr("Corner card: all about the corner at the cursor"));
    connect(&story_, &Story::changed, this, &CornerCard::take_over);
    connect(&book_, &WorkBook::changed, this, &CornerCard::take_over);
    connect(&story_.focus(), &Focus::cursor_changed, this, &CornerCard::turn);
}

void CornerCard::showEvent(QShowEvent* event) {
    story_.wanted_by(this);
    book_.wanted_by(this);
    take_over();
    QWidget::showEvent(event);
}

void CornerCard::resizeEvent(QResizeEvent* event) {
    lay_out();
    QWidget::resizeEvent(event);
}

void CornerCard::take_over() {
    told_ = story_.told();
    corner_ = 0;
    turn();
}

/// To the corner at the cursor.
void CornerCard::turn() {
    if (!isVisible() && corner_ != 0) return;
    if (told_ == nullptr || told_->track().corners.empty()) {
        corner_ = 0;
        figures_.clear();
        sentences_.clear();
        lay_out();
        return update();
    }
    const LedgerRow& row = told_->row_at(story_.focus().state().cursor_m);
    if (row.corner == corner_) return;
    corner_ = row.corner;
    const auto& corners = told_->track().corners;
    std::size_t k = 0;
    while (k + 1 < corners.size() && corners[k].number != corner_) ++k;
    const double from = std::min(row.range_m.begin, corners[k].start_m) - 20;
    range_m_ = {std::max(0.0, from),
                std::min(told_->track().length_m, std::max(corners[k].end_m, row.straight_m.begin) + 30)};
    ledger_ = ledger_text();
    read_figures(k);
    read_sentences();
    lay_out();
    update();
}

QString CornerCard::ledger_text() const {
    for (const LedgerRow& row : told_->story.ledger.rows) {
        if (row.corner != corner_) continue;
        QString out = tr("%1 s: braking %2, to the slowest place %3, to the exit %4")
                          .arg(signed_number(row.loss_s, 3), signed_number(row.braking_s, 3),
                               signed_number(row.entry_s, 3), signed_number(row.exit_s, 3));
        if (row.carried_s)
            out += tr(", carried %1, pull %2").arg(signed_number(*row.carried_s, 3), signed_number(*row.pull_s, 3));
        else
            out += tr(", straight %1").arg(signed_number(row.straight_s, 3));
        out += u'.';
        if (row.likely_s)
            out += tr(" 95 %: %1 to %2, on %3 of %4 laps.")
                       .arg(signed_number(row.likely_s->begin, 3), signed_number(row.likely_s->end, 3))
                       .arg(row.seen_on)
                       .arg(told_->b.size());
        const QString worth = story_.worth_text(corner_);
        if (!worth.isEmpty()) out += u' ' + worth + u'.';
        for (const Corner& it : told_->track().corners) {
            if (it.number != corner_) continue;
            const CornerRoad road = corner_road(told_->track(), it);
            if (road.banked)
                out += tr(" The road leans by %1° %2 here: its speeds are no measure for other corners.")
                           .arg(QString::number(std::abs(*road.banking_rad) * 57.29577951, 'f', 1),
                                *road.banking_rad > 0 ? tr("your way") : tr("away from you"));
        }
        for (const ToldStory::Beside& it : told_->beside) {
            if (const LedgerRow* other = it.row_of(corner_))
                out += QStringLiteral(" %1: %2 s.").arg(story_.name_of(it), signed_number(other->loss_s, 3));
        }
        return out;
    }
    return {};
}

void CornerCard::read_figures(std::size_t corner) {
    figures_.clear();
    const auto table = all_corner_figures();
    for (std::size_t f = 0; f < table.size(); ++f) {
        const CornerFigure& figure = table[f];
        const auto a = known_values(told_->figures_a, corner, f), b = known_values(told_->figures_b, corner, f);
        if (a.empty() && b.empty()) continue;
        const auto text = [&](const std::vector<double>& values, std::size_t laps) {
            if (values.empty()) return QStringLiteral("–");
            const Spread it = spread_of(values);
            QString out = figure_text(figure, it.mean);
            if (it.count > 1) out += QStringLiteral(" ±") + figure_difference_text(figure, it.sd).remove(u'+');
            // Of fewer laps than there are: of how many.
            return it.count < laps ? out + QStringLiteral(" (%1)").arg(it.count) : out;
        };
        FigureLine line{
            figure_label(figure), figure_unit(figure), text(a, told_->a.size()), text(b, told_->b.size()), {}, 0};
        if (!a.empty() && !b.empty()) {
            const double more = mean_value(b) - mean_value(a);
            line.difference = figure_difference_text(figure, more);
            const auto likely = likely_difference(a, b);
            if (likely)
                line.difference +=
                    QStringLiteral(" ±") + figure_difference_text(figure, 0.5 * likely->length()).remove(u'+');
            // What is written alike is alike, and what could be chance is no better.
            const bool sure = !likely || !likely->contains(0);
            if (figure.better != Better::neither &&
                figure_text(figure, mean_value(a)) != figure_text(figure, mean_value(b)) && sure)
                line.better = (more > 0) == (figure.better == Better::more) ? 1 : -1;
        }
        figures_.push_back(std::move(line));
    }
}

void CornerCard::read_sentences() {
    sentences_.clear();
    const Track& track = told_->track();
    for (const bool reverse : {false, true}) {
        for (const LapFinding& it : reverse ? told_->story.won : told_->story.lost) {
            if (it.corner != corner_) continue;
            sentences_ << QString::fromStdString(finding_words(it, track, story_.words(reverse)) + " " +
                                                 finding_causes(it));
        }
    }
    for (const LedgerRow& row : told_->story.ledger.rows) {
        if (row.corner == corner_ && row.laps_needed > 0)
            sentences_ << tr("%1 s is within what laps scatter: about %2 laps a side would tell.")
                              .arg(signed_number(row.loss_s, 2))
                              .arg(row.laps_needed);
    }
    for (const auto& [lap, it] : told_->excursions) {
        if (it.corner == corner_)
            sentences_ << tr("Lap %1 of %2: ").arg(lap.lap).arg(QString::fromStdString(story_.words(false).b)) +
                              QString::fromStdString(excursion_words(it, track));
    }
    if (sentences_.isEmpty()) sentences_ << tr("Nothing stands out here.");
    const LedgerRow& row = told_->row_at(story_.focus().state().cursor_m);
    const auto& laps = story_.comparison().laps().laps;
    for (std::size_t slot = 0; slot < laps.size(); ++slot) {
        const LapMap& map = laps[slot].lap.map;
        for (const PictureNote& note : laps[slot].run->picture_notes) {
            if (note.at_s < map.start_s() || note.at_s > map.end_s()) continue;
            if (!row.range_m.contains(map.distance_at(note.at_s))) continue;
            sentences_
                << tr("Note on %1: %2").arg(slot_letter(static_cast<int>(slot)), QString::fromStdString(note.text));
        }
    }
    for (const WorkProgress& work : book_.items()) {
        if (work.item.track != told_->run_b.track || !range_m_.contains(work.item.at_m)) continue;
        sentences_ << tr("%1 works on it: %2").arg(QString::fromStdString(work.item.driver), WorkBook::text_of(work));
    }
}

int CornerCard::figures_top() const {
    const QFontMetrics metrics(small_font());
    const int wide = std::max(100, width() - 8);
    const auto height = [&](const QString& text) {
        return metrics.boundingRect(QRect(0, 0, wide, 2000), Qt::TextWordWrap, text).height() + 4;
    };
    int y = card_head_px + height(ledger_) + line_px + trace_px + 2 * gap_px;
    for (const QString& it : sentences_) y += height(it);
    return y + gap_px;
}

void CornerCard::lay_out() {
    setMinimumHeight(corner_ == 0 ? 120
                                  : figures_top() + (static_cast<int>(figures_.size()) + 1) * card_row_px + gap_px);
}

void CornerCard::paint(QPainter& painter, QSize size) const {
    const Theme& t = theme();
    painter.fillRect(QRect(QPoint(), size), t.panel);
    if (corner_ == 0) {
        painter.setPen(t.mute);
        painter.setFont(body_font());
        const QString words = told_ ? tr("This track has no corners.") : story_.message();
        painter.drawText(QRect(12, 12, size.width() - 24, size.height() - 24), Qt::AlignCenter | Qt::TextWordWrap,
                         words);
        return;
    }
    const QString title = QString::fromStdString(corner_title(told_->track(), corner_));
    painter.setPen(t.ink);
    painter.setFont(body_font(true));
    painter.drawText(QRect(4, 0, size.width() - 8, 18), Qt::AlignLeft | Qt::AlignVCenter, title);
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRect(4, 17, size.width() - 8, 15), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(story_.head_text(), Qt::ElideRight, size.width() - 8));
    int y = card_head_px;
    const auto block = [&](const QString& text) {
        const QRect box(4, y, size.width() - 8, 2000);
        QRect used;
        painter.drawText(box, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, text, &used);
        y += used.height() + 4;
    };
    painter.setPen(t.ink);
    block(ledger_);
    for (const QString& it : sentences_) {
        painter.setPen(t.grid);
        painter.drawLine(4, y - 1, size.width() - 4, y - 1);
        painter.setPen(t.ink);
        block(it);
    }
    paint_line(painter, QRect(4, y, size.width() - 8, line_px));
    y += line_px + gap_px;
    paint_traces(painter, QRect(4, y, size.width() - 8, trace_px));
    y += trace_px + gap_px;
    paint_figures(painter, y + gap_px, size.width());
}

/// Of the corner, where they are known.
std::vector<Point> CornerCard::points_of(const DrawnLap& lap) const {
    std::vector<Point> out;
    for (std::size_t i = cell_of(lap, range_m_.begin); i <= cell_of(lap, range_m_.end); ++i) {
        if (std::isfinite(lap.line[i].x) && std::isfinite(lap.line[i].y)) out.push_back(lap.line[i]);
    }
    return out;
}

void CornerCard::paint_line(QPainter& painter, QRect area) const {
    const Theme& t = theme();
    painter.setPen(t.grid);
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(area);
    const std::vector<Point> first = points_of(told_->drawn_a.front());
    if (first.size() < 2) return;
    const Fit fit(first, area.adjusted(14, 12, -14, -26));
    painter.save();
    painter.setClipRect(area.adjusted(1, 1, -1, -1));
    painter.setRenderHint(QPainter::Antialiasing);
    const int slot_b = std::max(1, story_.comparison().active_slot());
    for (const auto& [laps, slot] : {std::pair{&told_->drawn_a, 0}, {&told_->drawn_b, slot_b}}) {
        QColor tone = t.lap(slot);
        if (laps->size() > 1) tone.setAlphaF(0.5F);
        painter.setPen(QPen(tone, laps->size() > 1 ? 1 : 1.6));
        for (const DrawnLap& lap : *laps) {
            QPainterPath path;
            for (const Point& it : points_of(lap))
                path.elementCount() == 0 ? path.moveTo(fit.at(it)) : path.lineTo(fit.at(it));
            painter.drawPath(path);
        }
    }
    // What happens where, in the mean: letters say what, colours whose.
    painter.setFont(small_font(true));
    std::size_t corner = 0;
    const auto& corners = told_->track().corners;
    while (corner + 1 < corners.size() && corners[corner].number != corner_) ++corner;
    for (const auto& [laps, events, slot, side] :
         {std::tuple{&told_->drawn_a, &told_->events_a, 0, -1}, {&told_->drawn_b, &told_->events_b, slot_b, 1}}) {
        for (const auto& [place, letter] : {std::pair{&CornerEvents::brake_on_m, tr("b")},
                                            {&CornerEvents::turn_in_m, tr("t")},
                                            {&CornerEvents::slowest_m, tr("s")},
                                            {&CornerEvents::full_throttle_m, tr("f")}}) {
            const auto at = middle(*events, corner, place);
            if (!at || !range_m_.contains(*at)) continue;
            const QPointF here = fit.at(laps->front().line[cell_of(laps->front(), *at)]);
            const QPointF ahead = fit.at(laps->front().line[cell_of(laps->front(), *at + 2 * DrawnLap::step_m)]);
            QPointF across(-(ahead.y() - here.y()), ahead.x() - here.x());
            const double long_px = std::hypot(across.x(), across.y());
            if (!(long_px > 0)) continue;
            across *= side * 9 / long_px;
            painter.setPen(QPen(t.lap(slot), 1.5));
            painter.drawLine(here, here + across * 0.6);
            painter.drawText(QRectF(here.x() + across.x() * 1.2 - 6, here.y() + across.y() * 1.2 - 7, 12, 14),
                             Qt::AlignCenter, letter);
        }
    }
    painter.restore();
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(area.adjusted(4, 0, -4, -2), Qt::AlignLeft | Qt::AlignBottom,
                     tr("b brake, t turn-in, s slowest, f full throttle"));
}

void CornerCard::paint_traces(QPainter& painter, QRect area) const {
    const Theme& t = theme();
    const int slot_b = std::max(1, story_.comparison().active_slot());
    const QRect upper(area.left(), area.top(), area.width(), area.height() * 3 / 5 - 3);
    const QRect lower(area.left(), upper.bottom() + 6, area.width(), area.bottom() - upper.bottom() - 6);
    const auto draw = [&](QRect box, const QString& label, std::vector<double> DrawnLap::*values, Qt::Alignment side) {
        painter.setPen(t.grid);
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(box);
        std::vector<std::pair<std::vector<QPointF>, QColor>> curves;
        double low = INFINITY, high = -INFINITY;
        for (const auto& [laps, slot] : {std::pair{&told_->drawn_a, 0}, {&told_->drawn_b, slot_b}}) {
            QColor tone = t.lap(slot);
            if (laps->size() > 1) tone.setAlphaF(0.55F);
            for (const DrawnLap& lap : *laps) {
                std::vector<QPointF> curve;
                for (std::size_t i = cell_of(lap, range_m_.begin); i <= cell_of(lap, range_m_.end); ++i) {
                    const double v = (lap.*values)[i];
                    if (!std::isfinite(v)) continue;
                    low = std::min(low, v);
                    high = std::max(high, v);
                    curve.emplace_back(static_cast<double>(i) * DrawnLap::step_m, v);
                }
                curves.emplace_back(std::move(curve), tone);
            }
        }
        painter.save();
        painter.setClipRect(box);
        painter.setRenderHint(QPainter::Antialiasing);
        for (auto& [curve, tone] : curves) {
            for (QPointF& it : curve)
                it = {box.left() + box.width() * (it.x() - range_m_.begin) / range_m_.length(),
                      box.bottom() - 2 - (box.height() - 4) * (it.y() - low) / std::max(1e-9, high - low)};
            painter.setPen(QPen(tone, 1));
            painter.drawPolyline(curve.data(), static_cast<int>(curve.size()));
        }
        painter.restore();
        painter.setFont(small_font());
        painter.setPen(t.mute);
        // Far from the corner both are high: their names stand below.
        painter.drawText(box.adjusted(4, 1, -4, -1), side | Qt::AlignBottom,
                         std::isfinite(low) ? label : tr("%1: not logged").arg(label));
        return Interval{low, high};
    };
    const Shown speed = shown("speed");
    const Interval speeds =
        draw(upper, QStringLiteral("%1, %2").arg(speed.label, speed.unit), &DrawnLap::speed_mps, Qt::AlignLeft);
    if (std::isfinite(speeds.begin)) {
        painter.drawText(upper.adjusted(4, 1, -4, 0), Qt::AlignRight | Qt::AlignTop, speed.text(speeds.end));
        painter.drawText(upper.adjusted(4, 1, -4, -1), Qt::AlignRight | Qt::AlignBottom, speed.text(speeds.begin));
    }
    draw(lower, shown("throttle").label, &DrawnLap::throttle, Qt::AlignRight);
}

void CornerCard::paint_figures(QPainter& painter, int top, int width) const {
    const Theme& t = theme();
    const int label_px = width * 37 / 100, value_px = (width - label_px - 8) / 3;
    const QString a = slot_letter(0), b = slot_letter(std::max(1, story_.comparison().active_slot()));
    const auto row = [&](int y, const QString& label, const QString& of_a, const QString& of_b, const QString& more,
                         const FigureLine* line) {
        painter.setFont(small_font());
        painter.setPen(line ? t.ink : t.mute);
        painter.drawText(QRect(4, y, label_px, card_row_px), Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(label, Qt::ElideRight, label_px - 4));
        int x = 4 + label_px;
        for (const auto& [text, bold] :
             {std::pair{of_a, line && line->better < 0}, {of_b, line && line->better > 0}, {more, false}}) {
            painter.setFont(small_font(bold));
            painter.drawText(QRect(x, y, value_px - 4, card_row_px), Qt::AlignRight | Qt::AlignVCenter, text);
            x += value_px;
        }
    };
    painter.setPen(t.grid);
    painter.drawLine(4, top - 2, width - 4, top - 2);
    row(top, tr("± of a lap; bold: better"), a, b, tr("%1 − %2 ± 95 %").arg(b, a), nullptr);
    int y = top + card_row_px;
    for (const FigureLine& line : figures_) {
        const QString label = line.unit.isEmpty() ? line.label : line.label + QStringLiteral(", ") + line.unit;
        row(y, label, line.a, line.b, line.difference, &line);
        y += card_row_px;
    }
}

void CornerCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter, size());
}

QStringList CornerCard::lines() const {
    QStringList out{ledger_};
    out << sentences_;
    for (const FigureLine& line : figures_)
        out << QStringLiteral("%1: %2 | %3 | %4 %5").arg(line.label, line.a, line.b, line.difference, line.unit);
    return out;
}

QString CornerCard::data_text() const {
    if (corner_ == 0) return {};
    const WordUnits names = story_.words(false);
    QString out =
        tr("Figure,Unit,%1,%2,Difference").arg(QString::fromStdString(names.a), QString::fromStdString(names.b)) +
        u'\n';
    for (const FigureLine& line : figures_) {
        QStringList cells;
        for (const QString& cell : {line.label, line.unit, line.a, line.b, line.difference}) cells << csv_cell(cell);
        out += cells.join(u',') + u'\n';
    }
    for (const QString& it : sentences_) out += csv_cell(it) + u'\n';
    return out;
}

ViewOut CornerCard::out(const QString& name) {
    return {name, QSize(width(), std::max(height(), minimumHeight())),
            [this](QPainter& painter, QSize size) { paint(painter, size); }, [this] { return at_hand(data_text()); }};
}

}  // namespace rendak::app
