#pragma once

#include <QWidget>
#include <map>

#include "app/workspace/workspace.h"

class QDoubleSpinBox;
class QLabel;
class QPushButton;

namespace rendak::app {

/// Which laps of a run to look at: out and in laps left out, near-best laps, a fair lap to hold against A, how alike
/// the laps are; the launch of a run from a standing start.
class LapTools : public QWidget {
    Q_OBJECT
  public:
    explicit LapTools(Workspace& workspace, QWidget* parent = nullptr);
    void show_run(RunId run);

    void leave_first_and_last_out();
    void pick_near_best();
    void pick_fair_lap();
    [[nodiscard]] QString verdict() const;
    [[nodiscard]] QDoubleSpinBox& margin() { return *margin_; }
    [[nodiscard]] QDoubleSpinBox& effect() { return *effect_; }
    [[nodiscard]] bool can_set_launch() const;

  Q_SIGNALS:
    void launch_asked();

  private:
    void refresh();
    void show_verdict();
    Workspace& workspace_;
    RunId run_;
    std::vector<Lap> laps_;
    std::map<TrackId, bool> open_;  ///< tracks that run from a start to a finish, as far as asked for
    QPushButton *ends_, *near_best_, *fair_, *launch_;
    QDoubleSpinBox *margin_, *effect_;
    QLabel* verdict_;
};

}  // namespace rendak::app
