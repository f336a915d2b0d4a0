#pragma once

#include "core/recording/recording.h"

namespace rendak {

/// The car's speed from what is logged: the speed channel (GPS mostly) or the mean of the rear wheels, else of the
/// front ones; whichever is preferred, the other where it is missing. NaN where there is none.
class SpeedSource {
  public:
    enum class Prefer { gps, wheels };
    SpeedSource(const Recording& recording, Prefer prefer);
    [[nodiscard]] bool exists() const { return speed_ != nullptr || (left_ != nullptr && right_ != nullptr); }
    [[nodiscard]] double at(double t_s) const;
    /// First and last moment of what is read first.
    [[nodiscard]] Interval span_s() const;

  private:
    [[nodiscard]] double wheels_at(double t_s) const;
    const Channel* left_;
    const Channel* right_;
    const Channel* speed_;
    Prefer prefer_;
};

}  // namespace rendak
