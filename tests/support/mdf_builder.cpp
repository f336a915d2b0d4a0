#include "tests/support/mdf_builder.h"

#include <zlib.h>

#include <algorithm>

namespace rendak::test {

MdfBuilder::MdfBuilder() {
    bytes_ = "MDF     4.10    Test    ";
    bytes_.resize(28, '\0');
    bytes_ += raw<std::uint16_t>(410);
    bytes_.resize(64, '\0');
    // 13 June 2026, 07:00 UTC, in nanoseconds.
    head_ =
        block("HD", {0, 0, 0, 0, 0, 0}, raw<std::uint64_t>(1781334000ULL * 1'000'000'000ULL) + std::string(24, '\0'));
    last_group_ = head_;
}

std::uint64_t MdfBuilder::block(const char* id, const std::vector<std::uint64_t>& links, const std::string& data) {
    bytes_.resize((bytes_.size() + 7) / 8 * 8, '\0');
    const std::uint64_t place = bytes_.size();
    bytes_ += std::string("##") + id + std::string(4, '\0');
    bytes_ += raw<std::uint64_t>(24 + 8 * links.size() + data.size()) + raw<std::uint64_t>(links.size());
    for (const auto link : links) bytes_ += raw(link);
    bytes_ += data;
    return place;
}

void MdfBuilder::link(std::uint64_t block, std::size_t index, std::uint64_t to) {
    bytes_.replace(block + 24 + 8 * index, 8, raw(to));
}

void MdfBuilder::group(std::uint64_t first_channel, std::uint64_t data, std::uint64_t cycles, std::uint32_t bytes,
                       std::uint32_t invalid_bytes) {
    const auto cg =
        block("CG", {0, first_channel, 0, 0, 0, 0},
              raw<std::uint64_t>(0) + raw(cycles) + raw<std::uint64_t>(0) + raw(bytes) + raw(invalid_bytes));
    const auto dg = block("DG", {0, cg, data, 0}, std::string(8, '\0'));
    link(last_group_, 0, dg);
    last_group_ = dg;
}

void MdfBuilder::channel(const Channel& c) {
    const auto name = text(c.name), unit = *c.unit != '\0' ? text(c.unit) : 0;
    const auto place = block("CN", {0, 0, name, 0, c.conversion, 0, unit, 0},
                             raw(c.type) + raw(c.sync) + raw(c.data_type) + raw(c.bit_offset) + raw(c.byte_offset) +
                                 raw(c.bits) + raw(c.flags) + raw(c.invalid_bit) + std::string(4 + 48, '\0'));
    if (first_channel_ == 0)
        first_channel_ = place;
    else
        link(last_channel_, 0, place);
    last_channel_ = place;
}

std::uint64_t MdfBuilder::channels() {
    const auto first = first_channel_;
    first_channel_ = last_channel_ = 0;
    return first;
}

std::uint64_t MdfBuilder::conversion(std::uint8_t type, const std::vector<double>& values,
                                     const std::vector<std::uint64_t>& refs) {
    std::string data = raw(type) + raw<std::uint8_t>(0) + raw<std::uint16_t>(0) +
                       raw(static_cast<std::uint16_t>(refs.size())) + raw(static_cast<std::uint16_t>(values.size())) +
                       std::string(16, '\0');
    for (const double value : values) data += raw(value);
    std::vector<std::uint64_t> links{0, 0, 0, 0};
    links.insert(links.end(), refs.begin(), refs.end());
    return block("CC", links, data);
}

std::uint64_t MdfBuilder::list(const std::vector<std::uint64_t>& blocks) {
    std::vector<std::uint64_t> links{0};
    links.insert(links.end(), blocks.begin(), blocks.end());
    return block(
        "DL", links,
        raw<std::uint32_t>(0) + raw(static_cast<std::uint32_t>(blocks.size())) + std::string(8 * blocks.size(), '\0'));
}

std::uint64_t MdfBuilder::packed(const std::string& records, std::uint8_t zip_type, std::uint32_t record) {
    std::string plain = records;
    if (zip_type == 1) {
        const std::size_t rows = records.size() / record;
        for (std::size_t byte = 0, at = 0; byte < record; ++byte) {
            for (std::size_t row = 0; row < rows; ++row) plain[at++] = records[row * record + byte];
        }
    }
    uLongf size = compressBound(plain.size());
    std::string out(size, '\0');
    compress(reinterpret_cast<Bytef*>(out.data()), &size, reinterpret_cast<const Bytef*>(plain.data()), plain.size());
    out.resize(size);
    return block("DZ", {},
                 std::string("DT") + raw(zip_type) + raw<std::uint8_t>(0) + raw(record) +
                     raw<std::uint64_t>(records.size()) + raw<std::uint64_t>(out.size()) + out);
}

}  // namespace rendak::test
