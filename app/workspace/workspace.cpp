#include "app/workspace/workspace.h"

#include <QUndoCommand>
#include <algorithm>

#include "core/laps/cut.h"

namespace rendak::app {
namespace {

class Edit : public QUndoCommand {
  public:
    Edit(Workspace& workspace, const QString& text, std::function<Result<void>()> redo,
         std::function<Result<void>()> undo, bool is_done = false)
        : QUndoCommand(text),
          workspace_(workspace),
          redo_(std::move(redo)),
          undo_(std::move(undo)),
          is_done_(is_done) {}
    void redo() override {
        // Pushing a command calls this; what a worker has done already is not done again.
        if (!std::exchange(is_done_, false)) apply(redo_);
    }
    void undo() override { apply(undo_); }

  private:
    void apply(const std::function<Result<void>()>& act) {
        if (const auto done = act(); !done) workspace_.tell(done.error());
        workspace_.library_changed();
    }
    Workspace& workspace_;
    std::function<Result<void>()> redo_, undo_;
    bool is_done_;
};

}  // namespace

Workspace::Workspace(std::unique_ptr<Library> library, QObject* parent)
    : QObject(parent), library_(std::move(library)), comparison_(library_->folder(), focus_, jobs_) {}

void Workspace::edit(const QString& text, std::function<Result<void>()> redo, std::function<Result<void>()> undo) {
    undo_.push(new Edit(*this, text, std::move(redo), std::move(undo)));
}

void Workspace::edit_in_background(const QString& text, std::function<Result<void>(Library&)> redo,
                                   std::function<Result<void>(Library&)> undo) {
    struct Nothing {};
    jobs_.run<Nothing>(
        text,
        [folder = library_->folder(), redo](const JobContext&) -> Result<Nothing> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            if (auto done = redo(**library); !done) return pass_on(done.error());
            return Nothing{};
        },
        [this, text, redo, undo](Result<Nothing> done) {
            if (!done)
                tell(done.error());
            else
                undo_.push(new Edit(
                    *this, text, [this, redo] { return redo(*library_); }, [this, undo] { return undo(*library_); },
                    true));
            library_changed();
        });
}

void Workspace::library_changed() {
    comparison_.reload();
    Q_EMIT runs_changed();
}

bool Workspace::pick_best(RunId run) {
    const auto laps = library_->laps(run);
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
    for (const Lap& lap : library_->laps(now.run)) {
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

void Workspace::save_focus() {
    if (const auto saved = library_->set_setting("focus", focus_to_json(focus_.state())); !saved) tell(saved.error());
}

void Workspace::restore_focus() {
    const auto state = focus_from_json(library_->setting("focus"));
    if (state) focus_.set_state(*state);
}

}  // namespace rendak::app
