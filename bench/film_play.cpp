// Two 1080p60 films side by side in the real window, played as they were driven: how many of their frames are seen, and
// how long the window does nothing else.
//   film_play LIBRARY FILM [seconds]      LIBRARY: of the demo; it is copied. FILM: any of 1080p60, half a minute long
#include <QApplication>
#include <QElapsedTimer>
#include <QTimer>
#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <set>

#include "app/desks/video/video_desk.h"
#include "app/film/add_films.h"
#include "app/jobs/wait_until.h"
#include "app/shell/main_window.h"
#include "app/shell/screenshots.h"
#include "app/theme/theme.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;

int main(int count, char** arguments) {
    if (count < 3) {
        std::cerr << "film_play LIBRARY FILM [seconds]\n";
        return 2;
    }
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(count, arguments);
    app::load_fonts();
    const double seconds = count > 3 ? std::atof(arguments[3]) : 10;
    const test::TempFolder folder;
    const auto copy = folder / "library";
    std::filesystem::copy(arguments[1], copy, std::filesystem::copy_options::recursive);
    {
        auto library = test::got(Library::open(copy));
        for (const KeptFilm& it : test::got(kept_films(*library))) (void)drop_film(*library, it.id);
        for (const std::int64_t run : {2, 3}) {
            // The same film twice is one film: another byte behind its end makes another one.
            const auto file = folder / ("film" + std::to_string(run) + ".mp4");
            std::filesystem::copy_file(arguments[2], file);
            std::ofstream(file, std::ios::app) << run;
            AddFilm how;
            how.camera = "forward";
            const auto added = test::got(app::file_films(copy, {{file}}, how, {}));
            if (added.films.empty()) {
                std::cerr << "The film could not be added.\n";
                return 1;
            }
            double start_s = 0, best_s = 1e9;
            for (const Lap& lap : test::got(library->laps({run})))
                if (lap.counts() && lap.end_s - lap.start_s < best_s) {
                    best_s = lap.end_s - lap.start_s;
                    start_s = lap.start_s;
                }
            if (!place_film(*library, added.films.front().id, {{run}, {start_s - 1, 1}, "by hand", {}})) return 1;
        }
    }
    app::MainWindow window(test::got(Library::open(copy)));
    window.resize(1280, 800);
    window.show();
    (void)app::wait_until_idle(window, 60);
    for (const std::int64_t run : {2, 3}) window.workspace().pick_best({run});
    window.show_desk(QStringLiteral("video"));
    (void)app::wait_until_idle(window, 60);
    auto& desk = window.desk_of<app::VideoDesk>();
    (void)app::wait_until([&] { return desk.up_to_date(); }, 20);
    const auto tiles = desk.shown_tiles();
    std::vector<std::set<std::size_t>> wanted(tiles.size()), seen(tiles.size());
    const auto look = [&] {
        for (std::size_t k = 0; k < tiles.size(); ++k) {
            if (const auto frame = tiles[k]->wanted_frame()) wanted[k].insert(*frame);
            if (const auto frame = tiles[k]->film()->source->shown()) seen[k].insert(*frame);
        }
    };
    for (app::FilmTile* tile : tiles)
        QObject::connect(tile->film()->source.get(), &app::FilmSource::changed, &window, look);
    std::vector<double> gaps_ms;
    QElapsedTimer beat, all;
    QTimer timer;
    timer.setTimerType(Qt::PreciseTimer);
    timer.setInterval(1);
    beat.start();
    QObject::connect(&timer, &QTimer::timeout, &window, [&] {
        gaps_ms.push_back(static_cast<double>(beat.nsecsElapsed()) * 1e-6);
        beat.restart();
        look();
    });
    desk.replay().start();
    timer.start();
    all.start();
    while (static_cast<double>(all.elapsed()) < 1000 * seconds)
        QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    desk.replay().stop();
    std::sort(gaps_ms.begin(), gaps_ms.end());
    for (std::size_t k = 0; k < tiles.size(); ++k)
        std::cout << "film " << k + 1 << ": " << seen[k].size() << " of " << wanted[k].size()
                  << " frames that were to be seen, " << static_cast<double>(seen[k].size()) / seconds << " a second\n";
    std::cout << "the window is busy at once for: middle " << gaps_ms[gaps_ms.size() / 2] << " ms, 99 of 100 below "
              << gaps_ms[gaps_ms.size() * 99 / 100] << " ms, most " << gaps_ms.back() << " ms\n";
    return 0;
}
