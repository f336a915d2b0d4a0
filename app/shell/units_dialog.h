#pragma once

#include <QComboBox>
#include <QDialog>
#include <map>

namespace rendak::app {

class MainWindow;

/// Which unit each kind of quantity is shown in, beside the two presets.
class UnitsDialog : public QDialog {
    Q_OBJECT
  public:
    explicit UnitsDialog(MainWindow& window);
    /// The box for what is shown in this unit as it comes ("km/h").
    [[nodiscard]] QComboBox& box(const QString& metric) const { return *boxes_.at(metric); }

  private:
    std::map<QString, QComboBox*> boxes_;
};

}  // namespace rendak::app
