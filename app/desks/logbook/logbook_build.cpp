// How the Logbook is laid out.
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

QWidget* LogbookDesk::build_list(QWidget* parent) {
    auto* side = new QWidget(parent);
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

    tree_ = new QTreeView(side);
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

QWidget* LogbookDesk::build_laps(QWidget* parent) {
    auto* side = new QWidget(parent);
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
    tabs_ = new QTabWidget(side);
    tabs_->setDocumentMode(true);
    column->addWidget(tabs_, 1);

    auto* lap_side = new QWidget;
    tabs_->addTab(lap_side, tr("Laps"));
    QWidget* in_tabs = lap_side->parentWidget();
    auto* lap_column = new QVBoxLayout(lap_side);
    lap_column->setContentsMargins(0, 4, 0, 0);
    laps_ = new QTableView(lap_side);
    laps_->setObjectName(QStringLiteral("laps"));
    laps_->setModel(lap_model_);
    laps_->setColumnHidden(LapTable::why, true);  // told with the note
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
    lap_tools_ = new LapTools(workspace_, lap_side);
    connect(lap_tools_, &LapTools::launch_asked, this, &LogbookDesk::ask_launch);
    lap_column->addWidget(lap_tools_);
    lap_column->addWidget(laps_, 1);
    run_notes_ = new PlainLabel;
    run_notes_->setProperty("role", QStringLiteral("mute"));
    run_notes_->setWordWrap(true);
    lap_column->addWidget(run_notes_);
    facts_ = new RunFactsPanel(workspace_, in_tabs);
    setup_ = new SetupPanel(workspace_, in_tabs);
    tidy_ = new TidyPanel(workspace_, in_tabs);
    tabs_->addTab(facts_, tr("Facts"));
    tabs_->addTab(setup_, tr("Setup"));
    tabs_->addTab(tidy_, tr("Tidy"));
    connect(tidy_, &TidyPanel::looked, this, [this](RunId, int open) {
        tabs_->setTabText(tidy_tab, open == 0 ? tr("Tidy") : tr("Tidy (%1)").arg(open));
    });
    return side;
}

QWidget* LogbookDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    auto* text = new PlainLabel(tr("This library is empty."));
    text->setFont(headline_font());
    text->setAlignment(Qt::AlignCenter);
    auto* hint =
        new PlainLabel(tr("Import logged files (MDF 4, CSV tables, GPX or HDF5), download from a logger in Collect, or "
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

}  // namespace rendak::app
