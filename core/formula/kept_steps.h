#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <mutex>
#include <vector>

#include "core/formula/over_time.h"

namespace rendak::formula {

/// What passes between the samples of a clock over the laps, in seconds and in metres, kept for the next formula of a
/// run that sums it up: a dozen of them ask for the same. The latest of each. Thread-safe.
class KeptSteps {
  public:
    enum class Of : std::uint8_t { time, distance };
    using Steps = std::shared_ptr<const std::vector<double>>;

    /// As found before, else computed and kept. Those of a whole day are too large to keep, and an uneven clock's are
    /// not kept either.
    [[nodiscard]] Steps of(Of what, const SampleClock& clock, const std::vector<Stretch>& laps,
                           const std::function<std::vector<double>()>& compute);

  private:
    struct Kept {
        SampleClock clock;
        std::vector<Stretch> laps;
        Steps steps;
    };
    std::mutex mutex_;
    std::array<Kept, 2> kept_;
};

/// The same where there may be nothing that keeps them.
[[nodiscard]] KeptSteps::Steps kept_steps(KeptSteps* keeper, KeptSteps::Of what, const SampleClock& clock,
                                          const std::vector<Stretch>& laps,
                                          const std::function<std::vector<double>()>& compute);

}  // namespace rendak::formula
