#include "app/desks/logbook/logbook_desk.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTableView>
#include <QTreeView>
#include <QVBoxLayout>

#include "app/desks/logbook/learn_track_dialog.h"
#include "app/text/elided_label.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/intake/import.h"
#include "demo/write_demo.h"

namespace rendak::app {

LogbookDesk::LogbookDesk(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    tree_model_ = new RunTree(this);
    filter_model_ = new RunFilter(this);
    filter_model_->setSourceModel(tree_model_);
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
    stack_ = new QStackedLayout(this);
    stack_->addWidget(filled);
    stack_->addWidget(build_empty());

    connect(&workspace_, &Workspace::runs_changed, this, &LogbookDesk::refresh);
    refresh();
}

QWidget* LogbookDesk::build_list() {
    auto* side = new QWidget;
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(8);
    auto* row = new QHBoxLayout;
    filter_ = new QLineEdit;
    filter_->setPlaceholderText(tr("Filter: driver, car, track, date …"));
    filter_->setAccessibleName(tr("Filter the runs"));
    filter_->setClearButtonEnabled(true);
    connect(filter_, &QLineEdit::textChanged, this, [this](const QString& text) {
        filter_model_->set_words(text);
        tree_->expandAll();
        span_groups();
    });
    auto* import = new QPushButton(tr("Import files …"));
    connect(import, &QPushButton::clicked, this, &LogbookDesk::ask_for_files);
    pick_best_ = new QPushButton(tr("Pick best lap"));
    pick_best_->setToolTip(tr("Put the fastest flying lap of each selected run into the tray (Enter)"));
    pick_best_->setProperty("primary", true);
    connect(pick_best_, &QPushButton::clicked, this, &LogbookDesk::pick_selected_runs);
    row->addWidget(filter_, 1);
    row->addWidget(import);
    row->addWidget(pick_best_);
    column->addLayout(row);

    tree_ = new QTreeView;
    tree_->setModel(filter_model_);
    tree_->setAccessibleName(tr("Runs by event and session"));
    tree_->setSortingEnabled(true);
    tree_->sortByColumn(RunTree::name, Qt::AscendingOrder);
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

    laps_ = new QTableView;
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
    column->addWidget(laps_, 1);
    run_notes_ = new QLabel;
    run_notes_->setProperty("role", QStringLiteral("mute"));
    run_notes_->setWordWrap(true);
    column->addWidget(run_notes_);
    return side;
}

QWidget* LogbookDesk::build_empty() {
    auto* empty = new QWidget;
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    auto* text = new QLabel(tr("This library is empty."));
    text->setFont(headline_font());
    text->setAlignment(Qt::AlignCenter);
    auto* hint = new QLabel(
        tr("Import logged files (CSV tables or .rdk.h5 recordings), or look around with a made-up test day first."));
    hint->setProperty("role", QStringLiteral("mute"));
    hint->setAlignment(Qt::AlignCenter);
    auto* import = new QPushButton(tr("Import files …"));
    import->setProperty("primary", true);
    connect(import, &QPushButton::clicked, this, &LogbookDesk::ask_for_files);
    auto* demo = new QPushButton(tr("Write the demo test day"));
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
    const auto selected = selected_runs();
    const RunId keep = select_after_refresh_ ? select_after_refresh_ : selected.empty() ? RunId{} : selected.front();
    select_after_refresh_ = {};
    tree_model_->read(workspace_.library());
    const bool empty = tree_model_->rowCount() == 0;
    stack_->setCurrentIndex(empty ? 1 : 0);
    tree_->expandAll();
    span_groups();
    for (int column = 0; column < RunTree::column_count; ++column) tree_->resizeColumnToContents(column);
    for (int column = 0; column < RunTree::column_count; ++column)
        tree_->setColumnWidth(column, std::min(tree_->columnWidth(column) + 2, 170));
    if (keep) select_run(keep);
    if (selected_runs().empty() && !empty) select_run(workspace_.library().runs().back().id);
    show_selected();
}

std::vector<RunId> LogbookDesk::selected_runs() const {
    std::vector<RunId> runs;
    for (const QModelIndex& index : tree_->selectionModel()->selectedRows()) {
        if (const RunId run = RunTree::run_of(index)) runs.push_back(run);
    }
    return runs;
}

void LogbookDesk::span_groups() {
    // Names of events and sessions may be long: they have the whole row.
    for (int event = 0; event < filter_model_->rowCount(); ++event) {
        tree_->setFirstColumnSpanned(event, {}, true);
        const QModelIndex parent = filter_model_->index(event, 0);
        for (int session = 0; session < filter_model_->rowCount(parent); ++session)
            tree_->setFirstColumnSpanned(session, parent, true);
    }
}

void LogbookDesk::focus_list() {
    tree_->setFocus();
}

void LogbookDesk::select_run(RunId run) {
    const auto found =
        filter_model_->match(filter_model_->index(0, 0), RunTree::run_role, QVariant::fromValue<qlonglong>(run.value),
                             1, Qt::MatchExactly | Qt::MatchRecursive);
    if (found.isEmpty()) return;
    tree_->selectionModel()->setCurrentIndex(found.front(),
                                             QItemSelectionModel::ClearAndSelect | QItemSelectionModel::Rows);
    tree_->scrollTo(found.front());
}

void LogbookDesk::show_selected() {
    const auto selected = selected_runs();
    const RunId run = selected.empty() ? RunId{} : selected.front();
    const int row = laps_->currentIndex().row();
    const bool same = lap_model_->run() == run;
    lap_model_->show_run(run);
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
    run_title_->setText(title);
    QStringList notes;
    for (const std::string& note : found->notes) notes << QString::fromStdString(note);
    if (unknown) notes.prepend(tr("The place of this run is not known yet: learn the track and its laps are cut."));
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
    const QStringList files = QFileDialog::getOpenFileNames(
        this, tr("Import logged files"), QString(), tr("Logged files (*.csv *.txt *.rdk.h5 *.h5);;All files (*)"));
    if (!files.isEmpty()) import_files(files);
}

void LogbookDesk::import_files(const QStringList& files, std::optional<double> rate_hz) {
    struct Done {
        std::vector<ImportResult> results;
        std::vector<std::pair<std::filesystem::path, Error>> errors;
    };
    std::vector<std::filesystem::path> paths;
    for (const QString& file : files) paths.emplace_back(file.toStdString());
    const auto title = files.size() == 1 ? tr("Importing %1").arg(QFileInfo(files.front()).fileName())
                                         : tr("Importing %n files", nullptr, static_cast<int>(files.size()));
    workspace_.jobs().run<Done>(
        title,
        [folder = workspace_.library().folder(), paths, rate_hz](const JobContext& job) -> Result<Done> {
            auto library = Library::open(folder);
            if (!library) return pass_on(library.error());
            Done done;
            ImportOptions options;
            options.read.csv.rate_hz = rate_hz;
            for (std::size_t i = 0; i < paths.size(); ++i) {
                const double n = static_cast<double>(paths.size());
                auto result = import_file(**library, paths[i], options,
                                          job.part(static_cast<double>(i) / n, static_cast<double>(i + 1) / n));
                if (result)
                    done.results.push_back(std::move(*result));
                else
                    done.errors.emplace_back(paths[i], result.error());
                if (job.stopped()) break;
            }
            return done;
        },
        [this](Result<Done> done) {
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
            workspace_.library_changed();
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
    dialog->setLabelText(QString::fromStdString(error.message) + tr("\n\nRows per second (Hz):"));
    dialog->setDoubleRange(0.001, 1e6);
    dialog->setDoubleDecimals(3);
    dialog->setDoubleValue(20);
    connect(dialog, &QInputDialog::doubleValueSelected, this,
            [this, file](double rate) { import_files({file}, rate); });
    dialog->open();
}

void LogbookDesk::write_demo() {
    struct Nothing {};
    workspace_.jobs().run<Nothing>(
        tr("Writing the demo test day"),
        [folder = workspace_.library().folder()](const JobContext& job) -> Result<Nothing> {
            if (auto written = demo::write_demo(folder, job); !written) return pass_on(written.error());
            return Nothing{};
        },
        [this](Result<Nothing> done) {
            if (!done) workspace_.tell(done.error());
            workspace_.library_changed();
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
         start = dialog.start()](const JobContext& job) -> Result<LearnResult> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return learn_track_from_run(**library, run, name, start, job);
        },
        [this, run = selected.front()](Result<LearnResult> done) {
            if (!done) {
                workspace_.tell(done.error());
                return;
            }
            select_after_refresh_ = run;
            workspace_.tell(
                tr("The track is learnt; laps of %n runs are cut.", nullptr, static_cast<int>(done->runs_cut.size())));
            workspace_.library_changed();
        });
}

}  // namespace rendak::app
