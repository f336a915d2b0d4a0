#pragma once

#include <memory>
#include <nlohmann/json.hpp>

#include "cli/json_out.h"
#include "core/base/job.h"
#include "core/library/library.h"

namespace rendak::cli {

/// Exit codes of the command line.
enum ExitCode : int { done = 0, failed = 1, wrong_use = 2 };

/// The error on standard error; returns `failed`.
int report(const Error& error);
/// What is wrong with the call; returns `wrong_use`.
int misuse(const std::string& message);
/// JSON on standard output.
int print(const Json& value);
[[nodiscard]] Result<std::unique_ptr<Library>> open_existing(const std::string& folder);
/// Says every tenth per cent on standard error.
[[nodiscard]] JobContext spoken_progress(const std::string& what);

}  // namespace rendak::cli
