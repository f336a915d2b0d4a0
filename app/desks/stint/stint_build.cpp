// How the Stint desk is put together.

#include <QActionGroup>
#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <QStackedLayout>
#include <QStackedWidget>
#include <QTableView>
#include <QVBoxLayout>

#include "app/desks/stint/balance_table.h"
#include "app/desks/stint/day_page.h"
#include "app/desks/stint/over_laps_picture.h"
#include "app/desks/stint/rules_dialog.h"
#include "app/desks/stint/stint_desk.h"
#include "app/desks/stint/wheels_picture.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/reading_table.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"

namespace rendak::app {
namespace {

PlainLabel* secondary(QWidget* parent = nullptr) {
    auto* out = new PlainLabel({}, parent);
    out->setProperty("secondary", true);
    out->setWordWrap(true);
    return out;
}

QVBoxLayout* column_of(QWidget* holder) {
    auto* out = new QVBoxLayout(holder);
    out->setContentsMargins(0, 0, 0, 0);
    out->setSpacing(4);
    return out;
}

}  // namespace

QWidget* StintDesk::build_full() {
    auto* full = new QWidget(this);
    auto* column = new QVBoxLayout(full);
    column->setContentsMargins(12, 8, 12, 6);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    headline_ = new ElidedLabel;
    headline_->setObjectName(QStringLiteral("stint-headline"));
    headline_->setFont(headline_font());
    headline_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(headline_, 1);
    page_choice_ = new QButtonGroup(this);
    for (const auto& [label, id, hint] :
         {std::tuple{tr("Stint"), 0, tr("The runs on the tray over their laps")},
          {tr("Day"), 1, tr("All runs of the event in order: what improved, what is next")}}) {
        auto* button = new QPushButton(label);
        button->setCheckable(true);
        button->setChecked(id == 0);
        button->setToolTip(hint);
        page_choice_->addButton(button, id);
        head->addWidget(button);
    }
    connect(page_choice_, &QButtonGroup::idClicked, this, [this](int id) { show_day(id == 1); });
    column->addLayout(head);
    foot_ = new ElidedLabel;
    foot_->setObjectName(QStringLiteral("stint-foot"));
    foot_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    column->addWidget(foot_);
    pages_ = new QStackedWidget(full);
    across_ = new QSplitter(Qt::Horizontal, pages_);
    across_->setChildrenCollapsible(false);
    across_->addWidget(build_left(across_));
    across_->addWidget(build_right(across_));
    across_->setStretchFactor(0, 1);
    across_->setStretchFactor(1, 1);
    across_->setSizes({600, 600});
    pages_->addWidget(across_);
    day_ = new DayPage(workspace_, pages_);
    pages_->addWidget(day_);
    column->addWidget(pages_, 1);
    for (QSplitter* it : {across_, down_left_, down_right_})
        connect(it, &QSplitter::splitterMoved, this, &Desk::state_changed);
    return full;
}

QWidget* StintDesk::build_left(QWidget* parent) {
    down_left_ = new QSplitter(Qt::Vertical, parent);
    down_left_->setChildrenCollapsible(false);
    picture_ = new OverLapsPicture(down_left_);
    connect(picture_, &OverLapsPicture::lap_clicked, this, [this](LapRef lap) { open_lap(lap, std::nullopt); });
    down_left_->addWidget(picture_);

    auto* tyres = new QWidget(down_left_);
    auto* column = column_of(tyres);
    kind_row_ = new QWidget(tyres);
    auto* row = new QHBoxLayout(kind_row_);
    row->setContentsMargins(0, 4, 0, 0);
    row->setSpacing(3);
    kinds_ = new QButtonGroup(this);
    for (std::size_t kind = 0; kind < wheel_kinds().size(); ++kind) {
        auto* button = new QPushButton(tr(wheel_kinds()[kind].title));
        button->setCheckable(true);
        // Seven of them beside each other, in a small window too.
        button->setProperty("compact", true);
        kinds_->addButton(button, static_cast<int>(kind));
        row->addWidget(button);
    }
    row->addStretch(0);
    modes_ = new QComboBox;
    modes_->setObjectName(QStringLiteral("wheel-mode"));
    modes_->setAccessibleName(tr("Over what"));
    for (const auto& [label, hint] :
         {std::pair{tr("over the laps"), tr("Mean of each lap, over the stint")},
          {tr("round the lap"), tr("Mean of the laps that count, place by place: spikes of one run against the other")},
          {tr("at the cursor"), tr("All readings where the cursor stands on the picked laps")}}) {
        modes_->addItem(label);
        modes_->setItemData(modes_->count() - 1, hint, Qt::ToolTipRole);
    }
    modes_->setMinimumWidth(70);
    modes_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    modes_->setMaximumWidth(130);
    row->addWidget(modes_, 1);
    connect(kinds_, &QButtonGroup::idClicked, this, [this](int kind) {
        wheels_->show_kind(static_cast<std::size_t>(kind));
        if (data_ != nullptr) spike_->setText(wheel_words());
        Q_EMIT state_changed();
    });
    connect(modes_, &QComboBox::activated, this, [this](int mode) {
        wheels_->set_mode(static_cast<WheelsPicture::Mode>(mode));
        Q_EMIT state_changed();
    });
    column->addWidget(kind_row_);
    wheels_ = new WheelsPicture;
    connect(wheels_, &WheelsPicture::lap_clicked, this, [this](LapRef lap) { open_lap(lap, std::nullopt); });
    connect(wheels_, &WheelsPicture::place_clicked, this, [this](double at_m, const QString& channel) {
        workspace_.focus().set_cursor(at_m);
        Q_EMIT workspace_.lane_asked(channel);
        Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
    });
    column->addWidget(wheels_, 1);
    spike_ = secondary();
    spike_->setObjectName(QStringLiteral("spike"));
    column->addWidget(spike_);
    down_left_->addWidget(tyres);

    auto* under = new QWidget(down_left_);
    auto* below = column_of(under);
    balance_ = new BalanceTable(under);
    connect(balance_, &QTableWidget::cellClicked, this, &StintDesk::show_balance);
    below->addWidget(balance_, 1);
    ducts_ = secondary();
    ducts_->setObjectName(QStringLiteral("ducts"));
    below->addWidget(ducts_);
    scatter_ = secondary();
    scatter_->setObjectName(QStringLiteral("scatter"));
    below->addWidget(scatter_);
    down_left_->addWidget(under);
    down_left_->setSizes({200, 250, 190});
    return down_left_;
}

QWidget* StintDesk::build_figure_tools(QWidget* parent) {
    auto* holder = new QWidget(parent);
    auto* tools = new QHBoxLayout(holder);
    tools->setContentsMargins(0, 0, 0, 0);
    tools->setSpacing(4);
    sets_ = new QComboBox;
    sets_->setObjectName(QStringLiteral("figure-set"));
    sets_->setAccessibleName(tr("Set of columns"));
    connect(sets_, &QComboBox::activated, this, [this] { show_set(sets_->currentData().toString()); });
    tools->addWidget(sets_);
    auto* columns = new QPushButton(tr("Columns …"));
    columns->setToolTip(
        tr("Any channel or formula × low, mean, high, end, share above or below a limit, at a place, in a corner"));
    connect(columns, &QPushButton::clicked, this, &StintDesk::edit_columns);
    tools->addWidget(columns);
    whole_day_ = new QCheckBox(tr("whole day"));
    whole_day_->setToolTip(tr("All runs of the event, not only those on the tray"));
    connect(whole_day_, &QCheckBox::toggled, this, [this] {
        work_figures();
        Q_EMIT state_changed();
    });
    tools->addWidget(whole_day_);
    auto* words = new QLineEdit;
    words->setObjectName(QStringLiteral("figure-words"));
    words->setPlaceholderText(tr("run, driver, session"));
    words->setToolTip(tr("Only laps whose run, driver or session hold these words"));
    words->setClearButtonEnabled(true);
    words->setMinimumWidth(50);
    words->setMaximumWidth(190);
    connect(words, &QLineEdit::textChanged, sorted_, &LapFigureSort::set_words);
    tools->addWidget(words, 1);
    auto* more = new QPushButton(tr("More"));
    auto* menu = new QMenu(more);
    only_counted_ = menu->addAction(tr("Only laps that count"));
    only_counted_->setCheckable(true);
    connect(only_counted_, &QAction::toggled, sorted_, &LapFigureSort::set_only_counted);
    menu->addSeparator();
    groups_ = new QActionGroup(this);
    int group = 0;
    for (const QString& label : {tr("Means by run"), tr("Means by driver"), tr("Means by session")}) {
        QAction* it = menu->addAction(label);
        it->setCheckable(true);
        it->setChecked(group == 0);
        it->setData(group++);
        groups_->addAction(it);
    }
    connect(groups_, &QActionGroup::triggered, this, [this](const QAction* it) {
        figures_->set_group(static_cast<LapFigureModel::Group>(it->data().toInt()));
        Q_EMIT state_changed();
    });
    menu->addSeparator();
    menu->addAction(tr("Copy the table"), this, &StintDesk::copy);
    menu->addAction(tr("Save the table as CSV …"), this, [this] {
        const QString file =
            QFileDialog::getSaveFileName(this, tr("Save the table"), QStringLiteral("laps.csv"), tr("Tables (*.csv)"));
        if (file.isEmpty()) return;
        if (const auto saved = save_csv(file); !saved)
            workspace_.tell(saved.error());
        else
            workspace_.tell(tr("Saved %1.").arg(file));
    });
    more->setMenu(menu);
    tools->addWidget(more);
    return holder;
}

QWidget* StintDesk::build_right(QWidget* parent) {
    down_right_ = new QSplitter(Qt::Vertical, parent);
    down_right_->setChildrenCollapsible(false);
    auto* upper = new QWidget(down_right_);
    auto* column = column_of(upper);
    column->addWidget(build_figure_tools(upper));
    table_ = new QTableView(upper);
    header_ = new FigureHeader(*figures_, table_);
    table_->setHorizontalHeader(header_);
    table_->setModel(sorted_);
    table_->setObjectName(QStringLiteral("lap-figures"));
    table_->setAccessibleName(tr("Figures of every lap"));
    make_reading_table(*table_, 18);
    table_->setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
    table_->setSortingEnabled(true);
    table_->sortByColumn(0, Qt::AscendingOrder);
    connect(header_, &QHeaderView::sectionClicked, this, [this](int section) { show_column(section - 1); });
    const auto open = [this](const QModelIndex& shown) {
        const QModelIndex index = sorted_->mapToSource(shown);
        const rendak::LapTable::Row* lap = figures_->lap_at(index.row());
        if (lap == nullptr) return;
        const auto figure = LapFigureModel::figure_of(index.column());
        const double at = figure ? lap->figures[*figure].at_s : std::nan("");
        open_lap(lap->ref, std::isfinite(at) ? std::optional(at) : std::nullopt);
    };
    connect(table_, &QTableView::doubleClicked, this, open);
    connect(table_, &QTableView::activated, this, open);
    table_->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(table_, &QTableView::customContextMenuRequested, this, [this](QPoint at) {
        const rendak::LapTable::Row* lap = figures_->lap_at(sorted_->mapToSource(table_->indexAt(at)).row());
        if (lap == nullptr) return;
        QMenu menu;
        add_lap_actions(menu, workspace_, lap->ref, this);
        menu.exec(table_->viewport()->mapToGlobal(at));
    });
    table_->setMinimumHeight(80);
    column->addWidget(table_, 1);
    auto* under = new QHBoxLayout;
    table_hint_ = secondary();
    table_hint_->setObjectName(QStringLiteral("table-hint"));
    under->addWidget(table_hint_, 1);
    pace_ = new QPushButton(tr("Pace"));
    pace_->setToolTip(tr("The picture shows the pace again"));
    pace_->hide();
    connect(pace_, &QPushButton::clicked, this, [this] { show_column(-1); });
    under->addWidget(pace_);
    column->addLayout(under);
    down_right_->addWidget(upper);

    auto* lower = new QWidget(down_right_);
    auto* below = column_of(lower);
    auto* row = new QHBoxLayout;
    watch_title_ = new PlainLabel(tr("Watch rules on these recordings, power on to power off"));
    watch_title_->setFont(body_font(true));
    row->addWidget(watch_title_, 1);
    looked_at_ = new QPushButton(tr("Looked at"));
    looked_at_->setObjectName(QStringLiteral("looked-at"));
    looked_at_->setEnabled(false);
    connect(looked_at_, &QPushButton::clicked, this, [this] {
        const WatchShown* it = watch_->chosen();
        if (it == nullptr) return;
        const bool seen = it->kept.seen_unix_s == 0;
        const RunId run = it->kept.told.events.empty() ? RunId{} : it->run->row.id;
        if (!run) return;
        if (auto done = set_watch_seen(workspace_.library(), run, it->kept.rule.name, seen); !done)
            return workspace_.tell(done.error());
        Q_EMIT workspace_.session()->watch().changed();
    });
    row->addWidget(looked_at_);
    auto* rules = new QPushButton(tr("Rules …"));
    connect(rules, &QPushButton::clicked, this, [this] {
        auto* dialog = new RulesDialog(workspace_, this);
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->open();
    });
    row->addWidget(rules);
    below->addLayout(row);
    watch_ = new WatchList(lower);
    connect(watch_, &WatchList::moment_asked, this, &StintDesk::open_moment);
    connect(watch_, &QTreeWidget::currentItemChanged, this, [this] {
        const WatchShown* it = watch_->chosen();
        looked_at_->setEnabled(it != nullptr && !workspace_.library().is_look_only());
        looked_at_->setText(it != nullptr && it->kept.seen_unix_s > 0 ? tr("Not looked at") : tr("Looked at"));
    });
    watch_->setMinimumHeight(40);
    below->addWidget(watch_, 1);
    down_right_->addWidget(lower);
    down_right_->setSizes({440, 210});
    return down_right_;
}

QWidget* StintDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    empty_text_ = new PlainLabel(tr("No lap is picked. Pick a lap of each run that you want to see over its laps."));
    empty_text_->setObjectName(QStringLiteral("empty"));
    auto* go = new QPushButton(tr("Pick laps in the Logbook"));
    go->setProperty("primary", true);
    connect(go, &QPushButton::clicked, this, [this] { Q_EMIT workspace_.desk_asked(QStringLiteral("logbook")); });
    column->addWidget(empty_text_, 0, Qt::AlignCenter);
    column->addWidget(go, 0, Qt::AlignCenter);
    return empty;
}

}  // namespace rendak::app
