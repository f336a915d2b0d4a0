#include "app/desks/stint/wheels_picture.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/plot/ticks.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr std::array<const char*, 4> wheel_names{"FL", "FR", "RL", "RR"};
constexpr double words_width = 136;

}  // namespace

WheelsPicture::WheelsPicture(QWidget* parent) : QWidget(parent) {
    setAccessibleName(tr("The four wheels, the car from above"));
}

void WheelsPicture::set_data(std::shared_ptr<const StintData> stints) {
    data_ = std::move(stints);
    const auto known = kinds();
    if (!known.empty() && std::find(known.begin(), known.end(), kind_) == known.end()) kind_ = known.front();
    update();
}

void WheelsPicture::show_kind(std::size_t kind) {
    kind_ = kind;
    update();
}

void WheelsPicture::set_mode(Mode mode) {
    mode_ = mode;
    update();
}

void WheelsPicture::set_cursor_values(std::function<double(std::size_t, const std::string&)> values) {
    at_cursor_ = std::move(values);
}

void WheelsPicture::set_cursor(double at_m) {
    cursor_m_ = at_m;
    if (mode_ != Mode::laps) update();
}

std::vector<std::size_t> WheelsPicture::kinds() const {
    std::vector<std::size_t> out;
    for (std::size_t kind = 0; data_ != nullptr && kind < wheel_kinds().size(); ++kind) {
        const bool logged = std::any_of(data_->runs.begin(), data_->runs.end(), [&](const StintRun& run) {
            return run.stint && run.stint->balance(kind) != nullptr;
        });
        if (logged) out.push_back(kind);
    }
    return out;
}

QRectF WheelsPicture::cell_of(std::size_t wheel) const {
    const double wide = width() / 2.0, high = height() / 2.0;
    return QRectF(wheel % 2 == 0 ? 0 : wide, wheel < 2 ? 0 : high, wide, high).adjusted(8, 4, -4, -4);
}

QRectF WheelsPicture::plot_of(std::size_t wheel) const {
    return cell_of(wheel).adjusted(24, 14, -words_width, -14);
}

std::vector<WheelsPicture::Line> WheelsPicture::lines(std::size_t wheel) const {
    std::vector<Line> out;
    const std::string channel = wheel_kinds()[kind_].channel(wheel);
    const Shown how = shown(channel);
    const bool tread = kind_ == wheel_kind::inner || kind_ == wheel_kind::middle || kind_ == wheel_kind::outer;
    const auto add = [&](const QString& word, const auto& text_of) {
        Line line{word};
        for (const StintRun& run : data_->runs) {
            const QString text = text_of(run);
            if (!text.isEmpty()) line.of_runs.emplace_back(run.slot, text);
        }
        if (!line.of_runs.empty()) out.push_back(std::move(line));
    };
    // A line a run where they fit, else what differs stands side by side.
    for (const StintRun& run : data_->runs) {
        const StintBalance* it = run.stint ? run.stint->balance(kind_) : nullptr;
        if (it == nullptr || !std::isfinite(it->mean[wheel])) continue;
        out.push_back({{}, {{run.slot, with_unit(how.text(it->mean[wheel]), how.unit)}}, true});
    }
    add(tr("in window %"), [&](const StintRun& run) {
        const auto share = std::find_if(run.windows.shares.begin(), run.windows.shares.end(),
                                        [&](const WindowShare& it) { return it.channel == channel; });
        return share == run.windows.shares.end() ? QString() : QString::number(100 * share->inside, 'f', 0);
    });
    // The wanted pressure is the middle of its window.
    add(tr("off wanted"), [&](const StintRun& run) {
        const Window window = window_of(*run.run, channel);
        const StintBalance* it = run.stint ? run.stint->balance(kind_) : nullptr;
        if (kind_ != wheel_kind::pressure || it == nullptr || !window.low || !window.high ||
            !std::isfinite(it->mean[wheel]))
            return QString();
        return how.difference_text(it->mean[wheel] - (*window.low + *window.high) / 2);
    });
    const auto apart = [&](const QString& word, bool loaded, double TreadReading::Apart::*figure) {
        add(word, [&](const StintRun& run) {
            if (!tread || run.tread.empty()) return QString();
            const TreadReading::Apart& it = loaded ? run.tread[wheel].loaded : run.tread[wheel].straight;
            return std::isfinite(it.*figure) ? signed_number(how.difference_from_si(it.*figure), 1) : QString();
        });
    };
    apart(tr("in−out corner"), true, &TreadReading::Apart::inner_minus_outer);
    apart(tr("straight"), false, &TreadReading::Apart::inner_minus_outer);
    apart(tr("mid−edges"), true, &TreadReading::Apart::middle_minus_edges);
    add(tr("left %"), [&](const StintRun& run) {
        const StintBalance* worn =
            run.stint && !tread && kind_ != wheel_kind::disc ? run.stint->balance(wheel_kind::worn) : nullptr;
        return worn != nullptr && std::isfinite(worn->mean[wheel])
                   ? QString::number(100 * (1 - worn->mean[wheel]), 'f', 0)
                   : QString();
    });
    return out;
}

QStringList WheelsPicture::words(std::size_t wheel) const {
    QStringList out;
    for (const Line& it : lines(wheel)) {
        for (const auto& [slot, text] : it.of_runs)
            out << slot_letter(slot) + u' ' + (it.word.isEmpty() ? text : it.word + u' ' + text);
    }
    return out;
}

QString WheelsPicture::spike_words() const {
    const StintRun* b = data_ == nullptr ? nullptr : data_->b();
    if (b == nullptr || !b->stint || !data_->a().stint) return {};
    std::optional<SpikeDifference> most;
    std::size_t at = 0;
    for (std::size_t w = 0; w < wheel_ids.size(); ++w) {
        const auto it = spike_difference(data_->a().round(kind_, w), b->round(kind_, w));
        if (!it || (most && std::abs(it->beyond_mean) <= std::abs(most->beyond_mean))) continue;
        most = it;
        at = w;
    }
    if (!most) return {};
    const Shown how = shown(wheel_kinds()[kind_].channel(at));
    const QString where = place_name(*data_->a().run->track, most->at_m);
    return tr("%1 differs most at %2: %3 %4, %5 %6.")
        .arg(QLatin1String(wheel_names[at]), where, slot_letter(data_->a().slot),
             with_unit(how.text(most->a), how.unit), slot_letter(b->slot), with_unit(how.text(most->b), how.unit));
}

Interval WheelsPicture::y_values() const {
    double low = 1e300, high = -1e300;
    const auto take = [&](double value) {
        if (!std::isfinite(value)) return;
        low = std::min(low, value);
        high = std::max(high, value);
    };
    for (const StintRun& run : data_->runs) {
        if (!run.stint) continue;
        for (std::size_t w = 0; w < wheel_ids.size(); ++w) {
            if (mode_ == Mode::round) {
                for (const double it : run.round(kind_, w).values) take(it);
            } else if (const StintReading* reading = run.stint->reading(kind_, w)) {
                for (const double it : reading->values) take(it);
            }
        }
    }
    const Shown how = shown(wheel_kinds()[kind_].channel(0));
    if (!(high >= low)) return {0, 1};
    Interval out{how.from_si(low), how.from_si(high)};
    if (out.begin > out.end) std::swap(out.begin, out.end);
    return with_margin(out);
}

Scale WheelsPicture::x_scale(std::size_t wheel) const {
    const QRectF plot = plot_of(wheel);
    if (mode_ == Mode::round) {
        double length = 1;
        for (const StintRun& run : data_->runs) length = std::max(length, run.round(kind_, wheel).length_m);
        return {{0, length}, plot.left(), plot.right()};
    }
    double most = 2;
    for (const StintRun& run : data_->runs) {
        if (run.stint && !run.stint->laps.empty())
            most = std::max<double>(most, run.stint->lap_of_stint(run.stint->laps.size() - 1));
    }
    return {{1, most}, plot.left(), plot.right()};
}

void WheelsPicture::paint_wheel(QPainter& painter, std::size_t wheel) const {
    const Theme& t = theme();
    const QRectF plot = plot_of(wheel);
    const Scale x = x_scale(wheel), y{y_values(), plot.bottom(), plot.top()};
    const Shown how = shown(wheel_kinds()[kind_].channel(wheel));
    // The window of A's car sheet.
    const Window window = window_of(*data_->a().run, wheel_kinds()[kind_].channel(wheel));
    painter.setPen(Qt::NoPen);
    if (window.known()) {
        QColor band = t.won;
        band.setAlphaF(0.13F);
        double top = window.high ? y.to_pixel(how.from_si(*window.high)) : plot.top();
        double bottom = window.low ? y.to_pixel(how.from_si(*window.low)) : plot.bottom();
        top = std::clamp(top, plot.top(), plot.bottom());
        bottom = std::clamp(bottom, plot.top(), plot.bottom());
        painter.fillRect(QRectF(QPointF(plot.left(), top), QPointF(plot.right(), bottom)), band);
    }
    painter.setFont(small_font());
    for (const double value : ticks_for(y.values, 3).values) {
        painter.setPen(t.grid);
        painter.drawLine(QPointF(plot.left(), y.to_pixel(value)), QPointF(plot.right(), y.to_pixel(value)));
        painter.setPen(t.mute);
        painter.drawText(QRectF(plot.left() - 36, y.to_pixel(value) - 7, 33, 14), Qt::AlignRight | Qt::AlignVCenter,
                         QString::number(value, 'f', ticks_for(y.values, 3).decimals));
    }
    painter.setBrush(Qt::NoBrush);
    for (const StintRun& run : data_->runs) {
        if (!run.stint) continue;
        QPolygonF line;
        painter.setPen(QPen(t.lap(run.slot), lap_trace_width_px));
        const auto flush = [&] {
            if (line.size() > 1) painter.drawPolyline(line);
            if (line.size() == 1) painter.drawEllipse(line.first(), 1.5, 1.5);
            line.clear();
        };
        if (mode_ == Mode::round) {
            const RoundTheLap& round = run.round(kind_, wheel);
            for (std::size_t p = 0; p < round.values.size(); ++p) {
                if (!std::isfinite(round.values[p])) {
                    flush();
                    continue;
                }
                line << QPointF(x.to_pixel(round.at_m(p)), y.to_pixel(how.from_si(round.values[p])));
            }
            flush();
            continue;
        }
        const StintReading* reading = run.stint->reading(kind_, wheel);
        if (reading == nullptr) continue;
        for (std::size_t k = 0; k < reading->values.size(); ++k) {
            if (!std::isfinite(reading->values[k])) {
                flush();
                continue;
            }
            line << QPointF(x.to_pixel(run.stint->lap_of_stint(k)), y.to_pixel(how.from_si(reading->values[k])));
        }
        flush();
        // The lap from which it has settled.
        if (reading->settling && reading->settling->from_lap) {
            const double lap = *reading->settling->from_lap - run.stint->laps.front() + 1;
            const double at = x.to_pixel(lap);
            painter.drawLine(QPointF(at, plot.bottom() + 2), QPointF(at, plot.bottom() + 7));
        }
    }
    if (mode_ == Mode::round) {
        painter.setPen(QPen(t.accent, 1));
        painter.drawLine(QPointF(x.to_pixel(cursor_m_), plot.top()), QPointF(x.to_pixel(cursor_m_), plot.bottom()));
    }
    double down = plot.top() - 6;
    const double left = plot.right() + 6;
    for (const Line& it : lines(wheel)) {
        if (down + 13 > cell_of(wheel).bottom() + 4) break;
        double at = left;
        const auto put = [&](const QString& text, const QColor& colour) {
            painter.setPen(colour);
            painter.drawText(QRectF(at, down, words_width, 15), Qt::AlignLeft | Qt::AlignVCenter, text);
            at += painter.fontMetrics().horizontalAdvance(text) + 5;
        };
        painter.setFont(it.strong ? number_font() : small_font());
        if (!it.word.isEmpty()) put(it.word, t.mute);
        for (const auto& [slot, text] : it.of_runs) put(text, t.lap(slot));
        down += it.strong ? 15 : 13;
    }
}

/// All readings of a wheel where the cursor stands, a row a kind, a column a run.
void WheelsPicture::paint_at_cursor(QPainter& painter, std::size_t wheel) const {
    const Theme& t = theme();
    const QRectF cell = cell_of(wheel).adjusted(24, 0, 0, 0);
    const auto known = kinds();
    const double wide =
        std::min(86.0, (cell.width() - 70) / static_cast<double>(std::max<std::size_t>(1, data_->runs.size())));
    const double row =
        std::min(18.0, (cell.height() - 16) / static_cast<double>(std::max<std::size_t>(1, known.size())));
    double down = cell.top() + 14;
    for (const std::size_t kind : known) {
        const std::string channel = wheel_kinds()[kind].channel(wheel);
        const Shown how = shown(channel);
        painter.setFont(row < 15 ? small_font() : body_font());
        painter.setPen(t.mute);
        painter.drawText(QRectF(cell.left(), down, 66, row), Qt::AlignLeft | Qt::AlignVCenter,
                         tr(wheel_kinds()[kind].title));
        for (std::size_t r = 0; r < data_->runs.size(); ++r) {
            const double value = at_cursor_ ? at_cursor_(r, channel) : std::nan("");
            painter.setFont(row < 15 ? small_font(true) : number_font());
            painter.setPen(t.lap(data_->runs[r].slot));
            painter.drawText(QRectF(cell.left() + 62 + static_cast<double>(r) * wide, down, wide - 4, row),
                             Qt::AlignRight | Qt::AlignVCenter,
                             std::isfinite(value) ? with_unit(how.text(value), how.unit) : QStringLiteral("–"));
        }
        down += row;
    }
}

void WheelsPicture::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (data_ == nullptr || data_->runs.empty()) return;
    if (kinds().empty()) {
        painter.setPen(t.mute);
        painter.setFont(body_font());
        painter.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                         tr("No tyre, brake or wear reading is logged in these runs, or none has a complete lap."));
        return;
    }
    for (std::size_t w = 0; w < wheel_ids.size(); ++w) {
        painter.setFont(body_font(true));
        painter.setPen(t.ink);
        painter.drawText(QRectF(cell_of(w).left(), cell_of(w).top() - 2, 24, 16), Qt::AlignLeft | Qt::AlignVCenter,
                         QLatin1String(wheel_names[w]));
        if (mode_ == Mode::cursor) {
            paint_at_cursor(painter, w);
            continue;
        }
        const bool logged = std::any_of(data_->runs.begin(), data_->runs.end(), [&](const StintRun& run) {
            return run.stint && run.stint->reading(kind_, w) != nullptr;
        });
        if (logged) {
            paint_wheel(painter, w);
            continue;
        }
        painter.setPen(t.mute);
        painter.setFont(small_font());
        painter.drawText(cell_of(w), Qt::AlignCenter, tr("not logged"));
    }
}

void WheelsPicture::mouseReleaseEvent(QMouseEvent* event) {
    if (data_ == nullptr || mode_ == Mode::cursor) return;
    for (std::size_t w = 0; w < wheel_ids.size(); ++w) {
        if (!plot_of(w).contains(event->position())) continue;
        const double at = x_scale(w).to_value(event->position().x());
        if (mode_ == Mode::round) {
            Q_EMIT place_clicked(at, QString::fromStdString(wheel_kinds()[kind_].channel(w)));
            return;
        }
        for (const StintRun& run : data_->runs) {
            if (!run.stint) continue;
            for (std::size_t k = 0; k < run.stint->laps.size(); ++k) {
                if (run.stint->lap_of_stint(k) == static_cast<int>(std::lround(at))) {
                    Q_EMIT lap_clicked({run.run->row.id, run.stint->laps[k]});
                    return;
                }
            }
        }
    }
}

}  // namespace rendak::app
