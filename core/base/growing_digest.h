#pragma once

#include <condition_variable>
#include <cstdint>
#include <filesystem>
#include <mutex>
#include <optional>
#include <string>
#include <thread>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak {

enum class DigestKind {
    sha256,  ///< tells a file from every other
    xxh3     ///< 128 bit: tells that nothing was damaged on the way, at the pace of the memory
};

/// Digest of a file while it is being written: the digest of a long download is there soon after its last byte. What
/// is read is the file, not what was meant to go into it.
class GrowingDigest {
  public:
    /// The file may not be there yet. `begun` bytes of it are.
    explicit GrowingDigest(std::filesystem::path file, std::uint64_t begun = 0, DigestKind kind = DigestKind::sha256);
    ~GrowingDigest();
    GrowingDigest(const GrowingDigest&) = delete;
    GrowingDigest& operator=(const GrowingDigest&) = delete;

    /// So many bytes are in the file now. Never waits for the reading.
    void grown_to(std::uint64_t bytes);
    /// Of all that it has grown to: waits for the rest of the reading.
    [[nodiscard]] Result<std::string> finish(const JobContext& job = {});

  private:
    void read_along(const std::stop_token& stop);

    std::filesystem::path file_;
    DigestKind kind_;
    std::mutex mutex_;
    std::condition_variable_any changed_;
    std::uint64_t grown_, read_ = 0;
    bool complete_ = false;  ///< no more bytes will come
    std::optional<Result<std::string>> digest_;
    std::jthread reader_;  ///< last: it uses all the others
};

}  // namespace rendak
