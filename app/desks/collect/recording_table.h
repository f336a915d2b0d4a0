#pragma once

#include <QAbstractTableModel>
#include <set>

#include "core/logger/collect.h"

namespace rendak::app {

/// What is on the logger, with a tick each, and what of it is in the library.
class RecordingTable : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { chosen, number, name, date, length, laps, size, in_library, column_count };
    struct Row {
        LoggedFile file;
        CollectState state;
        QString run_name;
    };
    explicit RecordingTable(QObject* parent = nullptr);

    /// Ticks what is not in the library; a new list of the same recordings keeps its ticks.
    void show(std::vector<Row> rows);
    /// Added to the dates that are shown.
    void set_clock_shift(double shift_s);
    [[nodiscard]] const std::vector<Row>& rows() const { return rows_; }
    [[nodiscard]] std::vector<LoggedFile> ticked() const;
    void tick(int row, bool on);
    void tick_all(bool on);

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  Q_SIGNALS:
    void ticks_changed();

  private:
    std::vector<Row> rows_;
    std::set<std::string> ticked_;  ///< digests
    double clock_shift_s_ = 0;
};

/// "24.6 MB"
[[nodiscard]] QString size_text(double bytes);

}  // namespace rendak::app
