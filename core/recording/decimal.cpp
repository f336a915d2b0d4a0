#include "core/recording/decimal.h"

#include <fast_float/fast_float.h>

namespace rendak {

const char* parse_decimal_general(const char* from, const char* end, char decimal_sign, double& value) {
    if (from != end && *from == '+') ++from;  // fast_float takes no plus sign
    const fast_float::parse_options options{fast_float::chars_format::general, decimal_sign};
    const auto result = fast_float::from_chars_advanced(from, end, value, options);
    return result.ec == std::errc() ? result.ptr : nullptr;
}

}  // namespace rendak
