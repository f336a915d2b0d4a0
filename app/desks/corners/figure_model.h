#pragma once

#include <QAbstractTableModel>

#include "app/desks/corners/corner_figures.h"

namespace rendak::app {

/// Sections (or sectors, or corners) down, statistics and laps across: so thirty sections fit the screen and a lap's
/// column reads like a lap is driven.
class FigureModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum class Shows { sections, sectors, peaks, channel, activity };
    enum class Figure { time, to_best, mean, low, high };
    static constexpr int sort_role = Qt::UserRole;

    using QAbstractTableModel::QAbstractTableModel;
    void set_figures(std::shared_ptr<const CornerFigures> figures);
    void show(Shows shows, Figure figure);
    /// A figure of the corners, by its place in all_corner_figures().
    void show_corners(std::size_t figure, bool banked_count);

    /// What drivers do in the sections, by its place in all_activity_figures().
    void show_activity(std::size_t figure);

    /// The lap of a column, if it is a lap's.
    [[nodiscard]] std::optional<LapRef> lap_of(int column) const;
    [[nodiscard]] Interval range_of(int row) const;
    [[nodiscard]] int first_lap_column() const;
    /// The table as text: columns by `between`, numbers with a point.
    [[nodiscard]] QString as_text(QChar between) const;

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  private:
    [[nodiscard]] const SectionTable& table() const;
    [[nodiscard]] const CornerPeaks& peaks() const;
    [[nodiscard]] const CornerFigure& corner_figure() const { return all_corner_figures()[corner_figure_]; }
    [[nodiscard]] double of_corner(std::size_t lap, std::size_t corner) const;
    /// Number in SI; NaN where there is none.
    [[nodiscard]] double value_at(int row, int column) const;
    /// Of the channel asked for; NaN where a lap has none.
    [[nodiscard]] double of_channel(std::size_t lap, std::size_t row) const;
    [[nodiscard]] const ActivityFigure& activity_figure() const { return all_activity_figures()[activity_figure_]; }
    /// Runs that have a column of their own, behind the statistics over all.
    [[nodiscard]] std::size_t runs_apart() const;
    /// Over the laps that count of one run, or of all.
    [[nodiscard]] Spread spread_at(std::size_t row, std::optional<RunId> run) const;
    /// Of a lap; SI, NaN where it has none.
    [[nodiscard]] double own_value(std::size_t lap, std::size_t row) const;
    [[nodiscard]] QString shown_at(int row, int column) const;
    [[nodiscard]] bool is_total(int row) const;
    [[nodiscard]] bool is_best(int row, int column) const;

    std::shared_ptr<const CornerFigures> figures_;
    Shows shows_ = Shows::sections;
    Figure figure_ = Figure::time;
    std::size_t corner_figure_ = 0, activity_figure_ = 0;
    bool banked_count_ = false;
};

}  // namespace rendak::app
