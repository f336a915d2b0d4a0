#pragma once

#include <QDialog>
#include <optional>

#include "core/intake/import.h"

class QDoubleSpinBox;
class QLineEdit;
class QPushButton;
class QRadioButton;

namespace rendak::app {

/// Asks for a track's name and its start line: suggested, or by coordinates.
class LearnTrackDialog : public QDialog {
    Q_OBJECT
  public:
    explicit LearnTrackDialog(QWidget* parent = nullptr);
    [[nodiscard]] QString name() const;
    [[nodiscard]] std::optional<StartPlace> start() const;
    [[nodiscard]] TrackKind kind() const;

  private:
    void refresh();
    QLineEdit* name_;
    QRadioButton *suggested_, *by_place_, *open_;
    QDoubleSpinBox *latitude_, *longitude_, *heading_;
    QPushButton* learn_;
};

}  // namespace rendak::app
