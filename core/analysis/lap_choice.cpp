#include "core/analysis/lap_choice.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"

namespace rendak {

double t_95(double n) {
    // Expansion of the t quantile around the normal one (Abramowitz & Stegun 1964, 26.7.5); the first ones are exact.
    constexpr double exact[] = {12.706, 4.303, 3.182, 2.776, 2.571};
    if (n < 1) return exact[0];
    if (n <= 5 && n == std::floor(n)) return exact[static_cast<int>(n) - 1];
    constexpr double x = 1.959963985;
    const double x3 = x * x * x, x5 = x3 * x * x, x7 = x5 * x * x;
    return x + (x3 + x) / (4 * n) + (5 * x5 + 16 * x3 + 3 * x) / (96 * n * n) +
           (3 * x7 + 19 * x5 + 17 * x3 - 15 * x) / (384 * n * n * n);
}

Consistency consistency(std::span<const Lap> laps) {
    Consistency out;
    std::vector<double> times;
    for (const Lap& lap : laps) {
        if (lap.kind != LapKind::flying || !lap.included) continue;
        if (lap.doubtful()) {
            ++out.doubtful;
            continue;
        }
        times.push_back(lap.time_s());
    }
    out.laps = spread_of(times);
    const std::size_t n = times.size();
    if (n < 3) {
        out.verdict = n == 0 ? "No flying lap counts." : "Too few laps to say how alike they are.";
        return out;
    }
    std::sort(times.begin(), times.end());
    out.within_s = 0.5 * (times[n * 3 / 4] - times[n / 4]);
    const auto count = static_cast<double>(n);
    out.visible_s = t_95(2 * count - 2) * out.laps.sd * std::sqrt(2 / count);
    out.verdict = counted(n, "lap scatters", "laps scatter") + " by " + fixed(out.laps.sd, 2) +
                  " s. Against as many laps alike, a change must be worth " + fixed(*out.visible_s, 2) +
                  " s to be seen.";
    if (out.doubtful > 0) out.verdict += " (" + counted(out.doubtful, "doubtful lap", "doubtful laps") + " left out.)";
    return out;
}

std::string effect_verdict(const Consistency& laps, double effect_s) {
    if (!laps.visible_s) return laps.verdict;
    const double size = std::abs(effect_s);
    if (size >= *laps.visible_s)
        return "Yes: an effect of " + fixed(size, 2) + " s would be seen with " +
               counted(laps.laps.count, "lap", "laps") + " each.";
    const double need = size > 0 ? 2 * std::pow(2.1 * laps.laps.sd / size, 2) : 1e9;
    return "No: " + fixed(size, 2) + " s drowns in the scatter" +
           (need < 100 ? "; about " + fixed(std::ceil(need), 0) + " laps each would be needed." : ".");
}

std::vector<std::size_t> near_best(std::span<const Lap> laps, double margin_s) {
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < laps.size(); ++i) {
        if (laps[i].counts()) out.push_back(i);
    }
    std::sort(out.begin(), out.end(), [&](auto a, auto b) { return laps[a].time_s() < laps[b].time_s(); });
    if (out.empty()) return out;
    const double most = laps[out.front()].time_s() + margin_s;
    std::erase_if(out, [&](std::size_t i) { return laps[i].time_s() > most; });
    return out;
}

std::optional<LapRef> fair_lap(const Candidate& lap, std::span<const Candidate> candidates) {
    constexpr double most_share = 0.05;
    const Candidate* best = nullptr;
    const double own = lap.lap.time_s();
    const auto away = [own](const Candidate& it) { return std::abs(it.lap.time_s() - own); };
    for (const Candidate& it : candidates) {
        if (it.ref == lap.ref || !it.lap.counts()) continue;
        if (away(it) > most_share * own) continue;
        const bool nearer = best == nullptr || away(it) < away(*best) - 1e-9 ||
                            (std::abs(away(it) - away(*best)) <= 1e-9 && it.lap.time_s() < best->lap.time_s());
        if (nearer) best = &it;
    }
    return best == nullptr ? std::nullopt : std::optional(best->ref);
}

}  // namespace rendak
