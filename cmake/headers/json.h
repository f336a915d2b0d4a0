// As std.h, for targets that write JSON nearly everywhere.
#pragma once

#include <nlohmann/json.hpp>

#include "cmake/headers/std.h"
