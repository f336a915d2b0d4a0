#pragma once

#include <QDialog>

#include "app/workspace/workspace.h"
#include "core/library/rows.h"

class QLineEdit;

namespace rendak::app {

/// What is known of files before they are imported: event, session, driver, car and the rest. All of it can stay empty;
/// then event and session go by the date and the place of each file.
class ImportFactsDialog : public QDialog {
    Q_OBJECT
  public:
    ImportFactsDialog(Workspace& workspace, qsizetype files, QWidget* parent = nullptr);
    [[nodiscard]] RunFacts facts() const;

  private:
    struct Text {
        std::string RunFacts::*member;
        QLineEdit* edit;
    };
    struct Number {
        std::optional<double> RunFacts::*member;
        QLineEdit* edit;
    };
    std::vector<Text> texts_;
    std::vector<Number> numbers_;
};

}  // namespace rendak::app
