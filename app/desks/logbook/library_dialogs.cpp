#include "app/desks/logbook/library_dialogs.h"

#include <QCheckBox>
#include <QComboBox>
#include <QCoreApplication>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QTableWidget>
#include <QTreeWidget>
#include <QVBoxLayout>

#include <algorithm>

#include "app/text/plain_text.h"
#include "app/text/sheet_table.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "core/bundle/bundle.h"
#include "core/signal/quantity.h"
#include "core/video/film_book.h"

namespace rendak::app {
namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("LibraryDialogs", text);
}

}  // namespace

void edit_car_sheets(Workspace& workspace, QWidget* parent) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("car-sheets"));
    dialog.setWindowTitle(tr("Car sheets"));
    dialog.resize(560, 560);
    auto* column = new QVBoxLayout(&dialog);
    auto* hint = new PlainLabel(
        tr("Constants of a car in one season, in one place: mass, wheelbase, tyre and brake windows, gears. "
           "They go along in bundles."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* row = new QHBoxLayout;
    auto *car = new QComboBox, *season = new QComboBox;
    car->setEditable(true);
    season->setEditable(true);
    car->setAccessibleName(tr("Car"));
    season->setAccessibleName(tr("Season"));
    auto* from = new QLineEdit;
    from->setPlaceholderText(QStringLiteral("2026-03-01"));
    from->setAccessibleName(tr("Valid from"));
    row->addWidget(new PlainLabel(tr("Car")));
    row->addWidget(car, 2);
    row->addWidget(new PlainLabel(tr("Season")));
    row->addWidget(season, 1);
    row->addWidget(new PlainLabel(tr("valid from")));
    row->addWidget(from, 1);
    column->addLayout(row);
    auto* table = new SheetTable;
    column->addWidget(table, 1);
    for (const std::string& name : workspace.shown(workspace.library().cars())) car->addItem(text_of(name));
    for (const CarSheet& sheet : workspace.shown(workspace.library().car_sheets())) {
        if (season->findText(text_of(sheet.season)) < 0) season->addItem(text_of(sheet.season));
    }
    const auto chosen = [&]() -> std::optional<CarSheet> {
        for (CarSheet& sheet : workspace.shown(workspace.library().car_sheets())) {
            if (text_of(sheet.car) == car->currentText() && text_of(sheet.season) == season->currentText())
                return sheet;
        }
        return std::nullopt;
    };
    const auto show = [&] {
        const auto sheet = chosen();
        table->set_values(sheet ? sheet->values : std::vector<SheetValue>{});
        from->setText(sheet ? text_of(sheet->valid_from) : QString());
    };
    QObject::connect(car, &QComboBox::currentTextChanged, &dialog, show);
    QObject::connect(season, &QComboBox::currentTextChanged, &dialog, show);
    show();
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Save | QDialogButtonBox::Close);
    column->addWidget(buttons);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, [&] {
        const auto before = chosen();
        const CarSheet after{car->currentText().trimmed().toStdString(), season->currentText().trimmed().toStdString(),
                             from->text().trimmed().toStdString(), table->values()};
        if (before && *before == after) return;
        workspace.edit(
            tr("edit of the car sheet"), [&workspace, after] { return workspace.library().put_car_sheet(after); },
            [&workspace, before, after] {
                return before ? workspace.library().put_car_sheet(*before)
                              : workspace.library().remove_car_sheet(after.car, after.season);
            },
            Change::formulas);
    });
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    dialog.exec();
}

void edit_channel_names(Workspace& workspace, QWidget* parent) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("channel-names"));
    dialog.setWindowTitle(tr("Channel names"));
    dialog.resize(520, 460);
    auto* column = new QVBoxLayout(&dialog);
    auto* hint = new PlainLabel(
        tr("Loggers call the same thing differently. Give a channel's name the quantity that it stands for; "
           "files that are imported from now on are read with it. The original name stays visible."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* list = new QTableWidget(0, 2);
    list->setHorizontalHeaderLabels({tr("Channel"), tr("Stands for")});
    list->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    list->verticalHeader()->hide();
    list->setEditTriggers(QAbstractItemView::NoEditTriggers);
    list->setSelectionBehavior(QAbstractItemView::SelectRows);
    list->setAccessibleName(tr("Own channel names"));
    column->addWidget(list, 1);
    auto* row = new QHBoxLayout;
    auto* name = new QLineEdit;
    name->setPlaceholderText(tr("channel name, as the logger writes it"));
    name->setAccessibleName(tr("Channel name"));
    auto* quantity = new QComboBox;
    quantity->setAccessibleName(tr("Quantity"));
    for (const Quantity& known : all_quantities())
        quantity->addItem(QString::fromUtf8(known.label.data(), static_cast<qsizetype>(known.label.size())),
                          QString::fromUtf8(known.id.data(), static_cast<qsizetype>(known.id.size())));
    auto *add = new QPushButton(tr("Add")), *remove = new QPushButton(tr("Remove"));
    row->addWidget(name, 2);
    row->addWidget(quantity, 1);
    row->addWidget(add);
    row->addWidget(remove);
    column->addLayout(row);
    const auto fill = [&] {
        list->setRowCount(0);
        for (const auto& [alias, id] : workspace.shown(workspace.library().aliases())) {
            const Quantity* known = find_quantity(id);
            const int at = list->rowCount();
            list->insertRow(at);
            list->setItem(at, 0, new QTableWidgetItem(text_of(alias)));
            list->setItem(at, 1,
                          new QTableWidgetItem(known == nullptr ? text_of(id) : text_of(std::string(known->label))));
        }
    };
    const auto set = [&](const std::string& alias, const std::string& to) {
        const Aliases before = workspace.shown(workspace.library().aliases());
        const auto old = before.find(alias);
        const std::string was = old == before.end() ? "" : old->second;
        workspace.edit(
            tr("channel name"), [&workspace, alias, to] { return workspace.library().set_alias(alias, to); },
            [&workspace, alias, was] { return workspace.library().set_alias(alias, was); }, Change::formulas);
        fill();
    };
    QObject::connect(add, &QPushButton::clicked, &dialog, [&] {
        if (!name->text().trimmed().isEmpty())
            set(name->text().trimmed().toStdString(), quantity->currentData().toString().toStdString());
        name->clear();
    });
    QObject::connect(remove, &QPushButton::clicked, &dialog, [&] {
        if (list->currentRow() >= 0) set(list->item(list->currentRow(), 0)->text().toStdString(), "");
    });
    fill();
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    dialog.exec();
}

void show_bin(Workspace& workspace, QWidget* parent) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("bin"));
    dialog.setWindowTitle(tr("Bin"));
    dialog.resize(560, 400);
    auto* column = new QVBoxLayout(&dialog);
    auto* hint = new PlainLabel;
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* list = new QListWidget;
    list->setSelectionMode(QAbstractItemView::ExtendedSelection);
    list->setAccessibleName(tr("Runs in the bin"));
    column->addWidget(list, 1);
    auto* row = new QHBoxLayout;
    auto *back = new QPushButton(tr("Put back")), *empty = new QPushButton(tr("Empty the bin …")),
         *close = new QPushButton(tr("Close"));
    back->setObjectName(QStringLiteral("put-back"));
    empty->setObjectName(QStringLiteral("empty-bin"));
    row->addWidget(back);
    row->addWidget(empty);
    row->addStretch();
    row->addWidget(close);
    column->addLayout(row);
    const auto fill = [&] {
        list->clear();
        for (const RunRow& run : workspace.shown(workspace.library().binned())) {
            const QString when = run.start_unix_s ? date_time_with_zone(*run.start_unix_s, run.zone) : QString();
            auto* item = new QListWidgetItem(
                QStringList{text_of(run.event), text_of(run.session), text_of(run.name), text_of(run.driver), when}
                    .join(QStringLiteral(" · ")),
                list);
            item->setData(Qt::UserRole, QVariant::fromValue<qlonglong>(run.id.value));
        }
        hint->setText(list->count() == 0 ? tr("The bin is empty.")
                                         : tr("Runs in the bin keep their recordings until it is emptied."));
        back->setEnabled(list->count() > 0);
        empty->setEnabled(list->count() > 0);
    };
    QObject::connect(back, &QPushButton::clicked, &dialog, [&] {
        auto chosen = list->selectedItems();
        if (chosen.isEmpty() && list->count() == 1) chosen << list->item(0);
        for (const auto* item : chosen) {
            const RunId run{item->data(Qt::UserRole).toLongLong()};
            workspace.edit(
                tr("putting back from the bin"),
                [&workspace, run] { return workspace.library().set_binned(run, false); },
                [&workspace, run] { return workspace.library().set_binned(run, true); });
        }
        fill();
    });
    QObject::connect(empty, &QPushButton::clicked, &dialog, [&] {
        QMessageBox ask(QMessageBox::Warning, tr("Empty the bin"),
                        tr("%1 runs and their recordings will be removed from the library for good. This cannot be "
                           "undone. Kept originals stay in the originals folder.")
                            .arg(list->count()),
                        QMessageBox::Cancel, &dialog);
        ask.setTextFormat(Qt::PlainText);
        const auto* yes = ask.addButton(tr("Remove for good"), QMessageBox::DestructiveRole);
        ask.exec();
        if (ask.clickedButton() != yes) return;
        for (const RunRow& run : workspace.shown(workspace.library().binned())) {
            if (const auto removed = workspace.library().remove_run(run.id); !removed) workspace.tell(removed.error());
        }
        // What was done to runs that no longer exist cannot be undone.
        workspace.session()->forget_edits();
        workspace.library_changed();
        fill();
    });
    QObject::connect(close, &QPushButton::clicked, &dialog, &QDialog::accept);
    fill();
    dialog.exec();
}

void write_bundle_of(Workspace& workspace, const std::vector<RunId>& runs, QWidget* parent) {
    if (runs.empty()) return workspace.tell(tr("Select the runs that the bundle shall carry."));
    QString file = QFileDialog::getSaveFileName(parent, tr("Write a bundle"), QStringLiteral("runs.rdk.zip"),
                                                tr("Bundles (*.rdk.zip *.zip)"));
    if (file.isEmpty()) return;
    if (!file.endsWith(QLatin1String(".zip"))) file += QLatin1String(".rdk.zip");
    // Films are large: they are asked for.
    double film_bytes = 0;
    for (const KeptFilm& film : workspace.shown(kept_films(workspace.library())))
        if (std::any_of(runs.begin(), runs.end(), [&](RunId run) { return film.place_on(run) != nullptr; }))
            for (const FilmFile& it : film.files) film_bytes += static_cast<double>(it.size);
    const bool films =
        film_bytes > 0 &&
        QMessageBox::question(
            parent, tr("With the films?"),
            tr("Take the films of these runs along? They add %1 MB.").arg(film_bytes / 1e6, 0, 'f', 0)) ==
            QMessageBox::Yes;
    struct Nothing {};
    workspace.jobs().run<Nothing>(
        tr("Writing the bundle"),
        [folder = workspace.library().folder(), runs, films,
         file = file.toStdString()](const JobContext& job) -> Result<Nothing> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            if (auto done = write_bundle(**library, {.runs = runs, .films = films}, file, job); !done)
                return pass_on(done.error());
            return Nothing{};
        },
        [&workspace, file, count = runs.size()](Result<Nothing> done) {
            if (!done) return workspace.tell(done.error());
            workspace.tell(
                tr("%1 runs are in %2, with their tracks, setup sheets and car sheets.").arg(count).arg(file));
        });
}

void read_bundle(Workspace& workspace, QWidget* parent, const QString& given) {
    const QString file =
        given.isEmpty() ? QFileDialog::getOpenFileName(parent, tr("Read a bundle"), QString(), tr("Bundles (*.zip)"))
                        : given;
    if (file.isEmpty()) return;
    const auto items = preview_bundle(workspace.library(), file.toStdString());
    if (!items) return workspace.tell(items.error());
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("bundle-preview"));
    dialog.setWindowTitle(tr("What the bundle brings"));
    dialog.resize(720, 460);
    auto* column = new QVBoxLayout(&dialog);
    auto* hint = new PlainLabel(
        tr("New things come in unless you untick them. What clashes stays as it is here unless you tick it."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* list = new QTreeWidget;
    list->setHeaderLabels({tr("In the bundle"), tr("Here"), tr("Difference")});
    list->setRootIsDecorated(false);
    list->setAccessibleName(tr("Contents of the bundle"));
    list->header()->resizeSection(0, 330);
    column->addWidget(list, 1);
    for (const BundleItem& item : *items) {
        const bool same = item.state == BundleItem::State::same, fresh = item.state == BundleItem::State::fresh;
        auto* line = new QTreeWidgetItem(list, {text_of(item.title),
                                                same    ? tr("the same")
                                                : fresh ? tr("new")
                                                        : tr("clashes"),
                                                text_of(item.difference)});
        line->setData(0, Qt::UserRole, text_of(item.key));
        line->setToolTip(2, text_of(item.difference));
        if (!same) line->setCheckState(0, fresh ? Qt::Checked : Qt::Unchecked);
        line->setDisabled(same);
    }
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    buttons->addButton(tr("Bring in"), QDialogButtonBox::AcceptRole)->setProperty("primary", true);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    if (dialog.exec() != QDialog::Accepted) return;
    std::set<std::string> take, leave;
    for (int i = 0; i < list->topLevelItemCount(); ++i) {
        const auto* line = list->topLevelItem(i);
        const std::string key = line->data(0, Qt::UserRole).toString().toStdString();
        if (line->checkState(0) == Qt::Checked)
            take.insert(key);
        else
            leave.insert(key);
    }
    workspace.jobs().run<BundleTaken>(
        tr("Bringing the bundle in"),
        [folder = workspace.library().folder(), file = file.toStdString(), take,
         leave](const JobContext& job) -> Result<BundleTaken> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return take_bundle(**library, file, take, leave, job);
        },
        [&workspace](Result<BundleTaken> taken) {
            workspace.library_changed();
            if (!taken) return workspace.tell(taken.error());
            workspace.tell(taken->runs.empty() ? tr("Nothing new had to come in.")
                                               : tr("%1 runs came in.").arg(taken->runs.size()));
        });
}

}  // namespace rendak::app
