#include "app/session/watch_keeper.h"

#include "core/intake/watch_book.h"

namespace rendak::app {

WatchKeeper::WatchKeeper(Library& library, Jobs& jobs) : library_(library), jobs_(jobs) {}

void WatchKeeper::check_new() {
    const auto runs = unwatched_runs(library_);
    if (runs) check(*runs);
}

void WatchKeeper::check_all() {
    failed_.clear();
    const auto rows = library_.runs();
    if (!rows) return;
    std::vector<RunId> runs;
    for (const RunRow& row : *rows) runs.push_back(row.id);
    check(runs);
    if (runs.empty()) Q_EMIT changed();
}

void WatchKeeper::check(const std::vector<RunId>& runs) {
    if (library_.is_look_only()) return;
    for (const RunId run : runs) {
        if (!failed_.contains(run)) wanted_.insert(run);
    }
    // What is wanted while a check goes on is checked after it.
    if (!job_.running()) start();
}

void WatchKeeper::start() {
    if (wanted_.empty()) return;
    const std::vector<RunId> runs(wanted_.begin(), wanted_.end());
    wanted_.clear();
    using Failed = std::vector<RunId>;
    job_ = jobs_.run<Failed>(
        tr("Watch rules"),
        [folder = library_.folder(), runs](const JobContext& job) -> Result<Failed> {
            const auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            Failed failed;
            for (std::size_t k = 0; k < runs.size(); ++k) {
                // A run that cannot be opened is told where it is looked at; the others are checked all the same.
                if (!check_watch_rules(**library, {runs[k]}, {job.stop, {}})) failed.push_back(runs[k]);
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                job.report(static_cast<double>(k + 1) / static_cast<double>(runs.size()));
            }
            return failed;
        },
        [this](const Result<Failed>& failed) {
            if (failed) failed_.insert(failed->begin(), failed->end());
            Q_EMIT changed();
            start();
        });
}

}  // namespace rendak::app
