#pragma once

#include <filesystem>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak::demo {

/// Makes `folder` a library with Skerrow Point and Saturday's runs, beside them the files as the loggers wrote them
/// (demo-files/) and the truth that tests read (truth/). Runs that are already there stay as they are.
[[nodiscard]] Result<void> write_demo(const std::filesystem::path& folder, const JobContext& job = {});

}  // namespace rendak::demo
