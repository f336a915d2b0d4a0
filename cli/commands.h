#pragma once

#include <string>
#include <vector>

#include "cli/output.h"
#include "core/intake/import.h"

namespace rendak::cli {

/// Each prints JSON on standard output and messages on standard error.
/// Answers to an import's questions, as --take gives them; returns what is wrong with them.
[[nodiscard]] std::optional<std::string> add_answers(const std::vector<std::string>& takes, TableMapping& mapping);
int import_files(const std::string& library, const std::vector<std::string>& files, const ImportOptions& options);
int list_runs(const std::string& library);
int list_laps(const std::string& library, std::int64_t run);
/// Either may be missing: whether the lap counts, with the reason; what is written about it.
int edit_lap(const std::string& library, const std::string& lap, std::optional<bool> included,
             const std::string& reason, const std::optional<std::string>& note);
int learn_track(const std::string& library, std::int64_t run, const std::string& name, const std::string& start,
                bool open);
int list_tracks(const std::string& library);
int print_gap(const std::string& library, const std::string& baseline, const std::string& lap, double step_m);
int print_gap_changes(const std::string& library, const std::string& baseline, const std::string& lap);
/// Hands over to the program of the window, which paints without one.
int paint(const char* what, const std::string& library, const std::vector<std::string>& arguments);
int print_where(const std::string& library, const std::string& baseline, const std::string& lap);
int export_run(const std::string& library, std::int64_t run, const std::string& format, const std::string& file,
               const std::vector<std::string>& formulas);
/// Whether everything that was filed is there and whole; `failed` when it is not.
int check_folder(const std::string& library);
/// Recordings of the folder that the catalogue does not know; `file`: files them as runs.
int unfiled_recordings(const std::string& library, bool file);
int write_demo(const std::string& folder);

}  // namespace rendak::cli
