#pragma once

#include <filesystem>

#include "core/intake/channel_roles.h"
#include "core/intake/run_data.h"
#include "core/recording/readers.h"

namespace rendak {

struct ImportOptions : RunFacts {
    ReadOptions read;
    std::string track;           ///< name of a known track; empty: found by position
    std::optional<RawFile> raw;  ///< the file as the logger wrote it, when its digest is known
    double clock_shift_s = 0;    ///< correction of the logger's clock
};

struct ImportResult {
    RunId run;
    bool already_there = false;  ///< the content was in the library before; at most taken out of the bin
    std::vector<std::string> notes;
    bool mended = false;  ///< its recording was missing or damaged, and is whole again
    std::vector<ChannelRoles::Question> questions =
        {};  ///< what the channels are cannot be told: somebody should say it
};

/// Reads a file, files it as a run and cuts its laps when the track is known. All or nothing: on failure or
/// cancel the library is as it was.
[[nodiscard]] Result<ImportResult> import_file(Library& library, const std::filesystem::path& file,
                                               const ImportOptions& options, const JobContext& job = {});

/// Puts a recording that is already in memory into the library, like import_file.
[[nodiscard]] Result<ImportResult> import_recording(Library& library, ReadRecording read, const ImportOptions& options,
                                                    const JobContext& job = {});

/// Learns a track from a run, files it, and cuts the laps of this run and of every other run that was driven
/// there and has no track yet. `place` empty: the start line is suggested.
struct StartPlace {
    GeoPoint place;
    double heading_deg = 0;
};
struct LearnResult {
    TrackId track;
    std::vector<RunId> runs_cut;
};
enum class TrackKind {
    circuit,
    open,  ///< from a standing start to a finish
};
[[nodiscard]] Result<LearnResult> learn_track_from_run(Library& library, RunId run, const std::string& name,
                                                       std::optional<StartPlace> start, const JobContext& job = {},
                                                       TrackKind kind = TrackKind::circuit);

/// Files a track and cuts the runs that were driven on it: those it has already, those without a track that fit, and
/// the ones asked for.
[[nodiscard]] Result<LearnResult> file_track(Library& library, const Track& track, std::vector<RunId> asked_for,
                                             const JobContext& job = {});

/// Files a recording of the library's own folder that its catalogue does not know (Library::unfiled_recordings()).
[[nodiscard]] Result<ImportResult> file_again(Library& library, const std::filesystem::path& unfiled,
                                              const JobContext& job = {});

/// The laps of a run on a track.
[[nodiscard]] Result<std::vector<Lap>> cut_run(const Library& library, RunId run, const Track& track);
/// Cuts the laps of a run at its track's line again and stores them.
[[nodiscard]] Result<void> recut_run(Library& library, RunId run);

}  // namespace rendak
