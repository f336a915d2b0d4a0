#include "app/desks/compare/ledger_picture.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {
namespace {

constexpr int head_px = 34, row_px = 19, foot_px = 36, finding_px = 30, name_px = 62, number_px = 50, seen_px = 38;

std::vector<PreparedLap> counting_laps(const RunData& run) {
    std::vector<PreparedLap> out;
    for (RunLap& it : complete_laps(run)) {
        if (it.included) out.push_back(std::move(it.lap));
    }
    return out;
}

struct Worked {
    Ledger ledger;
    std::vector<LapFinding> findings;
    std::vector<Worth> worth;
};

Result<Worked> worked(std::span<const PreparedLap> a, std::span<const PreparedLap> b) {
    auto ledger = ledger_of(a, b);
    if (!ledger) return pass_on(ledger.error());
    auto findings = findings_of(a, b);
    if (!findings) return pass_on(findings.error());
    return Worked{std::move(*ledger), std::move(*findings), worth_of(a).value_or(std::vector<Worth>())};
}

QString range_text(const std::optional<Interval>& likely) {
    return likely
               ? LedgerPicture::tr("95 %: %1 to %2").arg(signed_number(likely->begin, 3), signed_number(likely->end, 3))
               : QString();
}

}  // namespace

LedgerPicture::LedgerPicture(Focus& focus, Comparison& comparison, Jobs& jobs, QWidget* parent)
    : QWidget(parent), focus_(focus), comparison_(comparison), working_(jobs) {
    setAccessibleName(tr("Time ledger: where the difference lies"));
    setMouseTracking(true);
    connect(&comparison_, &Comparison::changed, this, &LedgerPicture::work_out);
    connect(&focus_, &Focus::laps_changed, this, &LedgerPicture::work_out);
}

void LedgerPicture::widen(bool on) {
    if (wide_ == on) return;
    wide_ = on;
    work_out();
    Q_EMIT state_changed();
}

void LedgerPicture::showEvent(QShowEvent* event) {
    work_out();
    QWidget::showEvent(event);
}

void LedgerPicture::work_out() {
    if (!isVisible()) return;
    const auto laps = comparison_.shared_laps();
    if (!laps->on_track() || laps->laps.size() < 2) {
        working_.drop();
        ledger_.reset();
        findings_.clear();
        of_.reset();
        message_ = tr("There is a ledger of two laps of one track: pick a second lap.");
        setMinimumHeight(sizeHint().height());
        return update();
    }
    const int slot = std::max(1, comparison_.active_slot());
    if (of_ == laps && of_slot_ == slot && of_wide_ == wide_) return;
    of_ = laps;
    of_slot_ = slot;
    of_wide_ = wide_;
    // What is shown belongs to what it was worked out of.
    ledger_.reset();
    findings_.clear();
    worth_.clear();
    message_ = tr("Adding up …");
    working_.run<Worked>(
        tr("Time ledger"),
        [laps, slot, wide = wide_](const JobContext&) -> Result<Worked> {
            const ComparedLap &a = laps->baseline(), &b = laps->laps[static_cast<std::size_t>(slot)];
            if (!wide) return worked(std::span(&a.lap, 1), std::span(&b.lap, 1));
            if (a.run == b.run)
                return fail(
                    ErrorCode::bad_input,
                    "Both laps are of one run, whose laps are one set. Pick a lap of another run, or press W for "
                    "the two laps.");
            return worked(counting_laps(*a.run), counting_laps(*b.run));
        },
        [this](Result<Worked> found) {
            if (found) {
                ledger_ = std::move(found->ledger);
                findings_ = std::move(found->findings);
                worth_ = std::move(found->worth);
                message_.clear();
            } else {
                if (found.error().code == ErrorCode::cancelled) of_.reset();
                ledger_.reset();
                findings_.clear();
                message_ = QString::fromStdString(found.error().text());
            }
            setMinimumHeight(sizeHint().height());
            update();
        });
    update();
}

QSize LedgerPicture::sizeHint() const {
    const int rows = ledger_ ? static_cast<int>(ledger_->rows.size()) : 4;
    return {310, head_px + rows * row_px + foot_px + static_cast<int>(findings_.size()) * finding_px};
}

QString LedgerPicture::finding_text(const LapFinding& finding) const {
    const Shown speed = shown("speed"), length = distance_shown();
    return QString::fromStdString(finding_words(finding, of_->track(),
                                                {speed.unit.toStdString(), length.unit.toStdString(),
                                                 speed.difference_from_si(1 / 3.6), length.difference_from_si(1)}));
}

QRect LedgerPicture::area_of_finding(std::size_t finding) const {
    const int rows = ledger_ ? static_cast<int>(ledger_->rows.size()) : 0;
    return {0, head_px + rows * row_px + foot_px + static_cast<int>(finding) * finding_px, width(), finding_px};
}

QRect LedgerPicture::area_of(std::size_t row) const {
    return {0, head_px + static_cast<int>(row) * row_px, width(), row_px};
}

QString LedgerPicture::head_text() const {
    if (!ledger_) return {};
    const auto side = [&](std::size_t slot, std::size_t count) {
        const ComparedLap& lap = of_->laps[slot];
        return slot_letter(static_cast<int>(slot)) + u' ' +
               (of_wide_ ? tr("%1, %2").arg(QString::fromStdString(lap.run->row.name),
                                            counted(static_cast<qsizetype>(count), tr("lap"), tr("laps")))
                         : tr("lap %1").arg(lap.lap.ref.lap));
    };
    return tr("%1 against %2   (W: %3)")
        .arg(side(static_cast<std::size_t>(of_slot_), ledger_->b_laps), side(0, ledger_->a_laps),
             of_wide_ ? tr("the two laps") : tr("all laps of the runs"));
}

QString LedgerPicture::foot_text() const {
    if (!ledger_) return {};
    double own = 0, carried = 0, pull = 0;
    for (const LedgerRow& row : ledger_->rows) {
        own += row.own_s;
        carried += row.carried_s.value_or(0);
        pull += row.pull_s.value_or(0);
    }
    QString out = tr("In all %1 s").arg(signed_number(ledger_->total_s, 3));
    if (ledger_->pull.known())
        out += tr(": in corners %1, carried %2, pull %3")
                   .arg(signed_number(own, 3), signed_number(carried, 3), signed_number(pull, 3));
    else
        out += tr(": how A gains speed is not known, so straights are not split");
    if (ledger_->likely_s) out += QStringLiteral(". ") + range_text(ledger_->likely_s);
    return out + u'.' + (ledger_->inferred ? u' ' + tr("Pedals are inferred.") : QString());
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
    for (const Worth& it : worth_) {
        if (row.corner == 0 || it.corner != row.corner) continue;
        const Shown speed = shown("speed");
        const double per = speed.factor * 3.6;  // worth is of 1 km/h
        out << tr("1 %1 more is worth %2 s at the slowest place, %3 s at the exit")
                   .arg(speed.unit, QString::number(it.slowest_s * per, 'f', 3),
                        QString::number(it.exit_s * per, 'f', 3));
    }
    if (ledger_ && ledger_->b_laps > 1)
        out << tr("Seen on %1 of %2 laps. %3").arg(row.seen_on).arg(ledger_->b_laps).arg(range_text(row.likely_s));
    return out.join(u'\n');
}

void LedgerPicture::paint_row(QPainter& painter, QRect area, const LedgerRow& row, double most_s) const {
    const Theme& t = theme();
    painter.setPen(t.ink);
    painter.setFont(body_font());
    const QString name = row.corner == 0 ? tr("from line") : QString::fromStdString(row.name);
    painter.drawText(QRect(area.left() + 4, area.top(), name_px, area.height()), Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, name_px));
    const int left = area.left() + name_px + 6, right = area.right() - number_px - seen_px - 4;
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
    // What could as well be nothing is written faintly.
    const bool sure = row.likely_s ? !row.likely_s->contains(0) : std::abs(row.loss_s) >= 0.02;
    painter.setFont(body_font(sure));
    painter.setPen(!sure ? t.mute : row.loss_s > 0 ? t.lost : t.won);
    painter.drawText(QRect(right + 2, area.top(), number_px, area.height()), Qt::AlignRight | Qt::AlignVCenter,
                     signed_number(row.loss_s, 3));
    if (ledger_->b_laps < 2) return;
    painter.setFont(small_font());
    painter.setPen(t.mute);
    painter.drawText(QRect(area.right() - seen_px, area.top(), seen_px - 4, area.height()),
                     Qt::AlignRight | Qt::AlignVCenter, tr("%1 of %2").arg(row.seen_on).arg(ledger_->b_laps));
}

void LedgerPicture::paint(QPainter& painter, QSize size) const {
    const Theme& t = theme();
    painter.fillRect(QRect(QPoint(), size), t.panel);
    painter.setPen(t.mute);
    if (!ledger_) {
        painter.setFont(body_font());
        painter.drawText(QRect(12, 12, size.width() - 24, size.height() - 24), Qt::AlignCenter | Qt::TextWordWrap,
                         message_);
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
        painter.fillRect(QRect(x, 20, 14, 8), QBrush(t.mute, style));
        painter.drawText(QRect(x + 18, 16, 90, 15), Qt::AlignLeft | Qt::AlignVCenter, words);
        x += 28 + painter.fontMetrics().horizontalAdvance(words);
    }
    painter.drawText(QRect(x, 16, size.width() - x - 6, 15), Qt::AlignRight | Qt::AlignVCenter, tr("s, + = lost"));
    double most = 0.05;
    for (const LedgerRow& row : ledger_->rows) most = std::max(most, std::abs(row.loss_s));
    for (std::size_t i = 0; i < ledger_->rows.size(); ++i) {
        painter.setPen(t.grid);
        painter.drawLine(4, area_of(i).top(), size.width() - 4, area_of(i).top());
        QRect area = area_of(i);
        area.setWidth(size.width());
        paint_row(painter, area, ledger_->rows[i], most);
    }
    const int foot = head_px + static_cast<int>(ledger_->rows.size()) * row_px;
    painter.setPen(t.rule);
    painter.drawLine(4, foot, size.width() - 4, foot);
    painter.setPen(t.ink);
    painter.setFont(small_font(true));
    painter.drawText(QRect(4, foot + 3, size.width() - 8, foot_px - 4), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                     foot_text());
    painter.setFont(small_font());
    for (std::size_t i = 0; i < findings_.size(); ++i) {
        const QRect area(4, area_of_finding(i).top(), size.width() - 8, finding_px);
        painter.setPen(t.grid);
        painter.drawLine(area.topLeft(), area.topRight());
        painter.setPen(t.ink);
        painter.drawText(area.adjusted(0, 2, 0, 0), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                         finding_text(findings_[i]));
    }
}

void LedgerPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    paint(painter, size());
}

std::optional<std::size_t> LedgerPicture::row_at(QPoint at) const {
    if (!ledger_ || at.y() < head_px) return std::nullopt;
    const auto row = static_cast<std::size_t>((at.y() - head_px) / row_px);
    return row < ledger_->rows.size() ? std::optional(row) : std::nullopt;
}

void LedgerPicture::mouseReleaseEvent(QMouseEvent* event) {
    const QPoint at = event->position().toPoint();
    const auto row = row_at(at);
    if (!comparison_.laps().on_track()) return;
    const auto show = [this](Interval range, double place) {
        if (focus_.state().axis == Axis::run) focus_.set_axis(Axis::distance);
        comparison_.set_view({range.begin - 30, range.end + 30});
        focus_.set_cursor(place);
    };
    if (row) return show(ledger_->rows[*row].range_m, ledger_->rows[*row].range_m.begin);
    for (std::size_t i = 0; i < findings_.size(); ++i) {
        if (findings_[i].corner == 0 || !area_of_finding(i).contains(at)) continue;
        for (const LedgerRow& it : ledger_->rows) {
            if (it.corner == findings_[i].corner) return show(it.range_m, findings_[i].at_m);
        }
    }
}

bool LedgerPicture::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const auto row = row_at(help->pos());
        if (row) {
            QToolTip::showText(help->globalPos(), row_text(ledger_->rows[*row]), this);
            return true;
        }
    }
    return QWidget::event(event);
}

QString LedgerPicture::data_text() const {
    if (!ledger_) return {};
    QString out = tr("Corner,From [m],To [m],Loss [s],In the corner [s],Carried [s],Pull [s],Braking [s],Entry [s],"
                     "Exit [s],Straight [s],Seen on,Of,Low [s],High [s]") +
                  u'\n';
    const auto number = [](double value) { return QString::number(value, 'f', 4); };
    for (const LedgerRow& row : ledger_->rows) {
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
                           QString::number(ledger_->b_laps),
                           row.likely_s ? number(row.likely_s->begin) : QString(),
                           row.likely_s ? number(row.likely_s->end) : QString()}
                   .join(u',') +
               u'\n';
    }
    return out;
}

ViewOut LedgerPicture::out(const QString& name) {
    return {name, QSize(width(), std::max(height(), sizeHint().height())),
            [this](QPainter& painter, QSize size) { paint(painter, size); }, [this] { return at_hand(data_text()); }};
}

}  // namespace rendak::app
