#pragma once

#include <CLI/CLI.hpp>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "cli/chassis_commands.h"
#include "cli/trial_commands.h"

namespace rendak::cli {

/// What the command line knows of the chassis: heights, dampers, spectra, ladders, balance, pull, and trials of
/// changes.
class ChassisOptions {
  public:
    explicit ChassisOptions(CLI::App& app);
    ChassisOptions(const ChassisOptions&) = delete;
    ChassisOptions& operator=(const ChassisOptions&) = delete;
    /// The exit code, where one of these was asked for.
    [[nodiscard]] std::optional<int> run(const std::string& library);

  private:
    void add_sets(CLI::App* command, bool against);
    void add_stretch(CLI::App* command);
    CLI::App *heights_, *dampers_, *spectrum_, *ladder_, *balance_, *pull_, *strikes_, *hints_, *trial_new_,
        *trial_show_, *trial_list_, *trial_decide_, *trial_drop_, *run_sheet_;
    ChassisSets sets_;
    StretchChoice stretch_;
    SpectrumChoice spectrum_choice_;
    LadderChoice ladder_choice_;
    TrialChoice trial_;
    double fast_mm_s_ = 50;
    std::string sheet_event_;
    bool clear_sheet_ = false;
};

}  // namespace rendak::cli
