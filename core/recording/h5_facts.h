#pragma once

#include <hdf5.h>

#include <initializer_list>
#include <map>
#include <optional>
#include <string>
#include <vector>

namespace rendak {

/// What a group or a data set says of itself: attributes, and data sets of one value. Keys are folded ("sampleratehz").
struct H5Facts {
    std::map<std::string, std::string> texts;
    std::map<std::string, double> numbers;
    std::map<std::string, std::vector<std::string>> lists;

    void add(const std::string& key, std::vector<std::string> texts);
    [[nodiscard]] std::string text(std::initializer_list<const char*> keys) const;
    [[nodiscard]] std::optional<double> number(std::initializer_list<const char*> keys) const;
    [[nodiscard]] std::vector<std::string> list(std::initializer_list<const char*> keys) const;
};

/// Those of an object's attributes.
[[nodiscard]] H5Facts attributes_of(hid_t object);
/// The texts of a data set (or attribute); none where it holds anything else.
[[nodiscard]] std::vector<std::string> texts_in(hid_t from, bool is_attribute);

/// Samples a second as facts say them: a rate in Hz, or an interval.
[[nodiscard]] std::optional<double> rate_of(const H5Facts& facts);

}  // namespace rendak
