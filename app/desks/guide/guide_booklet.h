#pragma once

#include <filesystem>

#include "app/desks/guide/guide_data.h"
#include "core/base/job.h"

namespace rendak::app {

/// The guide on paper: a page with the road and what matters where, then a page a corner. A4, as PDF.
[[nodiscard]] Result<void> write_booklet(const GuideData& data, const std::filesystem::path& file,
                                         const JobContext& job = {});

}  // namespace rendak::app
