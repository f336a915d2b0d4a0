#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace rendak::cli {

/// What drivers work on, with what later runs show.
int print_work(const std::string& library);
/// Makes work items of the findings of B against A in a corner (0: of all corners), of one kind or of all.
int add_work(const std::string& library, const std::vector<std::string>& a, const std::vector<std::string>& b,
             bool mixed, int corner, const std::string& kind);
int close_work(const std::string& library, std::int64_t item, bool reopen);

}  // namespace rendak::cli
