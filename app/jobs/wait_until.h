#pragma once

#include <functional>

namespace rendak::app {

/// Handles events until a condition holds, asleep while nothing happens: what is waited for has the machine to itself.
/// False where it does not hold after so many seconds. For pictures, commands without a window, and tests; a window
/// never waits.
[[nodiscard]] bool wait_until(const std::function<bool()>& holds, double seconds = 60);

}  // namespace rendak::app
