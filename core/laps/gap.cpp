#include "core/laps/gap.h"

#include <algorithm>

namespace rendak {
namespace {

/// Reads a lap map at rising distances in one pass.
class Reader {
  public:
    explicit Reader(const LapMap& map) : map_(map) {}
    double elapsed_at(double distance) {
        const auto& s = map_.distance_m;
        while (at_ + 2 < s.size() && s[at_ + 1] <= distance) ++at_;
        const double width = s[at_ + 1] - s[at_];
        const double share = width > 0 ? std::clamp((distance - s[at_]) / width, 0.0, 1.0) : 0;
        return map_.time_s[at_] + share * (map_.time_s[at_ + 1] - map_.time_s[at_]) - map_.start_s();
    }

  private:
    const LapMap& map_;
    std::size_t at_ = 0;
};

}  // namespace

double GapCurve::at(double distance) const {
    const auto after = std::upper_bound(distance_m.begin(), distance_m.end(), distance);
    if (after == distance_m.begin()) return gap_s.front();
    if (after == distance_m.end()) return gap_s.back();
    const auto i = static_cast<std::size_t>(after - distance_m.begin());
    const double share = (distance - distance_m[i - 1]) / (distance_m[i] - distance_m[i - 1]);
    return gap_s[i - 1] + share * (gap_s[i] - gap_s[i - 1]);
}

GapCurve gap_between(const LapMap& baseline, const LapMap& lap, double step_m) {
    GapCurve curve;
    const double end = baseline.length_m();
    Reader a(baseline), b(lap);
    const auto count = static_cast<std::size_t>(end / step_m);
    curve.distance_m.reserve(count + 2);
    curve.gap_s.reserve(count + 2);
    for (std::size_t i = 0; i <= count; ++i) {
        const double s = static_cast<double>(i) * step_m;
        if (s >= end - 1e-6) break;
        curve.distance_m.push_back(s);
        curve.gap_s.push_back(b.elapsed_at(s) - a.elapsed_at(s));
    }
    curve.gap_s.front() = 0;
    curve.distance_m.push_back(end);
    curve.gap_s.push_back((lap.end_s() - lap.start_s()) - (baseline.end_s() - baseline.start_s()));
    return curve;
}

}  // namespace rendak
