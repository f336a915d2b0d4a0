#include "app/plot/lane_painter.h"

#include <QCoreApplication>
#include <QHash>
#include <QStaticText>
#include <cmath>
#include <optional>

#include "app/plot/ticks.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

/// A text that was laid out before: the numbers of a scale stand in every frame, and laying them out is what costs.
const QStaticText& laid_out(const QString& text, const QFont& font) {
    static QHash<QString, QStaticText> known;
    const QString key = text + QChar(font.bold() ? 1 : 2) + QChar(font.pixelSize());
    auto found = known.find(key);
    if (found == known.end()) {
        if (known.size() > 4000) known.clear();
        QStaticText fresh(text);
        fresh.setTextFormat(Qt::PlainText);
        fresh.setPerformanceHint(QStaticText::AggressiveCaching);
        fresh.prepare(QTransform(), font);
        found = known.insert(key, fresh);
    }
    return *found;
}

/// One line of text, placed as drawText places it.
void draw_words(QPainter& painter, const QRect& area, Qt::Alignment place, const QString& text) {
    // A picture that is not made of pixels keeps words that can be found in it.
    if (painter.device()->devType() != QInternal::Image) {
        painter.drawText(area, static_cast<int>(place) | Qt::TextSingleLine, text);
        return;
    }
    const QStaticText& words = laid_out(text, painter.font());
    const QSizeF size = words.size();
    const double x = place.testFlag(Qt::AlignRight)     ? area.right() + 1 - size.width()
                     : place.testFlag(Qt::AlignHCenter) ? area.left() + (area.width() - size.width()) / 2
                                                        : area.left();
    painter.drawStaticText(QPointF(x, area.top() + (area.height() - size.height()) / 2), words);
}

/// Paints one picture; painter, sizes and theme are at hand in all its steps.
class LanePainter {
  public:
    LanePainter(const TracePicture& picture, QPainter& painter, QSize size)
        : picture_(picture), painter_(painter), size_(size), x_(picture.x_scale(size)), theme_(theme()) {
        places_ = ticks_for({x_.values.begin / picture.x_unit, x_.values.end / picture.x_unit},
                            std::max(2, TracePicture::plot_area(size).width() / 90));
    }

    void beside(std::size_t at) {
        const PlottedLane& lane = lane_at(at);
        painter_.fillRect(QRect(0, area_.top(), TracePicture::label_width, area_.height()), theme_.paper);
        heading(lane);
        if (lane.message.isEmpty()) numbers(lane);
    }

    void beneath(std::size_t at) {
        const PlottedLane& lane = lane_at(at);
        const int left = TracePicture::label_width, right = size_.width();
        painter_.fillRect(QRect(left, area_.top(), right - left, area_.height()), theme_.panel);
        painter_.fillRect(QRect(left, area_.bottom(), right - left, 1), theme_.rule);
        if (!lane.message.isEmpty()) return;
        grid();
        mark_lines();
        if (lane.veil != nullptr && !lane.veil->x.empty()) {
            if (lane.band != nullptr) band(lane);
            veil(lane);
        }
    }

    void over(std::size_t at) {
        const PlottedLane& lane = lane_at(at);
        missing(lane);
        if (!lane.message.isEmpty()) {
            painter_.drawText(area_.adjusted(16, 0, -16, 0), Qt::AlignCenter | Qt::TextWordWrap, lane.message);
            return;
        }
        if (at == 0) {
            mark_words();
            remarks();
        }
        if (lane.veil != nullptr && !lane.veil->x.empty()) veil_words(lane);
    }

    void axis() {
        const QRect axis(0, size_.height() - TracePicture::axis_height, size_.width(), TracePicture::axis_height);
        painter_.fillRect(axis, theme_.paper);
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        for (const double value : places_.values) {
            const int px = static_cast<int>(std::lround(x_.to_pixel(value * picture_.x_unit)));
            draw_words(painter_, QRect(px - 40, axis.top() + 4, 80, 14), Qt::AlignHCenter | Qt::AlignVCenter,
                       QString::number(value, 'f', places_.decimals).replace(u'-', QChar(0x2212)));
        }
        painter_.fillRect(QRect(0, axis.top() + 1, TracePicture::label_width - 4, axis.height()), theme_.paper);
        painter_.setFont(body_font(true));
        painter_.setPen(theme_.ink);
        painter_.drawText(QRect(8, axis.top() + 3, TracePicture::label_width - 10, 16),
                          Qt::AlignLeft | Qt::AlignVCenter, picture_.x_caption);
    }

  private:
    const PlottedLane& lane_at(std::size_t at) {
        area_ = picture_.lane_area(size_, at);
        y_ = picture_.y_scale(size_, at);
        return picture_.lanes[at];
    }

    void heading(const PlottedLane& lane) {
        const Shown& how = lane.how;
        painter_.fillRect(QRect(0, area_.bottom(), TracePicture::label_width, 1), theme_.rule);
        painter_.setFont(body_font(true));
        painter_.setPen(theme_.ink);
        // Long names take a second line; the right third belongs to the scale.
        const int text_width = TracePicture::label_width - 48;
        const QString shared = lane.more.empty() ? QString() : shared_words(lane);
        const QString& title = shared.isEmpty() ? how.label : shared;
        const int line_height = painter_.fontMetrics().height();
        const bool one_line = laid_out(title, painter_.font()).size().width() <= text_width;
        const int label_height = one_line
                                     ? line_height
                                     : std::min(painter_.fontMetrics()
                                                    .boundingRect(QRect(0, 0, text_width, 40), Qt::TextWordWrap, title)
                                                    .height(),
                                                2 * line_height);
        const QRect label(8, area_.top() + 3, text_width, label_height);
        if (one_line)
            draw_words(painter_, label, Qt::AlignLeft | Qt::AlignVCenter, title);
        else
            painter_.drawText(label, Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, title);
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        int text_y = area_.top() + 3 + label_height;
        if (!how.unit.isEmpty() && area_.bottom() - text_y > 10) {
            draw_words(painter_, QRect(8, text_y, 40, 13), Qt::AlignLeft | Qt::AlignVCenter, how.unit);
            text_y += 13;
        }
        if (!lane.more.empty()) {
            legend(lane, text_y);
            return scale_word(lane, text_y);
        }
        if (!how.up.isEmpty() && area_.bottom() - text_y > 12 && lane.veil == nullptr) {
            painter_.drawText(QRect(8, text_y, text_width + 8, std::min(28, area_.bottom() - text_y)),
                              Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                              QCoreApplication::translate("TracePicture", "up = %1").arg(how.up));
            text_y += 26;
        }
        scale_word(lane, text_y);
    }

    /// A row for each quantity of a lane: a piece of its line, its name, and its scale where that is its own.
    void legend(const PlottedLane& lane, int& text_y) {
        for (std::size_t q = 0; q <= lane.more.size(); ++q) {
            if (area_.bottom() - text_y < 12) return;
            // Numbers of the scale stand at the right end of some rows.
            const QRect row(8, text_y, TracePicture::label_width - 30, 12);
            sample_line(lane, q, QRect(row.topLeft(), QSize(24, row.height())));
            painter_.setPen(theme_.mute);
            QString words = how_of(lane, q).label;
            if (const QString shared = shared_words(lane); !shared.isEmpty())
                words = words.mid(shared.size()).trimmed();
            const QRect text = row.adjusted(27, 0, 0, 0);
            painter_.drawText(text, Qt::AlignLeft | Qt::AlignVCenter,
                              painter_.fontMetrics().elidedText(words, Qt::ElideRight, text.width()));
            text_y += 12;
            if (q == 0 || lane.more[q - 1].shares || area_.bottom() - text_y < 12) continue;
            // A scale of its own has no numbers beside the plot.
            const PlottedQuantity& own = lane.more[q - 1];
            const int decimals = own.values.length() < 10 ? std::min(own.how.decimals, 1) : 0;
            const QString range = QStringLiteral("%1 to %2 %3")
                                      .arg(own.values.begin, 0, 'f', decimals)
                                      .arg(own.values.end, 0, 'f', decimals)
                                      .arg(own.how.unit)
                                      .replace(u'-', QChar(0x2212));
            painter_.drawText(text.translated(0, 12), Qt::AlignLeft | Qt::AlignVCenter,
                              painter_.fontMetrics().elidedText(range, Qt::ElideRight, text.width()));
            text_y += 12;
        }
    }

    static const Shown& how_of(const PlottedLane& lane, std::size_t quantity) {
        return quantity == 0 ? lane.how : lane.more[quantity - 1].how;
    }

    /// The words that all names of a lane begin with: "Wheel speed" of FL, FR, RL, RR.
    static QString shared_words(const PlottedLane& lane) {
        QStringList shared = lane.how.label.split(u' ');
        for (const PlottedQuantity& other : lane.more) {
            const QStringList words = other.how.label.split(u' ');
            qsizetype same = 0;
            while (same < shared.size() && same + 1 < words.size() && shared[same] == words[same]) ++same;
            shared = shared.mid(0, same);
        }
        return shared.join(u' ');
    }

    void sample_line(const PlottedLane& lane, std::size_t quantity, QRect area) {
        const QColor colour = quantity < lane.colours.size() ? lane.colours[quantity] : theme_.ink;
        const auto pattern = lane.colours.empty() ? pattern_of(quantity) : LinePattern::solid;
        for (int x = 0; x < area.width(); ++x) {
            if (has_ink(pattern, x)) painter_.fillRect(QRect(area.left() + x, area.center().y(), 1, 2), colour);
        }
    }

    /// What would stand above or below is named there.
    void missing(const PlottedLane& lane) {
        if (area_.height() < 34) return;
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        for (const auto& [words, y] : {std::pair{&lane.above, area_.top() + 2}, {&lane.below, area_.bottom() - 14}}) {
            if (words->isEmpty()) continue;
            painter_.drawText(QRect(area_.left() + 8, y, area_.width() - 16, 13), Qt::AlignRight | Qt::AlignVCenter,
                              painter_.fontMetrics().elidedText(*words, Qt::ElideRight, area_.width() - 16));
        }
    }

    void scale_word(const PlottedLane& lane, int text_y) {
        if (lane.scale_word.isEmpty() || area_.bottom() - text_y < 26) return;
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        draw_words(painter_, QRect(8, area_.bottom() - 14, TracePicture::label_width - 52, 13),
                   Qt::AlignLeft | Qt::AlignVCenter, lane.scale_word);
    }

    [[nodiscard]] Ticks ticks() const { return ticks_for(y_.values, std::max(2, area_.height() / 26)); }

    void numbers(const PlottedLane& lane) {
        const Ticks all = ticks();
        const int decimals = lane.how.decimals == 0 ? 0 : all.decimals;
        painter_.setPen(theme_.mute);
        for (const double value : all.values) {
            const int py = static_cast<int>(std::lround(y_.to_pixel(value)));
            const int text_top = std::clamp(py - 7, area_.top(), area_.bottom() - 13);
            const QString text = lane.is_signed ? signed_number(value, std::max(1, decimals))
                                                : QString::number(value, 'f', decimals).replace(u'-', QChar(0x2212));
            draw_words(painter_, QRect(area_.left() - 44, text_top, 39, 14), Qt::AlignRight | Qt::AlignVCenter, text);
        }
    }

    void grid() {
        for (const double value : ticks().values) {
            const int py = static_cast<int>(std::lround(y_.to_pixel(value)));
            const bool zero = value == 0 && y_.values.begin < 0;
            painter_.fillRect(QRect(area_.left(), py, area_.width(), 1), zero ? theme_.rule.darker(115) : theme_.grid);
        }
        for (const double value : places_.values) {
            const int px = static_cast<int>(std::lround(x_.to_pixel(value * picture_.x_unit)));
            painter_.fillRect(QRect(px, area_.top(), 1, area_.height()), theme_.grid);
        }
    }

    /// Where a mark stands, when it is in view.
    [[nodiscard]] std::optional<double> place_of(const PlottedMark& mark) const {
        const double px = x_.to_pixel(mark.x);
        return px < area_.left() || px > area_.right() ? std::nullopt : std::optional(px);
    }

    void mark_lines() {
        painter_.setPen(QPen(theme_.mute, 1, Qt::DashLine));
        for (const PlottedMark& mark : picture_.marks) {
            if (const auto px = place_of(mark))
                painter_.drawLine(QPointF(*px, area_.top()), QPointF(*px, area_.bottom()));
        }
    }

    void mark_words() {
        painter_.setFont(small_font());
        painter_.setPen(theme_.mute);
        for (const PlottedMark& mark : picture_.marks) {
            if (const auto px = place_of(mark))
                painter_.drawText(QRectF(*px + 3, area_.top() + 16, 90, 13), Qt::AlignLeft, mark.text);
        }
    }

    void remarks() {
        painter_.setFont(small_font(true));
        int y = area_.top() + 16;
        for (qsizetype i = 0; i < picture_.remarks.size(); ++i, y += 16) {
            const int wide = painter_.fontMetrics().horizontalAdvance(picture_.remarks[i]) + 12;
            const QRect box(area_.right() - wide - 4, y, wide, 14);
            painter_.fillRect(box, picture_.remark_colours[static_cast<std::size_t>(i)]);
            painter_.setPen(theme_.on_lap);
            painter_.drawText(box, Qt::AlignCenter, picture_.remarks[i]);
        }
    }

    /// Lost time in one tone, won time in another.
    void veil(const PlottedLane& lane) {
        const Trace& curve = *lane.veil;
        const double zero = y_.to_pixel(0);
        QPolygonF behind, ahead;
        // Beyond the lap there is no gap.
        const int begin = std::max(area_.left(), static_cast<int>(x_.to_pixel(curve.x.front()))),
                  end = std::min(area_.right(), static_cast<int>(x_.to_pixel(curve.x.back())));
        for (int px = begin; px <= end; px += 2) {
            const std::size_t at = std::min(curve.first_at(x_.to_value(px + 0.5)), curve.y.size() - 1);
            const double py = y_.to_pixel(lane.how.from_si(curve.y[at] - lane.veil_minus));
            behind << QPointF(px, std::min(py, zero));
            ahead << QPointF(px, std::max(py, zero));
        }
        for (auto& [polygon, tone] : {std::pair{&behind, theme_.lost}, std::pair{&ahead, theme_.won}}) {
            *polygon << QPointF(end, zero) << QPointF(begin, zero);
            QColor colour = lane.veil_is_loss ? tone : theme_.mute;
            colour.setAlphaF(0.16F);
            painter_.setPen(Qt::NoPen);
            painter_.setBrush(colour);
            painter_.drawPolygon(*polygon);
        }
        painter_.setPen(theme_.lap(0));
        painter_.drawLine(QPointF(area_.left(), zero), QPointF(area_.right(), zero));
    }

    void veil_words(const PlottedLane& lane) {
        const double zero = y_.to_pixel(0);
        painter_.setFont(small_font());
        if (lane.band != nullptr) {
            painter_.setPen(theme_.mute);
            painter_.drawText(QRect(area_.left() + 120, area_.top() + 3, 300, 14), Qt::AlignLeft, lane.band_text);
        }
        painter_.setPen(lane.veil_is_loss ? theme_.lost : theme_.mute);
        // Off the zero line, wherever that lies.
        const int words_y = zero < area_.top() + 18 ? area_.bottom() - 16 : area_.top() + 3;
        painter_.drawText(QRect(area_.left() + 6, words_y, 200, 14), Qt::AlignLeft, lane.veil_text);
    }

    void band(const PlottedLane& lane) {
        const Trace &curve = *lane.veil, &half = *lane.band;
        const auto inside = [&](double value) {
            return std::clamp(y_.to_pixel(lane.how.from_si(value)), double(area_.top()), double(area_.bottom()));
        };
        QPolygonF upper, lower;
        for (int px = area_.left(); px <= area_.right(); px += 4) {
            const double x = x_.to_value(px);
            const double value = curve.y[std::min(curve.first_at(x), curve.y.size() - 1)] - lane.veil_minus,
                         error = half.y[std::min(half.first_at(x), half.y.size() - 1)];
            upper << QPointF(px, inside(value + error));
            lower << QPointF(px, inside(value - error));
        }
        std::reverse(lower.begin(), lower.end());
        painter_.setPen(Qt::NoPen);
        painter_.setBrush(QBrush(theme_.mute, Qt::Dense6Pattern));
        painter_.drawPolygon(upper + lower);
    }

    const TracePicture& picture_;
    QPainter& painter_;
    QSize size_;
    Scale x_, y_;
    const Theme& theme_;
    Ticks places_;
    QRect area_;
};

}  // namespace

void paint_beside(const TracePicture& picture, QPainter& painter, QSize size) {
    LanePainter words(picture, painter, size);
    for (std::size_t lane = 0; lane < picture.lanes.size(); ++lane) words.beside(lane);
    words.axis();
}

void paint_beneath(const TracePicture& picture, QPainter& painter, QSize size, std::size_t lane) {
    LanePainter(picture, painter, size).beneath(lane);
}

void paint_over(const TracePicture& picture, QPainter& painter, QSize size) {
    LanePainter words(picture, painter, size);
    for (std::size_t lane = 0; lane < picture.lanes.size(); ++lane) words.over(lane);
}

}  // namespace rendak::app
