// How the Formulas desk is laid out.
#include "app/desks/formulas/formulas_desk.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QCompleter>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QSpinBox>
#include <QSplitter>
#include <QStringListModel>
#include <QTreeWidget>
#include <QVBoxLayout>

#include "app/desks/formulas/formula_edit.h"
#include "app/desks/formulas/formula_roles.h"
#include "app/desks/formulas/name_picker.h"
#include "app/desks/formulas/preview_plot.h"
#include "app/desks/formulas/set_dialogs.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/units/compound_unit.h"

namespace rendak::app {

// ---- building --------------------------------------------------------------------------------------

QWidget* FormulasDesk::build_list(QWidget* parent) {
    auto* panel = new QWidget(parent);
    panel->setMinimumWidth(220);
    auto* column = new QVBoxLayout(panel);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    find_ = new QLineEdit;
    find_->setPlaceholderText(tr("Find a formula"));
    find_->setAccessibleName(tr("Find a formula"));
    find_->setClearButtonEnabled(true);
    column->addWidget(find_);
    list_ = new QTreeWidget;
    list_->setObjectName(QStringLiteral("formulas"));
    list_->setAccessibleName(tr("Formula sets"));
    list_->setColumnCount(2);
    list_->setHeaderHidden(true);
    list_->setRootIsDecorated(false);
    list_->setIndentation(8);
    list_->header()->setStretchLastSection(false);
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    column->addWidget(list_, 1);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    auto* add = new QPushButton(tr("New formula"));
    add->setObjectName(QStringLiteral("new-formula"));
    auto* sets = new QPushButton(tr("Sets"));
    sets->setObjectName(QStringLiteral("sets"));
    auto* menu = new QMenu(sets);
    const auto act = [&](const QString& text, auto what) {
        connect(menu->addAction(text), &QAction::triggered, this, what);
    };
    act(tr("New set …"), [this] { new_set(); });
    act(tr("Set's car, event, remarks …"), [this] {
        const formula::FormulaSet* set = find_set(set_);
        if (set == nullptr || is_read_only()) return workspace_.tell(tr("The shipped set stays as it is."));
        if (const auto after = ask_set(workspace_, *set, this); after && !(*after == *set))
            save_set(*after, tr("what the set is for"));
    });
    act(tr("Versions …"), [this] { show_history(); });
    act(tr("Remove the set"), [this] { remove_set(); });
    menu->addSeparator();
    act(tr("Import a set …"), [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("Formula set"), {}, tr("Formula sets (*.json)"));
        if (!file.isEmpty()) import_set(file);
    });
    act(tr("Export the set …"), [this] {
        const QString file = QFileDialog::getSaveFileName(
            this, tr("Formula set"), text_of(set_) + QStringLiteral(".json"), tr("Formula sets (*.json)"));
        if (file.isEmpty()) return;
        if (const auto done = export_set(file); !done) workspace_.tell(done.error());
    });
    menu->addSeparator();
    act(tr("Paste a formula"), [this] {
        if (const auto done = paste(QApplication::clipboard()->text()); !done) workspace_.tell(done.error());
    });
    act(tr("Copy the formula as text"),
        [this] { QApplication::clipboard()->setText(text_of(formula::formula_to_text(draft()))); });
    menu->addSeparator();
    act(tr("Measure constants from the recording …"), [this] { measure_at_rest(); });
    sets->setMenu(menu);
    row->addWidget(add);
    row->addWidget(sets);
    column->addLayout(row);
    connect(add, &QPushButton::clicked, this, &FormulasDesk::new_formula);
    connect(find_, &QLineEdit::textChanged, this, &FormulasDesk::fill_list);
    connect(list_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) {
        if (item == nullptr || filling_) return;
        select({item->data(0, formula_set_role).toString().toStdString(),
                item->data(0, formula_name_role).toString().toStdString()});
    });
    return panel;
}

QWidget* FormulasDesk::build_editor(QWidget* parent) {
    auto* panel = new QWidget(parent);
    auto* column = new QVBoxLayout(panel);
    column->setContentsMargins(8, 0, 8, 0);
    column->setSpacing(6);
    auto* top = new QHBoxLayout;
    title_ = new ElidedLabel;
    title_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    title_->setObjectName(QStringLiteral("formula-title"));
    title_->setFont(headline_font());
    top->addWidget(title_, 1);
    const auto button = [&](const QString& text, const char* name, const QString& hint, auto what) {
        auto* made = new QPushButton(text);
        made->setObjectName(QString::fromLatin1(name));
        made->setToolTip(hint);
        connect(made, &QPushButton::clicked, this, what);
        top->addWidget(made);
        return made;
    };
    compare_ = button(tr("Show in Compare"), "show-in-compare", tr("As a lane under the traces of the picked laps"),
                      [this] { Q_EMIT workspace_.lane_asked(text_of(name_)); });
    copy_ =
        button(tr("Copy to my set"), "copy-formula",
               tr("A copy of your own, to be changed; yours wins over the shipped one"), [this] { copy_to_own_set(); });
    remove_ = button(tr("Remove"), "remove-formula", tr("Takes the formula out of its set; Ctrl+Z brings it back"),
                     [this] { remove_formula(); });
    revert_ = button(tr("Revert"), "revert-formula", tr("Back to what is saved"), [this] { revert(); });
    save_ = button(tr("Save"), "save-formula", tr("Saves a new version of the set (Ctrl+S)"), [this] { save(); });
    save_->setProperty("primary", true);
    auto* by_key = new QAction(tr("Save the formula"), this);
    by_key->setShortcuts({QKeySequence(QKeySequence::Save), QKeySequence(Qt::CTRL | Qt::Key_Return)});
    by_key->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    connect(by_key, &QAction::triggered, this, [this] { save(); });
    addAction(by_key);
    column->addLayout(top);

    const auto edit = [&](const QString& label, const QString& name, const QString& hint) {
        auto* line = new QLineEdit;
        line->setObjectName(name);
        line->setAccessibleName(label);
        line->setPlaceholderText(hint);
        connect(line, &QLineEdit::textEdited, this, &FormulasDesk::draft_edited);
        return line;
    };
    auto* names = new QHBoxLayout;
    formula_name_ = edit(tr("Name"), QStringLiteral("formula-name"), tr("name"));
    unit_ = edit(tr("Unit"), QStringLiteral("formula-unit"), tr("usual one"));
    unit_->setMaximumWidth(90);
    auto* units = new QCompleter(this);
    units->setModel(new QStringListModel(units));
    units->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    unit_->setCompleter(units);
    connect(units, qOverload<const QString&>(&QCompleter::activated), this, [this] { draft_edited(); });
    names->addWidget(new PlainLabel(tr("Name")));
    names->addWidget(formula_name_, 1);
    names->addWidget(new PlainLabel(tr("in")));
    names->addWidget(unit_);
    column->addLayout(names);
    text_ = new FormulaEdit;
    text_->setMinimumHeight(72);
    text_->setMaximumHeight(104);
    connect(text_, &QPlainTextEdit::textChanged, this, &FormulasDesk::draft_edited);
    column->addWidget(text_);
    message_ = new PlainLabel;
    message_->setObjectName(QStringLiteral("formula-message"));
    message_->setWordWrap(true);
    message_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    message_->setMinimumHeight(30);
    message_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    column->addWidget(message_);

    auto* show = new QHBoxLayout;
    show->setSpacing(6);
    low_ = edit(tr("Display from"), QStringLiteral("formula-low"), tr("fitted"));
    high_ = edit(tr("Display to"), QStringLiteral("formula-high"), tr("fitted"));
    low_->setMaximumWidth(70);
    high_->setMaximumWidth(70);
    decimals_ = new QSpinBox;
    decimals_->setRange(0, 9);
    decimals_->setAccessibleName(tr("Decimals"));
    connect(decimals_, &QSpinBox::valueChanged, this, &FormulasDesk::draft_edited);
    rate_ = new QDoubleSpinBox;
    rate_->setRange(0, 10000);
    rate_->setDecimals(1);
    rate_->setSuffix(QStringLiteral(" Hz"));
    rate_->setSpecialValueText(tr("from inputs"));
    rate_->setAccessibleName(tr("Rate"));
    connect(rate_, &QDoubleSpinBox::valueChanged, this, &FormulasDesk::draft_edited);
    for (const auto& [label, widget] : {std::pair<QString, QWidget*>{tr("Shown from"), low_},
                                        {tr("to"), high_},
                                        {tr("Decimals"), decimals_},
                                        {tr("Rate"), rate_}}) {
        show->addWidget(new PlainLabel(label));
        show->addWidget(widget);
    }
    show->addStretch();
    column->addLayout(show);
    auto* remark = new QHBoxLayout;
    comment_ = edit(tr("Comment"), QStringLiteral("formula-comment"), tr("what it says and where it comes from"));
    remark->addWidget(new PlainLabel(tr("Comment")));
    remark->addWidget(comment_, 1);
    column->addLayout(remark);

    figures_ = new PlainLabel;
    figures_->setObjectName(QStringLiteral("formula-figures"));
    figures_->setFont(number_font());
    column->addWidget(figures_);
    preview_ = new PreviewPlot;
    column->addWidget(preview_, 1);
    uses_ = new LinkLabel;
    uses_->setObjectName(QStringLiteral("formula-uses"));
    uses_->setWordWrap(true);
    uses_->setFont(small_font());
    uses_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::LinksAccessibleByMouse |
                                   Qt::LinksAccessibleByKeyboard);
    connect(uses_, &QLabel::linkActivated, this, [this](const QString& name) { show_formula(name); });
    column->addWidget(uses_);
    return panel;
}

}  // namespace rendak::app
