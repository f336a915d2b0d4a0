#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/file_io.h"
#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak {

/// A text file as UTF-8 (or one of the eight-bit code pages): mapped as it is; UTF-16 is turned over into memory, and
/// the data sets of an HDF5 file of another program are laid out as one by the reader process.
class TableText {
  public:
    /// `most_rows`: of an HDF5 file no more are laid out; 0: all.
    [[nodiscard]] static Result<TableText> open(const std::filesystem::path& file, std::uint64_t most_rows = 0,
                                                const JobContext& job = {});
    [[nodiscard]] std::string_view text() const {
        return laid_out_ != nullptr ? laid_out_->text().substr(from_, size_)
               : turned_.empty()    ? mapping_->text()
                                    : turned_;
    }
    [[nodiscard]] bool was_hdf5() const { return laid_out_ != nullptr; }
    /// What was left out of an HDF5 file.
    [[nodiscard]] const std::vector<std::string>& notes() const { return notes_; }
    [[nodiscard]] bool was_utf16() const { return !turned_.empty(); }
    [[nodiscard]] bool shrank() const { return mapping_->shrank(); }

  private:
    std::shared_ptr<const MappedFile> mapping_;
    std::string turned_;
    std::shared_ptr<const MappedFile> laid_out_;
    std::size_t from_ = 0, size_ = 0;  ///< of the text in it
    std::vector<std::string> notes_;
};

}  // namespace rendak
