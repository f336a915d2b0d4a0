#include "cli/stint_options.h"

#include "cli/lap_figure_commands.h"
#include "cli/output.h"
#include "cli/stint_commands.h"
#include "cli/watch_commands.h"

namespace rendak::cli {

StintOptions::StintOptions(CLI::App& app) {
    figures_ = app.add_subcommand("lapfigures", "Laps of runs and their figures, with what becomes of them");
    figures_->add_option("--run,--runs", runs_, "Numbers of the runs")->required()->delimiter(',');
    figures_->add_option("--columns", columns_, "\"speed high; oil_temperature above 110 °C; speed low in 5\"");
    figures_->add_option("--set", sets_, "Ready columns: driver, speeds, pedals, tyres, brakes, engine, fuel");
    figures_->add_option("--format", format_, "json or csv")->check(CLI::IsMember({"json", "csv"}));
    stints_ = app.add_subcommand("stint", "What happens to pace and tyres over the laps of runs");
    stints_->add_option("--run,--runs", runs_, "Numbers of the runs")->required()->delimiter(',');
    stints_->add_option("--fuel-effect", s_per_litre_, "Seconds a lap that a litre costs; without: of the car sheet")
        ->check(CLI::Range(-1.0, 1.0));
    day_ = app.add_subcommand("day", "The runs of an event in order: figures, what improved, what is next");
    day_->add_option("--event", event_, "Name of the event")->required();
    windows_ = app.add_subcommand("windows", "How much of a run tyres, discs, oil and water lie in their windows");
    windows_->add_option("--run", one_run_, "Number of the run")->required();
    auto* watch = app.add_subcommand("watch", "Limits over whole recordings, from power on to power off");
    watch->require_subcommand(1);
    watch_list_ = watch->add_subcommand("list", "The shipped rules, in the form that --rules reads");
    watch_check_ = watch->add_subcommand("check", "When rules speak, with what stood beside it");
    watch_check_->add_option("--run,--runs", runs_, "Numbers of the runs")->delimiter(',');
    watch_check_->add_flag("--all", all_, "All runs of the library");
    watch_check_->add_option("--rules", rules_file_, "File of rules instead of the shipped ones");
}

std::optional<int> StintOptions::run(const std::string& library) {
    if (*figures_) {
        if (columns_.empty() && sets_.empty()) sets_ = {"driver", "speeds"};
        return print_lap_figures(library, runs_, columns_, sets_, format_ == "csv");
    }
    if (*stints_) return print_stints(library, runs_, s_per_litre_);
    if (*day_) return print_day(library, event_);
    if (*windows_) return print_windows(library, one_run_);
    if (*watch_list_) return print_watch_rules();
    if (!*watch_check_) return std::nullopt;
    if (all_ == !runs_.empty()) return misuse("watch check: say either --runs or --all.");
    return print_watched(library, runs_, all_, rules_file_);
}

}  // namespace rendak::cli
