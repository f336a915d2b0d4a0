#include "core/analysis/work_list.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/analysis/set_difference.h"
#include "core/base/median.h"

namespace rendak {
namespace {

constexpr double alike_s = 0.02;

std::string signed_seconds(double value) {
    char buffer[32];
    std::snprintf(buffer, sizeof buffer, "%+.2f s", value);
    std::string out = buffer;
    // A minus sign as everywhere else.
    if (out.front() == '-') out = "−" + out.substr(1);
    return out;
}

std::string listed(const Ledger& ledger, const std::vector<std::size_t>& rows) {
    std::string out;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (i > 0) out += i + 1 == rows.size() ? " and " : ", ";
        const LedgerRow& row = ledger.rows[rows[i]];
        out += row.corner == 0 ? "the road from the line" : row.name;
    }
    return out;
}

}  // namespace

std::vector<WorkPlace> work_list(const LapStory& story) {
    std::vector<WorkPlace> out;
    for (const LedgerRow& row : story.ledger.rows) {
        if (row.corner == 0) continue;
        WorkPlace place;
        place.corner = row.corner;
        place.name = row.name;
        place.range_m = row.range_m;
        place.to_reference_s = row.loss_s;
        const std::vector<double>& laps = row.lap_losses_s;
        if (laps.size() > 1) place.to_best_s = row.loss_s - *std::min_element(laps.begin(), laps.end());
        if (laps.size() > 2) place.to_usual_s = row.loss_s - median_of(laps);
        place.sure = row.likely_s && !could_be_chance(row) && row.loss_s > 0;
        place.laps_needed = place.sure ? 0 : row.laps_needed;
        for (const LapFinding& it : story.lost) {
            if (it.corner == row.corner) place.findings.push_back(it);
        }
        if (place.available_s() < alike_s) continue;
        place.of_driver =
            place.findings.empty() || std::any_of(place.findings.begin(), place.findings.end(),
                                                  [](const LapFinding& it) { return is_of_driver(it.kind); });
        out.push_back(std::move(place));
    }
    for (const LapFinding& it : story.lost) {
        if (it.corner != 0) continue;
        WorkPlace place;
        place.name = it.kind == LapFinding::Kind::pulls_less ? "Straights" : "Most corners";
        place.to_reference_s = it.loss_s;
        place.sure = true;
        place.of_driver = is_of_driver(it.kind);
        place.findings.push_back(it);
        out.push_back(std::move(place));
    }
    std::stable_sort(out.begin(), out.end(), [](const WorkPlace& a, const WorkPlace& b) {
        if (a.sure != b.sure) return a.sure;
        if (a.of_driver != b.of_driver) return a.of_driver;
        return a.available_s() > b.available_s();
    });
    return out;
}

LedgerGroups ledger_groups(const Ledger& ledger) {
    LedgerGroups out;
    std::vector<std::size_t> losing;
    double lost = 0;
    for (std::size_t i = 0; i < ledger.rows.size(); ++i) {
        const LedgerRow& row = ledger.rows[i];
        if (std::abs(row.loss_s) < alike_s || could_be_chance(row)) {
            if (row.corner != 0) out.alike.push_back(i);
        } else if (row.loss_s > 0) {
            losing.push_back(i);
            lost += row.loss_s;
        } else {
            out.better.push_back(i);
            out.better_s += row.loss_s;
        }
    }
    const auto larger = [&](std::size_t a, std::size_t b) {
        return std::abs(ledger.rows[a].loss_s) > std::abs(ledger.rows[b].loss_s);
    };
    std::stable_sort(losing.begin(), losing.end(), larger);
    std::stable_sort(out.better.begin(), out.better.end(), larger);
    // The fewest that make up six tenths of what is lost; when that takes half of them, it is spread.
    constexpr double most_share = 0.6;
    std::size_t count = 0;
    double sum = 0;
    while (count < losing.size() && sum < most_share * lost) sum += ledger.rows[losing[count++]].loss_s;
    if (2 * count > losing.size() && losing.size() > 3) count = 0;
    out.most.assign(losing.begin(), losing.begin() + static_cast<std::ptrdiff_t>(count));
    out.some.assign(losing.begin() + static_cast<std::ptrdiff_t>(count), losing.end());
    for (const std::size_t i : out.most) out.most_s += ledger.rows[i].loss_s;
    for (const std::size_t i : out.some) out.some_s += ledger.rows[i].loss_s;
    return out;
}

std::string group_words(const Ledger& ledger) {
    const LedgerGroups groups = ledger_groups(ledger);
    std::vector<std::string> parts;
    if (!groups.most.empty())
        parts.push_back("most of it in " + listed(ledger, groups.most) + " (" + signed_seconds(groups.most_s) + ")");
    if (!groups.some.empty())
        parts.push_back((groups.most.empty() ? "spread over " : "some in ") + listed(ledger, groups.some) + " (" +
                        signed_seconds(groups.some_s) + ")");
    if (groups.alike.size() == 1) parts.push_back("alike in " + ledger.rows[groups.alike.front()].name);
    if (groups.alike.size() > 1) parts.push_back("alike in " + std::to_string(groups.alike.size()) + " corners");
    if (!groups.better.empty())
        parts.push_back("better in " + listed(ledger, groups.better) + " (" + signed_seconds(groups.better_s) + ")");
    std::string out;
    for (const std::string& part : parts) out += (out.empty() ? "" : ", ") + part;
    if (out.empty()) return out;
    out[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(out[0])));
    return out + ".";
}

}  // namespace rendak
