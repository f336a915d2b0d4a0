#pragma once

#include <filesystem>

namespace rendak {

/// A program that came with this one: beside it, or where an installed Rendak keeps those that only it starts. Empty:
/// it is missing.
[[nodiscard]] std::filesystem::path own_program(const char* name);

}  // namespace rendak
