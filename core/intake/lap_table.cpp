#include "core/intake/lap_table.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <mutex>

#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/units/compound_unit.h"

namespace rendak {
namespace {

using Run = std::shared_ptr<const RunData>;

constexpr const char* lap_time_name = "lap_time";

std::vector<Interval> laps_of(const RunData& run) {
    std::vector<Interval> out;
    for (const Lap& lap : run.laps) {
        if (lap.complete()) out.push_back({lap.start_s, lap.end_s});
    }
    return out;
}

/// Whether a formula counts on from the line: its value at the lap's end is the lap's.
bool counts_from_the_line(const RunData& run, const std::string& name) {
    constexpr std::array<std::string_view, 4> so_far{"time_while", "distance_while", "share_while", "count_rises"};
    const formula::Formula* found = run.formulas == nullptr ? nullptr : run.formulas->inputs().book.find(name);
    if (found == nullptr) return false;
    const auto checked = run.formulas->check(found->text, found->unit, name);
    return checked &&
           std::any_of(checked->functions.begin(), checked->functions.end(), [&](const formula::Function* it) {
               return it != nullptr && std::find(so_far.begin(), so_far.end(), it->name) != so_far.end();
           });
}

const Channel* found_in(std::span<const Run> runs, const std::string& channel, const RunData** in = nullptr) {
    for (const Run& run : runs) {
        const Channel* found = run->recording->find(channel);
        if (found == nullptr) continue;
        if (in != nullptr) *in = run.get();
        return found;
    }
    return nullptr;
}

class Maker {
  public:
    Maker(std::span<const Run> runs, const JobContext& job) : runs_(runs), job_(job) {}

    Result<LapTable> make(const std::vector<LapColumn>& wished) {
        for (const LapColumn& column : wished) {
            if (auto done = add_columns(column); !done) return pass_on(done.error());
        }
        std::vector<std::vector<LapTable::Row>> rows(runs_.size());
        std::atomic<std::size_t> finished = 0;
        std::mutex telling;
        parallel_for(runs_.size(), 1, [&](std::size_t r) {
            if (job_.stopped()) return;
            rows[r] = rows_of(*runs_[r]);
            const std::scoped_lock lock(telling);
            job_.report(static_cast<double>(++finished) / static_cast<double>(runs_.size()));
        });
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        for (auto& of_run : rows)
            table_.rows.insert(table_.rows.end(), std::make_move_iterator(of_run.begin()),
                               std::make_move_iterator(of_run.end()));
        sum_up();
        return std::move(table_);
    }

  private:
    [[nodiscard]] std::string why_missing(const std::string& name) const {
        for (const Run& run : runs_) {
            const std::string why = run->formulas == nullptr ? "" : run->formulas->why_not(name);
            if (!why.empty()) return why;
        }
        return "No run has a channel or formula " + name + ".";
    }

    Result<void> add_columns(const LapColumn& wished) {
        LapTable::Column out{wished, "", better_way(wished)};
        if (wished.channel == lap_time_name) {
            out.column.statistic = LapStatistic::end;
            out.unit = "s";
            push(std::move(out), 0);
            return {};
        }
        const RunData* run = nullptr;
        const Channel* channel = found_in(runs_, wished.channel, &run);
        if (channel == nullptr) {
            if (!out.column.statistic) out.column.statistic = LapStatistic::mean;
            out.missing = why_missing(wished.channel);
            push(std::move(out), 0);
            return {};
        }
        out.unit = channel->unit;
        if (!wished.statistic) {
            const auto proposed = counts_from_the_line(*run, wished.channel)
                                      ? std::vector{LapStatistic::end}
                                      : proposed_statistics(*channel, laps_of(*run));
            for (const LapStatistic statistic : proposed) {
                LapTable::Column each = out;
                each.column.statistic = statistic;
                push(std::move(each), 0);
            }
            return {};
        }
        double limit = wished.limit;
        if (*wished.statistic == LapStatistic::above || *wished.statistic == LapStatistic::below) {
            const auto unit = parse_compound_unit(wished.limit_unit), own = parse_compound_unit(channel->unit);
            const auto wrong = [&](const std::string& why) { return fail(ErrorCode::bad_input, why, wished.text()); };
            if (!unit) return wrong(unit.error().message);
            if (wished.limit_unit.empty() && own && own->dimension != Dimension{})
                return wrong("Give this limit its unit: " + wished.channel + " is kept in " + channel->unit + ".");
            if (own && unit->dimension != own->dimension)
                return wrong(wished.channel + " is kept in " + channel->unit + "; " + wished.limit_unit +
                             " is a unit of something else.");
            limit = own ? own->from_si(unit->to_si(limit)) : limit;
            out.unit = "";
        }
        push(std::move(out), limit);
        return {};
    }

    void push(LapTable::Column column, double limit) {
        table_.columns.push_back(std::move(column));
        limits_.push_back(limit);
    }

    [[nodiscard]] std::vector<LapTable::Row> rows_of(const RunData& run) const {
        const bool places = std::any_of(table_.columns.begin(), table_.columns.end(),
                                        [](const auto& it) { return it.column.needs_places(); });
        std::vector<LapTable::Row> out;
        for (const Lap& lap : run.laps) {
            if (lap.kind == LapKind::part || job_.stopped()) continue;
            LapTable::Row row{{run.row.id, lap.number}, lap.kind, lap.time_s(), lap.counts()};
            if (!row.counts)
                row.why = lap.doubtful()                ? lap.doubt
                          : !lap.reason.empty()         ? lap.reason
                          : lap.kind == LapKind::flying ? "left out"
                                                        : lap_kind_name(lap.kind);
            const auto placed = places && lap.complete() && run.track != nullptr ? prepare_lap(run, lap.number)
                                                                                 : prepare_stretch(run, lap.number);
            for (std::size_t c = 0; c < table_.columns.size(); ++c) {
                const LapTable::Column& it = table_.columns[c];
                if (it.column.channel == lap_time_name)
                    row.figures.push_back({lap.complete() ? lap.time_s() : std::nan(""), lap.end_s});
                else
                    row.figures.push_back(placed ? lap_figure(*placed, it.column, limits_[c]) : LapFigure{});
            }
            out.push_back(std::move(row));
        }
        return out;
    }

    void sum_up() {
        for (std::size_t r = 0; r < table_.rows.size(); ++r) {
            const LapTable::Row& row = table_.rows[r];
            if (row.counts && (!table_.best_lap || row.time_s < table_.rows[*table_.best_lap].time_s))
                table_.best_lap = r;
        }
        for (std::size_t c = 0; c < table_.columns.size(); ++c) {
            LapTable::Column& it = table_.columns[c];
            double sum = 0;
            for (std::size_t r = 0; r < table_.rows.size(); ++r) {
                const double value = table_.rows[r].figures[c].value;
                if (!table_.rows[r].counts || !std::isfinite(value)) continue;
                sum += value;
                ++it.laps;
                const double best = it.best ? table_.rows[*it.best].figures[c].value : value;
                if (it.better != Better::neither &&
                    (!it.best || (it.better == Better::more ? value > best : value < best)))
                    it.best = r;
            }
            if (it.laps > 0) it.mean = sum / static_cast<double>(it.laps);
            for (const Run& run : runs_) {
                std::vector<double> numbers, values;
                for (const LapTable::Row& row : table_.rows) {
                    if (row.ref.run != run->row.id || !row.counts) continue;
                    numbers.push_back(row.ref.lap);
                    values.push_back(row.figures[c].value);
                }
                if (const auto line = lap_trend(numbers, values)) table_.trends.push_back({run->row.id, c, *line});
            }
        }
    }

    std::span<const Run> runs_;
    const JobContext& job_;
    LapTable table_;
    std::vector<double> limits_;  ///< of each column, in its channel's unit
};

/// Columns as lap_columns() reads them.
struct ReadySet {
    const char* name;
    const char* columns;
};
constexpr ReadySet ready[] = {
    {"driver",
     "lap_time; braking_time end; braking_distance end; braking_share end; throttle_time end; throttle_distance end; "
     "throttle_share end; coasting_time end; coasting_distance end; coasting_share end; cornering_time end; "
     "cornering_distance end; cornering_share end"},
    {"speeds", "lap_time; speed low; speed mean; speed high"},
    {"pedals", "lap_time; throttle mean; brake_front high; brake_rear high; steering low; steering high"},
    {"tyres",
     "lap_time; tyre_temperature_fl mean; tyre_temperature_fr mean; tyre_temperature_rl mean; tyre_temperature_rr "
     "mean; "
     "tyre_pressure_fl mean; tyre_pressure_fr mean; tyre_pressure_rl mean; tyre_pressure_rr mean"},
    {"brakes",
     "lap_time; brake_temperature_fl mean; brake_temperature_fl high; brake_temperature_fr mean; "
     "brake_temperature_fr high; brake_temperature_rl mean; brake_temperature_rl high; brake_temperature_rr mean; "
     "brake_temperature_rr high"},
    {"engine",
     "lap_time; engine_speed high; oil_temperature mean; oil_temperature high; water_temperature mean; "
     "water_temperature high; "
     "oil_pressure low; battery_voltage low"},
    {"fuel", "lap_time; fuel end; fuel low"},
};

}  // namespace

Result<LapTable> lap_table(std::span<const Run> runs, const std::vector<LapColumn>& wished, const JobContext& job) {
    return Maker(runs, job).make(wished);
}

Result<ReadyColumns> ready_columns(const std::string& name, std::span<const Run> runs) {
    std::string known;
    for (const ReadySet& set : ready) {
        known += (known.empty() ? "" : ", ") + std::string(set.name);
        if (name != set.name) continue;
        auto columns = lap_columns(set.columns);
        if (!columns) return pass_on(columns.error());
        ReadyColumns out;
        for (LapColumn& column : *columns) {
            const bool had = column.channel == lap_time_name || found_in(runs, column.channel) != nullptr;
            (had ? out.columns : out.missing).push_back(std::move(column));
        }
        return out;
    }
    return fail(ErrorCode::not_found, "There is no set of columns " + name + ". There are: " + known + ".");
}

std::string trend_words(const LapTrend& trend, double per_si, const std::string& unit) {
    if (!trend.sure()) return "";
    const double half = per_si * trend.likely.length() / 2, slope = per_si * trend.per_lap;
    // As fine as its doubt.
    const int decimals = std::clamp(static_cast<int>(std::ceil(-std::log10(std::max(half, 1e-9)))), 0, 6);
    const std::string behind = unit.empty() ? "" : " " + unit;
    return (slope > 0 ? "rises by " : "falls by ") + fixed(std::abs(slope), decimals) + behind + " a lap, ± " +
           fixed(half, decimals) + behind;
}

}  // namespace rendak
