#include "core/intake/windows.h"

#include <algorithm>
#include <cmath>

#include "core/formula/syntax.h"
#include "core/intake/lap_table.h"
#include "core/intake/wheels.h"

namespace rendak {
namespace {

const formula::Constants* sheet_of(const RunData& run) {
    return run.formulas == nullptr ? nullptr : &run.formulas->inputs().constants;
}

/// What the car sheet calls the window of a channel; empty: it has none.
std::string window_name(const std::string& channel) {
    for (const WheelKind& kind : wheel_kinds()) {
        for (std::size_t w = 0; w < wheel_ids.size(); ++w) {
            if (channel == kind.channel(w)) return kind.window;
        }
    }
    return channel == "oil_temperature" || channel == "water_temperature" ? channel : "";
}

}  // namespace

std::optional<double> sheet_constant(const RunData& run, const std::string& name) {
    const formula::Constants* sheet = sheet_of(run);
    if (sheet == nullptr) return std::nullopt;
    const auto found = sheet->values.find(name);
    return found == sheet->values.end() ? std::nullopt : std::optional(found->second.value);
}

Window window_of(const RunData& run, const std::string& channel) {
    const std::string name = window_name(channel), set = formula::plain_name(run.row.tyre_set);
    if (name.empty()) return {};
    const auto limit = [&](const std::string& side) {
        const auto own = set.empty() ? std::nullopt : sheet_constant(run, name + side + "_" + set);
        return own ? own : sheet_constant(run, name + side);
    };
    return {limit("_low"), limit("_high")};
}

Result<Windows> windows_of(const std::shared_ptr<const RunData>& run, const JobContext& job) {
    Windows out;
    if (const formula::Constants* sheet = sheet_of(*run)) {
        out.sheet = sheet->sheet;
        out.stale = sheet->stale;
    }
    std::vector<std::string> channels;
    for (const WheelKind& kind : wheel_kinds()) {
        if (*kind.window == 0) continue;
        for (std::size_t w = 0; w < wheel_ids.size(); ++w) channels.push_back(kind.channel(w));
    }
    channels.insert(channels.end(), {"oil_temperature", "water_temperature"});
    // Of each share the places of its two columns; none where the window is open on that side.
    struct Sides {
        std::optional<std::size_t> below, above;
    };
    std::vector<Sides> sides;
    std::vector<LapColumn> columns;
    for (const std::string& channel : channels) {
        const Channel* logged = run->recording->find(channel);
        if (logged == nullptr) continue;
        WindowShare share{channel, window_of(*run, channel)};
        if (!share.window.known()) {
            out.unknown.push_back(channel);
            continue;
        }
        const auto column_of = [&](LapStatistic side, double at) {
            columns.push_back({channel, side, at, logged->unit});
            return columns.size() - 1;
        };
        Sides of;
        if (share.window.low) of.below = column_of(LapStatistic::below, *share.window.low);
        if (share.window.high) of.above = column_of(LapStatistic::above, *share.window.high);
        sides.push_back(of);
        out.shares.push_back(std::move(share));
    }
    const auto table = lap_table(std::span(&run, 1), columns, job);
    if (!table) return pass_on(table.error());
    for (std::size_t k = 0; k < out.shares.size(); ++k) {
        const auto share_of = [&](const LapTable::Row& row, const std::optional<std::size_t>& column) {
            return column ? row.figures[*column].value : 0;
        };
        WindowShare& share = out.shares[k];
        double time = 0;
        for (const LapTable::Row& row : table->rows) {
            const double below = share_of(row, sides[k].below), above = share_of(row, sides[k].above);
            if (!row.counts || !std::isfinite(below + above)) continue;
            share.below += row.time_s * below;
            share.above += row.time_s * above;
            time += row.time_s;
            ++share.laps;
        }
        if (!(time > 0)) continue;
        share.below /= time;
        share.above /= time;
        share.inside = 1 - share.below - share.above;
    }
    std::erase_if(out.shares, [](const WindowShare& it) { return it.laps == 0; });
    return out;
}

}  // namespace rendak
