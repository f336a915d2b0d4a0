#include "app/shell/shortcuts_dialog.h"

#include <QAction>
#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

#include "app/session/preferences.h"
#include "app/shell/main_window.h"
#include "app/text/fuzzy.h"
#include "app/text/plain_text.h"

namespace rendak::app {
namespace {

constexpr const char* came_with = "keys-as-they-came";

QString keys_text(const QAction& action) {
    return QKeySequence::listToString(action.shortcuts(), QKeySequence::NativeText);
}

/// Windows of one program share the table: the act's words name it.
QString action_name(const QAction& action, const QString& place) {
    return place + u'/' + action.text();
}

void take_own(QAction& action, const QString& place) {
    action.setProperty(came_with, QKeySequence::listToString(action.shortcuts(), QKeySequence::PortableText));
    const auto own = Preferences::of_person().keys(action_name(action, place));
    if (own) action.setShortcuts(QKeySequence::listFromString(*own, QKeySequence::PortableText));
}

}  // namespace

void use_own_keys(MainWindow& window) {
    for (QAction* action : window.actions()) take_own(*action, {});
    for (Desk* desk : window.desks()) {
        for (QAction* action : desk->actions()) take_own(*action, window.title_of_desk(*desk));
    }
}

ShortcutsDialog::ShortcutsDialog(MainWindow& window) : QDialog(&window), window_(window) {
    setWindowTitle(tr("Shortcuts"));
    setObjectName(QStringLiteral("shortcuts"));
    for (QAction* action : window.actions()) rows_.push_back({action, {}});
    for (Desk* desk : window.desks()) {
        for (QAction* action : desk->actions()) rows_.push_back({action, window.title_of_desk(*desk)});
    }
    auto* column = new QVBoxLayout(this);
    filter_ = new QLineEdit;
    filter_->setPlaceholderText(tr("Find an act or a key"));
    filter_->setAccessibleName(tr("Find an act or a key"));
    filter_->setClearButtonEnabled(true);
    column->addWidget(filter_);
    list_ = new QTreeWidget;
    list_->setAccessibleName(tr("Acts and their keys"));
    list_->setRootIsDecorated(false);
    list_->setUniformRowHeights(true);
    list_->setHeaderLabels({tr("Where"), tr("What it does"), tr("Keys")});
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(QHeaderView::ResizeToContents);
    list_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
    column->addWidget(list_, 1);
    auto* row = new QHBoxLayout;
    key_ = new QKeySequenceEdit;
    key_->setAccessibleName(tr("The new key"));
    set_ = new QPushButton(tr("Use this key"));
    none_ = new QPushButton(tr("No key"));
    came_ = new QPushButton(tr("As it came"));
    row->addWidget(key_, 1);
    for (QPushButton* button : {set_, none_, came_}) row->addWidget(button);
    column->addLayout(row);
    told_ =
        new PlainLabel(tr("With the mouse on traces: a drag zooms, a click puts the cursor, with Ctrl the pin; the "
                          "wheel zooms, with Shift it moves along; a double-click shows all."));
    told_->setWordWrap(true);
    column->addWidget(told_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    const auto current = [this] { return list_->indexOfTopLevelItem(list_->currentItem()); };
    connect(filter_, &QLineEdit::textChanged, this, &ShortcutsDialog::fill);
    connect(list_, &QTreeWidget::currentItemChanged, this, &ShortcutsDialog::show_row);
    connect(set_, &QPushButton::clicked, this, [this, current] { set_key(current(), key_->keySequence()); });
    connect(none_, &QPushButton::clicked, this, [this, current] { set_key(current(), {}); });
    connect(came_, &QPushButton::clicked, this, [this, current] { set_as_it_came(current()); });
    for (QPushButton* button : {set_, none_, came_}) button->setAutoDefault(false);
    resize(640, 520);
    fill();
}

void ShortcutsDialog::fill() {
    list_->clear();
    for (std::size_t i = 0; i < rows_.size(); ++i) {
        const QString place = rows_[i].place.isEmpty() ? tr("Everywhere") : rows_[i].place;
        const QString keys = keys_text(*rows_[i].action);
        if (fuzzy_score(filter_->text(), place + u' ' + rows_[i].action->text() + u' ' + keys) == 0) continue;
        auto* item = new QTreeWidgetItem(list_, {place, rows_[i].action->text(), keys});
        item->setData(0, Qt::UserRole, static_cast<int>(i));
        item->setToolTip(1, rows_[i].action->text());
    }
    if (list_->topLevelItemCount() > 0) list_->setCurrentItem(list_->topLevelItem(0));
    show_row();
}

void ShortcutsDialog::show_row() {
    const bool any = list_->currentItem() != nullptr;
    for (QPushButton* button : {set_, none_, came_}) button->setEnabled(any);
    key_->clear();
}

const ShortcutsDialog::Row* ShortcutsDialog::holder_of(const QKeySequence& key, const Row& besides) const {
    for (const Row& row : rows_) {
        if (row.action == besides.action) continue;
        // Two desks never hear the same key press; everywhere is heard on every desk.
        if (!row.place.isEmpty() && !besides.place.isEmpty() && row.place != besides.place) continue;
        if (row.action->shortcuts().contains(key)) return &row;
    }
    return nullptr;
}

bool ShortcutsDialog::set_key(int at, const QKeySequence& key) {
    QTreeWidgetItem* item = list_->topLevelItem(at);
    if (item == nullptr) return false;
    const Row& row = rows_[static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt())];
    if (!key.isEmpty()) {
        if (const Row* holder = holder_of(key, row)) {
            told_->setText(tr("%1 is taken: \"%2\" has it. Give that one another key first; nothing was changed.")
                               .arg(key.toString(QKeySequence::NativeText), holder->action->text()));
            return false;
        }
    }
    row.action->setShortcuts(key.isEmpty() ? QList<QKeySequence>() : QList<QKeySequence>{key});
    Preferences::of_person().set_keys(action_name(*row.action, row.place),
                                      QKeySequence::listToString(row.action->shortcuts(), QKeySequence::PortableText));
    item->setText(2, keys_text(*row.action));
    told_->setText(key.isEmpty() ? tr("\"%1\" has no key now.").arg(row.action->text())
                                 : tr("\"%1\" has %2 now.").arg(row.action->text(), keys_text(*row.action)));
    key_->clear();
    return true;
}

void ShortcutsDialog::set_as_it_came(int at) {
    QTreeWidgetItem* item = list_->topLevelItem(at);
    if (item == nullptr) return;
    const Row& row = rows_[static_cast<std::size_t>(item->data(0, Qt::UserRole).toInt())];
    const auto keys =
        QKeySequence::listFromString(row.action->property(came_with).toString(), QKeySequence::PortableText);
    for (const QKeySequence& key : keys) {
        if (const Row* holder = holder_of(key, row)) {
            told_->setText(tr("%1 is taken: \"%2\" has it now. Give that one another key first.")
                               .arg(key.toString(QKeySequence::NativeText), holder->action->text()));
            return;
        }
    }
    row.action->setShortcuts(keys);
    Preferences::of_person().set_keys(action_name(*row.action, row.place), std::nullopt);
    item->setText(2, keys_text(*row.action));
}

}  // namespace rendak::app
