#pragma once

#include <QTimer>
#include <QUndoStack>
#include <functional>
#include <memory>
#include <set>
#include <vector>

#include "app/jobs/jobs.h"
#include "app/session/change.h"
#include "app/session/watch_keeper.h"
#include "core/library/library.h"

namespace rendak::app {

/// One opened library: its catalogue, the work that goes on in it and the edits that can be undone. Windows share it.
class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(std::unique_ptr<Library> library, QObject* parent = nullptr);

    Library& library() { return *library_; }
    Jobs& jobs() { return jobs_; }
    WatchKeeper& watch() { return *watch_; }

    using Work = std::function<Result<void>()>;
    /// An edit of the library, done at once, in one act. False when it failed: then nothing has changed, the error is
    /// told and there is nothing to undo.
    bool edit(const QString& text, Work redo, Work undo, Change change);
    /// An edit that opens recordings: it is done, undone and done again on a worker with a library of its own. One at a
    /// time; it can be undone once it has been done.
    using LibraryWork = std::function<Result<void>(Library&, const JobContext&)>;
    void edit_in_background(const QString& text, const LibraryWork& redo, const LibraryWork& undo, Change change);
    [[nodiscard]] bool is_editing() const { return editing_; }
    /// Undo and redo, unless an edit is still going on; what was done is told. What fails is told, and can be tried
    /// again.
    void undo();
    void redo();
    [[nodiscard]] const QUndoStack& edits() const { return edits_; }
    /// After something that cannot be undone, what came before it cannot be either.
    void forget_edits() { edits_.clear(); }

    /// What was read from the library, to be shown: an error is told, and nothing is shown instead.
    template <class T>
    [[nodiscard]] T shown(Result<T> read) {
        if (read) return std::move(*read);
        tell(read.error());
        return T{};
    }
    void tell(const QString& message) { Q_EMIT told(message); }
    void tell(const Error& error) { Q_EMIT failed(QString::fromStdString(error.text())); }
    /// Something changed on disk that was not an edit: an import, a bundle, a learnt track.
    void note(Change change);
    /// Holds the recordings of runs against what was filed, in the background, once a run.
    void check(const std::vector<RunId>& runs);

  Q_SIGNALS:
    void told(const QString& message);
    void failed(const QString& message);
    void changed(Change change);
    /// An opened recording became shorter: what is open is to be looked at again.
    void recording_shrank();

  private:
    class Edit;
    [[nodiscard]] const Edit* edit_at(int index) const;
    [[nodiscard]] Result<void> in_one_act(const Work& work);
    void run_in_background(const QString& text, const LibraryWork& work, Change change,
                           const std::function<void(bool)>& done);
    void read_formulas();

    std::unique_ptr<Library> library_;
    QUndoStack edits_;
    bool editing_ = false;
    std::set<RunId> checked_;  ///< runs whose recordings were held against what was filed
    QTimer shrink_watch_;      ///< a recording that became shorter while it is open is said
    unsigned long shrunk_before_ = 0;
    Jobs jobs_;  ///< late: workers end before what they speak to
    std::unique_ptr<WatchKeeper> watch_;
};

}  // namespace rendak::app
