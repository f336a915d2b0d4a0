#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/signal/channel.h"

namespace rendak {

/// Prefix of ids of channels that no quantity stands for: "channel:Lambda" asks for the logger's channel of that name.
inline constexpr std::string_view by_name_prefix = "channel:";

/// One file of one logger: its channels and what is known about the whole. Published recordings are
/// never changed (`std::shared_ptr<const Recording>`); corrections live in the library.
struct Recording {
    std::string source_name;             ///< file name it came from
    std::string logger;                  ///< device, as far as the file says
    std::optional<double> start_unix_s;  ///< logger's clock at recording time 0
    std::string digest;                  ///< content_digest() at the time of writing
    std::vector<Channel> channels;
    /// Makes channels that nobody logged when they are asked for (results of formulas), or returns nullptr. Its
    /// channels live as long as the recording; it may be called from any thread.
    std::function<const Channel*(std::string_view)> derived;

    /// The channel of this quantity with the highest rate, else a derived one of this name, or nullptr.
    [[nodiscard]] const Channel* find(std::string_view quantity) const;
    /// The same among the logged channels only; ids with by_name_prefix ask by the logger's name.
    [[nodiscard]] const Channel* find_logged(std::string_view quantity) const;
    /// The channel of this name (exact, then without case and punctuation), or nullptr.
    [[nodiscard]] const Channel* find_name(std::string_view name) const;
    /// From the first sample of any channel to the last.
    [[nodiscard]] Interval span_s() const;
};

/// What a reader returns: the recording, and in sentences what it assumed or left out.
struct ReadRecording {
    Recording recording;
    std::vector<std::string> notes;
};

/// 32 hex digits over the samples, clocks, names and units of all channels, in any order of channels:
/// equal for equal content, whatever the file is called (XXH3, 128 bit).
[[nodiscard]] std::string content_digest(const Recording& recording);

}  // namespace rendak
