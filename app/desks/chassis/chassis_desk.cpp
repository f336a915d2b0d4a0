#include "app/desks/chassis/chassis_desk.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QDateTime>
#include <QDoubleSpinBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/desks/chassis/page_rows.h"
#include "app/desks/chassis/trial_dialog.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/reading_table.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

ChassisDesk::ChassisDesk(Workspace& workspace, QWidget* parent) : Desk(workspace, parent), working_(workspace.jobs()) {
    stack_ = new QStackedLayout(this);
    stack_->addWidget(build_full());
    stack_->addWidget(build_empty());
    connect(&workspace_.comparison(), &Comparison::changed, this, &ChassisDesk::refresh);
    connect(&workspace_.focus(), &Focus::range_changed, this, &ChassisDesk::refresh);
    const auto again = [this] {
        made_of_.reset();
        refresh();
    };
    connect(&workspace_, &Workspace::runs_changed, this, again);
    connect(&workspace_, &Workspace::formulas_changed, this, again);
    // Kept trials stand on their page; an undo takes them away again.
    connect(workspace_.session().get(), &Session::changed, this, [this, again](Change change) {
        if (change == Change::marks && pages_->checkedId() == static_cast<int>(ChassisPage::trial)) again();
    });
    show_page(ChassisPage::heights);
}

void ChassisDesk::take_focus() {
    tables_[0]->setFocus();
}

QString ChassisDesk::headline() const {
    return static_cast<ElidedLabel*>(headline_)->text();
}

QString ChassisDesk::foot() const {
    return static_cast<ElidedLabel*>(foot_)->text();
}

void ChassisDesk::show_page(ChassisPage page) {
    pages_->button(static_cast<int>(page))->setChecked(true);
    for (const auto& [widget, on] : tools_) widget->setVisible(std::find(on.begin(), on.end(), page) != on.end());
    choose();
}

ChassisChoice ChassisDesk::chosen() const {
    ChassisChoice out;
    out.page = static_cast<ChassisPage>(pages_->checkedId());
    const QString on = on_->currentData().toString();
    if (on == QStringLiteral("range"))
        out.own_m = {workspace_.comparison().range_m()};
    else if (on == QStringLiteral("own"))
        out.own_m = own_m_;
    else if (!on.isEmpty())
        out.on = stretch_kind(on.toStdString());
    const QString axle = axle_->currentData().toString();
    out.front = axle != QStringLiteral("rear");
    out.rear = axle != QStringLiteral("front");
    out.wheels = static_cast<WheelChoice>(wheels_->currentData().toInt());
    out.channel = channel_->currentData().toString();
    out.fast_mps = border_->value() / 1000;
    out.segment_s = segment_->value();
    out.line = line_->currentText();
    if (baseline_->currentIndex() >= 0) out.baseline = baseline_->currentData().toDouble();
    out.band_hz = {band_from_->value(), std::max(band_to_->value(), band_from_->value() + 0.5)};
    const int aim = aim_->findText(aim_->currentText());
    out.aim = aim >= 0 ? aim_->itemData(aim).toString() : aim_->currentText();
    return out;
}

void ChassisDesk::choose_stretches(const std::vector<Interval>& stretches_m) {
    own_m_ = stretches_m;
    own_track_ = QString::fromStdString(workspace_.comparison().laps().track().name);
    on_->setCurrentIndex(on_->findData(QStringLiteral("own")));
    choose();
}

void ChassisDesk::choose() {
    refresh();
    Q_EMIT state_changed();
}

void ChassisDesk::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

/// What stands in tables has its colours from when it was written.
void ChassisDesk::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() == QEvent::PaletteChange && look_ != nullptr) take_over(look_);
}

void ChassisDesk::refresh() {
    if (!isVisible()) return;
    const auto laps = workspace_.comparison().shared_laps();
    const bool any = !laps->empty() && laps->on_track();
    stack_->setCurrentIndex(any ? 0 : 1);
    if (!any) {
        working_.drop();
        look_.reset();
        made_of_.reset();
        return;
    }
    const auto among = runs_of(*laps);
    const auto side = [&](const std::shared_ptr<const RunData>& run) {
        const auto first = std::find_if(laps->laps.begin(), laps->laps.end(),
                                        [&](const ComparedLap& it) { return it.run->row.id == run->row.id; });
        return ChassisSide{run, static_cast<int>(first - laps->laps.begin()), run_title(run->row, among)};
    };
    const ChassisSide a = side(laps->baseline().run);
    std::vector<ChassisSide> sides{a};
    const RunId active = workspace_.comparison().active().run->row.id;
    for (const auto& run : among)
        if (run->row.id != a.run->row.id) sides.push_back(side(run));
    const auto beside =
        std::find_if(sides.begin() + 1, sides.end(), [&](const ChassisSide& it) { return it.run->row.id == active; });
    if (beside != sides.end()) std::rotate(sides.begin() + 1, beside, beside + 1);
    // Stretches of one track are none of another one.
    if (const QString track = QString::fromStdString(laps->track().name); track != own_track_) {
        own_track_ = track;
        own_m_.clear();
    }
    // The same laps of the same runs, looked at alike and in the same units, are not worked out again.
    MadeOf made_of{{}, {}, {shown("speed").unit, shown("ride_height_front").unit, distance_shown().unit}, chosen()};
    const auto add = [&](const ChassisSide& it) {
        made_of.runs.push_back(it.run);
        made_of.places.push_back(it.slot);
        made_of.words << it.title;
    };
    for (const ChassisSide& it : sides) add(it);
    if (made_of == made_of_) return;
    working_.run<std::shared_ptr<const ChassisLook>>(
        tr("Chassis"),
        [folder = workspace_.library().folder(), sides, choice = made_of.choice](const JobContext& job) {
            return chassis_look(folder, sides, choice, job);
        },
        [this, made_of](Result<std::shared_ptr<const ChassisLook>> made) {
            if (!made) {
                if (made.error().code != ErrorCode::cancelled) workspace_.tell(made.error());
                return;
            }
            take_over(std::move(*made));
            // What it proposes is chosen now.
            made_of_ = made_of;
            made_of_->choice = chosen();
        });
}

void ChassisDesk::take_over(std::shared_ptr<const ChassisLook> look) {
    look_ = std::move(look);
    headline_->setText(look_->headline);
    foot_->setText(look_->foot);
    strip_->set_road(look_->road);
    std::vector<Interval> stretches;
    for (const Stretch& it : look_->stretches) stretches.push_back(it.range_m);
    strip_->set_stretches(std::move(stretches));
    for (std::size_t k = 0; k < 2; ++k) {
        pictures_[k]->set_plot(k < look_->plots.size() ? look_->plots[k] : ChassisPlot{});
        fill_table(k, k < look_->tables.size() ? &look_->tables[k] : nullptr);
    }
    // What the event's runs step can be chosen once it is known; the choice is what is shown.
    if (!look_->lines.isEmpty()) {
        line_->clear();
        line_->addItems(look_->lines);
        line_->setCurrentText(look_->line);
        baseline_->clear();
        for (const double value : look_->values) baseline_->addItem(QString::number(value), value);
        baseline_->setCurrentIndex(baseline_->findData(look_->baseline));
    }
    const bool writes = !workspace_.library().is_look_only();
    plan_->setEnabled(writes && !look_->next.empty());
    keep_->setEnabled(writes && look_->trial.has_value());
}

void ChassisDesk::fill_table(std::size_t which, const ChassisTable* table) {
    QTableWidget& out = *tables_[which];
    out.clear();
    out.setRowCount(0);
    table_titles_[which]->setText(table == nullptr ? QString() : table->title);
    table_titles_[which]->setVisible(table != nullptr);
    out.setVisible(table != nullptr);
    if (table == nullptr) return;
    const Theme& t = theme();
    out.setColumnCount(static_cast<int>(table->heads.size()));
    out.setHorizontalHeaderLabels(table->heads);
    out.setRowCount(static_cast<int>(table->rows.size()));
    out.setAccessibleName(table->title);
    for (std::size_t r = 0; r < table->rows.size(); ++r) {
        for (std::size_t c = 0; c < table->rows[r].size(); ++c) {
            const ChassisTable::Cell& cell = table->rows[r][c];
            auto* item = new QTableWidgetItem(cell.text);
            using Mark = ChassisTable::Cell::Mark;
            if (cell.mark == Mark::won) item->setForeground(t.won);
            if (cell.mark == Mark::lost) item->setForeground(t.lost);
            if (cell.mark == Mark::mute) item->setForeground(t.mute);
            item->setToolTip(r < table->tips.size() ? table->tips[r] : QString());
            out.setItem(static_cast<int>(r), static_cast<int>(c), item);
        }
    }
    // Headings stand as their columns do; a last column of words takes what is left.
    constexpr qsizetype words_from = 12;
    bool long_words = table->heads.size() == 1;
    for (const auto& row : table->rows)
        long_words = long_words || (!row.empty() && row.back().text.size() > words_from);
    for (int c = 0; c < out.columnCount(); ++c) {
        out.horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
        const bool words = c == 0 || (long_words && c + 1 == out.columnCount());
        out.horizontalHeaderItem(c)->setTextAlignment((words ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
        for (int r = 0; r < out.rowCount(); ++r)
            if (QTableWidgetItem* item = out.item(r, c))
                item->setTextAlignment((words ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
    }
    out.horizontalHeader()->setStretchLastSection(long_words);
}

void ChassisDesk::write_run_sheet() {
    if (look_ == nullptr || look_->next.empty()) return;
    Library* library = &workspace_.library();
    const auto before = workspace_.shown(planned_runs(*library));
    const bool done = workspace_.edit(
        tr("write to the run sheet"), [library, next = look_->next] { return plan_runs(*library, next); },
        [library, before] { return set_planned_runs(*library, before); }, Change::marks);
    if (!done) return;
    workspace_.tell(tr("Written to the run sheet of %1: %2.")
                        .arg(QString::fromStdString(look_->next.front().event),
                             counted(static_cast<qsizetype>(look_->next.size()), tr("run"), tr("runs"))));
}

void ChassisDesk::keep_trial_shown() {
    if (look_ == nullptr || !look_->trial) return;
    Library* library = &workspace_.library();
    const auto before = workspace_.shown(kept_trials(*library));
    KeptTrial trial = *look_->trial;
    trial.made_unix_s = static_cast<double>(QDateTime::currentSecsSinceEpoch());
    const bool done = workspace_.edit(
        tr("keep the trial"),
        [library, trial]() -> Result<void> {
            if (const auto id = keep_trial(*library, trial); !id) return pass_on(id.error());
            return {};
        },
        [library, before] { return set_kept_trials(*library, before); }, Change::marks);
    if (done) workspace_.tell(tr("Kept: %1.").arg(QString::fromStdString(trial.name)));
}

void ChassisDesk::decide_trial(std::int64_t id) {
    const auto kept = kept_trial(workspace_.library(), id);
    if (!kept) return workspace_.tell(kept.error());
    auto* dialog = new TrialDialog(*kept, this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    connect(dialog, &QDialog::accepted, this, [this, dialog, before = *kept] {
        const KeptTrial after = dialog->written();
        if (after == before) return;
        Library* library = &workspace_.library();
        const auto write = [library](const KeptTrial& trial) -> Result<void> {
            if (const auto done = keep_trial(*library, trial); !done) return pass_on(done.error());
            return {};
        };
        workspace_.edit(
            tr("what was decided"), [write, after] { return write(after); }, [write, before] { return write(before); },
            Change::marks);
    });
    dialog->open();
}

QString ChassisDesk::state() const {
    QJsonObject out;
    for (const PageRow& it : page_rows)
        if (static_cast<int>(it.page) == pages_->checkedId()) out[QLatin1String("page")] = QLatin1String(it.id);
    for (const auto& [key, box] : {std::pair{"on", on_}, {"axle", axle_}, {"wheels", wheels_}, {"channel", channel_}})
        out[QLatin1String(key)] = box->currentIndex();
    QJsonArray own;
    for (const Interval& it : own_m_) own.append(QJsonArray{it.begin, it.end});
    out[QLatin1String("own")] = own;
    out[QLatin1String("own_track")] = own_track_;
    out[QLatin1String("border")] = border_->value();
    out[QLatin1String("segment")] = segment_->value();
    out[QLatin1String("band_from")] = band_from_->value();
    out[QLatin1String("band_to")] = band_to_->value();
    return QString::fromUtf8(QJsonDocument(out).toJson(QJsonDocument::Compact));
}

void ChassisDesk::restore(const QString& state) {
    const QJsonObject in = QJsonDocument::fromJson(state.toUtf8()).object();
    for (const auto& [key, box] : {std::pair{"on", on_}, {"axle", axle_}, {"wheels", wheels_}, {"channel", channel_}}) {
        const int index = in[QLatin1String(key)].toInt(-1);
        if (index >= 0 && index < box->count()) box->setCurrentIndex(index);
    }
    own_m_.clear();
    own_track_ = in[QLatin1String("own_track")].toString();
    for (const auto& it : in[QLatin1String("own")].toArray())
        if (const QJsonArray ends = it.toArray(); ends[0].toDouble() < ends[1].toDouble())
            own_m_.push_back({ends[0].toDouble(), ends[1].toDouble()});
    for (const auto& [key, spin] :
         {std::pair{"border", border_}, {"segment", segment_}, {"band_from", band_from_}, {"band_to", band_to_}}) {
        if (const double value = in[QLatin1String(key)].toDouble(-1); value >= 0) spin->setValue(value);
    }
    for (const PageRow& it : page_rows)
        if (in[QLatin1String("page")].toString() == QLatin1String(it.id)) show_page(it.page);
}

void ChassisDesk::show_pictures(PictureBook& book) {
    show_page(ChassisPage::heights);
    book.take(QStringLiteral("chassis-heights"));
    show_page(ChassisPage::dampers);
    book.take(QStringLiteral("chassis-dampers"));
    show_page(ChassisPage::spectrum);
    book.take(QStringLiteral("chassis-spectrum"));
    show_page(ChassisPage::balance);
    book.take(QStringLiteral("chassis-balance"));
    show_page(ChassisPage::pull);
    book.take(QStringLiteral("chassis-pull"));
    show_page(ChassisPage::strikes);
    book.take(QStringLiteral("chassis-strikes"));
    show_page(ChassisPage::trial);
    book.take(QStringLiteral("chassis-trial"));
    show_page(ChassisPage::ladder);
    book.take(QStringLiteral("chassis"));
    book.take_garage(QStringLiteral("chassis-garage"));
}

}  // namespace rendak::app
