#include "app/desks/logbook/results_dialog.h"

#include <QCoreApplication>
#include <QDialog>
#include <QDialogButtonBox>
#include <QHeaderView>
#include <QInputDialog>
#include <QPointer>
#include <QTableWidget>
#include <QVBoxLayout>
#include <set>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "core/intake/results.h"

namespace rendak::app {
namespace {

/// Which of the cars in the results this run is; empty: none was chosen.
QString ask_for_car(const std::vector<ResultLap>& results, const QString& why, QWidget* parent) {
    std::set<std::string> cars;
    for (const ResultLap& result : results) cars.insert(result.car.empty() ? result.driver : result.car);
    QStringList names;
    for (const std::string& car : cars) names << QString::fromStdString(car);
    bool chosen = false;
    const QString car =
        QInputDialog::getItem(parent, QObject::tr("Results of the timing system"), why, names, 0, false, &chosen);
    return chosen ? car : QString();
}

void show_agreement(Workspace& workspace, RunId run, const std::vector<ResultLap>& results, QWidget* parent) {
    const auto row = workspace.library().run(run);
    if (!row) return workspace.tell(row.error());
    auto official = laps_of_car(results, {}, {}, *row);
    if (!official && official.error().code == ErrorCode::needs_answer) {
        const std::string car =
            ask_for_car(results, QString::fromStdString(official.error().message), parent).toStdString();
        if (car.empty()) return;
        official = laps_of_car(results, car, {}, *row);
        if (!official) official = laps_of_car(results, {}, car, *row);
    }
    if (!official) return workspace.tell(official.error());
    const auto before = workspace.shown(workspace.library().official_laps(run));
    const ResultsAgreement agreement = hold_against(*official, workspace.shown(workspace.library().laps(run)));
    if (before != *official)
        workspace.edit(
            QObject::tr("official lap times"),
            [&workspace, run, laps = *official] { return workspace.library().set_official_laps(run, laps); },
            [&workspace, run, before] { return workspace.library().set_official_laps(run, before); }, Change::papers);
    auto* dialog = new QDialog(parent);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setObjectName(QStringLiteral("results-dialog"));
    dialog->setWindowTitle(QObject::tr("Results beside the laps of %1").arg(QString::fromStdString(row->name)));
    dialog->resize(560, 480);
    auto* column = new QVBoxLayout(dialog);
    for (const std::string& sentence : agreement.sentences) {
        auto* line = new PlainLabel(QString::fromStdString(sentence));
        line->setWordWrap(true);
        column->addWidget(line);
    }
    auto* table = new QTableWidget(static_cast<int>(agreement.pairs.size()), 5);
    table->setHorizontalHeaderLabels({QObject::tr("Official"), QObject::tr("Time"), QObject::tr("Lap here"),
                                      QObject::tr("Time"), QObject::tr("Difference")});
    table->verticalHeader()->hide();
    table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setAccessibleName(QObject::tr("Official laps and cut laps"));
    for (int at = 0; at < table->rowCount(); ++at) {
        const auto& pair = agreement.pairs[static_cast<std::size_t>(at)];
        const QString none = QStringLiteral("–");
        const QString texts[5] = {pair.official ? QString::number(pair.official->number) : none,
                                  pair.official ? lap_time(pair.official->time_s) : QObject::tr("not in the results"),
                                  pair.lap ? QString::number(*pair.lap) : none,
                                  pair.lap ? lap_time(pair.cut_s) : QObject::tr("missing"),
                                  pair.official && pair.lap ? signed_number(pair.difference_s(), 3) : none};
        for (int c = 0; c < 5; ++c) {
            auto* item = new QTableWidgetItem(texts[c]);
            item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            table->setItem(at, c, item);
        }
    }
    column->addWidget(table, 1);
    auto* close = new QDialogButtonBox(QDialogButtonBox::Close);
    QObject::connect(close, &QDialogButtonBox::rejected, dialog, &QDialog::reject);
    column->addWidget(close);
    dialog->open();
}

}  // namespace

void hold_results_against(Workspace& workspace, RunId run, const QString& file, QWidget* parent) {
    workspace.jobs().run<std::vector<ResultLap>>(
        QObject::tr("Reading the results"),
        [file = file.toStdString()](const JobContext&) { return read_results(file); },
        [&workspace, run, parent = QPointer<QWidget>(parent)](const Result<std::vector<ResultLap>>& results) {
            if (!results) return workspace.tell(results.error());
            if (parent) show_agreement(workspace, run, *results, parent);
        });
}

}  // namespace rendak::app
