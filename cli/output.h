#pragma once

#include <memory>
#include <nlohmann/json_fwd.hpp>

#include "cli/json_out.h"
#include "core/base/job.h"
#include "core/intake/run_data.h"
#include "core/library/library.h"

namespace rendak::cli {

/// Exit codes of the command line.
enum ExitCode : int { done = 0, failed = 1, wrong_use = 2 };

/// The error on standard error; returns `failed`.
int report(const Error& error);
/// What is wrong with the call; returns `wrong_use`.
int misuse(const std::string& message);
/// A line on standard error. Names from outside cannot steer the terminal.
void say(const std::string& line);
/// JSON on standard output, valid UTF-8 without control characters whatever is in it.
int print(const Json& value);
/// An array of flat objects as a table: a head of the first one's fields, then a line each; nested ones are left out.
int print_rows(const Json& rows);
[[nodiscard]] Result<std::unique_ptr<Library>> open_existing(const std::string& folder);
/// Opened runs and recordings whose content was held against what was filed first: an answer from a damaged one would
/// be wrong without a word.
[[nodiscard]] Result<std::shared_ptr<const RunData>> load_checked(Library& library, RunId run);
[[nodiscard]] Result<Recording> recording_checked(Library& library, RunId run);
/// Says every tenth per cent on standard error.
[[nodiscard]] JobContext spoken_progress(const std::string& what);

}  // namespace rendak::cli
