// As std.h, for tests.
#pragma once

#include <gtest/gtest.h>

#include "cmake/headers/std.h"
