#pragma once

namespace rendak {

inline constexpr int schema_version = 1;

/// Standard SQL where it can be, so that the same catalogue can stand on a team's server one day.
inline constexpr const char* schema_sql = R"sql(
CREATE TABLE events   (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE sessions (id INTEGER PRIMARY KEY, event_id INTEGER NOT NULL REFERENCES events(id), name TEXT NOT NULL,
                       UNIQUE (event_id, name));
CREATE TABLE drivers  (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE cars     (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE tracks   (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, file TEXT NOT NULL, length_m REAL NOT NULL);
CREATE TABLE runs     (id INTEGER PRIMARY KEY, session_id INTEGER REFERENCES sessions(id), name TEXT NOT NULL,
                       driver_id INTEGER REFERENCES drivers(id), car_id INTEGER REFERENCES cars(id),
                       track_id INTEGER REFERENCES tracks(id), recording_file TEXT NOT NULL,
                       digest TEXT NOT NULL UNIQUE, source_name TEXT NOT NULL, start_unix_s REAL,
                       duration_s REAL NOT NULL, notes TEXT NOT NULL);
CREATE TABLE laps     (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, number INTEGER NOT NULL,
                       kind TEXT NOT NULL, start_s REAL NOT NULL, end_s REAL NOT NULL, length_m REAL NOT NULL,
                       included INTEGER NOT NULL, reason TEXT NOT NULL, PRIMARY KEY (run_id, number));
CREATE TABLE lap_switches (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, at_s REAL NOT NULL,
                       included INTEGER NOT NULL, reason TEXT NOT NULL, PRIMARY KEY (run_id, at_s));
CREATE TABLE flipped_quantities (run_id INTEGER NOT NULL REFERENCES runs(id) ON DELETE CASCADE, quantity TEXT NOT NULL,
                       PRIMARY KEY (run_id, quantity));
CREATE TABLE marks    (id INTEGER PRIMARY KEY, track_id INTEGER NOT NULL REFERENCES tracks(id), name TEXT NOT NULL,
                       begin_m REAL NOT NULL, end_m REAL NOT NULL);
CREATE TABLE settings (key TEXT PRIMARY KEY, value TEXT NOT NULL);
)sql";

}  // namespace rendak
