#pragma once

#include <mutex>

namespace rendak {

/// FFTW's planner is not safe across threads: whoever makes or gives back a plan holds this.
[[nodiscard]] inline std::mutex& fftw_planning() {
    static std::mutex mutex;
    return mutex;
}

}  // namespace rendak
