#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/base/ids.h"
#include "core/base/interval.h"
#include "core/library/channel_edit.h"
#include "core/signal/quantity.h"

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
    std::string reason = {};  ///< why it is left out, and how it was cut
    std::string doubt = {};   ///< what speaks against counting it (an excursion, traffic); empty: nothing
    std::string note = {};    ///< what the engineer wrote
    double trust_m = 0;       ///< expected error of places along the track, one standard deviation; 0: not known

    [[nodiscard]] double time_s() const { return end_s - start_s; }
    /// A doubt stands until the lap is switched in by hand.
    [[nodiscard]] bool doubtful() const { return !doubt.empty() && !switched_by_hand; }
    /// Sets bests, limits and means: flying, not left out, nothing doubtful about it.
    [[nodiscard]] bool counts() const { return kind == LapKind::flying && included && !doubtful(); }
    /// Line to line: has a lap time, and can be compared.
    [[nodiscard]] bool complete() const { return kind == LapKind::flying || kind == LapKind::stopped; }
    bool operator==(const Lap&) const = default;
};

/// What the engineer says about a run; every field may stay empty, every one can be edited.
struct RunFacts {
    std::string event, session, name, driver, car;
    std::string tyre_set;
    std::optional<double> tyre_laps;        ///< laps the set had done before this run
    std::optional<double> fuel_l;           ///< at the start
    std::optional<double> official_time_s;  ///< best lap of the printed timing
    std::string weather;
    std::optional<double> air_c, track_c;           ///< temperatures, °C
    std::optional<double> wind_mps, wind_from_deg;  ///< from where it blows, clockwise from north
    std::optional<double> pressure_hpa;             ///< of the air
    std::string changes;                            ///< what was changed since the run before
    std::string remarks;
    SetupId setup;
    bool operator==(const RunFacts&) const = default;
};

struct RunRow : RunFacts {
    RunId id;
    TrackId track;
    std::string track_name;
    std::string setup_name;      ///< with its version: "Base 2"
    std::string recording_file;  ///< relative to the library folder
    std::string digest;
    std::string source_name;
    std::string logger;
    std::optional<double> start_unix_s;  ///< of this run's first moment, with the clock corrected
    std::string zone;                    ///< of its event: "+02:00"; empty: nobody said it
    double clock_shift_s = 0;            ///< added to the logger's clock
    double duration_s = 0;
    std::optional<Interval> window_s;  ///< the stretch of the recording that is this run; none: all of it
    RunId joined_into;                 ///< shown as a part of that run
    double join_offset_s = 0;          ///< added to this run's times there
    std::vector<std::string> notes;    ///< what import assumed
    std::optional<double> binned_unix_s;
    std::string damage;  ///< a sentence when the recording behind it was found missing or changed
};

/// A run as lists show it.
struct RunSummary {
    RunRow run;
    std::optional<double> best_s;  ///< fastest flying lap that counts
    int best_lap = 0;
    int flying = 0;  ///< flying laps that count
    int laps = 0;
};

struct EventRow {
    EventId id;
    std::string name, place, date, weather, remarks;
    std::string zone = {};  ///< its clocks against UTC: "+02:00"; empty: nobody said it
    bool operator==(const EventRow&) const = default;
};

/// A lap as the timing system of the event has it.
struct OfficialLap {
    int number = 0;  ///< as the results count
    double time_s = 0;
    bool operator==(const OfficialLap&) const = default;
};

/// Something written onto a picture of a run: on a channel's trace, or on the map.
struct PictureNote {
    std::int64_t id = 0;
    double at_s = 0;       ///< recording time: it stays when laps are cut anew
    std::string quantity;  ///< whose trace; empty: the map
    std::string text;
    bool operator==(const PictureNote&) const = default;
};

/// Something that a driver works on in a corner, until a figure of it is met. Values are SI, as the table of figures of
/// corners has them.
struct WorkItem {
    std::int64_t id = 0;
    TrackId track;
    RunId run;  ///< it was found in; later ones show how it goes
    std::string driver, car;
    double at_m = 0;     ///< apex of its corner: it stays when corners are numbered anew
    std::string figure;  ///< its id
    double from = 0, target = 0;
    double step = 0;  ///< in how small steps; 0: at once
    std::string note;
    double made_unix_s = 0;
    bool closed = false;  ///< put away by hand
    bool operator==(const WorkItem&) const = default;
};

/// Something that was computed of a run and need not be again as long as `made_of` is what it would be made of now.
struct KeptResult {
    std::string what, made_of, content;
    int weight = 0;          ///< what is to be looked at in it
    double seen_unix_s = 0;  ///< when somebody looked at it; 0: nobody did
    bool operator==(const KeptResult&) const = default;
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

/// One line of a setup sheet or a car sheet. The value is text, as people write it ("3 clicks", "-2.5").
struct SheetValue {
    std::string name, value, unit;
    bool operator==(const SheetValue&) const = default;
};

/// A saved version of a setup sheet; it is never changed afterwards.
struct Setup {
    SetupId id;
    std::string car, name;
    int version = 1;
    double made_unix_s = 0;
    std::string remarks;
    std::vector<SheetValue> values;
    [[nodiscard]] std::string title() const { return name + " " + std::to_string(version); }
};

/// The constants of a car in one season.
struct CarSheet {
    std::string car, season, valid_from;  ///< date as 2026-03-01; may be empty
    std::vector<SheetValue> values;
    bool operator==(const CarSheet&) const = default;
};

/// One version of a formula set. `content` is its JSON (docs/formats.md); versions are never changed.
struct FormulaVersion {
    std::string set_name;
    int version = 0;
    double made_unix_s = 0;
    std::string note;  ///< what was changed
    std::string content;
};

/// The file a recording was read from, as the logger wrote it.
struct RawFile {
    std::string sha256, name;
    std::uint64_t size = 0;
    std::string archive_file;  ///< relative to the library folder; empty when it is not kept
};

/// Corrections of where and when a run was, kept beside the recording.
struct PlaceCorrection {
    double east_m = 0, north_m = 0;  ///< by which the logged positions lie off; taken away from them
    double delay_s = 0;              ///< by which the positions come later than the other channels
    std::optional<double> launch_s;  ///< set by hand, in recording time; none: found by itself
    bool operator==(const PlaceCorrection&) const = default;
};

/// What is filed with a recording, all of it in one act. Empty fields stay empty.
struct FilingInfo : RunFacts {
    TrackId track;
    std::vector<std::string> notes;
    std::vector<Lap> laps;             ///< those that were switched by hand stay so
    std::vector<std::string> flipped;  ///< quantities whose sign is turned round
    std::vector<std::string> unused;   ///< channels that are left out
    std::vector<ChannelEdit> channel_edits;
    std::optional<RawFile> raw;
    double clock_shift_s = 0;
    std::optional<Interval> window_s;
    PlaceCorrection place;
    std::vector<PictureNote> picture_notes;
    std::vector<OfficialLap> official_laps;
    RunId joined_into;
    double join_offset_s = 0;
    std::optional<EventRow> about_event;  ///< what is known of its event, unless the library has words of its own
};

}  // namespace rendak
