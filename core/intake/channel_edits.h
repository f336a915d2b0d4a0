#pragma once

#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/library/library.h"

namespace rendak {

/// A recording as its channels are said to be: quantities, units, scales and zeros. A quantity that is given to one
/// channel is taken from the others. Edits of channels that are not there, or whose unit cannot be read, change
/// nothing.
[[nodiscard]] Recording with_channel_edits(const Recording& recording, const std::vector<ChannelEdit>& edits);

/// Why an edit cannot be: no such channel, an unknown unit or quantity, a unit that is no such quantity's, a scale of
/// nothing.
[[nodiscard]] Result<void> check_channel_edit(const Recording& logged, const ChannelEdit& edit);

/// What came of edits, in sentences: signs that were turned round, laps that moved.
struct EditedChannels {
    std::vector<std::string> notes;
    std::vector<ChannelEdit> before;  ///< to take them back with: what was said of these channels
    std::vector<std::string> flipped_before;
};

/// Says something of a run's channels, and lets follow what rests on it: signs are compared with the path again and
/// laps are cut anew. All or nothing.
[[nodiscard]] Result<EditedChannels> edit_channels(Library& library, RunId run, const std::vector<ChannelEdit>& edits,
                                                   const JobContext& job = {});
/// The way back.
[[nodiscard]] Result<void> take_back(Library& library, RunId run, const EditedChannels& edited);

/// The same for all runs of this run's car and logger from this one on, and kept as a template for imports to come.
struct EditedRuns {
    std::vector<std::pair<RunId, EditedChannels>> runs;  ///< all that were changed, this one included
    std::vector<ChannelTemplate> templates_before;
};
[[nodiscard]] Result<EditedRuns> edit_channels_from_now_on(Library& library, RunId run,
                                                           const std::vector<ChannelEdit>& edits,
                                                           const JobContext& job = {});

[[nodiscard]] Result<void> take_back(Library& library, const EditedRuns& edited);

/// The templates that hold for an import: of this car and logger, the newest one of each channel that is not later.
[[nodiscard]] Result<std::vector<ChannelEdit>> template_edits(const Library& library, const std::string& car,
                                                              const std::string& logger,
                                                              std::optional<double> start_unix_s);

/// What is to be added to a channel's offset to make it zero over the longest stretch at rest; fails where the car
/// never stands.
[[nodiscard]] Result<double> zero_at_rest(const Library& library, RunId run, const std::string& channel);

}  // namespace rendak
