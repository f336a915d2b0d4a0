#pragma once

#include <QTableWidget>
#include <vector>

#include "core/library/rows.h"

namespace rendak::app {

/// Lines of a setup or car sheet, to be edited: name, value, unit, and, when it is held against another sheet, that
/// one's value. Differing lines are bold. There is always one empty line to write on.
class SheetTable : public QTableWidget {
    Q_OBJECT
  public:
    explicit SheetTable(QWidget* parent = nullptr);
    void set_values(const std::vector<SheetValue>& values);
    [[nodiscard]] std::vector<SheetValue> values() const;
    /// Shows the values of another sheet beside these; empty title: none.
    void hold_against(const QString& title, const std::vector<SheetValue>& others);

  Q_SIGNALS:
    void edited();

  private:
    void mark_differences();
    std::vector<SheetValue> others_;
    bool filling_ = false;
};

}  // namespace rendak::app
