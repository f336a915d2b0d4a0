#include "app/desks/compare/ledger_picture.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

constexpr int ledger_head_px = 34, words_px = 15, ledger_row_px = 19, foot_px = 36, section_px = 62, long_name_px = 120,
              figure_px = 50, seen_px = 38;

QString range_text(const std::optional<Interval>& likely) {
    return likely
               ? LedgerPicture::tr("95 %: %1 to %2").arg(signed_number(likely->begin, 3), signed_number(likely->end, 3))
               : QString();
}

}  // namespace

LedgerPicture::LedgerPicture(Story& story, QWidget* parent) : QWidget(parent), story_(story) {
    setAccessibleName(tr("Time ledger: where the difference lies"));
    setMouseTracking(true);
    connect(&story_, &Story::changed, this, &LedgerPicture::take_over);
    connect(&story_, &Story::taken_changed, this, &LedgerPicture::state_changed);
}

void LedgerPicture::showEvent(QShowEvent* event) {
    story_.wanted_by(this);
    take_over();
    QWidget::showEvent(event);
}

void LedgerPicture::resizeEvent(QResizeEvent* event) {
    lay_out();
    QWidget::resizeEvent(event);
}

void LedgerPicture::take_over() {
    told_ = story_.told();
    sentences_.clear();
    if (told_ != nullptr) {
        const LapStory& story = told_->story;
        for (const ToldStory::Beside& it : told_->beside) {
            QString text = tr("%1: %2 s against A").arg(story_.name_of(it), signed_number(it.ledger.total_s, 3));
            if (it.ledger.likely_s) text += QStringLiteral("; ") + range_text(it.ledger.likely_s);
            sentences_.push_back({Sentence::Kind::others, text, {}, {}});
        }
        for (const auto& [slot, why] : told_->not_beside)
            sentences_.push_back({Sentence::Kind::others, slot_letter(slot) + QStringLiteral(": ") + why, {}, {}});
        const QString groups = QString::fromStdString(group_words(story.ledger));
        if (!groups.isEmpty()) sentences_.push_back({Sentence::Kind::groups, groups, {}, {}});
        const auto add = [&](const std::vector<LapFinding>& findings, Sentence::Kind kind) {
            for (const LapFinding& it : findings) {
                QString text = finding_text(it, kind == Sentence::Kind::won);
                // Who is meant by what is lost, when it is A.
                if (kind == Sentence::Kind::won)
                    text = tr("%1 is better: ").arg(QString::fromStdString(story_.words(false).b)) + text;
                sentences_.push_back({kind, text, QString::fromStdString(finding_causes(it)), {}, it.corner, it.at_m});
            }
        };
        add(story.lost, Sentence::Kind::lost);
        add(story.won, Sentence::Kind::won);
        for (const LedgerRow& row : story.ledger.rows) {
            if (!needs_more_laps(row)) continue;
            const QString needed = row.laps_needed > 0 ? tr("about %1 laps a side would tell").arg(row.laps_needed)
                                                       : tr("more than 99 laps a side would be needed to tell");
            sentences_.push_back({Sentence::Kind::unsure,
                                  tr("%1: %2 s, within what laps scatter; %3.")
                                      .arg(QString::fromStdString(row.name), signed_number(row.loss_s, 2), needed),
                                  {},
                                  {},
                                  row.corner,
                                  row.range_m.begin});
        }
    }
    names_ = section_px;
    if (told_ != nullptr) {
        for (const LedgerRow& row : told_->story.ledger.rows)
            names_ = std::max(names_, QFontMetrics(body_font()).horizontalAdvance(QString::fromStdString(row.name)));
        names_ = std::min(names_, long_name_px);
    }
    lay_out();
    update();
}

/// Where the sentences stand, in the width that there is.
void LedgerPicture::lay_out() {
    const QFontMetrics metrics(small_font());
    const auto place = [&](Sentence& it, int y) {
        const QRect text = metrics.boundingRect(QRect(0, 0, std::max(100, width() - 8), 1000),
                                                Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, it.text);
        it.area = QRect(4, y, width() - 8, text.height() + 5);
    };
    // The corners in groups stand above the rows, the others below.
    head_ = ledger_head_px;
    for (Sentence& it : sentences_) {
        if (it.kind != Sentence::Kind::groups) continue;
        place(it, words_px);
        head_ += it.area.height();
    }
    int y = rows_end() + foot_px;
    for (Sentence& it : sentences_) {
        if (it.kind == Sentence::Kind::groups) continue;
        place(it, y);
        y += it.area.height();
    }
    setMinimumHeight(std::max(y + 4, 120));
}

int LedgerPicture::rows_end() const {
    return head_ + (told_ ? static_cast<int>(told_->story.ledger.rows.size()) : 4) * ledger_row_px;
}

const std::vector<LapFinding>& LedgerPicture::findings() const {
    static const std::vector<LapFinding> none;
    return told_ ? told_->story.lost : none;
}

QSize LedgerPicture::sizeHint() const {
    return {310, minimumHeight()};
}

QString LedgerPicture::finding_text(const LapFinding& finding, bool reverse) const {
    return QString::fromStdString(finding_words(finding, told_->track(), story_.words(reverse)));
}

QRect LedgerPicture::area_of_finding(std::size_t finding) const {
    for (const Sentence& it : sentences_) {
        if (it.kind == Sentence::Kind::lost && finding-- == 0) return it.area;
    }
    return {};
}

QRect LedgerPicture::area_of(std::size_t row) const {
    return {0, head_ + static_cast<int>(row) * ledger_row_px, width(), ledger_row_px};
}

QString LedgerPicture::foot_text() const {
    if (!told_) return {};
    double own = 0, carried = 0, pull = 0;
    for (const LedgerRow& row : ledger()->rows) {
        own += row.own_s;
        carried += row.carried_s.value_or(0);
        pull += row.pull_s.value_or(0);
    }
    QString out = tr("In all %1 s").arg(signed_number(ledger()->total_s, 3));
    if (ledger()->pull.known())
        out += tr(": in corners %1, carried %2, pull %3")
                   .arg(signed_number(own, 3), signed_number(carried, 3), signed_number(pull, 3));
    else
        out += tr(": how A gains speed is not known, so straights are not split");
    if (ledger()->likely_s) out += QStringLiteral(". ") + range_text(ledger()->likely_s);
    return out + u'.' + (ledger()->inferred ? u' ' + tr("Pedals are inferred.") : QString());
}

QString LedgerPicture::row_text(const LedgerRow& row) const {
    QStringList out{
        tr("%1, %2: %3 s")
            .arg(QString::fromStdString(row.name), stretch_text(row.range_m), signed_number(row.loss_s, 3))};
    out << tr("In the corner %1: braking %2, to the slowest place %3, to the exit %4")
               .arg(signed_number(row.own_s, 3), signed_number(row.braking_s, 3), signed_number(row.entry_s, 3),
                    signed_number(row.exit_s, 3));
    if (row.carried_s) {
        const Shown speed = shown("speed");
        out << tr("Carried from its exit %1 (leaves it %2 %3), pull %4")
                   .arg(signed_number(*row.carried_s, 3), speed.difference_text(row.begin_mps), speed.unit,
                        signed_number(*row.pull_s, 3));
        switch (row.verdict) {
            case LedgerRow::Verdict::none:
                break;
            case LedgerRow::Verdict::parallel:
                out << tr(
                    "Along the straight the difference goes on as A's own acceleration has it: only the exit "
                    "differs.");
                break;
            case LedgerRow::Verdict::opening:
                out << tr("Along the straight it grows: possibly power, drag, weight, a gear or the wind.");
                break;
            case LedgerRow::Verdict::closing:
                out << tr(
                    "Along the straight it closes more than the speeds explain: possibly less drag, more power, "
                    "or the wind.");
                break;
        }
    }
    const QString worth = story_.worth_text(row.corner);
    if (!worth.isEmpty()) out << worth;
    for (const ToldStory::Beside& it : told_ ? told_->beside : std::vector<ToldStory::Beside>()) {
        if (const LedgerRow* other = it.row_of(row.corner))
            out << tr("%1: %2 s %3")
                       .arg(story_.name_of(it), signed_number(other->loss_s, 3), range_text(other->likely_s));
    }
    if (told_ && ledger()->b_laps > 1)
        out << tr("Seen on %1 of %2 laps. %3").arg(row.seen_on).arg(ledger()->b_laps).arg(range_text(row.likely_s));
    return out.join(u'\n');
}

void LedgerPicture::paint_row(QPainter& painter, QRect area, const LedgerRow& row, double most_s) const {
    const Theme& t = theme();
    painter.setPen(t.ink);
    painter.setFont(body_font());
    const QString name = row.corner == 0 ? tr("from line") : QString::fromStdString(row.name);
    painter.drawText(QRect(area.left() + 4, area.top(), names_, area.height()), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, names_));
    const int left = area.left() + names_ + 6, right = area.right() - figure_px - seen_px - 4;
    const double zero = left + 0.3 * (right - left), px_per_s = 0.68 * (right - left) / most_s;
    // Lost to the right, won to the left: the corner's own first, then what was carried, then the pull.
    double lost = zero, won = zero;
    const auto bar = [&](double s, Qt::BrushStyle style) {
        if (std::abs(s) * px_per_s < 0.5) return;
        const double long_px = std::min(std::abs(s) * px_per_s, s > 0 ? right - lost : won - left);
        const QRectF box(s > 0 ? lost : won - long_px, area.top() + 4, long_px, area.height() - 8);
        (s > 0 ? lost : won) += s > 0 ? long_px : -long_px;
        QColor tone = s > 0 ? t.lost : t.won;
        painter.setPen(Qt::NoPen);
        if (style != Qt::SolidPattern) {
            QColor under = tone;
            under.setAlphaF(0.22F);
            painter.fillRect(box, under);
        }
        painter.fillRect(box, QBrush(tone, style));
    };
    bar(row.own_s, Qt::SolidPattern);
    if (row.carried_s) {
        bar(*row.carried_s, Qt::BDiagPattern);
        bar(*row.pull_s, Qt::Dense6Pattern);
    } else {
        bar(row.straight_s, Qt::BDiagPattern);
    }
    painter.setPen(t.rule);
    painter.drawLine(QPointF(zero, area.top()), QPointF(zero, area.bottom() + 1));
    // The other laps or sets: where their bar would end, by their letter.
    painter.setFont(small_font(true));
    for (const ToldStory::Beside& it : told_->beside) {
        const LedgerRow* other = it.row_of(row.corner);
        if (other == nullptr) continue;
        const double x = std::clamp(zero + other->loss_s * px_per_s, left + 2.0, right - 2.0);
        painter.setPen(QPen(t.lap(it.slot), 1.6));
        painter.drawLine(QPointF(x, area.top() + 3), QPointF(x, area.bottom() - 2));
        const bool at_end = x > right - 12;
        painter.drawText(QRectF(at_end ? x - 12 : x + 2, area.top() + 1, 10, area.height() - 2), Qt::AlignCenter,
                         slot_letter(it.slot));
    }
    // What could as well be nothing is written faintly.
    const bool sure = row.likely_s ? !could_be_chance(row) : std::abs(row.loss_s) >= 0.02;
    painter.setFont(body_font(sure));
    painter.setPen(!sure ? t.mute : row.loss_s > 0 ? t.lost : t.won);
    painter.drawText(QRect(right + 2, area.top(), figure_px, area.height()), Qt::AlignRight | Qt::AlignVCenter,
                     signed_number(row.loss_s, 3));
    if (ledger()->b_laps < 2) return;
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRect(area.right() - seen_px, area.top(), seen_px - 4, area.height()),
                     Qt::AlignRight | Qt::AlignVCenter, tr("%1 of %2").arg(row.seen_on).arg(ledger()->b_laps));
}

void LedgerPicture::paint(QPainter& painter, QSize size) const {
    const Theme& t = theme();
    painter.fillRect(QRect(QPoint(), size), t.panel);
    painter.setPen(t.mute);
    if (!told_) {
        painter.setFont(body_font());
        painter.drawText(QRect(12, 12, size.width() - 24, size.height() - 24), Qt::AlignCenter | Qt::TextWordWrap,
                         story_.message());
        return;
    }
    painter.setFont(small_font());
    painter.drawText(QRect(4, 0, size.width() - 8, 15), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(head_text(), Qt::ElideRight, size.width() - 8));
    // What the fillings mean.
    int x = 4;
    for (const auto& [style, words] : {std::pair{Qt::SolidPattern, tr("in the corner")},
                                       {Qt::BDiagPattern, tr("carried along")},
                                       {Qt::Dense6Pattern, tr("pull")}}) {
        painter.fillRect(QRect(x, head_ - 14, 14, 8), QBrush(t.mute, style));
        painter.drawText(QRect(x + 18, head_ - 18, 90, 15), Qt::AlignLeft | Qt::AlignVCenter, words);
        x += 28 + painter.fontMetrics().horizontalAdvance(words);
    }
    painter.drawText(QRect(x, head_ - 18, size.width() - x - 6, 15), Qt::AlignRight | Qt::AlignVCenter,
                     tr("s, + = lost"));
    double most = 0.05;
    for (const LedgerRow& row : ledger()->rows) most = std::max(most, std::abs(row.loss_s));
    for (const ToldStory::Beside& it : told_->beside) {
        for (const LedgerRow& row : it.ledger.rows) most = std::max(most, std::abs(row.loss_s));
    }
    for (std::size_t i = 0; i < ledger()->rows.size(); ++i) {
        painter.setPen(t.grid);
        painter.drawLine(4, area_of(i).top(), size.width() - 4, area_of(i).top());
        QRect area = area_of(i);
        area.setWidth(size.width());
        paint_row(painter, area, ledger()->rows[i], most);
    }
    const int foot = head_ + static_cast<int>(ledger()->rows.size()) * ledger_row_px;
    painter.setPen(t.rule);
    painter.drawLine(4, foot, size.width() - 4, foot);
    painter.setPen(t.ink);
    painter.setFont(small_font(true));
    painter.drawText(QRect(4, foot + 3, size.width() - 8, foot_px - 4), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                     foot_text());
    paint_sentences(painter);
}

void LedgerPicture::paint_sentences(QPainter& painter) const {
    const Theme& t = theme();
    painter.setFont(small_font());
    for (const Sentence& it : sentences_) {
        painter.setPen(t.grid);
        if (it.kind != Sentence::Kind::groups) painter.drawLine(it.area.topLeft(), it.area.topRight());
        painter.setPen(it.kind == Sentence::Kind::won                                           ? t.won
                       : it.kind == Sentence::Kind::unsure || it.kind == Sentence::Kind::others ? t.mute
                                                                                                : t.ink);
        painter.drawText(it.area.adjusted(0, 2, 0, 0), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, it.text);
    }
}

void LedgerPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter, size());
}

std::optional<std::size_t> LedgerPicture::row_at(QPoint at) const {
    if (!told_ || at.y() < head_) return std::nullopt;
    const auto row = static_cast<std::size_t>((at.y() - head_) / ledger_row_px);
    return row < ledger()->rows.size() ? std::optional(row) : std::nullopt;
}

void LedgerPicture::mouseReleaseEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    const auto row = row_at(at);
    if (!told_) return;
    if (row) return story_.show(ledger()->rows[*row].range_m, ledger()->rows[*row].range_m.begin);
    for (const Sentence& sentence : sentences_) {
        if (sentence.corner == 0 || !sentence.area.contains(at)) continue;
        for (const LedgerRow& it : ledger()->rows) {
            if (it.corner == sentence.corner) return story_.show(it.range_m, sentence.at_m);
        }
    }
}

bool LedgerPicture::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const auto row = row_at(help->pos());
        if (row) {
            QToolTip::showText(help->globalPos(), row_text(ledger()->rows[*row]), this);
            return true;
        }
        for (const Sentence& it : sentences_) {
            if (it.more.isEmpty() || !it.area.contains(help->pos())) continue;
            QToolTip::showText(help->globalPos(), it.more, this);
            return true;
        }
    }
    return QWidget::event(event);
}

QString LedgerPicture::data_text() const {
    if (!told_) return {};
    QString out =
        tr("Corner,From [m],To [m],Loss [s],In the corner [s],Carried [s],Pull [s],Braking [s],Entry [s],"
           "Exit [s],Straight [s],Seen on,Of,Low [s],High [s]");
    for (const ToldStory::Beside& it : told_->beside)
        out += u',' + csv_cell(story_.name_of(it) + QStringLiteral(" [s]"));
    out += u'\n';
    const auto number = [](double value) { return QString::number(value, 'f', 4); };
    for (const LedgerRow& row : ledger()->rows) {
        out += QStringList{csv_cell(QString::fromStdString(row.name)),
                           QString::number(row.range_m.begin, 'f', 1),
                           QString::number(row.range_m.end, 'f', 1),
                           number(row.loss_s),
                           number(row.own_s),
                           row.carried_s ? number(*row.carried_s) : QString(),
                           row.pull_s ? number(*row.pull_s) : QString(),
                           number(row.braking_s),
                           number(row.entry_s),
                           number(row.exit_s),
                           number(row.straight_s),
                           QString::number(row.seen_on),
                           QString::number(ledger()->b_laps),
                           row.likely_s ? number(row.likely_s->begin) : QString(),
                           row.likely_s ? number(row.likely_s->end) : QString()}
                   .join(u',');
        for (const ToldStory::Beside& it : told_->beside) {
            const LedgerRow* other = it.row_of(row.corner);
            out += u',' + (other != nullptr ? number(other->loss_s) : QString());
        }
        out += u'\n';
    }
    return out;
}

ViewOut LedgerPicture::out(const QString& name) {
    return {name, QSize(width(), std::max(height(), sizeHint().height())),
            [this](QPainter& painter, QSize size) { paint(painter, size); }, [this] { return at_hand(data_text()); }};
}

}  // namespace rendak::app
