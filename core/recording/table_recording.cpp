#include "core/recording/table_recording.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "core/base/mapping_guard.h"
#include "core/base/parallel.h"
#include "core/base/spill.h"
#include "core/base/text.h"
#include "core/recording/channel_units.h"
#include "core/recording/clock_fit.h"
#include "core/recording/fill_values.h"
#include "core/recording/table_places.h"
#include "core/recording/table_times.h"
#include "core/recording/table_units.h"

namespace rendak {
namespace {

using Kind = TableColumn::Kind;

/// Time columns that repeat before their columns: each has a clock of its own.
struct Groups {
    std::vector<std::size_t> time_columns;
};

Groups groups_of(TableRows& rows) {
    Groups out;
    for (std::size_t c = 0; c < rows.columns.size(); ++c) {
        const BodyColumn& column = rows.columns[c];
        if (column.wanted && column.quantity != nullptr && column.quantity->id == "time" &&
            column.head->kind == Kind::number)
            out.time_columns.push_back(c);
    }
    if (out.time_columns.size() < 2 || out.time_columns.front() != 0) return {};
    // A time column with nothing before the next one, or the last of all, is no clock for others.
    for (std::size_t g = 0; g < out.time_columns.size(); ++g) {
        const std::size_t next = g + 1 < out.time_columns.size() ? out.time_columns[g + 1] : rows.columns.size();
        if (next == out.time_columns[g] + 1) return {};
    }
    const BodyColumn& first = rows.columns[0];
    bool another = false;
    for (std::size_t g = 1; g < out.time_columns.size(); ++g) {
        BodyColumn& column = rows.columns[out.time_columns[g]];
        bool same = true, rises = true;
        double last = -1e300;
        std::vector<double> apart;
        for (std::size_t row = 0; row < rows.count; ++row) {
            const double a = first.at(row), b = column.at(row);
            same = same && (a == b || (std::isnan(a) && std::isnan(b)));
            if (std::isnan(b)) continue;
            rises = rises && b > last;
            last = b;
            if (!std::isnan(a)) apart.push_back(b - a);
        }
        if (same) {
            column.wanted = false;  // said twice
            continue;
        }
        if (!rises) return {};
        const auto [low, high] = std::minmax_element(apart.begin(), apart.end());
        // Another count of the same moments, as a receiver's time beside a logger's.
        if (folded(first.head->name) != folded(column.head->name) && apart.size() > 2 &&
            *high - *low < 0.2 * (rows.columns[0].at(1) - rows.columns[0].at(0)))
            continue;
        another = true;
    }
    if (!another) return {};
    std::erase_if(out.time_columns, [&](std::size_t c) { return !rows.columns[c].wanted; });
    return out;
}

/// The rows of one clock and its columns.
TableRows group_of(TableRows& rows, std::size_t from, std::size_t to) {
    TableRows out;
    out.file = rows.file;
    out.options = rows.options;
    out.shape = rows.shape;
    out.shape.columns.clear();
    out.columns = std::vector<BodyColumn>(to - from);
    out.count = rows.count;
    // What was asked already is asked with the first of them.
    out.questions = std::exchange(rows.questions, {});
    for (std::size_t c = from; c < to; ++c) {
        BodyColumn &old = rows.columns[c], &column = out.columns[c - from];
        out.shape.columns.push_back(*old.head);
        column.wanted = old.wanted;
        column.is_double = old.is_double;
        column.quantity = old.quantity;
        column.floats = std::move(old.floats);
        column.doubles = std::move(old.doubles);
        column.in_degrees = old.in_degrees.load();
        column.bad_cells = old.bad_cells.load();
    }
    for (std::size_t c = 0; c < out.columns.size(); ++c) out.columns[c].head = &out.shape.columns[c];
    while (out.count > 0 && std::isnan(out.columns[0].at(out.count - 1))) --out.count;
    return out;
}

class TableRecording {
  public:
    TableRecording(TableRows rows, const JobContext& job) : rows_(std::move(rows)), job_(job) {}

    Result<void> find_times() {
        extents_ = take_out_fill_values(rows_);
        rows_at_first_ = rows_.count;
        for (BodyColumn& column : rows_.columns) {
            if (column.head->thousand_times_open && column.wanted) settle_thousands(rows_, column);
        }
        read_places(rows_);
        rows_.let_go_of_columns();
        auto times = find_row_times(rows_);
        rows_.let_go_of_columns();
        if (!times) return pass_on(times.error());
        times_ = std::move(*times);
        return {};
    }

    /// What the clock showed in the first row, where times count from there.
    [[nodiscard]] std::optional<double> first_row_at_s() const { return times_.first_row_at_s; }

    /// `later_s`: how much later than the recording these rows begin.
    Result<ReadRecording> read(double later_s = 0) {
        for (double& t : times_.times_s) t += later_s;
        if (later_s != 0 && times_.start_unix_s) *times_.start_unix_s -= later_s;
        check_places(rows_, times_.times_s);
        // Before the columns are handed over one by one.
        TableUnits units(rows_, times_.times_s);
        out_.recording.start_unix_s = times_.start_unix_s;
        look_again_at_extents();
        for (std::size_t c = 0; c < rows_.columns.size(); ++c) {
            if (rows_.columns[c].wanted) add_channel(rows_.columns[c], extents_[c], units);
            if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", rows_.file);
        }
        if (!rows_.questions.empty() && !rows_.options.keep_unanswered) {
            Error error{ErrorCode::needs_answer, "", rows_.file, rows_.questions};
            for (const Question& question : rows_.questions)
                error.message += (error.message.empty() ? "" : " ") + question.text;
            error.message += " Nothing was imported.";
            return pass_on(std::move(error));
        }
        for (const Question& question : rows_.questions)
            rows_.say(question.text + " Until that is said it is kept under its own name only.");
        out_.notes = std::move(rows_.notes);
        return std::move(out_);
    }

  private:
    /// After the times and the places were found: only what they changed is looked at again.
    void look_again_at_extents() {
        const bool same_rows = rows_.count == rows_at_first_;
        const auto look = [&](std::size_t c) {
            const BodyColumn& column = rows_.columns[c];
            if (!column.wanted || (same_rows && !column.is_double && !column.head->thousand_times_open)) return;
            extents_[c] = extent_of(column, rows_.count);
            column.let_go();
        };
        parallel_for(extents_.size(), 1, look, rows_.options.threads);
    }

    void add_channel(BodyColumn& column, const Extent& extent, TableUnits& units) {
        if (extent.filled == 0) {
            rows_.say("Column \"" + column.head->name + "\" holds no number at all and was left out.");
            return;
        }
        const auto told = units.unit_of(column, extent);
        const std::string source_unit = told.value_or("");
        UnitPlan plan;
        if (told) plan = plan_units(column.head->name, source_unit, column.quantity, extent.low, extent.high);
        if (!plan.note.empty()) rows_.say(plan.note);
        if (plan.changes_values()) {
            for (std::size_t row = 0; row < rows_.count; ++row)
                column.set(row, column.at(row) * plan.factor + plan.offset);
        }
        store(column, plan.quantity, plan.stored_unit, source_unit, extent.filled);
    }

    /// The clock of the rows, found once for all columns without holes.
    const std::optional<FittedClock>& row_clock() {
        if (!row_clock_) row_clock_ = fit_regular_clock(times_.times_s, times_.tolerance_s);
        return *row_clock_;
    }

    void store(BodyColumn& column, const std::string& quantity, const std::string& unit, const std::string& source_unit,
               std::size_t filled) {
        const std::size_t count = rows_.count;
        std::vector<double> times;
        const std::vector<double>* channel_times = &times_.times_s;
        std::vector<std::size_t> rows;
        const bool has_holes = filled < count;
        if (has_holes) {
            for (std::size_t row = 0; row < count; ++row) {
                if (std::isnan(column.at(row))) continue;
                rows.push_back(row);
                times.push_back(times_.times_s[row]);
            }
            channel_times = &times;
        }
        const auto fill = [&](auto& values) {
            using Number = typename std::decay_t<decltype(values)>::value_type;
            if (const auto clock = has_holes ? fit_regular_clock(*channel_times, times_.tolerance_s) : row_clock()) {
                if (!has_holes && clock->size == count) return std::optional(*clock);
                // Slots that no row fills are missing samples.
                std::decay_t<decltype(values)> slots;
                slots.resize(clock->size);
                std::fill(slots.begin(), slots.end(), std::numeric_limits<Number>::quiet_NaN());
                for (std::size_t i = 0; i < channel_times->size(); ++i) {
                    const std::size_t slot = clock->slot_of((*channel_times)[i]);
                    if (slot < slots.size()) slots[slot] = values[has_holes ? rows[i] : i];
                }
                values = std::move(slots);
                return std::optional(*clock);
            }
            if (has_holes && filled * 2 < count) {
                for (std::size_t i = 0; i < rows.size(); ++i) values[i] = values[rows[i]];
                values.resize(rows.size());
            } else {
                values.resize(count);
                channel_times = &times_.times_s;
            }
            return std::optional<FittedClock>();
        };
        const auto clock = column.is_double ? fill(column.doubles) : fill(column.floats);
        auto storage = std::make_shared<Storage>();
        SampleClock own;
        if (clock) {
            own.start_s = clock->start_s;
            own.rate_hz = clock->rate_hz;
        } else {
            storage->times_s.assign(channel_times->begin(), channel_times->end());
            own.start_s = storage->times_s.front();
            own.times_s = storage->times_s;
        }
        const auto hand_over = [&](auto& from, auto& to) {
            to = std::move(from);
            if (clock && to.size() > clock->size) to.resize(clock->size);
            let_go(to.data(), to.size() * sizeof(to[0]));
            return std::span(std::as_const(to));
        };
        const std::variant<std::span<const float>, std::span<const double>> samples =
            column.is_double ? std::variant<std::span<const float>, std::span<const double>>(
                                   hand_over(column.doubles, storage->doubles))
                             : hand_over(column.floats, storage->floats);
        Channel channel = make_channel(column.head->name, quantity, unit, samples, own, storage);
        channel.source_unit = source_unit;
        out_.recording.channels.push_back(std::move(channel));
    }

    /// What a channel's samples lie in.
    struct Storage {
        SpillBuffer<float> floats;
        SpillBuffer<double> doubles;
        std::vector<double> times_s;
    };

    TableRows rows_;
    std::vector<Extent> extents_;  ///< one a column
    std::size_t rows_at_first_ = 0;
    JobContext job_;
    RowTimes times_;
    std::optional<std::optional<FittedClock>> row_clock_;
    ReadRecording out_;
};

/// How much later than the first of them each of several clocks begins.
std::vector<double> begins_of(const std::vector<TableRecording>& tables, std::vector<std::string>& notes) {
    constexpr double half_a_day_s = 43'200;
    std::vector<double> later(tables.size(), 0);
    double first = std::numeric_limits<double>::infinity(), last = -first;
    std::size_t count = 0;
    for (const TableRecording& table : tables) {
        if (!table.first_row_at_s()) continue;
        ++count;
        first = std::min(first, *table.first_row_at_s());
        last = std::max(last, *table.first_row_at_s());
    }
    if (count == 0) return later;
    if (count < tables.size() || last - first > half_a_day_s) {
        notes.emplace_back(
            "Its clocks count from different beginnings: their first rows are taken for the same moment. Check the "
            "channels against each other.");
        return later;
    }
    for (std::size_t g = 0; g < tables.size(); ++g) later[g] = *tables[g].first_row_at_s() - first;
    return later;
}

}  // namespace

Result<ReadRecording> recording_of(TableRows rows, const std::string& source_name, const JobContext& job) {
    const Groups groups = groups_of(rows);
    const std::string file = rows.file;
    ReadRecording out;
    if (groups.time_columns.size() < 2) {
        TableRecording table(std::move(rows), job);
        if (auto found = table.find_times(); !found) return pass_on(found.error());
        auto read = table.read();
        if (!read) return pass_on(read.error());
        out = std::move(*read);
    } else {
        out.notes = rows.notes;
        out.notes.push_back("The table has " + std::to_string(groups.time_columns.size()) +
                            " time columns; each is the clock of the columns behind it.");
        std::vector<TableRecording> tables;
        for (std::size_t g = 0; g < groups.time_columns.size(); ++g) {
            const std::size_t to =
                g + 1 < groups.time_columns.size() ? groups.time_columns[g + 1] : rows.columns.size();
            tables.emplace_back(group_of(rows, groups.time_columns[g], to), job);
            if (auto found = tables.back().find_times(); !found) return pass_on(found.error());
        }
        const std::vector<double> later = begins_of(tables, out.notes);
        for (std::size_t g = 0; g < tables.size(); ++g) {
            auto read = tables[g].read(later[g]);
            if (!read) return pass_on(read.error());
            for (Channel& channel : read->recording.channels) out.recording.channels.push_back(std::move(channel));
            for (std::string& note : read->notes) {
                if (std::find(out.notes.begin(), out.notes.end(), note) == out.notes.end())
                    out.notes.push_back(std::move(note));
            }
            if (!out.recording.start_unix_s) out.recording.start_unix_s = read->recording.start_unix_s;
        }
    }
    out.recording.source_name = source_name;
    if (out.recording.channels.empty())
        return fail(ErrorCode::bad_input, "No column of the table holds any number beside the time.", file);
    return out;
}

}  // namespace rendak
