#include "app/shell/foot_line.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QProgressBar>
#include <QToolButton>
#include <initializer_list>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {

FootLine::FootLine(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 3, 12, 3);
    row->setSpacing(8);
    setMinimumHeight(28);
    range_ = new PlainLabel;
    range_->setObjectName(QStringLiteral("range"));
    message_ = new PlainLabel;
    message_->setObjectName(QStringLiteral("message"));
    message_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    message_->setWordWrap(true);
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    dismiss_ = new QToolButton;
    dismiss_->setText(QStringLiteral("×"));
    dismiss_->setAccessibleName(tr("Dismiss the message"));
    dismiss_->hide();
    job_ = new PlainLabel;
    progress_ = new QProgressBar;
    progress_->setRange(0, 1000);
    progress_->setTextVisible(false);
    progress_->setFixedWidth(160);
    cancel_ = new QToolButton;
    cancel_->setText(tr("Cancel"));
    // As high with a job as without one: the desk above must not jump.
    const QMargins margins = row->contentsMargins();
    for (QWidget* const it : std::initializer_list<QWidget*>{dismiss_, progress_, cancel_})
        it->setMaximumHeight(minimumHeight() - margins.top() - margins.bottom());
    row->addWidget(range_);
    row->addWidget(message_, 1);
    row->addWidget(dismiss_);
    row->addWidget(job_);
    row->addWidget(progress_);
    row->addWidget(cancel_);
    connect(cancel_, &QToolButton::clicked, &workspace_.jobs(), &Jobs::cancel_all);
    connect(dismiss_, &QToolButton::clicked, this, [this] { tell({}, false); });
    connect(&workspace_.jobs(), &Jobs::changed, this, &FootLine::show_jobs);
    connect(&workspace_.focus(), &Focus::range_changed, this, &FootLine::show_range);
    connect(&workspace_.comparison(), &Comparison::changed, this, &FootLine::show_range);
    forget_.setSingleShot(true);
    connect(&forget_, &QTimer::timeout, this, [this] { tell({}, false); });
    watch_.setInterval(100);
    connect(&watch_, &QTimer::timeout, this, &FootLine::show_jobs);
    show_jobs();
    show_range();
}

void FootLine::tell(const QString& message, bool is_problem) {
    message_->setText(message);
    QPalette palette = this->palette();
    palette.setColor(QPalette::WindowText, is_problem ? theme().lost : theme().ink);
    message_->setPalette(palette);
    message_->setStyleSheet(is_problem ? QStringLiteral("color: %1; font-weight: bold").arg(theme().lost.name())
                                       : QString());
    dismiss_->setVisible(is_problem && !message.isEmpty());
    // A problem stays until it has been read; news go by themselves.
    if (is_problem || message.isEmpty())
        forget_.stop();
    else
        forget_.start(9000);
}

QString FootLine::message() const {
    return message_->text();
}
QString FootLine::range_text() const {
    return range_->text();
}

void FootLine::show_range() {
    const auto& comparison = workspace_.comparison();
    if (comparison.laps().empty()) {
        range_->clear();
        return;
    }
    if (!comparison.laps().on_track()) {
        range_->setText(tr("Over time, %1 s in view").arg(comparison.view().length(), 0, 'f', 1));
        return;
    }
    const Interval range = comparison.range_m();
    const Track& track = comparison.laps().track();
    const bool whole = range.length() > track.length_m - 1;
    QStringList turns;
    for (const Corner& corner : track.corners) {
        if (range.contains(corner.apex_m)) turns << QString::number(corner.number);
    }
    QString text = whole ? (track.open ? tr("Whole road, %1") : tr("Whole lap, %1")).arg(distance_text(range.length()))
                         : tr("Range %1").arg(stretch_text(range));
    if (!whole && !turns.isEmpty())
        text += turns.size() == 1 ? tr(" (Turn %1)").arg(turns.front())
                                  : tr(" (Turns %1 to %2)").arg(turns.front(), turns.back());
    if (comparison.axis() == Axis::run) text = tr("Run, %1 s in view").arg(comparison.view().length(), 0, 'f', 0);
    const int slot = comparison.active_slot();
    const PreparedLap& lap = comparison.active().lap;
    if (lap.trust_m > 0) {
        const QString figure = tr("places good to ± %1").arg(distance_text(lap.trust_m, 1));
        text += QStringLiteral("   ") +
                (lap.trust_m > poor_trust_m ? tr("%1: %2 (poor)") : tr("%1: %2")).arg(slot_letter(slot), figure);
    }
    range_->setText(text);
}

void FootLine::show_jobs() {
    const auto job = workspace_.jobs().oldest();
    const bool busy = !job.title.isEmpty();
    const bool visible = busy && job.running_s > 0.3;
    if (busy && !watch_.isActive()) watch_.start();
    if (!busy) watch_.stop();
    job_->setVisible(visible);
    progress_->setVisible(visible);
    cancel_->setVisible(visible);
    if (!visible) return;
    job_->setText(job.title);
    progress_->setValue(static_cast<int>(1000 * job.progress));
}

void FootLine::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    painter.setPen(theme().rule);
    painter.drawLine(0, 0, width(), 0);
}

}  // namespace rendak::app
