#pragma once

#include <QTimer>
#include <QUndoStack>
#include <memory>
#include <set>

#include "app/focus/comparison.h"
#include "app/focus/focus.h"
#include "app/jobs/jobs.h"
#include "core/library/library.h"

namespace rendak::app {

/// What every desk is given: the library, the focus, the comparison that follows it, the jobs and the undo stack.
class Workspace : public QObject {
    Q_OBJECT
  public:
    explicit Workspace(std::unique_ptr<Library> library, QObject* parent = nullptr);

    Library& library() { return *library_; }
    Focus& focus() { return focus_; }
    Comparison& comparison() { return comparison_; }
    Jobs& jobs() { return jobs_; }
    QUndoStack& undo() { return undo_; }

    /// An edit of the library that can be undone. Errors are told, not swallowed.
    void edit(const QString& text, std::function<Result<void>()> redo, std::function<Result<void>()> undo);
    /// The same for an edit that opens recordings: it is done, undone and done again on a worker with a library of its
    /// own. One at a time.
    using LibraryWork = std::function<Result<void>(Library&, const JobContext&)>;
    void edit_in_background(const QString& text, LibraryWork redo, LibraryWork undo);
    /// The same for formulas and constants: only what depends on them is computed anew.
    void edit_formulas(const QString& text, std::function<Result<void>()> redo, std::function<Result<void>()> undo);
    [[nodiscard]] bool is_editing() const { return editing_; }
    /// Undo and redo, unless an edit is still going on; what was done, to be told. Empty when there is nothing.
    [[nodiscard]] QString undo_last();
    [[nodiscard]] QString redo_last();
    /// What was read from the library, to be shown: an error is told, and nothing is shown instead.
    template <class T>
    [[nodiscard]] T shown(Result<T> read) {
        if (read) return std::move(*read);
        tell(read.error());
        return T{};
    }
    void tell(const QString& message) { Q_EMIT told(message); }
    void tell(const Error& error) { Q_EMIT failed(QString::fromStdString(error.text())); }
    /// Runs, laps or tracks changed on disk: lists read them again, opened runs are opened again.
    void library_changed();
    /// Formula sets or car sheets changed on disk.
    void formulas_changed();

    /// Picks the best lap of a run; false when it has none.
    bool pick_best(RunId run);
    /// Picks a lap; the first pick takes slot A.
    void pick(LapRef lap) { focus_.add_lap(lap); }
    /// The previous or next complete lap of the same run, for the active slot.
    void step_lap(int step);

    /// Back to the best lap of the active slot's run.
    void best_of_active();

    void save_focus();
    void restore_focus();

  Q_SIGNALS:
    void told(const QString& message);
    void failed(const QString& message);
    void runs_changed();
    void formulas_read();
    void desk_asked(const QString& desk);

  private:
    void check_opened_runs();
    void show_formulas();
    class BackgroundEdit;
    void run_in_background(const QString& text, const LibraryWork& work, const std::function<void(bool)>& done);
    std::unique_ptr<Library> library_;
    Focus focus_;
    Jobs jobs_;
    Comparison comparison_;
    QUndoStack undo_;
    bool editing_ = false;
    std::set<RunId> checked_;  ///< runs whose recordings were held against what was filed
    QTimer shrink_watch_;      ///< a recording that became shorter while it is open is said
    unsigned long shrunk_before_ = 0;
};

}  // namespace rendak::app
