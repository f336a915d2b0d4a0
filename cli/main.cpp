#include <CLI/CLI.hpp>

#include "cli/channel_commands.h"
#include "cli/chassis_options.h"
#include "cli/collect_commands.h"
#include "cli/commands.h"
#include "cli/formula_commands.h"
#include "cli/guide_commands.h"
#include "cli/ledger_commands.h"
#include "cli/library_commands.h"
#include "cli/limit_commands.h"
#include "cli/line_commands.h"
#include "cli/overview_commands.h"
#include "cli/stint_options.h"
#include "cli/track_commands.h"
#include "cli/video_options.h"
#include "cli/work_commands.h"
#include "core/base/keep_freed.h"
#include "core/library/run_fields.h"
#include "core/recording/formats.h"

using namespace rendak::cli;

int main(int count, char** arguments) {
    rendak::keep_freed_memory();
    CLI::App app(
        "Rendak on the command line: the same core as the window. JSON on standard output, messages on "
        "standard error. Exit code 0: done, 1: failed, 2: wrong use.",
        "rendak-cli");
    app.set_version_flag("--version", "rendak-cli " RENDAK_VERSION, "Say the version and exit");
    app.set_help_all_flag("--help-all", "Say this for every command");
    app.require_subcommand(1);
    app.fallthrough();
    std::string library = "rendak-library";
    app.add_option("--library", library, "Folder of the library (default: rendak-library)")->take_last();

    std::vector<std::string> files;
    rendak::ImportOptions import_options;
    auto* import = app.add_subcommand("import", "Import logged files (MDF 4, CSV, GPX, HDF5) as runs");
    import->add_option("files", files, "Files to import")->required();
    import->add_option("--track", import_options.track, "Name of a known track (default: found by position)");
    const auto add_facts = [&](CLI::App* command) {
        command->add_option("--driver", import_options.driver, "Driver");
        command->add_option("--car", import_options.car, "Car");
        command->add_option("--event", import_options.event, "Event the run belongs to");
        command->add_option("--session", import_options.session, "Session the run belongs to");
        for (const rendak::RunField& field : rendak::all_run_fields()) {
            if (field.is_text())
                command->add_option(field.option, import_options.*field.text, field.label);
            else
                command->add_option(field.option, import_options.*field.number,
                                    std::string(field.label) + (field.kind == rendak::RunField::Kind::lap_time
                                                                    ? " (seconds)"
                                                                    : std::string(" (") + field.hint + ")"));
        }
    };
    add_facts(import);
    import->add_option("--name", import_options.name, "Name of the run");
    import->add_option("--rate", import_options.read.csv.rate_hz, "Rows per second, for tables without a time column");

    std::vector<std::string> takes;
    import
        ->add_option("--take", takes,
                     "COLUMN=QUANTITY[:UNIT]: what a column of a table is, as an import asked for it. COLUMN= keeps "
                     "its name only, COLUMN=drop leaves it out; may be given several times")
        ->take_all()
        ->expected(1)
        ->allow_extra_args(false);
    import->add_flag("--keep-unanswered", import_options.read.csv.keep_unanswered,
                     "Import columns that would be asked for under their names only");

    auto* runs = app.add_subcommand("runs", "List the runs with all their fields");
    bool as_json = false;
    runs->add_flag("--json", as_json, "JSON is what every command prints; accepted for clarity");
    std::int64_t run = 0;
    auto* channels =
        app.add_subcommand("channels", "The channels of a run: what each is taken for and why, what it holds");
    channels->add_option("--run", run, "Number of the run")->required();
    ChannelChange channel_change;
    std::string channel_quantity, channel_unit, template_remove;
    bool channel_as_logged = false;
    double channel_factor = 1, channel_add = 0;
    auto* channel = app.add_subcommand("channel", "Say what a channel is; nothing is imported again");
    channel->require_subcommand(1);
    const auto of_channel = [&](const char* name, const char* help) {
        auto* command = channel->add_subcommand(name, help);
        command->add_option("--run", channel_change.run, "Number of the run")->required();
        command->add_option("--channel", channel_change.channel, "Its name in the logger")->required();
        command->add_flag("--from-now-on", channel_change.from_now_on,
                          "For all runs of this car and logger from this one on, and for imports to come");
        return command;
    };
    auto* channel_assigns = of_channel("assign", "Take it for something else, or for nothing");
    channel_assigns->add_option("--as", channel_quantity, "speed, brake_front, ... or none");
    channel_assigns->add_option("--unit", channel_unit, "Unit of the values as they are logged");
    channel_assigns->add_flag("--as-logged", channel_as_logged, "Take back all that was said of it");
    auto* channel_scales = of_channel("scale", "Multiply its values; -1 turns the sign round");
    channel_scales->add_option("--by", channel_factor, "Factor")->required();
    auto* channel_adds =
        channel_scales->add_option("--add", channel_add, "Added to the values, in the unit they are kept in (SI)");
    auto* channel_zeroes = of_channel("zero", "Make it zero where the car stands longest");
    auto* channel_lists = channel->add_subcommand("template", "What holds for a car and logger from a date on");
    channel_lists->add_option("--remove", template_remove, "Remove the templates of this channel");
    auto* laps = app.add_subcommand("laps", "List the laps of a run");
    laps->add_option("--run", run, "Number of the run")->required();

    auto* checks = app.add_subcommand("check", "Hold every recording and original against what was filed");
    bool file_them = false;
    std::string backup_folder, best_track, best_car, best_driver, results_file, results_car, results_driver;
    auto* libraries = app.add_subcommand("library", "The library as a whole: check, backup, best laps");
    libraries->require_subcommand(1);
    libraries->fallthrough();
    auto* library_checks =
        libraries->add_subcommand("check", "Hold every recording and original against what was filed");
    auto* library_backs_up = libraries->add_subcommand(
        "backup", "Copy the library into a folder, also while it is in use; again: only what is new");
    library_backs_up->add_option("--to", backup_folder, "Folder: new, empty, or an earlier backup")->required();
    auto* library_bests = libraries->add_subcommand("best", "Fastest laps by track, car and driver in all events");
    library_bests->add_option("--track", best_track, "Only on this track");
    library_bests->add_option("--car", best_car, "Only with this car");
    library_bests->add_option("--driver", best_driver, "Only of this driver");
    auto* results = app.add_subcommand("results", "Results of the timing system");
    results->require_subcommand(1);
    results->fallthrough();
    auto* results_imports =
        results->add_subcommand("import", "Hold a table of official lap times against a run, and keep them with it");
    results_imports->add_option("file", results_file, "The table")->required();
    results_imports->add_option("--run", run, "Number of the run")->required();
    results_imports->add_option("--car", results_car, "Start number in the results (default: by the run's facts)");
    results_imports->add_option("--driver", results_driver, "Driver in the results (default: by the run's facts)");
    auto* unfiled = app.add_subcommand("unfiled", "List recordings of the folder that the catalogue does not know");
    unfiled->add_flag("--file", file_them, "File them as runs");

    std::string lap, reason = "switched by hand";
    bool in = false, out = false;
    auto* lap_switch = app.add_subcommand("lap", "Switch a lap in or out by hand, or write a note about it");
    lap_switch->add_option("--lap", lap, "RUN:LAP")->required();
    auto* switches = lap_switch->add_option_group("switch");
    switches->add_flag("--in", in, "Count the lap");
    switches->add_flag("--out", out, "Leave the lap out");
    switches->require_option(0, 1);
    lap_switch->add_option("--reason", reason, "Why; kept with the lap");
    std::string lap_note;
    auto* noted = lap_switch->add_option("--note", lap_note, "Write about the lap; switches nothing. Empty: no note");

    auto* track = app.add_subcommand("track", "Tracks");
    track->require_subcommand(1);
    track->fallthrough();
    std::string name, start;
    auto* learn = track->add_subcommand("learn", "Learn a track from a run and cut its laps");
    learn->add_option("--run", run, "Number of the run")->required();
    learn->add_option("--name", name, "Name of the track")->required();
    learn->add_option("--start", start,
                      "Start line LAT,LON,HEADING_DEG (default: a fast place that is passed every lap)");
    bool open_road = false;
    learn->add_flag("--open", open_road, "A road from a standing start to a finish, such as a hill climb");
    auto* list = track->add_subcommand("list", "List the tracks");
    std::string track_file, left_edge, right_edge, at;
    auto* track_edits = track->add_subcommand(
        "edit", "Put a track in from its GeoJSON file, or in place of the one of that name, and cut its runs again");
    track_edits->add_option("file", track_file, "GeoJSON file (docs/formats.md)")->required();
    track_edits->add_option("--name", name, "Name (default: the one in the file)");
    auto* track_exports = track->add_subcommand("export", "Write a track as GeoJSON");
    track_exports->add_option("--out", track_file, "File to write")->required();
    auto* track_starts = track->add_subcommand("start", "Move the start line and cut all runs again");
    track_starts->add_option("--at", at, "Distance in metres from the present line, or LAT,LON,HEADING_DEG")
        ->required();
    auto* track_surveys =
        track->add_subcommand("survey", "Learn edges, height and banking from the laps in the library");
    track_surveys->add_option("--left", left_edge, "Slow lap along the left edge, RUN:LAP");
    track_surveys->add_option("--right", right_edge, "Slow lap along the right edge, RUN:LAP");
    for (auto* command : {track_exports, track_starts, track_surveys})
        command->add_option("--name", name, "Name of the track")->required();

    std::vector<std::int64_t> run_list;
    bool sectors = false, banked_count = false;
    double effect_s = 0, launch_s = 0;
    auto* sections = app.add_subcommand("sections", "Laps by sections: times, best, spread");
    sections->add_flag("--sectors", sectors, "Sectors instead of corners and straights");
    auto* ideal = app.add_subcommand("ideal", "Ideal lap, fastest loop, and how alike the laps are");
    ideal->add_option("--effect", effect_s, "Say whether an effect of so many seconds would be seen");
    auto* peaks = app.add_subcommand("peaks", "Laps by corners: peak and mean lateral acceleration, slowest speed");
    peaks->add_flag("--banked", banked_count, "Let banked corners count for the limit");
    bool mixed = false;
    for (auto* command : {sections, ideal, peaks})
        command->add_flag("--mixed", mixed, "Let laps of other drivers and cars than the first run's count too");
    auto* stops = app.add_subcommand("stops", "Standing starts and stops of a run, and the time each cost");
    stops->add_option("--run", run, "Number of the run")->required();
    std::int64_t over_run = 0;
    auto* overlay = app.add_subcommand("overlay", "How a recording lies over another best, without places too");
    overlay->add_option("--baseline", over_run, "Number of the run below")->required();
    overlay->add_option("--run", run, "Number of the run to be moved")->required();
    auto* align = app.add_subcommand("align", "Offsets between runs, told from the shape of their laps");
    for (auto* command : {sections, ideal, peaks, align})
        command->add_option("--run,--runs", run_list, "Numbers of the runs")->required()->delimiter(',');
    auto* launches = app.add_subcommand("launch", "Set the launch of a run by hand");
    launches->add_option("--run", run, "Number of the run")->required();
    auto* launch_at = launches->add_option("--at", launch_s, "Seconds of the recording (default: find it again)");

    std::string baseline;
    double step_m = 1;
    auto* gap = app.add_subcommand("gap", "Gap of a lap to a baseline lap along the track");
    auto* where = app.add_subcommand("where", "Where the gap comes from, corner by corner");
    auto* gap_changes = app.add_subcommand("changes", "Where the gap changes its slope, the largest change first");
    for (auto* command : {gap, where, gap_changes}) {
        command->add_option("--baseline", baseline, "RUN:LAP")->required();
        command->add_option("--lap", lap, "RUN:LAP")->required();
    }
    gap->add_option("--step", step_m, "Grid in metres");
    std::vector<std::string> side_a, side_b, other_sides, of_runs;
    auto* ledgers = app.add_subcommand("ledger", "Where the difference of two laps, or sets of laps, lies; adds up");
    const char* set_help =
        "RUN (all laps that count), RUN:best, RUN:near (within 0.5 % of it), RUN:day (all that count of the driver's "
        "day), or RUN:LAP,LAP";
    ledgers->add_option("--a", side_a, set_help)->required();
    ledgers->add_option("--b", side_b, set_help)->required();
    ledgers->add_option("--more", other_sides, "Other sets to hold against A, each by itself");
    auto* worths = app.add_subcommand("worth", "What a km/h more is worth at each corner");
    worths->add_option("--run,--runs", of_runs, set_help)->required();
    auto* findings = app.add_subcommand("findings", "What B does otherwise than A, with what it costs");
    findings->add_option("--a", side_a, set_help)->required();
    findings->add_option("--b", side_b, set_help)->required();
    auto* work_lists = app.add_subcommand("worklist", "What to work on: sure first, driver before car, by the seconds");
    auto* work_adds = app.add_subcommand("work-add", "Makes work items of findings of B against A");
    for (auto* command : {work_lists, work_adds}) {
        command->add_option("--a", side_a, set_help)->required();
        command->add_option("--b", side_b, set_help)->required();
    }
    int work_corner = 0;
    std::string work_kind;
    std::int64_t work_item = 0;
    bool reopen = false;
    work_adds->add_option("--corner", work_corner, "Number of the corner; without: all");
    work_adds->add_option("--kind", work_kind, "Kind of finding; without: all");
    auto* works = app.add_subcommand("work", "Work items, with what later runs of the driver show");
    auto* work_closes = app.add_subcommand("work-close", "Puts a work item away");
    work_closes->add_option("id", work_item, "Its number")->required();
    work_closes->add_flag("--reopen", reopen, "Takes it out again");
    auto* techniques = app.add_subcommand("technique", "What the driver does, corner by corner and lap by lap");
    std::string off_lap;
    auto* excursions = app.add_subcommand("excursions", "Where a lap left the way, and what led to it, asked in order");
    excursions->add_option("--lap", off_lap, set_help)->required();
    excursions->add_option("--usual", of_runs, "Laps to hold it against; without: those of its run that count");
    auto* wheels = app.add_subcommand("lockups", "Wheels that lock up or spin");
    for (auto* command : {techniques, wheels}) command->add_option("--run,--runs", of_runs, set_help)->required();
    std::string limit_car;
    std::set<int> put_back;
    std::vector<std::string> usual_runs;
    auto* limits = app.add_subcommand("limit", "What a car was seen to reach, by speed");
    limits->add_option("--run,--runs", of_runs, set_help);
    limits->add_option("--car", limit_car, "All runs of a car, by track, day and tyres");
    auto* paces = app.add_subcommand("pace", "The lap that the car has already shown it can do, and the grip in use");
    paces->add_option("--run,--runs", of_runs, set_help)->required();
    paces->add_option("--usual", usual_runs, "Laps that set the limit; without: the same");
    StintOptions stints(app);
    ChassisOptions chassis(app);
    VideoOptions videos(app);
    std::string overview_file;
    auto* overviews = app.add_subcommand("overview", "Two laps, or two sets of laps, on one page");
    overviews->add_option("--a", side_a, set_help)->required();
    overviews->add_option("--b", side_b, set_help)->required();
    overviews->add_option("--out", overview_file, "Paint it into a .pdf, .png or .svg instead");
    std::string guide_track, guide_format = "json", guide_file;
    std::int64_t guide_run = 0;
    auto* guides = app.add_subcommand("guide", "A track corner by corner, from one lap alone");
    guides->add_option("--track", guide_track, "Name of the track; the newest run on it is taken");
    guides->add_option("--run", guide_run, "Take the best lap of this run");
    guides->add_option("--format", guide_format, "json, text, or pdf with --out")
        ->check(CLI::IsMember({"json", "text", "pdf"}));
    guides->add_option("--out", guide_file, "File to write the PDF to");
    std::vector<std::string> other_laps;
    auto* lines = app.add_subcommand("line", "How the road is used: apexes, entries and exits against its edges");
    lines->add_option("--run,--runs", of_runs, set_help)->required();
    lines->add_option("--against", other_laps, "Other laps to hold them against");
    bool quickest = false;
    lines->add_flag("--quickest", quickest, "With the line on which a point with the car's limits is quickest");
    for (auto* command : {limits, paces})
        command->add_option("--put-back", put_back, "Corners that count although they were left out");
    for (auto* command :
         {ledgers, worths, findings, work_lists, work_adds, techniques, wheels, limits, paces, lines, overviews})
        command->add_flag("--mixed", mixed, "Laps of several drivers or cars in one set");
    auto* plots = app.add_subcommand("plot", "A picture of laps on traces, or their data");
    std::map<std::string, std::string> plot_words;
    for (const auto& [word, help] :
         {std::pair{"laps", "Laps, A first: RUN:LAP, RUN:best or RUN:run, separated by commas"},
          {"page", "Page of lanes: a ready-made one or one of the library's"},
          {"channels", "Instead of a page: channels, lanes separated by commas, channels of a lane by +"},
          {"range", "Metres of track, or on the run axis seconds: FROM-TO"},
          {"axis", "distance, time or run"},
          {"size", "Width and height in pixels: WIDTHxHEIGHT"},
          {"out", "What to write: .png, .svg, .pdf, or the data as .csv"}})
        plots->add_option(std::string("--") + word, plot_words[word], help);
    bool plot_garage = false, plot_imperial = false;
    plots->add_flag("--garage", plot_garage, "In the dark theme");
    plots->add_flag("--imperial", plot_imperial, "In mph, psi, °F and inches");

    std::string format = "csv", file;
    std::vector<std::string> with_formulas;
    auto* exporting = app.add_subcommand("export", "Export a run");
    exporting->add_option("--run", run, "Number of the run")->required();
    std::vector<std::string> formats;
    for (const rendak::FileFormat& it : rendak::all_formats()) formats.emplace_back(it.id);
    exporting->add_option("--format", format, "What is written")->check(CLI::IsMember(formats));
    exporting->add_option("--out", file, "File to write")->required();
    exporting->add_option("--formulas", with_formulas, "Formulas to write as channels too, or all")->delimiter(',');

    std::string expression, unit;
    int lap_number = 0;
    bool samples = false, only_look = false;
    std::vector<std::string> clash_take, clash_both, rest_channels;
    std::vector<double> rest_range;
    auto* formulas = app.add_subcommand("formula", "Math channels");
    formulas->require_subcommand(1);
    formulas->fallthrough();
    auto* formula_checks = formulas->add_subcommand("check", "Check names, units and types of a formula or a set");
    formula_checks->add_option("text", expression, "A formula, \"name in unit = formula\", or a file")->required();
    formula_checks->add_option("--run", run, "Check against the channels of this run");
    formula_checks->add_option("--unit", unit, "Unit that the result is to be shown in");
    auto* formula_evals = formulas->add_subcommand("eval", "Compute a formula on a run");
    formula_evals->add_option("--run", run, "Number of the run")->required();
    formula_evals->add_option("--lap", lap_number, "Only this lap");
    formula_evals->add_option("--expr", expression, "A formula, or the name of one")->required();
    formula_evals->add_option("--unit", unit, "Unit to print in");
    formula_evals->add_flag("--samples", samples, "All samples, not only low, mean and high");
    auto* formula_rests = formulas->add_subcommand("rest", "Means of channels while the car stands: offsets to keep");
    formula_rests->add_option("--run", run, "Number of the run")->required();
    formula_rests->add_option("--channels", rest_channels, "Names of channels (default: all)")->delimiter(',');
    formula_rests->add_option("--range", rest_range, "FROM,TO in seconds of the recording (default: found)")
        ->delimiter(',');
    auto* formula_sets = formulas->add_subcommand("set", "Formula sets");
    formula_sets->require_subcommand(1);
    formula_sets->fallthrough();
    auto* set_lists = formula_sets->add_subcommand("list", "All sets with their formulas");
    auto* set_exports = formula_sets->add_subcommand("export", "Write a set as one JSON file");
    set_exports->add_option("name", expression, "Name of the set")->required();
    set_exports->add_option("--out", file, "File to write")->required();
    auto* set_imports = formula_sets->add_subcommand("import", "Bring a set in; what clashes stays unless it is taken");
    set_imports->add_option("file", file, "The set")->required();
    set_imports->add_option("--as", name, "Name of the set it goes into");
    set_imports->add_option("--take", clash_take, "Clashing formulas to take")->delimiter(',');
    set_imports->add_option("--take-both", clash_both, "Clashing formulas to take under a new name")->delimiter(',');
    set_imports->add_flag("--look", only_look, "Only say what would change");

    std::string folder;
    auto* demo = app.add_subcommand("demo", "Write the made-up demo data as a library of its own");
    demo->add_option("--write", folder, "Folder to write it to")->required();

    std::string url;
    std::vector<int> numbers;
    double clock_shift_s = 0;
    bool set_clock = false, yes = false;
    auto* logger = app.add_subcommand("logger", "The car's logger, or a card or folder with its files");
    logger->require_subcommand(1);
    logger->fallthrough();
    auto* logger_lists = logger->add_subcommand("list", "What is on it, and what of that is in the library");
    auto* logger_fetches =
        logger->add_subcommand("fetch", "Download, verify and import (default: what is not in the library)");
    auto* logger_clocks = logger->add_subcommand("clock", "Both clocks; --set takes this computer's time");
    auto* logger_erases = logger->add_subcommand("erase", "Erase what is verified in the library (default: all of it)");
    for (auto* command : {logger_lists, logger_fetches, logger_clocks, logger_erases})
        command->add_option("--url", url, "Address of the logger (http://…) or folder of the card")->required();
    for (auto* command : {logger_fetches, logger_erases})
        command->add_option("--number", numbers, "Numbers of recordings")->delimiter(',');
    add_facts(logger_fetches);
    logger_fetches->add_option("--clock-shift", clock_shift_s, "Seconds added to the logger's dates");
    logger_clocks->add_flag("--set", set_clock, "Set the logger's clock to this computer's");
    logger_erases->add_flag("--yes", yes, "Really erase; without it the command says what would go");

    std::vector<std::string> cures, take, leave;
    auto* tidies = app.add_subcommand("tidy", "What is wrong with a run, and its cures");
    tidies->add_option("--run", run, "Number of the run")->required();
    tidies->add_option("--cure", cures, "Findings to cure");

    std::vector<std::int64_t> run_numbers;
    std::string bundle_file;
    bool look = false;
    auto* bundle = app.add_subcommand("bundle", "One file that carries runs, tracks and sheets to a colleague");
    bundle->require_subcommand(1);
    bundle->fallthrough();
    auto* bundle_writes = bundle->add_subcommand("write", "Write a bundle");
    bundle_writes->add_option("--runs", run_numbers, "Numbers of the runs")->required()->delimiter(',');
    bundle_writes->add_option("--out", bundle_file, "File to write")->required();
    bool bundle_with_films = false;
    bundle_writes->add_flag("--films", bundle_with_films, "With the films that lie on the runs; they are large");
    auto* bundle_reads = bundle->add_subcommand("read", "Bring a bundle in; what clashes stays unless it is taken");
    bundle_reads->add_option("file", bundle_file, "The bundle")->required();
    bundle_reads->add_flag("--look", look, "Only say what would come in");
    bundle_reads->add_option("--take", take, "Keys of clashing items to take from the bundle");
    bundle_reads->add_option("--leave", leave, "Keys of new items to leave out");

    try {
        app.parse(count, arguments);
    } catch (const CLI::ParseError& error) {
        return app.exit(error, std::cout, std::cerr) == 0 ? done : wrong_use;
    }
    if (*import) {
        if (!takes.empty()) {
            import_options.read.csv.mapping.emplace();
            if (const auto wrong = add_answers(takes, *import_options.read.csv.mapping)) return misuse(*wrong);
        }
        return import_files(library, files, import_options);
    }
    if (*runs) return list_runs(library);
    if (*checks || *library_checks) return check_folder(library);
    if (*library_backs_up) return back_up_library(library, backup_folder);
    if (*library_bests) return print_best_laps(library, best_track, best_car, best_driver);
    if (*results_imports) return import_results(library, results_file, run, results_car, results_driver);
    if (*unfiled) return unfiled_recordings(library, file_them);
    if (*channels) return list_channels(library, run);
    if (*channel_assigns)
        return assign_channel(library, channel_change, channel_quantity, channel_unit, channel_as_logged);
    if (*channel_scales)
        return scale_channel(library, channel_change, channel_factor,
                             channel_adds->count() > 0 ? std::optional(channel_add) : std::optional<double>());
    if (*channel_zeroes) return zero_channel(library, channel_change);
    if (*channel_lists) return channel_templates(library, template_remove);
    if (*laps) return list_laps(library, run);
    if (*lap_switch) {
        if (!in && !out && noted->count() == 0) return misuse("lap: say --in, --out or --note");
        return edit_lap(library, lap, in || out ? std::optional(in) : std::nullopt, reason,
                        noted->count() > 0 ? std::optional(lap_note) : std::nullopt);
    }
    if (*learn) return learn_track(library, run, name, start, open_road);
    if (*track_edits) return edit_track(library, name, track_file);
    if (*track_exports) return export_track(library, name, track_file);
    if (*track_starts) return move_start_line(library, name, at);
    if (*track_surveys) return survey_track(library, name, left_edge, right_edge);
    if (*sections) return print_sections(library, run_list, sectors, mixed);
    if (*ideal) return print_ideal(library, run_list, effect_s, mixed);
    if (*peaks) return print_peaks(library, run_list, banked_count, mixed);
    if (*stops) return print_stops(library, run);
    if (*overlay) return print_overlay(library, over_run, run);
    if (*align) return print_alignment(library, run_list);
    if (*launches)
        return set_launch(library, run, launch_at->count() > 0 ? std::optional(launch_s) : std::optional<double>());
    if (*list) return list_tracks(library);
    if (*gap) return print_gap(library, baseline, lap, step_m);
    if (*where) return print_where(library, baseline, lap);
    if (*gap_changes) return print_gap_changes(library, baseline, lap);
    if (*ledgers) return print_ledger(library, side_a, side_b, mixed, other_sides);
    if (*limits && of_runs.empty() == limit_car.empty()) return misuse("limit: say either --runs or --car.");
    if (*limits) return print_limit(library, of_runs, limit_car, put_back, mixed);
    if (*guides && guide_track.empty() && guide_run == 0) return misuse("guide: say --track or --run.");
    if (*guides && guide_file.empty() == (guide_format == "pdf"))
        return misuse("guide: --format pdf needs --out FILE, and only that.");
    if (*guides) return print_guide(library, guide_track, guide_run, guide_format, guide_file);
    if (*overviews) return print_overview(library, side_a, side_b, mixed, overview_file);
    if (*lines) return print_line(library, of_runs, other_laps, quickest, mixed);
    if (const auto code = stints.run(library)) return *code;
    if (const auto code = chassis.run(library)) return *code;
    if (const auto code = videos.run(library)) return *code;
    if (*paces) return print_pace(library, of_runs, usual_runs, put_back, mixed);
    if (*findings) return print_findings(library, side_a, side_b, mixed);
    if (*work_lists) return print_work_list(library, side_a, side_b, mixed);
    if (*work_adds) return add_work(library, side_a, side_b, mixed, work_corner, work_kind);
    if (*works) return print_work(library);
    if (*work_closes) return close_work(library, work_item, reopen);
    if (*techniques) return print_technique(library, of_runs, mixed);
    if (*excursions) return print_excursions(library, off_lap, of_runs);
    if (*wheels) return print_wheel_events(library, of_runs, mixed);
    if (*worths) return print_worth(library, of_runs, mixed);
    if (*plots) {
        std::vector<std::string> words;
        for (const auto& [word, value] : plot_words) {
            if (!value.empty()) words.insert(words.end(), {"--" + word, value});
        }
        if (plot_garage) words.emplace_back("--garage");
        if (plot_imperial) words.emplace_back("--imperial");
        return paint("plot", library, words);
    }
    if (*exporting) return export_run(library, run, format, file, with_formulas);
    if (*formula_checks) return check_formula(library, expression, unit, run);
    if (*formula_evals) return evaluate_formula(library, run, lap_number, expression, unit, samples);
    if (*formula_rests) return measure_at_rest(library, run, rest_channels, rest_range);
    if (*set_lists) return list_formula_sets(library);
    if (*set_exports) return export_formula_set(library, expression, file);
    if (*set_imports) return import_formula_set(library, file, name, clash_take, clash_both, only_look);
    if (*logger_lists) return logger_list(library, url);
    if (*logger_fetches) return logger_fetch(library, url, numbers, import_options, clock_shift_s);
    if (*logger_clocks) return logger_clock(url, set_clock);
    if (*logger_erases) return logger_erase(library, url, numbers, yes);
    if (*tidies) return tidy_run(library, run, cures);
    if (*bundle_writes) return bundle_write(library, run_numbers, bundle_file, bundle_with_films);
    if (*bundle_reads) return bundle_read(library, bundle_file, look, take, leave);
    if (*demo) return write_demo(folder);
    return wrong_use;
}
