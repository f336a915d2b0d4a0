#pragma once

#include <algorithm>

namespace rendak {

/// Half-open stretch [begin, end) of metres or seconds.
struct Interval {
    double begin = 0;
    double end = 0;

    [[nodiscard]] double length() const { return end - begin; }
    [[nodiscard]] bool empty() const { return !(end > begin); }
    [[nodiscard]] bool contains(double x) const { return x >= begin && x < end; }
    [[nodiscard]] double clamp(double x) const { return std::clamp(x, begin, std::max(begin, end)); }
    bool operator==(const Interval&) const = default;
};

/// The interval of the same length (or shorter) that lies inside `limits`.
[[nodiscard]] inline Interval moved_inside(Interval x, Interval limits) {
    if (x.length() >= limits.length()) return limits;
    const double shift =
        x.begin < limits.begin ? limits.begin - x.begin : (x.end > limits.end ? limits.end - x.end : 0);
    return {x.begin + shift, x.end + shift};
}

}  // namespace rendak
