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
namespace {

using formula::Formula;
using formula::FormulaSet;

/// Stored: the same in every language.
const std::string own_set_name = "My formulas";

QString scope_text(const formula::Scope& scope) {
    if (scope.kind == formula::Scope::Kind::everything) return {};
    return scope.kind == formula::Scope::Kind::car ? FormulasDesk::tr("car %1").arg(text_of(scope.name))
                                                   : text_of(scope.name);
}

}  // namespace

FormulasDesk::FormulasDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent), previewing_(workspace.jobs()) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 8, 12, 8);
    auto* split = new QSplitter(this);
    split->setChildrenCollapsible(false);
    split->addWidget(build_list(split));
    split->addWidget(build_editor(split));
    names_ = new NamePicker(split);
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
        functions.push_back({text_of(it.group),
                             text_of(it.name),
                             {},
                             text_of(it.signature()) + u'\n' + text_of(it.help),
                             text_of(it.name) + QStringLiteral("()")});
    names_->set_entries(NamePicker::functions, std::move(functions));
    read_sets();
    fill_list();
    fill_names();
    select({std::string(formula::starter_name), "corner_radius"});
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
            list_, {text_of(set.name), set.name == formula::starter_name ? tr("shipped") : scope_text(set.scope)});
        group->setFont(0, body_font(true));
        group->setData(0, formula_set_role, text_of(set.name));
        group->setToolTip(0, text_of(set.remarks));
        const auto add = [&](const Formula& formula, bool edited) {
            const bool fits = words.isEmpty() || text_of(formula.name).contains(words, Qt::CaseInsensitive) ||
                              text_of(formula.comment).contains(words, Qt::CaseInsensitive) ||
                              text_of(formula.text).contains(words, Qt::CaseInsensitive);
            if (!fits) return;
            auto* item = new QTreeWidgetItem(
                group, {text_of(formula.name) + (edited ? tr(" · not saved") : QString()), text_of(formula.unit)});
            item->setData(0, formula_set_role, text_of(set.name));
            item->setData(0, formula_name_role, text_of(formula.name));
            item->setToolTip(0, text_of(formula.comment.empty() ? formula.text : formula.comment));
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
        before && text_of(before->comment).replace(u'\n', u' ') == comment_->text())
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
    formula_name_->setText(text_of(shown.name));
    unit_->setText(text_of(shown.unit));
    if (text_->toPlainText() != text_of(shown.text)) text_->setPlainText(text_of(shown.text));
    comment_->setText(text_of(shown.comment).replace(u'\n', u' '));
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
    title_->setText(is_formula ? text_of(formula::label_of(shown.name)) : text_of(set_));
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
    title_->setText(text_of(formula::label_of(now.name)));
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
    if (set.find(shipped->name) != nullptr) return show_formula(text_of(shipped->name), text_of(set.name));
    const std::string name = shipped->name;
    set.formulas.push_back(*shipped);
    save_set(set, tr("copy of %1").arg(text_of(name)));
    show_formula(text_of(name), text_of(set.name));
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
        message_->setText(text_of(problem));
        return false;
    }
    FormulaSet set = find_set(set_) != nullptr ? *find_set(set_) : FormulaSet{set_};
    if (after.name != name_ && set.find(after.name) != nullptr) {
        message_->setText(tr("The set has a formula %1 already.").arg(text_of(after.name)));
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
    const QString what = is_new                ? tr("new formula %1").arg(text_of(after.name))
                         : after.name != name_ ? tr("%1 is now called %2").arg(text_of(name_), text_of(after.name))
                                               : tr("change of %1").arg(text_of(after.name));
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
    for (const auto& [key, draft] : drafts_) names << text_of(draft.name);
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
        save_set(set, tr("%1 removed").arg(text_of(name)));
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
    save_set(*made, tr("new set %1").arg(text_of(made->name)));
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
        tr("set %1 removed").arg(text_of(name)), [&library, name] { return library.remove_formula_set(name); },
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
    save_set(result, tr("import of %1").arg(text_of(incoming->name)));
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
void FormulasDesk::show_pictures(PictureBook& book) {
    show_formula(QStringLiteral("understeer_angle"));
    book.take(QStringLiteral("formulas"));
}

}  // namespace rendak::app
