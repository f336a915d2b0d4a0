// What people say about events, cars, setups and channel names.
#include <ctime>

#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/library/library.h"
#include "core/library/sql.h"

namespace rendak {

using sql::Statement;
using sql::Transaction;

namespace {

Result<void> insert_values(const sql::Connection& database, const char* text, std::int64_t id,
                           const std::vector<SheetValue>& values) {
    int position = 0;
    for (const SheetValue& value : values) {
        Statement insert(database, text);
        insert.bind(id).bind(position++).bind(value.name).bind(value.value).bind(value.unit);
        if (auto done = insert.run(); !done) return done;
    }
    return {};
}

Result<std::vector<SheetValue>> values_of(const sql::Connection& database, const char* text, std::int64_t id) {
    Statement rows(database, text);
    return rows.bind(id).all([](const Statement& row) { return SheetValue{row.text(0), row.text(1), row.text(2)}; });
}

}  // namespace

Result<std::vector<std::string>> Library::names(const char* select, const std::string& value) const {
    Statement rows(*database_, select);
    return rows.bind(value).all([](const Statement& row) { return row.text(0); });
}

Result<std::vector<EventRow>> Library::events() const {
    Statement rows(*database_, "SELECT id, name, place, date, weather, remarks, zone FROM events ORDER BY id");
    return rows.all([](const Statement& row) {
        return EventRow{{row.integer(0)}, row.text(1), row.text(2), row.text(3), row.text(4), row.text(5), row.text(6)};
    });
}

Result<void> Library::put_event(const EventRow& event) {
    if (event.name.empty()) return fail(ErrorCode::bad_input, "An event needs a name.");
    if (!is_time_zone(event.zone))
        return fail(
            ErrorCode::bad_input,
            "\"" + event.zone +
                "\" is no time zone. Write its name, Europe/Berlin, or how far its clocks are ahead of UTC: +02:00.");
    return Statement(*database_,
                     "INSERT INTO events (name, place, date, weather, remarks, zone) VALUES (?,?,?,?,?,?) ON CONFLICT "
                     "(name) DO "
                     "UPDATE SET place = excluded.place, date = excluded.date, weather = excluded.weather, "
                     "remarks = excluded.remarks, zone = excluded.zone")
        .bind(event.name)
        .bind(event.place)
        .bind(event.date)
        .bind(event.weather)
        .bind(event.remarks)
        .bind(event.zone)
        .run();
}

Result<std::vector<std::string>> Library::sessions_of(const std::string& event) const {
    return names("SELECT s.name FROM sessions s JOIN events e ON e.id = s.event_id WHERE e.name = ? ORDER BY s.id",
                 event);
}

Result<std::vector<std::string>> Library::drivers() const {
    return names("SELECT name FROM drivers WHERE ? = '' ORDER BY name");
}

Result<std::vector<std::string>> Library::cars() const {
    return names("SELECT name FROM cars WHERE ? = '' ORDER BY name");
}

Result<std::vector<std::string>> Library::tyre_sets() const {
    return names("SELECT DISTINCT tyre_set FROM runs WHERE tyre_set <> ? ORDER BY tyre_set");
}

Result<std::optional<RunId>> Library::find_raw(const std::string& sha256) const {
    Statement found(*database_,
                    "SELECT r.id FROM raw_files f JOIN runs r ON r.recording_id = f.recording_id WHERE f.sha256 = ? "
                    "ORDER BY r.binned_unix_s IS NOT NULL, r.id");
    const auto there = found.bind(sha256).found();
    if (!there) return pass_on(there.error());
    return *there ? std::optional(RunId{found.integer(0)}) : std::nullopt;
}

Result<std::vector<RawFile>> Library::raw_files(RunId id) const {
    Statement rows(*database_,
                   "SELECT f.sha256, f.name, f.size, f.archive_file FROM raw_files f JOIN runs r "
                   "ON r.recording_id = f.recording_id WHERE r.id = ? ORDER BY f.name");
    return rows.bind(id.value).all([](const Statement& row) {
        return RawFile{row.text(0), row.text(1), static_cast<std::uint64_t>(row.integer(2)), row.text(3)};
    });
}

Result<void> Library::add_raw(RunId id, const RawFile& raw) {
    Statement found(*database_, "SELECT recording_id FROM runs WHERE id = ?");
    const auto there = found.bind(id.value).found();
    if (!there) return pass_on(there.error());
    if (!*there) return fail(ErrorCode::not_found, "There is no such run.");
    return insert_raw(found.integer(0), raw);
}

Result<std::vector<ChannelEdit>> Library::channel_edits(RunId id) const {
    Statement rows(*database_, "SELECT channel, edit FROM channel_edits WHERE run_id = ? ORDER BY channel");
    return rows.bind(id.value).all(
        [](const Statement& row) { return channel_edit_from_json(row.text(0), row.text(1)); });
}

Result<void> Library::set_channel_edit(RunId id, const ChannelEdit& edit) {
    if (edit.changes_nothing())
        return Statement(*database_, "DELETE FROM channel_edits WHERE run_id = ? AND channel = ?")
            .bind(id.value)
            .bind(edit.channel)
            .run();
    return Statement(*database_, "INSERT OR REPLACE INTO channel_edits (run_id, channel, edit) VALUES (?,?,?)")
        .bind(id.value)
        .bind(edit.channel)
        .bind(to_json(edit))
        .run();
}

Result<std::vector<ChannelTemplate>> Library::channel_templates() const {
    Statement rows(*database_,
                   "SELECT car, logger, from_unix_s, channel, edit FROM channel_templates ORDER BY from_unix_s DESC, "
                   "car, logger, channel");
    return rows.all([](const Statement& row) {
        return ChannelTemplate{row.text(0), row.text(1), row.real(2), channel_edit_from_json(row.text(3), row.text(4))};
    });
}

Result<void> Library::put_channel_template(const ChannelTemplate& one) {
    return Statement(*database_,
                     "INSERT OR REPLACE INTO channel_templates (car, logger, from_unix_s, channel, edit) "
                     "VALUES (?,?,?,?,?)")
        .bind(one.car)
        .bind(one.logger)
        .bind(one.from_unix_s)
        .bind(one.edit.channel)
        .bind(to_json(one.edit))
        .run();
}

Result<void> Library::remove_channel_template(const ChannelTemplate& one) {
    return Statement(*database_,
                     "DELETE FROM channel_templates WHERE car = ? AND logger = ? AND from_unix_s = ? AND channel = ?")
        .bind(one.car)
        .bind(one.logger)
        .bind(one.from_unix_s)
        .bind(one.edit.channel)
        .run();
}

Result<std::vector<std::string>> Library::unused_channels(RunId id) const {
    return names("SELECT channel FROM unused_channels WHERE run_id = ?", std::to_string(id.value));
}

Result<void> Library::set_unused(RunId id, const std::string& channel, bool unused) {
    const char* text = unused ? "INSERT OR IGNORE INTO unused_channels (run_id, channel) VALUES (?,?)"
                              : "DELETE FROM unused_channels WHERE run_id = ? AND channel = ?";
    return Statement(*database_, text).bind(id.value).bind(channel).run();
}

Result<std::vector<std::string>> Library::accepted_findings(RunId id) const {
    return names("SELECT finding FROM accepted_findings WHERE run_id = ?", std::to_string(id.value));
}

Result<void> Library::set_accepted(RunId id, const std::string& finding, bool accepted) {
    const char* text = accepted ? "INSERT OR IGNORE INTO accepted_findings (run_id, finding) VALUES (?,?)"
                                : "DELETE FROM accepted_findings WHERE run_id = ? AND finding = ?";
    return Statement(*database_, text).bind(id.value).bind(finding).run();
}

Result<SetupId> Library::add_setup(const std::string& car, const std::string& name,
                                   const std::vector<SheetValue>& values, const std::string& remarks) {
    if (name.empty()) return fail(ErrorCode::bad_input, "A setup sheet needs a name.");
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return pass_on(begun.error());
    Result<std::int64_t> car_id = std::int64_t{0};
    if (!car.empty()) car_id = name_id("cars", car);
    if (!car_id) return pass_on(car_id.error());
    Statement last(*database_,
                   "SELECT COALESCE(MAX(version), 0) FROM setups WHERE name = ? AND COALESCE(car_id, 0) = ?");
    if (const auto there = last.bind(name).bind(*car_id).found(); !there) return pass_on(there.error());
    const std::int64_t version = last.integer(0) + 1;
    Statement insert(*database_, "INSERT INTO setups (car_id, name, version, made_unix_s, remarks) VALUES (?,?,?,?,?)");
    *car_id != 0 ? insert.bind(*car_id) : insert.bind_null();
    insert.bind(name).bind(version).bind(static_cast<double>(std::time(nullptr))).bind(remarks);
    if (auto done = insert.run(); !done) return pass_on(done.error());
    const SetupId id{database_->last_id()};
    auto done =
        insert_values(*database_, "INSERT INTO setup_values (setup_id, position, name, value, unit) VALUES (?,?,?,?,?)",
                      id.value, values);
    if (!done) return pass_on(done.error());
    if (auto kept = transaction.commit(); !kept) return pass_on(kept.error());
    return id;
}

Result<std::vector<Setup>> Library::setups(const std::string& car) const {
    Statement rows(*database_,
                   "SELECT u.id, c.name, u.name, u.version, u.made_unix_s, u.remarks FROM setups u LEFT JOIN cars c "
                   "ON c.id = u.car_id WHERE ? = '' OR c.name = ? ORDER BY u.id DESC");
    return rows.bind(car).bind(car).all([](const Statement& row) {
        return Setup{{row.integer(0)}, row.text(1), row.text(2), static_cast<int>(row.integer(3)),
                     row.real(4),      row.text(5), {}};
    });
}

Result<Setup> Library::setup(SetupId id) const {
    auto all = setups();
    if (!all) return pass_on(all.error());
    for (Setup& sheet : *all) {
        if (sheet.id != id) continue;
        auto values = values_of(
            *database_, "SELECT name, value, unit FROM setup_values WHERE setup_id = ? ORDER BY position", id.value);
        if (!values) return pass_on(values.error());
        sheet.values = std::move(*values);
        return sheet;
    }
    return fail(ErrorCode::not_found, "There is no setup sheet " + std::to_string(id.value) + " in this library.");
}

Result<std::vector<CarSheet>> Library::car_sheets() const {
    std::vector<CarSheet> out;
    Statement rows(*database_,
                   "SELECT k.id, c.name, k.season, k.valid_from FROM car_sheets k JOIN cars c ON c.id = k.car_id "
                   "ORDER BY c.name, k.season");
    while (rows.step()) {
        auto values =
            values_of(*database_, "SELECT name, value, unit FROM car_values WHERE sheet_id = ? ORDER BY position",
                      rows.integer(0));
        if (!values) return pass_on(values.error());
        out.push_back({rows.text(1), rows.text(2), rows.text(3), std::move(*values)});
    }
    if (auto fine = rows.status(); !fine) return pass_on(fine.error());
    return out;
}

Result<void> Library::put_car_sheet(const CarSheet& sheet) {
    if (sheet.car.empty()) return fail(ErrorCode::bad_input, "A car sheet needs the name of its car.");
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    const auto car = name_id("cars", sheet.car);
    if (!car) return pass_on(car.error());
    Statement put(*database_,
                  "INSERT INTO car_sheets (car_id, season, valid_from) VALUES (?,?,?) ON CONFLICT (car_id, season) DO "
                  "UPDATE SET valid_from = excluded.valid_from");
    if (auto done = put.bind(*car).bind(sheet.season).bind(sheet.valid_from).run(); !done) return done;
    Statement found(*database_, "SELECT id FROM car_sheets WHERE car_id = ? AND season = ?");
    if (!found.bind(*car).bind(sheet.season).step()) return pass_on(database_->error());
    const std::int64_t id = found.integer(0);
    if (auto done = Statement(*database_, "DELETE FROM car_values WHERE sheet_id = ?").bind(id).run(); !done)
        return done;
    auto done =
        insert_values(*database_, "INSERT INTO car_values (sheet_id, position, name, value, unit) VALUES (?,?,?,?,?)",
                      id, sheet.values);
    if (!done) return done;
    return transaction.commit();
}

Result<void> Library::remove_car_sheet(const std::string& car, const std::string& season) {
    return Statement(*database_,
                     "DELETE FROM car_sheets WHERE season = ? AND car_id = (SELECT id FROM cars WHERE name = ?)")
        .bind(season)
        .bind(car)
        .run();
}

Result<Aliases> Library::aliases() const {
    Aliases out;
    Statement rows(*database_, "SELECT alias, quantity FROM aliases");
    while (rows.step()) out[rows.text(0)] = rows.text(1);
    if (auto fine = rows.status(); !fine) return pass_on(fine.error());
    return out;
}

Result<void> Library::set_alias(const std::string& channel_name, const std::string& quantity) {
    const std::string alias = folded(channel_name);
    if (alias.empty()) return fail(ErrorCode::bad_input, "A channel name needs a letter or a digit.");
    if (quantity.empty()) return Statement(*database_, "DELETE FROM aliases WHERE alias = ?").bind(alias).run();
    return Statement(*database_,
                     "INSERT INTO aliases (alias, quantity) VALUES (?,?) ON CONFLICT (alias) DO UPDATE SET "
                     "quantity = excluded.quantity")
        .bind(alias)
        .bind(quantity)
        .run();
}

Result<std::string> Library::table_mapping(const std::string& shape) const {
    Statement found(*database_, "SELECT mapping FROM table_mappings WHERE shape = ?");
    const auto there = found.bind(shape).found();
    if (!there) return pass_on(there.error());
    return *there ? found.text(0) : "";
}

Result<bool> Library::has_table_mappings() const {
    return Statement(*database_, "SELECT 1 FROM table_mappings").found();
}

Result<void> Library::set_table_mapping(const std::string& shape, const std::string& mapping) {
    return Statement(*database_,
                     "INSERT INTO table_mappings (shape, mapping) VALUES (?,?) ON CONFLICT (shape) DO UPDATE SET "
                     "mapping = excluded.mapping")
        .bind(shape)
        .bind(mapping)
        .run();
}

namespace {

Result<std::vector<FormulaVersion>> versions_of(Statement& rows) {
    return rows.all([](const Statement& row) {
        return FormulaVersion{row.text(0), static_cast<int>(row.integer(1)), row.real(2), row.text(3), row.text(4)};
    });
}

}  // namespace

Result<std::vector<FormulaVersion>> Library::formula_sets() const {
    Statement rows(
        *database_,
        "SELECT set_name, version, made_unix_s, note, content FROM formula_versions v WHERE version = (SELECT "
        "MAX(version) FROM formula_versions w WHERE w.set_name = v.set_name) ORDER BY set_name");
    return versions_of(rows);
}

Result<std::vector<FormulaVersion>> Library::formula_history(const std::string& set_name) const {
    Statement rows(
        *database_,
        "SELECT set_name, version, made_unix_s, note, content FROM formula_versions WHERE set_name = ? ORDER "
        "BY version DESC");
    rows.bind(set_name);
    return versions_of(rows);
}

Result<int> Library::add_formula_version(const std::string& set_name, const std::string& content,
                                         const std::string& note) {
    if (set_name.empty()) return fail(ErrorCode::bad_input, "A formula set needs a name.");
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return pass_on(begun.error());
    Statement newest(*database_, "SELECT COALESCE(MAX(version), 0) FROM formula_versions WHERE set_name = ?");
    if (!newest.bind(set_name).step()) return pass_on(database_->error());
    const int version = static_cast<int>(newest.integer(0)) + 1;
    Statement put(*database_,
                  "INSERT INTO formula_versions (set_name, version, made_unix_s, note, content) VALUES (?,?,?,?,?)");
    if (auto done = put.bind(set_name)
                        .bind(std::int64_t{version})
                        .bind(static_cast<double>(std::time(nullptr)))
                        .bind(note)
                        .bind(content)
                        .run();
        !done)
        return pass_on(done.error());
    if (auto done = transaction.commit(); !done) return pass_on(done.error());
    return version;
}

Result<void> Library::drop_formula_version(const std::string& set_name) {
    return Statement(*database_,
                     "DELETE FROM formula_versions WHERE set_name = ? AND version = (SELECT MAX(version) FROM "
                     "formula_versions WHERE set_name = ?)")
        .bind(set_name)
        .bind(set_name)
        .run();
}

Result<void> Library::remove_formula_set(const std::string& set_name) {
    return Statement(*database_, "DELETE FROM formula_versions WHERE set_name = ?").bind(set_name).run();
}

Result<void> Library::restore_formula_set(const std::vector<FormulaVersion>& versions) {
    Transaction transaction(*database_);
    if (auto begun = transaction.begun(); !begun) return begun;
    for (const FormulaVersion& it : versions) {
        Statement put(
            *database_,
            "INSERT INTO formula_versions (set_name, version, made_unix_s, note, content) VALUES (?,?,?,?,?)");
        if (auto done = put.bind(it.set_name)
                            .bind(std::int64_t{it.version})
                            .bind(it.made_unix_s)
                            .bind(it.note)
                            .bind(it.content)
                            .run();
            !done)
            return done;
    }
    return transaction.commit();
}

}  // namespace rendak
