#pragma once

#include <string>

#include "demo/drive.h"

namespace rendak::demo {

/// The truth beside a run, as JSON that only tests read: exact line-crossing times, the lap times, the time at every
/// 10 m of the centreline, and the planted facts.
[[nodiscard]] std::string truth_json(const Circuit& circuit, const RunPlan& plan, const Drive& drive);

}  // namespace rendak::demo
