#include "core/base/text.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace rendak;

TEST(Text, LapTimes) {
    EXPECT_EQ(lap_time_text(84.3182), "1:24.318");
    EXPECT_EQ(lap_time_text(24.3), "24.300");
    EXPECT_EQ(lap_time_text(59.9996), "1:00.000") << "rounding must carry into the minutes";
    EXPECT_EQ(lap_time_text(3725.05), "62:05.050");
    EXPECT_EQ(lap_time_text(-1.5), "-1.500");
    EXPECT_EQ(lap_time_text(std::nan("")), "–");
}

TEST(Text, FoldedNamesIgnoreCaseAndPunctuation) {
    EXPECT_EQ(folded("Brake_Pres. F"), "brakepresf");
    EXPECT_EQ(folded("  "), "");
}

TEST(Text, CountsAgreeWithTheirNoun) {
    EXPECT_EQ(counted(1, "row", "rows"), "1 row");
    EXPECT_EQ(counted(0, "row", "rows"), "0 rows");
}

TEST(Text, TrimsBlanksAndLineEnds) {
    EXPECT_EQ(trimmed(" \ta b\r\n"), "a b");
    EXPECT_EQ(trimmed("   "), "");
}
