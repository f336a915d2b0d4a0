#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

/// A fuzz target, named as libFuzzer wants it: clang++ -fsanitize=fuzzer links it without driver.cpp. With any other
/// compiler driver.cpp changes a corpus of its own making and of tests/fuzz/corpus at random, from a fixed seed.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace rendak::fuzz {

/// Good files to begin with.
[[nodiscard]] std::vector<std::string> seeds();

/// Writes the input to a file that stays in memory and is replaced at every call.
[[nodiscard]] std::filesystem::path as_file(const std::uint8_t* data, std::size_t size);

}  // namespace rendak::fuzz
