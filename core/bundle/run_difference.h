#pragma once

#include <map>
#include <string>
#include <vector>

#include "core/bundle/bundle_json.h"
#include "core/library/library.h"

namespace rendak {

/// The facts of a bundle's run as the library would hold them; `setups`: the library's sheets by setup_key().
[[nodiscard]] RunFacts facts_for(const BundleRun& run, const std::map<std::string, SetupId>& setups);

/// The bundle's notes on pictures that the library's run does not have.
[[nodiscard]] Result<std::vector<PictureNote>> new_notes(const Library& library, RunId mine, const BundleRun& run);

/// What taking the bundle's run over the library's would change, in words; empty: nothing.
[[nodiscard]] Result<std::string> difference_of(const Library& library, const RunRow& mine, const BundleRun& run,
                                                const RunFacts& theirs);

}  // namespace rendak
