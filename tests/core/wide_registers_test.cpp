// Threads begin with what the one that began them had in its vector registers.
#include <gtest/gtest.h>

#include <array>

#include "core/base/parallel.h"
#include "core/base/wide_registers.h"
#include "tests/support/register_state.h"

using namespace rendak;

TEST(WideRegisters, AreClearAfterwards) {
    if (!test::registers_can_be_told()) GTEST_SKIP() << "this processor does not tell";
    test::use_upper_halves();
    ASSERT_TRUE(test::upper_halves_in_use());
    clear_wide_registers();
    EXPECT_FALSE(test::upper_halves_in_use());
}

TEST(WideRegisters, WorkOnSeveralThreadsIsDoneWithClearOnes) {
    if (!test::registers_can_be_told()) GTEST_SKIP() << "this processor does not tell";
    std::array<bool, 64> in_use{};
    in_use.fill(true);
    test::use_upper_halves();
    parallel_for(
        in_use.size(), 1, [&](std::size_t i) { in_use[i] = test::upper_halves_in_use(); }, 4);
    for (const bool it : in_use) EXPECT_FALSE(it);
}
