#include "tests/support/demo_world.h"

#include <fstream>
#include <sstream>
#include <stdexcept>

#include "core/intake/place_run.h"
#include "core/intake/shared_track.h"
#include "core/laps/cut.h"
#include "core/laps/slow_error.h"
#include "core/recording/recording_file.h"
#include "core/track/learn.h"
#include "demo/sensors.h"
#include "tests/support/demo_data.h"
#include "tests/support/got.h"

namespace rendak::test {
namespace {

/// Values as they lie in memory: written and read by the same build only.
class Dump {
  public:
    Dump(const std::filesystem::path& file, std::ios::openmode mode) : file_(file, mode | std::ios::binary) {
        file_.exceptions(std::ios::failbit | std::ios::badbit);
    }
    template <class T>
    void put(const T& value) {
        static_assert(std::is_trivially_copyable_v<T>);
        file_.write(reinterpret_cast<const char*>(&value), sizeof value);
    }
    template <class T>
    void put(const std::vector<T>& values) {
        put(values.size());
        for (const T& value : values) put(value);
    }
    template <class T>
    void put(const Column<T>& values) {
        put(std::vector<T>(values.begin(), values.end()));
    }
    template <class T>
    void get(Column<T>& values) {
        get(values.edit());
    }
    template <class T>
    void get(T& value) {
        static_assert(std::is_trivially_copyable_v<T>);
        file_.read(reinterpret_cast<char*>(&value), sizeof value);
    }
    template <class T>
    void get(std::vector<T>& values) {
        std::size_t size = 0;
        get(size);
        values.resize(size);
        file_.read(reinterpret_cast<char*>(values.data()), static_cast<std::streamsize>(size * sizeof(T)));
    }

  private:
    std::fstream file_;
};

void each_member(auto& drive, auto&& visit) {
    visit(drive.along_m);
    visit(drive.left_m);
    visit(drive.position);
    visit(drive.speed_mps);
    visit(drive.along_mps2);
    visit(drive.curvature);
    visit(drive.first_m);
    visit(drive.crossings_s);
    visit(drive.launch_s);
    visit(drive.lock_ups);
}

void each_member_of_path(auto& path, auto&& visit) {
    visit(path.origin);
    visit(path.time_s);
    visit(path.position);
    visit(path.velocity);
    visit(path.distance_m);
    visit(path.bridged);
    visit(path.sd_m);
    visit(path.slow_error_out);
    visit(path.lasting_error);
    visit(path.by_shape);
    visit(path.noise_m);
}

std::string stem(const demo::RunPlan& plan, bool gps_errors) {
    return plan.name + (gps_errors ? "" : ", exact");
}

std::filesystem::path track_file(const std::filesystem::path& folder, bool gps_errors) {
    return folder / (gps_errors ? "track.geojson" : "track, exact.geojson");
}

Result<Track> read_track(const std::filesystem::path& file, const std::string& name) {
    std::ifstream in(file);
    std::stringstream text;
    text << in.rdbuf();
    auto track = track_from_geojson(text.str(), name);
    if (track) complete_track(*track);  // the file rounds
    return track;
}

DemoWorld read(bool gps_errors) {
    const auto folder = demo_worlds();
    DemoWorld world;
    world.circuit = demo::skerrow_point();
    for (const demo::RunPlan& plan : demo::saturday()) {
        DemoRun run;
        run.plan = plan;
        run.recording = got(open_recording(folder / (stem(plan, gps_errors) + ".rdk.h5")));
        Dump dump(folder / (stem(plan, gps_errors) + ".motion"), std::ios::in);
        each_member(run.drive, [&](auto& member) { dump.get(member); });
        Path path;
        each_member_of_path(path, [&](auto& member) { dump.get(member); });
        run.path = std::make_shared<const Path>(std::move(path));
        world.runs.push_back(std::move(run));
    }
    world.track = std::make_shared<const Track>(got(read_track(track_file(folder, gps_errors), world.circuit.name)));
    for (DemoRun& run : world.runs) run.laps = cut_laps(*run.path, *world.track);
    return world;
}

}  // namespace

PreparedLap DemoRun::lap(int number, const std::shared_ptr<const Track>& track) const {
    for (const Lap& lap : laps) {
        if (lap.number == number) {
            return {{{1}, number}, recording, track, path, align_lap(*path, *track, lap.start_s, lap.end_s)};
        }
    }
    throw std::runtime_error("no such lap");
}

const DemoWorld& demo_world(bool gps_errors) {
    if (gps_errors) {
        static const DemoWorld with = read(true);
        return with;
    }
    static const DemoWorld without = read(false);
    return without;
}

void write_demo_worlds(const std::filesystem::path& folder) {
    std::filesystem::create_directories(folder);
    const demo::Circuit circuit = demo::skerrow_point();
    struct Simulated {
        demo::RunPlan plan;
        demo::Drive drive;
        Recording recordings[2];  ///< without and with errors of the receiver
    };
    std::vector<Simulated> runs;
    for (const demo::RunPlan& plan : demo::saturday()) {
        Simulated run{plan, demo::drive_run(circuit, demo::Car{}, plan), {}};
        for (const bool gps_errors : {false, true})
            run.recordings[gps_errors] = demo::main_logger(circuit, demo::Car{}, plan, run.drive, {gps_errors});
        runs.push_back(std::move(run));
    }
    const auto start = start_line_at(circuit.origin, circuit.origin, circuit.heading_deg);
    for (const bool gps_errors : {false, true}) {
        const Recording& second = runs[1].recordings[gps_errors];
        const auto learnt = learn_steady_track(got(path_of(second, circuit.origin)), circuit.name, start,
                                               SpeedSource(second, SpeedSource::Prefer::gps));
        std::ofstream(track_file(folder, gps_errors)) << track_to_geojson(got(learnt));
        const Track track = got(read_track(track_file(folder, gps_errors), circuit.name));
        for (const Simulated& run : runs) {
            const Recording& recording = run.recordings[gps_errors];
            const auto file = folder / (stem(run.plan, gps_errors) + ".rdk.h5");
            if (const auto written = write_recording(recording, file); !written)
                throw std::runtime_error(written.error().text());
            Dump dump(folder / (stem(run.plan, gps_errors) + ".motion"), std::ios::out | std::ios::trunc);
            each_member(run.drive, [&](const auto& member) { dump.put(member); });
            const Path path = got(driven_path(recording, &track));
            each_member_of_path(path, [&](const auto& member) { dump.put(member); });
        }
    }
}

std::size_t beside(const demo::Circuit& circuit, const Track& track, std::size_t point) {
    const Point at = LocalPlane(circuit.origin).to_local(LocalPlane(track.origin).to_geo(track.line[point]));
    std::size_t nearest = 0;
    for (std::size_t k = 0; k < circuit.centre.size(); ++k) {
        if (length(circuit.centre[k] - at) < length(circuit.centre[nearest] - at)) nearest = k;
    }
    return nearest;
}

}  // namespace rendak::test
