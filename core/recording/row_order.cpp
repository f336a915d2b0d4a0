#include "core/recording/row_order.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/base/text.h"
#include "core/recording/time_scale.h"

namespace rendak {
namespace {

/// Numbers of the rows that stay, rising: a list only once one was left out.
class KeptRows {
  public:
    void push_back(std::size_t row) {
        if (rows_.empty() && row == size_) {
            ++size_;
            return;
        }
        if (rows_.empty()) {
            rows_.resize(size_);
            std::iota(rows_.begin(), rows_.end(), std::size_t{0});
        }
        rows_.push_back(row);
        ++size_;
    }
    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] std::size_t operator[](std::size_t i) const { return rows_.empty() ? i : rows_[i]; }
    [[nodiscard]] std::size_t back() const { return (*this)[size_ - 1]; }
    [[nodiscard]] std::vector<std::size_t> list() const {
        if (!rows_.empty()) return rows_;
        std::vector<std::size_t> all(size_);
        std::iota(all.begin(), all.end(), std::size_t{0});
        return all;
    }

  private:
    std::size_t size_ = 0;
    std::vector<std::size_t> rows_;  ///< empty: the first `size_`
};

class RowOrder {
  public:
    RowOrder(TableRows& rows, std::vector<double> seconds, std::string column)
        : rows_(rows), seconds_(std::move(seconds)), column_(std::move(column)) {
        const double step = median_step(seconds_);
        step_ = std::isnan(step) ? 0 : step;
    }

    Result<std::vector<double>> ordered() {
        sort_when_whole();
        drop_spikes();
        walk();
        const std::size_t lost = without_ + repeated_ + backwards_;
        if (times_.size() < 2 && lost == 0) return too_short(rows_);
        if (lost * 10 > rows_.count || times_.size() < 2) return does_not_rise();
        if (lost > 0)
            rows_.say(counted(lost, "row was", "rows were") + " left out because the time does not rise there (" +
                      std::to_string(repeated_) + " repeated, " + std::to_string(backwards_) + " backwards, " +
                      std::to_string(without_) + " without time; first at line " +
                      std::to_string(rows_.shape.first_data_line + first_bad_) + ").");
        if (merged_ > 0)
            rows_.say(counted(merged_, "row has", "rows have") +
                      " the time of the row before and other columns filled; they are one row.");
        if (set_back_ > 0)
            rows_.say("The clock of \"" + column_ + "\" is set back " + counted(set_back_, "time", "times") +
                      ", first at line " + std::to_string(rows_.shape.first_data_line + first_set_back_) + " by " +
                      fixed(first_back_by_s_, 2) + " s; the rows after go on one step behind the row before.");
        if (kept_.size() < rows_.count || lost > 0) rows_.keep(kept_.list());
        say_holes();
        return std::move(times_);
    }

  private:
    tl::unexpected<Error> does_not_rise() const {
        return fail(ErrorCode::needs_rate,
                    "The time column \"" + column_ +
                        "\" does not rise: " + counted(repeated_, "row repeats", "rows repeat") + " the time before, " +
                        counted(backwards_, "goes", "go") + " backwards, " + counted(without_, "has", "have") +
                        " none (first at line " + std::to_string(rows_.shape.first_data_line + first_bad_) +
                        "). Export the file with a finer time column, or without it and give the rate "
                        "(--rate HZ); nothing was imported.",
                    rows_.where(first_bad_));
    }

    /// A single time that jumps ahead and back is damaged, not the rows behind it.
    void drop_spikes() {
        const double far = std::max(1000 * step_, 60.0);
        for (std::size_t i = 1; i < seconds_.size(); ++i) {
            const double before = seconds_[i - 1], here = seconds_[i];
            const bool last = i + 1 == seconds_.size();
            const bool goes_on = !last && seconds_[i + 1] > before && seconds_[i + 1] < before + far;
            const double length = before - seconds_.front();
            if (here > before + far && (goes_on || (last && here > before + std::max(100 * length, 86400.0))))
                seconds_[i] = std::nan("");
            else if (here < before && goes_on && !last && seconds_[i + 1] > before && here < seconds_[i + 1] &&
                     seconds_[i + 1] - before < 3.5 * step_)
                seconds_[i] = std::nan("");
        }
    }

    /// Blocks in the wrong order fill each other's holes: sorted, they make one even row.
    void sort_when_whole() {
        std::size_t back = 0, leaps = 0;
        for (std::size_t i = 1; i < seconds_.size(); ++i) {
            back += seconds_[i] < seconds_[i - 1];
            leaps += seconds_[i] > seconds_[i - 1] + 1.5 * step_;
        }
        if (back == 0 || leaps == 0) return;
        std::vector<std::size_t> order(seconds_.size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        std::erase_if(order, [&](std::size_t i) { return std::isnan(seconds_[i]); });
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return seconds_[a] < seconds_[b]; });
        std::size_t uneven = 0;
        for (std::size_t i = 1; i < order.size(); ++i) {
            const double step = seconds_[order[i]] - seconds_[order[i - 1]];
            if (!(step > 0.2 * step_)) return;  // two rows of one time: that is no order of blocks
            uneven += step > 1.8 * step_;
        }
        if (uneven >= leaps || uneven * 200 > order.size()) return;
        rows_.say("The rows are not in order of time (" + counted(back, "place", "places") + "); they were sorted.");
        std::vector<double> sorted;
        for (const std::size_t i : order) sorted.push_back(seconds_[i]);
        rows_.reorder(order);
        seconds_ = std::move(sorted);
    }

    /// Whether a row says what an earlier row of this time says.
    [[nodiscard]] bool is_copy(std::size_t row, double time_s) const {
        const auto at = std::lower_bound(times_.begin(), times_.end(), time_s - 0.01 * step_);
        if (at == times_.end() || std::abs(*at - time_s) > 0.02 * step_) return false;
        return !clashes(kept_[static_cast<std::size_t>(at - times_.begin())], row, true);
    }

    [[nodiscard]] bool clashes(std::size_t a, std::size_t b, bool must_be_equal) const {
        for (const BodyColumn& column : rows_.columns) {
            if (!column.wanted) continue;
            const double x = column.at(a), y = column.at(b);
            if (std::isnan(x) && std::isnan(y)) continue;
            if (must_be_equal ? !(x == y) : !std::isnan(x) && !std::isnan(y) && x != y) return true;
        }
        return false;
    }

    void merge(std::size_t into, std::size_t row) {
        for (BodyColumn& column : rows_.columns) {
            if (column.wanted && std::isnan(column.at(into))) column.set(into, column.at(row));
        }
        ++merged_;
    }

    /// Seconds after which clocks and counters begin again, when this is such a place.
    [[nodiscard]] double runs_over(double here, double last) const {
        for (const double period :
             {60.0, 3600.0, 43200.0, 86400.0, 604800.0, 65.536, 4294.967296, 4294967.296, 2147483.648}) {
            const double gap = here + period - last;
            if (last - here > 0.5 * period && gap > 0 && gap < 3.5 * step_) return period;
        }
        // A clock text that runs through midnight with a hole.
        return last - here > 43200 && here >= 0 && last < 90'000 ? 86400 : 0;
    }

    void walk() {
        times_.reserve(seconds_.size());
        for (std::size_t i = 0; i < seconds_.size(); ++i) {
            double here = seconds_[i] + offset_;
            if (std::isnan(here)) {
                count_bad(without_, i);
                continue;
            }
            if (times_.empty() || here > times_.back()) {
                take(i, here);
                continue;
            }
            const double last = times_.back();
            if (here == last) {
                if (!clashes(kept_.back(), i, false) && clashes(kept_.back(), i, true))
                    merge(kept_.back(), i);
                else
                    count_bad(repeated_, i);
                continue;
            }
            if (const double period = runs_over(here, last); period > 0) {
                offset_ += period;
                take(i, here + period);
                continue;
            }
            const bool last_again = set_back_ > 0 && i + 1 == seconds_.size();
            const bool next_rises = last_again || (i + 1 < seconds_.size() && seconds_[i + 1] > seconds_[i] &&
                                                   seconds_[i + 1] + offset_ <= last + 0.5 * step_);
            if (is_copy(i, here)) {
                count_bad(repeated_, i);
                continue;
            }
            if (!next_rises || (set_back_ + 1) * 20 > seconds_.size()) {
                count_bad(backwards_, i);
                continue;
            }
            if (set_back_++ == 0) {
                first_set_back_ = i;
                first_back_by_s_ = last - here;
            }
            offset_ += last + step_ - here;
            take(i, last + step_);
        }
    }

    void take(std::size_t row, double time_s) {
        kept_.push_back(row);
        times_.push_back(time_s);
    }
    void count_bad(std::size_t& counter, std::size_t row) {
        if (without_ + repeated_ + backwards_ == 0) first_bad_ = row;
        ++counter;
    }

    void say_holes() {
        std::size_t holes = 0, rows = 0;
        double longest = 0, at = 0;
        for (std::size_t i = 1; i < times_.size(); ++i) {
            const double gap = times_[i] - times_[i - 1];
            if (gap < 1.6 * step_) continue;
            ++holes;
            rows += static_cast<std::size_t>(std::llround(gap / step_)) - 1;
            if (gap > longest) {
                longest = gap;
                at = times_[i - 1] - times_.front();
            }
        }
        // More is no even clock with holes in it.
        if (holes == 0 || holes * 20 > times_.size() || rows == 0) return;
        rows_.say(counted(rows, "row is", "rows are") + " missing in " + counted(holes, "place", "places") +
                  " (the longest " + fixed(longest, 2) + " s, at " + fixed(at, 2) +
                  " s); the samples are missing there.");
    }

    TableRows& rows_;
    std::vector<double> seconds_;
    std::string column_;
    double step_ = 0, offset_ = 0, first_back_by_s_ = 0;
    std::vector<double> times_;
    KeptRows kept_;
    std::size_t without_ = 0, repeated_ = 0, backwards_ = 0, merged_ = 0, set_back_ = 0;
    std::size_t first_bad_ = 0, first_set_back_ = 0;
};

}  // namespace

Result<std::vector<double>> order_rows(TableRows& rows, std::vector<double> seconds, const std::string& column) {
    return RowOrder(rows, std::move(seconds), column).ordered();
}

}  // namespace rendak
