#include "core/recording/line_marks.h"

#include <immintrin.h>

#include <algorithm>
#include <bit>
#include <cstring>

namespace rendak {
namespace {

constexpr std::size_t step = 64;

/// One bit for each of 64 characters that was found.
[[nodiscard]] std::uint64_t bits_of(const __m128i (&found)[4]) {
    std::uint64_t bits = 0;
    for (int i = 0; i < 4; ++i)
        bits |= static_cast<std::uint64_t>(static_cast<std::uint32_t>(_mm_movemask_epi8(found[i]))) << (16 * i);
    return bits;
}

[[nodiscard]] bool any(const __m128i (&found)[4]) {
    return _mm_movemask_epi8(_mm_or_si128(_mm_or_si128(found[0], found[1]), _mm_or_si128(found[2], found[3]))) != 0;
}

}  // namespace

void LineMarks::find(std::string_view lines, char delimiter) {
    lines_.clear();
    count_ = line_first_ = 0;
    quoted_ = false;
    const __m128i delimiters = _mm_set1_epi8(delimiter), line_end = _mm_set1_epi8('\n'), quote = _mm_set1_epi8('"');
    for (std::size_t at = 0; at < lines.size(); at += step) {
        char last[step] = {};
        const char* from = lines.data() + at;
        if (lines.size() - at < step) {
            std::memcpy(last, from, lines.size() - at);
            from = last;
        }
        __m128i marks[4], ends[4], quotes[4];
        for (int i = 0; i < 4; ++i) {
            const __m128i text = _mm_loadu_si128(reinterpret_cast<const __m128i*>(from + 16 * i));
            ends[i] = _mm_cmpeq_epi8(text, line_end);
            quotes[i] = _mm_cmpeq_epi8(text, quote);
            marks[i] = _mm_or_si128(_mm_cmpeq_epi8(text, delimiters), ends[i]);
        }
        const std::size_t before = count_;
        take(static_cast<std::uint32_t>(at), bits_of(marks));
        const std::uint64_t quote_bits = any(quotes) ? bits_of(quotes) : 0;
        if (any(ends))
            end_lines(before, static_cast<std::uint32_t>(at), bits_of(ends), quote_bits);
        else
            quoted_ = quoted_ || quote_bits != 0;
    }
    if (lines.empty() || lines.back() == '\n') return;
    if (marks_.size() == count_) marks_.resize(count_ + 1);
    marks_[count_++] = static_cast<std::uint32_t>(lines.size());
    lines_.push_back({line_first_, count_, quoted_});
}

void LineMarks::take(std::uint32_t base, std::uint64_t marks) {
    if (marks_.size() < count_ + step) marks_.resize(std::max(2 * marks_.size(), count_ + step));
    for (std::uint32_t* out = marks_.data() + count_; marks != 0; marks &= marks - 1, ++count_)
        *out++ = base + static_cast<std::uint32_t>(std::countr_zero(marks));
}

/// The lines that end among these 64 characters, whose marks begin with number `mark`.
void LineMarks::end_lines(std::size_t mark, std::uint32_t base, std::uint64_t ends, std::uint64_t quotes) {
    for (; ends != 0; ends &= ends - 1) {
        const int end = std::countr_zero(ends);
        while (marks_[mark] != base + static_cast<std::uint32_t>(end)) ++mark;
        const std::uint64_t up_to_end = (std::uint64_t{2} << end) - 1;  // all of them when it is the last
        lines_.push_back({line_first_, mark + 1, quoted_ || (quotes & up_to_end) != 0});
        quotes &= ~up_to_end;
        quoted_ = false;
        line_first_ = mark + 1;
    }
    quoted_ = quotes != 0;
}

}  // namespace rendak
