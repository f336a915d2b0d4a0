#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak {

/// A recording as its logger or card lists it. The number may start again at 1; only the digest tells recordings apart.
struct LoggedFile {
    int number = 0;
    std::string name;
    std::optional<double> start_unix_s;  ///< by the logger's own clock
    std::optional<double> duration_s;
    std::uint64_t size = 0;
    std::string sha256;
    std::string xxh3;  ///< 128 bit, 32 hex digits: how its arrival is checked, where the logger names it; else empty
    std::optional<int> laps;  ///< as far as the logger counts them
    bool complete = true;     ///< false: the logger knows that it was cut off
};

struct LoggerState {
    std::string device;
    std::optional<double> clock_unix_s;  ///< none: a card has no clock
    std::uint64_t free_bytes = 0, capacity_bytes = 0;
    int recordings = 0;
    int recordings_limit = 0;  ///< above it the logger records unreliably; 0: it names none
    bool recording = false;    ///< it is recording now
};

/// The car's logger, or a card or folder with its files. Calls block; run them as jobs. Every wait ends when the job is
/// stopped, and every answer has limits of size and time (docs/logger-interface.md): what answers may be anything.
class LoggerLink {
  public:
    virtual ~LoggerLink() = default;
    [[nodiscard]] virtual std::string address() const = 0;
    [[nodiscard]] virtual Result<LoggerState> state(const JobContext& job) = 0;
    [[nodiscard]] virtual Result<std::vector<LoggedFile>> list(const JobContext& job) = 0;
    /// Hands the bytes from `from` to `sink` until the end, or until `sink` says no (code cancelled). Code io: the
    /// link was lost and reading can go on where it stopped.
    [[nodiscard]] virtual Result<void> read(const LoggedFile& file, std::uint64_t from,
                                            const std::function<bool(std::string_view)>& sink,
                                            const JobContext& job) = 0;
    /// Erases the recording only while it still has the digest that was listed.
    [[nodiscard]] virtual Result<void> erase(const LoggedFile& file, const JobContext& job) = 0;
    /// Sets the logger's clock and returns what it says afterwards.
    [[nodiscard]] virtual Result<double> set_clock(double unix_s, const JobContext& job) = 0;
};

/// A logger on the network ("http://127.0.0.1:8042", docs/logger-interface.md) or the folder of a card.
[[nodiscard]] Result<std::unique_ptr<LoggerLink>> open_logger(const std::string& address);
[[nodiscard]] std::unique_ptr<LoggerLink> http_logger(const std::string& url);
[[nodiscard]] std::unique_ptr<LoggerLink> card_folder(const std::string& folder);

}  // namespace rendak
