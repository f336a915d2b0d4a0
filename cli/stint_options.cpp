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
    figures_->add_option("--set", sets_,
                         "Ready columns: driver, speeds, pedals, tyres, brakes, engine, fuel, worn, floor");
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
    watch_list_ = watch->add_subcommand("list", "The rules in force, in the form that --rules reads");
    watch_check_ = watch->add_subcommand("check", "When rules speak, with what stood beside it");
    watch_check_->add_option("--run,--runs", runs_, "Numbers of the runs")->delimiter(',');
    watch_check_->add_flag("--all", all_, "All runs of the library");
    watch_check_->add_option("--rules", rules_file_, "File of rules instead of the library's");
    watch_add_ = watch->add_subcommand("add", "Keep a rule in the library, in place of one of its name");
    watch_add_->add_option("--name", rule_.name, "Name of the rule")->required();
    watch_add_->add_option("--condition", rule_.condition, "Formula that is true where something is wrong")->required();
    watch_add_->add_option("--value", rule_.value, "Formula that is told at its worst");
    watch_add_->add_option("--worst", worst_, "high or low")->check(CLI::IsMember({"high", "low"}));
    watch_add_->add_option("--for", rule_.for_s, "Seconds that it has to last")->check(CLI::Range(0.0, 1e6));
    watch_add_->add_option("--apart", rule_.apart_s, "Times that lie closer together (s) are one")
        ->check(CLI::Range(0.0, 1e6));
    watch_add_->add_option("--times", rule_.times, "It speaks from so many times a recording on")
        ->check(CLI::Range(1, 1000000));
    watch_add_->add_option("--beside", rule_.beside, "Formulas told beside it")->delimiter(';');
    watch_add_->add_flag("--off", rule_.off, "Not looked at");
    watch_add_->add_flag("--check", all_, "Check it on all runs of the library");
    watch_remove_ = watch->add_subcommand("remove", "Take a rule of the library's own away");
    watch_remove_->add_option("--name", rule_.name, "Name of the rule")->required();
    watch_trend_ = watch->add_subcommand("trend", "What became of a rule over the runs of a car, as it was checked");
    watch_trend_->add_option("--name", rule_.name, "Name of the rule")->required();
    watch_trend_->add_option("--car", car_, "Name of the car")->required();
}

std::optional<int> StintOptions::run(const std::string& library) {
    if (*figures_) {
        if (columns_.empty() && sets_.empty()) sets_ = {"driver", "speeds"};
        return print_lap_figures(library, runs_, columns_, sets_, format_ == "csv");
    }
    if (*stints_) return print_stints(library, runs_, s_per_litre_);
    if (*day_) return print_day(library, event_);
    if (*windows_) return print_windows(library, one_run_);
    if (*watch_list_) return print_watch_rules(library);
    if (*watch_add_) {
        rule_.worst_is_low = worst_ == "low";
        return add_watch_rule(library, rule_, all_);
    }
    if (*watch_remove_) return drop_watch_rule(library, rule_.name);
    if (*watch_trend_) return print_watch_trend(library, rule_.name, car_);
    if (!*watch_check_) return std::nullopt;
    if (all_ == !runs_.empty()) return misuse("watch check: say either --runs or --all.");
    return print_watched(library, runs_, all_, rules_file_);
}

}  // namespace rendak::cli
