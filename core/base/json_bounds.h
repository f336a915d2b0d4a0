#pragma once

#include <cstddef>
#include <string>
#include <string_view>

#include "core/base/result.h"

namespace rendak {

/// How much JSON from outside may hold. Writers of ours stay far below.
struct JsonBounds {
    std::size_t bytes = 64U << 20;
    std::size_t values = 4'000'000;
    int depth = 32;
};

/// Looks through a text before it is parsed: a parser that meets it may recurse as deep, and build as much, as it says.
/// The error says which bound is passed.
[[nodiscard]] Result<void> check_json(std::string_view text, const std::string& where, const JsonBounds& most = {});

}  // namespace rendak
