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

#include "app/text/plain_text.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak::app {
namespace {

enum Column { use, name, stands_for, unit, values, column_count };

QString text_of(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
}

}  // namespace

ImportPreviewDialog::ImportPreviewDialog(const TablePreview& preview, const std::optional<TableMapping>& remembered,
                                         QWidget* parent)
    : QDialog(parent), preview_(preview) {
    setWindowTitle(tr("A look before the import"));
    resize(760, 520);
    auto* column = new QVBoxLayout(this);
    auto* hint =
        new PlainLabel(tr("Correct what was read wrongly. The next file with the same columns is read the same way."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    table_ = new QTableWidget(static_cast<int>(preview.shape.columns.size()), column_count);
    table_->setHorizontalHeaderLabels({tr("Use"), tr("Column"), tr("Stands for"), tr("Unit"), tr("First values")});
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(32);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->horizontalHeader()->resizeSection(use, 40);
    table_->horizontalHeader()->resizeSection(name, 170);
    table_->horizontalHeader()->resizeSection(stands_for, 170);
    table_->horizontalHeader()->resizeSection(unit, 80);
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
        table_->setItem(row, name, title);
        auto* choice = new QComboBox;
        choice->addItem(tr("nothing known"), QString());
        for (const Quantity& quantity : all_quantities())
            choice->addItem(text_of(quantity.label), text_of(quantity.id));
        const std::string chosen =
            old != nullptr && old->quantity != TableMapping::by_itself ? old->quantity : preview.matched[i];
        choice->setCurrentIndex(std::max(0, choice->findData(text_of(chosen))));
        choice->setAccessibleName(tr("What %1 stands for").arg(text_of(head.name)));
        table_->setCellWidget(row, stands_for, choice);
        table_->setItem(row, unit,
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
    buttons->addButton(tr("Import"), QDialogButtonBox::AcceptRole)->setProperty("primary", true);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    row->addWidget(buttons);
    column->addLayout(row);
}

TableMapping ImportPreviewDialog::mapping() const {
    TableMapping out;
    for (int row = 0; row < table_->rowCount(); ++row) {
        const auto* choice = static_cast<const QComboBox*>(table_->cellWidget(row, stands_for));
        const TableColumn& head = preview_.shape.columns[static_cast<std::size_t>(row)];
        const std::string unit_text = table_->item(row, unit)->text().trimmed().toStdString();
        out.columns.push_back({head.name, table_->item(row, use)->checkState() == Qt::Checked,
                               choice->currentData().toString().toStdString(),
                               unit_text == head.unit ? "" : unit_text});
    }
    if (rate_->value() > 0) out.rate_hz = rate_->value();
    return out;
}

}  // namespace rendak::app
