#pragma once

#include <gtest/gtest.h>

#include "tests/support/own_build.h"

/// First in a test whose point is a figure over much data: under the sanitizers, where it would take ten times as long,
/// the same code is looked at by the smaller tests named.
#define RENDAK_FIGURES_ONLY(elsewhere) \
    if (rendak::test::under_sanitizers()) GTEST_SKIP() << "figures only; the sanitizers see this code in " elsewhere
