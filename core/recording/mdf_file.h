#pragma once

#include <cstdint>
#include <cstring>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/base/spill.h"

namespace rendak::mdf {

/// Blocks of an ASAM MDF 4 file (ASAM MDF, version 4.1, 2012): a header of identification, length and links to
/// other blocks, then the block's own data. Nothing read from the file is trusted.
struct Block {
    std::string_view id;    ///< "HD", "DG" …
    std::size_t links = 0;  ///< how many
    std::string_view link_bytes, data;
    bool whole = true;  ///< false: the file ends inside the block; `data` is what is there

    /// 0 when there is no such link.
    [[nodiscard]] std::uint64_t link(std::size_t i) const;
    template <class T>
    [[nodiscard]] T number(std::size_t offset) const {
        T value{};
        if (offset + sizeof(T) <= data.size()) std::memcpy(&value, data.data() + offset, sizeof(T));
        return value;
    }
};

class File {
  public:
    /// Of an unfinished file the lengths of data blocks may never have been written: they reach to the next block.
    explicit File(std::string_view bytes, bool unfinished = false) : bytes_(bytes), unfinished_(unfinished) {}
    [[nodiscard]] std::string_view bytes() const { return bytes_; }
    /// The block at a place, when there is one with this identification ("" takes any).
    [[nodiscard]] std::optional<Block> block(std::uint64_t place, std::string_view id = {}) const;
    /// Text of a TX or MD block (of MD: the content of its TX element); empty when there is none.
    [[nodiscard]] std::string text(std::uint64_t place) const;

  private:
    [[nodiscard]] std::uint64_t length_to_next_block(std::uint64_t place) const;

    std::string_view bytes_;
    bool unfinished_ = false;
};

/// The records of a data group, one after the other: views into the file where they lie there as they are, else a copy.
struct Data {
    std::vector<std::string_view> pieces;  ///< each but the last holds whole records
    SpillBuffer<char> copied;
    bool whole = true;              ///< false: the file ends before all of it
    bool damaged = false;           ///< a packed block could not be unpacked; what comes before it is there
    std::string_view invalid = {};  ///< invalidation bytes kept apart from the records (lists of MDF 4.2)
    SpillBuffer<char> copied_invalid = {};
};

/// Collects DT, DV, DI, DZ (inflated), DL, LD and HL below a data link. `record_bytes`: all records are of this length;
/// 0: of several, and what is collected is one piece. `most` limits what a hostile file can ask for.
[[nodiscard]] Result<Data> collect_data(const File& file, std::uint64_t place, std::size_t record_bytes,
                                        std::uint64_t most, const JobContext& job);

/// Transposition of zip type 1: columns of `record` bytes back to rows.
void untranspose(std::string_view columns, std::size_t record, char* rows);
void transpose(std::string_view rows, std::size_t record, char* columns);

}  // namespace rendak::mdf
