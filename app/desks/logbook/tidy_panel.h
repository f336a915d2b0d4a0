#pragma once

#include <QWidget>

#include "app/workspace/workspace.h"
#include "core/intake/tidy.h"

class QLabel;
class QVBoxLayout;

namespace rendak::app {

/// What is wrong with a run, each with its cure; looked up in the background when it is shown.
class TidyPanel : public QWidget {
    Q_OBJECT
  public:
    explicit TidyPanel(Workspace& workspace, QWidget* parent = nullptr);
    void show_run(RunId run);
    [[nodiscard]] const std::vector<Finding>& findings() const { return findings_; }

  Q_SIGNALS:
    /// How many findings are open for the run.
    void looked(RunId run, int open);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void look();
    void fill();
    void cure(const Finding& finding);
    void accept(const Finding& finding);

    Workspace& workspace_;
    RunId run_, looked_at_;
    std::vector<Finding> findings_;
    Latest looking_;
    QLabel* title_;
    QVBoxLayout* list_;
};

}  // namespace rendak::app
