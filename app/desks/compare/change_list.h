#pragma once

#include <QWidget>

#include "app/focus/comparison.h"
#include "core/analysis/gap_stretches.h"

class QLabel;
class QTreeWidget;
class QTreeWidgetItem;

namespace rendak::app {

/// Where the gap changes its slope: what the active lap wins and loses, the largest change first, each with the
/// stretches of one slope that it is made of; a click shows it. The list adds up to the gap.
class ChangeList : public QWidget {
    Q_OBJECT
  public:
    ChangeList(Focus& focus, Comparison& comparison, QWidget* parent = nullptr);
    [[nodiscard]] QTreeWidget& list() { return *list_; }
    [[nodiscard]] QString sum_text() const;
    [[nodiscard]] QString data_text() const;
    [[nodiscard]] const std::vector<GapChange>& changes() const { return changes_; }

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fill();
    void go_to(const QTreeWidgetItem* item);
    [[nodiscard]] QString where(Interval range_m) const;

    Focus& focus_;
    Comparison& comparison_;
    std::vector<GapChange> changes_;  ///< as listed
    QTreeWidget* list_;
    QLabel* sum_;
};

}  // namespace rendak::app
