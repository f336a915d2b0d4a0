#include "core/intake/round_the_lap.h"

#include <algorithm>

#include "core/analysis/set_difference.h"

namespace rendak {

std::vector<RoundTheLap> round_the_lap(const RunData& run, const Stint& stint, const std::vector<std::string>& channels,
                                       const JobContext& job) {
    std::vector<RoundTheLap> out(channels.size());
    if (run.track == nullptr) return out;
    const std::vector<double> none(RoundTheLap::places, 0);
    std::vector<std::vector<double>> sums(channels.size(), none), counts(channels.size(), none);
    std::size_t laps = 0;
    RoundTheLap places;
    places.length_m = run.track->length_m;
    for (std::size_t k = 0; k < stint.laps.size(); ++k) {
        if (!stint.tells(k)) continue;
        if (job.stopped()) return out;
        const auto lap = prepare_lap(run, stint.laps[k]);
        if (!lap) continue;
        ++laps;
        std::vector<double> times_s;
        for (std::size_t p = 0; p < RoundTheLap::places; ++p) times_s.push_back(lap->map.time_at(places.at_m(p)));
        for (std::size_t c = 0; c < channels.size(); ++c) {
            const Channel* channel = run.recording->find(channels[c]);
            if (channel == nullptr) continue;
            for (std::size_t p = 0; p < RoundTheLap::places; ++p) {
                const double value = channel->value_at(times_s[p]);
                if (!std::isfinite(value)) continue;
                sums[c][p] += value;
                counts[c][p] += 1;
            }
        }
    }
    for (std::size_t c = 0; c < channels.size() && laps > 0; ++c) {
        out[c].length_m = places.length_m;
        out[c].laps = laps;
        if (run.recording->find(channels[c]) == nullptr) continue;
        for (std::size_t p = 0; p < RoundTheLap::places; ++p)
            out[c].values.push_back(counts[c][p] > 0 ? sums[c][p] / counts[c][p] : std::nan(""));
    }
    return out;
}

std::optional<SpikeDifference> spike_difference(const RoundTheLap& a, const RoundTheLap& b) {
    if (a.values.empty() || b.values.empty() || a.length_m != b.length_m) return std::nullopt;
    std::vector<double> differences;
    for (std::size_t p = 0; p < RoundTheLap::places; ++p) {
        const double it = b.values[p] - a.values[p];
        if (std::isfinite(it)) differences.push_back(it);
    }
    if (differences.empty()) return std::nullopt;
    const double mean = mean_value(differences);
    std::optional<SpikeDifference> out;
    for (std::size_t p = 0; p < RoundTheLap::places; ++p) {
        const double beyond = b.values[p] - a.values[p] - mean;
        if (std::isfinite(beyond) && (!out || std::abs(beyond) > std::abs(out->beyond_mean)))
            out = SpikeDifference{a.at_m(p), a.values[p], b.values[p], beyond};
    }
    return out;
}

}  // namespace rendak
