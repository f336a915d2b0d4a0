#pragma once

#include "core/base/result.h"
#include "core/formula/formula_set.h"
#include "core/library/rows.h"

namespace rendak {

struct BundleRun {
    RunFacts facts;
    std::string track, digest, logger, source_name, setup;  ///< setup: "car|name|version" in the bundle
    double clock_shift_s = 0;
    std::optional<Interval> window_s;
    std::vector<Lap> laps;
    PlaceCorrection place;
    std::vector<std::string> flipped, unused, notes;
    std::vector<ChannelEdit> channel_edits;
    std::vector<PictureNote> picture_notes;
    std::vector<OfficialLap> official_laps;
    int joined_into = -1;  ///< place of the main run in the bundle's list
    double join_offset_s = 0;
};

struct BundleTrack {
    std::string name, file;
    double length_m = 0;
};

/// Everything in bundle.json.
struct BundleJson {
    std::vector<BundleRun> runs;
    std::vector<BundleTrack> tracks;
    std::vector<Setup> setups;
    std::vector<CarSheet> car_sheets;
    std::vector<std::pair<std::string, std::string>> aliases;
    std::vector<EventRow> events;
    std::vector<formula::FormulaSet> formula_sets;
};

inline constexpr int bundle_version = 1;
[[nodiscard]] std::string to_json(const BundleJson& bundle);
/// Checks every field; an error says what is wrong.
[[nodiscard]] Result<BundleJson> bundle_from_json(const std::string& text, const std::string& file);
/// The key of a setup sheet in a bundle.
[[nodiscard]] std::string setup_key(const Setup& sheet);

}  // namespace rendak
