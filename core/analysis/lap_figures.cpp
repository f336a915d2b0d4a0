#include "core/analysis/lap_figures.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "core/analysis/lap_choice.h"
#include "core/analysis/line_fit.h"
#include "core/analysis/set_difference.h"
#include "core/analysis/watch.h"
#include "core/base/text.h"
#include "core/signal/quantity.h"
#include "core/units/compound_unit.h"

namespace rendak {
namespace {

constexpr std::array<std::pair<std::string_view, LapStatistic>, 8> words{{{"low", LapStatistic::low},
                                                                          {"mean", LapStatistic::mean},
                                                                          {"high", LapStatistic::high},
                                                                          {"end", LapStatistic::end},
                                                                          {"above", LapStatistic::above},
                                                                          {"below", LapStatistic::below},
                                                                          {"at", LapStatistic::at},
                                                                          {"touches", LapStatistic::touches}}};

/// The word up to the next blank, taken off the text.
std::string_view next_word(std::string_view& text) {
    text = trimmed(text);
    const std::size_t end = std::min(text.find(' '), text.size());
    const std::string_view word = text.substr(0, end);
    text = trimmed(text.substr(end));
    return word;
}

/// The same of a channel: a name with blanks stands between quotes.
std::string next_channel(std::string_view& text) {
    text = trimmed(text);
    const std::size_t end = text.starts_with('"') ? text.find('"', 1) : std::string_view::npos;
    if (end == std::string_view::npos) return std::string(next_word(text));
    const std::string_view name = text.substr(1, end - 1);
    text = trimmed(text.substr(end + 1));
    return std::string(name);
}

/// Where a column ends: at a ";" outside of quotes.
std::size_t column_end(std::string_view text) {
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '"') quoted = !quoted;
        if (text[i] == ';' && !quoted) return i;
    }
    return text.size();
}

/// A number taken off the text's begin.
std::optional<double> next_number(std::string_view& text) {
    text = trimmed(text);
    double value = 0;
    const auto [end, problem] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (problem != std::errc() || !std::isfinite(value)) return std::nullopt;
    text = trimmed(text.substr(static_cast<std::size_t>(end - text.data())));
    return value;
}

Result<LapColumn> one_column(std::string_view whole) {
    const auto wrong = [&](const std::string& why) { return fail(ErrorCode::bad_input, why, std::string(whole)); };
    std::string_view rest = whole;
    LapColumn out;
    out.channel = next_channel(rest);
    if (out.channel.empty()) return wrong("A column begins with a channel.");
    if (rest.empty()) return out;
    const std::string_view word = next_word(rest);
    const auto* const known =
        std::find_if(words.begin(), words.end(), [&](const auto& it) { return it.first == word; });
    if (known == words.end())
        return wrong("\"" + std::string(word) +
                     "\" is no figure of a lap: low, mean, high, end, above, below, at, or "
                     "touches.");
    out.statistic = known->second;
    if (out.statistic == LapStatistic::at) {
        const auto place = next_number(rest);
        if (!place || next_word(rest) != "m") return wrong("A place is so many metres behind the line: at 1200 m.");
        out.place_m = *place;
    } else if (out.statistic == LapStatistic::above || out.statistic == LapStatistic::below) {
        const auto limit = next_number(rest);
        if (!limit) return wrong("A limit is a number with its unit: above 95 °C.");
        out.limit = *limit;
        if (!rest.starts_with("in ")) out.limit_unit = std::string(next_word(rest));
        if (const auto unit = parse_compound_unit(out.limit_unit); !unit) return wrong(unit.error().message);
    }
    if (rest.empty()) return out;
    const auto corner = next_word(rest) == "in" && out.statistic != LapStatistic::at ? next_number(rest) : std::nullopt;
    if (!corner || !rest.empty() || *corner < 1 || *corner > 1000 || *corner != std::floor(*corner))
        return wrong("Behind the figure there is nothing more but the number of a corner: speed low in 5.");
    out.corner = static_cast<int>(*corner);
    return out;
}

/// Share of a straight piece from `a` to `b` that lies above the limit.
double share_above(double a, double b, double limit) {
    if (a > limit && b > limit) return 1;
    if (a <= limit && b <= limit) return 0;
    return (std::max(a, b) - limit) / std::abs(b - a);
}

/// Share of the known time of a stretch for which the channel lies above a limit; `first_s`, the first such moment.
LapFigure above_in(const Channel& channel, Interval time_s, double limit) {
    double known = 0, above = 0, first_s = std::nan("");
    double last_t = time_s.begin, last = channel.value_at(time_s.begin);
    const auto take = [&](double t, double value) {
        if (std::isfinite(last) && std::isfinite(value) && t > last_t) {
            const double share = channel.steps() ? (last > limit ? 1 : 0) : share_above(last, value, limit);
            known += t - last_t;
            above += share * (t - last_t);
            if (share > 0 && std::isnan(first_s)) first_s = last > limit ? last_t : t - share * (t - last_t);
        }
        last_t = t;
        last = value;
    };
    for (std::size_t i = channel.clock.first_at_or_after(time_s.begin); i < channel.size(); ++i) {
        if (channel.clock.time_at(i) >= time_s.end) break;
        take(channel.clock.time_at(i), channel.at(i));
    }
    take(time_s.end, channel.value_at(time_s.end));
    if (!(known > 0)) return {};
    return {above / known, first_s};
}

bool has_prefix(std::string_view name, std::initializer_list<std::string_view> prefixes) {
    return std::any_of(prefixes.begin(), prefixes.end(), [&](std::string_view it) { return name.starts_with(it); });
}

}  // namespace

std::string_view lap_statistic_name(LapStatistic statistic) {
    const auto* const found =
        std::find_if(words.begin(), words.end(), [&](const auto& it) { return it.second == statistic; });
    return found->first;
}

std::string LapColumn::text() const {
    const bool quoted = channel.find_first_of(" ;") != std::string::npos;
    std::string out = quoted ? "\"" + channel + "\"" : channel;
    if (!statistic) return out;
    out += " " + std::string(lap_statistic_name(*statistic));
    if (*statistic == LapStatistic::at) out += " " + exact_number(place_m) + " m";
    if (*statistic == LapStatistic::above || *statistic == LapStatistic::below) {
        out += " " + exact_number(limit);
        if (!limit_unit.empty()) out += " " + limit_unit;
    }
    if (corner > 0) out += " in " + std::to_string(corner);
    return out;
}

Result<std::vector<LapColumn>> lap_columns(std::string_view text) {
    std::vector<LapColumn> out;
    while (!text.empty()) {
        const std::size_t end = column_end(text);
        if (const std::string_view one = trimmed(text.substr(0, end)); !one.empty()) {
            auto column = one_column(one);
            if (!column) return pass_on(column.error());
            out.push_back(std::move(*column));
        }
        text.remove_prefix(std::min(end + 1, text.size()));
    }
    if (out.empty()) return fail(ErrorCode::bad_input, "No column is named.");
    return out;
}

namespace {

/// Lowest, mean and highest of the same samples are usually asked for one after another.
class LatestStatistics {
  public:
    const Statistics& of(const Channel& channel, std::size_t from, std::size_t to) {
        if (channel_ != &channel || from_ != from || to_ != to) {
            found_ = statistics(channel, from, to);
            channel_ = &channel;
            from_ = from;
            to_ = to;
        }
        return found_;
    }

  private:
    const Channel* channel_ = nullptr;
    std::size_t from_ = 0, to_ = 0;
    Statistics found_;
};

LapFigure figure_of(const PreparedLap& lap, const LapColumn& column, double limit, LatestStatistics& latest) {
    const Channel* channel = lap.recording->find(column.channel);
    if (channel == nullptr || !column.statistic) return {};
    const bool placed = lap.track != nullptr;
    if (column.needs_places() && !placed) return {};
    if (*column.statistic == LapStatistic::at) {
        if (column.place_m < 0 || column.place_m > lap.map.length_m()) return {};
        const double t = lap.map.time_at(column.place_m);
        return {channel->value_at(t), t};
    }
    Interval time_s{lap.map.start_s(), lap.map.end_s()};
    if (column.corner > 0) {
        const auto& corners = lap.track->corners;
        const auto found = std::find_if(corners.begin(), corners.end(),
                                        [&](const Corner& corner) { return corner.number == column.corner; });
        if (found == corners.end()) return {};
        time_s = {lap.map.time_at(found->start_m), lap.map.time_at(found->end_m)};
    }
    const std::size_t from = channel->clock.first_at_or_after(time_s.begin),
                      to = channel->clock.first_at_or_after(time_s.end);
    switch (*column.statistic) {
        case LapStatistic::low:
        case LapStatistic::mean:
        case LapStatistic::high: {
            const Statistics& found = latest.of(*channel, from, to);
            if (found.count == 0) return {};
            if (*column.statistic == LapStatistic::mean) return {found.mean, std::nan("")};
            const bool low = *column.statistic == LapStatistic::low;
            return {low ? found.low : found.high, channel->clock.time_at(low ? found.low_index : found.high_index)};
        }
        case LapStatistic::end:
            for (std::size_t i = to; i-- > from;) {
                if (std::isfinite(channel->at(i))) return {channel->at(i), channel->clock.time_at(i)};
            }
            return {};
        case LapStatistic::above:
            return above_in(*channel, time_s, limit);
        case LapStatistic::below: {
            // At the limit it is neither: a channel that rests there would be below it for ever.
            const LapFigure above = above_in(*channel, time_s, std::nextafter(limit, -1e300));
            return std::isnan(above.value) ? above : LapFigure{1 - above.value, std::nan("")};
        }
        case LapStatistic::touches: {
            const Statistics& found = latest.of(*channel, from, to);
            if (found.count == 0) return {};
            if (found.low >= limit) return {0, std::nan("")};
            return {static_cast<double>(road_touches(*channel, time_s, limit)),
                    channel->clock.time_at(found.low_index)};
        }
        case LapStatistic::at:
            break;
    }
    return {};
}

}  // namespace

std::vector<LapFigure> lap_figures(const PreparedLap& lap, std::span<const LapColumn> columns,
                                   std::span<const double> limits) {
    std::vector<LapFigure> out;
    LatestStatistics latest;
    for (std::size_t c = 0; c < columns.size(); ++c) out.push_back(figure_of(lap, columns[c], limits[c], latest));
    return out;
}

std::vector<LapStatistic> proposed_statistics(const Channel& channel, const std::vector<Interval>& laps_s) {
    constexpr double near_zero = 0.1, falls = 0.01;
    std::size_t rising = 0, told = 0;
    for (const Interval& lap : laps_s) {
        const std::size_t from = channel.clock.first_at_or_after(lap.begin),
                          to = channel.clock.first_at_or_after(lap.end);
        double first = std::nan(""), last = std::nan(""), highest = -1e300;
        bool fell = false;
        // The line lies between samples: the first and the last one may belong to the neighbours.
        for (std::size_t i = from + 1; i + 1 < to; ++i) {
            const double value = channel.at(i);
            if (!std::isfinite(value)) continue;
            if (std::isnan(first)) first = value;
            fell = fell || value < highest - falls * std::abs(highest);
            highest = std::max(highest, value);
            last = value;
        }
        if (std::isnan(first)) continue;
        ++told;
        rising += !fell && last > 0 && std::abs(first) <= near_zero * last ? 1 : 0;
    }
    if (told > 0 && 5 * rising >= 4 * told) return {LapStatistic::end};
    const Quantity* quantity = find_quantity(channel.quantity);
    if (has_prefix(channel.quantity, {"tyre_worn", "fuel"}) && channel.quantity != "fuel_pressure")
        return {LapStatistic::end};
    const std::string_view unit = channel.unit;
    const bool slow = unit == "K" || unit == "°C" || (unit == "Pa" && !has_prefix(channel.quantity, {"brake"}));
    const bool state = (quantity != nullptr && quantity->is_state) || channel.is_state;
    if (slow || state) return {LapStatistic::mean};
    return {LapStatistic::low, LapStatistic::mean, LapStatistic::high};
}

Better better_way(const LapColumn& column) {
    const std::string_view name = column.channel;
    if (column.statistic == LapStatistic::above || column.statistic == LapStatistic::below) return Better::neither;
    if (name == "lap_time" || column.statistic == LapStatistic::touches) return Better::less;
    if (name == "speed") return Better::more;
    if (has_prefix(name, {"coasting", "braking_time", "braking_distance", "braking_share", "tyre_worn"}))
        return Better::less;
    return Better::neither;
}

std::optional<LapTrend> lap_trend(const std::vector<double>& lap_numbers, const std::vector<double>& values) {
    const FinitePairs known = finite_pairs(lap_numbers, values);
    const LineFit line = fit_line(known.x, known.y);
    if (!line.known()) return std::nullopt;
    const double half = t_95(static_cast<double>(line.count) - 2) * line.slope_sd;
    LapTrend out{line.count, line.slope, {line.slope - half, line.slope + half}, line.sd};
    out.mean_lap = mean_value(known.x);
    out.mean = mean_value(known.y);
    for (const double x : known.x) out.apart += (x - out.mean_lap) * (x - out.mean_lap);
    return out;
}

double LapTrend::doubt_at(double lap) const {
    const auto n = static_cast<double>(laps);
    return t_95(n - 2) * scatter * std::sqrt(1 / n + (lap - mean_lap) * (lap - mean_lap) / apart);
}

}  // namespace rendak
