#include "app/shell/lap_tray.h"

#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QToolButton>

#include "app/text/plain_text.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"
#include "core/laps/cut.h"

namespace rendak::app {

LapCard::LapCard(Workspace& workspace, int slot, QWidget* parent)
    : QWidget(parent), workspace_(workspace), slot_(slot) {
    setFixedHeight(38);
    setMinimumWidth(84);
    setMaximumWidth(216);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::TabFocus);
}

void LapCard::refresh() {
    setAccessibleName(slot_letter(slot_) + QStringLiteral(": ") + texts().join(QStringLiteral(", ")));
    setToolTip(texts().join(u'\n') +
               (slot_ == 0 ? QString()
                           : tr("\nRight-click: baseline, count it or leave it out, note, Logbook, take it away")));
    update();
}

QStringList LapCard::texts() const {
    const auto& laps = workspace_.comparison().laps().laps;
    if (slot_ >= static_cast<int>(workspace_.focus().state().laps.size())) return {{}, {}, {}, {}};
    const LapRef ref = workspace_.focus().state().laps[static_cast<std::size_t>(slot_)];
    if (slot_ >= static_cast<int>(laps.size()) || laps[static_cast<std::size_t>(slot_)].lap.ref != ref) {
        return {tr("Run %1").arg(ref.run.value), ref.lap == whole_run ? tr("whole run") : tr("lap %1").arg(ref.lap),
                QStringLiteral("…"), QString()};
    }
    const ComparedLap& lap = laps[static_cast<std::size_t>(slot_)];
    const double time = lap.lap.time_s();
    const QString to_a =
        slot_ == 0 ? (workspace_.focus().state().fastest_is_a ? tr("baseline, fastest") : tr("baseline"))
        : workspace_.comparison().laps().on_track() ? signed_number(time - laps.front().lap.time_s(), 3)
                                                    : QString();
    const QString slid = workspace_.comparison().slid_words(slot_);
    const QString driver = QString::fromStdString(lap.run->row.driver);
    const QString run = run_title(lap.run->row, runs_of(workspace_.comparison().laps()));
    return {driver.isEmpty() ? run : driver,
            !slid.isEmpty()        ? slid
            : ref.lap == whole_run ? tr("%1 · whole run").arg(run)
                                   : tr("%1 · lap %2").arg(run).arg(ref.lap),
            lap_time(time), to_a};
}

void LapCard::paintEvent(QPaintEvent*) {
    const Theme& t = theme();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const bool active = slot_ == workspace_.focus().state().active_slot;
    const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
    painter.setPen(QPen(hasFocus() || active ? t.accent : t.rule, hasFocus() ? 2 : active ? 1.5 : 1));
    painter.setBrush(t.paper);
    painter.drawRoundedRect(box, 4, 4);
    QPainterPath letter;
    letter.addRoundedRect(QRectF(box.left() + 1, box.top() + 1, 26, box.height() - 2), 3, 3);
    painter.fillPath(letter, t.lap(slot_));
    painter.setPen(t.on_lap);
    QFont font = headline_font();
    font.setPixelSize(14);
    painter.setFont(font);
    painter.drawText(QRect(1, 0, 27, height()), Qt::AlignCenter, slot_letter(slot_));

    const QStringList text = texts();
    const int left = 34, right = width() - 6;
    painter.setFont(number_font());
    const int time_width = painter.fontMetrics().horizontalAdvance(text[2]);
    const bool narrow = width() < 150;
    painter.setPen(t.ink);
    painter.drawText(QRect(left, 4, right - left, 16), narrow ? Qt::AlignLeft : Qt::AlignRight, text[2]);
    if (!narrow) {
        painter.setFont(body_font(true));
        painter.drawText(QRect(left, 4, right - left - time_width - 6, 16), Qt::AlignLeft,
                         painter.fontMetrics().elidedText(text[0], Qt::ElideRight, right - left - time_width - 6));
    }
    painter.setFont(small_font());
    painter.setPen(t.mute);
    const int to_a_width = painter.fontMetrics().horizontalAdvance(text[3]);
    painter.drawText(QRect(left, 20, right - left, 14), narrow ? Qt::AlignLeft : Qt::AlignRight, text[3]);
    if (!narrow) {
        painter.drawText(QRect(left, 20, right - left - to_a_width - 6, 14), Qt::AlignLeft,
                         painter.fontMetrics().elidedText(text[1], Qt::ElideRight, right - left - to_a_width - 6));
    }
}

void LapCard::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) workspace_.focus().set_active_slot(slot_);
}

void LapCard::contextMenuEvent(QContextMenuEvent* event) {
    show_menu(event->globalPos());
}

void LapCard::show_menu(QPoint at) {
    QMenu menu;
    QAction* baseline = menu.addAction(tr("Make this the baseline (A)"));
    baseline->setEnabled(slot_ > 0);
    const auto& picked = workspace_.focus().state().laps;
    if (slot_ < static_cast<int>(picked.size()))
        add_lap_actions(menu, workspace_, picked[static_cast<std::size_t>(slot_)], window());
    const QString slid = workspace_.comparison().slid_words(slot_);
    const QAction* back = slid.isEmpty() ? nullptr : menu.addAction(tr("Put its curves back (%1)").arg(slid));
    QAction* clear = menu.addAction(tr("Take all laps away"));
    const QAction* chosen = menu.exec(at);
    Focus& focus = workspace_.focus();
    if (back != nullptr && chosen == back)
        focus.slide(picked[static_cast<std::size_t>(slot_)], 0);
    else if (chosen == baseline)
        focus.make_baseline(slot_);
    else if (chosen == clear)
        focus.clear_laps();
}

void LapCard::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
        case Qt::Key_Return:
        case Qt::Key_Enter:
            workspace_.focus().make_baseline(slot_);
            return;
        case Qt::Key_Space:
            workspace_.focus().set_active_slot(slot_);
            return;
        case Qt::Key_Delete:
            workspace_.focus().remove_slot(slot_);
            return;
        case Qt::Key_Menu:
            show_menu(mapToGlobal(rect().center()));
            return;
        default:
            QWidget::keyPressEvent(event);
    }
}

LapTray::LapTray(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    setFixedHeight(54);
    row_ = new QHBoxLayout(this);
    row_->setContentsMargins(8, 8, 8, 8);
    row_->setSpacing(8);
    add_ = new QToolButton;
    add_->setText(QStringLiteral("+"));
    add_->setFixedSize(34, 38);
    add_->setToolTip(tr("Pick another lap"));
    add_->setAccessibleName(tr("Pick another lap"));
    add_->setPopupMode(QToolButton::InstantPopup);
    add_menu_ = new QMenu(add_);
    add_->setMenu(add_menu_);
    connect(add_menu_, &QMenu::aboutToShow, this, &LapTray::fill_add_menu);
    fastest_ = new QToolButton;
    fastest_->setText(tr("Fastest is A"));
    fastest_->setCheckable(true);
    fastest_->setToolTip(
        tr("On: the fastest picked lap becomes the baseline by itself. Off: the baseline stays the one you chose."));
    connect(fastest_, &QToolButton::clicked, this, [this](bool on) { workspace_.focus().set_fastest_is_a(on); });
    place_ = new LinkLabel;
    place_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    for (int slot = 0; slot < most_laps; ++slot) {
        cards_.push_back(new LapCard(workspace_, slot, this));
        row_->addWidget(cards_.back(), 3);
    }
    row_->addWidget(add_);
    row_->addStretch(1);
    row_->addWidget(fastest_);
    row_->addWidget(place_);
    connect(&workspace_.comparison(), &Comparison::changed, this, &LapTray::rebuild);
    connect(&workspace_.focus(), &Focus::laps_changed, this, &LapTray::rebuild);
    for (const auto told : {&Focus::slid_changed, &Focus::axis_changed})
        connect(&workspace_.focus(), told, this, &LapTray::rebuild);
    rebuild();
}

std::vector<LapCard*> LapTray::cards() const {
    const auto used = workspace_.focus().state().laps.size();
    return {cards_.begin(), cards_.begin() + static_cast<std::ptrdiff_t>(std::min(used, cards_.size()))};
}

void LapTray::rebuild() {
    const FocusState& state = workspace_.focus().state();
    for (LapCard* card : cards_) {
        card->setVisible(card->slot() < static_cast<int>(state.laps.size()));
        card->refresh();
    }
    fastest_->setChecked(state.fastest_is_a);
    const ComparedLaps& laps = workspace_.comparison().laps();
    fastest_->setVisible(state.laps.size() > 1 && state.laps.size() < 6 && (laps.empty() || laps.on_track()));
    const bool full = state.laps.size() >= most_laps;
    add_->setEnabled(!full);
    add_->setToolTip(full ? tr("The tray holds %1 laps. Take one away to pick another").arg(most_laps)
                          : tr("Pick another lap"));
    QString text;
    if (!laps.empty() && state.laps.size() < 5) {
        text = QStringLiteral("<b>%1</b><br>%2")
                   .arg(laps.on_track() ? QString::fromStdString(laps.track().name).toHtmlEscaped() : tr("Over time"),
                        QString::fromStdString(laps.baseline().run->row.car).toHtmlEscaped());
    }
    place_->setText(state.laps.empty() ? tr("No laps picked") : text);
}

void LapTray::fill_add_menu() {
    add_menu_->clear();
    // Newest runs first: those of the picked laps' track, then the others, which can be laid over them by time.
    const auto& compared = workspace_.comparison().laps();
    auto runs = workspace_.shown(workspace_.library().runs());
    std::reverse(runs.begin(), runs.end());
    // As many as fit on a screen; older ones are a menu further.
    constexpr int most_runs = 20;
    const auto is_elsewhere = [&](const RunRow& run) {
        return !run.track || (compared.on_track() && run.track != compared.baseline().run->row.track);
    };
    const auto add_runs = [&](QMenu* page, bool elsewhere) {
        int shown_runs = 0;
        for (const RunRow& run : runs) {
            if (is_elsewhere(run) != elsewhere) continue;
            if (shown_runs > 0 && shown_runs % most_runs == 0) page = page->addMenu(tr("Earlier runs"));
            ++shown_runs;
            std::string title = run.session + " · " + run.name;
            if (!run.driver.empty()) title += " · " + run.driver;
            auto* menu = page->addMenu(QString::fromStdString(title));
            connect(menu, &QMenu::aboutToShow, this, [this, menu, run = run.id] { fill_laps_menu(*menu, run); });
        }
    };
    add_runs(add_menu_, false);
    if (std::any_of(runs.begin(), runs.end(), is_elsewhere)) {
        QMenu* others = add_menu_->isEmpty() ? add_menu_ : add_menu_->addMenu(tr("Other places, over time"));
        add_runs(others, true);
    }
    if (add_menu_->isEmpty()) add_menu_->addAction(tr("No run is filed yet"))->setEnabled(false);
}

/// Only when it is opened: a season has thousands of laps.
void LapTray::fill_laps_menu(QMenu& menu, RunId run) {
    if (!menu.isEmpty()) return;
    const auto laps = workspace_.shown(workspace_.library().laps(run));
    const Lap* best = best_lap(laps);
    for (const Lap& lap : laps) {
        if (!lap.complete()) continue;
        QString text = tr("Lap %1   %2").arg(lap.number).arg(lap_time(lap.time_s()));
        if (best != nullptr && best->number == lap.number) text += tr("   best");
        if (!lap.included) text += tr("   left out");
        if (lap.included && lap.doubtful()) text += tr("   doubtful");
        QAction* action = menu.addAction(text);
        action->setEnabled(workspace_.focus().slot_of({run, lap.number}) < 0);
        connect(action, &QAction::triggered, this, [this, ref = LapRef{run, lap.number}] { workspace_.pick(ref); });
    }
    menu.addSeparator();
    QAction* whole = menu.addAction(tr("The whole run, over time"));
    whole->setEnabled(workspace_.focus().slot_of({run, whole_run}) < 0);
    connect(whole, &QAction::triggered, this, [this, run] { workspace_.pick({run, whole_run}); });
}

void LapTray::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    painter.setPen(theme().rule);
    painter.drawLine(0, height() - 1, width(), height() - 1);
}

}  // namespace rendak::app
