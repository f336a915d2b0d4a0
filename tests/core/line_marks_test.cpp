#include "core/recording/line_marks.h"

#include <gtest/gtest.h>

#include <random>
#include <string>
#include <vector>

using namespace rendak;

namespace {

/// What is looked for, one character after the other.
void expect_as_by_hand(const std::string& text, char delimiter, const LineMarks& marks) {
    std::size_t line = 0, mark = 0, first = 0;
    bool quoted = false;
    const auto end_line = [&] {
        ASSERT_LT(line, marks.lines().size()) << text;
        EXPECT_EQ(marks.lines()[line].first, first) << text;
        EXPECT_EQ(marks.lines()[line].behind, mark) << text;
        EXPECT_EQ(marks.lines()[line].quoted, quoted) << text;
        ++line;
        first = mark;
        quoted = false;
    };
    for (std::size_t at = 0; at < text.size(); ++at) {
        if (text[at] == '"') quoted = true;
        if (text[at] != delimiter && text[at] != '\n') continue;
        EXPECT_EQ(marks[mark++], at) << text;
        if (text[at] == '\n') end_line();
    }
    if (!text.empty() && text.back() != '\n') {
        EXPECT_EQ(marks[mark++], text.size()) << text;
        end_line();
    }
    EXPECT_EQ(line, marks.lines().size()) << text;
}

}  // namespace

TEST(LineMarks, AreWhereCellsAndLinesEnd) {
    LineMarks marks;  // one for all: its room is used again
    for (const char* text :
         {"", "1", "1\n", "\n", "\n\n", "1,2\n3,4", "1,2\n3,4\n", ",,,\n,", "\"a,b\",1\n2,3\n", "1,\"\n"}) {
        marks.find(text, ',');
        expect_as_by_hand(text, ',', marks);
    }
}

TEST(LineMarks, OfAnyTextAreThoseFoundByHand) {
    std::mt19937 engine(5);
    LineMarks marks;
    // From nothing but numbers to nothing but separators, and lines of every length about the step of 64.
    for (int k = 0; k < 3000; ++k) {
        const unsigned others = 1 + engine() % 60;
        std::string text;
        for (unsigned n = engine() % 400; n > 0; --n) {
            const unsigned kind = engine() % (others + 4);
            text += kind == 0 ? '\n' : kind == 1 ? '"' : kind < 4 ? ';' : static_cast<char>(1 + engine() % 255);
        }
        marks.find(text, ';');
        expect_as_by_hand(text, ';', marks);
        if (HasFatalFailure()) return;
    }
}
