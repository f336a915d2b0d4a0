#pragma once

#include <cstddef>
#include <filesystem>
#include <memory>
#include <string_view>

#include "core/base/result.h"

namespace rendak {

/// A whole file mapped read-only. Spans into it stay valid while a copy of the pointer lives.
class MappedFile {
  public:
    [[nodiscard]] static Result<std::shared_ptr<const MappedFile>> open(const std::filesystem::path& file);
    ~MappedFile();
    MappedFile(const MappedFile&) = delete;
    MappedFile& operator=(const MappedFile&) = delete;

    [[nodiscard]] const char* data() const { return data_; }
    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] std::string_view text() const { return {data_, size_}; }

  private:
    MappedFile(const char* data, std::size_t size) : data_(data), size_(size) {}
    const char* data_;
    std::size_t size_;
};

/// A sentence for the current errno: what could not be done and what to do about it.
[[nodiscard]] Error io_error(std::string_view what, const std::filesystem::path& file, int error_number);

/// Flushes `temporary` to the disk and gives it its final name. On failure the temporary file is removed.
[[nodiscard]] Result<void> finish_file(const std::filesystem::path& temporary, const std::filesystem::path& final_name);

/// Writes `text` under a temporary name in the same folder, flushes it and renames it.
[[nodiscard]] Result<void> write_file(const std::filesystem::path& file, std::string_view text);

/// A name in the folder of `file` that no other process uses: ".part-…".
[[nodiscard]] std::filesystem::path temporary_name(const std::filesystem::path& file);

}  // namespace rendak
