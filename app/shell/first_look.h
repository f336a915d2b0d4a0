#pragma once

#include <QDialog>
#include <vector>

#include "app/jobs/jobs.h"
#include "core/base/ids.h"
#include "core/library/rows.h"

class QLabel;
class QPushButton;

namespace rendak::app {

class MainWindow;

/// After a download, what to look at first, in four steps: clean laps, best against next best, where the time is, why.
/// It stays beside the work; each step says what stands there now and goes there.
class FirstLook : public QDialog {
    Q_OBJECT
  public:
    /// Of a run; without one of the latest run that has laps.
    explicit FirstLook(MainWindow& window, std::optional<RunId> run = {});
    [[nodiscard]] QString words(int step) const;
    [[nodiscard]] QPushButton& button(int step) const { return *buttons_[static_cast<std::size_t>(step)]; }
    static constexpr int steps = 4;

  private:
    /// What is read of a run, on a worker.
    struct Looked {
        RunId run;
        QString name;
        std::vector<Lap> laps;
    };
    void read(std::optional<RunId> run);
    void show_words();
    void go(int step);

    MainWindow& window_;
    Latest reading_;
    Looked run_;
    std::vector<int> best_;  ///< numbers of the laps that count, the fastest first
    std::vector<QLabel*> words_;
    std::vector<QPushButton*> buttons_;
};

}  // namespace rendak::app
