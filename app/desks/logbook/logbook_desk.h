#pragma once

#include <QWidget>
#include <optional>

#include "app/desks/logbook/lap_table.h"
#include "app/desks/logbook/run_tree.h"

class QLabel;
class QLineEdit;
class QPushButton;
class QStackedLayout;
class QTableView;
class QTreeView;

namespace rendak::app {

/// Events, sessions, runs and their laps; where files come in and laps are picked.
class LogbookDesk : public QWidget {
    Q_OBJECT
  public:
    explicit LogbookDesk(Workspace& workspace, QWidget* parent = nullptr);

    /// Imports files in the background; tells what was done.
    void import_files(const QStringList& files, std::optional<double> rate_hz = {});
    [[nodiscard]] std::vector<RunId> selected_runs() const;
    void select_run(RunId run);
    void focus_list();

  private:
    QWidget* build_list();
    QWidget* build_laps();
    QWidget* build_empty();
    void ask_for_files();
    void ask_for_rate(const QString& file, const Error& error);
    void write_demo();
    void learn_track();
    void refresh();
    void span_groups();
    void show_selected();
    void pick_selected_runs();
    void pick_lap(const QModelIndex& index);

    Workspace& workspace_;
    QStackedLayout* stack_;
    RunTree* tree_model_;
    RunFilter* filter_model_;
    LapTable* lap_model_;
    QTreeView* tree_;
    QTableView* laps_;
    QLineEdit* filter_;
    QLabel *run_title_, *run_notes_;
    QPushButton *pick_best_, *learn_, *pick_lap_;
    RunId select_after_refresh_;
};

}  // namespace rendak::app
