#pragma once

#include <QWidget>

#include "app/text/sheet_table.h"
#include "app/workspace/workspace.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace rendak::app {

/// The setup sheet of a run: which version it drove, its values, the difference to any other run. Edits become a new
/// version; versions that were saved never change.
class SetupPanel : public QWidget {
    Q_OBJECT
  public:
    explicit SetupPanel(Workspace& workspace, QWidget* parent = nullptr);
    void show_runs(const std::vector<RunId>& runs);

  private:
    void show_sheet();
    void choose_sheet(int index);
    void save();
    void compare();
    void give(SetupId sheet, const QString& what);

    Workspace& workspace_;
    std::vector<RunId> runs_;
    QComboBox *sheets_, *other_;
    SheetTable* table_;
    QLineEdit* name_;
    QPushButton* save_;
    QLabel* difference_;
    bool filling_ = false;
};

}  // namespace rendak::app
