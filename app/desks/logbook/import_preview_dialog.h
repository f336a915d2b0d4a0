#pragma once

#include <QDialog>

#include "core/recording/table_mapping.h"

class QDoubleSpinBox;
class QPushButton;
class QTableWidget;
class QVBoxLayout;

namespace rendak::app {

/// A look into a table before it is imported: what an import asked, with the answers that fit; each column's name, what
/// it stands for, its unit, its first values. What is chosen is remembered for the next file with the same columns.
class ImportPreviewDialog : public QDialog {
    Q_OBJECT
  public:
    ImportPreviewDialog(const TablePreview& preview, const std::optional<TableMapping>& remembered,
                        const std::vector<Question>& questions, QWidget* parent = nullptr);
    [[nodiscard]] TableMapping mapping() const;

  private:
    void ask(const std::vector<Question>& questions, QVBoxLayout* column);
    /// Puts an answer into the rows of its columns.
    void take(const Question::Answer& answer);

    TablePreview preview_;
    QTableWidget* table_;
    QDoubleSpinBox* rate_;
    QPushButton* import_;
};

}  // namespace rendak::app
