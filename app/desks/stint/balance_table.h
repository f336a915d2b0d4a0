#pragma once

#include <QTableWidget>

#include "app/desks/stint/stint_data.h"

namespace rendak::app {

/// Two stints before and after, with the verdict; of one alone, what its axles and sides differ by.
class BalanceTable : public QTableWidget {
    Q_OBJECT
  public:
    explicit BalanceTable(QWidget* parent = nullptr);
    void show_data(const StintData& stints);

  private:
    void show_pair(const StintData& stints);
    void show_one(const StintRun& run);
    QTableWidgetItem* put(int row, int column, const QString& text);
};

}  // namespace rendak::app
