#pragma once

#include "core/formula/syntax.h"

namespace rendak::formula {

struct Token {
    enum class Kind { number, name, mark, end };
    Kind kind = Kind::end;
    std::string text = {};  ///< name or mark; of a number its unit
    double number = 0;
    std::size_t from = 0, to = 0;
};

/// Splits a text into tokens; the last one is `end`. A unit belongs to the number before it: the longest piece behind a
/// number that is a unit and ends where a word ends ("100 km/h", "9.81 m/s²", but "2 m/width" is 2 m over width).
[[nodiscard]] Checked<std::vector<Token>> tokens_of(std::string_view text);

}  // namespace rendak::formula
