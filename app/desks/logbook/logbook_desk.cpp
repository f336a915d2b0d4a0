#include "app/desks/logbook/logbook_desk.h"

#include <QAction>
#include <QCheckBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QTableView>
#include <QTreeView>
#include <QVBoxLayout>

#include "app/desks/logbook/best_laps_dialog.h"
#include "app/desks/logbook/channel_sheet_dialog.h"
#include "app/desks/logbook/import_preview_dialog.h"
#include "app/desks/logbook/launch_dialog.h"
#include "app/desks/logbook/learn_track_dialog.h"
#include "app/desks/logbook/library_dialogs.h"
#include "app/desks/logbook/library_health.h"
#include "app/desks/logbook/results_dialog.h"
#include "app/text/elided_label.h"
#include "app/text/file_kinds.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/intake/import.h"
#include "core/intake/run_data.h"
#include "core/intake/run_recording.h"
#include "core/intake/watch_book.h"
#include "core/track/launch.h"
#include "demo/write_demo.h"

namespace rendak::app {

LogbookDesk::LogbookDesk(Workspace& workspace, QWidget* parent) : Desk(workspace, parent), reading_(workspace.jobs()) {
    tree_model_ = new RunTree(this);
    lap_model_ = new LapTable(workspace, this);

    unfiled_ = new UnfiledBar(workspace_, this);
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(0);
    outer->addWidget(unfiled_);
    stack_ = new QStackedLayout;
    outer->addLayout(stack_, 1);
    auto* filled = new QWidget(this);
    auto* column = new QVBoxLayout(filled);
    column->setContentsMargins(8, 8, 8, 8);
    auto* split = new QSplitter(filled);
    column->addWidget(split);
    split->addWidget(build_list(split));
    split->addWidget(build_laps(split));
    split->setStretchFactor(0, 3);
    split->setStretchFactor(1, 2);
    split->setSizes({720, 470});
    split->setHandleWidth(8);
    stack_->addWidget(filled);
    stack_->addWidget(build_empty());
    stack_->addWidget(new QWidget);  // until it is known whether there are runs
    stack_->setCurrentIndex(2);

    watched_ = new WatchedFolder(workspace_, this);
    connect(watched_, &WatchedFolder::found, this, [this](const QStringList& files) { import_files(files); });
    connect(&workspace_, &Workspace::runs_changed, this, &LogbookDesk::refresh);
    connect(&workspace_.session()->watch(), &WatchKeeper::changed, this, &LogbookDesk::show_unseen);
    connect(&workspace_, &Workspace::lap_asked, this, &LogbookDesk::show_lap);
    refresh();
    unfiled_->look();
}

void LogbookDesk::show_tab(Tab tab) {
    tabs_->setCurrentIndex(tab);
}
void LogbookDesk::refresh() {
    // What an edit changed of the selected run is there at once: the next keystroke builds on it.
    if (tree_model_->size() > 0) show_selected();
    reading_.run<std::vector<RunSummary>>(
        tr("Reading the runs"),
        [folder = workspace_.library().folder()](const JobContext&) -> Result<std::vector<RunSummary>> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return (*library)->summaries();
        },
        [this](Result<std::vector<RunSummary>> runs) {
            // What was shown before stays when the library cannot be read.
            if (!runs) return workspace_.tell(runs.error());
            show_runs(std::move(*runs));
            show_unseen();
        });
}

void LogbookDesk::show_unseen() {
    if (auto unseen = unseen_watch(workspace_.library())) tree_model_->set_unseen(std::move(*unseen));
}

void LogbookDesk::show_runs(std::vector<RunSummary> runs) {
    const auto selected = selected_runs();
    const RunId keep = select_after_refresh_ ? select_after_refresh_ : selected.empty() ? RunId{} : selected.front();
    select_after_refresh_ = {};
    tree_model_->show(std::move(runs));
    const bool empty = tree_model_->rowCount() == 0;
    stack_->setCurrentIndex(empty ? 1 : 0);
    tree_->expandAll();
    span_groups();
    if (!columns_fitted_ && !empty) {
        columns_fitted_ = true;
        for (int column = 0; column < RunTree::column_count; ++column) {
            tree_->resizeColumnToContents(column);
            tree_->setColumnWidth(column, std::min(tree_->columnWidth(column) + 2, 150));
        }
    }
    if (keep) select_run(keep);
    if (selected_runs().empty() && !empty) {
        const auto all = tree_model_->runs_below({});
        if (!all.empty()) select_run(*std::max_element(all.begin(), all.end()));
    }
    show_selected();
}

std::vector<RunId> LogbookDesk::selected_runs() const {
    std::vector<RunId> runs;
    for (const QModelIndex& index : tree_->selectionModel()->selectedRows()) {
        // An event or a session stands for its runs.
        for (const RunId run : tree_model_->runs_below(index)) {
            if (std::find(runs.begin(), runs.end(), run) == runs.end()) runs.push_back(run);
        }
    }
    return runs;
}

void LogbookDesk::span_groups() {
    // Names of events and sessions may be long: they have the whole row.
    if (!tree_model_->grouped()) return;
    for (int event = 0; event < tree_model_->rowCount(); ++event) {
        tree_->setFirstColumnSpanned(event, {}, true);
        const QModelIndex parent = tree_model_->index(event, 0);
        for (int session = 0; session < tree_model_->rowCount(parent); ++session)
            tree_->setFirstColumnSpanned(session, parent, true);
    }
}

void LogbookDesk::take_focus() {
    tree_->setFocus();
}

void LogbookDesk::select_run(RunId run) {
    const QModelIndex found = tree_model_->index_of(run);
    if (!found.isValid()) return;
    tree_->selectionModel()->setCurrentIndex(found, QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
    tree_->scrollTo(found);
}

void LogbookDesk::show_selected() {
    const auto selected = selected_runs();
    const RunId run = selected.empty() ? RunId{} : selected.front();
    const int row = laps_->currentIndex().row();
    const bool same = lap_model_->run() == run;
    facts_->show_runs(selected);
    setup_->show_runs(selected);
    if (!same) tabs_->setTabText(tidy_tab, tr("Tidy"));
    tidy_->show_run(run);
    lap_model_->show_run(run);
    lap_tools_->show_run(run);
    if (same && row >= 0) laps_->selectRow(row);
    for (int column = 0; column < LapTable::why; ++column) laps_->resizeColumnToContents(column);
    const auto found = run ? workspace_.library().run(run) : Result<RunRow>(fail(ErrorCode::not_found, ""));
    const bool unknown = found && !found->track;
    learn_->setVisible(unknown);
    pick_best_->setEnabled(!selected.empty());
    pick_lap_->setEnabled(lap_model_->rowCount() > 0);
    if (!found) {
        run_title_->setText(tr("No run selected"));
        run_notes_->clear();
        return;
    }
    QString title = QString::fromStdString(found->name);
    if (!found->driver.empty()) title += QStringLiteral(" · ") + QString::fromStdString(found->driver);
    if (selected.size() > 1)
        title = counted(static_cast<qsizetype>(selected.size()), tr("run"), tr("runs")) + QStringLiteral(": ") + title +
                QStringLiteral(" …");
    run_title_->setText(title);
    QStringList notes;
    for (const std::string& note : found->notes) notes << QString::fromStdString(note);
    if (unknown) notes.prepend(tr("The place of this run is not known yet: learn the track and its laps are cut."));
    for (const RunRow& part : workspace_.shown(workspace_.library().joined_runs(run)))
        notes << tr("Joined: %1 (%2), moved by %3 s.")
                     .arg(QString::fromStdString(part.name), QString::fromStdString(part.source_name))
                     .arg(part.join_offset_s, 0, 'f', 2);
    if (!found->damage.empty()) notes.prepend(QString::fromStdString(found->damage));
    notes << tr("From %1").arg(QString::fromStdString(found->source_name));
    run_notes_->setText(notes.join(u'\n'));
}

void LogbookDesk::show_lap(LapRef lap) {
    Q_EMIT workspace_.desk_asked(QStringLiteral("logbook"));
    select_run(lap.run);
    show_tab(laps_tab);
    for (int row = 0; row < lap_model_->rowCount(); ++row) {
        if (lap_model_->lap(row).number == lap.lap) laps_->selectRow(row);
    }
}

void LogbookDesk::pick_selected_runs() {
    for (const RunId run : selected_runs()) {
        if (workspace_.pick_best(run)) continue;
        const auto row = workspace_.library().run(run);
        const QString name = row ? QString::fromStdString(row->name) : QString::number(run.value);
        // Where there are no laps from line to line, all of the run can still be looked at.
        const auto laps = workspace_.shown(workspace_.library().laps(run));
        const bool none = std::none_of(laps.begin(), laps.end(), [](const Lap& lap) { return lap.complete(); });
        if (none && workspace_.pick({run, whole_run}))
            workspace_.tell(tr("%1 has no complete lap; all of it is picked, over time.").arg(name));
        else if (!none)
            workspace_.tell(tr("%1 has no flying lap that counts.").arg(name));
    }
}

void LogbookDesk::pick_lap(const QModelIndex& index) {
    const Lap& lap = lap_model_->lap(index.row());
    if (workspace_.pick({lap_model_->run(), lap.number}) && !lap.complete())
        workspace_.tell(tr("Lap %1 is no complete lap (%2): it is shown over time, not by place.")
                            .arg(lap.number)
                            .arg(QString::fromStdString(lap.reason)));
}
void LogbookDesk::bin_selected() {
    const auto runs = selected_runs();
    if (runs.empty()) return;
    const auto put = [this, runs](bool binned) -> Result<void> {
        for (const RunId run : runs) {
            if (auto done = workspace_.library().set_binned(run, binned); !done) return done;
        }
        return {};
    };
    // A lap in the tray of a run in the bin would be a ghost.
    auto& focus = workspace_.focus();
    for (int slot = static_cast<int>(focus.state().laps.size()) - 1; slot >= 0; --slot) {
        const RunId run = focus.state().laps[static_cast<std::size_t>(slot)].run;
        if (std::find(runs.begin(), runs.end(), run) != runs.end()) focus.remove_slot(slot);
    }
    workspace_.edit(
        tr("move to the bin"), [put] { return put(true); }, [put] { return put(false); });
    workspace_.tell(tr("Moved to the bin: %1. Ctrl+Z takes it back.")
                        .arg(counted(static_cast<qsizetype>(runs.size()), tr("run"), tr("runs"))));
}

void LogbookDesk::show_list_menu(const QPoint& at) {
    QMenu menu;
    const bool any = !selected_runs().empty();
    const auto add = [&](const QString& text, auto act) {
        QAction* action = menu.addAction(text);
        action->setEnabled(any);
        connect(action, &QAction::triggered, this, act);
    };
    add(tr("Pick best laps\tEnter"), [this] { pick_selected_runs(); });
    add(tr("Pick the whole run, over time"), [this] {
        for (const RunId run : selected_runs()) workspace_.pick({run, whole_run});
    });
    add(tr("Edit facts"), [this] { show_tab(facts_tab); });
    add(tr("Setup sheet"), [this] { show_tab(setup_tab); });
    add(tr("Tidy"), [this] { show_tab(tidy_tab); });
    add(tr("Channels …"), [this] { show_channels(); });
    menu.addSeparator();
    add(tr("Write a bundle …"), [this] { write_bundle_of(workspace_, selected_runs(), this); });
    add(tr("Move to the bin\tDel"), [this] { bin_selected(); });
    menu.exec(tree_->viewport()->mapToGlobal(at));
}

void LogbookDesk::show_column_menu(const QPoint& at) {
    QMenu menu;
    for (int column = RunTree::name + 1; column < RunTree::column_count; ++column) {
        QAction* action = menu.addAction(tree_model_->headerData(column, Qt::Horizontal, Qt::DisplayRole).toString());
        action->setCheckable(true);
        action->setChecked(!tree_->isColumnHidden(column));
        connect(action, &QAction::toggled, this, [this, column](bool on) {
            tree_->setColumnHidden(column, !on);
            if (on) tree_->resizeColumnToContents(column);
            Q_EMIT state_changed();
        });
    }
    menu.exec(tree_->header()->mapToGlobal(at));
}

/// Columns by their names: a new one shifts no other.
QString LogbookDesk::state() const {
    QStringList shown;
    for (int column = 0; column < RunTree::column_count; ++column) {
        if (!tree_->isColumnHidden(column)) shown << RunTree::key_of(column);
    }
    return QStringLiteral("%1;%2").arg(grouped_->isChecked() ? QStringLiteral("by-event") : QStringLiteral("plain"),
                                       shown.join(u','));
}

void LogbookDesk::restore(const QString& state) {
    const QStringList parts = state.split(u';');
    if (parts.size() != 2) return;
    grouped_->setChecked(parts[0] != QLatin1String("plain"));
    const QStringList shown = parts[1].split(u',');
    for (int column = RunTree::name + 1; column < RunTree::column_count; ++column)
        tree_->setColumnHidden(column, !shown.contains(RunTree::key_of(column)));
}

void LogbookDesk::show_pictures(PictureBook& book) {
    book.take(QStringLiteral("logbook"));
    const auto all = workspace_.shown(workspace_.library().runs());
    if (all.empty()) return;
    select_run(all.front().id);
    show_tab(tidy_tab);
    book.take(QStringLiteral("logbook-tidy"));
    select_run(all.back().id);
    show_tab(setup_tab);
    book.take(QStringLiteral("logbook-setup"));
    if (ChannelSheetDialog* sheet = show_channels()) {
        sheet->select("Brake Pres Front");
        book.take(QStringLiteral("logbook-channels"), *sheet);
        sheet->close();
    }
    show_tab(laps_tab);
}

void LogbookDesk::show_more_menu() {
    QMenu menu;
    const auto add = [&](const QString& text, auto act) {
        connect(menu.addAction(text), &QAction::triggered, this, act);
    };
    add(tr("Import a table with a look first …"), [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Import a table"), QString(),
                                                          tr("Tables (*.csv *.txt *.h5 *.hdf5);;All files (*)"));
        if (!file.isEmpty()) import_with_a_look(file);
    });
    add(watched_->folder().isEmpty() ? tr("Watch a folder …") : tr("Stop watching %1").arg(watched_->folder()),
        [this] { choose_watched_folder(); });
    menu.addSeparator();
    add(tr("Write a bundle of the selected runs …"), [this] { write_bundle_of(workspace_, selected_runs(), this); });
    add(tr("Write the run sheet (CSV) …"), [this] {
        const QString file = QFileDialog::getSaveFileName(this, tr("Write the run sheet"),
                                                          QStringLiteral("run-sheet.csv"), tr("Tables (*.csv)"));
        if (file.isEmpty()) return;
        const auto written = write_file(file.toStdString(), tree_model_->run_sheet().toStdString());
        written ? workspace_.tell(tr("The run sheet is in %1.").arg(file)) : workspace_.tell(written.error());
    });
    add(tr("Read a bundle …"), [this] { read_bundle(workspace_, this); });
    menu.addSeparator();
    add(tr("Car sheets …"), [this] { edit_car_sheets(workspace_, this); });
    add(tr("Channels of the selected run …"), [this] { show_channels(); });
    add(tr("Channel names …"), [this] { edit_channel_names(workspace_, this); });
    add(tr("Results of the timing system …"), [this] {
        const auto selected = selected_runs();
        if (selected.size() != 1) return workspace_.tell(tr("Select the run that the results belong to."));
        const QString file = QFileDialog::getOpenFileName(this, tr("Results of the timing system"), QString(),
                                                          tr("Tables (*.csv *.txt);;All files (*)"));
        if (!file.isEmpty()) hold_results_against(workspace_, selected.front(), file, this);
    });
    add(tr("Best-ever laps …"), [this] { show_best_laps(workspace_, this); });
    add(tr("Check the library …"), [this] { check_library_of(workspace_, this); });
    add(tr("Bin (%1) …").arg(workspace_.shown(workspace_.library().binned()).size()),
        [this] { show_bin(workspace_, this); });
    menu.exec(more_->mapToGlobal(QPoint(0, more_->height())));
}

void LogbookDesk::choose_watched_folder() {
    if (!watched_->folder().isEmpty()) {
        watched_->set_folder({});
        workspace_.tell(tr("No folder is watched now."));
        return;
    }
    const QString folder =
        QFileDialog::getExistingDirectory(this, tr("Folder whose new files are imported by themselves"));
    if (folder.isEmpty()) return;
    watched_->set_folder(folder);
    workspace_.tell(tr("New logged files in %1 are imported by themselves from now on.").arg(folder));
}

void LogbookDesk::write_demo() {
    struct Nothing {};
    workspace_.jobs().run<Nothing>(
        tr("Writing the demo weekend"),
        [folder = workspace_.library().folder()](const JobContext& job) -> Result<Nothing> {
            if (auto written = demo::write_demo(folder, job); !written) return pass_on(written.error());
            return Nothing{};
        },
        [this](Result<Nothing> done) {
            if (!done) workspace_.tell(done.error());
            workspace_.library_changed();
        });
}

ChannelSheetDialog* LogbookDesk::show_channels() {
    const auto selected = selected_runs();
    if (selected.empty()) {
        workspace_.tell(tr("Select a run to see its channels."));
        return nullptr;
    }
    const auto row = workspace_.library().run(selected.front());
    if (!row) {
        workspace_.tell(row.error());
        return nullptr;
    }
    auto* dialog = new ChannelSheetDialog(workspace_, *row, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
    return dialog;
}

void LogbookDesk::ask_launch() {
    const auto selected = selected_runs();
    if (selected.empty()) return;
    const RunId run = selected.front();
    workspace_.jobs().run<std::shared_ptr<const Recording>>(
        tr("Opening the run"),
        [folder = workspace_.library().folder(), run](const JobContext&) -> Result<std::shared_ptr<const Recording>> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            auto recording = run_recording(**library, run);
            if (!recording) return pass_on(recording.error());
            return std::make_shared<const Recording>(std::move(*recording));
        },
        [this, run](Result<std::shared_ptr<const Recording>> recording) {
            if (!recording) return workspace_.tell(recording.error());
            const PlaceCorrection before = workspace_.shown(workspace_.library().place_correction(run));
            auto* dialog = new LaunchDialog(*recording, find_launch(**recording), before.launch_s, this);
            dialog->setAttribute(Qt::WA_DeleteOnClose);
            connect(dialog, &QDialog::accepted, this, [this, dialog, run, before] {
                PlaceCorrection after = before;
                after.launch_s = dialog->launch_s();
                if (after == before) return;
                const auto put = [run](const PlaceCorrection& correction) {
                    return [run, correction](Library& library, const JobContext&) -> Result<void> {
                        Library::Act act(library);
                        if (auto begun = act.begun(); !begun) return begun;
                        if (auto done = library.set_place_correction(run, correction); !done) return done;
                        if (auto done = recut_run(library, run); !done) return done;
                        return act.commit();
                    };
                };
                workspace_.edit_in_background(tr("set the launch"), put(after), put(before));
            });
            dialog->open();
        });
}

void LogbookDesk::learn_track() {
    const auto selected = selected_runs();
    if (selected.empty()) return;
    LearnTrackDialog dialog(this);
    // The map comes when the run is read; the dialog does not wait for it.
    Latest reading(workspace_.jobs());
    reading.run<std::shared_ptr<const Path>>(
        tr("Reading the run"),
        [folder = workspace_.library().folder(),
         run = selected.front()](const JobContext&) -> Result<std::shared_ptr<const Path>> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            auto opened = load_run(**library, run);
            if (!opened) return pass_on(opened.error());
            if ((*opened)->path == nullptr) return fail(ErrorCode::bad_input, "No positions, so no map.");
            return (*opened)->path;
        },
        [&dialog](Result<std::shared_ptr<const Path>> path) {
            path ? dialog.set_path(*path) : dialog.set_no_path(QString::fromStdString(path.error().message));
        });
    if (dialog.exec() != QDialog::Accepted) return;
    workspace_.jobs().run<LearnResult>(
        tr("Learning the track"),
        [folder = workspace_.library().folder(), run = selected.front(), name = dialog.name().toStdString(),
         start = dialog.start(), kind = dialog.kind()](const JobContext& job) -> Result<LearnResult> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return learn_track_from_run(**library, run, name, start, job, kind);
        },
        [this, run = selected.front()](Result<LearnResult> done) {
            if (!done) {
                workspace_.tell(done.error());
                return;
            }
            select_after_refresh_ = run;
            workspace_.tell(tr("The track is learnt; the laps of %1 are cut.")
                                .arg(counted(static_cast<qsizetype>(done->runs_cut.size()), tr("run"), tr("runs"))));
            workspace_.library_changed();
        });
}

}  // namespace rendak::app
