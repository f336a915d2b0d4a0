#pragma once

#include <span>
#include <vector>

#include "core/analysis/corner_figure.h"

namespace rendak {

/// What the driver does inside one section: the section's own seconds and metres, not running totals. NaN where nothing
/// tells of pedals.
struct SectionActivity {
    double brake_s = 0, brake_m = 0;
    double throttle_s = 0, throttle_m = 0;  ///< any throttle
    double full_s = 0, full_m = 0;          ///< full throttle
    double coasting_s = 0, coasting_m = 0;  ///< none of brake, throttle and cornering
    double neither_s = 0, neither_m = 0;    ///< on neither pedal, cornering or not
};
/// By 20 ms; of each section.
[[nodiscard]] std::vector<SectionActivity> section_activity(const PreparedLap& lap, std::span<const Interval> ranges_m);

/// One of its figures, as tables show it.
struct ActivityFigure {
    const char* id;
    const char* label;  ///< to be translated
    const char* unit;   ///< "s" or "m"
    Better better;
    double SectionActivity::*value;
};
[[nodiscard]] std::span<const ActivityFigure> all_activity_figures();

}  // namespace rendak
