// Recordings of ten minutes, three hours and a day: what a question about one lap costs, and what moving the start line
// does. Whole processes, as a person starts them; beside them a plain read of the same file.
//
//   bench_long FOLDER [HOURS ...]      needs 1.3 GB of disk for the day
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <string>
#include <vector>

#include "bench/whole_process.h"
#include "core/recording/recording_file.h"
#include "core/track/geometry.h"
#include "demo/circuit.h"

using namespace rendak;
using bench::cost_of;
using bench::say;

namespace {

namespace fs = std::filesystem;

constexpr double rate_hz = 50, speed_mps = 41;
constexpr int channels = 60;

/// What the shipped watch rules ask for, with a value that leaves them silent but for a dip once in a while.
struct Watched {
    const char* quantity;
    const char* unit;
    double usual, dip;
};
constexpr Watched watched[] = {
    {"engine_speed", "rad/s", 700, 0},         {"oil_pressure", "Pa", 6e5, -4e5},
    {"oil_temperature", "K", 380, 30},         {"water_temperature", "K", 360, 30},
    {"gearbox_temperature", "K", 370, 40},     {"battery_voltage", "V", 13.5, -2},
    {"fuel_pressure", "Pa", 4e5, -2e5},        {"ride_height_front", "m", 0.03, -0.0295},
    {"ride_height_rear", "m", 0.05, -0.0495},  {"tyre_pressure_fl", "Pa", 1.8e5, 0},
    {"tyre_pressure_fr", "Pa", 1.8e5, 0},      {"tyre_pressure_rl", "Pa", 1.8e5, 0},
    {"tyre_pressure_rr", "Pa", 1.8e5, -0.4e5},
};

/// A car that laps the demo's circuit for hours: positions and speed at 10 and 50 Hz, 57 more channels at 50 Hz.
void write_recording_of(double hours, const fs::path& file) {
    const demo::Circuit circuit = demo::skerrow_point();
    const LocalPlane plane(circuit.origin);
    const auto samples = static_cast<std::size_t>(hours * 3600 * rate_hz);
    Recording recording;
    recording.source_name = file.filename().string();
    recording.logger = "bench";
    const auto along = [&](double t) { return speed_mps * t + 25 * std::sin(0.05 * t); };
    ChannelStorage north, east, speed, lateral;
    for (double t = 0; t < hours * 3600; t += 0.1) {
        const GeoPoint place = plane.to_geo(circuit.position(std::fmod(along(t), circuit.length_m), 0.5));
        north.doubles.push_back(place.latitude_deg);
        east.doubles.push_back(place.longitude_deg);
    }
    for (std::size_t i = 0; i < samples; ++i) {
        const double t = static_cast<double>(i) / rate_hz;
        speed.floats.push_back(static_cast<float>(speed_mps + 1.25 * std::cos(0.05 * t)));
        lateral.floats.push_back(static_cast<float>(12 * std::sin(0.3 * t)));
    }
    recording.channels.push_back(make_channel("Latitude", "latitude", "deg", std::move(north), 0, 10));
    recording.channels.push_back(make_channel("Longitude", "longitude", "deg", std::move(east), 0, 10));
    recording.channels.push_back(make_channel("Speed", "speed", "m/s", std::move(speed), 0, rate_hz));
    recording.channels.push_back(
        make_channel("Lateral", "lateral_acceleration", "m/s²", std::move(lateral), 0, rate_hz));
    for (const Watched& it : watched) {
        ChannelStorage one;
        for (std::size_t i = 0; i < samples; ++i) {
            // For ten seconds every two hours.
            const bool dips = std::fmod(static_cast<double>(i) / rate_hz, 7200) > 7190;
            one.floats.push_back(
                static_cast<float>(it.usual * (1 + 1e-4 * static_cast<double>(i % 89)) + (dips ? it.dip : 0)));
        }
        recording.channels.push_back(make_channel(it.quantity, it.quantity, it.unit, std::move(one), 0, rate_hz));
    }
    for (int k = 4 + static_cast<int>(std::size(watched)); k < channels; ++k) {
        ChannelStorage one;
        one.floats.resize(samples);
        for (std::size_t i = 0; i < samples; ++i)
            one.floats[i] =
                static_cast<float>(k) + 0.001F * static_cast<float>((i * static_cast<std::size_t>(k)) % 997);
        recording.channels.push_back(make_channel("Sensor " + std::to_string(k), "", "", std::move(one), 0, rate_hz));
    }
    if (const auto written = write_recording(recording, file); !written) std::puts(written.error().text().c_str());
}

}  // namespace

int main(int count, char** arguments) {
    if (count < 2) return 2;
    const fs::path folder = arguments[1];
    const std::string cli = (fs::path(arguments[0]).parent_path() / "rendak-cli").string();
    std::vector<double> hours;
    for (int i = 2; i < count; ++i) hours.push_back(std::strtod(arguments[i], nullptr));
    if (hours.empty()) hours = {1.0 / 6, 3, 24};
    for (const double length : hours) {
        fs::create_directories(folder);
        const fs::path file = folder / "long.rdk.h5", library = folder / "library";
        fs::remove_all(library);
        write_recording_of(length, file);
        const double mb = static_cast<double>(fs::file_size(file)) / 1e6;
        std::printf("%.2f h, %.0f MB\n", length, mb);
        const auto ask = [&](std::vector<std::string> words) {
            words.insert(words.begin(), {cli, "--library", library.string()});
            return cost_of(words);
        };
        say("plain read of the file (cksum)", cost_of({"/usr/bin/cksum", file.string()}));
        say("nothing (--version)", cost_of({cli, "--version"}));
        say("import", ask({"import", file.string()}));
        say("learn the track", ask({"track", "learn", "--run", "1", "--name", "Ring"}));
        say("gap of two laps", ask({"gap", "--baseline", "1:3", "--lap", "1:4"}));
        say("gap of two laps, again", ask({"gap", "--baseline", "1:3", "--lap", "1:4"}));
        say("where the gap comes from", ask({"where", "--baseline", "1:3", "--lap", "1:4"}));
        say("a formula over one lap",
            ask({"formula", "eval", "--run", "1", "--lap", "3", "--expr", "speed * lateral_acceleration"}));
        say("sections of all laps", ask({"sections", "--runs", "1"}));
        // Eleven of the shipped rules ask for what is in the file, and read its channels from one end to the other.
        const auto asked_mb = static_cast<double>(std::size(watched)) * length * 3600 * rate_hz * 4 / 1e6;
        std::printf("  (the channels of the watch rules: %.0f MB)\n", asked_mb);
        say("plain read of so many bytes",
            cost_of({"/usr/bin/head", "-c", std::to_string(static_cast<long>(asked_mb * 1e6)), file.string()}));
        say("watch rules", ask({"watch", "check", "--all"}));
        say("watch rules, kept", ask({"watch", "check", "--all"}));
        say("moved start line", ask({"track", "start", "--name", "Ring", "--at", "200"}));
        say("gap of two laps, after that", ask({"gap", "--baseline", "1:3", "--lap", "1:4"}));
        if (std::getenv("RENDAK_BENCH_KEEP") != nullptr) continue;
        fs::remove_all(library);
        fs::remove(file);
    }
    return 0;
}
