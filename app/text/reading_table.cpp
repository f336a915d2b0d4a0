#include "app/text/reading_table.h"

#include <QHeaderView>
#include <QTableView>

namespace rendak::app {

void make_reading_table(QTableView& table, int row_px) {
    table.verticalHeader()->hide();
    table.verticalHeader()->setMinimumSectionSize(14);
    table.verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    table.verticalHeader()->setDefaultSectionSize(row_px);
    table.horizontalHeader()->setHighlightSections(false);
    table.horizontalHeader()->setMinimumSectionSize(30);
    table.setSelectionMode(QAbstractItemView::SingleSelection);
    table.setEditTriggers(QAbstractItemView::NoEditTriggers);
    table.setShowGrid(false);
    table.setWordWrap(false);
}

}  // namespace rendak::app
