#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/file_io.h"
#include "core/base/result.h"

namespace rendak {

/// What the reader process (reader/main.cpp) found in a recording file: the texts, and where the numbers lie. Numbers
/// that are stored contiguously stay in the file; others are unpacked into the hand-over itself, a file in memory.
/// Whoever takes it over trusts nothing in it: every place is held against the sizes of both files.
struct HandedPlace {
    enum class In : std::uint8_t { nothing, file, handover };
    In in = In::nothing;
    std::uint8_t bytes_each = 4;  ///< 4: float32, 8: float64
    std::uint64_t offset = 0, count = 0;
};

struct HandedChannel {
    std::string name, quantity, unit, source_unit;
    double rate_hz = 0, start_s = 0;
    HandedPlace samples, times_s, overview;
};

struct HandedRecording {
    std::string source_name, logger, digest;
    std::optional<double> start_unix_s;
    std::vector<HandedChannel> channels;
    /// The file is of another program than Rendak; then it has no channels here, but perhaps a table.
    bool of_others = false;
    std::uint64_t table_offset = 0, table_size = 0;  ///< the text of a table, in the hand-over
    std::vector<std::string> notes;
};

/// Writes a hand-over into an open file: numbers as they come, the rest at the end.
class HandoverWriter {
  public:
    HandoverWriter(int fd, std::uint64_t most_bytes) : fd_(fd), most_(most_bytes) {}
    /// Room for `count` numbers; none when there is not so much.
    [[nodiscard]] std::optional<HandedPlace> reserve(std::uint64_t count, std::uint8_t bytes_each);
    [[nodiscard]] bool put(std::uint64_t offset, const void* data, std::size_t size);
    /// Puts the next piece of the table's text behind the last one. Nothing is reserved after that.
    [[nodiscard]] bool put_text(std::string_view text);
    [[nodiscard]] bool finish(const Result<HandedRecording>& what);

  private:
    int fd_;
    std::uint64_t most_, at_ = 64, table_offset_ = 0, table_size_ = 0;
};

/// Reads a hand-over that a process of no trust wrote.
[[nodiscard]] Result<HandedRecording> read_handover(std::string_view bytes, const std::string& shown_name);

}  // namespace rendak
