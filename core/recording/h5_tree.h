#pragma once

#include <hdf5.h>

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/base/result.h"
#include "core/recording/h5_facts.h"

namespace rendak {

struct H5Column {
    enum class Kind : std::uint8_t { whole, whole_unsigned, real32, real64, text };
    std::string name, unit;
    Kind kind = Kind::real64;
    std::string member;      ///< of a record; empty where the data set holds plain numbers
    std::size_t across = 0;  ///< which of the columns of a data set of two dimensions
    bool is_time = false;
    bool named_by_set = false;      ///< what it holds is called as its data set
    double factor = 1, offset = 0;  ///< of what is stored to what is meant
    std::optional<double> missing;  ///< what is stored where there is no sample
};

/// A data set whose rows are samples: of one number, of a record, or of several columns.
struct H5Set {
    std::string path, group;  ///< "/fast/speed" lies in "/fast"; the root is ""
    std::string unit;         ///< that the set itself says
    hsize_t rows = 0, width = 1;
    bool is_flat = true;            ///< one dimension
    bool rows_are_second = false;   ///< of two dimensions: samples run along the second one
    std::optional<double> rate_hz;  ///< said by the set itself, or by the group that stands for one channel
    double start_s = 0;
    std::vector<H5Column> columns;
};

struct H5Tree {
    std::vector<H5Set> sets;
    std::map<std::string, H5Facts> groups;  ///< by path
    std::vector<std::string> left_out;      ///< sentences
    std::size_t more_left_out = 0;          ///< of which no sentence is kept

    void leave_out(const std::string& name, const std::string& why);
};

/// Walks through an HDF5 file of anybody: its groups, and data sets of one or two dimensions and of records. Follows no
/// link to elsewhere; what is stored outside the file, packed in an unknown way or scaled in one is left out, and said.
[[nodiscard]] Result<H5Tree> walk_h5(hid_t file, std::uint64_t file_size);

}  // namespace rendak
