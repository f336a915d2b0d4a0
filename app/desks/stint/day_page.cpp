#include "app/desks/stint/day_page.h"

#include <QHeaderView>
#include <QLabel>
#include <QScrollArea>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/text/plain_text.h"
#include "app/text/reading_table.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/recording/csv_writer.h"

namespace rendak::app {
namespace {

const DayFigure* figure(const DayRun& run, const char* column) {
    const auto found =
        std::find_if(run.figures.begin(), run.figures.end(), [&](const DayFigure& it) { return it.column == column; });
    return found == run.figures.end() ? nullptr : &*found;
}

QString number(const DayRun& run, const char* column, const char* quantity) {
    const DayFigure* it = figure(run, column);
    return it == nullptr || !std::isfinite(it->mean) ? QStringLiteral("–") : shown(quantity).text(it->mean);
}

QString heading(const QString& label, const char* quantity) {
    return label + QStringLiteral(", ") + shown(quantity).unit;
}

QString conditions(const RunRow& run) {
    QStringList out;
    if (!run.weather.empty()) out << QString::fromStdString(run.weather);
    const auto one = [&](const std::optional<double>& value, const QString& what, const QString& unit) {
        if (value) out << what + u' ' + with_unit(QString::number(*value, 'g', 4), unit);
    };
    one(run.air_c, DayPage::tr("air"), QStringLiteral("°C"));
    one(run.track_c, DayPage::tr("track"), QStringLiteral("°C"));
    one(run.wind_mps, DayPage::tr("wind"), QStringLiteral("m/s"));
    return out.join(QStringLiteral(", "));
}

}  // namespace

DayPage::DayPage(Workspace& workspace, QWidget* parent)
    : QWidget(parent), workspace_(workspace), working_(workspace.jobs()) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    headline_ = new PlainLabel;
    headline_->setFont(body_font(true));
    column->addWidget(headline_);
    table_ = new QTableWidget;
    table_->setObjectName(QStringLiteral("day"));
    table_->setAccessibleName(tr("The day, run by run"));
    make_reading_table(*table_, 22);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Expanding);
    connect(table_, &QTableWidget::currentCellChanged, this, [this](int row) { show_words(row); });
    connect(table_, &QTableWidget::cellDoubleClicked, this, [this](int row) {
        if (row < 0 || row >= static_cast<int>(day_.size())) return;
        if (workspace_.pick_best(day_[static_cast<std::size_t>(row)].run.id))
            Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
    });
    column->addWidget(table_, 3);
    words_ = new PlainLabel;
    words_->setObjectName(QStringLiteral("day-words"));
    words_->setWordWrap(true);
    words_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    words_->setMargin(8);
    auto* area = new QScrollArea(this);
    area->setWidget(words_);
    area->setWidgetResizable(true);
    column->addWidget(area, 2);
}

void DayPage::set_event(const std::string& event, RunId chosen) {
    event_ = event;
    chosen_ = chosen;
    stale_ = true;
    if (isVisible()) work();
}

void DayPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (stale_) work();
}

void DayPage::work() {
    stale_ = false;
    if (event_.empty()) return show_day({});
    working_.run<std::vector<DayRun>>(
        tr("Day report"),
        [folder = workspace_.library().folder(), event = event_](const JobContext& job) -> Result<std::vector<DayRun>> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            const auto rows = (*library)->runs();
            if (!rows) return pass_on(rows.error());
            std::vector<std::shared_ptr<const RunData>> runs;
            for (const RunRow& row : *rows) {
                if (row.event != event || job.stopped()) continue;
                // One that cannot be opened is told where it is looked at.
                if (auto run = load_run(**library, row.id)) runs.push_back(std::move(*run));
            }
            return day_report(runs, job);
        },
        [this](Result<std::vector<DayRun>> day) {
            if (day) return show_day(std::move(*day));
            if (day.error().code != ErrorCode::cancelled) workspace_.tell(day.error());
        });
}

void DayPage::show_day(std::vector<DayRun> day) {
    day_ = std::move(day);
    const QStringList headings{tr("Run"),
                               tr("Session"),
                               tr("Driver"),
                               tr("Laps"),
                               tr("Best"),
                               tr("Mean"),
                               tr("Scatter, s"),
                               heading(tr("Slowest"), "speed"),
                               heading(tr("Mean"), "speed"),
                               heading(tr("Top"), "speed"),
                               tr("Brake, s"),
                               tr("Throttle, %"),
                               tr("Coasting, s"),
                               tr("Tyres"),
                               tr("Changes"),
                               tr("Conditions")};
    table_->clear();
    table_->setColumnCount(static_cast<int>(headings.size()));
    table_->setHorizontalHeaderLabels(headings);
    table_->setRowCount(static_cast<int>(day_.size()));
    double best = 1e300;
    for (const DayRun& it : day_) best = std::isfinite(it.best_s) ? std::min(best, it.best_s) : best;
    for (std::size_t k = 0; k < day_.size(); ++k) {
        const DayRun& it = day_[k];
        const auto time = [](double s) { return std::isfinite(s) ? lap_time(s) : QStringLiteral("–"); };
        const auto share = [&](const char* column) {
            const DayFigure* found = figure(it, column);
            return found == nullptr || !std::isfinite(found->mean) ? QStringLiteral("–")
                                                                   : QString::number(100 * found->mean, 'f', 1);
        };
        const auto seconds = [&](const char* column) {
            const DayFigure* found = figure(it, column);
            return found == nullptr || !std::isfinite(found->mean) ? QStringLiteral("–")
                                                                   : QString::number(found->mean, 'f', 1);
        };
        const QStringList cells{
            QString::fromStdString(it.run.name),
            QString::fromStdString(it.run.session),
            QString::fromStdString(it.run.driver),
            QString::number(it.laps),
            time(it.best_s),
            time(it.mean_s),
            std::isfinite(it.scatter_s) ? QString::number(it.scatter_s, 'f', 3) : QStringLiteral("–"),
            number(it, "speed low", "speed"),
            number(it, "speed mean", "speed"),
            number(it, "speed high", "speed"),
            seconds("braking_time end"),
            share("throttle_share end"),
            seconds("coasting_time end"),
            QString::fromStdString(it.run.tyre_set),
            QString::fromStdString(it.run.changes),
            conditions(it.run)};
        for (int c = 0; c < cells.size(); ++c) {
            auto* item = new QTableWidgetItem(cells[c]);
            item->setTextAlignment((c >= 3 && c <= 12 ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
            item->setToolTip(cells[c]);
            if (c == 4 && it.best_s == best) item->setFont(body_font(true));
            table_->setItem(static_cast<int>(k), c, item);
        }
    }
    table_->resizeColumnsToContents();
    for (const int wide : {14, 15}) table_->setColumnWidth(wide, std::min(220, table_->columnWidth(wide)));
    headline_->setText(day_.empty() ? tr("No run of this event could be read.")
                                    : tr("%1: %2, best %3. A run: what improved since the one before.")
                                          .arg(QString::fromStdString(event_),
                                               counted(static_cast<qsizetype>(day_.size()), tr("run"), tr("runs")),
                                               best < 1e300 ? lap_time(best) : QStringLiteral("–")));
    for (std::size_t k = 0; k < day_.size(); ++k) {
        if (day_[k].run.id == chosen_ || k == 0) table_->selectRow(static_cast<int>(k));
    }
    show_words(table_->currentRow());
}

void DayPage::show_words(int row) {
    if (row < 0 || row >= static_cast<int>(day_.size())) return words_->clear();
    const DayRun& it = day_[static_cast<std::size_t>(row)];
    QStringList out;
    QString since;
    for (const DayRun& other : day_) {
        if (it.since && other.run.id == *it.since) since = QString::fromStdString(other.run.name);
    }
    out << (since.isEmpty()
                ? tr("%1: no run of this driver and car before it.").arg(QString::fromStdString(it.run.name))
                : tr("%1, against %2:").arg(QString::fromStdString(it.run.name), since));
    const auto list = [&](const QString& what, const std::vector<std::string>& sentences) {
        if (sentences.empty()) return;
        QStringList all;
        for (const std::string& one : sentences) all << QString::fromStdString(one);
        out << what + all.join(QStringLiteral("; ")) + u'.';
    };
    list(tr("Improved: "), it.improved);
    list(tr("Worse: "), it.worsened);
    if (!since.isEmpty() && it.improved.empty() && it.worsened.empty()) out << tr("Nothing is told from chance.");
    if (!it.next.empty()) out << tr("Next: %1").arg(QString::fromStdString(it.next));
    list(tr("Top speed: "), it.ruled_out);
    words_->setText(out.join(u'\n'));
}

QString DayPage::words() const {
    return words_->text();
}

QString DayPage::as_text(QChar between) const {
    QString out;
    const auto quoted = [&](const QString& text) {
        return between == u',' ? QString::fromStdString(csv_cell(text.toStdString())) : text;
    };
    for (int c = 0; c < table_->columnCount(); ++c)
        out += (c > 0 ? QString(between) : QString()) + quoted(table_->horizontalHeaderItem(c)->text());
    out += u'\n';
    for (int r = 0; r < table_->rowCount(); ++r) {
        for (int c = 0; c < table_->columnCount(); ++c)
            out += (c > 0 ? QString(between) : QString()) + quoted(table_->item(r, c)->text());
        out += u'\n';
    }
    return out;
}

}  // namespace rendak::app
