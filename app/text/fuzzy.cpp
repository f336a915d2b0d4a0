#include "app/text/fuzzy.h"

#include <QStringList>
#include <algorithm>

namespace rendak::app {
namespace {

bool begins_word(const QString& text, qsizetype at) {
    return at == 0 || !text[at - 1].isLetterOrNumber();
}

int word_score(const QString& word, const QString& text) {
    // As it is, best at the beginning of a word.
    int best = 0;
    for (qsizetype at = text.indexOf(word); at >= 0; at = text.indexOf(word, at + 1)) {
        const bool begin = begins_word(text, at);
        const bool whole = begin && (at + word.size() == text.size() || !text[at + word.size()].isLetterOrNumber());
        best = std::max(best, whole ? 120 : begin ? 100 : 60);
    }
    if (best > 0) return best;
    // Letters in order: those that begin words count as initials do.
    int score = 0;
    qsizetype at = 0, first = -1, last = -1;
    for (const QChar letter : word) {
        qsizetype found = -1;
        for (qsizetype i = at; i < text.size(); ++i) {
            if (text[i] != letter) continue;
            if (found < 0) found = i;
            if (begins_word(text, i)) {
                found = i;
                break;
            }
        }
        if (found < 0) return 0;
        score += begins_word(text, found) ? 8 : 2;
        if (first < 0) first = found;
        last = found;
        at = found + 1;
    }
    // Spread over half a sentence it is chance.
    if (last - first > 4 * word.size() + 8 && score < 6 * word.size()) return 0;
    return std::min<int>(50, score);
}

}  // namespace

QString fuzzy_plain(const QString& text) {
    QString out;
    for (const QChar c : text.normalized(QString::NormalizationForm_KD)) {
        if (c.category() != QChar::Mark_NonSpacing) out += c.toLower();
    }
    return out;
}

int fuzzy_score(const QString& typed, const QString& text) {
    return fuzzy_score_plain(fuzzy_plain(typed), fuzzy_plain(text));
}

int fuzzy_score_plain(const QString& typed, const QString& text) {
    int score = 0;
    const QStringList words = typed.split(u' ', Qt::SkipEmptyParts);
    for (const QString& word : words) {
        const int own = word_score(word, text);
        if (own == 0) return 0;
        score += own * 10;
    }
    return words.isEmpty() ? 1 : std::max(1, score - static_cast<int>(std::min<qsizetype>(text.size(), 80)) / 4);
}

}  // namespace rendak::app
