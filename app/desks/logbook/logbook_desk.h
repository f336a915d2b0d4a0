#pragma once

#include <optional>

#include "app/desks/logbook/lap_table.h"
#include "app/desks/logbook/lap_tools.h"
#include "app/desks/logbook/run_facts_panel.h"
#include "app/desks/logbook/run_tree.h"
#include "app/desks/logbook/setup_panel.h"
#include "app/desks/logbook/tidy_panel.h"
#include "app/workspace/desk.h"
#include "app/workspace/watched_folder.h"
#include "core/recording/table_mapping.h"

class QCheckBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedLayout;
class QTabWidget;
class QTableView;
class QTreeView;

namespace rendak::app {

class ChannelSheetDialog;
class UnfiledBar;

/// Events, sessions, runs and their laps; where files come in and laps are picked.
class LogbookDesk : public Desk {
    Q_OBJECT
  public:
    explicit LogbookDesk(Workspace& workspace, QWidget* parent = nullptr);

    /// Imports files in the background and tells what was done; a bundle shows first what it brings.
    void import_files(const QStringList& given, std::optional<double> rate_hz = {},
                      const std::optional<TableMapping>& mapping = {}, const RunFacts& facts = {});
    /// Shows the columns of a table first; what is chosen is remembered for tables of that shape.
    void import_with_a_look(const QString& file, const std::vector<Question>& questions = {},
                            const RunFacts& facts = {});
    void bin_selected();
    /// The channel sheet of the selected run; null when none is selected.
    ChannelSheetDialog* show_channels();
    [[nodiscard]] RunTree& run_list() { return *tree_model_; }
    [[nodiscard]] LapTools& lap_tools() { return *lap_tools_; }
    [[nodiscard]] TidyPanel& tidy() { return *tidy_; }
    [[nodiscard]] WatchedFolder& watched() { return *watched_; }
    [[nodiscard]] UnfiledBar& unfiled() { return *unfiled_; }
    /// Laps, facts, setup, tidy.
    [[nodiscard]] QString state() const override;
    void restore(const QString& state) override;
    enum Tab { laps_tab, facts_tab, setup_tab, tidy_tab };
    void show_tab(Tab tab);
    [[nodiscard]] std::vector<RunId> selected_runs() const;
    void select_run(RunId run);
    /// Its run selected, its row in the list of laps.
    void show_lap(LapRef lap);
    void take_focus() override;
    void show_pictures(PictureBook& book) override;

  private:
    QWidget* build_list(QWidget* parent);
    QWidget* build_laps(QWidget* parent);
    QWidget* build_empty();
    void ask_for_files();
    void ask_for_rate(const QString& file, const Error& error, const RunFacts& facts);
    void write_demo();
    void learn_track();
    void ask_launch();
    void refresh();
    void show_runs(std::vector<RunSummary> runs);
    void show_unseen();
    void span_groups();
    void show_list_menu(const QPoint& at);
    void show_column_menu(const QPoint& at);
    void show_more_menu();
    void choose_watched_folder();
    void show_selected();
    void pick_selected_runs();
    void pick_lap(const QModelIndex& index);

    QStackedLayout* stack_;
    RunTree* tree_model_;
    LapTable* lap_model_;
    QTreeView* tree_;
    QTableView* laps_;
    QLineEdit* filter_;
    QCheckBox* grouped_;
    QLabel *run_title_, *run_notes_;
    QPushButton *pick_best_, *learn_, *pick_lap_, *more_;
    QTabWidget* tabs_;
    RunFactsPanel* facts_;
    SetupPanel* setup_;
    TidyPanel* tidy_;
    LapTools* lap_tools_;
    WatchedFolder* watched_;
    UnfiledBar* unfiled_;
    Latest reading_;
    bool columns_fitted_ = false;
    RunId select_after_refresh_;
};

}  // namespace rendak::app
