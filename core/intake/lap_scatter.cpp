#include "core/intake/lap_scatter.h"

#include <algorithm>
#include <cmath>

#include "core/intake/lap_pool.h"

namespace rendak {
namespace {

std::vector<LapScatter::Of> scatter_sections(const std::shared_ptr<const RunData>& run) {
    constexpr std::size_t least = 4;
    if (run->track == nullptr) return {};
    const LapPool pool = pooled_laps({run}, false);
    const SectionTable table = section_table(pool.timed, sections_of(*run->track));
    std::vector<const SectionTable::Row*> rows;
    for (const SectionTable::Row& row : table.rows) {
        if (row.included) rows.push_back(&row);
    }
    if (rows.size() < least) return {};
    double mean = 0, spread = 0;
    for (const auto* row : rows) mean += row->lap_s / static_cast<double>(rows.size());
    for (const auto* row : rows) spread += (row->lap_s - mean) * (row->lap_s - mean);
    if (!(spread > 0)) return {};
    std::vector<LapScatter::Of> out;
    for (std::size_t s = 0; s < table.sections.size(); ++s) {
        double with = 0;
        for (const auto* row : rows) with += (row->section_s[s] - table.spread[s].mean) * (row->lap_s - mean);
        out.push_back({table.sections[s].name, table.sections[s].range_m, table.spread[s].sd, with / spread});
    }
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.share > b.share; });
    return out;
}

}  // namespace

std::vector<LapScatter> lap_scatter(const std::vector<std::shared_ptr<const RunData>>& runs) {
    std::vector<LapScatter> out;
    for (const auto& run : runs) out.push_back({run->row.id, consistency(run->laps), scatter_sections(run)});
    return out;
}

}  // namespace rendak
