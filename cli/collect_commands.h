#pragma once

#include <string>
#include <vector>

#include "cli/output.h"
#include "core/intake/import.h"

namespace rendak::cli {

// Everything between the car's logger and an orderly library. JSON out, messages on standard error.
int logger_list(const std::string& library, const std::string& url);
/// Numbers empty: all that is not in the library yet.
int logger_fetch(const std::string& library, const std::string& url, const std::vector<int>& numbers,
                 const ImportOptions& filing, double clock_shift_s);
int logger_clock(const std::string& url, bool set);
/// Without `yes` it only says what would go. Numbers empty: all that is verified in the library.
int logger_erase(const std::string& library, const std::string& url, const std::vector<int>& numbers, bool yes);
/// Cures: ids of findings to be cured.
int tidy_run(const std::string& library, std::int64_t run, const std::vector<std::string>& cures);
/// Films, which are large, only when they are asked for.
int bundle_write(const std::string& library, const std::vector<std::int64_t>& runs, const std::string& file,
                 bool films);
/// With `look` it only says what would come in.
int bundle_read(const std::string& library, const std::string& file, bool look, const std::vector<std::string>& take,
                const std::vector<std::string>& leave);

}  // namespace rendak::cli
