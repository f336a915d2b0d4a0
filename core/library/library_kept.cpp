// What was computed of runs and is kept beside them.

#include "core/library/library.h"
#include "core/library/sql.h"

namespace rendak {

using sql::Statement;

namespace {

/// A stretch of names that begin with a prefix: an index finds it, whatever signs are in it.
std::string behind(const std::string& prefix) {
    return prefix + "\xF4\x8F\xBF\xBF";  // the last sign that there is
}

}  // namespace

Result<std::vector<KeptResult>> Library::kept_results(RunId id, const std::string& prefix) const {
    Statement rows(
        *database_,
        "SELECT what, made_of, content, weight, seen_unix_s FROM kept_results WHERE run_id = ? AND what >= ? "
        "AND what < ? ORDER BY what");
    rows.bind(id.value).bind(prefix).bind(behind(prefix));
    return rows.all([](const Statement& row) {
        return KeptResult{row.text(0), row.text(1), row.text(2), static_cast<int>(row.integer(3)), row.real(4)};
    });
}

Result<void> Library::keep_result(RunId id, const KeptResult& result) {
    Statement put(*database_,
                  "INSERT OR REPLACE INTO kept_results (run_id, what, made_of, content, weight, seen_unix_s) VALUES "
                  "(?,?,?,?,?,?)");
    put.bind(id.value).bind(result.what).bind(result.made_of).bind(result.content).bind(result.weight);
    return put.bind(result.seen_unix_s).run();
}

Result<void> Library::set_result_seen(RunId id, const std::string& what, double unix_s) {
    Statement put(*database_, "UPDATE kept_results SET seen_unix_s = ? WHERE run_id = ? AND what = ?");
    return put.bind(unix_s).bind(id.value).bind(what).run();
}

Result<std::vector<RunId>> Library::runs_without_results(const std::string& prefix) const {
    Statement rows(*database_,
                   "SELECT id FROM runs WHERE binned_unix_s IS NULL AND joined_into IS NULL AND NOT EXISTS (SELECT 1 "
                   "FROM kept_results WHERE run_id = runs.id AND what >= ? AND what < ?) ORDER BY id");
    rows.bind(prefix).bind(behind(prefix));
    return rows.all([](const Statement& row) { return RunId{row.integer(0)}; });
}

Result<void> Library::drop_results(const std::string& what) {
    return Statement(*database_, "DELETE FROM kept_results WHERE what = ?").bind(what).run();
}

Result<std::map<RunId, int>> Library::unseen_results(const std::string& prefix) const {
    Statement rows(*database_,
                   "SELECT run_id, COUNT(*) FROM kept_results WHERE what >= ? AND what < ? AND weight > 0 AND "
                   "seen_unix_s = 0 GROUP BY run_id");
    rows.bind(prefix).bind(behind(prefix));
    const auto all = rows.all([](const Statement& row) {
        return std::pair{RunId{row.integer(0)}, static_cast<int>(row.integer(1))};
    });
    if (!all) return pass_on(all.error());
    return std::map<RunId, int>(all->begin(), all->end());
}

}  // namespace rendak
