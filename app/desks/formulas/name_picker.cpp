#include "app/desks/formulas/name_picker.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/theme/theme.h"

namespace rendak::app {

namespace {
constexpr int text_role = Qt::UserRole, help_role = Qt::UserRole + 1;
}

NamePicker::NamePicker(QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    kinds_ = new QButtonGroup(this);
    for (const auto& [kind, label] :
         {std::pair{channels, tr("Channels")}, {functions, tr("Functions")}, {constants, tr("Constants")}}) {
        auto* button = new QPushButton(label);
        button->setCheckable(true);
        button->setChecked(kind == channels);
        kinds_->addButton(button, kind);
        row->addWidget(button);
    }
    column->addLayout(row);
    filter_ = new QLineEdit;
    filter_->setPlaceholderText(tr("Find"));
    filter_->setAccessibleName(tr("Find a name"));
    filter_->setClearButtonEnabled(true);
    column->addWidget(filter_);
    list_ = new QTreeWidget;
    list_->setObjectName(QStringLiteral("names"));
    list_->setAccessibleName(tr("Names for formulas"));
    list_->setColumnCount(2);
    list_->setHeaderHidden(true);
    list_->setRootIsDecorated(false);
    list_->setIndentation(8);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    list_->header()->setStretchLastSection(false);
    column->addWidget(list_, 1);
    help_ = new PlainLabel(tr("Double click or Enter puts a name into the formula."));
    help_->setObjectName(QStringLiteral("name-help"));
    help_->setWordWrap(true);
    help_->setMinimumHeight(76);
    help_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(help_);
    connect(kinds_, &QButtonGroup::idClicked, this, &NamePicker::fill);
    connect(filter_, &QLineEdit::textChanged, this, &NamePicker::fill);
    connect(list_, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) { choose(item); });
    connect(list_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        if (item != nullptr) help_->setText(item->data(0, help_role).toString());
    });
}

void NamePicker::set_entries(Kind kind, std::vector<Entry> entries) {
    entries_[static_cast<std::size_t>(kind)] = std::move(entries);
    if (kinds_->checkedId() == kind) fill();
}

void NamePicker::show_kind(Kind kind) {
    kinds_->button(kind)->setChecked(true);
    fill();
}

void NamePicker::fill() {
    const QString words = filter_->text().trimmed();
    list_->clear();
    QTreeWidgetItem* group = nullptr;
    for (const Entry& entry : entries_[static_cast<std::size_t>(kinds_->checkedId())]) {
        if (!words.isEmpty() && !entry.name.contains(words, Qt::CaseInsensitive) &&
            !entry.detail.contains(words, Qt::CaseInsensitive) && !entry.help.contains(words, Qt::CaseInsensitive))
            continue;
        if (group == nullptr || group->text(0) != entry.group) {
            group = new QTreeWidgetItem(list_, {entry.group});
            group->setFlags(Qt::ItemIsEnabled);
            group->setFont(0, body_font(true));
            group->setFirstColumnSpanned(true);
            group->setExpanded(true);
        }
        auto* item = new QTreeWidgetItem(group, {entry.name, entry.detail});
        item->setData(0, text_role, entry.inserted);
        item->setData(0, help_role, entry.help);
        item->setToolTip(0, entry.help);
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
    }
    if (list_->topLevelItemCount() == 0)
        help_->setText(
            kinds_->checkedId() == constants && words.isEmpty()
                ? tr("There is no car sheet for the car of the picked lap. Logbook, Library, Car sheets … makes one.")
                : tr("Nothing is called so."));
}

void NamePicker::choose(QTreeWidgetItem* item) {
    const QString text = item->data(0, text_role).toString();
    if (!text.isEmpty()) Q_EMIT chosen(text);
}

}  // namespace rendak::app
