#pragma once

#include <QAbstractTableModel>
#include <QHeaderView>
#include <QSortFilterProxyModel>
#include <memory>
#include <vector>

#include "app/text/shown.h"
#include "core/intake/lap_table.h"

namespace rendak::app {

/// A run in a table of laps.
struct RunInTable {
    RunId id;
    int slot = -1;  ///< of its first lap on the tray; −1: it is not there
    QString title, driver, session;
};

/// How a column of lap figures is read.
struct FigureLook {
    QString label;  ///< "Speed high"
    Shown how;
    bool is_time = false;
    [[nodiscard]] QString text(double si) const;
    [[nodiscard]] QString change_text(double si, int decimals) const;
};
[[nodiscard]] FigureLook look_of(const rendak::LapTable::Column& column);

/// Laps × figures. On top what becomes of each figure over a run, and means by run, driver or session.
class LapFigureModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum class Group { runs, drivers, sessions };
    static constexpr int sort_role = Qt::UserRole;        ///< a number
    static constexpr int on_top_role = Qt::UserRole + 1;  ///< its place among the rows on top; −1: a lap

    using QAbstractTableModel::QAbstractTableModel;
    void set_table(std::shared_ptr<const rendak::LapTable> table, std::vector<RunInTable> runs);
    void set_group(Group group);
    [[nodiscard]] const rendak::LapTable* table() const { return table_.get(); }
    [[nodiscard]] const std::vector<RunInTable>& runs() const { return runs_; }
    [[nodiscard]] const FigureLook& look(std::size_t column) const { return looks_[column]; }
    /// Of a lap's row.
    [[nodiscard]] const rendak::LapTable::Row* lap_at(int row) const;
    /// The column of the table; none: that of the laps' names.
    [[nodiscard]] static std::optional<std::size_t> figure_of(int column) {
        return column < 1 ? std::nullopt : std::optional(static_cast<std::size_t>(column - 1));
    }
    [[nodiscard]] const RunInTable* run_of(RunId id) const;
    [[nodiscard]] QString as_text(QChar between) const;

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  private:
    struct Row {
        enum class Kind { trend, mean, lap } kind;
        QString label = {};
        RunId run = {};                         ///< of a trend
        std::size_t lap = 0;                    ///< of a lap: row of the table
        std::vector<std::size_t> members = {};  ///< of a mean: rows of the table
    };
    void arrange();
    [[nodiscard]] double value(const Row& row, std::size_t column) const;
    /// Of the laps of a mean that have it.
    [[nodiscard]] std::vector<double> members_of(const Row& row, std::size_t column) const;
    [[nodiscard]] QString cell(const Row& row, std::size_t column) const;
    [[nodiscard]] const LapTrend* trend(RunId run, std::size_t column) const;

    std::shared_ptr<const rendak::LapTable> table_;
    std::vector<RunInTable> runs_;
    std::vector<FigureLook> looks_;
    std::vector<Row> rows_;
    Group group_ = Group::runs;
};

/// Sorts and filters laps; what stands on top stays there.
class LapFigureSort : public QSortFilterProxyModel {
    Q_OBJECT
  public:
    using QSortFilterProxyModel::QSortFilterProxyModel;
    /// Keeps laps whose run, driver or session hold every word.
    void set_words(const QString& text);
    void set_only_counted(bool on);

  protected:
    bool lessThan(const QModelIndex& left, const QModelIndex& right) const override;
    bool filterAcceptsRow(int row, const QModelIndex& parent) const override;

  private:
    QStringList words_;
    bool only_counted_ = false;
};

/// A heading with its figure over the laps under it.
class FigureHeader : public QHeaderView {
    Q_OBJECT
  public:
    explicit FigureHeader(const LapFigureModel& figures, QWidget* parent = nullptr);
    void set_chosen(int column);
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintSection(QPainter* painter, const QRect& rect, int section) const override;

  private:
    const LapFigureModel& figures_;
    int chosen_ = -1;
};

}  // namespace rendak::app
