#pragma once

#include "app/desks/stint/lap_figure_model.h"
#include "app/desks/stint/stint_data.h"
#include "app/desks/stint/stint_work.h"
#include "app/desks/stint/watch_list.h"
#include "app/workspace/desk.h"
#include "core/intake/column_sets.h"

class QActionGroup;
class QButtonGroup;
class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QSplitter;
class QStackedLayout;
class QStackedWidget;
class QTableView;

namespace rendak::app {

class BalanceTable;
class DayPage;
class OverLapsPicture;
class WheelsPicture;

/// What happens over many laps: pace, tyres and brakes of the runs on the tray, held against each other; the figures of
/// every lap; what watch rules say; the day, run by run.
class StintDesk : public Desk {
    Q_OBJECT
  public:
    explicit StintDesk(Workspace& workspace, QWidget* parent = nullptr);

    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    [[nodiscard]] QString state() const override;
    void restore(const QString& state) override;

    [[nodiscard]] QString headline() const;
    [[nodiscard]] QString foot() const;
    [[nodiscard]] LapFigureModel& figures() { return *figures_; }
    [[nodiscard]] QTableView& table() { return *table_; }
    [[nodiscard]] BalanceTable& balance() { return *balance_; }
    [[nodiscard]] OverLapsPicture& picture() { return *picture_; }
    [[nodiscard]] WheelsPicture& wheels() { return *wheels_; }
    [[nodiscard]] WatchList& watch() { return *watch_; }
    [[nodiscard]] DayPage& day() { return *day_; }
    void show_day(bool on);
    void show_set(const QString& name);
    /// Columns as lap_columns() reads them.
    void show_columns(const QString& columns);
    void show_whole_day(bool on);
    /// The picture of a column; −1: the pace.
    void show_column(int column);
    /// Writes the table that is in sight as CSV.
    [[nodiscard]] Result<void> save_csv(const QString& file) const;

  protected:
    void showEvent(QShowEvent* event) override;
    void changeEvent(QEvent* event) override;

  private:
    QWidget* build_full();
    QWidget* build_left(QWidget* parent);
    QWidget* build_right(QWidget* parent);
    QWidget* build_empty();
    QWidget* build_figure_tools(QWidget* parent);
    void refresh();
    void take_over(std::shared_ptr<const StintData> stints);
    void work_figures();
    void show_table(TableOfLaps made);
    void show_first();
    void work_watch();
    /// A row of before and after, over the laps.
    void show_balance(int row);
    void fill_sets();
    void fill_kinds();
    void show_cursor();
    [[nodiscard]] QString wheel_words() const;
    void open_lap(LapRef lap, std::optional<double> time_s);
    void show_moment();
    void open_moment(RunId run, double time_s);
    void edit_columns();
    void copy() const;

    LapFigureModel* figures_;
    LapFigureSort* sorted_;
    QStackedLayout* stack_;
    QStackedWidget* pages_;
    QButtonGroup *page_choice_, *kinds_;
    QWidget* kind_row_;
    QLabel *headline_, *foot_, *empty_text_, *ducts_, *scatter_, *spike_, *table_hint_, *watch_title_;
    QSplitter *across_, *down_left_, *down_right_;
    OverLapsPicture* picture_;
    WheelsPicture* wheels_;
    BalanceTable* balance_;
    QTableView* table_;
    FigureHeader* header_;
    QComboBox *modes_, *sets_;
    QCheckBox* whole_day_;
    QAction* only_counted_;
    QActionGroup* groups_;
    QPushButton* pace_;
    WatchList* watch_;
    QPushButton* looked_at_;
    DayPage* day_;
    std::shared_ptr<const StintData> data_;
    std::shared_ptr<const ComparedLaps> of_;           ///< the laps that `data_` was made of
    std::optional<std::pair<LapRef, double>> moment_;  ///< of a lap, to be shown on Compare (recording time)
    QString units_;
    QString columns_;  ///< parted by ";"
    int chosen_ = -1;  ///< column of the picture; −1: pace
    Latest working_, figuring_, figuring_first_, watching_;
    std::shared_ptr<TableOfLaps> first_made_;  ///< of A's run, until all of them are there
    QTimer soon_;                              ///< before it is over, nothing is shown of a part
    bool stale_ = true;                        ///< something changed while the desk was not in sight; what:
    bool figures_stale_ = false, watch_stale_ = false;
};

}  // namespace rendak::app
