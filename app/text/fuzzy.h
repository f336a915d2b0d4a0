#pragma once

#include <QString>

namespace rendak::app {

/// How well what was typed fits a text: every word of it must be found, its letters in order; whole words and
/// beginnings of words count more than scattered letters, short texts more than long ones. 0: it does not fit. Case and
/// accents do not matter.
[[nodiscard]] int fuzzy_score(const QString& typed, const QString& text);

}  // namespace rendak::app
