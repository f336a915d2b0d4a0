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

#include "app/desks/logbook/import_preview_dialog.h"
#include "app/desks/logbook/launch_dialog.h"
#include "app/desks/logbook/learn_track_dialog.h"
#include "app/desks/logbook/library_dialogs.h"
#include "app/desks/logbook/library_health.h"
#include "app/text/elided_label.h"
#include "app/text/file_kinds.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "core/track/launch.h"
#include "demo/write_demo.h"

namespace rendak::app {

LogbookDesk::LogbookDesk(Workspace& workspace, QWidget* parent) : Desk(workspace, parent), reading_(workspace.jobs()) {
    tree_model_ = new RunTree(this);
    lap_model_ = new LapTable(workspace, this);

    auto* split = new QSplitter;
    split->addWidget(build_list());
    split->addWidget(build_laps());
    split->setStretchFactor(0, 3);
    split->setStretchFactor(1, 2);
    split->setSizes({720, 470});
    split->setHandleWidth(8);
    auto* filled = new QWidget;
    auto* column = new QVBoxLayout(filled);
    column->setContentsMargins(8, 8, 8, 8);
    column->addWidget(split);
    unfiled_ = new UnfiledBar(workspace_);
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(0);
    outer->addWidget(unfiled_);
    stack_ = new QStackedLayout;
    outer->addLayout(stack_, 1);
    stack_->addWidget(filled);
    stack_->addWidget(build_empty());
    stack_->addWidget(new QWidget);  // until it is known whether there are runs
    stack_->setCurrentIndex(2);

    watched_ = new WatchedFolder(workspace_, this);
    connect(watched_, &WatchedFolder::found, this, [this](const QStringList& files) { import_files(files); });
    connect(&workspace_, &Workspace::runs_changed, this, &LogbookDesk::refresh);
    refresh();
    unfiled_->look();
}

void LogbookDesk::show_tab(Tab tab) {
    tabs_->setCurrentIndex(tab);
}

QWidget* LogbookDesk::build_list() {
    auto* side = new QWidget;
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(8);
    auto* row = new QHBoxLayout;
    filter_ = new QLineEdit;
    filter_->setObjectName(QStringLiteral("filter"));
    filter_->setPlaceholderText(tr("Filter: any words, or driver:osei tyres:c3 …"));
    filter_->setToolTip(
        tr("Runs that hold every word in any column. With a column's name and a colon the word must stand in that "
           "column: driver:osei date:2026-06 best:1:46"));
    filter_->setAccessibleName(tr("Filter the runs"));
    filter_->setClearButtonEnabled(true);
    connect(filter_, &QLineEdit::textChanged, this, [this](const QString& text) {
        tree_model_->set_words(text);
        tree_->expandAll();
        span_groups();
    });
    auto* grouped = new QCheckBox(tr("By event"));
    grouped->setToolTip(tr("Runs under their events and sessions, or one plain list"));
    grouped_ = grouped;
    grouped->setChecked(true);
    tree_model_->set_grouped(true);
    connect(grouped, &QCheckBox::toggled, this, [this](bool on) {
        tree_model_->set_grouped(on);
        tree_->expandAll();
        span_groups();
        Q_EMIT state_changed();
    });
    auto* import = new QPushButton(tr("Import files …"));
    connect(import, &QPushButton::clicked, this, &LogbookDesk::ask_for_files);
    more_ = new QPushButton(tr("More …"));
    more_->setObjectName(QStringLiteral("more"));
    more_->setToolTip(tr("Bundles, bin, car sheets, channel names, watched folder"));
    connect(more_, &QPushButton::clicked, this, &LogbookDesk::show_more_menu);
    pick_best_ = new QPushButton(tr("Pick best lap"));
    pick_best_->setToolTip(tr("Put the fastest flying lap of each selected run into the tray (Enter)"));
    pick_best_->setProperty("primary", true);
    connect(pick_best_, &QPushButton::clicked, this, &LogbookDesk::pick_selected_runs);
    row->addWidget(filter_, 1);
    row->addWidget(grouped);
    row->addWidget(import);
    row->addWidget(more_);
    row->addWidget(pick_best_);
    column->addLayout(row);

    tree_ = new QTreeView;
    tree_->setModel(tree_model_);
    tree_->setAccessibleName(tr("Runs by event and session"));
    tree_->setSortingEnabled(true);
    tree_->sortByColumn(RunTree::name, Qt::AscendingOrder);
    tree_->header()->setResizeContentsPrecision(60);
    for (int i = RunTree::car; i < RunTree::column_count; ++i) tree_->setColumnHidden(i, true);
    tree_->header()->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(tree_->header(), &QWidget::customContextMenuRequested, this, &LogbookDesk::show_column_menu);
    tree_->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(tree_, &QWidget::customContextMenuRequested, this, &LogbookDesk::show_list_menu);
    auto* bin = new QAction(tr("Move to the bin"), tree_);
    bin->setShortcut(QKeySequence::Delete);
    bin->setShortcutContext(Qt::WidgetShortcut);
    connect(bin, &QAction::triggered, this, &LogbookDesk::bin_selected);
    tree_->addAction(bin);
    tree_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    tree_->setSelectionBehavior(QAbstractItemView::SelectRows);
    tree_->setUniformRowHeights(true);
    tree_->setIndentation(14);
    tree_->header()->setStretchLastSection(true);
    tree_->setExpandsOnDoubleClick(false);
    connect(tree_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &LogbookDesk::show_selected);
    connect(tree_, &QTreeView::activated, this, &LogbookDesk::pick_selected_runs);
    column->addWidget(tree_, 1);
    return side;
}

QWidget* LogbookDesk::build_laps() {
    auto* side = new QWidget;
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(8);
    auto* row = new QHBoxLayout;
    run_title_ = new ElidedLabel;
    run_title_->setFont(headline_font());
    run_title_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    learn_ = new QPushButton(tr("Learn the track …"));
    learn_->setProperty("primary", true);
    connect(learn_, &QPushButton::clicked, this, &LogbookDesk::learn_track);
    pick_lap_ = new QPushButton(tr("Pick lap"));
    pick_lap_->setToolTip(tr("Put the selected laps into the tray (double-click or Enter)"));
    connect(pick_lap_, &QPushButton::clicked, this, [this] {
        for (const QModelIndex& index : laps_->selectionModel()->selectedRows()) pick_lap(index);
    });
    row->addWidget(run_title_, 1);
    row->addWidget(learn_);
    row->addWidget(pick_lap_);
    column->addLayout(row);
    tabs_ = new QTabWidget;
    tabs_->setDocumentMode(true);
    column->addWidget(tabs_, 1);

    auto* lap_side = new QWidget;
    auto* lap_column = new QVBoxLayout(lap_side);
    lap_column->setContentsMargins(0, 4, 0, 0);
    laps_ = new QTableView;
    laps_->setObjectName(QStringLiteral("laps"));
    laps_->setModel(lap_model_);
    laps_->setAccessibleName(tr("Laps of the run"));
    laps_->setSelectionBehavior(QAbstractItemView::SelectRows);
    laps_->setShowGrid(false);
    laps_->verticalHeader()->hide();
    laps_->verticalHeader()->setDefaultSectionSize(24);
    laps_->horizontalHeader()->setStretchLastSection(true);
    laps_->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::SelectedClicked);
    connect(laps_, &QTableView::activated, this, [this](const QModelIndex& index) {
        if (index.column() != LapTable::included && index.column() != LapTable::note) pick_lap(index);
    });
    lap_tools_ = new LapTools(workspace_);
    connect(lap_tools_, &LapTools::launch_asked, this, &LogbookDesk::ask_launch);
    lap_column->addWidget(lap_tools_);
    lap_column->addWidget(laps_, 1);
    run_notes_ = new PlainLabel;
    run_notes_->setProperty("role", QStringLiteral("mute"));
    run_notes_->setWordWrap(true);
    lap_column->addWidget(run_notes_);
    facts_ = new RunFactsPanel(workspace_);
    setup_ = new SetupPanel(workspace_);
    tidy_ = new TidyPanel(workspace_);
    tabs_->addTab(lap_side, tr("Laps"));
    tabs_->addTab(facts_, tr("Facts"));
    tabs_->addTab(setup_, tr("Setup"));
    tabs_->addTab(tidy_, tr("Tidy"));
    connect(tidy_, &TidyPanel::looked, this, [this](RunId, int open) {
        tabs_->setTabText(tidy_tab, open == 0 ? tr("Tidy") : tr("Tidy (%1)").arg(open));
    });
    return side;
}

QWidget* LogbookDesk::build_empty() {
    auto* empty = new QWidget;
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    auto* text = new PlainLabel(tr("This library is empty."));
    text->setFont(headline_font());
    text->setAlignment(Qt::AlignCenter);
    auto* hint = new PlainLabel(
        tr("Import logged files (MDF 4, CSV tables, GPX or .rdk.h5), download from a logger in Collect, or "
           "look around with a made-up "
           "test weekend first."));
    hint->setProperty("role", QStringLiteral("mute"));
    hint->setAlignment(Qt::AlignCenter);
    auto* import = new QPushButton(tr("Import files …"));
    import->setProperty("primary", true);
    connect(import, &QPushButton::clicked, this, &LogbookDesk::ask_for_files);
    auto* demo = new QPushButton(tr("Write the demo weekend"));
    demo->setObjectName(QStringLiteral("write-demo"));
    connect(demo, &QPushButton::clicked, this, &LogbookDesk::write_demo);
    auto* buttons = new QHBoxLayout;
    buttons->addStretch();
    buttons->addWidget(import);
    buttons->addWidget(demo);
    buttons->addStretch();
    column->addWidget(text);
    column->addWidget(hint);
    column->addSpacing(12);
    column->addLayout(buttons);
    return empty;
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
        });
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
    for (int column = 0; column < LapTable::note; ++column) laps_->resizeColumnToContents(column);
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

void LogbookDesk::pick_selected_runs() {
    for (const RunId run : selected_runs()) {
        if (!workspace_.pick_best(run)) {
            const auto row = workspace_.library().run(run);
            workspace_.tell(tr("%1 has no flying lap that counts.")
                                .arg(row ? QString::fromStdString(row->name) : QString::number(run.value)));
        }
    }
}

void LogbookDesk::pick_lap(const QModelIndex& index) {
    const Lap& lap = lap_model_->lap(index.row());
    if (!lap.complete()) {
        workspace_.tell(tr("Lap %1 is no complete lap (%2): only laps from line to line can be compared.")
                            .arg(lap.number)
                            .arg(QString::fromStdString(lap.reason)));
        return;
    }
    workspace_.pick({lap_model_->run(), lap.number});
}

void LogbookDesk::ask_for_files() {
    const QStringList files =
        QFileDialog::getOpenFileNames(this, tr("Import logged files"), QString(), logged_file_filter());
    if (!files.isEmpty()) import_files(files);
}

void LogbookDesk::import_files(const QStringList& given, std::optional<double> rate_hz,
                               const std::optional<TableMapping>& mapping) {
    QStringList files;
    for (const QString& file : given) {
        if (file.endsWith(QLatin1String(".zip"), Qt::CaseInsensitive))
            read_bundle(workspace_, this, file);
        else
            files << file;
    }
    if (files.isEmpty()) return;
    struct Done {
        std::vector<ImportResult> results;
        QStringList came_in;
        std::vector<std::pair<std::filesystem::path, Error>> errors;
    };
    std::vector<std::filesystem::path> paths;
    for (const QString& file : files) paths.emplace_back(file.toStdString());
    const auto title = files.size() == 1 ? tr("Importing %1").arg(QFileInfo(files.front()).fileName())
                                         : tr("Importing %1 files").arg(files.size());
    workspace_.jobs().run<Done>(
        title,
        [folder = workspace_.library().folder(), paths, rate_hz, mapping](const JobContext& job) -> Result<Done> {
            auto library = Library::open(folder);
            if (!library) return pass_on(library.error());
            Done done;
            ImportOptions options;
            options.read.csv.rate_hz = rate_hz;
            options.read.csv.mapping = mapping;
            for (std::size_t i = 0; i < paths.size(); ++i) {
                const double n = static_cast<double>(paths.size());
                auto result = import_file(**library, paths[i], options,
                                          job.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n));
                if (result) {
                    done.results.push_back(std::move(*result));
                    done.came_in << QString::fromStdString(paths[i].string());
                } else
                    done.errors.emplace_back(paths[i], result.error());
                if (job.stopped()) break;
            }
            return done;
        },
        [this, files](Result<Done> done) {
            QStringList did_not = files;
            if (done) did_not.removeIf([&](const QString& file) { return done->came_in.contains(file); });
            watched_->settle(done ? done->came_in : QStringList(), did_not);
            if (!done) {
                workspace_.tell(done.error());
                return;
            }
            for (const ImportResult& result : done->results) {
                select_after_refresh_ = result.run;
                workspace_.tell(
                    result.already_there
                        ? tr("Run %1 was in the library already; nothing was imported.").arg(result.run.value)
                        : tr("Imported as run %1.").arg(result.run.value));
            }
            // Recordings that were there stay as they are, unless one was mended.
            const bool mended = std::any_of(done->results.begin(), done->results.end(),
                                            [](const ImportResult& result) { return result.mended; });
            workspace_.library_changed(mended ? Change::recordings : Change::papers);
            // What is wrong with a new run is said at once.
            if (done->results.size() == 1 && !done->results.front().already_there) show_tab(tidy_tab);
            for (const auto& [file, error] : done->errors) {
                workspace_.tell(error);
                if (error.code == ErrorCode::needs_rate) ask_for_rate(QString::fromStdString(file.string()), error);
            }
        });
}

void LogbookDesk::ask_for_rate(const QString& file, const Error& error) {
    auto* dialog = new QInputDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(tr("Rows per second"));
    dialog->setInputMode(QInputDialog::DoubleInput);
    dialog->setLabelText(QString());
    dialog->findChild<QLabel*>()->setTextFormat(Qt::PlainText);  // before it holds a name from the file
    dialog->setLabelText(QString::fromStdString(error.message) + tr("\n\nRows per second (Hz):"));
    dialog->setDoubleRange(0.001, 1e6);
    dialog->setDoubleDecimals(3);
    dialog->setDoubleValue(20);
    connect(dialog, &QInputDialog::doubleValueSelected, this,
            [this, file](double rate) { import_files({file}, rate); });
    dialog->open();
}

void LogbookDesk::import_with_a_look(const QString& file) {
    const auto preview = preview_table(file.toStdString(), workspace_.shown(workspace_.library().aliases()));
    if (!preview) return workspace_.tell(preview.error());
    auto* dialog = new ImportPreviewDialog(
        *preview, table_mapping_from_json(workspace_.shown(workspace_.library().table_mapping(preview->key))), this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, file, key = preview->key] {
        const TableMapping mapping = dialog->mapping();
        const std::string before = workspace_.shown(workspace_.library().table_mapping(key));
        workspace_.edit(
            tr("reading of these columns"),
            [this, key, text = to_json(mapping)] { return workspace_.library().set_table_mapping(key, text); },
            [this, key, before] { return workspace_.library().set_table_mapping(key, before); }, Change::papers);
        import_files({file}, mapping.rate_hz, mapping);
    });
    dialog->open();
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
    add(tr("Edit facts"), [this] { show_tab(facts_tab); });
    add(tr("Setup sheet"), [this] { show_tab(setup_tab); });
    add(tr("Tidy"), [this] { show_tab(tidy_tab); });
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
    show_tab(laps_tab);
}

void LogbookDesk::show_more_menu() {
    QMenu menu;
    const auto add = [&](const QString& text, auto act) {
        connect(menu.addAction(text), &QAction::triggered, this, act);
    };
    add(tr("Import a table with a look first …"), [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Import a table"), QString(),
                                                          tr("Tables (*.csv *.txt);;All files (*)"));
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
    add(tr("Channel names …"), [this] { edit_channel_names(workspace_, this); });
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
