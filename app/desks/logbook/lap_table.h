#pragma once

#include <QAbstractTableModel>

#include "app/workspace/workspace.h"

namespace rendak::app {

/// The laps of one run: in or out, number, kind, time, behind the best, length, how good its
/// places are, note. The tick and the note can be
/// edited.
class LapTable : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { included, number, kind, time, behind, length, trust, why, note, column_count };
    explicit LapTable(Workspace& workspace, QObject* parent = nullptr);

    void show_run(RunId run);
    [[nodiscard]] RunId run() const { return run_; }
    [[nodiscard]] const Lap& lap(int row) const { return laps_[static_cast<std::size_t>(row)]; }

    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
    bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  private:
    Workspace& workspace_;
    RunId run_;
    std::vector<Lap> laps_;
    int best_row_ = -1;
};

}  // namespace rendak::app
