#include "app/desks/formulas/formulas_desk.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
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
#include <algorithm>
#include <cmath>

#include "app/desks/formulas/formula_edit.h"
#include "app/desks/formulas/name_picker.h"
#include "app/desks/formulas/preview_plot.h"
#include "app/desks/formulas/set_dialogs.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"
#include "core/units/compound_unit.h"

namespace rendak::app {
namespace {

using formula::Formula;
using formula::FormulaSet;

/// Stored: the same in every language.
const std::string own_set_name = "My formulas";

constexpr int set_role = Qt::UserRole, name_role = Qt::UserRole + 1;

QString of(const std::string& text) {
    return QString::fromStdString(text);
}

QString scope_text(const formula::Scope& scope) {
    if (scope.kind == formula::Scope::Kind::everything) return {};
    return scope.kind == formula::Scope::Kind::car ? FormulasDesk::tr("car %1").arg(of(scope.name)) : of(scope.name);
}

}  // namespace

FormulasDesk::FormulasDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent), previewing_(workspace.jobs()) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 8, 12, 8);
    auto* split = new QSplitter;
    split->setChildrenCollapsible(false);
    split->addWidget(build_list());
    split->addWidget(build_editor());
    names_ = new NamePicker;
    names_->setMinimumWidth(220);
    split->addWidget(names_);
    split->setStretchFactor(1, 1);
    split->setSizes({270, 640, 260});
    row->addWidget(split);

    connect(names_, &NamePicker::chosen, text_, &FormulaEdit::insert);
    connect(&workspace_, &Workspace::formulas_changed, this, [this] {
        read_sets();
        fill_list();
        load_draft();
        fill_names();
    });
    connect(&workspace_.comparison(), &Comparison::changed, this, [this] {
        if (workspace_.comparison().busy()) return;
        stale_ = true;
        if (isVisible()) {
            fill_names();
            start_preview();
        }
    });
    ask_about_drafts = [this](const QStringList& names) {
        QMessageBox ask(QMessageBox::Warning, tr("Formulas that are not saved"), QString(), QMessageBox::Cancel, this);
        ask.setTextFormat(Qt::PlainText);
        ask.setText(tr("Not saved yet: %1.").arg(names.join(QStringLiteral(", "))));
        const auto* save = ask.addButton(tr("Save"), QMessageBox::AcceptRole);
        const auto* discard = ask.addButton(tr("Discard"), QMessageBox::DestructiveRole);
        ask.exec();
        return ask.clickedButton() == save      ? Answer::save
               : ask.clickedButton() == discard ? Answer::discard
                                                : Answer::stay;
    };
    connect(&workspace_.focus(), &Focus::cursor_changed, this,
            [this] { preview_->set_cursor(workspace_.focus().state().cursor_m); });
    connect(preview_, &PreviewPlot::cursor_asked, this, [this](double at) { workspace_.focus().set_cursor(at); });
    std::vector<NamePicker::Entry> functions;
    for (const formula::Function& it : formula::all_functions())
        functions.push_back({of(it.group),
                             of(it.name),
                             {},
                             of(it.signature()) + u'\n' + of(it.help),
                             of(it.name) + QStringLiteral("()")});
    names_->set_entries(NamePicker::functions, std::move(functions));
    read_sets();
    fill_list();
    fill_names();
    select({std::string(formula::starter_name), "corner_radius"});
}

// ---- building --------------------------------------------------------------------------------------

QWidget* FormulasDesk::build_list() {
    auto* panel = new QWidget;
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
        const FormulaSet* set = find_set(set_);
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
        const QString file = QFileDialog::getSaveFileName(this, tr("Formula set"), of(set_) + QStringLiteral(".json"),
                                                          tr("Formula sets (*.json)"));
        if (file.isEmpty()) return;
        if (const auto done = export_set(file); !done) workspace_.tell(done.error());
    });
    menu->addSeparator();
    act(tr("Paste a formula"), [this] {
        if (const auto done = paste(QApplication::clipboard()->text()); !done) workspace_.tell(done.error());
    });
    act(tr("Copy the formula as text"),
        [this] { QApplication::clipboard()->setText(of(formula::formula_to_text(draft()))); });
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
        select({item->data(0, set_role).toString().toStdString(), item->data(0, name_role).toString().toStdString()});
    });
    return panel;
}

QWidget* FormulasDesk::build_editor() {
    auto* panel = new QWidget;
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
                      [this] { Q_EMIT workspace_.lane_asked(of(name_)); });
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

// ---- sets ------------------------------------------------------------------------------------------

void FormulasDesk::read_sets() {
    sets_ = workspace_.shown(formula_sets(workspace_.library()));
    sets_.insert(sets_.begin(), formula::starter_set());
}

const FormulaSet* FormulasDesk::find_set(const std::string& name) const {
    const auto found = std::find_if(sets_.begin(), sets_.end(), [&](const FormulaSet& it) { return it.name == name; });
    return found == sets_.end() ? nullptr : &*found;
}

std::optional<Formula> FormulasDesk::saved(const Key& key) const {
    const FormulaSet* set = find_set(key.first);
    const Formula* found = set == nullptr ? nullptr : set->find(key.second);
    return found == nullptr ? std::nullopt : std::optional(*found);
}

bool FormulasDesk::is_read_only() const {
    return set_ == formula::starter_name;
}

FormulaSet FormulasDesk::own_set() const {
    if (const FormulaSet* set = find_set(is_read_only() ? own_set_name : set_)) return *set;
    return {own_set_name};
}

void FormulasDesk::fill_list() {
    filling_ = true;
    list_->clear();
    const QString words = find_->text().trimmed();
    QTreeWidgetItem* current = nullptr;
    const auto add_set = [&](const FormulaSet& set) {
        auto* group = new QTreeWidgetItem(
            list_, {of(set.name), set.name == formula::starter_name ? tr("shipped") : scope_text(set.scope)});
        group->setFont(0, body_font(true));
        group->setData(0, set_role, of(set.name));
        group->setToolTip(0, of(set.remarks));
        const auto add = [&](const Formula& formula, bool edited) {
            const bool fits = words.isEmpty() || of(formula.name).contains(words, Qt::CaseInsensitive) ||
                              of(formula.comment).contains(words, Qt::CaseInsensitive) ||
                              of(formula.text).contains(words, Qt::CaseInsensitive);
            if (!fits) return;
            auto* item = new QTreeWidgetItem(
                group, {of(formula.name) + (edited ? tr(" · not saved") : QString()), of(formula.unit)});
            item->setData(0, set_role, of(set.name));
            item->setData(0, name_role, of(formula.name));
            item->setToolTip(0, of(formula.comment.empty() ? formula.text : formula.comment));
            item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
            if (set.name == set_ && formula.name == name_) current = item;
        };
        for (const Formula& formula : set.formulas) add(formula, drafts_.contains({set.name, formula.name}));
        for (const auto& [key, draft] : drafts_) {
            if (key.first != set.name || set.find(key.second) != nullptr) continue;
            Formula shown = draft;
            shown.name = key.second;
            add(shown, true);
        }
        group->setExpanded(true);
    };
    // One's own sets first: they are the ones at work.
    for (std::size_t i = 1; i < sets_.size(); ++i) add_set(sets_[i]);
    for (const auto& [key, draft] : drafts_) {
        if (find_set(key.first) == nullptr) {
            add_set({key.first});
            break;
        }
    }
    add_set(sets_.front());
    if (current != nullptr) {
        list_->setCurrentItem(current);
        list_->scrollToItem(current);
    }
    filling_ = false;
}

void FormulasDesk::fill_names() {
    std::vector<NamePicker::Entry> channels, constants;
    QStringList all;
    const ComparedLaps& laps = workspace_.comparison().laps();
    const auto run = laps.empty() ? nullptr : workspace_.comparison().active().run;
    const auto add = [&](const QString& group, const std::string& name, const QString& detail, const QString& help) {
        channels.push_back({group, of(name), detail, help, of(name)});
        all << of(name);
    };
    for (const Quantity& quantity : all_quantities()) {
        const Channel* channel = run == nullptr ? nullptr : run->recording->find_logged(quantity.id);
        if (quantity.id == "time" || (run != nullptr && channel == nullptr)) continue;
        const QString unit = of(std::string(quantity.shown_unit));
        add(run == nullptr ? tr("Known quantities") : tr("Logged in %1").arg(of(run->row.name)),
            std::string(quantity.id), unit,
            of(std::string(quantity.label)) +
                (channel == nullptr
                     ? QString()
                     : tr("\n“%1”, %2 Hz").arg(of(channel->name)).arg(channel->clock.mean_rate_hz(), 0, 'f', 0)));
    }
    if (run != nullptr) {
        for (const Channel& channel : run->recording->channels) {
            if (channel.quantity.empty())
                add(tr("Other channels"), formula::plain_name(channel.name), of(channel.unit),
                    tr("“%1”, known by its name only").arg(of(channel.name)));
        }
    }
    for (const formula::Builtin& it : formula::all_builtins())
        add(tr("Of the run"), std::string(it.name), of(std::string(it.unit)), of(std::string(it.help)));
    std::map<std::string, const Formula*> formulas;
    for (const FormulaSet& set : sets_) {
        for (const Formula& it : set.formulas) formulas[it.name] = &it;
    }
    for (const auto& [name, it] : formulas)
        add(tr("Formulas"), name, of(it->unit), of(it->comment.empty() ? it->text : it->comment));
    const auto sheets = workspace_.shown(workspace_.library().car_sheets());
    const formula::Constants known = run != nullptr    ? run->formulas->inputs().constants
                                     : !sheets.empty() ? formula::constants_for(sheets, sheets.back().car, {})
                                                       : formula::Constants{};
    for (const auto& [name, constant] : known.values) {
        const std::string unit_text = formula::usual_unit(constant.type);
        const auto unit = parse_compound_unit(unit_text);
        const QString value = QLocale::c().toString(unit ? unit->from_si(constant.value) : constant.value, 'g', 6);
        constants.push_back({tr("Car sheet of %1").arg(of(known.sheet)), QStringLiteral("car.") + of(name),
                             with_unit(value, of(unit_text)), of(constant.label), QStringLiteral("car.") + of(name)});
        all << QStringLiteral("car.") + of(name);
    }
    for (const formula::Function& it : formula::all_functions()) all << of(it.name) + QStringLiteral("()");
    names_->set_entries(NamePicker::channels, std::move(channels));
    names_->set_entries(NamePicker::constants, std::move(constants));
    text_->set_names(all);
}

// ---- drafts ----------------------------------------------------------------------------------------

void FormulasDesk::take_focus() {
    list_->setFocus();
    if (stale_) {
        fill_names();
        start_preview();
    }
}

void FormulasDesk::show_formula(const QString& name, const QString& set) {
    const std::string wanted = name.toStdString();
    if (!set.isEmpty()) return select({set.toStdString(), wanted});
    for (std::size_t i = sets_.size(); i-- > 0;) {
        if (sets_[i].find(wanted) != nullptr) return select({sets_[i].name, wanted});
    }
}

void FormulasDesk::select(const Key& key) {
    set_ = key.first;
    name_ = key.second;
    load_draft();
    fill_list();
}

Formula FormulasDesk::draft() const {
    Formula out;
    out.name = formula_name_->text().trimmed().toStdString();
    out.unit = unit_->text().trimmed().toStdString();
    out.text = text_->toPlainText().toStdString();
    out.comment = comment_->text().toStdString();
    // A comment of several lines is shown in one; it stays as it was while nobody edits it.
    if (const auto before = saved({set_, name_});
        before && of(before->comment).replace(u'\n', u' ') == comment_->text())
        out.comment = before->comment;
    out.decimals = decimals_->value();
    bool low_fine = false, high_fine = false;
    const double low = low_->text().replace(u'−', u'-').toDouble(&low_fine),
                 high = high_->text().replace(u'−', u'-').toDouble(&high_fine);
    if (low_fine && high_fine && low < high) out.range = Interval{low, high};
    out.rate_hz = rate_->value();
    return out;
}

void FormulasDesk::load_draft() {
    // Undo may have taken away what was shown.
    if (!name_.empty() && !drafts_.contains({set_, name_}) && !saved({set_, name_})) name_.clear();
    if (name_.empty() && find_set(set_) == nullptr) set_ = std::string(formula::starter_name);
    const auto kept = drafts_.find({set_, name_});
    const Formula shown = kept != drafts_.end() ? kept->second : saved({set_, name_}).value_or(Formula{});
    const bool is_formula = !name_.empty();
    filling_ = true;
    formula_name_->setText(of(shown.name));
    unit_->setText(of(shown.unit));
    if (text_->toPlainText() != of(shown.text)) text_->setPlainText(of(shown.text));
    comment_->setText(of(shown.comment).replace(u'\n', u' '));
    decimals_->setValue(shown.decimals);
    const auto number = [](double value) { return QLocale::c().toString(value, 'g', 7); };
    low_->setText(shown.range ? number(shown.range->begin) : QString());
    high_->setText(shown.range ? number(shown.range->end) : QString());
    rate_->setValue(shown.rate_hz);
    filling_ = false;
    for (QWidget* widget :
         std::initializer_list<QWidget*>{formula_name_, unit_, comment_, decimals_, low_, high_, rate_})
        widget->setEnabled(is_formula && !is_read_only());
    text_->setReadOnly(!is_formula || is_read_only());
    title_->setText(is_formula ? of(formula::label_of(shown.name)) : of(set_));
    const bool edited = kept != drafts_.end();
    save_->setVisible(is_formula && !is_read_only());
    revert_->setVisible(is_formula && !is_read_only());
    remove_->setVisible(is_formula && !is_read_only());
    copy_->setVisible(is_formula && is_read_only());
    save_->setEnabled(edited);
    revert_->setEnabled(edited);
    compare_->setVisible(is_formula);
    compare_->setEnabled(!edited);  // what is not saved is a draft of this desk
    start_preview();
}

void FormulasDesk::draft_edited() {
    if (filling_ || is_read_only() || name_.empty()) return;
    const Key key{set_, name_};
    const Formula now = draft();
    const bool was_edited = drafts_.contains(key);
    const auto before = saved(key);
    if (before && *before == now)
        drafts_.erase(key);
    else
        drafts_[key] = now;
    const bool edited = drafts_.contains(key);
    save_->setEnabled(edited);
    revert_->setEnabled(edited);
    compare_->setEnabled(!edited);
    title_->setText(of(formula::label_of(now.name)));
    if (edited != was_edited) fill_list();
    start_preview();
}

void FormulasDesk::open_draft(Formula formula, const std::string& set) {
    set_ = set;
    // A free name within the set, drafts included.
    const std::string stem = formula.name;
    const auto taken = [&](const std::string& name) {
        return saved({set, name}).has_value() || drafts_.contains({set, name});
    };
    for (int number = 2; taken(formula.name); ++number) formula.name = stem + "_" + std::to_string(number);
    name_ = formula.name;
    drafts_[{set_, name_}] = std::move(formula);
    load_draft();
    fill_list();
}

void FormulasDesk::new_formula() {
    Formula fresh;
    fresh.name = "new_formula";
    open_draft(std::move(fresh), own_set().name);
    formula_name_->setFocus();
    formula_name_->selectAll();
}

void FormulasDesk::copy_to_own_set() {
    const auto shipped = saved({set_, name_});
    if (!shipped) return;
    FormulaSet set = own_set();
    if (set.find(shipped->name) != nullptr) return show_formula(of(shipped->name), of(set.name));
    const std::string name = shipped->name;
    set.formulas.push_back(*shipped);
    save_set(set, tr("copy of %1").arg(of(name)));
    show_formula(of(name), of(set.name));
    text_->setFocus();
}

Result<void> FormulasDesk::paste(const QString& text) {
    auto pasted = formula::formula_from_text(text.toStdString());
    if (!pasted) return pass_on(pasted.error());
    open_draft(std::move(*pasted), own_set().name);
    return {};
}

bool FormulasDesk::save() {
    const Key key{set_, name_};
    const auto found = drafts_.find(key);
    if (found == drafts_.end() || is_read_only()) return true;
    const Formula after = found->second;
    if (const std::string problem = formula::name_problem(after.name); !problem.empty()) {
        message_->setText(of(problem));
        return false;
    }
    FormulaSet set = find_set(set_) != nullptr ? *find_set(set_) : FormulaSet{set_};
    if (after.name != name_ && set.find(after.name) != nullptr) {
        message_->setText(tr("The set has a formula %1 already.").arg(of(after.name)));
        return false;
    }
    const auto place =
        std::find_if(set.formulas.begin(), set.formulas.end(), [&](const Formula& it) { return it.name == name_; });
    const bool is_new = place == set.formulas.end();
    if (is_new)
        set.formulas.push_back(after);
    else
        *place = after;
    // A new name is taken over by the formulas of the set that use it.
    if (!is_new && after.name != name_) {
        for (Formula& other : set.formulas) other.text = formula::renamed_in(other.text, name_, after.name);
    }
    const QString what = is_new                ? tr("new formula %1").arg(of(after.name))
                         : after.name != name_ ? tr("%1 is now called %2").arg(of(name_), of(after.name))
                                               : tr("change of %1").arg(of(after.name));
    // The draft goes once it is written: until then what was typed is all there is.
    if (!save_set(set, what)) return false;
    drafts_.erase(key);
    name_ = after.name;
    load_draft();
    fill_list();
    workspace_.tell(tr("Saved: %1. It can be picked in Compare, for the map and for export.").arg(what));
    return true;
}

bool FormulasDesk::may_close() {
    if (drafts_.empty()) return true;
    QStringList names;
    for (const auto& [key, draft] : drafts_) names << of(draft.name);
    const Answer answer = ask_about_drafts(names);
    if (answer == Answer::stay) return false;
    if (answer == Answer::discard) return true;
    const auto drafts = drafts_;
    for (const auto& [key, draft] : drafts) {
        select(key);
        if (save()) continue;
        Q_EMIT workspace_.desk_asked(QStringLiteral("formulas"));  // what is wrong with it is said there
        return false;
    }
    return true;
}

void FormulasDesk::revert() {
    const Key key{set_, name_};
    drafts_.erase(key);
    if (!saved(key)) return select({std::string(formula::starter_name), formula::starter_set().formulas.front().name});
    load_draft();
    fill_list();
}

void FormulasDesk::remove_formula() {
    const FormulaSet* found = find_set(set_);
    if (is_read_only() || name_.empty()) return;
    drafts_.erase({set_, name_});
    const std::string name = name_;
    if (found != nullptr && found->find(name) != nullptr) {
        FormulaSet set = *found;
        std::erase_if(set.formulas, [&](const Formula& it) { return it.name == name; });
        name_ = set.formulas.empty() ? std::string() : set.formulas.front().name;
        save_set(set, tr("%1 removed").arg(of(name)));
    }
    if (!saved({set_, name_})) name_.clear();
    load_draft();
    fill_list();
}

bool FormulasDesk::save_set(const FormulaSet& set, const QString& what) {
    const std::string content = formula::set_to_json(set), note = what.toStdString();
    Library& library = workspace_.library();
    return workspace_.edit(
        what,
        [&library, name = set.name, content, note]() -> Result<void> {
            const auto version = library.add_formula_version(name, content, note);
            if (!version) return pass_on(version.error());
            return {};
        },
        [&library, name = set.name] { return library.drop_formula_version(name); }, Change::formulas);
}

void FormulasDesk::new_set() {
    const auto made = ask_set(workspace_, {}, this);
    if (!made) return;
    save_set(*made, tr("new set %1").arg(of(made->name)));
    select({made->name, {}});
}

void FormulasDesk::remove_set() {
    if (is_read_only()) return workspace_.tell(tr("The shipped set stays as it is."));
    const auto versions = workspace_.shown(workspace_.library().formula_history(set_));
    if (versions.empty()) return;
    Library& library = workspace_.library();
    const std::string name = set_;
    set_ = std::string(formula::starter_name);
    name_ = formula::starter_set().formulas.front().name;
    workspace_.edit(
        tr("set %1 removed").arg(of(name)), [&library, name] { return library.remove_formula_set(name); },
        [&library, versions] { return library.restore_formula_set(versions); }, Change::formulas);
}

void FormulasDesk::show_history() {
    if (is_read_only()) return workspace_.tell(tr("The shipped set has one version; it stays as it is."));
    if (const auto chosen = ask_version(workspace_, set_, this)) save_set(*chosen, tr("back to an earlier version"));
}

void FormulasDesk::import_set(const QString& file) {
    const auto mapped = MappedFile::open(file.toStdString());
    if (!mapped) return workspace_.tell(mapped.error());
    auto incoming = formula::set_from_json(std::string((*mapped)->text()), file.toStdString());
    if (!incoming) return workspace_.tell(incoming.error());
    if (incoming->name == formula::starter_name) incoming->name = own_set_name;
    const FormulaSet* present = find_set(incoming->name);
    FormulaSet mine = *incoming;
    mine.formulas.clear();
    if (present != nullptr) mine = *present;
    const auto choices = ask_merge(mine, *incoming, this);
    if (!choices) return;
    const FormulaSet result = formula::merged(mine, *incoming, *choices);
    if (present != nullptr && result == *present)
        return workspace_.tell(tr("Nothing came in: everything stays as it was."));
    save_set(result, tr("import of %1").arg(of(incoming->name)));
    select({result.name, result.formulas.empty() ? std::string() : result.formulas.front().name});
}

Result<void> FormulasDesk::export_set(const QString& file) const {
    const FormulaSet* set = find_set(set_);
    if (set == nullptr) return fail(ErrorCode::not_found, "There is nothing saved in this set yet.");
    return write_file(file.toStdString(), formula::set_to_json(*set));
}

void FormulasDesk::measure_at_rest() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (laps.empty()) return workspace_.tell(tr("Pick a lap of the run in which the car stands still."));
    measure_constants(workspace_, workspace_.comparison().active().run, this);
}

// ---- preview ---------------------------------------------------------------------------------------

QString FormulasDesk::message() const {
    return message_->text();
}

QString FormulasDesk::figures() const {
    return figures_->text();
}

void FormulasDesk::start_preview() {
    stale_ = false;
    if (name_.empty()) {
        previewing_.drop();
        message_->clear();
        figures_->clear();
        uses_->clear();
        preview_->show_text(tr("Pick a formula, or make a new one."));
        return;
    }
    PreviewRequest request{draft(), name_, {}, 0, {}, {}, {}};
    if (!workspace_.comparison().laps().empty()) {
        request.slot = workspace_.comparison().active_slot();
        request.lap = workspace_.comparison().active();
    } else {
        request.sets = sets_;
        request.sheets = workspace_.shown(workspace_.library().car_sheets());
        request.aliases = workspace_.shown(workspace_.library().aliases());
    }
    previewing_.run<FormulaPreview>(
        tr("Result of the formula"),
        [request](const JobContext& job) -> Result<FormulaPreview> {
            auto found = preview_of(request, job.stop);
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            return found;
        },
        [this](Result<FormulaPreview> found) {
            if (found) return show_preview(std::move(*found));
            figures_->clear();
            message_->setText(found.error().code == ErrorCode::cancelled
                                  ? tr("Cancelled. An edit of the formula begins it anew.")
                                  : of(found.error().text()));
            preview_->show_text(tr("No result."));
        });
}

void FormulasDesk::show_preview(FormulaPreview preview) {
    const Theme& t = theme();
    if (!is_read_only() && name_ != formula_name_->text().trimmed().toStdString() && !preview.problem) {
        if (const std::string problem = formula::name_problem(formula_name_->text().trimmed().toStdString());
            !problem.empty())
            preview.problem = formula::Problem{0, 0, problem};
    }
    text_->show_problem(preview.problem);
    message_->setStyleSheet(preview.problem ? QStringLiteral("color: ") + t.lost.name() : QString());
    if (!preview.units.isEmpty()) {
        static_cast<QStringListModel*>(unit_->completer()->model())->setStringList(preview.units);
        unit_->setToolTip(tr("Can be shown in %1").arg(preview.units.join(QStringLiteral(", "))));
    }
    if (preview.problem) {
        message_->setText(of(preview.problem->sentence));
        figures_->clear();
        preview_->show_text(tr("No result while the formula is not right for this run."));
    } else {
        QString text = preview.result;
        for (const std::string& note : preview.notes) text += QStringLiteral(" · ") + of(note);
        message_->setText(text);
        if (preview.lap.isEmpty()) {
            figures_->clear();
            preview_->show_text(tr("Pick a lap in the Logbook to see the result on it."));
        } else if (preview.figures.count == 0) {
            figures_->setText(tr("Missing all over %1").arg(preview.lap));
            preview_->show_text(tr("All samples of this lap are missing."));
        } else {
            const auto value = [&](double si) { return with_unit(preview.how.text(si), preview.how.unit); };
            figures_->setText(tr("Low %1   Mean %2   High %3   on %4")
                                  .arg(value(preview.figures.low), value(preview.figures.mean),
                                       value(preview.figures.high), preview.lap));
            preview_->show_trace(std::move(preview.trace), preview.how, preview.slot);
            preview_->set_cursor(workspace_.focus().state().cursor_m);
        }
    }
    formula::Book all;
    for (const FormulaSet& set : sets_) {
        for (const Formula& it : set.formulas) all.entries[it.name] = {it, set.name};
    }
    QStringList users;
    const auto by_name = formula::users_of(all);
    if (const auto found = by_name.find(name_); found != by_name.end()) {
        for (const std::string& user : found->second)
            users << QStringLiteral("<a href=\"%1\">%1</a>").arg(of(user).toHtmlEscaped());
    }
    QStringList lines;
    if (!preview.uses.isEmpty()) lines << tr("Uses %1").arg(preview.uses.join(QStringLiteral(", ")));
    lines << (users.isEmpty() ? tr("Used by no other formula")
                              : tr("Used by %1").arg(users.join(QStringLiteral(", "))));
    uses_->setText(lines.join(QStringLiteral("<br>")));
}

void FormulasDesk::show_pictures(PictureBook& book) {
    show_formula(QStringLiteral("understeer_angle"));
    book.take(QStringLiteral("formulas"));
}

}  // namespace rendak::app
