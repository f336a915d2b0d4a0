#include "core/trials/chassis_sheet.h"

#include <map>

#include "core/base/text.h"
#include "core/formula/syntax.h"
#include "core/intake/windows.h"
#include "core/units/compound_unit.h"

namespace rendak {

Result<ChassisSheet> chassis_sheet(const Library& library, const RunData& run) {
    std::map<std::string, double> setup;
    if (run.row.setup) {
        const auto sheet = library.setup(run.row.setup);
        if (!sheet) return pass_on(sheet.error());
        for (const SheetValue& line : sheet->values) {
            const auto number = sheet_number(line.value);
            const auto unit = parse_compound_unit(line.unit);
            if (number && unit) setup[formula::plain_name(line.name)] = unit->to_si(*number);
        }
    }
    const auto said = [&](const std::string& name) -> std::optional<double> {
        if (const auto found = setup.find(name); found != setup.end()) return found->second;
        return sheet_constant(run, name);
    };
    const auto either = [&](const std::string& name, const std::string& both) {
        const auto own = said(name);
        return own ? own : said(both);
    };
    ChassisSheet out;
    out.wheelbase_m = said("wheelbase");
    out.track_width_m = said("track_width");
    out.steering_ratio = said("steering_ratio");
    out.motion_ratio_front = either("motion_ratio_front", "motion_ratio");
    out.motion_ratio_rear = either("motion_ratio_rear", "motion_ratio");
    out.height_front_m = said("ride_height_front");
    out.height_rear_m = said("ride_height_rear");
    out.least_front_m = said("ride_height_front_least");
    out.least_rear_m = said("ride_height_rear_least");
    out.spring_front_n_per_m = said("spring_front");
    out.spring_rear_n_per_m = said("spring_rear");
    out.bar_front_n_per_m = said("bar_rate_front");
    out.bar_rear_n_per_m = said("bar_rate_rear");
    return out;
}

PowerInput power_input(const RunData& run) {
    PowerInput out;
    out.mass_kg = sheet_constant(run, "mass");
    if (run.row.air_c && *run.row.air_c > -60) {
        out.air_kg_per_m3 = run.row.pressure_hpa.value_or(1013.25) * 100 / (287.05 * (*run.row.air_c + 273.15));
        out.air_known = true;
    }
    // No wind needs no direction.
    if (run.row.wind_mps && (run.row.wind_from_deg || *run.row.wind_mps == 0))
        out.wind = Wind{*run.row.wind_mps, run.row.wind_from_deg.value_or(0)};
    return out;
}

}  // namespace rendak
