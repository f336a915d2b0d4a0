#include "core/intake/run_date.h"

#include <algorithm>
#include <cmath>
#include <ctime>

#include "core/base/time_zone.h"

namespace rendak {
namespace {

constexpr double day_s = 86400;
constexpr double earliest_s = 1262304000;  // 2010: no logger in use is older

}  // namespace

std::optional<double> day_of_event(const RunRow& run, const std::vector<RunRow>& others) {
    std::vector<double> days;
    for (const RunRow& other : others) {
        if (other.id == run.id || other.event != run.event || !other.start_unix_s || *other.start_unix_s < earliest_s)
            continue;
        // The same session's day counts before the event's.
        const int votes = other.session == run.session ? 10 : 1;
        const double there_s = *other.start_unix_s + zone_offset_s(other.zone, *other.start_unix_s).value_or(0);
        for (int i = 0; i < votes; ++i) days.push_back(std::floor(there_s / day_s));
    }
    if (days.empty()) return std::nullopt;
    std::sort(days.begin(), days.end());
    return days[days.size() / 2] * day_s;
}

double on_day(const RunRow& run, double day) {
    const double ahead_s = zone_offset_s(run.zone, day).value_or(0), there_s = *run.start_unix_s + ahead_s;
    return day + there_s - std::floor(there_s / day_s) * day_s - ahead_s;
}

bool has_doubtful_date(const RunRow& run, const std::vector<RunRow>& others) {
    if (!run.start_unix_s) return false;
    if (*run.start_unix_s < earliest_s || *run.start_unix_s > static_cast<double>(std::time(nullptr)) + 2 * day_s)
        return true;
    const auto day = day_of_event(run, others);
    return day && std::abs(*run.start_unix_s - *day) > 10 * day_s;
}

}  // namespace rendak
