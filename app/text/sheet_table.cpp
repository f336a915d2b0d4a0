#include "app/text/sheet_table.h"

#include <QHeaderView>

#include "app/theme/theme.h"
#include "core/analysis/sheet_difference.h"
#include "core/base/text.h"

namespace rendak::app {

SheetTable::SheetTable(QWidget* parent) : QTableWidget(0, 4, parent) {
    setHorizontalHeaderLabels({tr("Name"), tr("Value"), tr("Unit"), QString()});
    setColumnHidden(3, true);
    verticalHeader()->hide();
    verticalHeader()->setDefaultSectionSize(24);
    horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    horizontalHeader()->resizeSection(1, 80);
    horizontalHeader()->resizeSection(2, 70);
    setShowGrid(false);
    setAccessibleName(tr("Lines of the sheet"));
    connect(this, &QTableWidget::cellChanged, this, [this](int row, int) {
        if (filling_) return;
        if (row == rowCount() - 1 && item(row, 0) != nullptr && !item(row, 0)->text().trimmed().isEmpty())
            insertRow(rowCount());
        mark_differences();
        Q_EMIT edited();
    });
    set_values({});
}

void SheetTable::set_values(const std::vector<SheetValue>& values) {
    filling_ = true;
    setRowCount(static_cast<int>(values.size()) + 1);
    for (int row = 0; row < rowCount(); ++row) {
        const bool last = row == rowCount() - 1;
        const SheetValue value = last ? SheetValue{} : values[static_cast<std::size_t>(row)];
        int column = 0;
        for (const std::string& text : {value.name, value.value, value.unit}) {
            auto* cell = new QTableWidgetItem(QString::fromStdString(text));
            if (column == 1) cell->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            setItem(row, column++, cell);
        }
    }
    filling_ = false;
    mark_differences();
}

std::vector<SheetValue> SheetTable::values() const {
    std::vector<SheetValue> out;
    for (int row = 0; row < rowCount(); ++row) {
        const auto text = [&](int column) {
            return item(row, column) == nullptr ? std::string() : item(row, column)->text().trimmed().toStdString();
        };
        if (!text(0).empty()) out.push_back({text(0), text(1), text(2)});
    }
    return out;
}

void SheetTable::hold_against(const QString& title, const std::vector<SheetValue>& others) {
    others_ = others;
    setColumnHidden(3, title.isEmpty());
    setHorizontalHeaderItem(3, new QTableWidgetItem(title));
    horizontalHeader()->resizeSection(3, 96);
    mark_differences();
}

void SheetTable::mark_differences() {
    filling_ = true;
    const bool held = !isColumnHidden(3);
    const auto own = values();
    const auto differences = sheet_differences(others_, own);
    for (int row = 0; row < rowCount(); ++row) {
        const std::string name = item(row, 0) == nullptr ? "" : item(row, 0)->text().toStdString();
        const auto same_name = [&](const auto& one) { return !name.empty() && folded(one.name) == folded(name); };
        const bool differs = held && std::any_of(differences.begin(), differences.end(), same_name);
        const auto other = std::find_if(others_.begin(), others_.end(), same_name);
        for (int column = 0; column < 3; ++column) {
            if (item(row, column) != nullptr) item(row, column)->setFont(body_font(differs));
        }
        auto* cell = new QTableWidgetItem(other == others_.end() ? (name.empty() ? QString() : QStringLiteral("–"))
                                                                 : QString::fromStdString(other->value));
        cell->setFlags(Qt::ItemIsEnabled);
        cell->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        cell->setFont(body_font(differs));
        setItem(row, 3, cell);
    }
    filling_ = false;
}

}  // namespace rendak::app
