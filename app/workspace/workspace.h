#pragma once

#include <memory>

#include "app/focus/selection.h"
#include "app/session/session.h"

namespace rendak::app {

/// What every desk of a window is given: the session (the library and the work in it) and the selection (what is looked
/// at).
class Workspace : public QObject {
    Q_OBJECT
  public:
    Workspace(std::shared_ptr<Session> session, std::shared_ptr<Selection> selection, QObject* parent = nullptr);

    [[nodiscard]] const std::shared_ptr<Session>& session() const { return session_; }
    [[nodiscard]] const std::shared_ptr<Selection>& selection() const { return selection_; }

    // Of the session:
    Library& library() { return session_->library(); }
    Jobs& jobs() { return session_->jobs(); }
    bool edit(const QString& text, Session::Work redo, Session::Work undo, Change change = Change::recordings) {
        return session_->edit(text, std::move(redo), std::move(undo), change);
    }
    using LibraryWork = Session::LibraryWork;
    void edit_in_background(const QString& text, const LibraryWork& redo, const LibraryWork& undo) {
        session_->edit_in_background(text, redo, undo, Change::recordings);
    }
    template <class T>
    [[nodiscard]] T shown(Result<T> read) {
        return session_->shown(std::move(read));
    }
    void tell(const QString& message) { session_->tell(message); }
    void tell(const Error& error) { session_->tell(error); }
    void library_changed(Change change = Change::recordings) { session_->note(change); }

    // Of the selection:
    Focus& focus() { return selection_->focus(); }
    Comparison& comparison() { return selection_->comparison(); }
    bool pick(LapRef lap) { return selection_->pick(lap); }
    bool pick_best(RunId run) { return selection_->pick_best(run); }

  Q_SIGNALS:
    /// Which runs there are, what is written about them, their laps or their tracks changed.
    void runs_changed();
    void formulas_changed();
    void desk_asked(const QString& desk);
    /// A quantity is to be seen as a lane under the traces.
    void lane_asked(const QString& quantity);
    /// A lap is to be seen in the list of its run's laps.
    void lap_asked(LapRef lap);
    /// A run has come in: what to look at first, in steps.
    void first_look_asked(RunId run);

  private:
    // The selection speaks to the session: it goes first.
    std::shared_ptr<Session> session_;
    std::shared_ptr<Selection> selection_;
};

}  // namespace rendak::app
