#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <span>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/library/rows.h"
#include "core/recording/recording.h"

struct sqlite3;
namespace rendak::sql {
class Statement;
}

namespace rendak {

/// The folder that holds everything: library.sqlite, recordings/ and tracks/. It stores and finds; it computes
/// nothing. One object is one connection: use it from one thread, open another for a worker.
/// A process killed at any moment leaves it as it was before the act that was going on.
class Library {
  public:
    enum class Open { existing, create_if_missing };

    [[nodiscard]] static Result<std::unique_ptr<Library>> open(const std::filesystem::path& folder,
                                                               Open mode = Open::create_if_missing);
    ~Library();
    Library(const Library&) = delete;
    Library& operator=(const Library&) = delete;

    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }

    // ---- runs ----------------------------------------------------------------------------------
    /// Writes the recording and files it as a run, in one act. Code `exists` when the content is here already.
    [[nodiscard]] Result<RunId> add_run(const Recording& recording, const FilingInfo& info, const JobContext& job = {});
    [[nodiscard]] std::optional<RunId> find_digest(const std::string& digest) const;
    /// Runs that are neither in the bin nor joined into another one.
    [[nodiscard]] std::vector<RunRow> runs() const;
    /// The same with best lap and counts, in one question: for lists.
    [[nodiscard]] std::vector<RunSummary> summaries() const;
    [[nodiscard]] Result<RunRow> run(RunId id) const;
    /// The recording behind a run, as it was imported (run_recording() in intake applies the corrections).
    [[nodiscard]] Result<std::shared_ptr<const Recording>> open_run(RunId id) const;
    /// Runs that are shown as parts of this one.
    [[nodiscard]] std::vector<RunRow> joined_runs(RunId id) const;
    [[nodiscard]] Result<void> set_run_track(RunId id, TrackId track);
    [[nodiscard]] Result<void> set_facts(RunId id, const RunFacts& facts);
    /// Adds to the logger's clock of the recording behind a run; 0 takes the correction back. A recording without a
    /// clock starts at `shift_s` as Unix time.
    [[nodiscard]] Result<void> set_clock_shift(RunId id, double shift_s);
    /// Shows `part` as a part of `main`, its times moved by `offset_s`; `main` 0 takes the join back.
    [[nodiscard]] Result<void> set_join(RunId part, RunId main, double offset_s);
    /// The stretch of the recording that is this run; none: all of it.
    [[nodiscard]] Result<void> set_window(RunId id, std::optional<Interval> window_s);
    /// Another run of the same recording.
    [[nodiscard]] Result<RunId> add_window(RunId id, Interval window_s, const std::string& name);

    // ---- bin -----------------------------------------------------------------------------------
    [[nodiscard]] Result<void> set_binned(RunId id, bool binned);
    [[nodiscard]] std::vector<RunRow> binned() const;
    /// Removes a run for good, and its recording when no other run uses it.
    [[nodiscard]] Result<void> remove_run(RunId id);

    // ---- raw files -----------------------------------------------------------------------------
    /// The run that a file with this SHA-256 became, binned ones included.
    [[nodiscard]] std::optional<RunId> find_raw(const std::string& sha256) const;
    [[nodiscard]] std::vector<RawFile> raw_files(RunId id) const;
    [[nodiscard]] Result<void> add_raw(RunId id, const RawFile& raw);

    // ---- laps ----------------------------------------------------------------------------------
    /// Replaces the stored cut of a run. Switches made by hand stay where they were in time.
    [[nodiscard]] Result<void> set_laps(RunId id, std::span<const Lap> laps);
    /// The stored cut with the hand-made switches applied.
    [[nodiscard]] std::vector<Lap> laps(RunId id) const;
    /// Switches a lap in or out by hand; the reason is kept with it.
    [[nodiscard]] Result<void> switch_lap(LapRef lap, bool included, const std::string& reason);
    /// Takes the hand-made switch of a lap back.
    [[nodiscard]] Result<void> unswitch_lap(LapRef lap);

    // ---- corrections of channels ---------------------------------------------------------------
    /// Quantities whose sign is turned round for this run.
    [[nodiscard]] std::vector<std::string> flipped_quantities(RunId id) const;
    [[nodiscard]] Result<void> set_flipped(RunId id, const std::string& quantity, bool flipped);
    /// Where the run's places and launch differ from what was logged; all zero when nobody corrected them.
    [[nodiscard]] PlaceCorrection place_correction(RunId id) const;
    [[nodiscard]] Result<void> set_place_correction(RunId id, const PlaceCorrection& correction);
    /// Channels that are left out of this run, by name.
    [[nodiscard]] std::vector<std::string> unused_channels(RunId id) const;
    [[nodiscard]] Result<void> set_unused(RunId id, const std::string& channel, bool unused);
    /// Findings of the tidy check that the user has accepted as they are.
    [[nodiscard]] std::vector<std::string> accepted_findings(RunId id) const;
    [[nodiscard]] Result<void> set_accepted(RunId id, const std::string& finding, bool accepted);

    // ---- events, drivers, cars -----------------------------------------------------------------
    [[nodiscard]] std::vector<EventRow> events() const;
    /// Place, date, weather and remarks of an event; its name finds it, and makes it when it is new.
    [[nodiscard]] Result<void> put_event(const EventRow& event);
    // Known names, for completion:
    [[nodiscard]] std::vector<std::string> sessions_of(const std::string& event) const;
    [[nodiscard]] std::vector<std::string> drivers() const;
    [[nodiscard]] std::vector<std::string> cars() const;
    [[nodiscard]] std::vector<std::string> tyre_sets() const;

    // ---- setup sheets and car sheets -----------------------------------------------------------
    /// Saves a new version; a sheet of that car and name gets the next number.
    [[nodiscard]] Result<SetupId> add_setup(const std::string& car, const std::string& name,
                                            const std::vector<SheetValue>& values, const std::string& remarks = {});
    [[nodiscard]] Result<Setup> setup(SetupId id) const;
    /// Newest first, without their values; car empty: all.
    [[nodiscard]] std::vector<Setup> setups(const std::string& car = {}) const;
    [[nodiscard]] std::vector<CarSheet> car_sheets() const;
    [[nodiscard]] Result<void> put_car_sheet(const CarSheet& sheet);
    [[nodiscard]] Result<void> remove_car_sheet(const std::string& car, const std::string& season);

    // ---- formula sets --------------------------------------------------------------------------
    /// The newest version of each set, in the order of names.
    [[nodiscard]] std::vector<FormulaVersion> formula_sets() const;
    /// All versions of a set, newest first.
    [[nodiscard]] std::vector<FormulaVersion> formula_history(const std::string& set_name) const;
    /// Saves a new version of a set, or the first; returns its number.
    [[nodiscard]] Result<int> add_formula_version(const std::string& set_name, const std::string& content,
                                                  const std::string& note);
    /// Takes the newest version of a set back; the set is gone when it was the only one.
    [[nodiscard]] Result<void> drop_formula_version(const std::string& set_name);
    [[nodiscard]] Result<void> remove_formula_set(const std::string& set_name);
    /// Puts versions back that remove_formula_set() took away.
    [[nodiscard]] Result<void> restore_formula_set(const std::vector<FormulaVersion>& versions);

    // ---- reading of files ----------------------------------------------------------------------
    [[nodiscard]] Aliases aliases() const;
    /// An empty quantity takes the alias away.
    [[nodiscard]] Result<void> set_alias(const std::string& channel_name, const std::string& quantity);
    /// How tables with these columns are read (JSON of TableMapping); empty: by themselves.
    [[nodiscard]] std::string table_mapping(const std::string& shape) const;
    [[nodiscard]] bool has_table_mappings() const;
    [[nodiscard]] Result<void> set_table_mapping(const std::string& shape, const std::string& mapping);

    // ---- tracks --------------------------------------------------------------------------------
    /// Writes tracks/<name>.geojson and lists it; a track of the same name is replaced.
    [[nodiscard]] Result<TrackId> put_track(const std::string& name, double length_m, const std::string& geojson);
    [[nodiscard]] Result<void> rename_track(TrackId id, const std::string& name);
    /// Refused while runs are cut at it. Its file stays in tracks/ for another day.
    [[nodiscard]] Result<void> remove_track(TrackId id);
    [[nodiscard]] std::vector<TrackRow> tracks() const;
    [[nodiscard]] Result<TrackRow> track(TrackId id) const;
    [[nodiscard]] std::optional<TrackId> find_track(const std::string& name) const;
    [[nodiscard]] Result<std::string> track_geojson(TrackId id) const;

    // ---- marks and settings --------------------------------------------------------------------
    [[nodiscard]] Result<MarkId> add_mark(TrackId track, const std::string& name, Interval range_m);
    [[nodiscard]] Result<void> set_mark_range(MarkId id, Interval range_m);
    [[nodiscard]] Result<void> remove_mark(MarkId id);
    [[nodiscard]] std::vector<Mark> marks(TrackId track) const;
    [[nodiscard]] std::string setting(const std::string& key) const;
    [[nodiscard]] Result<void> set_setting(const std::string& key, const std::string& value);

  private:
    Library(std::filesystem::path folder, sqlite3* database) : folder_(std::move(folder)), database_(database) {}
    [[nodiscard]] Result<void> prepare();
    [[nodiscard]] Result<void> bring_up_to_date();
    [[nodiscard]] Result<std::int64_t> add_recording(const Recording& recording, const std::string& file);
    [[nodiscard]] Result<void> insert_raw(std::int64_t recording_id, const RawFile& raw);
    [[nodiscard]] std::vector<RunRow> runs_where(const char* condition, std::int64_t value) const;
    [[nodiscard]] std::vector<std::string> names(const char* select, const std::string& value = {}) const;
    void sweep() const;
    [[nodiscard]] Result<void> bind_facts(sql::Statement& statement, const RunFacts& facts);
    [[nodiscard]] Result<void> insert_laps(RunId id, std::span<const Lap> laps);
    [[nodiscard]] Result<std::int64_t> name_id(const char* table, const std::string& name);
    [[nodiscard]] Result<std::int64_t> session_id(const std::string& event, const std::string& session);

    std::filesystem::path folder_;
    sqlite3* database_;
};

}  // namespace rendak
