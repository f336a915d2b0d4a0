#include "app/desks/logbook/best_laps_dialog.h"

#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPointer>
#include <QTableWidget>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "app/theme/theme.h"
#include "core/intake/best_laps.h"

namespace rendak::app {
namespace {

enum BestColumn { track, time, car, driver, event, run, date, laps, lap_columns };

class BestLapsDialog : public QDialog {
  public:
    BestLapsDialog(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
        setObjectName(QStringLiteral("best-laps-dialog"));
        setWindowTitle(tr("Best-ever laps"));
        resize(900, 460);
        auto* column = new QVBoxLayout(this);
        hint_ = new PlainLabel(tr("Reading the laps of all events …"));
        hint_->setWordWrap(true);
        column->addWidget(hint_);
        auto* row = new QHBoxLayout;
        for (auto* choice : {&track_, &car_, &driver_}) {
            *choice = new QComboBox;
            (*choice)->setSizeAdjustPolicy(QComboBox::AdjustToContents);
            row->addWidget(*choice);
            connect(*choice, &QComboBox::currentIndexChanged, this, [this] { fill(); });
        }
        track_->setAccessibleName(tr("Track"));
        car_->setAccessibleName(tr("Car"));
        driver_->setAccessibleName(tr("Driver"));
        row->addStretch();
        column->addLayout(row);
        table_ = new QTableWidget(0, lap_columns);
        table_->setHorizontalHeaderLabels({tr("Track"), tr("Lap time"), tr("Car"), tr("Driver"), tr("Event"),
                                           tr("Run and lap"), tr("Date"), tr("Laps")});
        table_->verticalHeader()->hide();
        table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
        table_->setSelectionBehavior(QAbstractItemView::SelectRows);
        table_->setAccessibleName(tr("Best-ever laps"));
        table_->horizontalHeader()->setStretchLastSection(true);
        table_->setToolTip(tr("Double-click or Enter puts the lap into the tray"));
        connect(table_, &QTableWidget::cellActivated, this, [this](int at, int) {
            if (at < 0 || static_cast<std::size_t>(at) >= shown_.size()) return;
            const BestLap& lap = *shown_[static_cast<std::size_t>(at)];
            if (workspace_.pick(lap.lap))
                workspace_.tell(tr("Lap %1 of %2 is in the tray.").arg(lap.lap.lap).arg(text_of(lap.run)));
        });
        column->addWidget(table_, 1);
        auto* close = new QDialogButtonBox(QDialogButtonBox::Close);
        connect(close, &QDialogButtonBox::rejected, this, &QDialog::reject);
        column->addWidget(close);
        read();
    }

  private:
    void read() {
        workspace_.jobs().run<std::vector<BestLap>>(
            tr("Reading the best laps"),
            [folder = workspace_.library().folder()](const JobContext& job) -> Result<std::vector<BestLap>> {
                auto library = Library::open(folder, Library::Open::existing);
                if (!library) return pass_on(library.error());
                return best_laps(**library, job);
            },
            [dialog = QPointer<BestLapsDialog>(this)](Result<std::vector<BestLap>> laps) {
                if (!dialog) return;
                if (!laps) return dialog->workspace_.tell(laps.error());
                dialog->laps_ = std::move(*laps);
                dialog->offer(dialog->track_, tr("All tracks"), &BestLap::track);
                dialog->offer(dialog->car_, tr("All cars"), &BestLap::car);
                dialog->offer(dialog->driver_, tr("All drivers"), &BestLap::driver);
                dialog->fill();
            });
    }

    void offer(QComboBox* choice, const QString& all, std::string BestLap::*member) {
        const QSignalBlocker quiet(choice);
        choice->addItem(all);
        QStringList names;
        for (const BestLap& lap : laps_) {
            if (!(lap.*member).empty()) names << text_of(lap.*member);
        }
        names.removeDuplicates();
        names.sort();
        choice->addItems(names);
    }

    void fill() {
        shown_.clear();
        const auto fits = [](const QComboBox* choice, const std::string& text) {
            return choice->currentIndex() <= 0 || choice->currentText() == text_of(text);
        };
        for (const BestLap& lap : laps_) {
            if (fits(track_, lap.track) && fits(car_, lap.car) && fits(driver_, lap.driver)) shown_.push_back(&lap);
        }
        table_->setRowCount(static_cast<int>(shown_.size()));
        for (int at = 0; at < table_->rowCount(); ++at) {
            const BestLap& lap = *shown_[static_cast<std::size_t>(at)];
            const QString texts[lap_columns] = {
                text_of(lap.track),
                lap_time(lap.time_s),
                text_of(lap.car),
                text_of(lap.driver),
                text_of(lap.event) + QStringLiteral(" · ") + text_of(lap.session),
                tr("%1, lap %2").arg(text_of(lap.run)).arg(lap.lap.lap),
                lap.start_unix_s ? date_time_with_zone(*lap.start_unix_s, lap.zone) : QString(),
                QString::number(lap.laps)};
            for (int c = 0; c < lap_columns; ++c) {
                auto* item = new QTableWidgetItem(texts[c]);
                item->setToolTip(texts[c]);
                if (c == time || c == laps) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
                if (lap.best_of_track) {
                    QFont bold = table_->font();
                    bold.setBold(true);
                    item->setFont(bold);
                }
                table_->setItem(at, c, item);
            }
        }
        table_->resizeColumnsToContents();
        hint_->setText(laps_.empty()
                           ? tr("No lap counts on a known track yet.")
                           : tr("Laps that count, of every driver with every car; the best of a track in bold. A "
                                "double-click puts the lap into the tray."));
    }

    Workspace& workspace_;
    PlainLabel* hint_;
    QComboBox *track_ = nullptr, *car_ = nullptr, *driver_ = nullptr;
    QTableWidget* table_;
    std::vector<BestLap> laps_;
    std::vector<const BestLap*> shown_;
};

}  // namespace

void show_best_laps(Workspace& workspace, QWidget* parent) {
    auto* dialog = new BestLapsDialog(workspace, parent);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

}  // namespace rendak::app
