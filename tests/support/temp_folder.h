#pragma once

#include <filesystem>
#include <string>

namespace rendak::test {

/// A folder of its own that goes away with the object.
class TempFolder {
  public:
    TempFolder();
    ~TempFolder();
    TempFolder(const TempFolder&) = delete;
    TempFolder& operator=(const TempFolder&) = delete;
    [[nodiscard]] const std::filesystem::path& path() const { return path_; }
    [[nodiscard]] std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
    /// Writes a file into it and returns its path.
    std::filesystem::path write(const std::string& name, const std::string& text) const;

  private:
    std::filesystem::path path_;
};

[[nodiscard]] std::string read_all(const std::filesystem::path& file);

/// A GPS table of a made-up oval: `laps` times around, `rate_hz` rows a second, in degrees and m/s.
/// The car drives counter-clockwise; the start line lies at its first point, heading north.
struct OvalFile {
    std::string text;
    double lap_s = 0;  ///< exact lap time
    double start_latitude_deg = 0, start_longitude_deg = 0;
};
[[nodiscard]] OvalFile oval_table(int laps, double rate_hz, double speed_mps = 40, double lead_in_s = 6);

}  // namespace rendak::test
