#pragma once

#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

namespace rendak {

/// Where the cells of some lines end, found sixteen characters at a time before any of them is read: so the next cell
/// need not wait for the one before it. (The idea of finding the structure first: Langdale and Lemire 2019.)
class LineMarks {
  public:
    struct Line {
        std::size_t first, behind;  ///< its marks: one a cell, the last at the line's end
        bool quoted = false;        ///< has a quotation mark: some delimiters may be text
    };

    /// Looks at `lines`, whole lines; the last may lack its end. At most 2^32 - 1 characters.
    void find(std::string_view lines, char delimiter);
    [[nodiscard]] const std::vector<Line>& lines() const { return lines_; }
    /// The place of mark `i` in the lines: a delimiter, a line's end, or the end of all.
    [[nodiscard]] const std::uint32_t& operator[](std::size_t i) const { return marks_[i]; }

  private:
    void take(std::uint32_t base, std::uint64_t marks);
    void end_lines(std::size_t mark, std::uint32_t base, std::uint64_t ends, std::uint64_t quotes);
    std::vector<std::uint32_t> marks_;
    std::vector<Line> lines_;
    std::size_t count_ = 0;  ///< of marks; the room for them is never made smaller
    std::size_t line_first_ = 0;
    bool quoted_ = false;
};

}  // namespace rendak
