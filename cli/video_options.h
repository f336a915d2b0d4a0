#pragma once

#include <CLI/CLI.hpp>
#include <optional>
#include <string>
#include <vector>

namespace rendak::cli {

/// The commands about films.
class VideoOptions {
  public:
    explicit VideoOptions(CLI::App& app);
    /// Of the command that was given, if it is one of these.
    [[nodiscard]] std::optional<int> run(const std::string& library);

  private:
    std::vector<std::string> files_, marks_, laps_;
    std::string log_, folder_, camera_ = "forward", car_, out_;
    bool keep_ = false, write_ = false, clocks_ = false, beside_ = false;
    std::int64_t film_ = 0, run_ = 0;
    std::optional<double> offset_s_, nudge_s_, near_s_, from_m_, to_m_, lead_s_;
    int width_ = 0;
    CLI::App *add_, *list_, *sync_, *clip_, *find_, *remove_;
};

}  // namespace rendak::cli
