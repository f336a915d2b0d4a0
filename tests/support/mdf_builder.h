#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace rendak::test {

/// Puts MDF 4 files together block by block, apart from Rendak's own writer, so that the reader is tested against the
/// standard and not against its brother.
class MdfBuilder {
  public:
    MdfBuilder();
    std::uint64_t block(const char* id, const std::vector<std::uint64_t>& links, const std::string& data);
    std::uint64_t text(const std::string& text) { return block("TX", {}, text + '\0'); }
    /// Appends a data group with one channel group; `data` is the link to its records.
    void group(std::uint64_t first_channel, std::uint64_t data, std::uint64_t cycles, std::uint32_t bytes,
               std::uint32_t invalid_bytes = 0);
    /// Channels are chained in the order of the calls; channels() ends a chain and returns its first.
    struct Channel {
        const char* name = "";
        std::uint8_t type = 0, sync = 0, data_type = 4, bit_offset = 0;
        std::uint32_t byte_offset = 0, bits = 32, flags = 0, invalid_bit = 0;
        std::uint64_t conversion = 0;
        const char* unit = "";
    };
    void channel(const Channel& channel);
    std::uint64_t channels();
    std::uint64_t conversion(std::uint8_t type, const std::vector<double>& values,
                             const std::vector<std::uint64_t>& refs = {});
    std::uint64_t list(const std::vector<std::uint64_t>& blocks);
    std::uint64_t packed(const std::string& records, std::uint8_t zip_type, std::uint32_t record);
    void link(std::uint64_t block, std::size_t index, std::uint64_t to);
    [[nodiscard]] const std::string& bytes() const { return bytes_; }
    std::string& bytes() { return bytes_; }

  private:
    std::string bytes_;
    std::uint64_t head_ = 0, last_group_ = 0, first_channel_ = 0, last_channel_ = 0;
};

/// A number's bytes, lowest first or (big) highest first.
template <class T>
std::string raw(T value, bool big = false) {
    std::string out(reinterpret_cast<const char*>(&value), sizeof value);
    return big ? std::string(out.rbegin(), out.rend()) : out;
}

}  // namespace rendak::test
