#include "core/recording/h5_facts.h"

#include <algorithm>
#include <cstring>
#include <utility>

#include "core/base/text.h"
#include "core/recording/h5_handle.h"
#include "core/recording/table_head.h"

namespace rendak {
namespace {

constexpr std::size_t most_texts = 10'000;

}  // namespace

void H5Facts::add(const std::string& key, std::vector<std::string> given) {
    if (given.size() == 1) texts.emplace(key, printable(given[0]));
    if (!given.empty()) lists.emplace(key, std::move(given));
}

std::vector<std::string> texts_in(hid_t from, bool is_attribute) {
    const h5::Handle type(is_attribute ? H5Aget_type(from) : H5Dget_type(from), H5Tclose);
    const h5::Handle space(is_attribute ? H5Aget_space(from) : H5Dget_space(from), H5Sclose);
    if (!type.ok() || !space.ok() || H5Tget_class(type) != H5T_STRING) return {};
    const auto count = H5Sget_simple_extent_npoints(space);
    if (count < 1 || static_cast<std::size_t>(count) > most_texts) return {};
    const auto n = static_cast<std::size_t>(count);
    const auto read = [&](hid_t memory, void* into) {
        return is_attribute ? H5Aread(from, memory, into) : H5Dread(from, memory, H5S_ALL, H5S_ALL, H5P_DEFAULT, into);
    };
    std::vector<std::string> out;
    if (H5Tis_variable_str(type) > 0) {
        std::vector<char*> lines(n, nullptr);
        if (read(type, lines.data()) < 0) return {};
        for (char* line : lines) out.emplace_back(line == nullptr ? "" : line);
        H5Dvlen_reclaim(type, space, H5P_DEFAULT, static_cast<void*>(lines.data()));
        return out;
    }
    const std::size_t size = H5Tget_size(type);
    if (size == 0 || size > 65536 || size * n > (8U << 20)) return {};
    std::vector<char> bytes(size * n);
    if (read(type, bytes.data()) < 0) return {};
    for (std::size_t i = 0; i < n; ++i) {
        const char* line = bytes.data() + i * size;
        out.emplace_back(trimmed(std::string_view(line, strnlen(line, size))));
    }
    return out;
}

H5Facts attributes_of(hid_t object) {
    H5Facts out;
    H5O_info_t info{};
    if (H5Oget_info(object, &info) < 0) return out;
    const hsize_t count = std::min<hsize_t>(info.num_attrs, 1000);
    for (hsize_t i = 0; i < count; ++i) {
        const h5::Handle attribute(H5Aopen_by_idx(object, ".", H5_INDEX_NAME, H5_ITER_INC, i, H5P_DEFAULT, H5P_DEFAULT),
                                   H5Aclose);
        if (!attribute.ok()) continue;
        char name[256] = "";
        if (H5Aget_name(attribute, sizeof name, name) < 0) continue;
        const std::string key = folded(name);
        const h5::Handle type(H5Aget_type(attribute), H5Tclose);
        const h5::Handle space(H5Aget_space(attribute), H5Sclose);
        const auto kind = H5Tget_class(type);
        if (kind == H5T_STRING) {
            out.add(key, texts_in(attribute, true));
        } else if ((kind == H5T_FLOAT || kind == H5T_INTEGER) && H5Sget_simple_extent_npoints(space) == 1) {
            double value = 0;
            if (H5Aread(attribute, H5T_NATIVE_DOUBLE, &value) >= 0) out.numbers.emplace(key, value);
        }
    }
    return out;
}

std::string H5Facts::text(std::initializer_list<const char*> keys) const {
    for (const char* key : keys) {
        if (const auto found = texts.find(key); found != texts.end()) return found->second;
    }
    return {};
}

std::optional<double> H5Facts::number(std::initializer_list<const char*> keys) const {
    for (const char* key : keys) {
        if (const auto found = numbers.find(key); found != numbers.end()) return found->second;
    }
    return std::nullopt;
}

std::vector<std::string> H5Facts::list(std::initializer_list<const char*> keys) const {
    for (const char* key : keys) {
        if (const auto found = lists.find(key); found != lists.end()) return found->second;
    }
    return {};
}

std::optional<double> rate_of(const H5Facts& facts) {
    struct Words {
        std::initializer_list<const char*> keys;
        const char* unit;  ///< that the word names; "" where the text behind it may
        bool is_interval;
    };
    static const Words all[] = {
        {{"ratehz", "sampleratehz", "samplingratehz", "frequencyhz", "hz"}, "Hz", false},
        {{"samplerate", "samplingrate", "rate", "fs", "frequency", "samplefrequency", "samplingfrequency", "lograte"},
         "",
         false},
        {{"dtms", "intervalms", "sampleintervalms", "periodms", "sampleperiodms"}, "ms", true},
        {{"dts", "intervals", "sampleintervals", "samplingintervals", "periods"}, "s", true},
        {{"dt", "interval", "sampleinterval", "samplinginterval", "period", "sampleperiod", "samplingperiod",
          "sampletime", "timestep", "tsample"},
         "",
         true}};
    for (const Words& words : all) {
        for (const char* key : words.keys) {
            if (const auto value = facts.number({key})) return stated_rate(*value, words.unit, words.is_interval);
            const auto text = facts.texts.find(key);
            if (text == facts.texts.end()) continue;
            // "100 Hz", "10 ms"
            const std::size_t digits = std::min(text->second.find_first_not_of("0123456789."), text->second.size());
            const auto number = sheet_number(text->second.substr(0, digits));
            const std::string unit(trimmed(std::string_view(text->second).substr(digits)));
            if (number) return stated_rate(*number, unit.empty() ? words.unit : unit, words.is_interval);
        }
    }
    return std::nullopt;
}

}  // namespace rendak
