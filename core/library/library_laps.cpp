// The stored cut of each run, hand-made switches, and corrections of its channels and places.
#include "core/library/library.h"
#include "core/library/sql.h"

namespace rendak {

using sql::Statement;
using sql::Transaction;

Result<void> Library::set_laps(RunId id, std::span<const Lap> laps) {
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    if (auto done = Statement(*database_, "DELETE FROM laps WHERE run_id = ?").bind(id.value).run(); !done) return done;
    if (auto done = insert_laps(id, laps); !done) return done;
    return transaction.commit();
}

Result<void> Library::insert_laps(RunId id, std::span<const Lap> laps) {
    for (const Lap& lap : laps) {
        Statement insert(*database_,
                         "INSERT INTO laps (run_id, number, kind, start_s, end_s, length_m, included, reason, trust_m, "
                         "doubt) VALUES (?,?,?,?,?,?,?,?,?,?)");
        insert.bind(id.value)
            .bind(lap.number)
            .bind(std::string(lap_kind_name(lap.kind)))
            .bind(lap.start_s)
            .bind(lap.end_s);
        insert.bind(lap.length_m).bind(lap.included ? 1 : 0).bind(lap.reason).bind(lap.trust_m).bind(lap.doubt);
        if (auto done = insert.run(); !done) return done;
    }
    return {};
}

Result<std::vector<Lap>> Library::laps(RunId id) const {
    Statement rows(
        *database_,
        "SELECT number, kind, start_s, end_s, length_m, included, reason, trust_m, doubt FROM laps WHERE run_id = ? "
        "ORDER BY number");
    auto out = rows.bind(id.value).all([](const Statement& row) {
        Lap lap;
        lap.number = static_cast<int>(row.integer(0));
        lap.kind = lap_kind_from_name(row.text(1));
        lap.start_s = row.real(2);
        lap.end_s = row.real(3);
        lap.length_m = row.real(4);
        lap.included = row.integer(5) != 0;
        lap.reason = row.text(6);
        lap.trust_m = row.real(7);
        lap.doubt = row.text(8);
        return lap;
    });
    if (!out) return out;
    Statement switches(*database_, "SELECT at_s, included, reason FROM lap_switches WHERE run_id = ?");
    switches.bind(id.value);
    while (switches.step()) {
        const double at_s = switches.real(0);
        for (Lap& lap : *out) {
            if (at_s < lap.start_s || at_s >= lap.end_s) continue;
            lap.included = switches.integer(1) != 0;
            lap.reason = switches.text(2);
            lap.switched_by_hand = true;
        }
    }
    if (auto fine = switches.status(); !fine) return pass_on(fine.error());
    Statement notes(*database_, "SELECT at_s, note FROM lap_notes WHERE run_id = ?");
    notes.bind(id.value);
    while (notes.step()) {
        for (Lap& lap : *out) {
            if (notes.real(0) >= lap.start_s && notes.real(0) < lap.end_s) lap.note = notes.text(1);
        }
    }
    if (auto fine = notes.status(); !fine) return pass_on(fine.error());
    return out;
}

namespace {

Result<Lap> lap_of(const Library& library, LapRef ref) {
    const auto all = library.laps(ref.run);
    if (!all) return pass_on(all.error());
    for (const Lap& lap : *all) {
        if (lap.number == ref.lap) return lap;
    }
    return fail(ErrorCode::not_found,
                "Run " + std::to_string(ref.run.value) + " has no lap " + std::to_string(ref.lap) + ".");
}

/// What is said of a lap is kept by a moment in its middle, so that it survives another start line.
double middle_of(const Lap& lap) {
    return 0.5 * (lap.start_s + lap.end_s);
}

}  // namespace

Result<void> Library::set_lap_note(LapRef ref, const std::string& note) {
    const auto lap = lap_of(*this, ref);
    if (!lap) return pass_on(lap.error());
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    auto done = Statement(*database_, "DELETE FROM lap_notes WHERE run_id = ? AND at_s >= ? AND at_s < ?")
                    .bind(ref.run.value)
                    .bind(lap->start_s)
                    .bind(lap->end_s)
                    .run();
    if (done && !note.empty())
        done = Statement(*database_, "INSERT INTO lap_notes (run_id, at_s, note) VALUES (?,?,?)")
                   .bind(ref.run.value)
                   .bind(middle_of(*lap))
                   .bind(note)
                   .run();
    return done ? transaction.commit() : done;
}

Result<void> Library::switch_lap(LapRef ref, bool included, const std::string& reason) {
    const auto lap = lap_of(*this, ref);
    if (!lap) return pass_on(lap.error());
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    if (auto done = unswitch_lap(ref); !done) return done;
    auto done = Statement(*database_, "INSERT INTO lap_switches (run_id, at_s, included, reason) VALUES (?,?,?,?)")
                    .bind(ref.run.value)
                    .bind(middle_of(*lap))
                    .bind(included ? 1 : 0)
                    .bind(reason)
                    .run();
    return done ? transaction.commit() : done;
}

Result<void> Library::unswitch_lap(LapRef ref) {
    const auto lap = lap_of(*this, ref);
    // No lap, nothing to take back.
    if (!lap && lap.error().code == ErrorCode::not_found) return {};
    if (!lap) return pass_on(lap.error());
    return Statement(*database_, "DELETE FROM lap_switches WHERE run_id = ? AND at_s >= ? AND at_s < ?")
        .bind(ref.run.value)
        .bind(lap->start_s)
        .bind(lap->end_s)
        .run();
}

Result<std::vector<std::string>> Library::flipped_quantities(RunId id) const {
    Statement rows(*database_, "SELECT quantity FROM flipped_quantities WHERE run_id = ?");
    return rows.bind(id.value).all([](const Statement& row) { return row.text(0); });
}

Result<void> Library::set_flipped(RunId id, const std::string& quantity, bool flipped) {
    const char* text = flipped ? "INSERT OR IGNORE INTO flipped_quantities (run_id, quantity) VALUES (?,?)"
                               : "DELETE FROM flipped_quantities WHERE run_id = ? AND quantity = ?";
    return Statement(*database_, text).bind(id.value).bind(quantity).run();
}

Result<PlaceCorrection> Library::place_correction(RunId id) const {
    Statement found(*database_, "SELECT east_m, north_m, delay_s, launch_s FROM place_corrections WHERE run_id = ?");
    const auto there = found.bind(id.value).found();
    if (!there) return pass_on(there.error());
    if (!*there) return PlaceCorrection{};
    return PlaceCorrection{found.real(0), found.real(1), found.real(2), found.optional_real(3)};
}

Result<void> Library::set_place_correction(RunId id, const PlaceCorrection& correction) {
    if (correction == PlaceCorrection{})
        return Statement(*database_, "DELETE FROM place_corrections WHERE run_id = ?").bind(id.value).run();
    Statement put(*database_,
                  "INSERT OR REPLACE INTO place_corrections (run_id, east_m, north_m, delay_s, launch_s) "
                  "VALUES (?,?,?,?,?)");
    put.bind(id.value).bind(correction.east_m).bind(correction.north_m).bind(correction.delay_s);
    return put.bind(correction.launch_s).run();
}

Result<std::vector<OfficialLap>> Library::official_laps(RunId id) const {
    Statement rows(*database_, "SELECT number, time_s FROM official_laps WHERE run_id = ? ORDER BY number");
    return rows.bind(id.value).all([](const Statement& row) {
        return OfficialLap{static_cast<int>(row.integer(0)), row.real(1)};
    });
}

Result<void> Library::set_official_laps(RunId id, std::span<const OfficialLap> laps) {
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    if (const auto known = run(id); !known) return pass_on(known.error());
    if (auto done = Statement(*database_, "DELETE FROM official_laps WHERE run_id = ?").bind(id.value).run(); !done)
        return done;
    if (auto done = insert_official_laps(id, laps); !done) return done;
    return transaction.commit();
}

Result<void> Library::insert_official_laps(RunId id, std::span<const OfficialLap> laps) {
    for (const OfficialLap& lap : laps) {
        Statement put(*database_, "INSERT INTO official_laps VALUES (?,?,?)");
        if (auto done = put.bind(id.value).bind(std::int64_t{lap.number}).bind(lap.time_s).run(); !done) return done;
    }
    return {};
}

Result<std::vector<PictureNote>> Library::picture_notes(RunId id) const {
    Statement rows(*database_, "SELECT id, at_s, quantity, note FROM picture_notes WHERE run_id = ? ORDER BY at_s, id");
    return rows.bind(id.value).all([](const Statement& row) {
        return PictureNote{row.integer(0), row.real(1), row.text(2), row.text(3)};
    });
}

Result<std::int64_t> Library::add_picture_note(RunId id, const PictureNote& note) {
    if (const auto known = run(id); !known) return pass_on(known.error());
    Statement put(*database_, note.id > 0
                                  ? "INSERT INTO picture_notes (run_id, at_s, quantity, note, id) VALUES (?,?,?,?,?)"
                                  : "INSERT INTO picture_notes (run_id, at_s, quantity, note) VALUES (?,?,?,?)");
    put.bind(id.value).bind(note.at_s).bind(note.quantity).bind(note.text);
    if (note.id > 0) put.bind(note.id);
    if (auto done = put.run(); !done) return pass_on(done.error());
    return database_->last_id();
}

Result<void> Library::remove_picture_note(std::int64_t id) {
    return Statement(*database_, "DELETE FROM picture_notes WHERE id = ?").bind(id).run();
}

}  // namespace rendak
