#pragma once

#include <gtest/gtest.h>

#include "core/base/address_sanitizer.h"

/// First in a test whose point is a figure over much data: under the sanitizers, where it would take ten times as long,
/// the same code is looked at by the smaller tests named.
#if defined(RENDAK_ADDRESS_SANITIZER)
#define RENDAK_FIGURES_ONLY(elsewhere) GTEST_SKIP() << "figures only; the sanitizers see this code in " elsewhere
#else
#define RENDAK_FIGURES_ONLY(elsewhere) static_cast<void>(0)
#endif
