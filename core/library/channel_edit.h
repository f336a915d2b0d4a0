#pragma once

#include <optional>
#include <string>

namespace rendak {

/// What somebody (or the import, by the content) says of a channel of a run: it is kept beside the recording, which
/// stays as it was logged.
struct ChannelEdit {
    std::string channel;                       ///< its name in the logger
    std::optional<std::string> quantity = {};  ///< what it is taken for; "" for nothing; none: as it was read
    std::string unit = {};                     ///< unit of the logged values; empty: as it was read
    double scale = 1, offset = 0;              ///< used = value · scale + offset, in the stored unit (SI)
    std::string source = {};  ///< who says so: "" a person, "template", or the import's reason in words

    [[nodiscard]] bool changes_nothing() const { return !quantity && unit.empty() && scale == 1 && offset == 0; }
    bool operator==(const ChannelEdit&) const = default;
};

/// An edit that holds for all runs of a car's logger from a moment on.
struct ChannelTemplate {
    std::string car, logger;
    double from_unix_s = 0;
    ChannelEdit edit;
    bool operator==(const ChannelTemplate&) const = default;
};

/// As it is stored and travels in bundles. Text that cannot be read gives an edit that changes nothing.
[[nodiscard]] std::string to_json(const ChannelEdit& edit);
[[nodiscard]] ChannelEdit channel_edit_from_json(const std::string& channel, const std::string& text);

}  // namespace rendak
