// As widgets.h, for tests of windows.
#pragma once

#include <gtest/gtest.h>

#include <QTest>

#include "cmake/headers/widgets.h"
