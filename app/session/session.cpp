#include "app/session/session.h"

#include <QUndoCommand>

#include "app/text/shown.h"
#include "core/base/mapping_guard.h"
#include "core/formula/book.h"
#include "core/intake/check_library.h"
#include "core/intake/run_formulas.h"
#include "core/units/compound_unit.h"

namespace rendak::app {

/// How an edit is done and undone. The stack keeps the order and the texts; the session does the work, and moves the
/// stack on once it has been done.
class Session::Edit : public QUndoCommand {
  public:
    Edit(const QString& text, Change of, Work redo_now, Work undo_now)
        : QUndoCommand(text), change(of), redo_work(std::move(redo_now)), undo_work(std::move(undo_now)) {}
    Edit(const QString& text, Change of, LibraryWork redo_later, LibraryWork undo_later)
        : QUndoCommand(text), change(of), redo_job(std::move(redo_later)), undo_job(std::move(undo_later)) {}
    [[nodiscard]] bool in_background() const { return redo_job != nullptr; }

    Change change;
    Work redo_work, undo_work;
    LibraryWork redo_job, undo_job;
};

Session::Session(std::unique_ptr<Library> library, QObject* parent) : QObject(parent), library_(std::move(library)) {
    read_formulas();
    shrunk_before_ = shrunk_mappings();
    shrink_watch_.setInterval(1000);
    connect(&shrink_watch_, &QTimer::timeout, this, [this] {
        if (shrunk_mappings() == shrunk_before_) return;
        shrunk_before_ = shrunk_mappings();
        checked_.clear();
        Q_EMIT recording_shrank();
    });
    shrink_watch_.start();
    watch_ = std::make_unique<WatchKeeper>(*library_, jobs_);
    watch_->check_new();
}

/// A recording that is not what was filed would give wrong answers without a word.
void Session::check(const std::vector<RunId>& wanted) {
    std::vector<RunId> runs;
    for (const RunId run : wanted) {
        if (checked_.insert(run).second) runs.push_back(run);
    }
    if (runs.empty()) return;
    jobs_.run<std::string>(
        tr("Checking recordings"),
        [folder = library_->folder(), runs](const JobContext& job) -> Result<std::string> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return check_runs(**library, runs, job);
        },
        [this, runs](const Result<std::string>& damage) {
            if (!damage) {
                for (const RunId run : runs) checked_.erase(run);  // cancelled: looked at the next time
                return;
            }
            if (damage->empty()) return;
            tell(Error{ErrorCode::bad_input, *damage, {}});
            note(Change::recordings);  // opened again, which fails now and is said on every desk
        });
}

void Session::note(Change change) {
    if (change == Change::formulas) read_formulas();
    if (change == Change::papers || change == Change::recordings) watch_->check_new();
    if (change == Change::rules) watch_->check_all();
    Q_EMIT changed(change);
}

/// An edit of several steps is done whole or not at all, whatever happens to the program meanwhile.
Result<void> Session::in_one_act(const Work& work) {
    Library::Act whole(*library_);
    if (auto begun = whole.begun(); !begun) return begun;
    if (auto done = work(); !done) return done;
    return whole.commit();
}

bool Session::edit(const QString& text, Work redo, Work undo, Change change) {
    if (editing_) {
        tell(tr("The edit before is still being done."));
        return false;
    }
    const auto done = in_one_act(redo);
    if (done)
        edits_.push(new Edit(text, change, std::move(redo), std::move(undo)));
    else
        tell(done.error());
    note(change);  // even when it failed: what was typed into a table is not what is kept
    return done.has_value();
}

void Session::edit_in_background(const QString& text, const LibraryWork& redo, const LibraryWork& undo, Change change) {
    if (editing_) return tell(tr("The edit before is still being done."));
    run_in_background(text, redo, change, [this, text, redo, undo, change](bool fine) {
        if (fine) edits_.push(new Edit(text, change, redo, undo));
    });
}

void Session::run_in_background(const QString& text, const LibraryWork& work, Change change,
                                const std::function<void(bool)>& done) {
    struct Nothing {};
    editing_ = true;
    jobs_.run<Nothing>(
        text,
        [folder = library_->folder(), work](const JobContext& job) -> Result<Nothing> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            if (auto result = work(**library, job); !result) return pass_on(result.error());
            return Nothing{};
        },
        [this, done, change](Result<Nothing> result) {
            editing_ = false;
            if (!result) tell(result.error());
            done(result.has_value());
            note(change);
        });
}

const Session::Edit* Session::edit_at(int index) const {
    return static_cast<const Edit*>(edits_.command(index));
}

void Session::undo() {
    if (editing_) return tell(tr("The last edit is still being done."));
    if (!edits_.canUndo()) return tell(tr("Nothing to undo."));
    const Edit* last = edit_at(edits_.index() - 1);
    const auto is_undone = [this](const QString& text) {
        edits_.undo();
        tell(tr("Undone: %1.").arg(text));
    };
    if (last->in_background())
        return run_in_background(tr("Undo: %1").arg(last->text()), last->undo_job, last->change,
                                 [is_undone, text = last->text()](bool fine) {
                                     if (fine) is_undone(text);
                                 });
    if (const auto done = in_one_act(last->undo_work); !done) return tell(done.error());
    const Change change = last->change;
    is_undone(last->text());
    note(change);
}

void Session::redo() {
    if (editing_) return tell(tr("The last edit is still being done."));
    if (!edits_.canRedo()) return tell(tr("Nothing to do again."));
    const Edit* next = edit_at(edits_.index());
    const auto is_done = [this](const QString& text) {
        edits_.redo();
        tell(tr("Done again: %1.").arg(text));
    };
    if (next->in_background())
        return run_in_background(next->text(), next->redo_job, next->change, [is_done, text = next->text()](bool fine) {
            if (fine) is_done(text);
        });
    if (const auto done = in_one_act(next->redo_work); !done) return tell(done.error());
    const Change change = next->change;
    is_done(next->text());
    note(change);
}

void Session::read_formulas() {
    std::vector<Error> problems;
    auto sets = shown(formula_sets(*library_, &problems));
    for (const Error& problem : problems) tell(problem);
    // Of all cars and events: a lane wants its unit whatever the run. Where sets disagree the last one is shown.
    formula::Book book;
    sets.insert(sets.begin(), formula::starter_set());
    for (const formula::FormulaSet& set : sets) {
        for (const formula::Formula& it : set.formulas) book.entries[it.name] = {it, set.name};
    }
    const auto sheets = shown(library_->car_sheets());
    const auto constants =
        sheets.empty() ? formula::Constants{} : formula::constants_for(sheets, sheets.back().car, {});
    const Aliases aliases = shown(library_->aliases());
    formula::Resolver resolver(book, constants, aliases, nullptr);
    std::map<std::string, Shown, std::less<>> table;
    for (const auto& [name, entry] : book.entries) {
        std::string unit_text = entry.formula.unit;
        const auto& checked = resolver.checked(name);
        if (unit_text.empty() && checked) unit_text = formula::usual_unit(checked->type());
        const auto unit = parse_compound_unit(unit_text);
        Shown& how = table[name];
        how.label = QString::fromStdString(formula::label_of(name));
        how.unit = QString::fromStdString(unit_text);
        how.factor = unit ? unit->factor : 1;
        how.offset = unit ? unit->offset : 0;
        how.decimals = checked && checked->type().is_condition() ? 0 : entry.formula.decimals;
        how.range = entry.formula.range;
    }
    set_formulas_shown(std::move(table));
}

}  // namespace rendak::app
