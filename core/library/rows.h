#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/base/ids.h"
#include "core/base/interval.h"

namespace rendak {

/// What a stretch of a run is. Only flying laps count towards "best".
enum class LapKind {
    out,      ///< from the pits to the first crossing
    flying,   ///< complete: line to line in the right direction, right length
    in,       ///< from the last crossing to the pits
    part,     ///< cut off by the recording's start or end, or not once around
    stopped,  ///< line to line, but the car stood still on the way
};
[[nodiscard]] const char* lap_kind_name(LapKind kind);
[[nodiscard]] LapKind lap_kind_from_name(const std::string& name);

struct Lap {
    int number = 0;  ///< from 0: the stretch before the first crossing
    LapKind kind = LapKind::part;
    double start_s = 0;  ///< recording time of the first crossing (or the recording's start)
    double end_s = 0;
    double length_m = 0;  ///< along the smoothed path
    bool included = false;
    bool switched_by_hand = false;
    std::string reason;  ///< why it is left out, or what is doubtful about it

    [[nodiscard]] double time_s() const { return end_s - start_s; }
    /// Line to line: has a lap time, and can be compared.
    [[nodiscard]] bool complete() const { return kind == LapKind::flying || kind == LapKind::stopped; }
    bool operator==(const Lap&) const = default;
};

struct RunRow {
    RunId id;
    std::string event, session, name, driver, car;
    TrackId track;
    std::string track_name;
    std::string recording_file;  ///< relative to the library folder
    std::string digest;
    std::string source_name;
    std::optional<double> start_unix_s;
    double duration_s = 0;
    std::vector<std::string> notes;  ///< what import assumed
};

struct TrackRow {
    TrackId id;
    std::string name;
    std::string file;  ///< GeoJSON, relative to the library folder
    double length_m = 0;
};

/// A saved range of a track.
struct Mark {
    MarkId id;
    TrackId track;
    std::string name;
    Interval range_m;
};

/// What the user says about a recording that is filed. Empty fields stay empty.
struct FilingInfo {
    std::string event, session, name, driver, car;
    TrackId track;
    std::vector<std::string> notes;
    std::vector<Lap> laps;
    std::vector<std::string> flipped;  ///< quantities whose sign is turned round
};

}  // namespace rendak
