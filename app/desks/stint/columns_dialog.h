#pragma once

#include <QDialog>
#include <memory>
#include <span>

#include "app/workspace/workspace.h"
#include "core/intake/column_sets.h"

class QComboBox;
class QDialogButtonBox;
class QLabel;
class QLineEdit;
class QPlainTextEdit;

namespace rendak::app {

/// The columns of lap figures, one a line as lap_columns() reads them, with a row that writes lines; and sets of them
/// that are kept in the library, given away as files and taken from them.
class ColumnsDialog : public QDialog {
    Q_OBJECT
  public:
    ColumnsDialog(Workspace& workspace, std::span<const std::shared_ptr<const RunData>> runs, const QString& columns,
                  QWidget* parent);
    /// Parted by ";".
    [[nodiscard]] QString columns() const;
    /// Keeps the columns under a name; false: they are not right, which is shown.
    bool keep_as(const QString& name);
    bool save_sets(const QString& file);
    bool take_sets(const QString& file);

  Q_SIGNALS:
    /// What sets there are changed.
    void sets_changed();

  private:
    bool edit_sets(const QString& what, const ColumnSets& sets);
    void add_line();
    void check();
    void show_problem(const QString& problem);

    Workspace& workspace_;
    QPlainTextEdit* lines_;
    QComboBox *channel_, *statistic_;
    QLineEdit *limit_, *corner_;
    QLabel* problem_;
    QDialogButtonBox* buttons_;
};

}  // namespace rendak::app
