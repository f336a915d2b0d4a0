#pragma once

#include <QColor>
#include <optional>

#include "core/laps/trace.h"

namespace rendak::app {

/// How the line as driven is painted by a channel.
struct MapPaint {
    std::string quantity = {};  ///< empty: not painted
    bool bands = false;         ///< steps of one tone instead of a smooth scale
    int band_count = 6;
    std::optional<Interval> limits = {};  ///< SI, by hand; none: from the samples
    double percentile = 2;  ///< share left out at either end, in per cent, when limits come from the samples
    bool operator==(const MapPaint&) const = default;
};

/// The scale in force for a painted lap: limits, whether it is two-sided about zero, colours.
class PaintScale {
  public:
    /// Signed channels (both signs over a tenth of the span) are centred on zero.
    PaintScale(const MapPaint& paint, const Trace& trace);
    [[nodiscard]] Interval limits() const { return limits_; }
    [[nodiscard]] bool two_sided() const { return two_sided_; }
    [[nodiscard]] QColor colour(double value) const;

  private:
    MapPaint paint_;
    Interval limits_{0, 1};
    bool two_sided_ = false;
};

}  // namespace rendak::app
