#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace rendak::cli {

struct TrialChoice {
    std::vector<std::string> a, b;
    std::string aim, name, verdict, by, words;
    bool mixed = false, only_show = false;
    std::int64_t id = 0;
};

/// Two groups of laps that differ in something noted; kept unless it is only shown.
int print_new_trial(const std::string& library, const TrialChoice& choice);
int print_trial(const std::string& library, std::int64_t id);
int print_trials(const std::string& library);
int decide_trial(const std::string& library, const TrialChoice& choice);
int remove_trial(const std::string& library, std::int64_t id);
/// Runs that are still to be driven; `clear` takes them away.
int print_run_sheet(const std::string& library, const std::string& event, bool clear);

}  // namespace rendak::cli
