#pragma once

namespace rendak {

/// Of ASCII, whatever the locale.
constexpr bool is_digit(char c) {
    return c >= '0' && c <= '9';
}

}  // namespace rendak
