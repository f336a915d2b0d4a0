#include "core/recording/csv_reader.h"

#include <algorithm>
#include <cmath>

#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/recording/assumed_units.h"
#include "core/recording/channel_units.h"
#include "core/recording/clock_fit.h"
#include "core/recording/table_body.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

/// The rows' times in seconds, with what was said about them.
struct RowTimes {
    std::vector<double> times_s;
    std::optional<double> start_unix_s;
    double tolerance_s = 1e-6;
};

std::string number_text(double value) {
    char buffer[32];
    const int size = std::snprintf(buffer, sizeof buffer, "%.6g", value);
    return {buffer, static_cast<std::size_t>(size)};
}

constexpr std::size_t most_columns = 10'000;

class CsvReader {
  public:
    CsvReader(const std::filesystem::path& file, const CsvOptions& options, const JobContext& job)
        : file_(file.string()), options_(options), job_(job) {}

    Result<ReadRecording> read(const std::filesystem::path& path) {
        auto mapping = MappedFile::open(path);
        if (!mapping) return pass_on(mapping.error());
        const std::string_view text = (*mapping)->text();
        auto shape = find_table_shape(text, file_);
        if (!shape) return pass_on(shape.error());
        shape_ = std::move(*shape);
        say_shape();
        if (auto parsed = parse_body(text); !parsed) return pass_on(parsed.error());
        if (auto times = find_times(); !times) return pass_on(times.error());
        // Before the columns are handed over one by one.
        latitude_ = values_of("latitude");
        longitude_ = values_of("longitude");
        out_.recording.source_name = path.filename().string();
        out_.recording.start_unix_s = times_.start_unix_s;
        for (std::size_t c = 0; c < columns_.size(); ++c) {
            if (columns_[c].wanted && c != time_column_) add_channel(columns_[c]);
            if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file_);
        }
        if ((*mapping)->shrank()) return pass_on(file_changed(path));
        if (out_.recording.channels.empty()) {
            return fail(ErrorCode::bad_input, "No column of the table holds any number beside the time.", file_);
        }
        return std::move(out_);
    }

  private:
    void say(std::string note) { out_.notes.push_back(std::move(note)); }

    void say_shape() {
        const char d = shape_.delimiter;
        const std::string name = d == ',' ? "comma" : d == ';' ? "semicolon" : d == '\t' ? "tab" : "|";
        say("Read as a table separated by " + name + ", decimal " + (shape_.decimal_sign == '.' ? "point" : "comma") +
            ", " + counted(shape_.columns.size(), "column", "columns") +
            (shape_.has_names
                 ? (shape_.has_unit_row ? ", names and units above the numbers." : ", names above the numbers.")
                 : ", without names: columns are numbered."));
    }

    /// Room is made for whole rows before they are read: it must be in the file what they claim.
    Result<void> check_size(std::size_t bytes) const {
        const std::size_t columns = shape_.columns.size();
        if (columns > most_columns)
            return fail(ErrorCode::bad_input,
                        "The table has more than " + std::to_string(most_columns) + " columns. Export fewer channels.",
                        file_);
        // A cell takes a byte at least: its separator.
        if (rows_ > (bytes + 1'000'000) / columns)
            return fail(ErrorCode::bad_input,
                        "Most rows of the table do not have the " + std::to_string(columns) +
                            " values that its first rows have. Is it several tables in one file? Nothing was imported.",
                        file_);
        if (rows_ * columns > memory_for_one_file() / 8)
            return fail(ErrorCode::bad_input,
                        "The table is larger than the memory that is to be had. Export it in parts.", file_);
        return {};
    }

    Result<void> parse_body(std::string_view text) {
        while (text.size() > shape_.data_offset && (text.back() == '\n' || text.back() == '\r' || text.back() == ' ')) {
            text.remove_suffix(1);
        }
        auto blocks = cut_into_blocks(text, shape_.data_offset);
        for_each_block(blocks.size(), options_.threads, job_.part(0, 0.1), [&](std::size_t i) {
            TextBlock& block = blocks[i];
            block.rows =
                static_cast<std::size_t>(std::count(text.begin() + static_cast<std::ptrdiff_t>(block.begin),
                                                    text.begin() + static_cast<std::ptrdiff_t>(block.end), '\n'));
            if (text[block.end - 1] != '\n') ++block.rows;
        });
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file_);
        rows_ = 0;
        for (TextBlock& block : blocks) {
            block.first_row = rows_;
            rows_ += block.rows;
        }
        if (auto fits = check_size(text.size()); !fits) return fits;
        columns_ = std::vector<BodyColumn>(shape_.columns.size());
        for (std::size_t c = 0; c < columns_.size(); ++c) {
            BodyColumn& column = columns_[c];
            column.head = &shape_.columns[c];
            column.wanted = column.head->kind != TableColumn::Kind::text;
            column.quantity = match_quantity(column.head->name, options_.aliases);
            if (options_.mapping) apply_mapping(column, shape_.columns[c]);
            const std::string_view id = column.quantity == nullptr ? "" : column.quantity->id;
            column.is_double =
                column.wanted && (id == "time" || id == "latitude" || id == "longitude" ||
                                  column.head->kind == TableColumn::Kind::time_text || (!shape_.has_names && c == 0));
            if (column.is_double)
                column.doubles.resize(rows_);
            else
                column.floats.resize(rows_);
            if (column.head->kind == TableColumn::Kind::text && !column.head->name.empty() &&
                column.head->name.rfind("Column ", 0) != 0) {
                say("Column \"" + column.head->name + "\" holds text and was left out.");
            }
        }
        const TableBody body(text, shape_, columns_);
        std::vector<BadRow> bad(blocks.size());
        for_each_block(blocks.size(), options_.threads, job_.part(0.1, 0.9),
                       [&](std::size_t i) { body.parse(blocks[i], bad[i]); });
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file_);
        for (const BadRow& row : bad) {
            if (!row.found) continue;
            const std::size_t line = shape_.first_data_line + row.row;
            if (row.row + 1 == rows_ && row.cells < columns_.size()) {
                say("The file ends in the middle of line " + std::to_string(line) + "; that line was left out.");
                --rows_;
                break;
            }
            return fail(ErrorCode::bad_input,
                        "Line " + std::to_string(line) + " has " + counted(row.cells, "value", "values") +
                            ", the table has " + counted(columns_.size(), "column", "columns") +
                            ". Mend or remove that line, or export the file again; nothing was imported.",
                        file_ + ":" + std::to_string(line));
        }
        for (BodyColumn& column : columns_) {
            if (!column.wanted || column.bad_cells == 0) continue;
            say("Column \"" + column.head->name + "\": " + counted(column.bad_cells, "cell is", "cells are") +
                " no number, the first in line " + std::to_string(column.first_bad_line) + "; taken as missing.");
        }
        return {};
    }

    void apply_mapping(BodyColumn& column, TableColumn& head) const {
        const TableMapping::Column* mapped = options_.mapping->find(head.name);
        if (mapped == nullptr) return;
        if (!mapped->use) column.wanted = false;
        if (!mapped->unit.empty()) head.unit = mapped->unit;
        if (mapped->quantity != TableMapping::by_itself) column.quantity = find_quantity(mapped->quantity);
    }

    void choose_time_column() {
        for (std::size_t c = 0; c < columns_.size(); ++c) {
            const BodyColumn& column = columns_[c];
            if (!column.wanted) continue;
            if (column.quantity != nullptr && column.quantity->id == "time") {
                time_column_ = c;
                return;
            }
        }
        for (std::size_t c = 0; c < columns_.size(); ++c) {
            if (columns_[c].wanted && columns_[c].head->kind == TableColumn::Kind::time_text) {
                time_column_ = c;
                return;
            }
        }
        if (!shape_.has_names && columns_[0].wanted && rows_ > 1) {
            for (std::size_t row = 1; row < rows_; ++row) {
                if (!(columns_[0].at(row) > columns_[0].at(row - 1))) return;
            }
            time_column_ = 0;
            say("No names: the first column rises steadily and is taken as the time in seconds.");
        }
    }

    /// Seconds for one unit of the time column.
    double time_factor(const BodyColumn& column) {
        if (column.head->kind == TableColumn::Kind::time_text) return 1;
        if (!column.head->unit.empty()) {
            const auto unit = parse_unit(column.head->unit);
            if (unit && unit->dimension == Dimension{0, 0, 1, 0, 0, 0}) return unit->factor;
            say("The unit \"" + column.head->unit + "\" of the time column is not known; seconds are assumed.");
            return 1;
        }
        if (folded(column.head->name) == "timems") return 1e-3;
        // Whole numbers in steps of several units are milliseconds in every logger's habit.
        double step = 0;
        bool whole = true;
        std::size_t counted_steps = 0;
        for (std::size_t row = 1; row < std::min<std::size_t>(rows_, 500); ++row) {
            const double difference = column.at(row) - column.at(row - 1);
            if (!(difference > 0)) continue;
            whole = whole && column.at(row) == std::floor(column.at(row));
            step += difference;
            ++counted_steps;
        }
        if (counted_steps > 0 && whole && step / static_cast<double>(counted_steps) >= 2) {
            say("The time column names no unit; its whole steps are taken as milliseconds.");
            return 1e-3;
        }
        say("The time column names no unit; seconds are assumed.");
        return 1;
    }

    Result<void> find_times() {
        time_column_ = columns_.size();
        choose_time_column();
        // A rate that was asked for wins: the way out for a time column that is too coarse.
        if (time_column_ == columns_.size() || options_.rate_hz) return times_from_rate();
        BodyColumn& column = columns_[time_column_];
        const double factor = time_factor(column);
        const double quantum = factor * std::pow(10.0, -column.head->decimals);
        times_.tolerance_s = std::max(0.51 * quantum, 1e-6);

        // Keep the rows whose time rises; say which had to go, and give up when they are many.
        std::vector<std::size_t> kept;
        kept.reserve(rows_);
        times_.times_s.reserve(rows_);
        std::size_t without = 0, repeated = 0, backwards = 0, first_bad = 0;
        double days = 0, last = -std::numeric_limits<double>::infinity();
        for (std::size_t row = 0; row < rows_; ++row) {
            double t = column.at(row) * factor + days;
            if (column.head->kind == TableColumn::Kind::time_text && t < last - 43200 && t >= 0 && last < 1e6) {
                days += 86400;  // past midnight
                t += 86400;
            }
            if (t > last) {
                kept.push_back(row);
                times_.times_s.push_back(t);
                last = t;
                continue;
            }
            if (std::isnan(t))
                ++without;
            else if (t == last)
                ++repeated;
            else
                ++backwards;
            if (first_bad == 0) first_bad = shape_.first_data_line + row;
        }
        const std::size_t lost = without + repeated + backwards;
        const std::string where = file_ + ":" + std::to_string(first_bad);
        if (kept.size() < 2 && lost == 0) return too_short();
        if (lost * 10 > rows_ || (backwards * 100 > rows_ && backwards > 3) || kept.size() < 2) {
            return fail(ErrorCode::needs_rate,
                        "The time column \"" + column.head->name +
                            "\" does not rise: " + counted(repeated, "row repeats", "rows repeat") +
                            " the time before, " + counted(backwards, "goes", "go") + " backwards, " +
                            counted(without, "has", "have") + " none (first at line " + std::to_string(first_bad) +
                            "). Export the file with a finer time column, or without it and give the rate "
                            "(--rate HZ); nothing was imported.",
                        where);
        }
        if (lost > 0) {
            say(counted(lost, "row was", "rows were") + " left out because the time does not rise there (" +
                std::to_string(repeated) + " repeated, " + std::to_string(backwards) + " backwards, " +
                std::to_string(without) + " without time; first at line " + std::to_string(first_bad) + ").");
            keep_rows(kept);
        }
        const double first = times_.times_s.front();
        if (first > 1e11)
            return fail(ErrorCode::bad_input, "The times are far beyond any date; is the time unit right?", file_);
        if (first > 1e8) {
            times_.start_unix_s = first;
            say("The time column is a date: the recording starts at 0 s from its first row.");
        }
        if (first > 1e8 || column.head->kind == TableColumn::Kind::time_text) {
            for (double& t : times_.times_s) t -= first;
        }
        return {};
    }

    tl::unexpected<Error> too_short() const {
        return fail(ErrorCode::bad_input,
                    "The table has " + counted(rows_, "row", "rows") +
                        " of numbers; at least two are needed to make a recording.",
                    file_);
    }

    Result<void> times_from_rate() {
        const auto rate = options_.rate_hz ? options_.rate_hz : shape_.rate_hz;
        if (!rate) {
            return fail(ErrorCode::needs_rate,
                        "No time column was found and the file names no sample rate. Give the rate (--rate HZ on the "
                        "command line), or name the column \"time\".",
                        file_);
        }
        if (!(*rate > 0) || !std::isfinite(*rate))
            return fail(ErrorCode::bad_input, "The sample rate must be above 0 Hz.", file_);
        if (rows_ < 2) return too_short();
        for (std::size_t row = 0; row < rows_; ++row) times_.times_s.push_back(static_cast<double>(row) / *rate);
        say("Rows are " + number_text(*rate) + " Hz apart" +
            (options_.rate_hz ? " as asked for." : ", as the head of the file says."));
        return {};
    }

    void keep_rows(const std::vector<std::size_t>& kept) {
        for (BodyColumn& column : columns_) {
            if (!column.wanted) continue;
            for (std::size_t i = 0; i < kept.size(); ++i) column.set(i, column.at(kept[i]));
        }
        rows_ = kept.size();
    }

    [[nodiscard]] std::vector<double> values_of(std::string_view quantity) const {
        for (const BodyColumn& column : columns_) {
            if (!column.wanted || column.quantity == nullptr || column.quantity->id != quantity) continue;
            std::vector<double> values(rows_);
            for (std::size_t row = 0; row < rows_; ++row) values[row] = column.at(row);
            return values;
        }
        return {};
    }

    /// The unit to convert from: the one named, else the likeliest one, which is said.
    std::string unit_of(const BodyColumn& column, double low, double high) {
        if (!column.head->unit.empty() || column.quantity == nullptr) return column.head->unit;
        std::string unit;
        std::string reason = "by the size of its values";
        const bool positions = !latitude_.empty() && !longitude_.empty();
        if (column.quantity->id == "speed" && positions) {
            std::vector<double> speed(rows_);
            for (std::size_t row = 0; row < rows_; ++row) speed[row] = column.at(row);
            unit = speed_unit_from_positions(times_.times_s, latitude_, longitude_, speed);
        }
        if (!unit.empty()) {
            reason = "by the distance between positions";
        }
        if (unit.empty()) unit = assume_unit(*column.quantity, low, high);
        if (!unit.empty() && column.quantity->unit != "deg") {
            say("Column \"" + column.head->name + "\" names no unit: taken as " + unit + " " + reason + ".");
        }
        return unit;
    }

    void add_channel(BodyColumn& column) {
        double low = std::numeric_limits<double>::infinity(), high = -low;
        std::size_t filled = 0;
        const auto look = [&](const auto& values) {
            for (std::size_t row = 0; row < rows_; ++row) {
                const double value = values[row];
                filled += value == value;
                low = value < low ? value : low;
                high = value > high ? value : high;
            }
        };
        column.is_double ? look(column.doubles) : look(column.floats);
        if (filled == 0) {
            say("Column \"" + column.head->name + "\" holds no number at all and was left out.");
            return;
        }
        const std::string source_unit = unit_of(column, low, high);
        const UnitPlan plan = plan_units(column.head->name, source_unit, column.quantity, low, high);
        if (!plan.note.empty()) say(plan.note);
        if (plan.changes_values()) {
            for (std::size_t row = 0; row < rows_; ++row) column.set(row, column.at(row) * plan.factor + plan.offset);
        }
        store(column, plan.quantity, plan.stored_unit, source_unit, filled);
    }

    /// The clock of the rows, found once for all columns without holes.
    const std::optional<FittedClock>& row_clock() {
        if (!row_clock_) row_clock_ = fit_regular_clock(times_.times_s, times_.tolerance_s);
        return *row_clock_;
    }

    void store(BodyColumn& column, const std::string& quantity, const std::string& unit, const std::string& source_unit,
               std::size_t filled) {
        std::vector<double> times;
        const std::vector<double>* channel_times = &times_.times_s;
        std::vector<std::size_t> rows;
        const bool has_holes = filled < rows_;
        if (has_holes) {
            for (std::size_t row = 0; row < rows_; ++row) {
                if (std::isnan(column.at(row))) continue;
                rows.push_back(row);
                times.push_back(times_.times_s[row]);
            }
            channel_times = &times;
        }
        ChannelStorage storage;
        const auto fill = [&](auto& values) {
            using Number = typename std::decay_t<decltype(values)>::value_type;
            if (const auto clock = has_holes ? fit_regular_clock(*channel_times, times_.tolerance_s) : row_clock()) {
                if (!has_holes && clock->size == rows_) return std::optional(*clock);
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
            if (has_holes && filled * 2 < rows_) {
                for (std::size_t i = 0; i < rows.size(); ++i) values[i] = values[rows[i]];
                values.resize(rows.size());
            } else {
                values.resize(rows_);
                channel_times = &times_.times_s;
            }
            return std::optional<FittedClock>();
        };
        const auto clock = column.is_double ? fill(column.doubles) : fill(column.floats);
        if (column.is_double)
            storage.doubles = std::move(column.doubles);
        else
            storage.floats = std::move(column.floats);
        if (!clock)
            storage.times_s.assign(channel_times->begin(), channel_times->end());
        else if (storage.floats.size() > clock->size)
            storage.floats.resize(clock->size);
        else if (storage.doubles.size() > clock->size)
            storage.doubles.resize(clock->size);
        Channel channel = make_channel(column.head->name, quantity, unit, std::move(storage),
                                       clock ? clock->start_s : 0, clock ? clock->rate_hz : 0);
        channel.source_unit = source_unit;
        out_.recording.channels.push_back(std::move(channel));
    }

    std::string file_;
    CsvOptions options_;
    JobContext job_;
    TableShape shape_;
    std::vector<BodyColumn> columns_;
    std::size_t rows_ = 0;
    std::size_t time_column_ = 0;
    RowTimes times_;
    std::optional<std::optional<FittedClock>> row_clock_;
    std::vector<double> latitude_, longitude_;  ///< as they were read; empty where there are none
    ReadRecording out_;
};

}  // namespace

Result<ReadRecording> read_csv(const std::filesystem::path& file, const CsvOptions& options, const JobContext& job) {
    return CsvReader(file, options, job).read(file);
}

}  // namespace rendak
