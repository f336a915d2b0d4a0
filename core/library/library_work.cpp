// What drivers work on.

#include <ctime>

#include "core/library/library.h"
#include "core/library/sql.h"

namespace rendak {

using sql::Statement;

Result<std::vector<WorkItem>> Library::work_items() const {
    Statement rows(*database_,
                   "SELECT id, track_id, COALESCE(run_id, 0), driver, car, at_m, figure, from_value, target, step, "
                   "note, made_unix_s, closed FROM work_items ORDER BY id");
    return rows.all([](const Statement& row) {
        return WorkItem{row.integer(0), {row.integer(1)}, {row.integer(2)},    row.text(3), row.text(4),
                        row.real(5),    row.text(6),      row.real(7),         row.real(8), row.real(9),
                        row.text(10),   row.real(11),     row.integer(12) != 0};
    });
}

Result<std::int64_t> Library::add_work_item(const WorkItem& item) {
    if (const auto known = track(item.track); !known) return pass_on(known.error());
    const double made = item.made_unix_s > 0 ? item.made_unix_s : static_cast<double>(std::time(nullptr));
    Statement put(*database_,
                  "INSERT INTO work_items (id, track_id, run_id, driver, car, at_m, figure, from_value, target, step, "
                  "note, made_unix_s, closed) VALUES (NULLIF(?,0),?,NULLIF(?,0),?,?,?,?,?,?,?,?,?,?)");
    put.bind(item.id).bind(item.track.value).bind(item.run.value).bind(item.driver).bind(item.car).bind(item.at_m);
    put.bind(item.figure).bind(item.from).bind(item.target).bind(item.step).bind(item.note).bind(made);
    put.bind(static_cast<std::int64_t>(item.closed));
    if (auto done = put.run(); !done) return pass_on(done.error());
    return database_->last_id();
}

Result<void> Library::remove_work_item(std::int64_t id) {
    return Statement(*database_, "DELETE FROM work_items WHERE id = ?").bind(id).run();
}

Result<void> Library::close_work_item(std::int64_t id, bool closed) {
    Statement put(*database_, "UPDATE work_items SET closed = ? WHERE id = ?");
    if (auto done = put.bind(static_cast<std::int64_t>(closed)).bind(id).run(); !done) return done;
    const auto items = work_items();
    if (!items) return pass_on(items.error());
    for (const WorkItem& item : *items) {
        if (item.id == id) return {};
    }
    return fail(ErrorCode::not_found, "There is no work item " + std::to_string(id) + ".");
}

}  // namespace rendak
