#include "core/intake/lap_table.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <charconv>
#include <cmath>
#include <mutex>

#include "core/analysis/watch.h"
#include "core/base/parallel.h"
#include "core/base/text.h"
#include "core/intake/freshness.h"
#include "core/intake/windows.h"
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

/// What becomes of a channel named alone is what its kind proposes, in the first run that has it.
std::vector<LapColumn> with_statistics(std::span<const Run> runs, const std::vector<LapColumn>& wished) {
    std::vector<LapColumn> out;
    for (const LapColumn& column : wished) {
        LapColumn each = column;
        if (column.statistic || column.channel == lap_time_name) {
            if (!column.statistic) each.statistic = LapStatistic::end;
            out.push_back(std::move(each));
            continue;
        }
        const RunData* run = nullptr;
        const Channel* channel = found_in(runs, column.channel, &run);
        std::vector<LapStatistic> proposed{LapStatistic::mean};
        if (channel != nullptr)
            proposed = counts_from_the_line(*run, column.channel) ? std::vector{LapStatistic::end}
                                                                  : proposed_statistics(*channel, laps_of(*run));
        for (const LapStatistic statistic : proposed) {
            each.statistic = statistic;
            out.push_back(each);
        }
    }
    return out;
}

/// A limit in the unit of its channel.
Result<double> limit_of(const RunData& run, const LapColumn& column, const Channel& channel) {
    if (column.statistic == LapStatistic::touches)
        return sheet_constant(run, column.channel + "_least").value_or(touching_m);
    if (column.statistic != LapStatistic::above && column.statistic != LapStatistic::below) return 0;
    const auto unit = parse_compound_unit(column.limit_unit), own = parse_compound_unit(channel.unit);
    const auto wrong = [&](const std::string& why) { return fail(ErrorCode::bad_input, why, column.text()); };
    if (!unit) return wrong(unit.error().message);
    if (column.limit_unit.empty() && own && own->dimension != Dimension{})
        return wrong("Give this limit its unit: " + column.channel + " is kept in " + channel.unit + ".");
    if (own && unit->dimension != own->dimension)
        return wrong(column.channel + " is kept in " + channel.unit + "; " + column.limit_unit +
                     " is a unit of something else.");
    return own ? own->from_si(unit->to_si(column.limit)) : column.limit;
}

bool is_share(const LapColumn& column) {
    return column.statistic == LapStatistic::above || column.statistic == LapStatistic::below;
}

std::string why_missing(const RunData& run, const std::string& name) {
    const std::string why = run.formulas == nullptr ? "" : run.formulas->why_not(name);
    return why.empty() ? "No run has a channel or formula " + name + "." : why;
}

std::vector<const Lap*> shown_laps(const std::vector<Lap>& laps) {
    std::vector<const Lap*> out;
    for (const Lap& lap : laps) {
        if (lap.kind != LapKind::part) out.push_back(&lap);
    }
    return out;
}

/// One column of one run: a figure of each lap that is shown, in order.
struct FiguresOfRun {
    std::string unit, missing;
    std::vector<LapFigure> figures;
};

/// Columns of an opened run, worked out.
Result<std::vector<FiguresOfRun>> figures_of(const RunData& run, const std::vector<LapColumn>& columns,
                                             const JobContext& job) {
    std::vector<FiguresOfRun> out(columns.size());
    std::vector<double> limits(columns.size());
    bool places = false;
    for (std::size_t c = 0; c < columns.size(); ++c) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        if (columns[c].channel == lap_time_name) {
            out[c].unit = "s";
            continue;
        }
        const Channel* channel = run.recording->find(columns[c].channel);
        if (channel == nullptr) {
            out[c].missing = why_missing(run, columns[c].channel);
            continue;
        }
        const auto limit = limit_of(run, columns[c], *channel);
        if (!limit) return pass_on(limit.error());
        limits[c] = *limit;
        out[c].unit = is_share(columns[c]) || columns[c].statistic == LapStatistic::touches ? "" : channel->unit;
        places = places || columns[c].needs_places();
    }
    for (const Lap* lap : shown_laps(run.laps)) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        const auto placed = places && lap->complete() && run.track != nullptr ? prepare_lap(run, lap->number)
                                                                              : prepare_stretch(run, lap->number);
        const auto figures =
            placed ? lap_figures(*placed, columns, limits) : std::vector<LapFigure>(columns.size(), LapFigure{});
        for (std::size_t c = 0; c < columns.size(); ++c) {
            const bool of_time = columns[c].channel == lap_time_name;
            out[c].figures.push_back(of_time ? LapFigure{lap->complete() ? lap->time_s() : std::nan(""), lap->end_s}
                                             : figures[c]);
        }
    }
    return out;
}

/// Puts the runs together, and tells bests, means and what becomes of each figure.
class Assembler {
  public:
    explicit Assembler(const std::vector<LapColumn>& columns) {
        for (const LapColumn& it : columns)
            table_.columns.push_back({it, it.channel == lap_time_name ? "s" : "", better_way(it)});
        had_.resize(columns.size());
    }

    void add(RunId run, const std::vector<Lap>& laps, const std::vector<FiguresOfRun>& figures) {
        runs_.push_back(run);
        for (std::size_t c = 0; c < figures.size(); ++c) {
            LapTable::Column& column = table_.columns[c];
            if (figures[c].missing.empty()) {
                if (!had_[c]) column.unit = figures[c].unit;
                had_[c] = true;
            } else if (column.missing.empty()) {
                column.missing = figures[c].missing;
            }
        }
        std::size_t k = 0;
        for (const Lap* lap : shown_laps(laps)) {
            LapTable::Row row{{run, lap->number}, lap->kind, lap->time_s(), lap->counts()};
            if (!row.counts)
                row.why = lap->doubtful()                ? lap->doubt
                          : !lap->reason.empty()         ? lap->reason
                          : lap->kind == LapKind::flying ? "left out"
                                                         : lap_kind_name(lap->kind);
            for (const FiguresOfRun& it : figures) row.figures.push_back(it.figures[k]);
            table_.rows.push_back(std::move(row));
            ++k;
        }
    }

    LapTable finish() {
        for (std::size_t c = 0; c < had_.size(); ++c) {
            if (had_[c]) table_.columns[c].missing.clear();
        }
        sum_up();
        return std::move(table_);
    }

  private:
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
            for (const RunId run : runs_) {
                std::vector<double> numbers, values;
                for (const LapTable::Row& row : table_.rows) {
                    if (row.ref.run != run || !row.counts) continue;
                    numbers.push_back(row.ref.lap);
                    values.push_back(row.figures[c].value);
                }
                if (const auto line = lap_trend(numbers, values)) table_.trends.push_back({run, c, *line});
            }
        }
    }

    LapTable table_;
    std::vector<RunId> runs_;
    std::vector<char> had_;  ///< of each column: a run has it
};

constexpr const char* figures_prefix = "lap figures: ";

/// What is kept of a column of a run: unit, why it is missing, then value and moment of each lap.
std::string to_text(const FiguresOfRun& it) {
    std::string out = it.unit + '\n' + it.missing + '\n';
    std::array<char, 64> digits{};
    for (const LapFigure& figure : it.figures) {
        for (const double value : {figure.value, figure.at_s}) {
            const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), value).ptr;
            out.append(digits.data(), end);
            out += ' ';
        }
    }
    return out;
}

std::optional<FiguresOfRun> from_text(std::string_view text, std::size_t laps) {
    FiguresOfRun out;
    for (std::string* line : {&out.unit, &out.missing}) {
        const std::size_t end = text.find('\n');
        if (end == std::string_view::npos) return std::nullopt;
        *line = std::string(text.substr(0, end));
        text.remove_prefix(end + 1);
    }
    std::vector<double> numbers;
    while (!text.empty()) {
        double value = 0;
        const auto [end, problem] = std::from_chars(text.data(), text.data() + text.size(), value);
        if (problem != std::errc()) return std::nullopt;
        numbers.push_back(value);
        text.remove_prefix(std::min(static_cast<std::size_t>(end - text.data()) + 1, text.size()));
    }
    if (numbers.size() != 2 * laps) return std::nullopt;
    for (std::size_t k = 0; k < laps; ++k) out.figures.push_back({numbers[2 * k], numbers[2 * k + 1]});
    return out;
}

/// Columns as lap_columns() reads them.
struct ReadySet {
    const char* name;
    const char* title;
    const char* columns;
};
constexpr ReadySet ready[] = {
    {"driver", "Driver activity",
     "lap_time; braking_time end; braking_distance end; braking_share end; throttle_time end; throttle_distance end; "
     "throttle_share end; coasting_time end; coasting_distance end; coasting_share end; cornering_time end; "
     "cornering_distance end; cornering_share end"},
    {"speeds", "Speeds", "lap_time; speed low; speed mean; speed high"},
    {"pedals", "Pedals", "lap_time; throttle mean; brake_front high; brake_rear high; steering low; steering high"},
    {"tyres", "Tyres",
     "lap_time; tyre_temperature_fl mean; tyre_temperature_fr mean; tyre_temperature_rl mean; tyre_temperature_rr "
     "mean; "
     "tyre_pressure_fl mean; tyre_pressure_fr mean; tyre_pressure_rl mean; tyre_pressure_rr mean"},
    {"brakes", "Brakes",
     "lap_time; brake_temperature_fl mean; brake_temperature_fl high; brake_temperature_fr mean; "
     "brake_temperature_fr high; brake_temperature_rl mean; brake_temperature_rl high; brake_temperature_rr mean; "
     "brake_temperature_rr high"},
    {"engine", "Engine",
     "lap_time; engine_speed high; oil_temperature mean; oil_temperature high; water_temperature mean; "
     "water_temperature high; "
     "oil_pressure low; battery_voltage low"},
    {"fuel", "Fuel", "lap_time; fuel end; fuel low"},
    {"worn", "Worn", "lap_time; tyre_worn_fl end; tyre_worn_fr end; tyre_worn_rl end; tyre_worn_rr end"},
    {"floor", "Floor",
     "lap_time; ride_height_front low; ride_height_front touches; ride_height_rear low; ride_height_rear touches"},
};

}  // namespace

Result<LapTable> lap_table(std::span<const Run> runs, const std::vector<LapColumn>& wished, const JobContext& job) {
    const std::vector<LapColumn> columns = with_statistics(runs, wished);
    std::vector<Result<std::vector<FiguresOfRun>>> figures(runs.size());
    std::atomic<std::size_t> finished = 0;
    std::mutex telling;
    parallel_for(runs.size(), 1, [&](std::size_t r) {
        figures[r] = figures_of(*runs[r], columns, job);
        const std::scoped_lock lock(telling);
        job.report(static_cast<double>(++finished) / static_cast<double>(runs.size()));
    });
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    Assembler table(columns);
    for (std::size_t r = 0; r < runs.size(); ++r) {
        if (!figures[r]) return pass_on(figures[r].error());
        table.add(runs[r]->row.id, runs[r]->laps, *figures[r]);
    }
    return table.finish();
}

Result<LapTable> kept_lap_table(Library& library, const std::vector<RunId>& ids, const std::vector<LapColumn>& wished,
                                const JobContext& job) {
    auto fresh = Freshness::of(library);
    if (!fresh) return pass_on(fresh.error());
    struct OfRun {
        RunRow row;
        std::vector<Lap> laps;
        std::vector<std::string> marks;
        std::vector<std::optional<FiguresOfRun>> figures;
        std::vector<std::size_t> open;  ///< columns to be worked out
        std::optional<Error> problem = {};
    };
    std::vector<OfRun> runs;
    // What a channel alone is to become is told by the first recording that has it.
    std::vector<Run> looked_at;
    const auto told = [&](const LapColumn& it) {
        return it.statistic || it.channel == lap_time_name || found_in(looked_at, it.channel) != nullptr;
    };
    for (const RunId id : ids) {
        if (std::all_of(wished.begin(), wished.end(), told)) break;
        auto run = load_run(library, id);
        if (!run) return pass_on(run.error());
        looked_at.push_back(std::move(*run));
    }
    const std::vector<LapColumn> columns = with_statistics(looked_at, wished);
    std::vector<std::size_t> to_open;
    for (const RunId id : ids) {
        auto row = library.run(id);
        if (!row) return pass_on(row.error());
        auto mark = fresh->of_run(library, *row);
        if (!mark) return pass_on(mark.error());
        const auto kept = library.kept_results(id, figures_prefix);
        if (!kept) return pass_on(kept.error());
        OfRun run{std::move(*row), mark->laps(), {}, {}, {}};
        const std::size_t laps = shown_laps(run.laps).size();
        for (std::size_t c = 0; c < columns.size(); ++c) {
            run.marks.push_back(mark->channel(columns[c].channel));
            run.figures.emplace_back();
            const auto found =
                std::lower_bound(kept->begin(), kept->end(), figures_prefix + columns[c].text(),
                                 [](const KeptResult& it, const std::string& what) { return it.what < what; });
            if (found != kept->end() && found->what == figures_prefix + columns[c].text() &&
                found->made_of == run.marks[c])
                run.figures[c] = from_text(found->content, laps);
            if (!run.figures[c]) run.open.push_back(c);
        }
        if (!run.open.empty()) to_open.push_back(runs.size());
        runs.push_back(std::move(run));
    }
    std::atomic<std::size_t> finished = 0;
    std::mutex telling;
    const auto work_out = [&](std::size_t k) {
        OfRun& run = runs[to_open[k]];
        if (job.stopped()) return;
        // A connection is one thread's.
        const auto own = Library::open(library.folder(), Library::Open::existing);
        auto opened = own ? load_run(**own, run.row.id) : pass_on(own.error());
        if (!opened) {
            run.problem = opened.error();
            return;
        }
        std::vector<LapColumn> missing;
        for (const std::size_t c : run.open) missing.push_back(columns[c]);
        auto figures = figures_of(**opened, missing, job);
        if (!figures) {
            run.problem = figures.error();
            return;
        }
        for (std::size_t m = 0; m < run.open.size(); ++m) run.figures[run.open[m]] = std::move((*figures)[m]);
        const std::scoped_lock lock(telling);
        job.report(static_cast<double>(++finished) / static_cast<double>(to_open.size()));
    };
    parallel_for(to_open.size(), 1, work_out, threads_that_read());
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    Library::Act act(library);
    Assembler table(columns);
    for (OfRun& run : runs) {
        if (run.problem) return pass_on(*run.problem);
        std::vector<FiguresOfRun> figures;
        for (auto& it : run.figures) figures.push_back(std::move(*it));
        // A library that cannot be written works them out each time.
        for (const std::size_t c : run.open) {
            if (library.is_look_only()) break;
            (void)library.keep_result(run.row.id,
                                      {figures_prefix + columns[c].text(), run.marks[c], to_text(figures[c])});
        }
        table.add(run.row.id, run.laps, figures);
    }
    (void)act.commit();
    return table.finish();
}

void drop_columns(LapTable& table, const std::vector<std::size_t>& dropped) {
    std::vector<std::size_t> place(table.columns.size(), 0);  // where each goes, behind those that are dropped
    std::vector<char> goes(table.columns.size(), 0);
    for (const std::size_t c : dropped) goes[c] = 1;
    std::size_t left = 0;
    for (std::size_t c = 0; c < table.columns.size(); ++c) {
        if (goes[c] != 0) continue;
        place[c] = left;
        if (left != c) table.columns[left] = std::move(table.columns[c]);
        for (LapTable::Row& row : table.rows) row.figures[left] = row.figures[c];
        ++left;
    }
    table.columns.resize(left);
    for (LapTable::Row& row : table.rows) row.figures.resize(left);
    std::erase_if(table.trends, [&](const LapTable::Trend& it) { return goes[it.column] != 0; });
    for (LapTable::Trend& it : table.trends) it.column = place[it.column];
}

std::vector<ReadySetName> ready_column_sets() {
    std::vector<ReadySetName> out;
    for (const ReadySet& set : ready) out.push_back({set.name, set.title});
    return out;
}

Result<ReadyColumns> ready_columns(const std::string& name, std::span<const Run> runs) {
    std::string known;
    for (const ReadySet& set : ready) {
        known += (known.empty() ? "" : ", ") + std::string(set.name);
        if (name != set.name) continue;
        auto columns = lap_columns(set.columns);
        if (!columns) return pass_on(columns.error());
        ReadyColumns out;
        out.all = *columns;
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
