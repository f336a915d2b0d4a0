#pragma once

#include <QDialog>
#include <optional>

#include "app/desks/logbook/run_map.h"
#include "core/intake/import.h"

class QDoubleSpinBox;
class QLineEdit;
class QPushButton;
class QRadioButton;

namespace rendak::app {

/// Asks for a track's name and its start line: suggested, placed on the map of the run, or by coordinates.
class LearnTrackDialog : public QDialog {
    Q_OBJECT
  public:
    explicit LearnTrackDialog(QWidget* parent = nullptr);
    /// The run as it was driven, when it is known; without positions, why there is no map.
    void set_path(std::shared_ptr<const Path> path);
    void set_no_path(const QString& why);
    [[nodiscard]] RunMap& map() { return *map_; }
    [[nodiscard]] QString name() const;
    [[nodiscard]] std::optional<StartPlace> start() const;
    [[nodiscard]] TrackKind kind() const;

  private:
    void refresh();
    RunMap* map_;
    QLineEdit* name_;
    QRadioButton *suggested_, *by_place_, *open_;
    QDoubleSpinBox *latitude_, *longitude_, *heading_;
    QPushButton* learn_;
};

}  // namespace rendak::app
