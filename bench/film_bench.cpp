// Films at 1920 × 1080: jumps, two side by side, and a clip beside FFmpeg's own transcoding of the same range.
//   film_bench [seconds of film]
#include <sys/resource.h>

#include <QGuiApplication>
#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <random>

#include "app/film/clip.h"
#include "app/theme/theme.h"
#include "core/video/film_link.h"
#include "demo/camera.h"
#include "demo/sensors.h"
#include "tests/support/exact_laps.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;

namespace {

double since(std::chrono::steady_clock::time_point begin) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

double middle(std::vector<double> values) {
    std::nth_element(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2), values.end());
    return values[values.size() / 2];
}

/// Milliseconds of jumps to frames anywhere.
std::pair<double, double> jumps(FilmReader& film, int width, int height) {
    std::mt19937 engine(4);
    std::vector<double> took;
    for (int k = 0; k < 60; ++k) {
        const auto begin = std::chrono::steady_clock::now();
        (void)test::got(film.picture(engine() % film.facts().frames, width, height));
        took.push_back(1000 * since(begin));
    }
    const double most = *std::max_element(took.begin(), took.end());
    return {middle(took), most};
}

/// Of all processes that are ours, now, MB.
double memory_mb() {
    double sum = 0;
    for (const auto& it : std::filesystem::directory_iterator("/proc")) {
        std::ifstream name(it.path() / "comm"), status(it.path() / "status");
        std::string words;
        std::getline(name, words);
        if (words.rfind("rendak-film", 0) != 0 && words.rfind("film_bench", 0) != 0) continue;
        while (std::getline(status, words))
            if (words.rfind("RssAnon:", 0) == 0 || words.rfind("RssShmem:", 0) == 0)
                sum += std::atof(words.substr(9).c_str()) / 1024;
    }
    return sum;
}

}  // namespace

int main(int count, char** arguments) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QGuiApplication application(count, arguments);
    app::load_fonts();
    const double seconds = count > 1 ? std::atof(arguments[1]) : 20;
    const test::TempFolder folder;
    const auto plan = [] {
        auto out = demo::saturday()[1];
        out.laps.resize(3);
        return out;
    }();
    const demo::Drive drive = demo::drive_run(test::drawn_circuit(), plan.car, plan);
    const Recording recording = demo::main_logger(test::drawn_circuit(), plan.car, plan, drive);
    demo::CameraPlan camera;
    camera.width = 1920;
    camera.height = 1080;
    camera.frames_per_s = 60;
    camera.shake_px = 2;
    camera.noise = 3;
    camera.quality = 24;
    camera.gop = 250;  // as cameras that save space do
    camera.time_s = {drive.crossings_s[0], drive.crossings_s[0] + seconds};
    const auto file = folder / "film.mp4";
    if (const auto done = demo::film_run(test::drawn_circuit(), drive, recording, camera, file); !done) {
        std::cerr << done.error().text() << '\n';
        return 1;
    }
    std::cout << "film: 1920 x 1080 at 60, key frames 250 apart, "
              << static_cast<double>(std::filesystem::file_size(file)) / 1e6 << " MB\n";
    FilmReader film = test::got(FilmReader::open({file.string()}));
    auto begin = std::chrono::steady_clock::now();
    const auto small = folder / "small.avi";
    if (const auto done = film.copy_small(small.string(), 640, 360); !done) return 1;
    const double copying = since(begin);
    std::cout << "small copy: " << static_cast<double>(film.facts().frames) / copying << " frames a second\n";
    FilmReader quick = test::got(FilmReader::open({small.string()}));
    const auto [small_ms, small_most] = jumps(quick, 640, 360);
    const auto [full_ms, full_most] = jumps(film, 1280, 720);
    std::cout << "a jump: small copy " << small_ms << " ms (most " << small_most << "), the film itself " << full_ms
              << " ms (most " << full_most << ")\n";
    // Two of them side by side, frame after frame.
    FilmReader other = test::got(FilmReader::open({file.string()}));
    begin = std::chrono::steady_clock::now();
    const std::size_t frames = std::min<std::size_t>(300, film.facts().frames);
    for (std::size_t k = 0; k < frames; ++k) {
        (void)test::got(film.picture(k, 960, 540));
        (void)test::got(other.picture(k, 960, 540));
    }
    const double both = static_cast<double>(frames) / since(begin);
    std::cout << "two side by side, one after another on one thread: " << both << " pairs a second, " << memory_mb()
              << " MB\n";
    // A clip of all of it, and FFmpeg's own.
    const auto laps = test::exact_laps(test::drawn_circuit(), test::drawn_track(), plan);
    auto run = std::make_shared<RunData>();
    run->recording = laps.front().recording;
    app::ClipWish wish;
    wish.parts.push_back({{file.string()},
                          {camera.time_s.begin, 1},
                          run,
                          laps.front(),
                          0,
                          {camera.time_s.begin, camera.time_s.end - 0.1}});
    wish.file = (folder / "clip.mp4").string();
    begin = std::chrono::steady_clock::now();
    const auto made = app::make_clip(wish, {});
    if (!made) {
        std::cerr << made.error().text() << '\n';
        return 1;
    }
    const double ours = static_cast<double>(made->frames) / since(begin);
    std::cout << "clip: " << ours << " frames a second, " << made->coded_as << ", "
              << static_cast<double>(made->bytes) / 1e6 << " MB, expected "
              << app::expected_clip_bytes({1920, 1080}, 60, made->seconds) / 1e6 << " MB\n";
    const std::string command = "ffmpeg -v error -y -i " + file.string() +
                                " -c:v libx264 -preset veryfast -crf 22 -c:a aac " + (folder / "theirs.mp4").string();
    begin = std::chrono::steady_clock::now();
    if (std::system(command.c_str()) == 0) {
        const double theirs = static_cast<double>(film.facts().frames) / since(begin);
        std::cout << "ffmpeg: " << theirs << " frames a second; the clip with its figures at " << ours / theirs
                  << " of that\n";
    }
    return 0;
}
