#pragma once

#include <filesystem>
#include <set>

#include "core/base/job.h"
#include "core/library/library.h"

namespace rendak {

/// A bundle is one zip file that carries runs to a colleague: bundle.json (facts, laps, setup sheets, car sheets, own
/// channel names, formula sets), recordings/<digest>.rdk.h5 and tracks/<name>.geojson (docs/formats.md); with films
/// also films.json and videos/<digest>.
struct BundleContents {
    std::vector<RunId> runs;  ///< with the runs joined into them, their tracks and their setup sheets
    bool car_sheets = true;   ///< of the runs' cars
    bool aliases = true;
    bool films = false;        ///< those that lie on the runs; they are large
    bool formula_sets = true;  ///< those for everything, for the runs' cars and for their events
};
/// Each recording is held against its digest first: a damaged one is not passed on, but said.
[[nodiscard]] Result<void> write_bundle(Library& library, const BundleContents& contents,
                                        const std::filesystem::path& file, const JobContext& job = {});

/// One thing in a bundle, held against the library.
struct BundleItem {
    enum class Kind { run, track, setup, car_sheet, alias, formula_set, film };
    enum class State {
        fresh,  ///< not in the library: comes in
        same,   ///< already there, equal: nothing to do
        clash,  ///< there, and different: stays as it is unless the user takes the bundle's
    };
    Kind kind;
    State state;
    std::string key;         ///< names the item in take_bundle()
    std::string title;       ///< "Run 2, Brandvold, Skerrow Point"
    std::string difference;  ///< of a clash: what differs, and what taking it would do
};

/// Opens a bundle and says what would come in; changes nothing. A bundle with unsafe paths is refused whole.
[[nodiscard]] Result<std::vector<BundleItem>> preview_bundle(const Library& library, const std::filesystem::path& file);

struct BundleTaken {
    std::vector<RunId> runs;
    std::vector<std::string> told;  ///< a sentence for each thing that came in or was left out
};
/// Brings the fresh items in, and those clashes whose key is in `take`. `leave`: keys of fresh items that stay out.
/// Each recording is checked against its digest; each run comes in whole or not at all. A cancel keeps what is in
/// already, and so does an error, which says what that is.
[[nodiscard]] Result<BundleTaken> take_bundle(Library& library, const std::filesystem::path& file,
                                              const std::set<std::string>& take = {},
                                              const std::set<std::string>& leave = {}, const JobContext& job = {});

}  // namespace rendak
