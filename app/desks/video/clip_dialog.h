#pragma once

#include <QDialog>

#include "app/desks/video/video_desk.h"

class QComboBox;
class QDoubleSpinBox;
class QLabel;

namespace rendak::app {

/// What a clip is to show, how large, and where it goes; says about how large its file becomes.
class ClipDialog : public QDialog {
    Q_OBJECT
  public:
    struct Known {
        QSize film;
        double frames_per_s = 25, lap_s = 0, range_s = 0, corner_s = 0;
        Interval range_m, corner_m;
        QString corner;  ///< empty: the cursor is in none
        bool two = false;
    };
    ClipDialog(const Known& known, QWidget* parent);
    [[nodiscard]] VideoDesk::Clip clip() const;

  private:
    void tell_size();
    Known known_;
    QComboBox *laps_, *part_, *size_;
    QDoubleSpinBox* lead_;
    QLabel* told_;
};

}  // namespace rendak::app
