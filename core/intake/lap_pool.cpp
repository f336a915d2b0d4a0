#include "core/intake/lap_pool.h"

#include <algorithm>

#include "core/base/text.h"

namespace rendak {

LapPool pooled_laps(const std::vector<std::shared_ptr<const RunData>>& runs, bool mixed) {
    LapPool out;
    for (const auto& run : runs) {
        if (run->track == nullptr || (!out.runs.empty() && out.runs.front()->row.track != run->row.track)) continue;
        out.runs.push_back(run);
    }
    for (const auto& run : out.runs) {
        const RunRow& first = out.runs.front()->row;
        const bool same = run->row.driver == first.driver && run->row.car == first.car;
        for (RunLap& it : complete_laps(*run)) {
            const auto lap = std::find_if(run->laps.begin(), run->laps.end(),
                                          [&](const Lap& known) { return known.number == it.lap.ref.lap; });
            it.lap.counts = it.included && (same || mixed);
            if (lap->included && lap->doubtful())
                ++out.doubtful;
            else if (!it.included)
                ++out.left_out;
            else if (!it.lap.counts)
                ++out.of_others;
            out.timed.push_back({it.lap.ref, it.lap.counts, it.lap.map, it.included});
            out.laps.push_back(std::move(it.lap));
        }
    }
    return out;
}

std::string LapPool::not_counted() const {
    std::string out;
    const auto add = [&](std::size_t count, const char* what) {
        if (count == 0) return;
        out += out.empty() ? "Not counted: " + counted(count, "lap", "laps") : ", " + std::to_string(count);
        out += std::string(" ") + what;
    };
    add(left_out, "left out");
    add(doubtful, "doubtful");
    add(of_others, "of other drivers or cars");
    return out.empty() ? out : out + ".";
}

}  // namespace rendak
