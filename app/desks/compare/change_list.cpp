#include "app/desks/compare/change_list.h"

#include <QHeaderView>
#include <QLabel>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/plot/view_out.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

ChangeList::ChangeList(Focus& focus, Comparison& comparison, QWidget* parent)
    : QWidget(parent), focus_(focus), comparison_(comparison) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    list_ = new QTreeWidget;
    list_->setObjectName(QStringLiteral("gap-changes"));
    list_->setAccessibleName(tr("Where the gap changes, the largest change first"));
    list_->setIndentation(14);
    list_->setUniformRowHeights(true);
    list_->setHeaderLabels({tr("Place"), tr("Where"), tr("Gap by"), tr("each 100 m")});
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    list_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
    column->addWidget(list_, 1);
    sum_ = new PlainLabel;
    sum_->setFont(small_font());
    sum_->setWordWrap(true);
    column->addWidget(sum_);
    connect(list_, &QTreeWidget::itemClicked, this, &ChangeList::go_to);
    connect(list_, &QTreeWidget::itemActivated, this, &ChangeList::go_to);
    connect(&comparison_, &Comparison::changed, this, &ChangeList::fill);
    connect(&focus_, &Focus::laps_changed, this, &ChangeList::fill);
}

void ChangeList::showEvent(QShowEvent* event) {
    fill();
    QWidget::showEvent(event);
}

QString ChangeList::sum_text() const {
    return sum_->text();
}

QString ChangeList::where(Interval range_m) const {
    const double middle = 0.5 * (range_m.begin + range_m.end);
    const auto& corners = comparison_.laps().track().corners;
    const Corner* next = nullptr;
    for (const Corner& corner : corners) {
        if (middle >= corner.start_m && middle <= corner.end_m) return QString::fromStdString(corner.title());
        if (corner.start_m > middle && next == nullptr) next = &corner;
    }
    return next != nullptr ? tr("towards %1").arg(QString::fromStdString(next->title())) : tr("to the line");
}

QString ChangeList::data_text() const {
    QString out = tr("From [m],To [m],Where,Gap by [s],Each 100 m [s]") + u'\n';
    for (const GapChange& it : changes_)
        out += QStringList{QString::number(it.range_m.begin, 'f', 1), QString::number(it.range_m.end, 'f', 1),
                           csv_cell(where(it.range_m)), QString::number(it.change_s, 'f', 4),
                           QString::number(it.per_100_m(), 'f', 4)}
                   .join(u',') +
               u'\n';
    return changes_.empty() ? QString() : out;
}

void ChangeList::fill() {
    if (!isVisible()) return;
    list_->clear();
    changes_.clear();
    const ComparedLaps& laps = comparison_.laps();
    if (!laps.on_track() || laps.laps.size() < 2) {
        sum_->setText(tr("There is a gap between two laps of one track: pick a second lap."));
        return;
    }
    const int slot = std::max(1, comparison_.active_slot());
    const ComparedLap &a = laps.baseline(), &b = laps.laps[static_cast<std::size_t>(slot)];
    const Interval whole{0, laps.length_m()};
    const double tolerance = gap_tolerance_s(a.lap, b.lap, b.gap, whole);
    changes_ = gap_changes(gap_stretches(b.gap, whole, tolerance));
    std::stable_sort(changes_.begin(), changes_.end(), [](const GapChange& x, const GapChange& y) {
        return std::abs(x.change_s) > std::abs(y.change_s);
    });
    double lost = 0, won = 0;
    const auto row = [&](Interval range_m, const QString& words, double change_s, double per_100_m) {
        auto* item = new QTreeWidgetItem(
            {stretch_text(range_m), words, signed_number(change_s, 3), signed_number(per_100_m, 3)});
        for (const int c : {2, 3}) item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        item->setForeground(2, change_s > 0 ? theme().lost : theme().won);
        item->setData(0, Qt::UserRole, range_m.begin);
        item->setData(0, Qt::UserRole + 1, range_m.end);
        return item;
    };
    for (const GapChange& change : changes_) {
        auto* item = row(change.range_m, where(change.range_m), change.change_s, change.per_100_m());
        for (const GapStretch& part : change.parts) {
            (part.change_s > 0 ? lost : won) += part.change_s;
            if (change.parts.size() > 1)
                item->addChild(row(part.range_m, where(part.range_m), part.change_s, part.per_100_m()));
        }
        list_->addTopLevelItem(item);
    }
    sum_->setText(tr("%1 loses %2 s and wins %3 s: %4 s in all. Bends of less than %5 s are not told apart.")
                      .arg(slot_letter(slot), QString::number(lost, 'f', 3), QString::number(-won, 'f', 3),
                           signed_number(lost + won, 3), QString::number(tolerance, 'f', 3)));
}

void ChangeList::go_to(const QTreeWidgetItem* item) {
    if (item == nullptr || !comparison_.laps().on_track()) return;
    const Interval range{item->data(0, Qt::UserRole).toDouble(), item->data(0, Qt::UserRole + 1).toDouble()};
    const double beside = std::max(40.0, 0.25 * range.length());
    if (focus_.state().axis == Axis::run) focus_.set_axis(Axis::distance);
    comparison_.set_view({range.begin - beside, range.end + beside});
    FocusState next = focus_.state();
    next.cursor_m = range.begin;
    focus_.set_state(next);
}

}  // namespace rendak::app
