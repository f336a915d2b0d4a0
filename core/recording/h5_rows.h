#pragma once

#include <hdf5.h>

#include <string>
#include <vector>

#include "core/recording/h5_tree.h"

namespace rendak {

/// Rows of one data set as text, read some at a time.
class H5Rows {
  public:
    /// `cache`: bytes of unpacked chunks to keep.
    H5Rows(hid_t file, const H5Set& set, std::size_t cache);
    H5Rows(const H5Rows&) = delete;
    H5Rows& operator=(const H5Rows&) = delete;
    ~H5Rows();

    /// Bytes that a row takes in memory.
    [[nodiscard]] std::size_t row_bytes() const { return each_ * set_.width; }
    [[nodiscard]] bool read(hsize_t from, hsize_t count);
    /// Puts one cell of the rows read last behind a line; nothing where there is no sample.
    void put(std::string& line, std::size_t index, hsize_t row) const;

  private:
    void put_text(std::string& line, const char* at, std::size_t size) const;
    void give_texts_back();

    const H5Set& set_;
    hid_t data_ = -1, space_ = -1, memory_ = -1, held_ = -1;
    std::size_t each_ = 0;                 ///< bytes of an element
    std::vector<std::size_t> at_, sizes_;  ///< of a record's members
    std::vector<char> bytes_;
    hsize_t from_ = 0, count_ = 0;
    bool has_texts_ = false;
};

}  // namespace rendak
