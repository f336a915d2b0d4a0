#include "app/desks/corners/corners_desk.h"

#include <QAction>
#include <QApplication>
#include <QButtonGroup>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSortFilterProxyModel>
#include <QStackedLayout>
#include <QStackedWidget>
#include <QTableView>
#include <QVBoxLayout>

#include "app/text/elided_label.h"
#include "app/text/figure_text.h"
#include "app/text/plain_text.h"
#include "app/text/reading_table.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"
#include "core/base/file_io.h"

namespace rendak::app {

CornersDesk::CornersDesk(Workspace& workspace, QWidget* parent) : Desk(workspace, parent), figuring_(workspace.jobs()) {
    model_ = new FigureModel(this);
    sorted_ = new QSortFilterProxyModel(this);
    sorted_->setSourceModel(model_);
    sorted_->setSortRole(FigureModel::sort_role);
    stack_ = new QStackedLayout(this);
    stack_->addWidget(build_full());
    stack_->addWidget(build_empty());
    connect(&workspace_.comparison(), &Comparison::changed, this, &CornersDesk::refresh);
    apply_choice();
    refresh();
}

QWidget* CornersDesk::build_full() {
    auto* full = new QWidget(this);
    auto* column = new QVBoxLayout(full);
    column->setContentsMargins(12, 8, 12, 8);
    column->setSpacing(4);
    headline_ = new ElidedLabel;
    headline_->setObjectName(QStringLiteral("ideal"));
    headline_->setFont(headline_font());
    headline_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    verdict_ = new PlainLabel;
    verdict_->setObjectName(QStringLiteral("verdict"));
    verdict_->setWordWrap(true);
    mixed_ = new QCheckBox(tr("all drivers and cars count"));
    mixed_->setObjectName(QStringLiteral("mixed"));
    mixed_->setToolTip(tr("Bests, means and limits over all laps; else over those of A's driver and car"));
    mixed_->hide();
    connect(mixed_, &QCheckBox::toggled, this, &CornersDesk::refresh);
    column->addWidget(headline_);
    // Beside what it changes: the row of tools is as wide as a small window already.
    auto* counted = new QHBoxLayout;
    counted->addWidget(verdict_, 1);
    counted->addWidget(mixed_, 0, Qt::AlignTop);
    column->addLayout(counted);

    auto* tools = new QHBoxLayout;
    tools->setSpacing(4);
    const auto choice = [&](QButtonGroup* group, QBoxLayout* row, const QString& label, int id, const QString& hint) {
        auto* button = new QPushButton(label);
        button->setCheckable(true);
        button->setToolTip(hint);
        group->addButton(button, id);
        row->addWidget(button);
        connect(button, &QPushButton::clicked, this, &CornersDesk::apply_choice);
        return button;
    };
    using Shows = FigureModel::Shows;
    using Figure = FigureModel::Figure;
    tables_ = new QButtonGroup(this);
    choice(tables_, tools, tr("Sections"), int(Shows::sections), tr("Corners and the straights between"))
        ->setChecked(true);
    choice(tables_, tools, tr("Sectors"), int(Shows::sectors), tr("Between the sector lines of the track"));
    choice(tables_, tools, tr("Peaks"), int(Shows::peaks),
           tr("Figures of every lap in every corner: lateral g, speeds, places"));
    choice(tables_, tools, tr("Channel"), int(Shows::channel), tr("Any channel or formula, section by section"));
    choice(tables_, tools, tr("Activity"), int(Shows::activity),
           tr("What the driver does in each section: seconds and metres on brake, throttle and neither"));
    tools->addSpacing(16);
    const auto choices = [&](QButtonGroup*& group) {
        auto* holder = new QWidget(choices_);
        auto* row = new QHBoxLayout(holder);
        row->setContentsMargins(0, 0, 0, 0);
        row->setSpacing(4);
        row->setAlignment(Qt::AlignLeft);
        group = new QButtonGroup(this);
        choices_->addWidget(holder);
        return holder;
    };
    choices_ = new QStackedWidget(full);
    choices_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    tools->addWidget(choices_);
    time_choices_ = choices(figures_of_time_);
    auto* row = static_cast<QBoxLayout*>(time_choices_->layout());
    choice(figures_of_time_, row, tr("Times"), int(Figure::time), tr("Seconds in each section"))->setChecked(true);
    choice(figures_of_time_, row, tr("To the best lap"), int(Figure::to_best),
           tr("Difference to the best lap, section by section"));
    peak_choices_ = choices(figures_of_peak_);
    row = static_cast<QBoxLayout*>(peak_choices_->layout());
    corner_figure_ = new QComboBox;
    corner_figure_->setObjectName(QStringLiteral("corner-figure"));
    corner_figure_->setAccessibleName(tr("Figure"));
    for (const CornerFigure& figure : all_corner_figures()) {
        const QString help = QCoreApplication::translate("CornerFigure", figure.help);
        corner_figure_->addItem(QString());
        corner_figure_->setItemData(corner_figure_->count() - 1, help, Qt::ToolTipRole);
    }
    name_corner_figures();
    connect(corner_figure_, &QComboBox::currentIndexChanged, this, &CornersDesk::apply_choice);
    row->addWidget(corner_figure_);
    banked_ = new QCheckBox(tr("banked corners count"));
    banked_->setToolTip(tr("Banking gives a false high: such corners do not set the limit unless asked"));
    connect(banked_, &QCheckBox::toggled, this, &CornersDesk::apply_choice);
    row->addWidget(banked_);
    channel_choices_ = choices(figures_of_channel_);
    row = static_cast<QBoxLayout*>(channel_choices_->layout());
    channel_ = new QComboBox;
    channel_->setObjectName(QStringLiteral("channel"));
    channel_->setAccessibleName(tr("Channel"));
    channel_->setMaxVisibleItems(24);
    channel_->setMinimumWidth(190);
    connect(channel_, &QComboBox::activated, this,
            [this] { show_channel(channel_->currentData().toString().toStdString()); });
    row->addWidget(channel_);
    choice(figures_of_channel_, row, tr("Low"), int(Figure::low), tr("Lowest value in each section"));
    choice(figures_of_channel_, row, tr("Mean"), int(Figure::mean), tr("Mean over the time in each section"))
        ->setChecked(true);
    choice(figures_of_channel_, row, tr("High"), int(Figure::high), tr("Highest value in each section"));
    QButtonGroup* none = nullptr;
    activity_choices_ = choices(none);
    activity_ = new QComboBox;
    activity_->setObjectName(QStringLiteral("activity"));
    activity_->setAccessibleName(tr("What the driver does"));
    for (const ActivityFigure& figure : all_activity_figures())
        activity_->addItem(QCoreApplication::translate("ActivityFigure", figure.label) + QStringLiteral(", ") +
                           QString::fromUtf8(figure.unit));
    connect(activity_, &QComboBox::currentIndexChanged, this, &CornersDesk::apply_choice);
    activity_choices_->layout()->addWidget(activity_);
    tools->addStretch();
    auto* copying = new QPushButton(tr("Copy"));
    copying->setToolTip(tr("The table as text, for a spreadsheet (Ctrl+C)"));
    connect(copying, &QPushButton::clicked, this, &CornersDesk::copy);
    auto* saving = new QPushButton(tr("Save as CSV …"));
    connect(saving, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getSaveFileName(this, tr("Save the table"), QStringLiteral("sections.csv"),
                                                          tr("Tables (*.csv)"));
        if (file.isEmpty()) return;
        if (const auto saved = save_csv(file); !saved)
            workspace_.tell(saved.error());
        else
            workspace_.tell(tr("Saved %1.").arg(file));
    });
    tools->addWidget(copying);
    tools->addWidget(saving);
    column->addLayout(tools);

    table_ = new QTableView;
    table_->setModel(sorted_);
    table_->setAccessibleName(tr("Laps by sections"));
    make_reading_table(*table_, 18);
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    table_->setSortingEnabled(true);
    table_->sortByColumn(0, Qt::AscendingOrder);
    connect(table_, &QTableView::clicked, this, &CornersDesk::open_in_compare);
    connect(table_, &QTableView::activated, this, &CornersDesk::open_in_compare);
    table_->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(table_, &QTableView::customContextMenuRequested, this, [this](QPoint at) {
        show_lap_menu(sorted_->mapToSource(table_->indexAt(at)).column(), table_->viewport()->mapToGlobal(at));
    });
    table_->horizontalHeader()->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(table_->horizontalHeader(), &QWidget::customContextMenuRequested, this, [this](QPoint at) {
        show_lap_menu(table_->horizontalHeader()->logicalIndexAt(at), table_->horizontalHeader()->mapToGlobal(at));
    });
    auto* copies = new QAction(tr("Copy the table"), table_);
    copies->setShortcut(QKeySequence::Copy);
    copies->setShortcutContext(Qt::WidgetShortcut);
    connect(copies, &QAction::triggered, this, &CornersDesk::copy);
    table_->addAction(copies);
    column->addWidget(table_, 1);
    hint_ =
        new PlainLabel(tr("Click a figure: that lap and section on Compare. Click a heading: sort by it. Right-click: "
                          "count the lap or leave it out, write a note, show it in the Logbook."));
    hint_->setProperty("secondary", true);
    column->addWidget(hint_);
    return full;
}

QWidget* CornersDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    empty_text_ =
        new PlainLabel(tr("No lap is picked. Pick a lap of each run that you want to see section by section."));
    empty_text_->setObjectName(QStringLiteral("empty"));
    auto* go = new QPushButton(tr("Pick laps in the Logbook"));
    go->setProperty("primary", true);
    connect(go, &QPushButton::clicked, this, [this] { Q_EMIT workspace_.desk_asked(QStringLiteral("logbook")); });
    column->addWidget(empty_text_, 0, Qt::AlignCenter);
    column->addWidget(go, 0, Qt::AlignCenter);
    return empty;
}

void CornersDesk::take_focus() {
    table_->setFocus();
}

QString CornersDesk::headline() const {
    return static_cast<ElidedLabel*>(headline_)->text();
}

QString CornersDesk::verdict() const {
    return verdict_->text();
}

void CornersDesk::show_table(FigureModel::Shows shows) {
    tables_->button(int(shows))->setChecked(true);
    apply_choice();
}

void CornersDesk::apply_choice() {
    const auto shows = FigureModel::Shows(tables_->checkedId());
    const bool peaks = shows == FigureModel::Shows::peaks;
    const bool of_channel = shows == FigureModel::Shows::channel;
    const bool activity = shows == FigureModel::Shows::activity;
    choices_->setCurrentWidget(peaks        ? peak_choices_
                               : activity   ? activity_choices_
                               : of_channel ? channel_choices_
                                            : time_choices_);
    // Figures of a channel are worked out when somebody looks at them.
    if (of_channel && channel_asked_.empty()) return show_channel("speed");
    if (activity)
        model_->show_activity(static_cast<std::size_t>(std::max(0, activity_->currentIndex())));
    else if (peaks)
        model_->show_corners(static_cast<std::size_t>(corner_figure_->currentIndex()), banked_->isChecked());
    else
        model_->show(shows, FigureModel::Figure((of_channel ? figures_of_channel_ : figures_of_time_)->checkedId()));
    for (int column = 0; column < model_->columnCount(); ++column)
        table_->setColumnWidth(column, column == 0 ? 128 : column < model_->first_lap_column() ? 68 : 64);
    sorted_->sort(0, Qt::AscendingOrder);
    table_->horizontalHeader()->setSortIndicator(0, Qt::AscendingOrder);
}

void CornersDesk::show_channel(const std::string& quantity) {
    channel_asked_ = quantity;
    tables_->button(int(FigureModel::Shows::channel))->setChecked(true);
    apply_choice();
    refresh();
}

void CornersDesk::fill_channels() {
    channel_->clear();
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (!laps.on_track()) return;
    const std::vector run{laps.baseline().run};
    bool formulas = false;
    for (const ShownChannel& it : shown_channels(run)) {
        if (!it.set.empty() && !std::exchange(formulas, true)) channel_->insertSeparator(channel_->count());
        channel_->addItem(shown(it.id).label, QString::fromStdString(it.id));
    }
    channel_->setCurrentIndex(channel_->findData(QString::fromStdString(channel_asked_)));
}

void CornersDesk::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) refresh();
}

void CornersDesk::name_corner_figures() {
    const auto& figures = all_corner_figures();
    for (int i = 0; i < corner_figure_->count(); ++i) {
        const CornerFigure& figure = figures[static_cast<std::size_t>(i)];
        const QString unit = *figure.quantity == '\0' ? figure_unit(figure) : QString();
        corner_figure_->setItemText(i,
                                    figure_label(figure) + (unit.isEmpty() ? QString() : QStringLiteral(", ") + unit));
    }
}

void CornersDesk::refresh() {
    stale_ = !isVisible();
    if (stale_) return;
    name_corner_figures();
    const ComparedLaps& laps = workspace_.comparison().laps();
    stack_->setCurrentIndex(laps.on_track() ? 0 : 1);
    empty_text_->setText(
        laps.empty() ? tr("No lap is picked. Pick a lap of each run that you want to see section by section.")
                     : tr("What is picked has no places (%1), so there are no corners. Pick laps from line to line of "
                          "a known track.")
                           .arg(lap_name(laps.baseline(), laps)));
    const auto runs = laps.on_track() ? runs_of(laps) : std::vector<std::shared_ptr<const RunData>>{};
    if (runs.empty()) figuring_.drop();
    if (runs.empty()) return show_figures(std::make_shared<CornerFigures>());
    figuring_.run<std::shared_ptr<const CornerFigures>>(
        tr("Section times"),
        [runs, channel = channel_asked_,
         mixed = mixed_->isChecked()](const JobContext&) -> Result<std::shared_ptr<const CornerFigures>> {
            return std::make_shared<const CornerFigures>(corner_figures(runs, channel, mixed));
        },
        [this](Result<std::shared_ptr<const CornerFigures>> figures) {
            if (figures) return show_figures(*figures);
            workspace_.tell(figures.error());
        });
}

void CornersDesk::show_figures(std::shared_ptr<const CornerFigures> figures) {
    model_->set_figures(figures);
    fill_channels();
    apply_choice();
    mixed_->setVisible(figures->has_others);
    if (figures->laps.empty()) return;
    const SectionTable& table = figures->sections;
    if (!table.best_lap || !table.ideal_s) {
        headline_->setText(tr("No lap of these runs counts: right-click a lap to count it."));
        verdict_->setText(figures->not_counted);
        return;
    }
    const auto name = [&](LapRef ref) {
        for (std::size_t k = 0; k < figures->laps.size(); ++k) {
            if (figures->laps[k] == ref) return tr("lap %1").arg(figures->lap_names[k]);
        }
        return QString();
    };
    const auto& best = table.rows[*table.best_lap];
    QString text = tr("Ideal lap %1: %2 s under the best (%3, %4).")
                       .arg(lap_time(*table.ideal_s))
                       .arg(best.lap_s - *table.ideal_s, 0, 'f', 3)
                       .arg(lap_time(best.lap_s), name(best.ref));
    if (figures->loop && figures->loop->start_m > 0)
        text += tr(" Really driven: %1 from %2 of %3 round to there.")
                    .arg(lap_time(figures->loop->time_s), QString::fromStdString(figures->loop->section),
                         name(figures->loop->first));
    headline_->setText(text);
    QStringList verdicts;
    if (!figures->not_counted.isEmpty()) verdicts << figures->not_counted;
    for (const auto& [run, found] : figures->runs)
        verdicts << run + QStringLiteral(": ") + QString::fromStdString(found.verdict);
    verdict_->setText(verdicts.join(QStringLiteral("  ")));
}

void CornersDesk::open_in_compare(const QModelIndex& shown_index) {
    const QModelIndex index = sorted_->mapToSource(shown_index);
    if (!index.isValid()) return;
    Focus& focus = workspace_.focus();
    if (const auto lap = model_->lap_of(index.column())) {
        const int slot = focus.slot_of(*lap);
        if (slot >= 0)
            focus.set_active_slot(slot);
        else if (focus.state().laps.size() < 2)
            focus.add_lap(*lap);
        else
            focus.replace_slot(std::max(1, workspace_.comparison().active_slot()), *lap);
    }
    const Interval range = model_->range_of(index.row());
    focus.set_range(range);
    focus.set_cursor(range.empty() ? 0 : range.begin);
    Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
}

void CornersDesk::show_lap_menu(int column, QPoint at) {
    const auto lap = column < 0 ? std::nullopt : model_->lap_of(column);
    if (!lap) return;
    QMenu menu;
    add_lap_actions(menu, workspace_, *lap, this);
    menu.exec(at);
}

void CornersDesk::copy() const {
    QApplication::clipboard()->setText(model_->as_text(u'\t'));
    workspace_.tell(tr("The table is on the clipboard."));
}

Result<void> CornersDesk::save_csv(const QString& file) const {
    return write_file(file.toStdString(), model_->as_text(u',').toStdString());
}

void CornersDesk::show_pictures(PictureBook& book) {
    show_table(FigureModel::Shows::sections);
    book.take(QStringLiteral("corners"));
    show_table(FigureModel::Shows::peaks);
    book.take(QStringLiteral("corners-peaks"));
    show_table(FigureModel::Shows::sections);
}

}  // namespace rendak::app
