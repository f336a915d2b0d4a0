#pragma once

#include <QTimer>
#include <QWidget>

#include "app/workspace/workspace.h"

class QLabel;
class QProgressBar;
class QToolButton;

namespace rendak::app {

/// The line at the foot: the range and the axis, what was done or went wrong, and work that takes longer than 0.3 s
/// with its progress and a way to stop it.
class FootLine : public QWidget {
    Q_OBJECT
  public:
    explicit FootLine(Workspace& workspace, QWidget* parent = nullptr);
    void tell(const QString& message, bool is_problem);
    [[nodiscard]] QString message() const;
    [[nodiscard]] QString range_text() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void show_range();
    void show_jobs();
    Workspace& workspace_;
    QLabel *range_, *message_, *job_;
    QProgressBar* progress_;
    QToolButton *cancel_, *dismiss_;
    QTimer forget_;
    QTimer watch_;
};

}  // namespace rendak::app
