// The window without a display: opens a library, does one edit as a person would, waits until it is done, closes.
// Started and killed by kill_trials.
#include <QApplication>
#include <QTemporaryDir>
#include <QTest>
#include <iostream>

#include "app/desks/logbook/logbook_desk.h"
#include "app/shell/main_window.h"
#include "app/shell/screenshots.h"
#include "app/theme/theme.h"
#include "core/intake/edit_track.h"
#include "core/intake/shared_track.h"
#include "core/track/edit.h"
#include "tests/support/got.h"

using namespace rendak;
using namespace rendak::app;
using rendak::test::got;

namespace {

void edit(MainWindow& window, const std::string& name) {
    Workspace& workspace = window.workspace();
    Library& library = workspace.library();
    const auto facts = [&](RunId run, const std::string& driver) {
        RunFacts before = got(library.run(run)), after = before;
        before.driver.clear();  // as it was in the beginning, also when an edit before was killed
        after.driver = driver;
        workspace.edit(
            QStringLiteral("facts"), [&library, run, after] { return library.set_facts(run, after); },
            [&library, run, before] { return library.set_facts(run, before); });
    };
    if (name == "facts") facts({1}, "Brandvold");
    if (name == "two edits as one") {
        workspace.edit(
            QStringLiteral("two"),
            [&library]() -> Result<void> {
                for (const RunId run : {RunId{1}, RunId{2}}) {
                    RunFacts after = got(library.run(run));
                    after.weather = "rain";
                    if (auto done = library.set_facts(run, after); !done) return done;
                }
                return {};
            },
            [] { return Result<void>(); });
    }
    if (name == "bin") {
        window.desk_of<LogbookDesk>().select_run({2});
        window.desk_of<LogbookDesk>().bin_selected();
    }
    if (name == "empty bin") {
        if (const auto gone = library.remove_run({2}); !gone) throw std::runtime_error(gone.error().text());
    }
    if (name == "setup sheet") {
        workspace.edit(
            QStringLiteral("sheet"),
            [&library]() -> Result<void> {
                const auto sheet = library.add_setup("27", "Base", {{"Wing", "4", ""}, {"Rear bar", "3", "mm"}});
                if (!sheet) return pass_on(sheet.error());
                RunFacts after = got(library.run({1}));
                after.setup = *sheet;
                return library.set_facts({1}, after);
            },
            [] { return Result<void>(); });
    }
    if (name == "start line") {
        const TrackState before = got(track_state(library, {1}));
        const Track moved = got(move_start(got(read_track(library, {1})), 150));
        workspace.edit_in_background(
            QStringLiteral("start"),
            [after = edited_state(before, moved, 150)](Library& own, const JobContext& job) {
                return put_track_state(own, {1}, after, true, job);
            },
            [before](Library& own, const JobContext& job) { return put_track_state(own, {1}, before, true, job); });
    }
    if (name == "rename track")
        workspace.edit(
            QStringLiteral("rename"), [&library] { return library.rename_track({1}, "Round"); },
            [&library] { return library.rename_track({1}, "Oval"); });
    if (name == "remove track") {
        const TrackState before = got(track_state(library, {2}));
        workspace.edit(
            QStringLiteral("remove"), [&library] { return library.remove_track({2}); },
            [&library, before]() -> Result<void> {
                const auto put = library.put_track("Spare", 1500, before.geojson);
                return put ? Result<void>() : pass_on(put.error());
            });
    }
    if (name == "undo") {
        facts({1}, "Brandvold");
        facts({2}, "Amari");
        workspace.session()->undo();
    }
}

}  // namespace

int main(int count, char** arguments) {
    if (count != 3) return 2;
    const QTemporaryDir settings;
    qputenv("RENDAK_SETTINGS", settings.filePath(QStringLiteral("settings")).toUtf8());
    QApplication application(count, arguments);
    load_fonts();
    auto library = Library::open(arguments[1]);
    if (!library) {
        std::cerr << library.error().text() << "\n";
        return 1;
    }
    MainWindow window(std::move(*library));
    if (!wait_until_idle(window, 600)) return 1;
    edit(window, arguments[2]);
    if (!wait_until_idle(window, 600)) return 1;
    window.close();
    return 0;
}
