#pragma once

#include <string>
#include <vector>

namespace rendak {

inline constexpr int schema_version = 11;

/// Standard SQL where it can be, so that the same catalogue can stand on a team's server one day.
/// A run is a stretch of a recording: a file that holds two sessions is two runs of one recording. A run that was
/// joined into another one keeps its row and is shown as a part of it.
inline constexpr const char* schema_sql = R"sql(
CREATE TABLE events   (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, place TEXT NOT NULL DEFAULT '',
                       date TEXT NOT NULL DEFAULT '', weather TEXT NOT NULL DEFAULT '', remarks TEXT NOT NULL DEFAULT '',
                       zone TEXT NOT NULL DEFAULT '');
CREATE TABLE sessions (id INTEGER PRIMARY KEY, event_id INTEGER NOT NULL REFERENCES events(id), name TEXT NOT NULL,
                       UNIQUE (event_id, name));
CREATE TABLE drivers  (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE cars     (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE tracks   (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, file TEXT NOT NULL, length_m REAL NOT NULL,
                       geojson TEXT NOT NULL DEFAULT '', mirrored TEXT NOT NULL DEFAULT '');
CREATE TABLE setups   (id INTEGER PRIMARY KEY, car_id INTEGER REFERENCES cars(id), name TEXT NOT NULL,
                       version INTEGER NOT NULL, made_unix_s REAL NOT NULL, remarks TEXT NOT NULL);
CREATE TABLE setup_values (setup_id INTEGER NOT NULL REFERENCES setups(id) ON DELETE CASCADE, position INTEGER NOT NULL,
                       name TEXT NOT NULL, value TEXT NOT NULL, unit TEXT NOT NULL, PRIMARY KEY (setup_id, position));
CREATE TABLE car_sheets (id INTEGER PRIMARY KEY, car_id INTEGER NOT NULL REFERENCES cars(id), season TEXT NOT NULL,
                       valid_from TEXT NOT NULL, UNIQUE (car_id, season));
CREATE TABLE car_values (sheet_id INTEGER NOT NULL REFERENCES car_sheets(id) ON DELETE CASCADE, position INTEGER NOT NULL,
                       name TEXT NOT NULL, value TEXT NOT NULL, unit TEXT NOT NULL, PRIMARY KEY (sheet_id, position));
CREATE TABLE recordings (id INTEGER PRIMARY KEY, digest TEXT NOT NULL UNIQUE, file TEXT NOT NULL,
                       source_name TEXT NOT NULL, logger TEXT NOT NULL DEFAULT '', start_unix_s REAL,
                       clock_shift_s REAL NOT NULL DEFAULT 0, begin_s REAL NOT NULL, end_s REAL NOT NULL,
                       file_digest TEXT NOT NULL DEFAULT '', damage TEXT NOT NULL DEFAULT '');
CREATE TABLE raw_files (sha256 TEXT PRIMARY KEY, recording_id INTEGER NOT NULL REFERENCES recordings(id) ON DELETE CASCADE,
                       name TEXT NOT NULL, size INTEGER NOT NULL, archive_file TEXT NOT NULL);
CREATE TABLE runs     (id INTEGER PRIMARY KEY, session_id INTEGER REFERENCES sessions(id), name TEXT NOT NULL,
                       driver_id INTEGER REFERENCES drivers(id), car_id INTEGER REFERENCES cars(id),
                       track_id INTEGER REFERENCES tracks(id), recording_id INTEGER NOT NULL REFERENCES recordings(id),
                       begin_s REAL, end_s REAL, joined_into INTEGER REFERENCES runs(id), join_offset_s REAL NOT NULL DEFAULT 0,
                       notes TEXT NOT NULL, tyre_set TEXT NOT NULL DEFAULT '', tyre_laps REAL, fuel_l REAL,
                       official_time_s REAL, weather TEXT NOT NULL DEFAULT '', changes TEXT NOT NULL DEFAULT '',
                       remarks TEXT NOT NULL DEFAULT '', setup_id INTEGER REFERENCES setups(id), binned_unix_s REAL,
                       air_c REAL, track_c REAL, wind_mps REAL, wind_from_deg REAL, pressure_hpa REAL);
CREATE INDEX runs_by_recording ON runs (recording_id);
CREATE TABLE laps     (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, number INTEGER NOT NULL,
                       kind TEXT NOT NULL, start_s REAL NOT NULL, end_s REAL NOT NULL, length_m REAL NOT NULL,
                       included INTEGER NOT NULL, reason TEXT NOT NULL, trust_m REAL NOT NULL DEFAULT 0,
                       doubt TEXT NOT NULL DEFAULT '', PRIMARY KEY (run_id, number));
CREATE TABLE lap_switches (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, at_s REAL NOT NULL,
                       included INTEGER NOT NULL, reason TEXT NOT NULL, PRIMARY KEY (run_id, at_s));
CREATE TABLE lap_notes (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, at_s REAL NOT NULL,
                       note TEXT NOT NULL, PRIMARY KEY (run_id, at_s));
CREATE TABLE official_laps (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, number INTEGER NOT NULL,
                       time_s REAL NOT NULL, PRIMARY KEY (run_id, number));
CREATE TABLE picture_notes (id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE,
                       at_s REAL NOT NULL, quantity TEXT NOT NULL, note TEXT NOT NULL);
CREATE TABLE work_items (id INTEGER PRIMARY KEY, track_id INTEGER NOT NULL REFERENCES tracks(id) ON DELETE CASCADE,
                       run_id INTEGER REFERENCES runs(id) ON DELETE SET NULL, driver TEXT NOT NULL, car TEXT NOT NULL,
                       at_m REAL NOT NULL, figure TEXT NOT NULL, from_value REAL NOT NULL, target REAL NOT NULL,
                       step REAL NOT NULL, note TEXT NOT NULL, made_unix_s REAL NOT NULL,
                       closed INTEGER NOT NULL DEFAULT 0);
CREATE TABLE kept_results (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, what TEXT NOT NULL,
                       made_of TEXT NOT NULL, content TEXT NOT NULL, weight INTEGER NOT NULL DEFAULT 0,
                       seen_unix_s REAL NOT NULL DEFAULT 0, PRIMARY KEY (run_id, what));
CREATE TABLE flipped_quantities (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, quantity TEXT NOT NULL,
                       PRIMARY KEY (run_id, quantity));
CREATE TABLE place_corrections (run_id INTEGER PRIMARY KEY REFERENCES runs(id) ON DELETE CASCADE, east_m REAL NOT NULL,
                       north_m REAL NOT NULL, delay_s REAL NOT NULL, launch_s REAL);
CREATE TABLE unused_channels (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, channel TEXT NOT NULL,
                       PRIMARY KEY (run_id, channel));
CREATE TABLE channel_edits (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, channel TEXT NOT NULL,
                       edit TEXT NOT NULL, PRIMARY KEY (run_id, channel));
CREATE TABLE channel_templates (car TEXT NOT NULL, logger TEXT NOT NULL, from_unix_s REAL NOT NULL,
                       channel TEXT NOT NULL, edit TEXT NOT NULL, PRIMARY KEY (car, logger, channel, from_unix_s));
CREATE TABLE accepted_findings (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, finding TEXT NOT NULL,
                       PRIMARY KEY (run_id, finding));
CREATE TABLE marks    (id INTEGER PRIMARY KEY, track_id INTEGER NOT NULL REFERENCES tracks(id), name TEXT NOT NULL,
                       begin_m REAL NOT NULL, end_m REAL NOT NULL);
CREATE TABLE aliases  (alias TEXT PRIMARY KEY, quantity TEXT NOT NULL);
CREATE TABLE table_mappings (shape TEXT PRIMARY KEY, mapping TEXT NOT NULL);
CREATE TABLE settings (key TEXT PRIMARY KEY, value TEXT NOT NULL);
CREATE TABLE formula_versions (set_name TEXT NOT NULL, version INTEGER NOT NULL, made_unix_s REAL NOT NULL,
                       note TEXT NOT NULL, content TEXT NOT NULL, PRIMARY KEY (set_name, version));
)sql";

/// From version 10 to 11.
inline constexpr const char* after_version_11_sql = R"sql(
CREATE TABLE kept_results (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, what TEXT NOT NULL,
                       made_of TEXT NOT NULL, content TEXT NOT NULL, weight INTEGER NOT NULL DEFAULT 0,
                       seen_unix_s REAL NOT NULL DEFAULT 0, PRIMARY KEY (run_id, what));
)sql";

/// From version 9 to 10.
inline constexpr const char* after_version_10_sql = R"sql(
CREATE TABLE work_items (id INTEGER PRIMARY KEY, track_id INTEGER NOT NULL REFERENCES tracks(id) ON DELETE CASCADE,
                       run_id INTEGER REFERENCES runs(id) ON DELETE SET NULL, driver TEXT NOT NULL, car TEXT NOT NULL,
                       at_m REAL NOT NULL, figure TEXT NOT NULL, from_value REAL NOT NULL, target REAL NOT NULL,
                       step REAL NOT NULL, note TEXT NOT NULL, made_unix_s REAL NOT NULL,
                       closed INTEGER NOT NULL DEFAULT 0);
)sql";

/// From version 8 to 9.
inline constexpr const char* after_version_9_sql = R"sql(
CREATE TABLE picture_notes (id INTEGER PRIMARY KEY, run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE,
                       at_s REAL NOT NULL, quantity TEXT NOT NULL, note TEXT NOT NULL);
)sql";

/// From version 7 to 8.
inline constexpr const char* after_version_8_sql = R"sql(
ALTER TABLE events ADD COLUMN zone TEXT NOT NULL DEFAULT '';
ALTER TABLE runs ADD COLUMN air_c REAL;
ALTER TABLE runs ADD COLUMN track_c REAL;
ALTER TABLE runs ADD COLUMN wind_mps REAL;
ALTER TABLE runs ADD COLUMN wind_from_deg REAL;
ALTER TABLE runs ADD COLUMN pressure_hpa REAL;
CREATE TABLE official_laps (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, number INTEGER NOT NULL,
                       time_s REAL NOT NULL, PRIMARY KEY (run_id, number));
)sql";

/// From version 5 to 6.
inline constexpr const char* after_version_6_sql = R"sql(
CREATE TABLE channel_edits (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, channel TEXT NOT NULL,
                       edit TEXT NOT NULL, PRIMARY KEY (run_id, channel));
CREATE TABLE channel_templates (car TEXT NOT NULL, logger TEXT NOT NULL, from_unix_s REAL NOT NULL,
                       channel TEXT NOT NULL, edit TEXT NOT NULL, PRIMARY KEY (car, logger, channel, from_unix_s));
)sql";

/// From version 4 to 5. The texts of tracks are then taken over from their files.
inline constexpr const char* after_version_5_sql = R"sql(
ALTER TABLE tracks ADD COLUMN geojson TEXT NOT NULL DEFAULT '';
ALTER TABLE tracks ADD COLUMN mirrored TEXT NOT NULL DEFAULT '';
ALTER TABLE recordings ADD COLUMN file_digest TEXT NOT NULL DEFAULT '';
ALTER TABLE recordings ADD COLUMN damage TEXT NOT NULL DEFAULT '';
)sql";

/// Before version 7 a note was the reason of a switch, and a doubt was a question in a reason.
inline constexpr const char* notes_and_doubts_sql = R"sql(
INSERT INTO lap_notes (run_id, at_s, note)
  SELECT run_id, at_s, reason FROM lap_switches
  WHERE reason NOT IN ('', 'switched in by hand', 'switched out by hand', 'first or last lap of the run')
  AND reason NOT LIKE 'slow: +%';
UPDATE laps SET doubt = reason, reason = '' WHERE instr(reason, '?') > 0;
)sql";

/// From version 6 to 7.
inline constexpr const char* after_version_7_sql = R"sql(
ALTER TABLE laps ADD COLUMN doubt TEXT NOT NULL DEFAULT '';
CREATE TABLE lap_notes (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, at_s REAL NOT NULL,
                       note TEXT NOT NULL, PRIMARY KEY (run_id, at_s));
)sql";

/// From version 3 to 4.
inline constexpr const char* after_version_4_sql = R"sql(
CREATE TABLE formula_versions (set_name TEXT NOT NULL, version INTEGER NOT NULL, made_unix_s REAL NOT NULL,
                       note TEXT NOT NULL, content TEXT NOT NULL, PRIMARY KEY (set_name, version));
)sql";

/// From version 2 to 3.
inline constexpr const char* after_version_3_sql = R"sql(
ALTER TABLE laps ADD COLUMN trust_m REAL NOT NULL DEFAULT 0;
CREATE TABLE place_corrections (run_id INTEGER PRIMARY KEY REFERENCES runs(id) ON DELETE CASCADE, east_m REAL NOT NULL,
                       north_m REAL NOT NULL, delay_s REAL NOT NULL, launch_s REAL);
)sql";

/// From version 1 to the newest: the old tables step aside, the new ones take their rows over.
inline constexpr const char* before_version_2_sql = R"sql(
ALTER TABLE events RENAME TO old_events;
ALTER TABLE sessions RENAME TO old_sessions;
ALTER TABLE drivers RENAME TO old_drivers;
ALTER TABLE cars RENAME TO old_cars;
ALTER TABLE tracks RENAME TO old_tracks;
ALTER TABLE runs RENAME TO old_runs;
ALTER TABLE laps RENAME TO old_laps;
ALTER TABLE lap_switches RENAME TO old_lap_switches;
ALTER TABLE flipped_quantities RENAME TO old_flipped_quantities;
ALTER TABLE marks RENAME TO old_marks;
ALTER TABLE settings RENAME TO old_settings;
)sql";
inline constexpr const char* after_version_2_sql = R"sql(
INSERT INTO events (id, name) SELECT id, name FROM old_events;
INSERT INTO sessions SELECT id, event_id, name FROM old_sessions;
INSERT INTO drivers SELECT id, name FROM old_drivers;
INSERT INTO cars SELECT id, name FROM old_cars;
INSERT INTO tracks (id, name, file, length_m) SELECT id, name, file, length_m FROM old_tracks;
INSERT INTO recordings (id, digest, file, source_name, start_unix_s, begin_s, end_s)
  SELECT id, digest, recording_file, source_name, start_unix_s, 0, duration_s FROM old_runs;
INSERT INTO runs (id, session_id, name, driver_id, car_id, track_id, recording_id, notes)
  SELECT id, session_id, name, driver_id, car_id, track_id, id, notes FROM old_runs;
INSERT INTO laps (run_id, number, kind, start_s, end_s, length_m, included, reason)
  SELECT run_id, number, kind, start_s, end_s, length_m, included, reason FROM old_laps;
INSERT INTO lap_switches SELECT run_id, at_s, included, reason FROM old_lap_switches;
INSERT INTO flipped_quantities SELECT run_id, quantity FROM old_flipped_quantities;
INSERT INTO marks SELECT id, track_id, name, begin_m, end_m FROM old_marks;
INSERT INTO settings SELECT key, value FROM old_settings;
DROP TABLE old_marks;
DROP TABLE old_flipped_quantities;
DROP TABLE old_lap_switches;
DROP TABLE old_laps;
DROP TABLE old_runs;
DROP TABLE old_sessions;
DROP TABLE old_events;
DROP TABLE old_drivers;
DROP TABLE old_cars;
DROP TABLE old_tracks;
DROP TABLE old_settings;
)sql";

/// How a catalogue of one version becomes one of a later one. A new version: its step is added at the end, and
/// schema_sql says the same for new libraries (a test holds the two against each other).
struct CatalogueStep {
    int from, to;
    std::string sql;
};
inline std::vector<CatalogueStep> catalogue_steps() {
    return {
        {0, schema_version, schema_sql},
        // Renaming must leave what refers to the old names alone.
        {1, schema_version,
         "PRAGMA legacy_alter_table = ON;" + std::string(before_version_2_sql) + schema_sql + after_version_2_sql +
             notes_and_doubts_sql},
        {2, 3, after_version_3_sql},
        {3, 4, after_version_4_sql},
        {4, 5, after_version_5_sql},
        {5, 6, after_version_6_sql},
        {6, 7, std::string(after_version_7_sql) + notes_and_doubts_sql},
        {7, 8, after_version_8_sql},
        {8, 9, after_version_9_sql},
        {9, 10, after_version_10_sql},
        {10, 11, after_version_11_sql},
    };
}

}  // namespace rendak
