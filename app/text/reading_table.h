#pragma once

class QTableView;

namespace rendak::app {

/// A table of figures that is read and not edited: tight rows of one height, no grid, headings that stay quiet.
void make_reading_table(QTableView& table, int row_px);

}  // namespace rendak::app
