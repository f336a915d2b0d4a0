#pragma once

#include <string>
#include <vector>

#include "core/library/channel_edit.h"
#include "core/recording/recording.h"

namespace rendak {

/// What the channels of a recording are, told by what they hold and not by their order.
struct ChannelRoles {
    std::vector<ChannelEdit> edits;  ///< to be kept with the run; `source` says why
    std::vector<std::string> notes;  ///< what was decided, and what reads wrong, in sentences with figures
    /// What content cannot tell: candidates for one quantity. The first is taken until somebody chooses.
    struct Question {
        std::string quantity;
        std::vector<std::string> channels;
    };
    std::vector<Question> questions;
};

/// Several channels that could be the speed, a position, an acceleration …: the one that agrees with how the position
/// changes is the reference (the receiver knows neither slip nor tyre growth); another speed becomes "wheel_speed", the
/// rest keep their names only. A scale that is off is measured and told; a unit that the values contradict is put
/// right. Column order does not matter.
[[nodiscard]] ChannelRoles channel_roles(const Recording& recording);

}  // namespace rendak
