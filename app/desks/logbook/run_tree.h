#pragma once

#include <QAbstractItemModel>

#include <map>

#include "core/library/library.h"

namespace rendak::app {

/// Events, under them sessions, under them runs; or the runs alone. It filters and sorts by itself, in one pass over
/// plain rows, so that thousands of runs answer at once.
class RunTree : public QAbstractItemModel {
    Q_OBJECT
  public:
    enum Column {
        name,
        driver,
        best,
        flying,
        date,
        tyres,
        setup,
        changes,
        car,
        track,
        event,
        session,
        tyre_laps,
        fuel,
        official,
        weather,
        remarks,
        length,
        laps,
        source,
        column_count
    };
    static constexpr int run_role = Qt::UserRole + 1;
    /// What a column is called in settings: the same in every language and version.
    [[nodiscard]] static QString key_of(int column);
    explicit RunTree(QObject* parent = nullptr);

    /// What was shown before stays when the library cannot be read.
    [[nodiscard]] Result<void> read(const Library& library);
    void show(std::vector<RunSummary> runs);
    /// Runs with watch rules that spoke and that nobody has looked at, and how many.
    void set_unseen(std::map<RunId, int> unseen);
    /// Keeps runs that hold every word in any column; "driver:osei" looks in one column only.
    void set_words(const QString& text);
    void set_grouped(bool grouped);
    [[nodiscard]] bool grouped() const { return grouped_; }
    [[nodiscard]] std::size_t size() const { return runs_.size(); }

    /// The run of a row, 0 for an event or a session.
    [[nodiscard]] static RunId run_of(const QModelIndex& index);
    [[nodiscard]] QModelIndex index_of(RunId run) const;
    /// All runs below an event or a session, or the run itself.
    [[nodiscard]] std::vector<RunId> runs_below(const QModelIndex& index) const;
    /// The shown runs with all columns as a CSV table.
    [[nodiscard]] QString run_sheet() const;

    [[nodiscard]] QModelIndex index(int row, int column, const QModelIndex& parent = {}) const override;
    [[nodiscard]] QModelIndex parent(const QModelIndex& index) const override;
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
    void sort(int column, Qt::SortOrder order) override;

  private:
    struct Node {
        int parent = -1, row = 0;
        int run = -1;  ///< place in runs_; -1: a group
        QString title;
        std::vector<int> children;
    };
    struct Row {
        RunSummary summary;
        QStringList cells;  ///< a column
        QString all;        ///< what the filter looks through
    };
    void rebuild();
    [[nodiscard]] const Node& node(const QModelIndex& index) const;

    std::vector<Row> runs_;
    std::map<RunId, int> unseen_;
    std::vector<Node> nodes_;  ///< 0: the root
    QStringList words_;
    bool grouped_ = true;
    int sort_column_ = date;
    Qt::SortOrder order_ = Qt::AscendingOrder;
};

}  // namespace rendak::app
