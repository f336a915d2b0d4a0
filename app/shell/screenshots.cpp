#include "app/shell/screenshots.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QTextStream>

#include "app/shell/main_window.h"

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
    const auto runs = workspace.library().runs();
    std::vector<RunId> picked;
    for (const RunRow& run : runs) {
        for (const Lap& lap : workspace.library().laps(run.id)) {
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
        shoot(QStringLiteral("compare-corner"));
        window.compare().show_map(MapCanvas::View::plan);
        workspace.focus().set_range({0, laps.length_m()});
    }
    const bool garage = workspace.library().setting("theme") == "garage";
    window.set_garage(true);
    shoot(QStringLiteral("compare-garage"));
    window.set_garage(garage);
    return fine;
}

}  // namespace rendak::app
