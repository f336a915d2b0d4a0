// How the Track desk is laid out.
#include "app/desks/track/track_desk.h"

#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QGridLayout>
#include <QGroupBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QStackedLayout>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/intake/import.h"
#include "core/intake/place_run.h"
#include "core/intake/road_laps.h"
#include "core/laps/cut.h"
#include "core/track/edit.h"
#include "core/track/learn.h"

namespace rendak::app {

QWidget* TrackDesk::build_full() {
    auto* full = new QWidget(this);
    auto* row = new QHBoxLayout(full);
    row->setContentsMargins(12, 8, 8, 8);
    row->setSpacing(8);
    auto* left = new QVBoxLayout;
    left->setSpacing(4);
    auto* top = new QHBoxLayout;
    tracks_ = new QComboBox;
    tracks_->setAccessibleName(tr("Track"));
    tracks_->setMinimumWidth(200);
    connect(tracks_, &QComboBox::currentIndexChanged, this, [this](int index) {
        if (!filling_ && index >= 0) show_track({tracks_->itemData(index).toLongLong()});
    });
    top->addWidget(tracks_);
    auto* file_button = new QPushButton(tr("File"));
    auto* menu = new QMenu(file_button);
    connect(menu->addAction(tr("Rename …")), &QAction::triggered, this, &TrackDesk::rename);
    connect(menu->addAction(tr("Take in a track file …")), &QAction::triggered, this, [this] {
        const QString file =
            QFileDialog::getOpenFileName(this, tr("Take in a track"), {}, tr("Tracks (*.geojson *.json)"));
        if (!file.isEmpty()) import_file(file);
    });
    connect(menu->addAction(tr("Give this track away as a file …")), &QAction::triggered, this, [this] {
        if (track_ == nullptr) return;
        const QString file = QFileDialog::getSaveFileName(
            this, tr("Save the track"), QString::fromStdString(track_->name) + QStringLiteral(".geojson"),
            tr("Tracks (*.geojson)"));
        if (file.isEmpty()) return;
        if (const auto saved = export_file(file); !saved)
            workspace_.tell(saved.error());
        else
            workspace_.tell(tr("Saved %1.").arg(file));
    });
    connect(menu->addAction(tr("Remove this track")), &QAction::triggered, this, &TrackDesk::remove);
    file_button->setMenu(menu);
    top->addWidget(file_button);
    summary_ = new PlainLabel;
    summary_->setObjectName(QStringLiteral("track-summary"));
    top->addWidget(summary_, 1);
    left->addLayout(top);
    map_ = new TrackMap;
    strip_ = new TrackStrip;
    left->addWidget(map_, 1);
    left->addWidget(strip_);
    hint_ = new PlainLabel;
    hint_->setObjectName(QStringLiteral("track-hint"));
    hint_->setProperty("secondary", true);
    hint_->setMinimumHeight(28);
    hint_->setWordWrap(true);
    left->addWidget(hint_);
    row->addLayout(left, 1);
    row->addWidget(build_side(full));

    connect(map_, &TrackMap::place_chosen, this, &TrackDesk::set_place);
    connect(map_, &TrackMap::corner_chosen, this, &TrackDesk::select_corner);
    connect(strip_, &TrackStrip::place_chosen, this, &TrackDesk::set_place);
    connect(strip_, &TrackStrip::corner_chosen, this, &TrackDesk::select_corner);
    connect(strip_, &TrackStrip::range_chosen, this, &TrackDesk::set_range);
    connect(strip_, &TrackStrip::limits_dragged, this, [this](int corner, Interval range) {
        store(tr("limits of a corner"), set_corner_limits(*track_, static_cast<std::size_t>(corner), range));
    });
    connect(strip_, &TrackStrip::apex_dragged, this, [this](int corner, double at) {
        store(tr("apex of a corner"), set_corner_apex(*track_, static_cast<std::size_t>(corner), at));
    });
    connect(strip_, &TrackStrip::sector_dragged, this, [this](int line, double at) {
        auto lines = track_->sector_lines_m;
        lines[static_cast<std::size_t>(line)] = at;
        store(tr("move a sector line"), set_sector_lines(*track_, std::move(lines)));
    });
    return full;
}

QWidget* TrackDesk::build_side(QWidget* parent) {
    auto* side = new QWidget(parent);
    side->setFixedWidth(432);
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    corners_ = new QTableWidget(0, columns);
    corners_->setAccessibleName(tr("Corners"));
    corners_->setHorizontalHeaderLabels({tr("No."), tr("Name"), tr("Hand"), tr("Start"), tr("Apex"), tr("End"),
                                         tr("Rad. m"), tr("Angle"), tr("Bank °")});
    corners_->verticalHeader()->hide();
    corners_->verticalHeader()->setDefaultSectionSize(20);
    corners_->setSelectionBehavior(QAbstractItemView::SelectRows);
    corners_->setSelectionMode(QAbstractItemView::SingleSelection);
    corners_->setShowGrid(false);
    corners_->horizontalHeader()->setMinimumSectionSize(28);
    const int widths[columns] = {34, 74, 40, 44, 44, 44, 52, 44, 46};
    for (int c = 0; c < columns; ++c) corners_->setColumnWidth(c, widths[c]);
    connect(corners_, &QTableWidget::currentCellChanged, this, [this](int row) {
        if (!filling_) select_corner(row);
    });
    connect(corners_, &QTableWidget::cellChanged, this, [this](int row, int changed) {
        if (filling_ || changed != name || track_ == nullptr) return;
        store(tr("name of a corner"), rename_corner(*track_, static_cast<std::size_t>(row),
                                                    corners_->item(row, name)->text().trimmed().toStdString()));
    });
    column->addWidget(corners_, 1);

    const auto group = [&](const QString& title) {
        auto* box = new QGroupBox(title);
        auto* grid = new QGridLayout(box);
        grid->setContentsMargins(8, 4, 8, 6);
        grid->setSpacing(4);
        column->addWidget(box);
        return grid;
    };
    const auto button = [this](QGridLayout* grid, int at, const QString& text, const QString& hint, auto act) {
        auto* made = new QPushButton(text);
        made->setToolTip(hint);
        connect(made, &QPushButton::clicked, this, act);
        grid->addWidget(made, at / 3, at % 3);
        return made;
    };
    auto* grid = group(tr("Corners"));
    button(grid, 0, tr("Add"), tr("A corner over the stretch chosen on the strip, or 60 m about the place"),
           [this] { add_corner_here(); });
    corner_buttons_ = {
        button(grid, 1, tr("Delete"), tr("Removes the chosen corner; those behind it are numbered again"),
               [this] { delete_selected(); }),
        button(grid, 2, tr("Join with next"), tr("The chosen corner and the one behind it become one"),
               [this] { join_selected(); }),
        button(grid, 3, tr("Number …"), tr("The chosen corner's number; those behind count on"),
               [this] { ask_number(); })};
    button(grid, 4, tr("As found"), tr("The corners as the line shows them; names and edits go"),
           [this] { restore_found(); });
    grid = group(tr("Lines"));
    start_button_ = button(grid, 0, tr("Start line here"),
                           tr("Moves the start line to the chosen place and cuts all runs of this track again"),
                           [this] { start_here(); });
    button(grid, 1, tr("By coordinates …"), tr("Start line at a latitude, longitude and heading"),
           [this] { ask_start_by_place(); });
    turn_button_ = button(grid, 2, tr("Turn round"), tr("The track is driven the other way"), [this] { turn_round(); });
    button(grid, 3, tr("Sector line here"), tr("A sector ends at the chosen place"), [this] { add_sector_line(); });
    button(grid, 4, tr("Remove line"), tr("Removes the sector line nearest to the chosen place"),
           [this] { remove_sector_line(); });
    finish_button_ =
        button(grid, 5, tr("Finish here"), tr("The timed road ends at the chosen place"), [this] { finish_here(); });
    grid = group(tr("Learn from laps"));
    button(grid, 0, tr("Edges: slow laps …"), tr("From a slow lap along the left edge and one along the right edge"),
           [this] { ask_edge_laps(); });
    button(grid, 1, tr("Edges: spread"), tr("From where all laps went: the road is at least that wide"),
           [this] { learn_edges_from_spread(); });
    button(grid, 2, tr("Height, banking"), tr("From the heights and lateral accelerations of all laps"),
           [this] { learn_height_and_banking(); });
    button(grid, 3, tr("Pit lane"), tr("From the way that an out lap takes beside the track"),
           [this] { learn_pit_lane(); });
    return side;
}

QWidget* TrackDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    auto* text =
        new PlainLabel(tr("No track is known yet. Learn one from a run on the Logbook, or take in a track file."));
    text->setObjectName(QStringLiteral("empty"));
    auto* go = new QPushButton(tr("Take in a track file …"));
    go->setProperty("primary", true);
    connect(go, &QPushButton::clicked, this, [this] {
        const QString file =
            QFileDialog::getOpenFileName(this, tr("Take in a track"), {}, tr("Tracks (*.geojson *.json)"));
        if (!file.isEmpty()) import_file(file);
    });
    column->addWidget(text, 0, Qt::AlignCenter);
    column->addWidget(go, 0, Qt::AlignCenter);
    return empty;
}

}  // namespace rendak::app
