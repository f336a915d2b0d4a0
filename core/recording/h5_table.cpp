#include "core/recording/h5_table.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <memory>
#include <utility>
#include <vector>

#include "core/base/date.h"
#include "core/base/text.h"
#include "core/recording/cell_time.h"
#include "core/recording/h5_handle.h"
#include "core/recording/h5_rows.h"
#include "core/recording/h5_tree.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

using H5Kind = H5Column::Kind;

constexpr std::size_t bytes_at_once = 32U << 20, chunks_in_memory = 64U << 20;

tl::unexpected<Error> refused_table(const std::string& why, const std::vector<std::string>& left_out = {}) {
    std::string more;
    for (std::size_t i = 0; i < std::min<std::size_t>(left_out.size(), 5); ++i) more += " " + left_out[i];
    return fail(ErrorCode::bad_input,
                "This HDF5 file is no recording of Rendak, and no table can be made of it: " + why + more);
}

struct Place {
    std::size_t set = 0, column = 0;
};

/// Columns that are sampled at the same moments.
struct Clocked {
    std::optional<Place> time;
    double rate_hz = 0, start_s = 0;  ///< where there is no column of times
    hsize_t rows = 0;
    std::vector<Place> columns;
};

bool has_text_only(const H5Column& column) {
    return column.kind == H5Kind::text && !column.is_time;
}

class Table {
  public:
    explicit Table(H5Tree tree) : tree_(std::move(tree)) {}

    /// Puts every column to its clock.
    Result<void> arrange() {
        std::vector<Clocked> lonely;
        for (std::size_t s = 0; s < tree_.sets.size(); ++s) {
            for (std::size_t c = 0; c < tree_.sets[s].columns.size(); ++c) {
                if (tree_.sets[s].columns[c].is_time) continue;
                if (has_text_only(tree_.sets[s].columns[c])) {
                    tree_.leave_out(tree_.sets[s].columns[c].name, "it holds texts");
                    continue;
                }
                if (auto clock = clock_of(s))
                    join(clocked_, *clock, {s, c});
                else
                    join(lonely, {std::nullopt, 0, 0, tree_.sets[s].rows, {}}, {s, c});
            }
        }
        if (clocked_.empty() && lonely.size() == 1)
            clocked_ = std::move(lonely);
        else if (clocked_.empty() && lonely.size() > 1)
            return refused_table(
                "its data sets have different lengths, and neither times nor rates. Export it with a data set "
                "\"time\" in every group.",
                tree_.left_out);
        else
            leave_out_all(lonely);
        if (clocked_.empty()) return refused_table("it holds no data set of numbers.", tree_.left_out);
        for (const Clocked& group : clocked_) {
            rows_ = std::max(rows_, group.rows);
            for (const std::size_t s : sets_of(group)) {
                if (std::find(used_.begin(), used_.end(), s) == used_.end()) used_.push_back(s);
            }
        }
        return {};
    }

    Result<void> write(hid_t file, std::uint64_t most_rows, HandoverWriter& out) {
        std::vector<std::unique_ptr<H5Rows>> rows(tree_.sets.size());
        std::size_t row_bytes = 1;
        for (const std::size_t s : used_) {
            rows[s] = std::make_unique<H5Rows>(file, tree_.sets[s], chunks_in_memory / used_.size());
            row_bytes += rows[s]->row_bytes();
        }
        const hsize_t count = most_rows == 0 ? rows_ : std::min<hsize_t>(rows_, most_rows);
        const hsize_t block = std::clamp<hsize_t>(bytes_at_once / row_bytes, 16, 65536);
        std::string text = head();
        for (hsize_t from = 0; from < count; from += block) {
            const hsize_t to = std::min(count, from + block);
            for (const std::size_t s : used_) {
                const hsize_t has = tree_.sets[s].rows;
                const hsize_t until = std::min(to, has);
                if (from < until && !rows[s]->read(from, until - from))
                    return refused_table("data set \"" + printable(tree_.sets[s].path) +
                                         "\" is damaged or cut off. Copy the file again from where it came from.");
            }
            for (hsize_t row = from; row < to; ++row) {
                put_row(rows, row, text);
                if (text.size() < (1U << 20)) continue;
                if (!out.put_text(text)) return too_large();
                text.clear();
            }
        }
        if (!out.put_text(text)) return too_large();
        return {};
    }

    [[nodiscard]] std::vector<std::string> notes() const {
        auto out = tree_.left_out;
        if (tree_.more_left_out > 0)
            out.push_back(counted(tree_.more_left_out, "further data set", "further data sets") + " were left out.");
        return out;
    }

  private:
    static tl::unexpected<Error> too_large() {
        return refused_table("it is larger than the memory that one file may take. Export it in parts.");
    }

    /// A table of many columns is named once.
    void leave_out_all(const std::vector<Clocked>& groups) {
        std::optional<std::size_t> said;
        for (const Clocked& group : groups) {
            for (const Place place : group.columns) {
                const H5Set& set = tree_.sets[place.set];
                const bool many = set.columns.size() > 3;
                if (many && said == place.set) continue;
                said = place.set;
                tree_.leave_out(many ? printable(set.path) : set.columns[place.column].name,
                                "no time or rate belongs to it");
            }
        }
    }

    static void join(std::vector<Clocked>& groups, Clocked clock, Place place) {
        for (Clocked& group : groups) {
            const bool same_time =
                group.time.has_value() == clock.time.has_value() &&
                (!group.time || (group.time->set == clock.time->set && group.time->column == clock.time->column));
            if (!same_time || group.rows != clock.rows || group.rate_hz != clock.rate_hz ||
                group.start_s != clock.start_s)
                continue;
            return group.columns.push_back(place);
        }
        clock.columns.push_back(place);
        groups.push_back(std::move(clock));
    }

    /// The times of a group's rows; of several that of the shortest name.
    [[nodiscard]] std::optional<Place> time_in(const std::string& group, hsize_t rows) const {
        std::optional<Place> best;
        for (std::size_t s = 0; s < tree_.sets.size(); ++s) {
            const H5Set& set = tree_.sets[s];
            if (set.group != group || set.rows != rows) continue;
            for (std::size_t c = 0; c < set.columns.size(); ++c) {
                if (!set.columns[c].is_time) continue;
                if (!best || set.columns[c].name.size() < tree_.sets[best->set].columns[best->column].name.size())
                    best = {s, c};
            }
        }
        return best;
    }

    [[nodiscard]] std::optional<Clocked> clock_of(std::size_t s) const {
        const H5Set& set = tree_.sets[s];
        const auto with_time = [&](Place place) { return Clocked{place, 0, 0, set.rows, {}}; };
        const auto with_rate = [&](double rate, double start) {
            return Clocked{std::nullopt, rate, start, set.rows, {}};
        };
        for (std::size_t c = 0; c < set.columns.size(); ++c) {
            if (set.columns[c].is_time) return with_time({s, c});
        }
        if (const auto time = time_in(set.group, set.rows)) return with_time(*time);
        if (set.rate_hz) return with_rate(*set.rate_hz, set.start_s);
        for (std::string group = set.group;; group.resize(group.rfind('/'))) {
            if (const auto time = time_in(group, set.rows)) return with_time(*time);
            const auto facts = tree_.groups.find(group);
            const auto rate = facts == tree_.groups.end() ? std::nullopt : rate_of(facts->second);
            if (rate && all_as_long(group, set.rows)) return with_rate(*rate, set.start_s);
            if (group.empty()) break;
        }
        // Times in a group that holds nothing else, where no other times have so many rows. Beside other channels they
        // are the times of those: that two groups are as long says nothing.
        std::optional<Place> elsewhere;
        for (std::size_t t = 0; t < tree_.sets.size(); ++t) {
            if (tree_.sets[t].rows != set.rows || !holds_times_only(tree_.sets[t].group)) continue;
            for (std::size_t c = 0; c < tree_.sets[t].columns.size(); ++c) {
                if (!tree_.sets[t].columns[c].is_time) continue;
                if (elsewhere && elsewhere->set != t) return std::nullopt;
                elsewhere = {t, c};
            }
        }
        if (elsewhere) return with_time(*elsewhere);
        return std::nullopt;
    }

    [[nodiscard]] bool holds_times_only(const std::string& group) const {
        return std::all_of(tree_.sets.begin(), tree_.sets.end(), [&](const H5Set& set) {
            return set.group != group || std::all_of(set.columns.begin(), set.columns.end(),
                                                     [](const H5Column& column) { return column.is_time; });
        });
    }

    /// A rate that a group says is that of its data sets only where they are of one length.
    [[nodiscard]] bool all_as_long(const std::string& group, hsize_t rows) const {
        return std::all_of(tree_.sets.begin(), tree_.sets.end(), [&](const H5Set& set) {
            const bool inside = set.group == group || set.group.starts_with(group + "/");
            return !inside || set.rows == rows || set.rate_hz || time_in(set.group, set.rows);
        });
    }

    [[nodiscard]] std::vector<std::size_t> sets_of(const Clocked& group) const {
        std::vector<std::size_t> out;
        if (group.time) out.push_back(group.time->set);
        for (const Place place : group.columns) out.push_back(place.set);
        return out;
    }

    /// "seconds since 2026-06-13 10:00:00": the count becomes one since 1970.
    static void settle_epoch(H5Column& time) {
        const auto since = time.unit.find(" since ");
        if (since == std::string::npos) return;
        const auto date = time_cell(trimmed(std::string_view(time.unit).substr(since + 7)), '.');
        const auto unit = parse_unit(std::string(trimmed(std::string_view(time.unit).substr(0, since))));
        time.unit.resize(since);
        const Dimension seconds{0, 0, 1, 0, 0, 0};
        if (!date || !date->date_s || !unit || unit->dimension != seconds) return;
        time.offset = time.offset * unit->factor + date->seconds();
        time.factor *= unit->factor;
        time.unit = "s";
    }

    static std::string cell(const H5Column& column) {
        const bool has_unit = column.name.find_first_of("[({") != std::string::npos || column.unit.empty();
        std::string name = column.name + (has_unit ? "" : " [" + column.unit + "]");
        std::erase(name, '"');
        return "\"" + name + "\"";
    }

    /// When the file begins, where one of its groups says so.
    [[nodiscard]] std::string start_line() const {
        for (const auto& [path, facts] : tree_.groups) {
            for (const char* key :
                 {"startunixs", "starttime", "timestart", "start", "startdate", "date", "datetime", "recorded",
                  "starttimeutc", "startutc", "timeofstart", "begin", "recordingstart", "recordingdate"}) {
                const auto text = facts.texts.find(key);
                const auto time = text == facts.texts.end() ? std::nullopt : time_cell(text->second, '.');
                if (time && time->date_s && !time->day_or_month) return "Start\t" + text->second + "\n";
                const auto number = facts.number({key});
                if (number && *number > 9e8 && *number < 4.1e9) return "Start\t" + utc_iso(*number, 6) + "\n";
            }
        }
        return {};
    }

    /// One rate for all stands in the head, and is held against the motion there.
    [[nodiscard]] bool has_one_rate() const {
        return clocked_.size() == 1 && clocked_[0].rate_hz > 0 && clocked_[0].start_s == 0 &&
               clocked_[0].columns.size() > 1;
    }
    [[nodiscard]] bool writes_times(const Clocked& group) const { return group.rate_hz > 0 && !has_one_rate(); }

    [[nodiscard]] std::string head() {
        std::string line;
        for (Clocked& group : clocked_) {
            if (group.time) {
                H5Column& time = tree_.sets[group.time->set].columns[group.time->column];
                settle_epoch(time);
                line += cell(time) + "\t";
            } else if (writes_times(group)) {
                line += "\"Time [s]\"\t";
            }
            for (const Place place : group.columns) line += cell(tree_.sets[place.set].columns[place.column]) + "\t";
        }
        line.back() = '\n';
        std::string rate;
        if (has_one_rate()) {
            char digits[40];
            rate.assign(digits, std::to_chars(digits, digits + sizeof digits, clocked_.front().rate_hz).ptr);
            rate = "Sample rate\t" + rate + "\n";
        }
        return start_line() + rate + line;
    }

    void put_row(const std::vector<std::unique_ptr<H5Rows>>& rows, hsize_t row, std::string& text) const {
        for (const Clocked& group : clocked_) {
            const bool there = row < group.rows;
            if (group.time) {
                if (there) rows[group.time->set]->put(text, group.time->column, row);
                text += '\t';
            } else if (writes_times(group)) {
                if (there) {
                    char digits[64];
                    const double t = group.start_s + static_cast<double>(row) / group.rate_hz;
                    const auto end = std::to_chars(digits, digits + sizeof digits, t, std::chars_format::fixed, 9);
                    text.append(digits, end.ptr);
                }
                text += '\t';
            }
            for (const Place place : group.columns) {
                if (there) rows[place.set]->put(text, place.column, row);
                text += '\t';
            }
        }
        text.back() = '\n';
    }

    H5Tree tree_;
    std::vector<Clocked> clocked_;
    std::vector<std::size_t> used_;  ///< sets that are read
    hsize_t rows_ = 0;
};

}  // namespace

Result<HandedRecording> lay_out_as_table(const std::filesystem::path& file, std::uint64_t file_size,
                                         std::uint64_t most_rows, HandoverWriter& out, void (*opened)()) {
    const h5::Lock lock;
    const h5::Handle in(H5Fopen(file.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), H5Fclose);
    if (!in.ok())
        return fail(ErrorCode::bad_input,
                    "The HDF5 file is damaged or cut off (its end is missing or its structure cannot be read). Copy it "
                    "again from where it came from; nothing was imported.");
    opened();
    auto tree = walk_h5(in, file_size);
    if (!tree) return tl::unexpected(tree.error());
    Table table(std::move(*tree));
    if (auto arranged = table.arrange(); !arranged) return tl::unexpected(arranged.error());
    if (auto written = table.write(in, most_rows, out); !written) return tl::unexpected(written.error());
    HandedRecording handed;
    handed.of_others = true;
    handed.notes = table.notes();
    return handed;
}

}  // namespace rendak
