#pragma once

#include <filesystem>
#include <string>
#include <unordered_set>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"

struct zip;

namespace rendak {

/// Reading a zip file that is not trusted: safe names only, and no more bytes than announced.
class ZipReader {
  public:
    [[nodiscard]] static Result<ZipReader> open(const std::filesystem::path& file);
    ~ZipReader();
    ZipReader(ZipReader&& other) noexcept;
    ZipReader& operator=(ZipReader&&) = delete;
    ZipReader(const ZipReader&) = delete;
    ZipReader& operator=(const ZipReader&) = delete;

    [[nodiscard]] bool has(const std::string& name) const;
    [[nodiscard]] Result<std::string> text(const std::string& name, std::size_t most) const;
    [[nodiscard]] Result<void> extract(const std::string& name, const std::filesystem::path& to,
                                       const JobContext& job) const;

  private:
    ZipReader(zip* archive, std::filesystem::path file) : archive_(archive), file_(std::move(file)) {}
    [[nodiscard]] Result<void> read(const std::string& name, std::uint64_t most, const auto& sink) const;
    zip* archive_;
    std::filesystem::path file_;
    std::unordered_set<std::string> names_;
};

/// Texts and files to be written as one zip, under a temporary name until it is whole.
struct ZipEntry {
    std::string name;
    std::string text;  ///< used when `file` is empty
    std::filesystem::path file;
};
[[nodiscard]] Result<void> write_zip(const std::vector<ZipEntry>& entries, const std::filesystem::path& file,
                                     const JobContext& job);

/// Relative, without "..", ".", backslashes, empty parts or control characters.
[[nodiscard]] bool is_safe_zip_path(const std::string& name);

}  // namespace rendak
