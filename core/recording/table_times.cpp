#include "core/recording/table_times.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/recording/motion.h"
#include "core/recording/row_order.h"
#include "core/recording/time_scale.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

using Kind = TableColumn::Kind;
constexpr double day_s = 86400;
constexpr double spreadsheet_epoch_days = 25569;  ///< days from the spreadsheets' day 0 to 1970
constexpr double gps_epoch_s = 315964800 - 18;    ///< GPS time runs ahead of UTC by 18 leap seconds since 2017
constexpr double fastest_hz = 1e6;

std::string number_text(double value) {
    char buffer[32];
    const int size = std::snprintf(buffer, sizeof buffer, "%.6g", value);
    return {buffer, static_cast<std::size_t>(size)};
}

bool all_whole(const std::vector<double>& values) {
    return std::all_of(values.begin(), values.end(), [](double x) { return std::isnan(x) || x == std::floor(x); });
}

/// hhmmss as one number, "134731.25": nullopt when the column is no such thing.
std::optional<std::vector<double>> clock_numbers(const std::vector<double>& values, double per_second) {
    std::vector<double> out(values.size(), std::nan(""));
    bool rolls = false;
    double last = std::nan("");
    std::size_t before = 0;
    const double step = median_step(values) / per_second;
    for (std::size_t i = 0; i < values.size(); ++i) {
        const double value = values[i] / per_second;
        if (std::isnan(value)) continue;
        const double hours = std::floor(value / 10000), minutes = std::floor(value / 100) - hours * 100,
                     seconds = value - std::floor(value / 100) * 100;
        if (value < 0 || hours >= 24 || minutes >= 60 || seconds >= 60.5) return std::nullopt;
        out[i] = hours * 3600 + minutes * 60 + seconds;
        // A minute that ends makes the number jump by 40 more and the clock go on; between, both step alike.
        if (value - last > step + 39 && out[i] - out[before] < 3 * step + 1) rolls = true;
        last = value;
        before = i;
    }
    if (!rolls) return std::nullopt;
    return out;
}

tl::unexpected<Error> asked(const TableRows& rows, Question question) {
    Error error{ErrorCode::needs_answer, question.text + " Nothing was imported.", rows.file, {}};
    error.questions.push_back(std::move(question));
    return tl::unexpected(std::move(error));
}

tl::unexpected<Error> ask_scale(const TableRows& rows, const BodyColumn& column, const std::vector<Scale>& fitting,
                                const std::string& why) {
    Question question{column.head->name, "What does the time column \"" + column.head->name + "\" count? " + why, {}};
    std::vector<Scale> offered = fitting;
    if (offered.empty()) offered.assign(scales.begin(), scales.begin() + 9);
    for (const Scale& scale : offered)
        question.answers.push_back({column.head->name + "=time:" + scale.unit, scale.label});
    return asked(rows, std::move(question));
}

bool is_common(const Scale& scale) {
    return scale.factor == 1 || scale.factor == 1e-3 || scale.factor == 1e-6 || scale.factor == 1e-9;
}

/// What the times of a column are counted from and in.
struct Counted {
    std::vector<double> seconds;          ///< in order of the rows; NaN where missing
    std::optional<double> unix_offset_s;  ///< seconds + this = Unix time
    double quantum_s = 1e-6;              ///< smallest step that the file writes
};

class TimeColumn {
  public:
    TimeColumn(TableRows& rows, const BodyColumn& column) : rows_(rows), column_(column), values_(rows.values(column)) {
        for (double& value : values_) {
            if (!(std::abs(value) < 1e20)) value = std::nan("");
        }
    }

    Result<Counted> read() {
        if (column_.head->kind == Kind::time_text) return text();
        const auto factor = this->factor();
        if (!factor) return pass_on(factor.error());
        Counted out;
        const double quantum = *factor * std::pow(10.0, -column_.head->decimals);
        if (!clock_.empty())
            out.seconds = std::move(clock_);
        else {
            out.seconds = values_;
            for (double& t : out.seconds) t = (t - from_) * *factor;
        }
        out.quantum_s = quantum;
        // Dates beyond any calendar are damaged cells.
        for (double& t : out.seconds) {
            if (!(std::abs(t) < 1e11)) t = std::nan("");
        }
        if (epoch_s_) out.unix_offset_s = *epoch_s_ + from_ * *factor;
        return out;
    }

    [[nodiscard]] Result<double> factor() {
        const std::string folded_unit = folded(column_.head->unit), name = column_.head->name;
        const double median = median_finite(values_);
        if (folded_unit.starts_with("hhmmss")) {
            if (auto clock = clock_numbers(values_, 1)) clock_ = std::move(*clock);
            if (!clock_.empty()) return 1.0;
        }
        const auto unit = parse_unit(column_.head->unit);
        const bool known = !column_.head->unit.empty() && unit && unit->dimension == Dimension{0, 0, 1, 0, 0, 0};
        const double step = median_step(values_);
        if (!known && !rows_.is_answered(column_)) {
            if (auto clock = clock_numbers(values_, 1)) {
                clock_ = std::move(*clock);
                rows_.say("The times of \"" + name + "\" are clock times written as hhmmss.");
                return 1.0;
            }
            if (all_whole(values_)) {
                if (auto clock = clock_numbers(values_, 1000)) {
                    clock_ = std::move(*clock);
                    rows_.say("The times of \"" + name + "\" are clock times written as hhmmss with thousandths.");
                    return 1e-3;
                }
            }
        }
        if (known) {
            find_epoch(median * unit->factor, unit->factor);
            return checked(unit->factor);
        }
        for (const double factor : {1.0, 1e-3, 1e-6, 1e-9}) {
            if (find_epoch(median * factor, factor)) {
                if (factor != 1 || !column_.head->unit.empty())
                    rows_.say("The times of \"" + name + "\" count " + label_of(factor) + " since 1970.");
                return factor;
            }
        }
        // Spreadsheets count days, most of them since 1900.
        if (median > 30'000 && median < 80'000 && step * day_s > 1e-4 && step < 1e-3) {
            epoch_s_ = -spreadsheet_epoch_days * day_s;
            from_ = std::floor(median);
            rows_.say("The times of \"" + name + "\" are the days of a spreadsheet.");
            return day_s;
        }
        if (!(step > 0)) return 1.0;  // it does not rise: said below
        return by_motion();
    }

  private:
    /// From the first finite time to the last.
    static double motion_length(std::span<const double> times) {
        const auto finite = [](double t) { return std::isfinite(t); };
        const auto first = std::find_if(times.begin(), times.end(), finite);
        const auto last = std::find_if(times.rbegin(), times.rend(), finite);
        return first == times.end() ? 0 : *last - *first;
    }

    static std::string label_of(double factor) {
        for (const Scale& scale : scales) {
            if (scale.factor == factor) return scale.label;
        }
        return number_text(factor) + " s";
    }

    bool find_epoch(double first_s, double factor) {
        if (!(first_s > 9e8 && first_s < 4.1e9)) return false;
        from_ = std::floor(median_finite(values_) * factor) / factor;
        const bool gps = lower(column_.head->name).find("gps") != std::string::npos;
        // A receiver's own count lies ten years behind: then it is no date of today in Unix time.
        epoch_s_ = gps && first_s < 1.62e9 ? gps_epoch_s : 0;
        if (gps && *epoch_s_ != 0)
            rows_.say("\"" + column_.head->name + "\" counts GPS seconds since 1980; 18 leap seconds are taken off.");
        return true;
    }

    /// The named unit against the motion: a scale that is off by a hundred and more is put right and said.
    Result<double> checked(double factor) {
        if (rows_.is_answered(column_)) return factor;
        const Vehicle car = vehicle_of(rows_);
        if (car.speed.empty() && !car.latitude.empty()) return by_places_alone(factor, car);
        if (car.speed.empty() || car.latitude.empty()) return plausible(factor);
        const auto times = std::span(values_).subspan(car.rows.from, car.rows.to - car.rows.from);
        const Motion motion{times, car.latitude, car.longitude, car.speed};
        const auto way = travelled(motion);
        if (!way || way->by_position < 60 || way->spread > 0.1 || !car.speed_unit_known) return plausible(factor);
        const double seconds = way->by_position / way->by_speed * car.units_per_mps.front();
        if (std::abs(std::log(seconds / factor)) < std::log(8.0)) return factor;
        // With the unit that it names the car goes as cars do: then it is the speed that says something else.
        const double mean_mps = way->by_position / (motion_length(times) * factor);
        if (mean_mps > 2 && mean_mps < 110) return plausible(factor);
        for (const Scale& scale : scales) {
            if (std::abs(std::log(seconds / scale.factor)) > 0.1) continue;
            rows_.say("The time column \"" + column_.head->name + "\" says " + column_.head->unit +
                      ", but by speed and positions it counts " + scale.label + "; it is taken as that.");
            return scale.factor;
        }
        return plausible(factor);
    }

    /// Positions without a speed: a car neither flies nor crawls for all of its drive. Then it is asked.
    Result<double> by_places_alone(double factor, const Vehicle& car) {
        const Told told = told_scales(values_, car);
        const bool fits = std::any_of(told.scales.begin(), told.scales.end(), [&](const Scale& scale) {
            return std::abs(std::log(scale.factor / factor)) < std::log(4.0);
        });
        if (fits || !told.by_motion || told.scales.empty()) return plausible(factor);
        return ask_scale(rows_, column_, told.scales,
                         "It says " + column_.head->unit + ", in which the positions go by as no car does.");
    }

    Result<double> plausible(double factor) {
        const double step = median_step(values_) * factor;
        if (step > 0 && (1 / step > fastest_hz || step > 3600)) {
            return ask_scale(rows_, column_, {},
                             "In " + column_.head->unit + " its rows would come every " + number_text(step) + " s.");
        }
        return factor;
    }

    Result<double> by_motion() {
        const std::string unit = column_.head->unit, name = column_.head->name;
        const std::string what = unit.empty() ? "names no unit" : "names the unit \"" + unit + "\", which is not known";
        const Told told = told_scales(values_, vehicle_of(rows_));
        std::vector<Scale> fitting = told.scales;
        const auto common = [&] {
            std::vector<Scale> out;
            std::copy_if(fitting.begin(), fitting.end(), std::back_inserter(out), is_common);
            return out;
        };
        // Without a word about the unit only the usual ones count, if one of them fits.
        if (unit.empty() && (!common().empty() || !told.measured)) fitting = common();
        if (told.by_motion && fitting.size() == 1) {
            say_taken(what, fitting.front(), "by how the car moves");
            return fitting.front().factor;
        }
        if (!told.by_motion && unit.empty()) {
            // Nothing moves: what rows a logger writes. Steps below 0.6 are no milliseconds, long ones no seconds.
            std::vector<Scale> usual;
            const auto rows = static_cast<double>(rows_.count);
            const double step = median_step(values_);
            for (const Scale& scale : common()) {
                const double rate = 1 / (step * scale.factor);
                const bool long_enough = scale.factor == 1 || rows / rate >= 2;
                if (rate >= (scale.factor == 1 ? 0.05 : 0.9) && rate <= 5000 && long_enough) usual.push_back(scale);
            }
            if (usual.size() == 1) {
                say_taken(what, usual.front(), "by its steps");
                return usual.front().factor;
            }
            if (usual.empty() && rows_.count < 500 && step >= 2 && all_whole(values_)) {
                say_taken(what, scales[1], "by its steps");
                return 1e-3;
            }
            fitting = usual;
        }
        return ask_scale(rows_, column_, fitting,
                         "It " + what + ", and its steps are " + number_text(median_step(values_)) + ".");
    }

    void say_taken(const std::string& what, const Scale& scale, const std::string& why) {
        rows_.say("The time column " + what + "; " + scale.label + " are assumed " + why + ".");
    }

    Result<Counted> text() {
        if (column_.head->order_open && !rows_.is_answered(column_)) {
            Question question{column_.head->name,
                              "Are the dates of \"" + column_.head->name + "\" written day first or month first?",
                              {}};
            question.answers = {{column_.head->name + "=time:dd/mm", "day first"},
                                {column_.head->name + "=time:mm/dd", "month first"}};
            return asked(rows_, std::move(question));
        }
        Counted out;
        out.seconds = values_;
        out.quantum_s = std::pow(10.0, -column_.head->decimals);
        const double median = median_finite(values_);
        if (median > 1e8) {
            const double from = std::floor(median / day_s) * day_s;
            for (double& t : out.seconds) t -= from;
            out.unix_offset_s = from;
        }
        return out;
    }

    TableRows& rows_;
    const BodyColumn& column_;
    std::vector<double> values_;
    std::vector<double> clock_;
    std::optional<double> epoch_s_;
    double from_ = 0;  ///< taken off before anything is multiplied: digits of a date would be lost
};

/// A column that holds a date and no time of day: seconds since 1970 of its first row.
std::optional<double> date_of(const TableRows& rows, const BodyColumn& column) {
    double first = std::nan("");
    for (std::size_t row = 0; row < rows.count; ++row) {
        const double value = column.at(row);
        if (!std::isfinite(value)) continue;
        if (column.head->kind == Kind::time_text) {
            if (value < 1e8 || std::fmod(value, day_s) != 0) return std::nullopt;
        } else if (value != std::floor(value)) {
            return std::nullopt;
        }
        if (std::isnan(first)) first = value;
    }
    if (std::isnan(first)) return std::nullopt;
    if (column.head->kind == Kind::time_text) return first;
    const std::string name = lower(column.head->name);
    if (name.find("date") == std::string::npos && name.find("datum") == std::string::npos) return std::nullopt;
    if (first > 30'000 && first < 80'000) return (first - spreadsheet_epoch_days) * day_s;
    char text[24];
    std::snprintf(text, sizeof text, "%.0f", first);
    if (first > 19'000'000 && first < 22'000'000) {
        const auto date = time_cell(text, '.');
        return date ? date->date_s : std::nullopt;
    }
    if (first > 10'100 && first < 311'299) {  // ddmmyy, as receivers write it
        std::snprintf(text, sizeof text, "%02.0f.%02.0f.%02.0f", std::floor(first / 10000),
                      std::fmod(std::floor(first / 100), 100), std::fmod(first, 100));
        const auto date = time_cell(text, '.');
        return date ? date->date_s : std::nullopt;
    }
    return std::nullopt;
}

double rising_share(const TableRows& rows, const BodyColumn& column) {
    std::size_t rises = 0;
    for (std::size_t row = 1; row < rows.count; ++row) rises += column.at(row) > column.at(row - 1);
    return rows.count < 2 ? 0 : static_cast<double>(rises) / static_cast<double>(rows.count - 1);
}

bool is_time(const BodyColumn& column) {
    return column.wanted && ((column.quantity != nullptr && column.quantity->id == "time") ||
                             (column.head->kind == Kind::time_text && column.quantity == nullptr));
}

bool is_named_date(const BodyColumn& column) {
    const std::string name = lower(column.head->name);
    return column.wanted && (name.starts_with("date") || name.starts_with("datum") || name.ends_with("date")) &&
           name.find("time") == std::string::npos;
}

/// The column that is the clock, and the ones that tell the day.
struct Chosen {
    BodyColumn* clock = nullptr;
    std::optional<double> date_s;
    std::vector<BodyColumn*> others;
};

Chosen choose(TableRows& rows) {
    Chosen out;
    std::vector<BodyColumn*> candidates;
    for (BodyColumn& column : rows.columns) {
        if (!is_time(column) && !is_named_date(column)) continue;
        if (const auto date = date_of(rows, column)) {
            if (!out.date_s && !column.head->order_open) out.date_s = date;
            column.wanted = false;  // it has done its work
            if (column.head->order_open)
                rows.say("The dates of \"" + column.head->name +
                         "\" can be read day first and month first; the run has no date.");
            continue;
        }
        if (is_time(column)) candidates.push_back(&column);
    }
    double best = -1;
    for (BodyColumn* column : candidates) {
        const double share = rising_share(rows, *column);
        if (best < 0 || (best < 0.98 && share > best + 0.02)) {
            best = share;
            out.clock = column;
        }
    }
    for (BodyColumn* column : candidates) {
        if (column != out.clock) out.others.push_back(column);
    }
    if (out.clock == nullptr && !rows.shape.has_names && !rows.columns.empty() && rows.columns[0].wanted &&
        rows.count > 1 && rising_share(rows, rows.columns[0]) == 1) {
        out.clock = &rows.columns[0];
        rows.say("No names: the first column rises steadily and is taken as the time.");
    }
    return out;
}

/// By how much a rate is off by speed and positions, where both are told: 2 when rows come twice as fast.
double off_by_motion(TableRows& rows, const std::vector<double>& times_s) {
    const Vehicle car = vehicle_of(rows);
    if (car.speed.empty() || car.latitude.empty() || !car.speed_unit_known) return 1;
    const auto times = std::span(times_s).subspan(car.rows.from, car.rows.to - car.rows.from);
    const auto way = travelled({times, car.latitude, car.longitude, car.speed});
    if (!way || way->by_position < 60 || way->spread > 0.1) return 1;
    return way->by_speed / way->by_position / car.units_per_mps.front();
}

Result<RowTimes> times_from_rate(TableRows& rows) {
    const auto rate = rows.options.rate_hz ? rows.options.rate_hz : rows.shape.rate_hz;
    if (!rate) {
        for (const BodyColumn& column : rows.columns) {
            if (column.quantity == nullptr || column.quantity->id != "time" || column.head->kind != Kind::text)
                continue;
            return fail(ErrorCode::needs_rate,
                        "The times in column \"" + column.head->name + "\" (\"" + column.head->example + "\" in line " +
                            std::to_string(rows.shape.first_data_line) +
                            ") are written in a way that is not known. Write them as seconds, as 12:34:56.7 or as "
                            "2026-06-13 12:34:56.7, or give the rate (--rate HZ).",
                        rows.where(0));
        }
        std::string columns;
        for (const TableColumn& column : rows.shape.columns) {
            if (columns.size() < 80) columns += (columns.empty() ? "\"" : ", \"") + column.name + "\"";
        }
        return fail(ErrorCode::needs_rate,
                    "No time column was found (the columns are " + columns +
                        ") and the file names no sample rate. Give the rate (--rate HZ on the command line), or name "
                        "the column \"time\".",
                    rows.file);
    }
    if (!(*rate > 1e-3) || !(*rate <= fastest_hz))
        return fail(ErrorCode::bad_input, "The sample rate must be above 0 Hz and at most 1 MHz.", rows.file);
    if (rows.count < 2) return too_short(rows);
    RowTimes out;
    for (std::size_t row = 0; row < rows.count; ++row) out.times_s.push_back(static_cast<double>(row) / *rate);
    const double off = off_by_motion(rows, out.times_s);
    if (std::abs(std::log(off)) > 0.2) {
        const std::string what = "at " + number_text(*rate) + " Hz speed and positions disagree by a factor of " +
                                 fixed(off, 2) + "; they agree at " + number_text(*rate * off) + " Hz";
        if (!rows.options.rate_hz)
            return fail(ErrorCode::needs_rate,
                        "The head of the file names the rate, but " + what +
                            ". Give the rate (--rate HZ), or put the unit of the speed right; nothing was imported.",
                        rows.file);
        rows.say("Check the rate: " + what + ".");
    }
    rows.say("Rows are " + number_text(*rate) + " Hz apart" +
             (rows.options.rate_hz ? " as asked for." : ", as the head of the file says."));
    if (rows.shape.date_s) out.start_unix_s = *rows.shape.date_s + rows.shape.clock_s.value_or(0);
    return out;
}

}  // namespace

Result<RowTimes> find_row_times(TableRows& rows) {
    Chosen chosen = choose(rows);
    // A rate that was asked for wins: the way out for a time column that is too coarse.
    if (chosen.clock == nullptr || rows.options.rate_hz) {
        if (chosen.clock != nullptr) chosen.clock->wanted = false;
        return times_from_rate(rows);
    }
    BodyColumn& column = *chosen.clock;
    auto counted_times = TimeColumn(rows, column).read();
    if (!counted_times) return pass_on(counted_times.error());
    column.wanted = false;
    RowTimes out;
    out.tolerance_s = std::max(0.51 * counted_times->quantum_s, 1e-6);
    auto order = order_rows(rows, std::move(counted_times->seconds), column.head->name);
    if (!order) return pass_on(order.error());
    out.times_s = std::move(*order);
    const double first = out.times_s.front(), length = out.times_s.back() - first;
    const double step = median_step(out.times_s);
    if (1 / step > fastest_hz || length > 40 * day_s)
        return fail(ErrorCode::bad_input,
                    "By the time column \"" + column.head->name + "\" the recording lasts " + number_text(length) +
                        " s with rows every " + number_text(step) + " s. Check its unit; nothing was imported.",
                    rows.file);
    // Where the day is known, and since when.
    if (counted_times->unix_offset_s) {
        out.start_unix_s = *counted_times->unix_offset_s + first;
        rows.say("The time column is a date: the recording starts at 0 s from its first row.");
    } else {
        std::optional<double> clock_s =
            column.head->kind == Kind::time_text ? std::optional(first) : rows.shape.clock_s;
        for (const BodyColumn* other : chosen.others) {
            if (other->head->kind != Kind::time_text || other->head->order_open) continue;
            const double at_first = other->at(0);
            if (at_first > 1e8)
                out.start_unix_s = at_first;
            else if (column.head->kind == Kind::number && std::isfinite(at_first))
                clock_s = at_first;
        }
        const auto date = chosen.date_s ? chosen.date_s : rows.shape.date_s;
        if (date && !out.start_unix_s) out.start_unix_s = *date + clock_s.value_or(0);
    }
    const bool clock_time = column.head->kind == Kind::time_text || counted_times->unix_offset_s;
    if (clock_time || std::abs(first) > 1e5) {
        out.first_row_at_s = counted_times->unix_offset_s.value_or(0) + first;
        for (double& t : out.times_s) t -= first;
    }
    return out;
}

}  // namespace rendak
