#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <string_view>

#include "core/base/file_io.h"
#include "core/base/result.h"

namespace rendak {

/// A text file as UTF-8 (or one of the eight-bit code pages): mapped as it is; UTF-16 is turned over into memory.
class TableText {
  public:
    [[nodiscard]] static Result<TableText> open(const std::filesystem::path& file);
    [[nodiscard]] std::string_view text() const { return turned_.empty() ? mapping_->text() : turned_; }
    [[nodiscard]] bool was_utf16() const { return !turned_.empty(); }
    [[nodiscard]] bool shrank() const { return mapping_->shrank(); }

  private:
    std::shared_ptr<const MappedFile> mapping_;
    std::string turned_;
};

}  // namespace rendak
