#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <string_view>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak {

/// SHA-256 (FIPS 180-4) of what is added, as 64 hex digits: how a raw file is told from every other.
class Sha256 {
  public:
    Sha256();
    ~Sha256();
    Sha256(const Sha256&) = delete;
    Sha256& operator=(const Sha256&) = delete;
    void add(std::string_view bytes);
    [[nodiscard]] std::string hex();

  private:
    struct State;
    std::unique_ptr<State> state_;
};

[[nodiscard]] std::string sha256_of(std::string_view text);

/// Whether this is a digest as it is written: so many hex digits, lower case.
[[nodiscard]] bool is_hex(std::string_view text, std::size_t digits);

[[nodiscard]] Result<std::string> sha256_of_file(const std::filesystem::path& file, const JobContext& job = {});

}  // namespace rendak
