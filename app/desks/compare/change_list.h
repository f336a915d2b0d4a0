#pragma once

#include <QWidget>

#include "app/focus/comparison.h"
#include "core/analysis/gap_stretches.h"

class QLabel;
class QTreeWidget;

namespace rendak::app {

/// Where the gap changes its slope: every stretch of the active lap in the range, the largest change first, gains and
/// losses both; a click shows the stretch. The list adds up to the gap.
class ChangeList : public QWidget {
    Q_OBJECT
  public:
    ChangeList(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    [[nodiscard]] QTreeWidget& list() { return *list_; }
    [[nodiscard]] QString sum_text() const;
    [[nodiscard]] const std::vector<GapStretch>& stretches() const { return stretches_; }

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fill();
    void go_to(int row);
    [[nodiscard]] QString where(Interval range_m) const;

    Focus& focus_;
    Comparison& comparison_;
    std::vector<GapStretch> stretches_;  ///< as listed
    QTreeWidget* list_;
    QLabel* sum_;
};

}  // namespace rendak::app
