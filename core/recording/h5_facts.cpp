#include "core/recording/h5_facts.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <utility>

#include "core/base/text.h"
#include "core/recording/h5_handle.h"
#include "core/units/unit.h"

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
    const auto said = [&](std::initializer_list<const char*> keys) -> std::optional<double> {
        for (const char* key : keys) {
            if (const auto value = facts.number({key})) return value;
            // "100 Hz", "10 ms"
            const auto text = facts.texts.find(key);
            if (text == facts.texts.end()) continue;
            std::size_t digits = text->second.find_first_not_of("0123456789.");
            digits = std::min(digits, text->second.size());
            const auto number = sheet_number(text->second.substr(0, digits));
            const auto unit = parse_unit(std::string(trimmed(text->second.substr(digits))));
            if (number && unit) return *number * unit->factor;
        }
        return std::nullopt;
    };
    const auto usable = [](std::optional<double> rate) {
        return rate && *rate > 0 && std::isfinite(*rate) ? rate : std::nullopt;
    };
    if (const auto rate = said({"ratehz", "sampleratehz", "samplingratehz", "samplerate", "samplingrate", "rate", "fs",
                                "hz", "frequency", "frequencyhz", "samplefrequency", "samplingfrequency", "lograte"}))
        return usable(rate);
    if (const auto ms = said({"dtms", "intervalms", "sampleintervalms", "periodms", "sampleperiodms"}))
        return usable(1000 / *ms);
    if (const auto step =
            said({"dt", "dts", "interval", "intervals", "sampleinterval", "samplingintervals", "samplinginterval",
                  "period", "sampleperiod", "samplingperiod", "sampletime", "timestep", "tsample"}))
        return usable(1 / *step);
    return std::nullopt;
}

}  // namespace rendak
