#pragma once

#include <cstdint>
#include <filesystem>
#include <span>
#include <vector>

#include "core/base/interval.h"
#include "core/base/job.h"
#include "core/base/result.h"
#include "core/recording/recording.h"
#include "demo/drive.h"

namespace rendak::demo {

/// A camera in the car, and what it films of a run.
struct CameraPlan {
    enum class View { forward, driver };
    View view = View::forward;
    int width = 480, height = 270;
    double frames_per_s = 25;
    Interval time_s;          ///< of the recording
    double shake_px = 0.6;    ///< standard deviation, as the car shakes it
    double noise = 0;         ///< of the pixels, 0 … 255
    double turned_off_s = 0;  ///< so long in the middle it films black, as under a bridge
    bool sound = true;
    double clock_rate = 1;  ///< its seconds are as long as so many of the recording's
    std::uint64_t seed = 1;
    std::string start = {};  ///< what it says of the date, "2026-04-18T09:00:00Z"
    int quality = 30, gop = 0;
    std::string codec = {};
};

/// Draws what a camera sees: the road in perspective with its edges, kerbs and marks, posts beside it and hills far
/// away; or the driver's hands on the wheel and the pedals.
class Camera {
  public:
    Camera(const Circuit& circuit, const Drive& drive, const Recording& recording, CameraPlan plan);
    /// Blue, green, red, nothing, at a moment of the recording.
    void draw(double time_s, std::span<std::uint8_t> out);

  private:
    void forward(double time_s);
    void driver(double time_s);
    void finish(double time_s);

    const Circuit& circuit_;
    const Drive& drive_;
    const Recording& recording_;
    CameraPlan plan_;
    std::span<std::uint8_t> out_;
    std::uint64_t noise_state_;
};

/// The engine and the wind, mono.
[[nodiscard]] std::vector<float> cockpit_sound(const Recording& recording, Interval time_s, double clock_rate,
                                               int rate_hz, std::uint64_t seed);

/// Films a run. Its first frame is at `plan.time_s.begin` of the recording.
[[nodiscard]] Result<void> film_run(const Circuit& circuit, const Drive& drive, const Recording& recording,
                                    const CameraPlan& plan, const std::filesystem::path& file,
                                    const JobContext& job = {});

}  // namespace rendak::demo
