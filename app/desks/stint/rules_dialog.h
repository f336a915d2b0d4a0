#pragma once

#include <QDialog>

#include "app/workspace/workspace.h"
#include "core/intake/watch_book.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QSpinBox;

namespace rendak::app {

/// The watch rules of the library: the shipped ones, which can be changed or put off, and own ones. What is changed is
/// checked on all runs.
class RulesDialog : public QDialog {
    Q_OBJECT
  public:
    RulesDialog(Workspace& workspace, QWidget* parent);
    void show_rule(const QString& name);
    /// As it is written down; false: it is not right, which is shown.
    bool keep();

  private:
    void fill(const QString& chosen = {});
    [[nodiscard]] WatchRule written() const;
    void take_away();

    Workspace& workspace_;
    QListWidget* list_;
    QLineEdit *name_, *condition_, *value_, *beside_;
    QComboBox* worst_;
    QDoubleSpinBox *for_s_, *apart_s_;
    QSpinBox* times_;
    QCheckBox* off_;
    QLabel* problem_;
    QPushButton* remove_;
};

}  // namespace rendak::app
