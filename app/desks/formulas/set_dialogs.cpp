#include "app/desks/formulas/set_dialogs.h"

#include <QComboBox>
#include <QCoreApplication>
#include <QDialog>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSplitter>
#include <QTableWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/text/text_of.h"
#include "app/theme/theme.h"
#include "core/analysis/at_rest.h"
#include "core/units/compound_unit.h"

namespace rendak::app {
namespace {

using formula::FormulaSet;
using formula::Merge;
using formula::SetChange;

QTableWidget* table_of(const QStringList& headers) {
    auto* table = new QTableWidget(0, static_cast<int>(headers.size()));
    table->setHorizontalHeaderLabels(headers);
    table->verticalHeader()->hide();
    table->setSelectionBehavior(QAbstractItemView::SelectRows);
    table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table->setWordWrap(true);
    return table;
}

void put(QTableWidget& table, int row, int column, const QString& text) {
    auto* item = new QTableWidgetItem(text);
    item->setToolTip(text);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
    table.setItem(row, column, item);
}

QString said(const std::optional<formula::Formula>& formula) {
    return formula ? text_of(formula::formula_to_text(*formula)) : QString();
}

}  // namespace

std::optional<std::vector<std::pair<std::string, Merge>>> ask_merge(const FormulaSet& mine, const FormulaSet& incoming,
                                                                    QWidget* parent) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("merge"));
    dialog.setWindowTitle(QObject::tr("Bring in formulas"));
    dialog.resize(900, 520);
    auto* column = new QVBoxLayout(&dialog);
    std::vector<SetChange> changes = formula::differences(mine, incoming);
    std::erase_if(changes,
                  [](const SetChange& it) { return it.kind == SetChange::Kind::removed; });  // mine alone: stays
    const auto count = [&](SetChange::Kind kind) {
        return std::count_if(changes.begin(), changes.end(), [&](const auto& it) { return it.kind == kind; });
    };
    auto* headline =
        new PlainLabel(QObject::tr("%1 new, %2 clash, %3 are equal. Yours stay unless you choose otherwise.")
                           .arg(count(SetChange::Kind::added))
                           .arg(count(SetChange::Kind::changed))
                           .arg(count(SetChange::Kind::same)));
    headline->setFont(body_font(true));
    column->addWidget(headline);
    auto* table = table_of({QObject::tr("Formula"), QObject::tr("What"), QObject::tr("Yours"), QObject::tr("Coming in"),
                            QObject::tr("Do")});
    table->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
    table->horizontalHeader()->setSectionResizeMode(3, QHeaderView::Stretch);
    table->setColumnWidth(0, 140);
    table->setColumnWidth(1, 60);
    table->setColumnWidth(4, 160);
    std::vector<QComboBox*> choices;
    for (const SetChange& change : changes) {
        const int row = table->rowCount();
        table->insertRow(row);
        put(*table, row, 0, text_of(change.name));
        put(*table, row, 1,
            change.kind == SetChange::Kind::added  ? QObject::tr("new")
            : change.kind == SetChange::Kind::same ? QObject::tr("equal")
                                                   : QObject::tr("clashes"));
        put(*table, row, 2, said(change.before));
        put(*table, row, 3, said(change.after));
        auto* choice = new QComboBox;
        choice->setAccessibleName(QObject::tr("What to do with %1").arg(text_of(change.name)));
        if (change.kind == SetChange::Kind::added) {
            choice->addItem(QObject::tr("Bring in"), int(Merge::take));
            choice->addItem(QObject::tr("Leave out"), int(Merge::keep));
        } else {
            choice->addItem(QObject::tr("Keep mine"), int(Merge::keep));
            if (change.kind == SetChange::Kind::changed) {
                choice->addItem(QObject::tr("Take the incoming one"), int(Merge::take));
                choice->addItem(QObject::tr("Take both"), int(Merge::take_both));
            }
        }
        choice->setEnabled(change.kind != SetChange::Kind::same);
        table->setCellWidget(row, 4, choice);
        choices.push_back(choice);
    }
    table->resizeRowsToContents();
    column->addWidget(table, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    buttons->button(QDialogButtonBox::Ok)->setText(QObject::tr("Bring in"));
    column->addWidget(buttons);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    if (dialog.exec() != QDialog::Accepted) return std::nullopt;
    std::vector<std::pair<std::string, Merge>> out;
    for (std::size_t i = 0; i < changes.size(); ++i)
        out.emplace_back(changes[i].name, static_cast<Merge>(choices[i]->currentData().toInt()));
    return out;
}

std::optional<FormulaSet> ask_set(Workspace& workspace, const FormulaSet& before, QWidget* parent) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("set"));
    dialog.setWindowTitle(QObject::tr("Formula set"));
    auto* form = new QFormLayout(&dialog);
    auto* name = new QLineEdit(text_of(before.name));
    name->setObjectName(QStringLiteral("set-name"));
    name->setEnabled(before.name.empty());  // the history hangs on it
    auto* scope = new QComboBox;
    scope->setObjectName(QStringLiteral("set-scope"));
    scope->addItem(QObject::tr("Everything"), QVariantList{int(formula::Scope::Kind::everything), QString()});
    for (const std::string& car : workspace.shown(workspace.library().cars()))
        scope->addItem(QObject::tr("Car %1").arg(text_of(car)),
                       QVariantList{int(formula::Scope::Kind::car), text_of(car)});
    for (const EventRow& event : workspace.shown(workspace.library().events()))
        scope->addItem(QObject::tr("Event %1").arg(text_of(event.name)),
                       QVariantList{int(formula::Scope::Kind::event), text_of(event.name)});
    for (int i = 0; i < scope->count(); ++i) {
        const auto data = scope->itemData(i).toList();
        if (data[0].toInt() == int(before.scope.kind) && data[1].toString() == text_of(before.scope.name))
            scope->setCurrentIndex(i);
    }
    auto* remarks = new QLineEdit(text_of(before.remarks));
    form->addRow(QObject::tr("Name"), name);
    form->addRow(QObject::tr("For"), scope);
    form->addRow(QObject::tr("Remarks"), remarks);
    auto* problem = new PlainLabel;
    form->addRow(problem);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    form->addRow(buttons);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, [&] {
        const std::string wanted = name->text().trimmed().toStdString();
        const bool taken =
            wanted == formula::starter_name ||
            (wanted != before.name && !workspace.shown(workspace.library().formula_history(wanted)).empty());
        if (wanted.empty() || taken)
            problem->setText(wanted.empty() ? QObject::tr("A set needs a name.")
                                            : QObject::tr("There is a set of that name already."));
        else
            dialog.accept();
    });
    if (dialog.exec() != QDialog::Accepted) return std::nullopt;
    FormulaSet out = before;
    out.name = name->text().trimmed().toStdString();
    const auto data = scope->currentData().toList();
    out.scope = {static_cast<formula::Scope::Kind>(data[0].toInt()), data[1].toString().toStdString()};
    out.remarks = remarks->text().toStdString();
    return out;
}

std::optional<FormulaSet> ask_version(Workspace& workspace, const std::string& set, QWidget* parent) {
    const auto history = workspace.shown(workspace.library().formula_history(set));
    if (history.empty()) return std::nullopt;
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("history"));
    dialog.setWindowTitle(QObject::tr("Versions of %1").arg(text_of(set)));
    dialog.resize(860, 480);
    auto* column = new QVBoxLayout(&dialog);
    auto* split = new QSplitter;
    auto* versions = new QListWidget;
    versions->setAccessibleName(QObject::tr("Versions"));
    for (const FormulaVersion& it : history)
        versions->addItem(QObject::tr("%1 · %2\n%3").arg(it.version).arg(date_time(it.made_unix_s), text_of(it.note)));
    auto* table =
        table_of({QObject::tr("Formula"), QObject::tr("What"), QObject::tr("In this version"), QObject::tr("Now")});
    table->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
    table->horizontalHeader()->setSectionResizeMode(3, QHeaderView::Stretch);
    split->addWidget(versions);
    split->addWidget(table);
    split->setSizes({240, 620});
    column->addWidget(split, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* back = buttons->addButton(QObject::tr("Go back to this version"), QDialogButtonBox::AcceptRole);
    column->addWidget(buttons);
    const auto read = [&](std::size_t i) { return formula::set_from_json(history[i].content, set); };
    const auto now = read(0);
    const auto show = [&] {
        table->setRowCount(0);
        const int row_chosen = std::max(0, versions->currentRow());
        back->setEnabled(row_chosen > 0);
        const auto then = read(static_cast<std::size_t>(row_chosen));
        if (!then || !now) return;
        for (const SetChange& change : formula::differences(*then, *now)) {
            if (change.kind == SetChange::Kind::same && row_chosen > 0) continue;
            const int row = table->rowCount();
            table->insertRow(row);
            put(*table, row, 0, text_of(change.name));
            put(*table, row, 1,
                change.kind == SetChange::Kind::added     ? QObject::tr("not there yet")
                : change.kind == SetChange::Kind::removed ? QObject::tr("removed since")
                : change.kind == SetChange::Kind::changed ? QObject::tr("differs")
                                                          : QObject::tr("as now"));
            put(*table, row, 2, said(change.before));
            put(*table, row, 3, said(change.after));
        }
        table->resizeRowsToContents();
    };
    QObject::connect(versions, &QListWidget::currentRowChanged, &dialog, show);
    versions->setCurrentRow(0);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    if (dialog.exec() != QDialog::Accepted || versions->currentRow() <= 0) return std::nullopt;
    auto chosen = read(static_cast<std::size_t>(versions->currentRow()));
    if (!chosen) {
        workspace.tell(chosen.error());
        return std::nullopt;
    }
    return *chosen;
}

void measure_constants(Workspace& workspace, std::shared_ptr<const RunData> run, QWidget* parent) {
    const Recording& recording = *run->recording;
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("measure"));
    dialog.setWindowTitle(QObject::tr("Measure from the recording"));
    dialog.resize(760, 520);
    auto* column = new QVBoxLayout(&dialog);
    const auto found = standing_range(recording);
    auto* hint = new PlainLabel(
        found ? QObject::tr("The car stands from %1 s to %2 s of %3. The mean of a channel over that time "
                            "becomes a constant that formulas "
                            "use: subtract it as an offset.")
                    .arg(found->begin, 0, 'f', 1)
                    .arg(found->end, 0, 'f', 1)
                    .arg(text_of(run->row.name))
              : QObject::tr("The car never stands still in %1. Give a stretch of the recording in which it "
                            "does, or pick another run.")
                    .arg(text_of(run->row.name)));
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* row = new QHBoxLayout;
    const Interval span = recording.span_s();
    const auto seconds = [&](const QString& label, double value) {
        auto* box = new QDoubleSpinBox;
        box->setRange(span.begin, span.end);
        box->setDecimals(2);
        box->setSuffix(QStringLiteral(" s"));
        box->setValue(value);
        box->setAccessibleName(label);
        row->addWidget(new PlainLabel(label));
        row->addWidget(box);
        return box;
    };
    auto* from = seconds(QObject::tr("From"), found ? found->begin : span.begin);
    auto* to = seconds(QObject::tr("to"), found ? found->end : std::min(span.end, span.begin + 2));
    row->addStretch();
    column->addLayout(row);
    auto* table = table_of({QObject::tr("Channel"), QObject::tr("Mean"), QObject::tr("Scatter"), QObject::tr("Drift"),
                            QObject::tr("Constant")});
    table->setObjectName(QStringLiteral("rest-figures"));
    table->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table->horizontalHeader()->setSectionResizeMode(4, QHeaderView::Stretch);
    column->addWidget(table, 1);
    std::vector<RestFigure> figures;
    const auto fill = [&] {
        std::vector<std::string> names;
        for (const Channel& channel : recording.channels) {
            if (channel.quantity != "latitude" && channel.quantity != "longitude" && channel.quantity != "time")
                names.push_back(channel.name);
        }
        figures = figures_at_rest(recording, names, {from->value(), to->value()});
        table->setRowCount(static_cast<int>(figures.size()));
        for (int i = 0; i < table->rowCount(); ++i) {
            const RestFigure& figure = figures[static_cast<std::size_t>(i)];
            const Channel* channel = recording.find_name(figure.channel);
            Shown how = shown(channel->quantity);
            if (channel->quantity.empty()) how = {text_of(figure.channel), text_of(channel->unit), {}, 1, 0, 3, {}};
            how.decimals += 1;
            put(*table, i, 0, text_of(figure.channel));
            table->item(i, 0)->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
            table->item(i, 0)->setCheckState(Qt::Unchecked);
            put(*table, i, 1, with_unit(how.text(figure.mean), how.unit));
            put(*table, i, 2,
                QStringLiteral("± ") +
                    QLocale::c().toString(how.difference_from_si(figure.deviation), 'f', how.decimals));
            put(*table, i, 3, how.difference_text(figure.drift));
            auto* name = new QTableWidgetItem(text_of(formula::plain_name(figure.channel) + "_at_rest"));
            table->setItem(i, 4, name);
        }
    };
    // A minute at most: more says nothing new, and this is worked out while somebody waits.
    constexpr double longest_s = 60;
    const auto bound = [&] { to->setRange(from->value(), std::min(span.end, from->value() + longest_s)); };
    bound();
    fill();
    QObject::connect(from, &QDoubleSpinBox::valueChanged, &dialog, bound);
    QObject::connect(from, &QDoubleSpinBox::valueChanged, &dialog, fill);
    QObject::connect(to, &QDoubleSpinBox::valueChanged, &dialog, fill);
    auto* problem = new PlainLabel;
    column->addWidget(problem);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    auto* keep = buttons->addButton(QObject::tr("Keep the ticked ones in the car sheet"), QDialogButtonBox::AcceptRole);
    keep->setObjectName(QStringLiteral("keep-constants"));
    column->addWidget(buttons);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, [&] {
        std::vector<SheetValue> values;
        for (int i = 0; i < table->rowCount(); ++i) {
            if (table->item(i, 0)->checkState() != Qt::Checked) continue;
            const RestFigure& figure = figures[static_cast<std::size_t>(i)];
            const Channel* channel = recording.find_name(figure.channel);
            const Quantity* quantity = find_quantity(channel->quantity);
            // In people's unit, with digits enough that nothing of the scatter's size is lost.
            const std::string unit_text = quantity != nullptr ? std::string(quantity->shown_unit) : channel->unit;
            const auto unit = parse_compound_unit(unit_text);
            const double value = unit ? unit->from_si(figure.mean) : figure.mean;
            values.push_back({table->item(i, 4)->text().trimmed().toStdString(),
                              QLocale::c().toString(value, 'g', 7).toStdString(), unit_text});
        }
        if (values.empty()) return problem->setText(QObject::tr("Tick the channels to keep."));
        if (run->row.car.empty())
            return problem->setText(QObject::tr("This run has no car. Give it one in the Logbook first."));
        // Into the sheet that holds for this run, or a new one of its year.
        const std::string year =
            run->row.start_unix_s ? date_time(*run->row.start_unix_s).left(4).toStdString() : std::string();
        std::optional<CarSheet> before;
        for (const CarSheet& sheet : workspace.shown(workspace.library().car_sheets())) {
            if (sheet.car != run->row.car) continue;
            const bool better =
                !before || sheet.season == year || (before->season != year && before->valid_from < sheet.valid_from);
            if (better) before = sheet;
        }
        CarSheet after = before.value_or(CarSheet{run->row.car, year, {}, {}});
        for (const SheetValue& value : values) {
            const auto same = std::find_if(after.values.begin(), after.values.end(), [&](const auto& it) {
                return formula::plain_name(it.name) == formula::plain_name(value.name);
            });
            if (same != after.values.end())
                *same = value;
            else
                after.values.push_back(value);
        }
        workspace.edit(
            QObject::tr("constants measured at rest"),
            [&workspace, after] { return workspace.library().put_car_sheet(after); },
            [&workspace, before, after] {
                return before ? workspace.library().put_car_sheet(*before)
                              : workspace.library().remove_car_sheet(after.car, after.season);
            },
            Change::formulas);
        dialog.accept();
    });
    dialog.exec();
}

}  // namespace rendak::app
