#include "app/desks/stint/rules_dialog.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>
#include <algorithm>

#include "app/text/plain_text.h"
#include "app/theme/theme.h"

namespace rendak::app {

RulesDialog::RulesDialog(Workspace& workspace, QWidget* parent) : QDialog(parent), workspace_(workspace) {
    setObjectName(QStringLiteral("rules-dialog"));
    setWindowTitle(tr("Watch rules"));
    resize(820, 460);
    auto* whole = new QVBoxLayout(this);
    auto* row = new QHBoxLayout;
    auto* left = new QVBoxLayout;
    list_ = new QListWidget;
    list_->setAccessibleName(tr("Rules"));
    left->addWidget(list_, 1);
    auto* fresh = new QPushButton(tr("New rule"));
    fresh->setAutoDefault(false);
    connect(fresh, &QPushButton::clicked, this, [this] {
        list_->setCurrentRow(-1);
        show_rule({});
        name_->setFocus();
    });
    left->addWidget(fresh);
    row->addLayout(left, 2);
    auto* form = new QFormLayout;
    name_ = new QLineEdit;
    name_->setObjectName(QStringLiteral("rule-name"));
    condition_ = new QLineEdit;
    condition_->setObjectName(QStringLiteral("rule-condition"));
    condition_->setFont(formula_font());
    value_ = new QLineEdit;
    value_->setFont(formula_font());
    beside_ = new QLineEdit;
    beside_->setFont(formula_font());
    worst_ = new QComboBox;
    worst_->addItems({tr("the highest value is the worst"), tr("the lowest value is the worst")});
    for_s_ = new QDoubleSpinBox;
    apart_s_ = new QDoubleSpinBox;
    for (QDoubleSpinBox* box : {for_s_, apart_s_}) {
        box->setRange(0, 1e6);
        box->setDecimals(3);
        box->setSuffix(tr(" s"));
    }
    times_ = new QSpinBox;
    times_->setRange(1, 1000000);
    off_ = new QCheckBox(tr("off: not looked at"));
    form->addRow(tr("Name"), name_);
    form->addRow(tr("Speaks where"), condition_);
    form->addRow(tr("Tells"), value_);
    form->addRow(QString(), worst_);
    form->addRow(tr("Lasting at least"), for_s_);
    form->addRow(tr("One, if closer than"), apart_s_);
    form->addRow(tr("From so many times on"), times_);
    form->addRow(tr("With it stands"), beside_);
    form->addRow(QString(), off_);
    auto* hint =
        new PlainLabel(tr("Conditions are formulas, true where something is wrong: hysteresis(oil_pressure, 2 bar, "
                          "2.5 bar), car.… for limits of the car sheet. What stands with it: formulas parted by ;"));
    hint->setWordWrap(true);
    hint->setProperty("secondary", true);
    auto* right = new QVBoxLayout;
    right->addLayout(form);
    right->addWidget(hint);
    problem_ = new PlainLabel;
    problem_->setObjectName(QStringLiteral("rule-problem"));
    problem_->setWordWrap(true);
    right->addWidget(problem_);
    right->addStretch();
    row->addLayout(right, 3);
    whole->addLayout(row, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* keeping = buttons->addButton(tr("Keep, and check all runs"), QDialogButtonBox::ActionRole);
    keeping->setAutoDefault(false);
    remove_ = buttons->addButton(tr("Take away"), QDialogButtonBox::ActionRole);
    remove_->setAutoDefault(false);
    connect(keeping, &QPushButton::clicked, this, &RulesDialog::keep);
    connect(remove_, &QPushButton::clicked, this, &RulesDialog::take_away);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    whole->addWidget(buttons);
    connect(list_, &QListWidget::currentItemChanged, this, [this](const QListWidgetItem* item) {
        if (item != nullptr) show_rule(item->data(Qt::UserRole).toString());
    });
    fill();
}

void RulesDialog::fill(const QString& chosen) {
    const WatchBook book = workspace_.shown(watch_book(workspace_.library()));
    const QSignalBlocker quiet(list_);
    list_->clear();
    const auto add = [&](const WatchRule& rule, bool own) {
        const QString name = QString::fromStdString(rule.name);
        auto* item = new QListWidgetItem(name + (rule.off ? tr(" (off)") : own ? tr(" (own)") : QString()), list_);
        item->setData(Qt::UserRole, name);
        item->setFont(body_font(own));
    };
    const auto own = [&](const std::string& name) {
        return std::any_of(book.own.begin(), book.own.end(), [&](const WatchRule& it) { return it.name == name; });
    };
    for (const WatchRule& shipped : shipped_watch_rules()) add(*book.find(shipped.name), own(shipped.name));
    for (const WatchRule& it : book.own) {
        const auto& shipped = shipped_watch_rules();
        if (std::none_of(shipped.begin(), shipped.end(), [&](const WatchRule& one) { return one.name == it.name; }))
            add(it, true);
    }
    for (int k = 0; k < list_->count(); ++k) {
        if (list_->item(k)->data(Qt::UserRole).toString() == chosen || (chosen.isEmpty() && k == 0))
            list_->setCurrentRow(k);
    }
    if (list_->currentItem() != nullptr) show_rule(list_->currentItem()->data(Qt::UserRole).toString());
}

void RulesDialog::show_rule(const QString& name) {
    const WatchBook book = workspace_.shown(watch_book(workspace_.library()));
    const WatchRule* found = book.find(name.toStdString());
    const WatchRule rule = found == nullptr ? WatchRule{} : *found;
    name_->setText(QString::fromStdString(rule.name));
    condition_->setText(QString::fromStdString(rule.condition));
    condition_->setCursorPosition(0);
    value_->setText(QString::fromStdString(rule.value));
    worst_->setCurrentIndex(rule.worst_is_low ? 1 : 0);
    for_s_->setValue(rule.for_s);
    apart_s_->setValue(rule.apart_s);
    times_->setValue(static_cast<int>(rule.times));
    QStringList beside;
    for (const std::string& it : rule.beside) beside << QString::fromStdString(it);
    beside_->setText(beside.join(QStringLiteral("; ")));
    beside_->setCursorPosition(0);
    off_->setChecked(rule.off);
    problem_->clear();
    remove_->setEnabled(
        std::any_of(book.own.begin(), book.own.end(), [&](const WatchRule& it) { return it.name == rule.name; }));
}

WatchRule RulesDialog::written() const {
    WatchRule out;
    out.name = name_->text().trimmed().toStdString();
    out.condition = condition_->text().trimmed().toStdString();
    out.value = value_->text().trimmed().toStdString();
    out.worst_is_low = worst_->currentIndex() == 1;
    out.for_s = for_s_->value();
    out.apart_s = apart_s_->value();
    out.times = static_cast<std::size_t>(times_->value());
    for (const QString& it : beside_->text().split(u';')) {
        if (!it.trimmed().isEmpty()) out.beside.push_back(it.trimmed().toStdString());
    }
    out.off = off_->isChecked();
    return out;
}

bool RulesDialog::keep() {
    const WatchRule rule = written();
    const WatchBook before = workspace_.shown(watch_book(workspace_.library()));
    std::optional<WatchRule> former;
    for (const WatchRule& it : before.own) {
        if (it.name == rule.name) former = it;
    }
    // Said here, where it is written: a dialog hides the foot line.
    Result<void> kept;
    {
        Library::Act trial(workspace_.library());
        kept = trial.begun();
        if (kept) kept = put_watch_rule(workspace_.library(), rule);
    }
    if (!kept) {
        problem_->setText(QString::fromStdString(kept.error().text()));
        return false;
    }
    // The edits outlive the dialog.
    Library* library = &workspace_.library();
    const bool fine = workspace_.edit(
        tr("keep the watch rule %1").arg(name_->text()), [library, rule] { return put_watch_rule(*library, rule); },
        [library, rule, former] {
            return former ? put_watch_rule(*library, *former) : remove_watch_rule(*library, rule.name);
        },
        Change::rules);
    if (!fine) return false;
    fill(QString::fromStdString(rule.name));
    return true;
}

void RulesDialog::take_away() {
    const std::string name = name_->text().trimmed().toStdString();
    const WatchBook before = workspace_.shown(watch_book(workspace_.library()));
    Library* library = &workspace_.library();
    for (const WatchRule& it : before.own) {
        if (it.name != name) continue;
        workspace_.edit(
            tr("take the watch rule %1 away").arg(name_->text()),
            [library, name] { return remove_watch_rule(*library, name); },
            [library, it] { return put_watch_rule(*library, it); }, Change::rules);
        break;
    }
    fill();
}

}  // namespace rendak::app
