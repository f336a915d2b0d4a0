#include "core/recording/h5_rows.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstring>
#include <utility>

#include "core/base/text.h"
#include "core/recording/h5_handle.h"

namespace rendak {
namespace {

using H5Kind = H5Column::Kind;

hid_t h5_space(hsize_t count) {
    return H5Screate_simple(1, &count, nullptr);
}

hid_t memory_type(H5Kind kind, hid_t stored) {
    switch (kind) {
        case H5Kind::whole:
            return H5Tcopy(H5T_NATIVE_INT64);
        case H5Kind::whole_unsigned:
            return H5Tcopy(H5T_NATIVE_UINT64);
        case H5Kind::real32:
            return H5Tcopy(H5T_NATIVE_FLOAT);
        case H5Kind::real64:
            return H5Tcopy(H5T_NATIVE_DOUBLE);
        case H5Kind::text:
            break;
    }
    return H5Tcopy(stored);
}

template <class T>
T value_at(const char* at) {
    T value;
    std::memcpy(&value, at, sizeof value);
    return value;
}

/// The mark of a missing sample may be written with more digits than the samples.
bool is_missing(const H5Column& column, float value) {
    return column.missing && static_cast<float>(*column.missing) == value;
}

template <class T>
void append_value(std::string& line, T value) {
    char digits[40];
    const auto end = std::to_chars(digits, digits + sizeof digits, value).ptr;
    line.append(digits, end);
}

void put_real(std::string& line, double value, const H5Column& column) {
    if (!std::isfinite(value) || column.missing == value) return;
    value = value * column.factor + column.offset;
    // Steps below a nanosecond are rounding, and no clock's.
    if (column.is_time && std::abs(value) < 1e15) {
        char digits[64];
        const auto end = std::to_chars(digits, digits + sizeof digits, value, std::chars_format::fixed,
                                       std::abs(value) < 1e6 ? 9 : 6);
        line.append(digits, end.ptr);
        while (line.back() == '0') line.pop_back();
        if (line.back() == '.') line.pop_back();
        return;
    }
    append_value(line, value);
}

}  // namespace

H5Rows::H5Rows(hid_t file, const H5Set& set, std::size_t cache) : set_(set) {
    const h5::Handle access(H5Pcreate(H5P_DATASET_ACCESS), H5Pclose);
    H5Pset_chunk_cache(access, 521, cache, 1);
    data_ = H5Dopen2(file, set.path.c_str(), access);
    if (data_ < 0) return;
    const h5::Handle stored(H5Dget_type(data_), H5Tclose);
    space_ = H5Dget_space(data_);
    if (set.columns[0].member.empty()) {
        memory_ = memory_type(set.columns[0].kind, stored);
        each_ = H5Tget_size(memory_);
        return;
    }
    std::size_t size = 0;
    std::vector<hid_t> members;
    for (const H5Column& column : set.columns) {
        const int index = H5Tget_member_index(stored, column.member.c_str());
        const h5::Handle type(H5Tget_member_type(stored, static_cast<unsigned>(std::max(index, 0))), H5Tclose);
        members.push_back(memory_type(column.kind, type));
        at_.push_back(size);
        sizes_.push_back(H5Tget_size(members.back()));
        size += sizes_.back();
    }
    memory_ = H5Tcreate(H5T_COMPOUND, std::max<std::size_t>(size, 1));
    each_ = size;
    for (std::size_t i = 0; i < members.size(); ++i) {
        H5Tinsert(memory_, set.columns[i].member.c_str(), at_[i], members[i]);
        H5Tclose(members[i]);
    }
}
H5Rows::~H5Rows() {
    give_texts_back();
    if (memory_ >= 0) H5Tclose(memory_);
    if (space_ >= 0) H5Sclose(space_);
    if (data_ >= 0) H5Dclose(data_);
}

bool H5Rows::read(hsize_t from, hsize_t count) {
    give_texts_back();
    from_ = from;
    count_ = count;
    if (data_ < 0 || space_ < 0 || memory_ < 0) return false;
    bytes_.resize(row_bytes() * count);
    const hsize_t start[2] = {set_.rows_are_second ? 0 : from, set_.rows_are_second ? from : 0};
    const hsize_t size[2] = {set_.rows_are_second ? set_.width : count, set_.rows_are_second ? count : set_.width};
    const hsize_t all = count * set_.width;
    held_ = h5_space(all);
    const bool fine = H5Sselect_hyperslab(space_, H5S_SELECT_SET, start, nullptr, size, nullptr) >= 0 &&
                      H5Dread(data_, memory_, held_, space_, H5P_DEFAULT, bytes_.data()) >= 0;
    has_texts_ = fine && H5Tis_variable_str(memory_) > 0;
    if (!has_texts_ && held_ >= 0) H5Sclose(std::exchange(held_, -1));
    return fine;
}

void H5Rows::put(std::string& line, std::size_t index, hsize_t row) const {
    if (row < from_ || row >= from_ + count_) return;
    const H5Column& column = set_.columns[index];
    const hsize_t in_block = row - from_;
    const char* at = bytes_.data();
    if (!at_.empty())
        at += in_block * each_ + at_[index];
    else if (set_.rows_are_second)
        at += (column.across * count_ + in_block) * each_;
    else
        at += (in_block * set_.width + column.across) * each_;
    const bool plain = column.factor == 1 && column.offset == 0;
    switch (column.kind) {
        case H5Kind::text:
            return put_text(line, at, at_.empty() ? each_ : sizes_[index]);
        case H5Kind::whole: {
            const auto value = value_at<std::int64_t>(at);
            if (plain && column.missing != static_cast<double>(value)) return append_value(line, value);
            return put_real(line, static_cast<double>(value), column);
        }
        case H5Kind::whole_unsigned: {
            const auto value = value_at<std::uint64_t>(at);
            if (plain && column.missing != static_cast<double>(value)) return append_value(line, value);
            return put_real(line, static_cast<double>(value), column);
        }
        case H5Kind::real32: {
            const auto value = value_at<float>(at);
            if (!std::isfinite(value) || is_missing(column, value)) return;
            if (plain) return append_value(line, value);
            return put_real(line, static_cast<double>(value), column);
        }
        case H5Kind::real64:
            return put_real(line, value_at<double>(at), column);
    }
}

void H5Rows::put_text(std::string& line, const char* at, std::size_t size) const {
    std::string_view text(at, strnlen(at, size));
    if (has_texts_) {
        const auto* own = value_at<const char*>(at);
        text = own == nullptr ? std::string_view() : std::string_view(own, strnlen(own, 4096));
    }
    for (const char c : printable(trimmed(text))) {
        if (c != '"' && c != '\t') line += c;
    }
}

void H5Rows::give_texts_back() {
    if (has_texts_) H5Dvlen_reclaim(memory_, held_, H5P_DEFAULT, bytes_.data());
    if (held_ >= 0) H5Sclose(std::exchange(held_, -1));
    has_texts_ = false;
}

}  // namespace rendak
