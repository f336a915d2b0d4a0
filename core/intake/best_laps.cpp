#include "core/intake/best_laps.h"

#include <algorithm>
#include <map>
#include <tuple>

namespace rendak {

Result<std::vector<BestLap>> best_laps(const Library& library, const JobContext& job) {
    const auto rows = library.runs();
    if (!rows) return pass_on(rows.error());
    std::map<std::tuple<std::string, std::string, std::string>, BestLap> best;
    for (std::size_t i = 0; i < rows->size(); ++i) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        job.report(static_cast<double>(i) / static_cast<double>(rows->size()));
        const RunRow& row = (*rows)[i];
        if (!row.track) continue;
        const auto laps = library.laps(row.id);
        if (!laps) return pass_on(laps.error());
        for (const Lap& lap : *laps) {
            if (!lap.counts()) continue;
            BestLap& one = best[{row.track_name, row.car, row.driver}];
            if (one.laps++ > 0 && one.time_s <= lap.time_s()) continue;
            const int laps_so_far = one.laps;
            one = {{row.id, lap.number}, row.track_name,   row.car,  row.driver, row.event, row.session, row.name,
                   lap.time_s(),         row.start_unix_s, row.zone, laps_so_far};
        }
    }
    std::vector<BestLap> out;
    for (auto& [key, lap] : best) out.push_back(std::move(lap));
    std::sort(out.begin(), out.end(), [](const BestLap& a, const BestLap& b) {
        return std::tie(a.track, a.time_s) < std::tie(b.track, b.time_s);
    });
    std::map<std::string, int> tracks;
    std::map<std::pair<std::string, std::string>, int> cars;
    for (BestLap& lap : out) {
        lap.best_of_track = tracks[lap.track]++ == 0;
        lap.best_of_car = cars[{lap.track, lap.car}]++ == 0;
    }
    return out;
}

}  // namespace rendak
