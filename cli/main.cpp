#include <CLI/CLI.hpp>

#include "cli/commands.h"

using namespace rendak::cli;

int main(int count, char** arguments) {
    CLI::App app(
        "Rendak on the command line: the same core as the window. JSON on standard output, messages on "
        "standard error. Exit code 0: done, 1: failed, 2: wrong use.",
        "rendak-cli");
    app.require_subcommand(1);
    app.fallthrough();
    std::string library = "rendak-library";
    app.add_option("--library", library, "Folder of the library (default: rendak-library)")->take_last();

    std::vector<std::string> files;
    rendak::ImportOptions import_options;
    auto* import = app.add_subcommand("import", "Import logged files (.rdk.h5, CSV) as runs");
    import->add_option("files", files, "Files to import")->required();
    import->add_option("--track", import_options.track, "Name of a known track (default: found by position)");
    import->add_option("--driver", import_options.driver, "Driver");
    import->add_option("--car", import_options.car, "Car");
    import->add_option("--event", import_options.event, "Event the run belongs to");
    import->add_option("--session", import_options.session, "Session the run belongs to");
    import->add_option("--name", import_options.name, "Name of the run");
    import->add_option("--rate", import_options.read.csv.rate_hz, "Rows per second, for tables without a time column");

    auto* runs = app.add_subcommand("runs", "List the runs");
    std::int64_t run = 0;
    auto* channels = app.add_subcommand("channels", "List the channels of a run");
    channels->add_option("--run", run, "Number of the run")->required();
    auto* laps = app.add_subcommand("laps", "List the laps of a run");
    laps->add_option("--run", run, "Number of the run")->required();

    std::string lap, reason = "switched by hand";
    bool in = false, out = false;
    auto* lap_switch = app.add_subcommand("lap", "Switch a lap in or out by hand");
    lap_switch->add_option("--lap", lap, "RUN:LAP")->required();
    auto* switches = lap_switch->add_option_group("switch");
    switches->add_flag("--in", in, "Count the lap");
    switches->add_flag("--out", out, "Leave the lap out");
    switches->require_option(1);
    lap_switch->add_option("--reason", reason, "Why; kept with the lap");

    auto* track = app.add_subcommand("track", "Tracks");
    track->require_subcommand(1);
    track->fallthrough();
    std::string name, start;
    auto* learn = track->add_subcommand("learn", "Learn a track from a run and cut its laps");
    learn->add_option("--run", run, "Number of the run")->required();
    learn->add_option("--name", name, "Name of the track")->required();
    learn->add_option("--start", start,
                      "Start line LAT,LON,HEADING_DEG (default: a fast place that is passed every lap)");
    auto* list = track->add_subcommand("list", "List the tracks");

    std::string baseline;
    double step_m = 1;
    auto* gap = app.add_subcommand("gap", "Gap of a lap to a baseline lap along the track");
    auto* where = app.add_subcommand("where", "Where the gap comes from, corner by corner");
    for (auto* command : {gap, where}) {
        command->add_option("--baseline", baseline, "RUN:LAP")->required();
        command->add_option("--lap", lap, "RUN:LAP")->required();
    }
    gap->add_option("--step", step_m, "Grid in metres");

    std::string format = "csv", file;
    auto* exporting = app.add_subcommand("export", "Export a run");
    exporting->add_option("--run", run, "Number of the run")->required();
    exporting->add_option("--format", format, "csv or h5")->check(CLI::IsMember({"csv", "h5"}));
    exporting->add_option("--out", file, "File to write")->required();

    std::string folder;
    auto* demo = app.add_subcommand("demo", "Write the made-up demo data as a library of its own");
    demo->add_option("--write", folder, "Folder to write it to")->required();

    try {
        app.parse(count, arguments);
    } catch (const CLI::ParseError& error) {
        return app.exit(error, std::cout, std::cerr) == 0 ? done : wrong_use;
    }
    if (*import) return import_files(library, files, import_options);
    if (*runs) return list_runs(library);
    if (*channels) return list_channels(library, run);
    if (*laps) return list_laps(library, run);
    if (*lap_switch) return switch_lap(library, lap, in, reason);
    if (*learn) return learn_track(library, run, name, start);
    if (*list) return list_tracks(library);
    if (*gap) return print_gap(library, baseline, lap, step_m);
    if (*where) return print_where(library, baseline, lap);
    if (*exporting) return export_run(library, run, format, file);
    if (*demo) return write_demo(folder);
    return wrong_use;
}
