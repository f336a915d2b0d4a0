#include "cli/chassis_options.h"

#include "cli/output.h"

namespace rendak::cli {
namespace {

constexpr const char* set_help =
    "RUN (all laps that count), RUN:best, RUN:near (within 0.5 % of it), RUN:day, or RUN:LAP,LAP";

void add_spectrum(CLI::App* command, SpectrumChoice& choice) {
    command->add_option("--channel", choice.channel,
                        "tyre_load, damper, ride_height (by wheel), or any channel by its name");
    command->add_option("--axle", choice.axle, "front, rear or both")->check(CLI::IsMember({"front", "rear", "both"}));
    command->add_option("--wheels", choice.wheels, "each, loaded (the outer one) or unloaded")
        ->check(CLI::IsMember({"each", "loaded", "unloaded"}));
    command->add_option("--segment", choice.segment_s, "Seconds of a segment")->check(CLI::Range(0.05, 60.0));
    command->add_option("--band", choice.band_hz, "From and to, in Hz")->delimiter(',')->expected(2);
    command->add_option("--detrend", choice.detrend, "Taken out of each segment: line, mean or none")
        ->check(CLI::IsMember({"line", "mean", "none"}));
}

}  // namespace

void ChassisOptions::add_sets(CLI::App* command, bool against) {
    command->add_option("--run,--runs", sets_.laps, set_help)->required();
    if (against) command->add_option("--against", sets_.against, "Other laps, held against these");
    command->add_flag("--mixed", sets_.mixed, "Laps of several drivers or cars in one set");
    command->add_flag_callback(
        "--csv", [this] { sets_.csv = true; }, "A table instead of JSON");
}

void ChassisOptions::add_stretch(CLI::App* command) {
    command->add_option("--on", stretch_.on, "lap, straights, corners, exits or kerbs")
        ->check(CLI::IsMember({"lap", "straights", "corners", "exits", "kerbs"}));
    command->add_option("--from", stretch_.from_m, "Place on the track in metres, with --to")
        ->check(CLI::NonNegativeNumber);
    command->add_option("--to", stretch_.to_m, "Place on the track in metres")->check(CLI::NonNegativeNumber);
}

ChassisOptions::ChassisOptions(CLI::App& app) {
    heights_ = app.add_subcommand("heights", "Where the car comes down to its limit, how deep, how often, and why");
    add_sets(heights_, false);
    dampers_ = app.add_subcommand("dampers", "How fast dampers move: shares of bump and rebound, slow and fast");
    add_sets(dampers_, true);
    add_stretch(dampers_);
    dampers_->add_option("--fast", fast_mm_s_, "Border of slow and fast in mm/s")->check(CLI::Range(1.0, 1000.0));
    spectrum_ = app.add_subcommand("spectrum", "Amplitude over frequency of loads, travels, heights or any channel");
    add_sets(spectrum_, true);
    add_stretch(spectrum_);
    add_spectrum(spectrum_, spectrum_choice_);
    ladder_ = app.add_subcommand("ladder", "Runs that step one value of the setup sheet: which is best, what is next");
    ladder_->add_option("--run,--runs", ladder_choice_.runs, "Numbers of the runs")->delimiter(',');
    ladder_->add_option("--event", ladder_choice_.event, "Found among the runs of an event");
    ladder_->add_option("--line", ladder_choice_.line, "Line of the setup sheet, where runs step several");
    ladder_->add_option("--baseline", ladder_choice_.baseline, "Value that the others are held against");
    ladder_->add_flag("--plan", ladder_choice_.plan, "Write the next runs to the run sheet of the event");
    ladder_->add_flag_callback(
        "--csv", [this] { sets_.csv = true; }, "A table instead of JSON");
    add_stretch(ladder_);
    add_spectrum(ladder_, spectrum_choice_);
    balance_ = app.add_subcommand("balance", "Understeer angle by corner and phase, roll, pitch, ride frequencies");
    add_sets(balance_, true);
    pull_ = app.add_subcommand("pull", "Power and drag from the straights at full throttle");
    add_sets(pull_, true);
    strikes_ = app.add_subcommand("strikes", "Kerbs and lock-ups by wheel and corner, with the brake balance");
    add_sets(strikes_, false);
    hints_ = app.add_subcommand("hints", "What could be tried on the car, from evidence only");
    add_sets(hints_, false);
    auto* trials = app.add_subcommand("trial", "Trials of changes: two groups of laps that differ in something noted");
    trials->require_subcommand(1);
    trial_new_ = trials->add_subcommand("new", "Holds B against A, and keeps the trial");
    trial_new_->add_option("--a", trial_.a, set_help)->required();
    trial_new_->add_option("--b", trial_.b, set_help)->required();
    trial_new_->add_option("--aim", trial_.aim,
                           "A corner's number, slow corners, middling corners, fast corners, straights or braking");
    trial_new_->add_option("--name", trial_.name, "What was tried; without: the changes that are noted");
    trial_new_->add_flag("--mixed", trial_.mixed, "Laps of several drivers or cars in one set");
    trial_new_->add_flag("--only-show", trial_.only_show, "Not kept");
    trial_decide_ = trials->add_subcommand("decide", "Writes what was decided to a trial");
    trial_decide_->add_option("id", trial_.id, "Its number")->required();
    for (auto* command : {trial_new_, trial_decide_}) {
        command->add_option("--verdict", trial_.verdict, "What was decided: keep, take back, try again …");
        command->add_option("--by", trial_.by, "Who decided");
        command->add_option("--words", trial_.words, "What driver and engineer say");
    }
    trial_show_ = trials->add_subcommand("show", "A trial with its figures as they are today");
    trial_show_->add_option("id", trial_.id, "Its number")->required();
    trial_list_ = trials->add_subcommand("list", "The trials that were kept");
    trial_drop_ = trials->add_subcommand("drop", "Takes a trial away");
    trial_drop_->add_option("id", trial_.id, "Its number")->required();
    run_sheet_ = app.add_subcommand("runsheet", "Runs that are still to be driven");
    run_sheet_->add_option("--event", sheet_event_, "Of one event");
    run_sheet_->add_flag("--clear", clear_sheet_, "Takes the event's lines away");
}

std::optional<int> ChassisOptions::run(const std::string& library) {
    if (*heights_) return print_heights(library, sets_);
    if (*dampers_) return print_dampers(library, sets_, stretch_, fast_mm_s_ / 1000);
    if (*spectrum_) return print_spectrum(library, sets_, stretch_, spectrum_choice_);
    if (*ladder_) {
        if (ladder_choice_.runs.empty() == ladder_choice_.event.empty())
            return misuse("ladder: say either --runs or --event.");
        return print_ladder(library, ladder_choice_, stretch_, spectrum_choice_, sets_.csv);
    }
    if (*balance_) return print_balance(library, sets_);
    if (*pull_) return print_pull(library, sets_);
    if (*strikes_) return print_strikes(library, sets_);
    if (*hints_) return print_hints(library, sets_);
    if (*trial_new_) return print_new_trial(library, trial_);
    if (*trial_show_) return print_trial(library, trial_.id);
    if (*trial_list_) return print_trials(library);
    if (*trial_decide_) return decide_trial(library, trial_);
    if (*trial_drop_) return remove_trial(library, trial_.id);
    if (!*run_sheet_) return std::nullopt;
    if (clear_sheet_ && sheet_event_.empty()) return misuse("runsheet --clear: say of which --event.");
    return print_run_sheet(library, sheet_event_, clear_sheet_);
}

}  // namespace rendak::cli
