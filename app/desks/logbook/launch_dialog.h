#pragma once

#include <QDialog>
#include <memory>
#include <optional>

#include "core/recording/recording.h"

class QDoubleSpinBox;
class QLabel;

namespace rendak::app {

/// The speed around the launch with a line to drag: when did the car move off?
class LaunchDialog : public QDialog {
    Q_OBJECT
  public:
    /// `found_s`: by itself; `set_s`: by hand before.
    LaunchDialog(std::shared_ptr<const Recording> recording, std::optional<double> found_s, std::optional<double> set_s,
                 QWidget* parent = nullptr);
    /// None: as found.
    [[nodiscard]] std::optional<double> launch_s() const;
    [[nodiscard]] QDoubleSpinBox& time() { return *time_; }

  private:
    void show_readout();
    std::shared_ptr<const Recording> recording_;
    std::optional<double> found_s_;
    QDoubleSpinBox* time_;
    QLabel* readout_;
    QWidget* view_;
};

}  // namespace rendak::app
