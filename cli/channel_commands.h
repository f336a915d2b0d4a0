#pragma once

#include <optional>
#include <string>

namespace rendak::cli {

/// Every channel of a run: what it is taken for and why, rate, unit, what it holds, what is wrong with it.
int list_channels(const std::string& library, std::int64_t run);

/// What is to be said of one channel of a run, or of all runs of its car and logger from this one on.
struct ChannelChange {
    std::int64_t run = 0;
    std::string channel;
    bool from_now_on = false;
};
/// `quantity`: an id, "none" for nothing, or "" to leave it; `unit`: of the logged values, or "".
int assign_channel(const std::string& library, const ChannelChange& change, const std::string& quantity,
                   const std::string& unit, bool as_logged);
int scale_channel(const std::string& library, const ChannelChange& change, double factor, std::optional<double> add);
/// Zero from the longest stretch at rest.
int zero_channel(const std::string& library, const ChannelChange& change);
/// Lists the templates, or removes those of one channel.
int channel_templates(const std::string& library, const std::string& remove);

}  // namespace rendak::cli
