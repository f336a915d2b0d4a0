#pragma once

#include <cmath>
#include <cstdint>
#include <numbers>
#include <random>

namespace rendak::demo {

/// Normal numbers that are the same on every machine: std::normal_distribution is free to differ.
class Noise {
  public:
    explicit Noise(std::uint64_t seed) : engine_(seed) {}
    /// In (0, 1).
    double uniform() { return (static_cast<double>(engine_() >> 11) + 0.5) * 0x1p-53; }
    double normal() {
        if (has_spare_) {
            has_spare_ = false;
            return spare_;
        }
        const double radius = std::sqrt(-2 * std::log(uniform())), angle = 2 * std::numbers::pi * uniform();
        spare_ = radius * std::sin(angle);
        has_spare_ = true;
        return radius * std::cos(angle);
    }

  private:
    std::mt19937_64 engine_;
    double spare_ = 0;
    bool has_spare_ = false;
};

}  // namespace rendak::demo
