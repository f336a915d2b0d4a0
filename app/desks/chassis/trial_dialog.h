#pragma once

#include <QDialog>

#include "core/trials/trial_book.h"

class QComboBox;
class QLineEdit;
class QPlainTextEdit;

namespace rendak::app {

/// What was decided about a kept trial, by whom, and what driver and engineer say.
class TrialDialog : public QDialog {
    Q_OBJECT
  public:
    TrialDialog(KeptTrial trial, QWidget* parent);
    /// As it is written now.
    [[nodiscard]] KeptTrial written() const;

  private:
    KeptTrial trial_;
    QLineEdit* name_;
    QComboBox* verdict_;
    QLineEdit* by_;
    QPlainTextEdit* words_;
};

}  // namespace rendak::app
