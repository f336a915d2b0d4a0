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
    [[nodiscard]] std::vector<RunRow> runs() const;
    [[nodiscard]] Result<RunRow> run(RunId id) const;
    [[nodiscard]] Result<std::shared_ptr<const Recording>> open_run(RunId id) const;
    [[nodiscard]] Result<void> set_run_track(RunId id, TrackId track);
    [[nodiscard]] Result<void> remove_run(RunId id);

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

    // ---- tracks --------------------------------------------------------------------------------
    /// Writes tracks/<name>.geojson and lists it; a track of the same name is replaced.
    [[nodiscard]] Result<TrackId> put_track(const std::string& name, double length_m, const std::string& geojson);
    [[nodiscard]] std::vector<TrackRow> tracks() const;
    [[nodiscard]] Result<TrackRow> track(TrackId id) const;
    [[nodiscard]] std::optional<TrackId> find_track(const std::string& name) const;
    [[nodiscard]] Result<std::string> track_geojson(TrackId id) const;

    // ---- marks and settings --------------------------------------------------------------------
    [[nodiscard]] Result<MarkId> add_mark(TrackId track, const std::string& name, Interval range_m);
    [[nodiscard]] Result<void> remove_mark(MarkId id);
    [[nodiscard]] std::vector<Mark> marks(TrackId track) const;
    [[nodiscard]] std::string setting(const std::string& key) const;
    [[nodiscard]] Result<void> set_setting(const std::string& key, const std::string& value);

  private:
    Library(std::filesystem::path folder, sqlite3* database) : folder_(std::move(folder)), database_(database) {}
    [[nodiscard]] Result<void> prepare();
    void sweep() const;
    [[nodiscard]] Result<void> insert_laps(RunId id, std::span<const Lap> laps);
    [[nodiscard]] Result<std::int64_t> name_id(const char* table, const std::string& name);
    [[nodiscard]] Result<std::int64_t> session_id(const std::string& event, const std::string& session);

    std::filesystem::path folder_;
    sqlite3* database_;
};

}  // namespace rendak
