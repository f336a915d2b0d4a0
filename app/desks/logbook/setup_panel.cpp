#include "app/desks/logbook/setup_panel.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "core/analysis/sheet_difference.h"

namespace rendak::app {

SetupPanel::SetupPanel(Workspace& workspace, QWidget* parent) : QWidget(parent), workspace_(workspace) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    auto* top = new QHBoxLayout;
    sheets_ = new QComboBox;
    sheets_->setAccessibleName(tr("Setup sheet of this run"));
    sheets_->setObjectName(QStringLiteral("setup-of-run"));
    sheets_->setMinimumContentsLength(12);
    other_ = new QComboBox;
    other_->setAccessibleName(tr("Run to hold it against"));
    other_->setObjectName(QStringLiteral("setup-against"));
    other_->setMinimumContentsLength(12);
    top->addWidget(new PlainLabel(tr("Drove with")));
    top->addWidget(sheets_, 1);
    top->addWidget(new PlainLabel(tr("against")));
    top->addWidget(other_, 1);
    column->addLayout(top);
    difference_ = new PlainLabel;
    difference_->setWordWrap(true);
    difference_->setObjectName(QStringLiteral("setup-difference"));
    column->addWidget(difference_);
    table_ = new SheetTable;
    column->addWidget(table_, 1);
    auto* foot = new QHBoxLayout;
    name_ = new QLineEdit;
    name_->setPlaceholderText(tr("name of the sheet"));
    name_->setAccessibleName(tr("Name of the sheet"));
    save_ = new QPushButton(tr("Save as a new version"));
    save_->setObjectName(QStringLiteral("save-setup"));
    save_->setToolTip(tr("Saved versions never change; the selected runs get the new one"));
    foot->addWidget(name_, 1);
    foot->addWidget(save_);
    column->addLayout(foot);
    connect(sheets_, &QComboBox::activated, this, &SetupPanel::choose_sheet);
    connect(other_, &QComboBox::activated, this, &SetupPanel::compare);
    connect(table_, &SheetTable::edited, this, [this] {
        save_->setEnabled(true);
        save_->setProperty("primary", true);
        compare();
    });
    connect(save_, &QPushButton::clicked, this, &SetupPanel::save);
}

void SetupPanel::show_runs(const std::vector<RunId>& runs) {
    runs_ = runs;
    setEnabled(!runs.empty());
    const auto row =
        runs.empty() ? Result<RunRow>(fail(ErrorCode::not_found, "")) : workspace_.library().run(runs.front());
    const QVariant against = other_->currentData();
    sheets_->clear();
    other_->clear();
    if (!row) {
        table_->set_values({});
        difference_->clear();
        return;
    }
    sheets_->addItem(tr("no sheet"), QVariant::fromValue<qlonglong>(0));
    for (const Setup& sheet : workspace_.shown(workspace_.library().setups(row->car))) {
        const QString remarks =
            sheet.remarks.empty() ? QString() : QStringLiteral(" – ") + QString::fromStdString(sheet.remarks);
        sheets_->addItem(QString::fromStdString(sheet.title()) + remarks,
                         QVariant::fromValue<qlonglong>(sheet.id.value));
    }
    sheets_->setCurrentIndex(sheets_->findData(QVariant::fromValue<qlonglong>(row->setup.value)));
    other_->addItem(tr("nothing"), QVariant::fromValue<qlonglong>(0));
    for (const RunRow& run : workspace_.shown(workspace_.library().runs())) {
        if (run.id == row->id || !run.setup) continue;
        other_->addItem(QString::fromStdString(run.name + " (" + run.setup_name + ")"),
                        QVariant::fromValue<qlonglong>(run.id.value));
    }
    const int again = other_->findData(against);
    other_->setCurrentIndex(std::max(again, 0));
    show_sheet();
}

void SetupPanel::show_sheet() {
    const SetupId id{sheets_->currentData().toLongLong()};
    std::vector<SheetValue> values;
    name_->setText(tr("Base"));
    if (id) {
        const auto sheet = workspace_.library().setup(id);
        if (!sheet) return workspace_.tell(sheet.error());
        values = sheet->values;
        name_->setText(QString::fromStdString(sheet->name));
    }
    table_->set_values(values);
    save_->setEnabled(false);
    compare();
}

void SetupPanel::choose_sheet(int) {
    give({sheets_->currentData().toLongLong()}, tr("choice of the setup sheet"));
}

void SetupPanel::give(SetupId sheet, const QString& what) {
    std::vector<std::pair<RunId, SetupId>> before;
    for (const RunId id : runs_) {
        if (const auto row = workspace_.library().run(id)) before.emplace_back(id, row->setup);
    }
    const auto put = [this](RunId id, SetupId to) -> Result<void> {
        const auto row = workspace_.library().run(id);
        if (!row) return pass_on(row.error());
        RunFacts facts = *row;
        facts.setup = to;
        return workspace_.library().set_facts(id, facts);
    };
    workspace_.edit(
        what,
        [put, before, sheet]() -> Result<void> {
            for (const auto& [id, old] : before) {
                if (auto done = put(id, sheet); !done) return done;
            }
            return {};
        },
        [put, before]() -> Result<void> {
            for (const auto& [id, old] : before) {
                if (auto done = put(id, old); !done) return done;
            }
            return {};
        },
        Change::papers);
}

void SetupPanel::save() {
    if (runs_.empty()) return;
    const auto row = workspace_.library().run(runs_.front());
    if (!row) return workspace_.tell(row.error());
    const auto made = workspace_.library().add_setup(row->car, name_->text().trimmed().toStdString(), table_->values());
    if (!made) return workspace_.tell(made.error());
    give(*made, tr("new setup sheet"));
    if (const auto sheet = workspace_.library().setup(*made))
        workspace_.tell(tr("Saved as %1.").arg(QString::fromStdString(sheet->title())));
}

void SetupPanel::compare() {
    const RunId other{other_->currentData().toLongLong()};
    const auto row = other ? workspace_.library().run(other) : Result<RunRow>(fail(ErrorCode::not_found, ""));
    const auto sheet = row ? workspace_.library().setup(row->setup) : Result<Setup>(fail(ErrorCode::not_found, ""));
    if (!sheet) {
        table_->hold_against({}, {});
        difference_->clear();
        difference_->hide();
        return;
    }
    table_->hold_against(QString::fromStdString(row->name), sheet->values);
    const auto own = table_->values();
    const auto differences = sheet_differences(sheet->values, own);
    difference_->show();
    difference_->setText(
        differences.empty()
            ? tr("The same as %1.").arg(QString::fromStdString(row->name))
            : tr("%1 to %2: %3.")
                  .arg(counted(static_cast<qsizetype>(differences.size()), tr("difference"), tr("differences")),
                       QString::fromStdString(row->name), QString::fromStdString(changes_text(differences))));
}

}  // namespace rendak::app
