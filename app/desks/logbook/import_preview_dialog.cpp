#include "app/desks/logbook/import_preview_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/text/plain_text.h"
#include "app/text/text_of.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak::app {
namespace {

enum PreviewColumn { use, title, stands_for, said_unit, values, preview_columns };

}  // namespace

ImportPreviewDialog::ImportPreviewDialog(const TablePreview& preview, const std::optional<TableMapping>& remembered,
                                         const std::vector<Question>& questions, QWidget* parent)
    : QDialog(parent), preview_(preview) {
    setWindowTitle(tr("A look before the import"));
    resize(760, 520);
    auto* column = new QVBoxLayout(this);
    import_ = new QPushButton(tr("Import"));
    auto* hint = new PlainLabel(
        questions.empty()
            ? tr("Correct what was read wrongly. The next file with the same columns is read the same way.")
            : tr("Only you know this. The next file with the same columns is read the same way."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    if (!questions.empty()) ask(questions, column);
    table_ = new QTableWidget(static_cast<int>(preview.shape.columns.size()), preview_columns);
    table_->setHorizontalHeaderLabels({tr("Use"), tr("Column"), tr("Stands for"), tr("Unit"), tr("First values")});
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(32);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->horizontalHeader()->resizeSection(use, 40);
    table_->horizontalHeader()->resizeSection(PreviewColumn::title, 170);
    table_->horizontalHeader()->resizeSection(stands_for, 170);
    table_->horizontalHeader()->resizeSection(said_unit, 80);
    table_->setAccessibleName(tr("Columns of the table"));
    for (int row = 0; row < table_->rowCount(); ++row) {
        const auto i = static_cast<std::size_t>(row);
        const TableColumn& head = preview.shape.columns[i];
        const TableMapping::Column* old = remembered ? remembered->find(head.name) : nullptr;
        auto* tick = new QTableWidgetItem;
        tick->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable);
        tick->setCheckState(head.kind == TableColumn::Kind::text || (old != nullptr && !old->use) ? Qt::Unchecked
                                                                                                  : Qt::Checked);
        table_->setItem(row, use, tick);
        auto* title = new QTableWidgetItem(text_of(head.name));
        title->setFlags(Qt::ItemIsEnabled);
        table_->setItem(row, PreviewColumn::title, title);
        auto* choice = new QComboBox;
        choice->addItem(tr("nothing known"), QString());
        for (const Quantity& quantity : all_quantities())
            choice->addItem(text_of(quantity.label), text_of(quantity.id));
        const std::string chosen =
            old != nullptr && old->quantity != TableMapping::by_itself ? old->quantity : preview.matched[i];
        choice->setCurrentIndex(std::max(0, choice->findData(text_of(chosen))));
        choice->setAccessibleName(tr("What %1 stands for").arg(text_of(head.name)));
        table_->setCellWidget(row, stands_for, choice);
        table_->setItem(row, said_unit,
                        new QTableWidgetItem(text_of(old != nullptr && !old->unit.empty() ? old->unit : head.unit)));
        QStringList first;
        for (const auto& cells : preview.rows) first << text_of(cells[i]);
        auto* shown = new QTableWidgetItem(first.join(QStringLiteral("   ")));
        shown->setFlags(Qt::ItemIsEnabled);
        table_->setItem(row, values, shown);
    }
    column->addWidget(table_, 1);
    auto* row = new QHBoxLayout;
    rate_ = new QDoubleSpinBox;
    rate_->setRange(0, 1e6);
    rate_->setDecimals(3);
    rate_->setSpecialValueText(tr("from the time column"));
    rate_->setValue(remembered && remembered->rate_hz ? *remembered->rate_hz : 0);
    rate_->setAccessibleName(tr("Rows per second"));
    row->addWidget(new PlainLabel(tr("Rows per second")));
    row->addWidget(rate_);
    row->addStretch();
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    import_->setProperty("primary", true);
    buttons->addButton(import_, QDialogButtonBox::AcceptRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    row->addWidget(buttons);
    column->addLayout(row);
}

void ImportPreviewDialog::ask(const std::vector<Question>& questions, QVBoxLayout* column) {
    std::vector<QComboBox*> choices;
    for (const Question& question : questions) {
        auto* text = new PlainLabel(text_of(question.text));
        text->setWordWrap(true);
        column->addWidget(text);
        auto* choice = new QComboBox;
        choice->addItem(tr("choose …"));
        for (const Question::Answer& answer : question.answers) choice->addItem(text_of(answer.label));
        choice->setAccessibleName(text_of(question.text));
        choice->setObjectName(QStringLiteral("answer"));
        auto* line = new QHBoxLayout;
        line->addWidget(choice);
        line->addStretch();
        column->addLayout(line);
        connect(choice, &QComboBox::activated, this, [this, question](int index) {
            if (index > 0) take(question.answers[static_cast<std::size_t>(index - 1)]);
        });
        choices.push_back(choice);
    }
    // What only the owner knows is not guessed by pressing Enter.
    const auto settle = [this, choices] {
        import_->setEnabled(
            std::all_of(choices.begin(), choices.end(), [](QComboBox* choice) { return choice->currentIndex() > 0; }));
    };
    for (QComboBox* choice : choices) connect(choice, &QComboBox::currentIndexChanged, this, settle);
    settle();
}

void ImportPreviewDialog::take(const Question::Answer& answer) {
    for (const std::string& text : takes_of(answer)) {
        const auto said = answered_column(text);
        if (!said) continue;
        for (int row = 0; row < table_->rowCount(); ++row) {
            if (preview_.shape.columns[static_cast<std::size_t>(row)].name != said->name) continue;
            table_->item(row, use)->setCheckState(said->use ? Qt::Checked : Qt::Unchecked);
            auto* choice = static_cast<QComboBox*>(table_->cellWidget(row, stands_for));
            choice->setCurrentIndex(std::max(0, choice->findData(text_of(said->quantity))));
            // An answer that names no unit leaves the file's own.
            if (!said->unit.empty()) table_->item(row, said_unit)->setText(text_of(said->unit));
            table_->scrollToItem(table_->item(row, PreviewColumn::title));
        }
    }
}

TableMapping ImportPreviewDialog::mapping() const {
    TableMapping out;
    for (int row = 0; row < table_->rowCount(); ++row) {
        const auto* choice = static_cast<const QComboBox*>(table_->cellWidget(row, stands_for));
        const TableColumn& head = preview_.shape.columns[static_cast<std::size_t>(row)];
        const std::string unit_text = table_->item(row, said_unit)->text().trimmed().toStdString();
        // What was left as it is is told anew in every file.
        const std::string chosen = choice->currentData().toString().toStdString();
        const bool as_told = chosen == preview_.matched[static_cast<std::size_t>(row)];
        out.columns.push_back({head.name, table_->item(row, use)->checkState() == Qt::Checked,
                               as_told ? TableMapping::by_itself : chosen, unit_text == head.unit ? "" : unit_text});
    }
    if (rate_->value() > 0) out.rate_hz = rate_->value();
    return out;
}

}  // namespace rendak::app
