#pragma once

#include <stdexcept>

#include "core/base/result.h"

namespace rendak::test {

/// What a call that must succeed in a test returned; throws its error's text.
template <class T>
[[nodiscard]] T got(Result<T> result) {
    if (!result) throw std::runtime_error(result.error().text());
    return std::move(*result);
}

}  // namespace rendak::test
