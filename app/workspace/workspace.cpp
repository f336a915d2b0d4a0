#include "app/workspace/workspace.h"

#include <QUndoCommand>
#include <algorithm>

#include "app/text/shown.h"
#include "core/base/mapping_guard.h"
#include "core/intake/check_library.h"
#include "core/laps/cut.h"
#include "core/units/compound_unit.h"

namespace rendak::app {
namespace {

class Edit : public QUndoCommand {
  public:
    Edit(Workspace& workspace, const QString& text, std::function<Result<void>()> redo,
         std::function<Result<void>()> undo, void (Workspace::*changed)())
        : QUndoCommand(text),
          workspace_(workspace),
          redo_(std::move(redo)),
          undo_(std::move(undo)),
          changed_(changed) {}
    void redo() override { apply(redo_); }
    void undo() override { apply(undo_); }

  private:
    void apply(const std::function<Result<void>()>& act) {
        if (const auto done = in_one_act(act); !done) workspace_.tell(done.error());
        (workspace_.*changed_)();
    }
    /// An edit of several steps is done whole or not at all, whatever happens to the program meanwhile.
    Result<void> in_one_act(const std::function<Result<void>()>& act) {
        Library::Act whole(workspace_.library());
        if (auto begun = whole.begun(); !begun) return begun;
        if (auto done = act(); !done) return done;
        return whole.commit();
    }
    Workspace& workspace_;
    std::function<Result<void>()> redo_, undo_;
    void (Workspace::*changed_)();
};

}  // namespace

Workspace::Workspace(std::unique_ptr<Library> library, QObject* parent)
    : QObject(parent), library_(std::move(library)), comparison_(library_->folder(), focus_, jobs_) {
    show_formulas();
    connect(&comparison_, &Comparison::changed, this, &Workspace::check_opened_runs);
    shrunk_before_ = shrunk_mappings();
    shrink_watch_.setInterval(1000);
    connect(&shrink_watch_, &QTimer::timeout, this, [this] {
        if (shrunk_mappings() == shrunk_before_) return;
        shrunk_before_ = shrunk_mappings();
        checked_.clear();
        check_opened_runs();
    });
    shrink_watch_.start();
}

/// In the background, once a run and process: a recording that is not what was filed would give wrong answers without a
/// word.
void Workspace::check_opened_runs() {
    std::vector<RunId> runs;
    for (const ComparedLap& lap : comparison_.laps().laps) {
        if (checked_.insert(lap.lap.ref.run).second) runs.push_back(lap.lap.ref.run);
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
            library_changed();  // opened again, which fails now and is said on every desk
        });
}

void Workspace::edit(const QString& text, std::function<Result<void>()> redo, std::function<Result<void>()> undo) {
    undo_.push(new Edit(*this, text, std::move(redo), std::move(undo), &Workspace::library_changed));
}

void Workspace::edit_formulas(const QString& text, std::function<Result<void>()> redo,
                              std::function<Result<void>()> undo) {
    undo_.push(new Edit(*this, text, std::move(redo), std::move(undo), &Workspace::formulas_changed));
}

/// On the stack only once it has been done; from then on undo and redo start the worker again.
class Workspace::BackgroundEdit : public QUndoCommand {
  public:
    BackgroundEdit(Workspace& workspace, const QString& text, LibraryWork redo, LibraryWork undo)
        : QUndoCommand(text), workspace_(workspace), redo_(std::move(redo)), undo_(std::move(undo)) {}
    void redo() override {
        if (!std::exchange(is_done_, false)) workspace_.run_in_background(text(), redo_, {});
    }
    void undo() override { workspace_.run_in_background(Workspace::tr("Undo: %1").arg(text()), undo_, {}); }

  private:
    Workspace& workspace_;
    LibraryWork redo_, undo_;
    bool is_done_ = true;  // pushing calls redo(); it is done already
};

void Workspace::edit_in_background(const QString& text, LibraryWork redo, LibraryWork undo) {
    if (editing_) return tell(tr("The edit before is still being done."));
    run_in_background(text, redo, [this, text, redo, undo](bool fine) {
        if (fine) undo_.push(new BackgroundEdit(*this, text, redo, undo));
    });
}

void Workspace::run_in_background(const QString& text, const LibraryWork& work, const std::function<void(bool)>& done) {
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
        [this, done](Result<Nothing> result) {
            editing_ = false;
            if (!result) tell(result.error());
            if (done) done(result.has_value());
            library_changed();
        });
}

QString Workspace::undo_last() {
    if (editing_) return tr("The last edit is still being done.");
    if (!undo_.canUndo()) return tr("Nothing to undo.");
    const QString text = undo_.undoText();
    undo_.undo();
    return tr("Undone: %1.").arg(text);
}

QString Workspace::redo_last() {
    if (editing_) return tr("The last edit is still being done.");
    if (!undo_.canRedo()) return tr("Nothing to do again.");
    const QString text = undo_.redoText();
    undo_.redo();
    return tr("Done again: %1.").arg(text);
}

void Workspace::library_changed() {
    comparison_.reload();
    Q_EMIT runs_changed();
}

void Workspace::formulas_changed() {
    show_formulas();
    comparison_.reload_formulas();
    Q_EMIT formulas_read();
}

void Workspace::show_formulas() {
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

bool Workspace::pick_best(RunId run) {
    const auto laps = shown(library_->laps(run));
    const Lap* best = best_lap(laps);
    if (best == nullptr) return false;
    focus_.add_lap({run, best->number});
    return true;
}

void Workspace::step_lap(int step) {
    const auto& state = focus_.state();
    if (state.laps.empty()) return;
    const LapRef now = state.laps[static_cast<std::size_t>(state.active_slot)];
    std::vector<int> numbers;
    for (const Lap& lap : shown(library_->laps(now.run))) {
        if (lap.complete()) numbers.push_back(lap.number);
    }
    const auto at = std::find(numbers.begin(), numbers.end(), now.lap);
    if (at == numbers.end()) return;
    // Laps that another slot shows already are stepped over.
    for (auto next = (at - numbers.begin()) + step; next >= 0 && next < static_cast<std::ptrdiff_t>(numbers.size());
         next += step) {
        const LapRef lap{now.run, numbers[static_cast<std::size_t>(next)]};
        if (focus_.slot_of(lap) >= 0) continue;
        focus_.replace_slot(state.active_slot, lap);
        return;
    }
    tell(step > 0 ? tr("This is the run's last lap that can be compared.")
                  : tr("This is the run's first lap that can be compared."));
}

void Workspace::best_of_active() {
    const auto& state = focus_.state();
    if (state.laps.empty()) return;
    const LapRef now = state.laps[static_cast<std::size_t>(state.active_slot)];
    const auto laps = shown(library_->laps(now.run));
    const Lap* best = best_lap(laps);
    if (best == nullptr) return tell(tr("No flying lap of this run counts."));
    const LapRef wanted{now.run, best->number};
    if (focus_.slot_of(wanted) < 0)
        focus_.replace_slot(state.active_slot, wanted);
    else
        tell(tr("The best lap of this run is on the tray already."));
}

void Workspace::save_focus() {
    if (const auto saved = library_->set_setting("focus", focus_to_json(focus_.state())); !saved) tell(saved.error());
}

void Workspace::restore_focus() {
    const auto state = focus_from_json(shown(library_->setting("focus")));
    if (state) focus_.set_state(*state);
}

}  // namespace rendak::app
