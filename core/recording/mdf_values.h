#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace rendak::mdf {

/// What the records of an MDF file are made of, and how a channel's values come out of them.

enum class CnType {
    value = 0,
    variable_length = 1,
    master = 2,
    virtual_master = 3,
    sync = 4,
    max_length = 5,
    virtual_data = 6
};

/// raw -> physical.
struct Conversion {
    enum class Kind { none, linear, rational, formula, table, table_steps, ranges, names, unknown } kind = Kind::none;
    std::vector<double> values;
    std::vector<std::string> names;  ///< of value-to-text conversions
    std::string unit;
    std::function<double(double)> formula = {};
    /// A table of names may leave the other numbers, and single keys, to scales of their own. Keys that have a name are
    /// missing then.
    std::shared_ptr<const Conversion> otherwise = {};
    std::vector<std::shared_ptr<const Conversion>> of_keys = {};  ///< one a key or range; null: a name
    bool names_are_ranges = false;

    /// Whole numbers fill a range up to its end, others do not reach it (MDF 4.1, CCBLOCK).
    [[nodiscard]] double operator()(double raw, bool whole) const {
        switch (kind) {
            case Kind::none:
                return raw;
            case Kind::linear:
                return values[0] + values[1] * raw;
            case Kind::rational:
                return (values[0] * raw * raw + values[1] * raw + values[2]) /
                       (values[3] * raw * raw + values[4] * raw + values[5]);
            case Kind::formula:
                return formula(raw);
            case Kind::table:
            case Kind::table_steps:
                return in_table(raw);
            case Kind::ranges:
                for (std::size_t i = 0; i + 2 < values.size(); i += 3) {
                    if (in_range(raw, values[i], values[i + 1], whole)) return values[i + 2];
                }
                return values.size() % 3 == 1 ? values.back() : std::nan("");
            case Kind::names: {
                const std::size_t key = key_of(raw, whole);
                const auto& scale = key < of_keys.size() ? of_keys[key] : otherwise;
                return scale == nullptr ? std::nan("") : (*scale)(raw, whole);
            }
            case Kind::unknown:
                return std::nan("");
        }
        return raw;
    }
    [[nodiscard]] bool identity() const { return kind == Kind::none; }

  private:
    [[nodiscard]] static bool in_range(double raw, double low, double high, bool whole) {
        return raw >= low && (raw < high || (raw == high && (whole || low == high)));
    }
    /// The key or range that a number falls on; their count when it falls on none.
    [[nodiscard]] std::size_t key_of(double raw, bool whole) const {
        for (std::size_t i = 0; i < of_keys.size(); ++i) {
            if (names_are_ranges ? in_range(raw, values[2 * i], values[2 * i + 1], whole) : raw == values[i]) return i;
        }
        return of_keys.size();
    }
    /// Pairs key, value with rising keys; held beyond both ends.
    [[nodiscard]] double in_table(double raw) const {
        const std::size_t pairs = values.size() / 2;
        if (std::isnan(raw)) return raw;
        std::size_t low = 0, high = pairs - 1;
        if (raw <= values[0]) return values[1];
        if (raw >= values[2 * high]) return values[2 * high + 1];
        while (high - low > 1) {
            const std::size_t middle = (low + high) / 2;
            (values[2 * middle] <= raw ? low : high) = middle;
        }
        const double x0 = values[2 * low], x1 = values[2 * high], y0 = values[2 * low + 1], y1 = values[2 * high + 1];
        if (kind == Kind::table_steps) return raw - x0 <= x1 - raw ? y0 : y1;
        return x1 > x0 ? y0 + (y1 - y0) * (raw - x0) / (x1 - x0) : y0;
    }
};

struct MdfChannel {
    std::string name, comment, unit;
    CnType type = CnType::value;
    int sync_type = 0, data_type = 0;
    std::uint32_t bit_offset = 0, byte_offset = 0, bit_count = 0, flags = 0, invalid_bit = 0;
    const Conversion* conversion = nullptr;
    bool is_array = false;  ///< several values a record: left out, and said

    [[nodiscard]] bool is_master() const { return type == CnType::master || type == CnType::virtual_master; }
    [[nodiscard]] bool is_number() const { return data_type >= 0 && data_type <= 5; }
    [[nodiscard]] bool is_whole() const { return data_type >= 0 && data_type <= 3; }
};

__extension__ using WideInteger = unsigned __int128;

struct Group {
    std::uint64_t record_id = 0, cycles = 0;
    std::uint32_t data_bytes = 0, invalid_bytes = 0;
    std::uint16_t flags = 0;
    std::vector<MdfChannel> channels;
    std::string name;
    std::uint64_t place = 0, master_group = 0;  ///< blocks; another group may hold the times of this one
    [[nodiscard]] std::size_t record_size() const { return std::size_t{data_bytes} + invalid_bytes; }
};

/// Records of one group that lie in one piece: `step` bytes from one to the next.
struct Records {
    const char* first = nullptr;
    std::size_t count = 0, step = 0;
};

/// All records of a group, piece after piece.
struct AllRecords {
    std::vector<Records> pieces;
    std::size_t count = 0;

    void add(const Records& piece) {
        pieces.push_back(piece);
        count += piece.count;
    }
    void shorten_to(std::size_t most) {
        std::size_t before = 0;
        for (Records& piece : pieces) {
            piece.count = std::min(piece.count, most - before);
            before += piece.count;
        }
        count = before;
    }
};

/// Records that are worked on at a time, and which of the group the first one is.
struct RecordPart {
    Records records;
    std::size_t first = 0;
};
/// All records in parts of at most so many, in their order.
inline std::vector<RecordPart> parts_of(const AllRecords& all, std::size_t most) {
    std::vector<RecordPart> out;
    std::size_t before = 0;
    for (const Records& piece : all.pieces) {
        for (std::size_t at = 0; at < piece.count; at += most)
            out.push_back({{piece.first + at * piece.step, std::min(most, piece.count - at), piece.step}, before + at});
        before += piece.count;
    }
    return out;
}

template <class T>
T swapped(T value) {
    auto bytes = std::bit_cast<std::array<char, sizeof(T)>>(value);
    std::reverse(bytes.begin(), bytes.end());
    return std::bit_cast<T>(bytes);
}

template <class T, bool big>
void extract(const Records& records, std::size_t offset, auto out) {
    const char* at = records.first + offset;
    for (std::size_t i = 0; i < records.count; ++i, at += records.step) {
        T value;
        std::memcpy(&value, at, sizeof value);
        if constexpr (big && sizeof(T) > 1) value = swapped(value);
        out(i, value);
    }
}

/// Floats of 16 bits (IEEE 754).
inline float half_float(std::uint16_t bits) {
    const int exponent = bits >> 10 & 0x1F, fraction = bits & 0x3FF;
    const float sign = (bits & 0x8000) != 0 ? -1.0F : 1.0F;
    if (exponent == 0) return sign * std::ldexp(static_cast<float>(fraction), -24);
    if (exponent == 31) return std::nanf("");
    return sign * std::ldexp(static_cast<float>(fraction + 1024), exponent - 25);
}

/// Integers of any bit length at any bit.
void extract_bits(const Records& records, const MdfChannel& channel, auto out) {
    const bool big = channel.data_type == 1 || channel.data_type == 3, is_signed = channel.data_type >= 2;
    const std::size_t bytes = (channel.bit_offset + channel.bit_count + 7) / 8;
    const std::uint64_t mask = channel.bit_count >= 64 ? ~0ULL : (1ULL << channel.bit_count) - 1;
    for (std::size_t i = 0; i < records.count; ++i) {
        const char* at = records.first + i * records.step + channel.byte_offset;
        WideInteger raw = 0;
        for (std::size_t b = 0; b < bytes; ++b) {
            const auto byte = static_cast<unsigned char>(at[big ? bytes - 1 - b : b]);
            raw |= static_cast<WideInteger>(byte) << (8 * b);
        }
        auto value = static_cast<std::uint64_t>(raw >> channel.bit_offset) & mask;
        if (is_signed && channel.bit_count < 64 && (value >> (channel.bit_count - 1)) != 0) value |= ~mask;
        out(i, is_signed ? static_cast<double>(static_cast<std::int64_t>(value)) : static_cast<double>(value));
    }
}

/// Calls out(index, raw value) for every record.
void for_each_raw(const Records& records, const MdfChannel& channel, auto out) {
    const std::size_t at = channel.byte_offset;
    const bool whole_bytes = channel.bit_offset == 0;
    switch (whole_bytes ? channel.data_type * 100 + static_cast<int>(channel.bit_count) : -1) {
        case 8:
        case 108:
            return extract<std::uint8_t, false>(records, at, out);
        case 208:
        case 308:
            return extract<std::int8_t, false>(records, at, out);
        case 16:
            return extract<std::uint16_t, false>(records, at, out);
        case 116:
            return extract<std::uint16_t, true>(records, at, out);
        case 216:
            return extract<std::int16_t, false>(records, at, out);
        case 316:
            return extract<std::int16_t, true>(records, at, out);
        case 32:
            return extract<std::uint32_t, false>(records, at, out);
        case 132:
            return extract<std::uint32_t, true>(records, at, out);
        case 232:
            return extract<std::int32_t, false>(records, at, out);
        case 332:
            return extract<std::int32_t, true>(records, at, out);
        case 416:
            return extract<std::uint16_t, false>(records, at,
                                                 [&](std::size_t i, auto bits) { out(i, half_float(bits)); });
        case 516:
            return extract<std::uint16_t, true>(records, at,
                                                [&](std::size_t i, auto bits) { out(i, half_float(bits)); });
        case 432:
            return extract<float, false>(records, at, out);
        case 532:
            return extract<float, true>(records, at, out);
        case 464:
            return extract<double, false>(records, at, out);
        case 564:
            return extract<double, true>(records, at, out);
        default:
            return extract_bits(records, channel, out);
    }
}

}  // namespace rendak::mdf
