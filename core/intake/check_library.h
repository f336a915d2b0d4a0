#pragma once

#include "core/library/library.h"

namespace rendak {

/// What a look at everything in a library finds. Each list is empty when all is well.
struct LibraryCheck {
    struct Damaged {
        RunId run;
        std::string name, what;
    };
    std::size_t recordings = 0;          ///< looked at
    std::vector<std::string> catalogue;  ///< what the catalogue's own check says
    std::vector<Damaged> damaged;        ///< missing or changed recordings; kept with the runs until they are mended
    std::vector<std::filesystem::path> unfiled;     ///< recordings that the catalogue does not know
    std::vector<std::string> originals;             ///< originals that are missing or changed, a sentence each
    std::vector<std::string> tracks;                ///< tracks that cannot be read, a sentence each
    std::vector<std::filesystem::path> unfinished;  ///< downloads that wait for the rest
    [[nodiscard]] bool all_well() const {
        return catalogue.empty() && damaged.empty() && unfiled.empty() && originals.empty() && tracks.empty();
    }
};

/// Reads every recording and every kept original and holds them against their digests. Takes as long as reading the
/// whole folder does.
[[nodiscard]] Result<LibraryCheck> check_library(Library& library, const JobContext& job = {});

/// The check of the recordings behind some runs and the parts joined into them: the sentence of the first that is
/// damaged, or empty.
[[nodiscard]] Result<std::string> check_runs(Library& library, const std::vector<RunId>& runs,
                                             const JobContext& job = {});

}  // namespace rendak
