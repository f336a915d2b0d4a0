#pragma once

#include <QProcess>

#include "app/workspace/workspace.h"

namespace rendak::app {

/// The stand-in logger as a process of its own, started and ended with one button. It serves the demo's card; where
/// the library is not the demo, the card is written once beside it.
class PracticeLogger : public QObject {
    Q_OBJECT
  public:
    explicit PracticeLogger(Workspace& workspace, QObject* parent = nullptr);
    ~PracticeLogger() override;
    void start();
    void stop();
    [[nodiscard]] bool running() const { return process_.state() != QProcess::NotRunning; }

  Q_SIGNALS:
    void ready(const QString& url);
    void stopped();

  private:
    void launch(const QString& card);
    Workspace& workspace_;
    QProcess process_;
};

}  // namespace rendak::app
