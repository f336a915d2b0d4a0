#include "app/desks/stint/balance_table.h"

#include <QHeaderView>
#include <cmath>

#include "app/text/reading_table.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

BalanceTable::BalanceTable(QWidget* parent) : QTableWidget(parent) {
    setObjectName(QStringLiteral("balance"));
    setAccessibleName(tr("Balance, before and after"));
    make_reading_table(*this, 19);
    setSelectionMode(QAbstractItemView::NoSelection);
    setMinimumHeight(40);
}

void BalanceTable::show_data(const StintData& stints) {
    clear();
    setColumnCount(4);
    setRowCount(0);
    if (stints.pair && !stints.pair->figures.empty())
        show_pair(stints);
    else if (stints.a().stint)
        show_one(stints.a());
    horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c < columnCount(); ++c) horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
    setVisible(rowCount() > 0);
}

QTableWidgetItem* BalanceTable::put(int row, int column, const QString& text) {
    auto* item = new QTableWidgetItem(text);
    item->setTextAlignment((column > 0 ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
    setItem(row, column, item);
    return item;
}

void BalanceTable::show_one(const StintRun& run) {
    setHorizontalHeaderLabels({tr("Balance"), tr("front − rear"), tr("left − right front"), tr("left − right rear")});
    setRowCount(static_cast<int>(run.stint->balances.size()));
    for (int r = 0; r < rowCount(); ++r) {
        const StintBalance& it = run.stint->balances[static_cast<std::size_t>(r)];
        const Shown how = shown(wheel_kinds()[it.kind].channel(0));
        put(r, 0, tr(wheel_kinds()[it.kind].title));
        int column = 1;
        for (const double value : {it.front_minus_rear, it.left_minus_right_front, it.left_minus_right_rear})
            put(r, column++,
                std::isfinite(value) ? with_unit(how.difference_text(value), how.unit) : QStringLiteral("–"));
    }
}

void BalanceTable::show_pair(const StintData& stints) {
    const Theme& t = theme();
    using Verdict = StintFigure::Verdict;
    const int a = stints.a().slot, b = stints.b()->slot;
    setHorizontalHeaderLabels({tr("Before and after, laps that count"), slot_letter(a) + u' ' + stints.a().title,
                               slot_letter(b) + u' ' + stints.b()->title, tr("change")});
    setRowCount(static_cast<int>(stints.pair->figures.size()));
    for (int r = 0; r < rowCount(); ++r) {
        const StintFigure& it = stints.pair->figures[static_cast<std::size_t>(r)];
        put(r, 0, QString::fromStdString(it.title))->setToolTip(tr("Click: its curve over the laps"));
        put(r, 1, figure_words(it, it.a))->setForeground(t.lap(a));
        put(r, 2, figure_words(it, it.b))->setForeground(t.lap(b));
        const auto verdict = it.verdict();
        QString change = figure_change(it);
        if (verdict == Verdict::better) change += tr(" better");
        if (verdict == Verdict::worse) change += tr(" worse");
        if (verdict == Verdict::alike) change = tr("alike");
        if (verdict == Verdict::unknown) change += tr(" ?");
        QTableWidgetItem* last = put(r, 3, change);
        const bool told = verdict == Verdict::better || verdict == Verdict::worse;
        last->setForeground(!told ? t.mute : verdict == Verdict::better ? t.won : t.lost);
        last->setFont(body_font(told));
        if (!it.likely) continue;
        const Shown how = shown_of(it);
        last->setToolTip(tr("Likely (95 %) between %1 and %2")
                             .arg(signed_number(how.difference_from_si(it.likely->begin), how.decimals + 1),
                                  signed_number(how.difference_from_si(it.likely->end), how.decimals + 1)));
    }
}

}  // namespace rendak::app
