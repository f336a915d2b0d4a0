#pragma once

#include "app/desks/corners/figure_model.h"
#include "app/workspace/desk.h"

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QLabel;
class QSortFilterProxyModel;
class QStackedLayout;
class QStackedWidget;
class QTableView;

namespace rendak::app {

/// Laps by sections, sectors and corners: where each lap was good, what the ideal lap would be, how alike the laps are.
/// Shows all laps of the runs on the tray.
class CornersDesk : public Desk {
    Q_OBJECT
  public:
    explicit CornersDesk(Workspace& workspace, QWidget* parent = nullptr);

    void show_table(FigureModel::Shows shows);
    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    /// Shows a channel or formula section by section.
    void show_channel(const std::string& quantity);
    [[nodiscard]] FigureModel& model() { return *model_; }
    [[nodiscard]] QTableView& table() { return *table_; }
    [[nodiscard]] QString headline() const;
    [[nodiscard]] QString verdict() const;
    /// Writes the table shown as CSV.
    [[nodiscard]] Result<void> save_csv(const QString& file) const;

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    QWidget* build_full();
    QWidget* build_empty();
    void refresh();
    void show_figures(std::shared_ptr<const CornerFigures> figures);
    void apply_choice();
    void fill_channels();
    /// Their units are the person's.
    void name_corner_figures();
    void show_lap_menu(int column, QPoint at);
    void open_in_compare(const QModelIndex& shown);
    void copy() const;

    FigureModel* model_;
    QSortFilterProxyModel* sorted_;
    QStackedLayout* stack_;
    QTableView* table_;
    QLabel *headline_, *verdict_, *hint_, *empty_text_;
    QButtonGroup *tables_, *figures_of_time_, *figures_of_peak_;
    QComboBox* corner_figure_;
    QButtonGroup* figures_of_channel_;
    QComboBox* channel_;
    std::string channel_asked_;
    QStackedWidget* choices_;
    QComboBox* activity_;
    QWidget *time_choices_, *peak_choices_, *channel_choices_, *activity_choices_;
    QCheckBox *banked_, *mixed_;
    Latest figuring_;
    bool stale_ = true;  ///< the laps changed while the desk was not in sight
};

}  // namespace rendak::app
