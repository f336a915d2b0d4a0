#include "app/shell/screenshots.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QTextStream>

#include "app/shell/main_window.h"
#include "demo/stand_in.h"

namespace rendak::app {

bool wait_until_idle(MainWindow& window, double seconds) {
    QElapsedTimer clock;
    clock.start();
    do {
        QApplication::processEvents(QEventLoop::AllEvents, 20);
        if (window.workspace().jobs().idle() && !window.workspace().comparison().busy()) {
            QApplication::processEvents();
            return true;
        }
    } while (clock.elapsed() < seconds * 1000);
    return false;
}

bool take_screenshots(MainWindow& window, const QString& folder) {
    QTextStream err(stderr);
    if (!QDir().mkpath(folder)) {
        err << "rendak: cannot make the folder " << folder << "\n";
        return false;
    }
    bool fine = true;
    const auto shoot = [&](const QString& name) {
        fine = wait_until_idle(window) && fine;
        const QString file = folder + u'/' + name + QStringLiteral(".png");
        if (!window.grab().save(file)) {
            err << "rendak: cannot write " << file << "\n";
            fine = false;
        }
    };
    auto& workspace = window.workspace();
    window.resize(1280, 800);
    window.show();
    workspace.focus().set_state({});
    window.show_desk(QStringLiteral("logbook"));
    shoot(QStringLiteral("logbook"));
    if (const auto all = workspace.shown(workspace.library().runs()); !all.empty()) {
        window.logbook().select_run(all.front().id);
        window.logbook().show_tab(LogbookDesk::tidy_tab);
        shoot(QStringLiteral("logbook-tidy"));
        window.logbook().select_run(all.back().id);
        window.logbook().show_tab(LogbookDesk::setup_tab);
        shoot(QStringLiteral("logbook-setup"));
        window.logbook().show_tab(LogbookDesk::laps_tab);
    }
    window.show_desk(QStringLiteral("collect"));
    const auto card = workspace.library().folder() / "demo-files" / "card";
    if (std::filesystem::exists(card)) {
        demo::StandIn logger({.clock_offset_s = -754});
        if (logger.start(card)) {
            window.collect().connect_to(QString::fromStdString(logger.url()));
            shoot(QStringLiteral("collect"));
        }
    }
    const auto runs = workspace.shown(workspace.library().runs());
    std::vector<RunId> picked;
    for (const RunRow& run : runs) {
        if (run.event != runs.front().event || run.session != runs.front().session) continue;
        for (const Lap& lap : workspace.shown(workspace.library().laps(run.id))) {
            if (lap.kind == LapKind::flying && lap.included) {
                picked.push_back(run.id);
                break;
            }
        }
    }
    for (std::size_t i = picked.size() > 2 ? picked.size() - 2 : 0; i < picked.size(); ++i)
        workspace.pick_best(picked[i]);
    window.show_desk(QStringLiteral("compare"));
    fine = wait_until_idle(window) && fine;
    if (!workspace.comparison().laps().empty() && workspace.comparison().laps().track().corners.size() > 4) {
        workspace.focus().set_cursor(workspace.comparison().laps().track().corners[4].start_m);
    }
    shoot(QStringLiteral("compare"));
    const auto& laps = workspace.comparison().laps();
    if (!laps.empty() && laps.track().corners.size() > 4) {
        const Corner corner = laps.track().corners[4];
        workspace.focus().set_range(view_of_corner(laps.track(), corner));
        workspace.focus().set_cursor(corner.start_m);
        window.compare().show_map(MapCanvas::View::lines);
        window.compare().map().show_events(true);
        shoot(QStringLiteral("compare-corner"));
        window.compare().map().show_events(false);
        workspace.focus().set_range({0, laps.length_m()});
        // Where the second driver brakes and turns, on the map; then all of his run against time.
        window.compare().show_map(MapCanvas::View::side);
        window.compare().set_paint({.quantity = "longitudinal_acceleration"});
        workspace.focus().set_axis(Axis::run);
        shoot(QStringLiteral("compare-run"));
        workspace.focus().set_axis(Axis::distance);
        window.compare().set_paint({});
        window.compare().show_map(MapCanvas::View::plan);
    }
    window.show_desk(QStringLiteral("corners"));
    window.corners().show_table(FigureModel::Shows::sections);
    shoot(QStringLiteral("corners"));
    window.corners().show_table(FigureModel::Shows::peaks);
    shoot(QStringLiteral("corners-peaks"));
    window.corners().show_table(FigureModel::Shows::sections);
    window.show_desk(QStringLiteral("track"));
    window.track().select_corner(4);
    shoot(QStringLiteral("track"));
    window.show_desk(QStringLiteral("formulas"));
    window.formulas().show_formula(QStringLiteral("understeer_angle"));
    shoot(QStringLiteral("formulas"));
    // Channels like any other: lanes in Compare, and the map painted.
    window.show_desk(QStringLiteral("compare"));
    const std::vector<Lane> usual = window.compare().canvas().lanes();
    window.compare().canvas().set_lanes(
        {{"speed", 1}, {"understeer_angle", 1}, {"brake_balance", 0.8}, {"roll", 0.8}, {"coasting", 0.4}});
    window.compare().set_paint({.quantity = "combined_g"});
    shoot(QStringLiteral("compare-formulas"));
    window.compare().set_paint({});
    window.compare().canvas().set_lanes(usual);
    const bool garage = workspace.shown(workspace.library().setting("theme")) == "garage";
    window.set_garage(true);
    shoot(QStringLiteral("compare-garage"));
    window.set_garage(garage);
    return fine;
}

}  // namespace rendak::app
