#pragma once

#include <CLI/CLI.hpp>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "core/analysis/watch.h"

namespace rendak::cli {

/// What the command line knows of whole runs: the figures of every lap, pace and tyres over a stint, windows, and
/// watch rules.
class StintOptions {
  public:
    explicit StintOptions(CLI::App& app);
    StintOptions(const StintOptions&) = delete;
    StintOptions& operator=(const StintOptions&) = delete;
    /// The exit code, where one of these was asked for.
    [[nodiscard]] std::optional<int> run(const std::string& library);

  private:
    CLI::App *figures_, *stints_, *day_, *windows_, *watch_list_, *watch_check_, *watch_add_, *watch_remove_,
        *watch_trend_;
    std::vector<std::int64_t> runs_;
    std::vector<std::string> columns_, sets_;
    std::string format_ = "json", rules_file_, event_;
    std::optional<double> s_per_litre_;
    std::int64_t one_run_ = 0;
    bool all_ = false;
    WatchRule rule_;
    std::string worst_ = "high", car_;
};

}  // namespace rendak::cli
