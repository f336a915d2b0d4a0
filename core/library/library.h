#pragma once

#include <filesystem>
#include <map>
#include <memory>
#include <span>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/library/rows.h"
#include "core/recording/recording.h"

namespace rendak::sql {
class Connection;
class Statement;
class Transaction;
}  // namespace rendak::sql

namespace rendak {

/// The folder that holds everything: library.sqlite, recordings/ and tracks/. It stores and finds; it computes
/// nothing. One object is one connection: use it from one thread, open another for a worker.
/// A process killed at any moment leaves it as it was before the act that was going on. Every read can fail, and says
/// so.
class Library {
  public:
    enum class Open { existing, create_if_missing };

    [[nodiscard]] static Result<std::unique_ptr<Library>> open(const std::filesystem::path& folder,
                                                               Open mode = Open::create_if_missing);
    ~Library();
    Library(const Library&) = delete;
    Library& operator=(const Library&) = delete;

    [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }
    /// Why nothing can be written here (a read-only or full disk, missing rights); empty when it can. Then every edit
    /// is an error, and what is looked at is the catalogue as it was when it was opened.
    [[nodiscard]] const std::string& look_only() const { return look_only_; }
    [[nodiscard]] bool is_look_only() const { return !look_only_.empty(); }

    /// Several edits as one: all of them, or none when it goes away without commit(). Acts nest.
    class Act {
      public:
        explicit Act(Library& library);
        ~Act();
        Act(const Act&) = delete;
        Act& operator=(const Act&) = delete;
        [[nodiscard]] Result<void> begun() const;
        [[nodiscard]] Result<void> commit();

      private:
        Library& library_;
        std::unique_ptr<sql::Transaction> transaction_;
    };

    // ---- runs ----------------------------------------------------------------------------------
    /// Writes the recording and files it as a run, in one act. Code `exists` when the content is here already.
    [[nodiscard]] Result<RunId> add_run(const Recording& recording, const FilingInfo& info, const JobContext& job = {});
    [[nodiscard]] Result<std::optional<RunId>> find_digest(const std::string& digest) const;
    /// Runs that are neither in the bin nor joined into another one.
    [[nodiscard]] Result<std::vector<RunRow>> runs() const;
    /// The same with best lap and counts, in one question: for lists.
    [[nodiscard]] Result<std::vector<RunSummary>> summaries() const;
    [[nodiscard]] Result<RunRow> run(RunId id) const;
    /// The recording behind a run, as it was imported (run_recording() in intake applies the corrections).
    [[nodiscard]] Result<std::shared_ptr<const Recording>> open_run(RunId id) const;
    /// Runs that are shown as parts of this one.
    [[nodiscard]] Result<std::vector<RunRow>> joined_runs(RunId id) const;
    [[nodiscard]] Result<void> set_run_track(RunId id, TrackId track);
    [[nodiscard]] Result<void> set_facts(RunId id, const RunFacts& facts);
    /// Adds to the logger's clock of the recording behind a run; 0 takes the correction back. A recording without a
    /// clock starts at `shift_s` as Unix time.
    [[nodiscard]] Result<void> set_clock_shift(RunId id, double shift_s);
    /// Shows `part` as a part of `main`, its times moved by `offset_s`; `main` 0 takes the join back.
    [[nodiscard]] Result<void> set_join(RunId part, RunId main, double offset_s);
    /// The stretch of the recording that is this run; none: all of it.
    [[nodiscard]] Result<void> set_window(RunId id, std::optional<Interval> window_s);
    /// Another run of the recording behind `of`, filed like a new one.
    [[nodiscard]] Result<RunId> add_stretch(RunId of, const FilingInfo& info);
    /// Another run of the same recording, with the same facts.
    [[nodiscard]] Result<RunId> add_window(RunId id, Interval window_s, const std::string& name);

    // ---- is everything there? -------------------------------------------------------------------
    /// Recordings in the folder that the catalogue does not know (it was lost, or an older one was put back). They are
    /// never taken away; file_again() in intake files them.
    [[nodiscard]] Result<std::vector<std::filesystem::path>> unfiled_recordings() const;
    /// Holds the recording behind a run against what was filed. What is wrong is a sentence, kept with the run
    /// (RunRow::damage) until it is mended; empty: it is whole. A file that has not changed since the last look in this
    /// process is not read again; nor, for questions that are asked all day, one that any process saw whole today.
    enum class Look { in_this_process, today };
    [[nodiscard]] Result<std::string> check_recording(RunId id, const JobContext& job = {},
                                                      Look look = Look::in_this_process);
    /// Writes the recording behind a run anew, from the same content.
    [[nodiscard]] Result<void> mend_recording(RunId id, const Recording& recording, const JobContext& job = {});
    /// What the catalogue's own check finds wrong with it; empty: nothing.
    [[nodiscard]] Result<std::vector<std::string>> check_catalogue() const;

    /// Writes the catalogue as it is now into a file, while others use it. What was written before is replaced at once.
    [[nodiscard]] Result<void> write_catalogue(const std::filesystem::path& file) const;

    // ---- bin -----------------------------------------------------------------------------------
    [[nodiscard]] Result<void> set_binned(RunId id, bool binned);
    [[nodiscard]] Result<std::vector<RunRow>> binned() const;
    /// Removes a run for good, and its recording when no other run uses it.
    [[nodiscard]] Result<void> remove_run(RunId id);

    // ---- raw files -----------------------------------------------------------------------------
    /// The run that a file with this SHA-256 became, binned ones included.
    [[nodiscard]] Result<std::optional<RunId>> find_raw(const std::string& sha256) const;
    [[nodiscard]] Result<std::vector<RawFile>> raw_files(RunId id) const;
    [[nodiscard]] Result<void> add_raw(RunId id, const RawFile& raw);

    // ---- laps ----------------------------------------------------------------------------------
    /// Replaces the stored cut of a run. Switches made by hand stay where they were in time.
    [[nodiscard]] Result<void> set_laps(RunId id, std::span<const Lap> laps);
    /// The stored cut with the hand-made switches applied.
    [[nodiscard]] Result<std::vector<Lap>> laps(RunId id) const;
    /// Switches a lap in or out by hand; the reason is kept with it.
    [[nodiscard]] Result<void> switch_lap(LapRef lap, bool included, const std::string& reason);
    /// What the engineer writes about a lap; empty takes it away. Switches nothing and clears no doubt.
    [[nodiscard]] Result<void> set_lap_note(LapRef lap, const std::string& note);
    /// Takes the hand-made switch of a lap back.
    [[nodiscard]] Result<void> unswitch_lap(LapRef lap);

    /// Laps as the timing system has them, in the order of their numbers.
    [[nodiscard]] Result<std::vector<OfficialLap>> official_laps(RunId id) const;
    [[nodiscard]] Result<void> set_official_laps(RunId id, std::span<const OfficialLap> laps);

    /// Notes on pictures of a run, in the order of their moments.
    [[nodiscard]] Result<std::vector<PictureNote>> picture_notes(RunId id) const;
    /// Its number; `note.id` is not looked at unless it is that of one that was removed and comes back.
    [[nodiscard]] Result<std::int64_t> add_picture_note(RunId id, const PictureNote& note);
    [[nodiscard]] Result<void> remove_picture_note(std::int64_t id);

    /// What drivers work on, in the order it was written down; closed ones too.
    [[nodiscard]] Result<std::vector<WorkItem>> work_items() const;
    /// Its number; `item.id` is not looked at unless it is that of one that was removed and comes back.
    [[nodiscard]] Result<std::int64_t> add_work_item(const WorkItem& item);
    [[nodiscard]] Result<void> remove_work_item(std::int64_t id);
    [[nodiscard]] Result<void> close_work_item(std::int64_t id, bool closed);

    // ---- results that are kept --------------------------------------------------------------------
    /// Those of a run whose `what` begins so.
    [[nodiscard]] Result<std::vector<KeptResult>> kept_results(RunId id, const std::string& prefix) const;
    /// Replaces what was kept under that name.
    [[nodiscard]] Result<void> keep_result(RunId id, const KeptResult& result);
    /// 0: not looked at any more.
    [[nodiscard]] Result<void> set_result_seen(RunId id, const std::string& what, double unix_s);
    /// Runs that have none that begins so.
    [[nodiscard]] Result<std::vector<RunId>> runs_without_results(const std::string& prefix) const;
    /// Of all runs.
    [[nodiscard]] Result<void> drop_results(const std::string& what);
    /// Runs with results that begin so, have something to be looked at and were not: how many there are.
    [[nodiscard]] Result<std::map<RunId, int>> unseen_results(const std::string& prefix) const;

    // ---- corrections of channels ---------------------------------------------------------------
    /// Quantities whose sign is turned round for this run.
    [[nodiscard]] Result<std::vector<std::string>> flipped_quantities(RunId id) const;
    [[nodiscard]] Result<void> set_flipped(RunId id, const std::string& quantity, bool flipped);
    /// Where the run's places and launch differ from what was logged; all zero when nobody corrected them.
    [[nodiscard]] Result<PlaceCorrection> place_correction(RunId id) const;
    [[nodiscard]] Result<void> set_place_correction(RunId id, const PlaceCorrection& correction);
    /// Channels that are left out of this run, by name.
    /// What is said of the run's channels; an edit that changes nothing takes back what was said.
    [[nodiscard]] Result<std::vector<ChannelEdit>> channel_edits(RunId id) const;
    [[nodiscard]] Result<void> set_channel_edit(RunId id, const ChannelEdit& edit);
    /// All templates, the newest first.
    [[nodiscard]] Result<std::vector<ChannelTemplate>> channel_templates() const;
    [[nodiscard]] Result<void> put_channel_template(const ChannelTemplate& one);
    [[nodiscard]] Result<void> remove_channel_template(const ChannelTemplate& one);
    [[nodiscard]] Result<std::vector<std::string>> unused_channels(RunId id) const;
    [[nodiscard]] Result<void> set_unused(RunId id, const std::string& channel, bool unused);
    /// Findings of the tidy check that the user has accepted as they are.
    [[nodiscard]] Result<std::vector<std::string>> accepted_findings(RunId id) const;
    [[nodiscard]] Result<void> set_accepted(RunId id, const std::string& finding, bool accepted);

    // ---- events, drivers, cars -----------------------------------------------------------------
    [[nodiscard]] Result<std::vector<EventRow>> events() const;
    /// Place, date, weather and remarks of an event; its name finds it, and makes it when it is new.
    [[nodiscard]] Result<void> put_event(const EventRow& event);
    // Known names, for completion:
    [[nodiscard]] Result<std::vector<std::string>> sessions_of(const std::string& event) const;
    [[nodiscard]] Result<std::vector<std::string>> drivers() const;
    [[nodiscard]] Result<std::vector<std::string>> cars() const;
    [[nodiscard]] Result<std::vector<std::string>> tyre_sets() const;

    // ---- setup sheets and car sheets -----------------------------------------------------------
    /// Saves a new version; a sheet of that car and name gets the next number.
    [[nodiscard]] Result<SetupId> add_setup(const std::string& car, const std::string& name,
                                            const std::vector<SheetValue>& values, const std::string& remarks = {});
    [[nodiscard]] Result<Setup> setup(SetupId id) const;
    /// Newest first, without their values; car empty: all.
    [[nodiscard]] Result<std::vector<Setup>> setups(const std::string& car = {}) const;
    [[nodiscard]] Result<std::vector<CarSheet>> car_sheets() const;
    [[nodiscard]] Result<void> put_car_sheet(const CarSheet& sheet);
    [[nodiscard]] Result<void> remove_car_sheet(const std::string& car, const std::string& season);

    // ---- formula sets --------------------------------------------------------------------------
    /// The newest version of each set, in the order of names.
    [[nodiscard]] Result<std::vector<FormulaVersion>> formula_sets() const;
    /// All versions of a set, newest first.
    [[nodiscard]] Result<std::vector<FormulaVersion>> formula_history(const std::string& set_name) const;
    /// Saves a new version of a set, or the first; returns its number.
    [[nodiscard]] Result<int> add_formula_version(const std::string& set_name, const std::string& content,
                                                  const std::string& note);
    /// Takes the newest version of a set back; the set is gone when it was the only one.
    [[nodiscard]] Result<void> drop_formula_version(const std::string& set_name);
    [[nodiscard]] Result<void> remove_formula_set(const std::string& set_name);
    /// Puts versions back that remove_formula_set() took away.
    [[nodiscard]] Result<void> restore_formula_set(const std::vector<FormulaVersion>& versions);

    // ---- reading of files ----------------------------------------------------------------------
    [[nodiscard]] Result<Aliases> aliases() const;
    /// An empty quantity takes the alias away.
    [[nodiscard]] Result<void> set_alias(const std::string& channel_name, const std::string& quantity);
    /// How tables with these columns are read (JSON of TableMapping); empty: by themselves.
    [[nodiscard]] Result<std::string> table_mapping(const std::string& shape) const;
    [[nodiscard]] Result<bool> has_table_mappings() const;
    [[nodiscard]] Result<void> set_table_mapping(const std::string& shape, const std::string& mapping);

    // ---- tracks --------------------------------------------------------------------------------
    /// Lists a track and writes tracks/<name>.geojson; a track of the same name is replaced.
    [[nodiscard]] Result<TrackId> put_track(const std::string& name, double length_m, const std::string& geojson);
    [[nodiscard]] Result<void> rename_track(TrackId id, const std::string& name);
    /// Refused while runs are cut at it.
    [[nodiscard]] Result<void> remove_track(TrackId id);
    [[nodiscard]] Result<std::vector<TrackRow>> tracks() const;
    [[nodiscard]] Result<TrackRow> track(TrackId id) const;
    [[nodiscard]] Result<std::optional<TrackId>> find_track(const std::string& name) const;
    [[nodiscard]] Result<std::string> track_geojson(TrackId id) const;

    // ---- marks and settings --------------------------------------------------------------------
    [[nodiscard]] Result<MarkId> add_mark(TrackId track, const std::string& name, Interval range_m);
    [[nodiscard]] Result<void> set_mark_range(MarkId id, Interval range_m);
    [[nodiscard]] Result<void> remove_mark(MarkId id);
    [[nodiscard]] Result<std::vector<Mark>> marks(TrackId track) const;
    [[nodiscard]] Result<std::string> setting(const std::string& key) const;
    [[nodiscard]] Result<void> set_setting(const std::string& key, const std::string& value);

  private:
    Library(std::filesystem::path folder, std::unique_ptr<sql::Connection> database);
    [[nodiscard]] Result<void> prepare();
    [[nodiscard]] Result<void> bring_up_to_date();
    [[nodiscard]] Result<void> take_over_track_files();
    [[nodiscard]] Result<std::vector<std::string>> known_files() const;
    [[nodiscard]] Result<void> mirror_tracks();
    [[nodiscard]] Result<std::string> free_track_file(const std::string& name) const;
    [[nodiscard]] Result<std::int64_t> add_recording(const Recording& recording, const std::string& file,
                                                     const std::string& bytes_digest, double clock_shift_s);
    [[nodiscard]] Result<RunId> insert_run(std::int64_t recording_id, const FilingInfo& info);
    [[nodiscard]] Error look_only_error() const;
    [[nodiscard]] Result<void> insert_raw(std::int64_t recording_id, const RawFile& raw);
    [[nodiscard]] Result<std::vector<RunRow>> runs_where(const char* condition, std::int64_t value) const;
    [[nodiscard]] Result<std::vector<std::string>> names(const char* select, const std::string& value = {}) const;
    void sweep() const;
    void sweep_downloads() const;
    [[nodiscard]] Result<void> bind_facts(sql::Statement& statement, const RunFacts& facts);
    [[nodiscard]] Result<void> insert_laps(RunId id, std::span<const Lap> laps);
    [[nodiscard]] Result<void> insert_official_laps(RunId id, std::span<const OfficialLap> laps);
    [[nodiscard]] Result<std::int64_t> name_id(const char* table, const std::string& name);
    [[nodiscard]] Result<std::int64_t> session_id(const std::string& event, const std::string& session);

    std::filesystem::path folder_;
    std::unique_ptr<sql::Connection> database_;
    std::string look_only_;
};

}  // namespace rendak
