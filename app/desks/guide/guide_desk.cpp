#include "app/desks/guide/guide_desk.h"

#include <QButtonGroup>
#include <QEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPushButton>
#include <QStackedLayout>
#include <QStackedWidget>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/desks/guide/guide_booklet.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/reading_table.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

/// A gap of nothing has no sign.
QString near_zero(double value) {
    return std::abs(value) < 0.05 ? QStringLiteral("0.0") : QString::number(value, 'f', 1).replace(u'-', u'−');
}

enum Column { number, kind, in_corner, at_exit, unused, off_apex, after, matters, columns };

}  // namespace

GuideDesk::GuideDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent), working_(workspace.jobs()), printing_(workspace.jobs()), finding_(workspace.jobs()) {
    stack_ = new QStackedLayout(this);
    stack_->addWidget(build_full());
    stack_->addWidget(build_empty());
    add_key(tr("Next corner"), {QKeySequence(Qt::Key_PageDown)}, [this] { step_corner(1); });
    add_key(tr("Previous corner"), {QKeySequence(Qt::Key_PageUp)}, [this] { step_corner(-1); });
    connect(&workspace_.comparison(), &Comparison::changed, this, &GuideDesk::refresh);
    refresh();
}

QWidget* GuideDesk::build_full() {
    auto* full = new QWidget(this);
    auto* column = new QVBoxLayout(full);
    column->setContentsMargins(12, 8, 12, 6);
    column->setSpacing(4);
    headline_ = new ElidedLabel;
    headline_->setObjectName(QStringLiteral("guide-headline"));
    headline_->setFont(headline_font());
    headline_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    column->addWidget(headline_);
    auto* tools = new QHBoxLayout;
    tools->setSpacing(4);
    sub_ = new ElidedLabel;
    sub_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    tools->addWidget(sub_, 1);
    views_ = new QButtonGroup(this);
    for (const auto& [label, id] : {std::pair{tr("Plan"), 0}, {tr("Side"), 1}}) {
        auto* button = new QPushButton(label);
        button->setCheckable(true);
        button->setChecked(id == 1);
        views_->addButton(button, id);
        tools->addWidget(button);
    }
    tools->addSpacing(10);
    pages_ = new QButtonGroup(this);
    for (const auto& [label, id, hint] :
         {std::tuple{tr("Corner"), 0, tr("The corner: in plan, unrolled, and in words")},
          {tr("Limit"), 1, tr("What the car was seen to reach, by speed")}}) {
        auto* button = new QPushButton(label);
        button->setCheckable(true);
        button->setChecked(id == 0);
        button->setToolTip(hint);
        pages_->addButton(button, id);
        tools->addWidget(button);
    }
    tools->addSpacing(10);
    auto* show = new QPushButton(tr("Show in Compare"));
    connect(show, &QPushButton::clicked, this, &GuideDesk::open_in_compare);
    auto* print = new QPushButton(tr("Print the guide …"));
    print->setToolTip(tr("A page with the road, then a page a corner, as PDF"));
    connect(print, &QPushButton::clicked, this, [this] {
        const QString file =
            QFileDialog::getSaveFileName(this, tr("Print the guide"), QStringLiteral("guide.pdf"), tr("PDF (*.pdf)"));
        if (!file.isEmpty()) print_to(file);
    });
    tools->addWidget(show);
    tools->addWidget(print);
    column->addLayout(tools);

    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* left = new QVBoxLayout;
    left->setSpacing(6);
    road_ = new GuideRoad;
    connect(road_, &GuideRoad::corner_picked, this, &GuideDesk::show_corner);
    connect(views_, &QButtonGroup::idClicked, this, [this](int id) { road_->set_from_side(id == 1); });
    left->addWidget(road_, 5);
    table_ = new QTableWidget(0, columns);
    table_->setAccessibleName(tr("What matters, corner by corner"));
    make_reading_table(*table_, 20);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int at) {
        if (at >= 0) show_corner(static_cast<std::size_t>(at));
    });
    left->addWidget(table_, 6);
    row->addLayout(left, 6);
    right_ = new QStackedWidget(full);
    page_ = new GuidePage(right_);
    limit_ = new LimitPicture(right_);
    connect(limit_, &LimitPicture::corner_clicked, this, &GuideDesk::put_back);
    right_->addWidget(page_);
    right_->addWidget(limit_);
    connect(pages_, &QButtonGroup::idClicked, this, [this](int id) { show_limit(id == 1); });
    row->addWidget(right_, 5);
    column->addLayout(row, 1);
    foot_ = new ElidedLabel;
    foot_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    foot_->setProperty("secondary", true);
    column->addWidget(foot_);
    return full;
}

QWidget* GuideDesk::build_empty() {
    auto* empty = new QWidget(this);
    auto* column = new QVBoxLayout(empty);
    column->setAlignment(Qt::AlignCenter);
    empty_text_ = new PlainLabel;
    empty_text_->setObjectName(QStringLiteral("empty"));
    auto* go = new QPushButton(tr("Pick a lap in the Logbook"));
    go->setProperty("primary", true);
    connect(go, &QPushButton::clicked, this, [this] { Q_EMIT workspace_.desk_asked(QStringLiteral("logbook")); });
    column->addWidget(empty_text_, 0, Qt::AlignCenter);
    column->addWidget(go, 0, Qt::AlignCenter);
    return empty;
}

void GuideDesk::take_focus() {
    table_->setFocus();
}

QString GuideDesk::headline() const {
    return headline_->text();
}

QString GuideDesk::foot() const {
    return foot_->text();
}

void GuideDesk::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) refresh();
}

/// What stands in the table has its colours from when it was written.
void GuideDesk::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() != QEvent::PaletteChange || data_ == nullptr) return;
    fill_table();
    show_corner(corner_);
}

void GuideDesk::refresh() {
    stale_ = !isVisible();
    if (stale_) return;
    const auto laps = workspace_.comparison().shared_laps();
    stack_->setCurrentIndex(laps->on_track() ? 0 : 1);
    if (!laps->on_track()) {
        working_.drop();
        of_.reset();
        take_over(nullptr);
        empty_text_->setText(laps->empty() ? tr("No lap is picked. One lap is enough to go round the track with.")
                                           : tr("What is picked has no places, so there are no corners. Pick a lap "
                                                "from line to line of a known track."));
        return;
    }
    // What was put back was so for the laps of that run.
    if (data_ != nullptr && data_->lap.run != laps->baseline().lap.ref.run) put_back_.clear();
    // Every change of the laps comes by; the guide is A's, and only in other units is it written anew.
    const QString units = QString::fromStdString(guide_units().speed + guide_units().length);
    const ComparedLap& a = laps->baseline();
    if (data_ != nullptr && of_ != nullptr && data_->lap == a.lap.ref && of_->baseline().run == a.run &&
        data_->track == a.lap.track && data_->put_back == put_back_) {
        of_ = laps;
        if (units != std::exchange(units_, units)) take_over(data_);
        return;
    }
    units_ = units;
    of_ = laps;
    working_.run<std::shared_ptr<const GuideData>>(
        tr("Track guide"),
        [laps, back = put_back_](const JobContext&) -> Result<std::shared_ptr<const GuideData>> {
            return guide_data(*laps->baseline().run, laps->baseline().lap, back);
        },
        [this](Result<std::shared_ptr<const GuideData>> found) {
            if (found) return take_over(*found);
            of_.reset();
            workspace_.tell(found.error());
        });
}

void GuideDesk::take_over(std::shared_ptr<const GuideData> guide) {
    const std::size_t before = guide != nullptr && data_ != nullptr && guide->track == data_->track ? corner_ : 0;
    data_ = std::move(guide);
    road_->set_data(data_);
    page_->set_data(data_);
    limit_->set_data(data_);
    fill_table();
    corner_ = 0;
    if (data_ == nullptr) return finding_.drop();
    views_->button(1)->setEnabled(data_->guide.height_known);
    if (!data_->guide.height_known) views_->button(0)->setChecked(true);
    views_->button(1)->setToolTip(data_->guide.height_known
                                      ? QString()
                                      : tr("The road's heights are not known: the Track desk learns them from laps"));
    const auto known = [](bool is, const QString& yes, const QString& no) { return is ? yes : no; };
    QStringList foot{
        known(data_->guide.height_known, tr("Heights from laps."), tr("The road's heights are not known.")),
        known(data_->guide.lean_known, tr("Lean from laps; what may as well be nothing is faint."),
              tr("The road's lean is not known."))};
    if (data_->no_pace.isEmpty())
        foot << (data_->pace_s < data_->lap_s - 0.05
                     ? tr("The car has shown it can do %1 on this line.").arg(lap_time(data_->pace_s))
                     : tr("This lap uses what the car has shown."));
    else
        foot << data_->no_pace;
    foot << QString::fromStdString(line_words(data_->across, data_->first_line, *data_->track));
    foot_->setText(foot.join(u' '));
    if (data_->guide.corners.empty()) {
        headline_->setText(tr("This track has no corners."));
        sub_->setText({});
        return;
    }
    show_corner(std::min(before, data_->guide.corners.size() - 1));
    find_quickest();
}

/// The quickest line takes a while: the guide is there before it.
void GuideDesk::find_quickest() {
    finding_.drop();
    if (data_->limit == nullptr || data_->quickest != nullptr || data_->track->edges.source != Edges::Source::driven)
        return;
    finding_.run<std::shared_ptr<const QuickestLine>>(
        tr("Quickest line"),
        [of = data_](const JobContext& job) -> Result<std::shared_ptr<const QuickestLine>> {
            auto found = quickest_line(*of->prepared, *of->limit, job);
            if (!found) return pass_on(found.error());
            return std::make_shared<const QuickestLine>(std::move(*found));
        },
        [this, of = data_](Result<std::shared_ptr<const QuickestLine>> found) {
            // Where there is none the guide is as good without it.
            if (!found || of != data_) return;
            auto more = std::make_shared<GuideData>(*data_);
            more->quickest = *found;
            data_ = std::move(more);
            const std::size_t corner = corner_;
            page_->set_data(data_);
            page_->set_corner(corner);
        });
}

void GuideDesk::fill_table() {
    const QSignalBlocker quiet(table_);
    const GuideUnits units = guide_units();
    const QString speed = QString::fromStdString(units.speed), length = QString::fromStdString(units.length);
    table_->setHorizontalHeaderLabels({QString(), tr("Corner"), tr("Middle"), tr("Exit"), tr("Unused"), tr("Off apex"),
                                       tr("After it"), tr("Matters")});
    const auto tip = [&](Column column, const QString& text) {
        table_->horizontalHeaderItem(column)->setToolTip(text);
    };
    tip(in_corner, tr("Seconds that 1 %1 more is worth in the corner itself").arg(speed));
    tip(at_exit, tr("Seconds that 1 %1 more at the exit is worth until the car slows down again").arg(speed));
    tip(unused, tr("Seconds that this lap leaves of what the car has already shown"));
    tip(off_apex, tr("Road between the car and the inner edge where it is nearest (%1), mean of the run").arg(length));
    table_->setRowCount(data_ == nullptr ? 0 : static_cast<int>(data_->guide.corners.size()));
    for (int at = 0; at < table_->rowCount(); ++at) {
        const auto k = static_cast<std::size_t>(at);
        const GuideCorner& it = data_->guide.corners[k];
        const auto put = [&](Column column, const QString& text, bool right = false, bool bold = false) {
            auto* item = new QTableWidgetItem(text);
            item->setTextAlignment((right ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
            if (bold) item->setFont(small_font(true));
            if (column == matters) item->setForeground(theme().accent);
            table_->setItem(at, column, item);
        };
        const QString none = QStringLiteral("–");
        const double per = 3.6 / units.per_mps;
        const auto seconds = [&](const std::optional<double>& s) {
            return s ? QString::number(*s * per, 'f', 3) : none;
        };
        const bool exit_more = it.matters == GuideCorner::Matters::exit;
        const PaceRow* row = data_->pace_of(it.corner.number);
        put(number, QString::fromStdString(it.corner.label()), true, true);
        put(kind, QString::fromStdString(guide_kind(it)));
        put(in_corner, it.slowest_s ? seconds(*it.slowest_s - *it.exit_s) : none, true,
            it.matters == GuideCorner::Matters::speed);
        put(at_exit, seconds(it.exit_s), true, exit_more);
        put(unused, row != nullptr ? QString::number(std::max(0.0, row->unused_s()), 'f', 2) : none, true);
        const bool told = k < data_->across.size() && data_->across[k].told;
        put(off_apex, told ? near_zero(data_->across[k].apex_gap_m * units.per_m) : none, true,
            told && data_->across[k].missed_m.has_value());
        put(after, QString::fromStdString(guide_after(it, *data_->track, units)));
        put(matters, QString::fromStdString(guide_matters(it, *data_->track)), false, true);
    }
    const int widths[columns] = {34, 104, 52, 48, 52, 58, 150, 96};
    for (int column = 0; column < columns; ++column) table_->setColumnWidth(column, widths[column]);
    table_->horizontalHeader()->setStretchLastSection(true);
}

void GuideDesk::show_corner(std::size_t corner) {
    if (data_ == nullptr || corner >= data_->guide.corners.size()) return;
    corner_ = corner;
    const GuideCorner& it = data_->guide.corners[corner];
    road_->set_corner(corner);
    page_->set_corner(corner);
    headline_->setText(QString::fromStdString(it.corner.title()) + QStringLiteral(": ") +
                       QString::fromStdString(guide_headline(it, *data_->track, guide_units())));
    sub_->setText(tr("From lap %1 of %2, %3, %4. Page Up and Page Down step from corner to corner.")
                      .arg(data_->lap.lap)
                      .arg(QString::fromStdString(data_->run.name), QString::fromStdString(data_->run.driver),
                           lap_time(data_->lap_s)));
    if (table_->currentRow() == static_cast<int>(corner)) return;
    const QSignalBlocker quiet(table_);
    table_->setCurrentCell(static_cast<int>(corner), kind);
}

void GuideDesk::show_limit(bool on) {
    right_->setCurrentIndex(on ? 1 : 0);
    pages_->button(on ? 1 : 0)->setChecked(true);
}

void GuideDesk::put_back(int corner) {
    if (data_ == nullptr || data_->limit == nullptr) return;
    const CornerReach* it = data_->limit->reach_of(corner);
    if (it == nullptr) return;
    if (put_back_.contains(corner))
        put_back_.erase(corner);
    else if (it->left_out != CornerReach::Left_out::no)
        put_back_.insert(corner);
    else
        return workspace_.tell(
            tr("%1 counts for the limit.").arg(QString::fromStdString(corner_title(*data_->track, corner))));
    refresh();
}

void GuideDesk::step_corner(int by) {
    if (data_ == nullptr || data_->guide.corners.empty()) return;
    const auto count = static_cast<int>(data_->guide.corners.size());
    show_corner(static_cast<std::size_t>((static_cast<int>(corner_) + by + count) % count));
}

void GuideDesk::open_in_compare() {
    if (data_ == nullptr || data_->guide.corners.empty()) return;
    const Corner& corner = data_->guide.corners[corner_].corner;
    workspace_.focus().set_range(view_of_corner(*data_->track, corner));
    workspace_.focus().set_cursor(corner.apex_m);
    Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
}

void GuideDesk::print_to(const QString& file) {
    if (data_ == nullptr) return;
    printing_.run<std::monostate>(
        tr("Guide as PDF"),
        [told = data_,
         path = std::filesystem::path(file.toStdString())](const JobContext& job) -> Result<std::monostate> {
            if (auto written = write_booklet(*told, path, job); !written) return pass_on(written.error());
            return std::monostate();
        },
        [this, file](Result<std::monostate> done) {
            if (!done)
                workspace_.tell(done.error());
            else
                workspace_.tell(tr("Saved %1.").arg(file));
        });
}

void GuideDesk::show_pictures(PictureBook& book) {
    book.settle();
    show_corner(4);
    book.take(QStringLiteral("guide"));
    show_limit(true);
    book.take(QStringLiteral("guide-limit"));
    show_limit(false);
}

}  // namespace rendak::app
