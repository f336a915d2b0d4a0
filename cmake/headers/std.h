// Compiled once a target and put before each of its files: what nearly every file of core reads. The files still name
// what they include: the dev preset and clang-tidy build without this.
#pragma once

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <functional>
#include <limits>
#include <map>
#include <memory>
#include <mutex>
#include <numeric>
#include <optional>
#include <set>
#include <span>
#include <sstream>
#include <stop_token>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <variant>
#include <vector>
