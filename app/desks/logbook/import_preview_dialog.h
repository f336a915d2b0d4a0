#pragma once

#include <QDialog>

#include "core/recording/table_mapping.h"

class QDoubleSpinBox;
class QTableWidget;

namespace rendak::app {

/// A look into a table before it is imported: each column's name, what it stands for, its unit, its first values. What
/// is chosen is remembered for the next file with the same columns.
class ImportPreviewDialog : public QDialog {
    Q_OBJECT
  public:
    ImportPreviewDialog(const TablePreview& preview, const std::optional<TableMapping>& remembered,
                        QWidget* parent = nullptr);
    [[nodiscard]] TableMapping mapping() const;

  private:
    TablePreview preview_;
    QTableWidget* table_;
    QDoubleSpinBox* rate_;
};

}  // namespace rendak::app
