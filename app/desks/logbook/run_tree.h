#pragma once

#include <QSortFilterProxyModel>
#include <QStandardItemModel>

#include "core/library/library.h"

namespace rendak::app {

/// Events, under them sessions, under them runs. Columns of a run: name, driver, best lap, flying laps, date, car,
/// track.
class RunTree : public QStandardItemModel {
    Q_OBJECT
  public:
    enum Column { name, driver, best, flying, date, car, track, column_count };
    enum Role { sort_role = Qt::UserRole + 1, run_role };
    explicit RunTree(QObject* parent = nullptr);

    void read(const Library& library);
    /// The run of a row, 0 for an event or a session.
    [[nodiscard]] static RunId run_of(const QModelIndex& index);
};

/// Sorts runs by any column and keeps those of which any column holds every word of the filter.
class RunFilter : public QSortFilterProxyModel {
    Q_OBJECT
  public:
    explicit RunFilter(QObject* parent = nullptr);
    void set_words(const QString& text);

  protected:
    [[nodiscard]] bool filterAcceptsRow(int row, const QModelIndex& parent) const override;

  private:
    QStringList words_;
};

}  // namespace rendak::app
