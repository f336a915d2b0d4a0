#include "tests/support/temp_folder.h"

#include <cerrno>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <numbers>
#include <sstream>
#include <system_error>

#include "core/track/geometry.h"

namespace rendak::test {

TempFolder::TempFolder() {
    // Never a name made of the process's number: those come round again, and meet what a killed test left behind.
    std::string name = (std::filesystem::temp_directory_path() / "rendak-test-XXXXXX").string();
    if (::mkdtemp(name.data()) == nullptr) throw std::system_error(errno, std::generic_category(), name);
    path_ = name;
}

TempFolder::~TempFolder() {
    std::error_code ignored;
    std::filesystem::permissions(path_, std::filesystem::perms::owner_all, ignored);
    std::filesystem::remove_all(path_, ignored);
}

std::filesystem::path TempFolder::write(const std::string& name, const std::string& text) const {
    std::ofstream(path_ / name, std::ios::binary) << text;
    return path_ / name;
}

std::string read_all(const std::filesystem::path& file) {
    std::ostringstream out;
    out << std::ifstream(file, std::ios::binary).rdbuf();
    return out.str();
}

OvalFile oval_table(int laps, double rate_hz, double speed_mps, double lead_in_s) {
    // Two straights of 500 m joined by half circles of 80 m radius, at an even speed.
    constexpr double straight = 500, radius = 80, pi = std::numbers::pi;
    constexpr double around = 2 * straight + 2 * pi * radius;
    const auto place = [&](double s) {
        s = std::fmod(s, around);
        if (s < 0) s += around;
        if (s < straight / 2) return Point{0, s};
        s -= straight / 2;
        if (s < pi * radius)
            return Point{-radius + radius * std::cos(s / radius), straight / 2 + radius * std::sin(s / radius)};
        s -= pi * radius;
        if (s < straight) return Point{-2 * radius, straight / 2 - s};
        s -= straight;
        if (s < pi * radius)
            return Point{-radius - radius * std::cos(s / radius), -straight / 2 - radius * std::sin(s / radius)};
        return Point{0, -straight / 2 + (s - pi * radius)};
    };
    OvalFile out;
    out.lap_s = around / speed_mps;
    out.start_latitude_deg = 56.8;
    out.start_longitude_deg = 4.1;
    const LocalPlane plane({out.start_latitude_deg, out.start_longitude_deg});
    out.text = "time,latitude,longitude,speed\n";
    const double last = lead_in_s + laps * out.lap_s + lead_in_s;
    for (int i = 0; i / rate_hz <= last; ++i) {
        const double t = i / rate_hz;
        const GeoPoint at = plane.to_geo(place((t - lead_in_s) * speed_mps));
        char line[160];
        std::snprintf(line, sizeof line, "%.3f,%.8f,%.8f,%.3f\n", t, at.latitude_deg, at.longitude_deg, speed_mps);
        out.text += line;
    }
    return out;
}

}  // namespace rendak::test
