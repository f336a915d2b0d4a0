#pragma once

#include <QString>

namespace rendak::app {

/// Without case and accents: what fuzzy_score() looks at. Kept for texts that are looked at again with every key.
[[nodiscard]] QString fuzzy_plain(const QString& text);

/// How well what was typed fits a text: every word of it must be found, its letters in order; whole words and
/// beginnings of words count more than scattered letters, short texts more than long ones. 0: it does not fit. Case and
/// accents do not matter.
[[nodiscard]] int fuzzy_score(const QString& typed, const QString& text);
/// The same of texts that are plain already.
[[nodiscard]] int fuzzy_score_plain(const QString& typed, const QString& text);

}  // namespace rendak::app
