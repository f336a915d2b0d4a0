#pragma once

#include <QString>

#include <string_view>

namespace rendak::app {

/// Texts of core are UTF-8.
inline QString text_of(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
}

}  // namespace rendak::app
