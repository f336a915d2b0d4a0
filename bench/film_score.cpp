// How often the offset of a film and a run is found: random circuits, cars and cameras that nobody tuned it to, with
// noise, shaking, cuts of light, late and early clocks, other rates, recordings of positions alone; and films of
// another run, of which none is right.
//   film_score [films] [seed]
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <iostream>
#include <memory>
#include <random>

#include "core/video/film_offset.h"
#include "demo/camera.h"
#include "demo/sensors.h"
#include "tests/support/exact_laps.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"
#include "tests/support/temp_folder.h"

using namespace rendak;

namespace {

struct Trial {
    double truth_s = 0, frame_s = 0.04;
    OffsetFound found;
};

OffsetFound look(const std::filesystem::path& file, const Recording& recording, bool by_motion, bool by_sound) {
    FilmReader film = test::got(FilmReader::open({file.string()}));
    const Interval all{0, film.facts().duration_s};
    std::optional<FilmMotion> motion;
    std::optional<EngineSound> sound;
    if (by_motion) motion = test::got(film_motion(film, all));
    if (by_sound && film.facts().sound) {
        if (auto made = engine_sound_of(film, all)) sound = std::move(*made);
    }
    return find_offset(drive_signals(recording), motion ? &*motion : nullptr, sound ? &*sound : nullptr);
}

}  // namespace

int main(int count, char** arguments) {
    const int films = count > 1 ? std::atoi(arguments[1]) : 20;
    const unsigned seed = count > 2 ? static_cast<unsigned>(std::atoi(arguments[2])) : 1;
    const test::TempFolder folder;
    const auto file = folder / "film.mp4";
    int right = 0, told = 0, wrong = 0, strangers = 0, strangers_told = 0;
    for (int k = 0; k < films; ++k) {
        std::mt19937 engine(seed * 1000 + static_cast<unsigned>(k));
        const auto pick = [&](double low, double high) {
            return low + (high - low) * static_cast<double>(engine() >> 8) / 16777216.0;
        };
        const bool drawn = k % 3 == 0;
        const std::unique_ptr<const test::MadeWorld> world =
            drawn ? nullptr : std::make_unique<test::MadeWorld>(seed * 77 + static_cast<unsigned>(k), pick(2500, 5000));
        const demo::Circuit& circuit = drawn ? test::drawn_circuit() : world->circuit();
        demo::RunPlan run = test::MadeWorld::plan(3 + static_cast<int>(engine() % 3), engine(), pick(0.3, 1.2));
        const demo::Drive drive = demo::drive_run(circuit, run.car, run);
        Recording recording = demo::main_logger(circuit, run.car, run, drive);
        const bool pocket = k % 5 == 4;
        if (pocket)
            std::erase_if(recording.channels,
                          [](const Channel& it) { return it.quantity == "yaw_rate" || it.quantity == "engine_speed"; });
        demo::CameraPlan plan;
        const int widths[] = {240, 320, 256};
        plan.width = widths[k % 3];
        plan.height = k % 4 == 1 ? plan.width * 3 / 4 : plan.width * 9 / 16 / 2 * 2;
        const double rates[] = {25, 29.97, 50, 24};
        plan.frames_per_s = rates[k % 4];
        plan.shake_px = pick(0, 1.5);
        plan.noise = pick(0, 14);
        plan.turned_off_s = k % 2 != 0 ? pick(0, 3) : 0;
        plan.sound = k % 3 != 1;
        const double end = drive.duration_s(), length = pick(60, 150);
        plan.time_s.begin = pick(5, std::max(6.0, end - length - 5));
        plan.time_s.end = std::min(end - 1, plan.time_s.begin + length);
        plan.seed = engine();
        if (const auto done = demo::film_run(circuit, drive, recording, plan, file); !done) {
            std::cerr << done.error().text() << '\n';
            return 1;
        }
        Recording against = std::move(recording);
        const bool stranger = k % 4 == 3;
        if (stranger) {
            // Another run there.
            demo::RunPlan other = test::MadeWorld::plan(3, engine(), 1.2);
            if (k % 8 == 3) other.grip_use *= 0.93;  // else by the same driver
            against = demo::main_logger(circuit, other.car, other, demo::drive_run(circuit, other.car, other));
        }
        const OffsetFound found = look(file, against, true, true);
        const double off = found.at ? found.at->offset_s - plan.time_s.begin : std::nan("");
        std::cout << k << (stranger ? " stranger" : "") << ": "
                  << (found.at ? std::to_string(off * plan.frames_per_s) + " frames" : "not told") << "  " << found.why
                  << '\n';
        for (const OffsetCue& cue : found.cues)
            std::cout << "     " << cue.name << ' ' << cue.offset_s - plan.time_s.begin << " s, fits " << cue.fits
                      << ", clear " << cue.clear << '\n';
        if (stranger) {
            ++strangers;
            strangers_told += found.at ? 1 : 0;
        } else if (found.at) {
            ++told;
            if (std::abs(off) * plan.frames_per_s <= 2)
                ++right;
            else
                ++wrong;
        } else {
            ++told;
        }
    }
    std::cout << "within 2 frames: " << right << " of " << told << ", wrong: " << wrong
              << ", told of another run's film: " << strangers_told << " of " << strangers << '\n';
    return 0;
}
