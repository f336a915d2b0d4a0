#pragma once

#include <functional>
#include <string>
#include <vector>

namespace rendak::test {

/// How a program ended.
struct Ended {
    bool killed = false;
    int code = 0;
    int changes = 0;  ///< calls met that change a file: writes, syncs, renames, unlinks, creations …
};

/// Runs a program to its end, its output thrown away.
[[nodiscard]] Ended run_program(const std::vector<std::string>& words);

/// Runs a program and kills it (SIGKILL) just before its `at`-th call that changes a file (counted from 1, all
/// threads); 0: never, to count them. Uses ptrace; `code` is -1 when that is not allowed here.
[[nodiscard]] Ended run_until_change(const std::vector<std::string>& words, int at);

/// Runs a program and kills it after so many microseconds.
[[nodiscard]] Ended run_for(const std::vector<std::string>& words, unsigned microseconds);

}  // namespace rendak::test
