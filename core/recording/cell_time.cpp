#include "core/recording/cell_time.h"

#include <algorithm>
#include <chrono>
#include <string>

#include "core/base/digits.h"
#include "core/base/text.h"
#include "core/recording/cell_number.h"

namespace rendak {
namespace {

bool is_letter(char c) {
    return (c >= 'a' && c <= 'z') || static_cast<unsigned char>(c) >= 0x80;
}

/// Reads a cell from its start.
class Cursor {
  public:
    explicit Cursor(std::string_view text) : text_(text) {}

    [[nodiscard]] bool done() const { return text_.empty(); }
    [[nodiscard]] char front() const { return text_.empty() ? '\0' : text_.front(); }
    void blanks() {
        while (front() == ' ') text_.remove_prefix(1);
    }
    bool take(char c) {
        if (front() != c) return false;
        text_.remove_prefix(1);
        return true;
    }
    bool take(std::string_view word) {
        if (!text_.starts_with(word)) return false;
        text_.remove_prefix(word.size());
        return true;
    }
    std::string_view digits() {
        std::size_t n = 0;
        while (n < text_.size() && is_digit(text_[n])) ++n;
        const auto out = text_.substr(0, n);
        text_.remove_prefix(n);
        return out;
    }
    std::string_view letters() {
        std::size_t n = 0;
        while (n < text_.size() && is_letter(text_[n])) ++n;
        const auto out = text_.substr(0, n);
        text_.remove_prefix(n);
        return out;
    }

  private:
    std::string_view text_;
};

double whole_number(std::string_view digits) {
    double value = 0;
    for (const char c : digits) value = value * 10 + (c - '0');
    return value;
}

/// 1 … 12 from the beginning of a month's name in the languages that loggers and spreadsheets speak; 0: none.
int month_of(std::string_view word) {
    static constexpr std::string_view names[12] = {
        "jan ene gen",  "feb fév fev",    "mar mär mrz mrt", "apr avr abr", "mai may mag mei",
        "jun juin giu", "jul juil lug",   "aug aoû ago",     "sep set",     "oct okt out ott",
        "nov",          "dec dez déc dic"};
    if (word.size() < 3) return 0;
    for (int month = 0; month < 12; ++month) {
        std::string_view rest = names[month];
        while (!rest.empty()) {
            const auto blank = std::min(rest.find(' '), rest.size());
            if (word.starts_with(rest.substr(0, blank))) return month + 1;
            rest.remove_prefix(std::min(blank + 1, rest.size()));
        }
    }
    return 0;
}

std::optional<double> date_as_seconds(double year, double month, double day) {
    using namespace std::chrono;
    const year_month_day date{std::chrono::year(static_cast<int>(year)),
                              std::chrono::month(static_cast<unsigned>(month)),
                              std::chrono::day(static_cast<unsigned>(day))};
    if (!date.ok() || year < 1900 || year > 2200) return std::nullopt;
    return 86400.0 * static_cast<double>(sys_days(date).time_since_epoch().count());
}

double full_year(std::string_view digits) {
    const double year = whole_number(digits);
    return digits.size() > 2 ? year : year + (year < 70 ? 2000 : 1900);
}

/// A date at the cursor. Leaves the cursor where it was when there is none.
bool take_date(Cursor& from, DateOrder order, TimeCell& out) {
    Cursor at = from;
    const auto finish = [&](double year, double month, double day) {
        out.date_s = date_as_seconds(year, month, day);
        if (out.date_s) from = at;
        return out.date_s.has_value();
    };
    if (is_letter(at.front())) {  // "Jun 13, 2026", "Sat 13 Jun 2026"
        const int month = month_of(at.letters());
        at.take('.');
        at.take(',');
        at.blanks();
        if (month == 0) return take_date(at, order, out) && (from = at, true);
        const auto day = at.digits();
        if (day.empty() || day.size() > 2) return false;
        at.take(',');
        at.blanks();
        const auto year = at.digits();
        return (year.size() == 2 || year.size() == 4) && finish(full_year(year), month, whole_number(day));
    }
    const auto first = at.digits();
    if (first.size() == 8) {  // 20260613
        if (!at.done() && at.front() != 't' && at.front() != ' ' && at.front() != '_') return false;
        return finish(whole_number(first.substr(0, 4)), whole_number(first.substr(4, 2)),
                      whole_number(first.substr(6)));
    }
    if (first.empty() || (first.size() > 2 && first.size() != 4)) return false;
    const char mark = at.front();
    if (mark != '-' && mark != '/' && mark != '.' && mark != ' ' && !is_letter(mark)) return false;
    if (!is_letter(mark)) at.take(mark);
    at.blanks();
    if (is_letter(at.front())) {  // 13-Jun-2026, 13. Juni 2026
        const int month = month_of(at.letters());
        if (month == 0 || first.size() > 2) return false;
        at.take('.');
        if (!at.take(mark)) at.blanks();
        at.take(',');
        at.blanks();
        const auto year = at.digits();
        return (year.size() == 2 || year.size() == 4) && finish(full_year(year), month, whole_number(first));
    }
    if (mark == ' ') return false;
    const auto second = at.digits();
    if (second.empty() || second.size() > 2 || !at.take(mark)) return false;
    at.blanks();
    const auto third = at.digits();
    if (first.size() == 4)
        return !third.empty() && third.size() <= 2 &&
               finish(whole_number(first), whole_number(second), whole_number(third));
    if (third.size() != 2 && third.size() != 4) return false;
    double day = whole_number(first), month = whole_number(second);
    if (mark != '.') {
        out.day_or_month = day <= 12 && month <= 12 && day != month;
        if ((order == DateOrder::month_first && day <= 12) || month > 12) std::swap(day, month);
    }
    return finish(full_year(third), month, day);
}

/// "+02:00", "+0200", "+02", "Z", "UTC" behind a time.
bool take_zone(Cursor& at, TimeCell& out) {
    at.blanks();
    if (at.take("utc") || at.take("gmt") || at.take('z')) at.blanks();
    const char sign = at.front();
    if (sign != '+' && sign != '-') return true;
    at.take(sign);
    const auto hours = at.digits();
    double zone_s = 0;
    if (hours.size() == 4) {
        zone_s = whole_number(hours.substr(0, 2)) * 3600 + whole_number(hours.substr(2)) * 60;
    } else if (hours.size() == 2 || hours.size() == 1) {
        zone_s = whole_number(hours) * 3600;
        if (at.take(':')) {
            const auto minutes = at.digits();
            if (minutes.size() != 2) return false;
            zone_s += whole_number(minutes) * 60;
        }
    } else {
        return false;
    }
    if (zone_s > 15 * 3600) return false;
    out.zone_s = sign == '+' ? zone_s : -zone_s;
    return true;
}

double fraction(std::string_view digits) {
    double value = 0, place = 1;
    for (const char c : digits) value += (c - '0') * (place /= 10);
    return value;
}

/// A time of day or of a stop watch at the cursor: parts with colons, or six digits behind a date.
bool take_clock(Cursor& from, char decimal_sign, bool behind_date, TimeCell& out) {
    Cursor at = from;
    const auto first = at.digits();
    if (first.empty() || first.size() > 6) return false;
    double seconds = 0;
    int parts = 1;
    std::string_view last = first;
    if (behind_date && (first.size() == 6 || first.size() == 4) && at.front() != ':') {
        seconds = whole_number(first.substr(0, 2)) * 3600 + whole_number(first.substr(2, 2)) * 60 +
                  (first.size() == 6 ? whole_number(first.substr(4)) : 0);
        parts = 3;
    } else {
        seconds = whole_number(first);
        while (at.front() == ':' && parts < 4) {
            at.take(':');
            const auto digits = at.digits();
            if (parts == 3) {  // 13:47:31:250
                if (digits.size() != 3) return false;
                seconds += whole_number(digits) / 1000;
                parts = 4;
                break;
            }
            if (digits.empty() || digits.size() > 2) return false;
            seconds = seconds * 60 + whole_number(digits);
            last = digits;
            ++parts;
        }
        if (parts < 2 || (parts >= 3 && whole_number(last) > 60)) return false;
    }
    // "13:47" alone is hours and minutes behind a date; a stop watch shows minutes and seconds.
    bool has_fraction = parts == 4;
    if (parts < 4 && (at.front() == decimal_sign || at.front() == '.' || at.front() == ',')) {
        Cursor decimals = at;
        decimals.take(decimals.front());
        if (is_digit(decimals.front())) {
            seconds += fraction(decimals.digits());
            at = decimals;
            has_fraction = true;
        }
    }
    at.blanks();
    const bool afternoon = at.take("pm") || at.take("p.m.");
    const bool morning = !afternoon && (at.take("am") || at.take("a.m."));
    if (parts == 2 && !has_fraction && (behind_date || afternoon || morning)) seconds *= 60;
    if (afternoon || morning) {
        if (seconds >= 13 * 3600) return false;
        if (seconds >= 12 * 3600) seconds -= 12 * 3600;
        if (afternoon) seconds += 12 * 3600;
    }
    out.clock_s = seconds;
    from = at;
    return take_zone(from, out);
}

}  // namespace

std::optional<TimeCell> time_cell(std::string_view cell, char decimal_sign, DateOrder order) {
    cell = bare_cell(cell);
    if (cell.size() < 4 || cell.size() > 48) return std::nullopt;
    if (std::none_of(cell.begin(), cell.end(), is_digit)) return std::nullopt;
    const std::string text = lower(utf8_of(cell));
    Cursor at(text);
    TimeCell out;
    if (take_date(at, order, out)) {
        at.take(',');
        at.blanks();
        if (!at.take('t')) at.take('_');
        at.blanks();
        if (!at.done() && !take_clock(at, decimal_sign, true, out)) return std::nullopt;
    } else {
        if (!take_clock(at, decimal_sign, false, out)) return std::nullopt;
        at.blanks();
        if (!at.done() && !take_date(at, order, out)) return std::nullopt;
    }
    at.blanks();
    if (!at.done()) return std::nullopt;
    return out;
}

std::optional<double> parse_time_text(std::string_view cell, char decimal_sign, DateOrder order) {
    const auto time = time_cell(cell, decimal_sign, order);
    return time ? std::optional(time->seconds()) : std::nullopt;
}

}  // namespace rendak
