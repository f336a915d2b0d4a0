#pragma once

#include <filesystem>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"
#include "demo/circuit.h"
#include "demo/run_plan.h"

namespace rendak::demo {

/// The files of a run as the car's logger writes them: MDF 4, in blocks of a few seconds.
[[nodiscard]] Result<void> write_card_file(const Recording& recording, const std::filesystem::path& file,
                                           const JobContext& job = {});

/// Writes what waits on the card beside runs 1 to 3: run 4, a recording that was cut off by a loss of power, and one
/// file that holds two stints with a long stop between.
[[nodiscard]] Result<void> write_waiting_recordings(const std::filesystem::path& card, const Circuit& circuit,
                                                    const JobContext& job = {});

/// Two recordings as one, the second beginning `gap_s` after the end of the first; between them the sensors rest.
[[nodiscard]] Recording one_after_the_other(const Recording& first, const Recording& second, double gap_s);

}  // namespace rendak::demo
