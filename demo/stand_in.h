#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "core/base/result.h"

namespace rendak::demo {

/// How the stand-in misbehaves. Each trouble happens to real loggers.
struct Troubles {
    double bytes_per_s = 0;          ///< a slow link; 0: as fast as it goes
    std::uint64_t drop_after = 0;    ///< the link is lost after so many bytes of a download …
    int drops = 1;                   ///< … this many times
    int corrupt_number = 0;          ///< this recording arrives with a damaged block …
    int corruptions = 1;             ///< … this many times
    int cut_off_number = 0;          ///< this recording ends in the middle: the logger lost its power
    double clock_offset_s = 0;       ///< the clock is wrong by so much
    bool nearly_full = false;        ///< 3 % of the card is free, and the count is near its limit
    bool restart_numbering = false;  ///< numbers start again at 1 with every list
    bool keeps_erased = false;       ///< says that it has erased, and has not
};

/// A process-in-a-process that behaves like the car's logger over HTTP on loopback (docs/logger-interface.md). It
/// serves a copy of the files of `card`; erasing removes from the copy only.
class StandIn {
  public:
    explicit StandIn(const Troubles& troubles = {});
    ~StandIn();
    StandIn(const StandIn&) = delete;
    StandIn& operator=(const StandIn&) = delete;

    /// Reads the card and listens on 127.0.0.1; port 0 takes a free one.
    [[nodiscard]] Result<int> start(const std::filesystem::path& card, int port = 0);
    [[nodiscard]] std::string url() const;
    void stop();
    /// Blocks until stop() is called from another thread or a signal handler's thread.
    void wait();
    [[nodiscard]] std::uint64_t bytes_sent() const;

  private:
    struct Inside;
    std::unique_ptr<Inside> inside_;
};

}  // namespace rendak::demo
