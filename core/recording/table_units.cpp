#include "core/recording/table_units.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <numbers>

#include "core/base/text.h"
#include "core/recording/motion.h"
#include "core/recording/speed_unit.h"
#include "core/units/gravity.h"
#include "core/units/unit.h"

namespace rendak {

Extent extent_of(const BodyColumn& column, std::size_t rows) {
    Extent out;
    // Eight side by side, so that the processor can compare them at once.
    const auto look = [&]<class T>(const T* values) {
        constexpr std::size_t side = 8;
        std::array<T, side> low, high;
        low.fill(std::numeric_limits<T>::infinity());
        high.fill(-std::numeric_limits<T>::infinity());
        std::array<std::uint32_t, side> filled{};
        const auto add = [&](std::size_t i, T value) {
            filled[i] += value == value;
            low[i] = value < low[i] ? value : low[i];
            high[i] = value > high[i] ? value : high[i];
        };
        std::size_t row = 0;
        for (; row + side <= rows; row += side)
            for (std::size_t i = 0; i < side; ++i) add(i, values[row + i]);
        for (; row < rows; ++row) add(0, values[row]);
        for (std::size_t i = 0; i < side; ++i) {
            out.filled += filled[i];
            out.low = std::min(out.low, static_cast<double>(low[i]));
            out.high = std::max(out.high, static_cast<double>(high[i]));
        }
    };
    column.is_double ? look(column.doubles.data()) : look(column.floats.data());
    return out;
}

void settle_thousands(TableRows& rows, BodyColumn& column) {
    const Extent extent = extent_of(column, rows.count);
    const auto fits = [&](double factor) {
        if (column.quantity == nullptr) return false;
        if (column.quantity->id == "time") return factor == 1;
        const auto unit = parse_unit(column.head->unit);
        const double size = std::max(std::abs(extent.low), std::abs(extent.high)) * factor;
        if (column.head->unit.empty() || !unit) {
            const UnitGuess guess = guess_unit(*column.quantity, extent.low * factor, extent.high * factor, {});
            return guess.fitting.size() == 1 && guess.reason.starts_with("by") &&
                   !(column.quantity->id == "engine_speed" && guess.fitting.front() != "rpm");
        }
        // In its own unit: is this among the units that fit?
        const UnitGuess guess = guess_unit(*column.quantity, -size, size, {});
        return std::any_of(guess.fitting.begin(), guess.fitting.end(), [&](const std::string& text) {
            const auto one = parse_unit(text);
            return one && one->dimension == unit->dimension && std::abs(one->factor / unit->factor - 1) < 1e-6;
        });
    };
    const bool as_decimal = fits(1), as_thousands = fits(1000);
    const char sign = column.head->decimal_sign;
    if (as_thousands && !as_decimal) {
        for (std::size_t row = 0; row < rows.count; ++row) {
            const double value = column.at(row) * 1000;
            column.set(row, std::abs(value) < 1e9 ? std::round(value) : value);
        }
        rows.say("Column \"" + column.head->name + "\": the " + (sign == ',' ? "comma" : "point") +
                 " stands between thousands; the values would be too small else.");
    } else if (as_decimal || rows.is_answered(column)) {
        rows.say("Column \"" + column.head->name + "\": the " + (sign == ',' ? "comma" : "point") +
                 " is taken as the decimal sign.");
    } else {
        const std::string id(column.quantity == nullptr ? "" : column.quantity->id), unit = column.head->unit;
        Question question{column.head->name,
                          std::string("Is the ") + (sign == ',' ? "comma" : "point") + " in column \"" +
                              column.head->name + "\" a decimal sign, or does it stand between thousands?",
                          {}};
        const std::string take = column.head->name + "=" + id + ":";
        question.answers = {{take + (unit.empty() ? "1" : unit), "a decimal sign"},
                            {take + "1000 " + (unit.empty() ? "1" : unit), "between thousands"}};
        rows.questions.push_back(std::move(question));
    }
}

TableUnits::TableUnits(TableRows& rows, const std::vector<double>& times_s)
    : rows_(rows),
      times_s_(times_s),
      seen_(rows.lively_rows()),
      seen_times_(std::span(times_s).subspan(seen_.from, seen_.to - seen_.from)) {
    const BodyColumn* latitude = rows.find("latitude");
    const BodyColumn* longitude = rows.find("longitude");
    if (latitude != nullptr && longitude != nullptr) {
        latitude_ = rows.values(*latitude, seen_.from, seen_.to);
        longitude_ = rows.values(*longitude, seen_.from, seen_.to);
    }
    find_hints();
    find_speed_unit();
}

void TableUnits::find_hints() {
    for (const BodyColumn& column : rows_.columns) {
        const std::string unit = lower(column.head->unit);
        hints_.metric |=
            unit == "km/h" || unit == "kmh" || unit == "bar" || unit == "°c" || unit == "kpa" || unit == "mm";
        hints_.imperial |= unit == "mph" || unit == "psi" || unit == "°f" || unit == "in" || unit == "ft";
    }
    if (const BodyColumn* speed = rows_.find("speed")) {
        const Extent extent = extent_of(*speed, rows_.count);
        hints_.moves = extent.filled > 0 && extent.high - extent.low > 5;
    }
}

/// The unit of a speed without one: by the positions, else by the acceleration along.
void TableUnits::find_speed_unit() {
    const BodyColumn* speed = rows_.find("speed");
    if (speed == nullptr || !speed->head->unit.empty()) return;
    const std::vector<double> values = rows_.values(*speed, seen_.from, seen_.to);
    speed_unit_ = speed_unit_from_positions(seen_times_, latitude_, longitude_, values);
    speed_reason_ = "by the distance between positions";
    if (!speed_unit_.empty()) return;
    BodyColumn* along = rows_.find("longitudinal_acceleration");
    if (along == nullptr) return;
    double per_unit = standard_gravity_mps2;
    if (const auto unit = parse_unit(along->head->unit); !along->head->unit.empty()) {
        if (!unit || unit->dimension != Dimension{1, 0, -2, 0, 0, 0}) return;
        per_unit = unit->factor;
    } else {
        const Extent extent = extent_of(*along, rows_.count);
        const UnitGuess guess = guess_unit(*along->quantity, extent.low, extent.high, {along->head->name});
        if (guess.fitting.size() != 1) return;
        per_unit = parse_unit(guess.fitting.front())->factor;
    }
    std::vector<double> acceleration = rows_.values(*along, seen_.from, seen_.to);
    for (double& a : acceleration) a *= per_unit;
    speed_unit_ = speed_unit_from_acceleration(seen_times_, acceleration, values);
    speed_reason_ = "by the acceleration along";
}

void TableUnits::ask(const BodyColumn& column, std::string text, const std::vector<std::string>& units,
                     std::string_view quantity) {
    Question question{column.head->name, std::move(text), {}};
    for (const std::string& unit : units) {
        const std::string take = column.head->name + "=" + std::string(quantity) + ":" + (unit.empty() ? "1" : unit);
        question.answers.push_back({take, unit.empty() ? "0 to 1" : unit});
    }
    question.answers.push_back({column.head->name + "=", "keep it under its name only"});
    rows_.questions.push_back(std::move(question));
}

/// The unit to convert from: the one named, else the likeliest one, which is said. nullopt: asked for.
std::optional<std::string> TableUnits::unit_of(const BodyColumn& column, const Extent& extent) {
    const TableColumn& head = *column.head;
    if (column.quantity == nullptr) return head.unit;
    const std::string_view id = column.quantity->id;
    if (!head.unit.empty()) return named_unit(column, extent);
    if (id == "time" || id == "lap_time") return running_unit(column);
    if (id == "heading") return in_radians(column, extent) ? "rad" : "deg";
    if (id == "latitude" || id == "longitude") return "deg";
    if (id == "speed" && !speed_unit_.empty()) {
        rows_.say("Column \"" + head.name + "\" names no unit: taken as " + speed_unit_ + " " + speed_reason_ + ".");
        return speed_unit_;
    }
    return guessed_unit(column, extent);
}

/// A unit that is named, unless the values say that it cannot be.
std::optional<std::string> TableUnits::named_unit(const BodyColumn& column, const Extent& extent) {
    const TableColumn& head = *column.head;
    const std::string_view id = column.quantity->id;
    const bool pedal = id == "throttle" || id == "brake" || id == "clutch";
    const auto unit = parse_unit(head.unit);
    if (pedal && hints_.moves && !rows_.is_answered(column) && unit && unit->symbol == "%" && extent.high <= 1.05 &&
        extent.high > 0.15 && extent.low >= -0.1) {
        rows_.say("Column \"" + head.name + "\" says %, but never goes beyond " + fixed(extent.high, 2) +
                  " while the car is driven; it is taken as 0 to 1.");
        return "1";
    }
    if (id == "heading" && !rows_.is_answered(column) && in_radians(column, extent)) return "rad";
    // "grad" is a degree in some languages, and a hundredth of a right angle in others.
    if (id == "heading" && !rows_.is_answered(column) && lower(head.unit) == "grad" && extent.high > 361) return "gon";
    if (column.quantity->id.ends_with("acceleration") && lower(head.unit) == "gal") return "cm/s²";  // not gallons
    if (id == "speed" && !rows_.is_answered(column)) {
        const SpeedAgainstPositions driven = speed_against_positions(column);
        if (!driven.unit.empty()) {
            rows_.say("\"" + head.name + "\" says " + head.unit + (unit ? ", but" : ", which is not known;") +
                      " its values are in " + driven.unit + " by the change of position; they are taken as " +
                      driven.unit + ".");
            return driven.unit;
        }
        if (driven.far_off) {
            ask(column,
                "Column \"" + head.name + "\" says " + head.unit +
                    ", but by the change of position the car went at another speed, and in no usual unit. What is it?",
                {head.unit}, id);
            return std::nullopt;
        }
    }
    return contradicted(column, extent) ? std::nullopt : std::optional(head.unit);
}

/// By what the quantity does in a car that is driven.
std::optional<std::string> TableUnits::guessed_unit(const BodyColumn& column, const Extent& extent) {
    const TableColumn& head = *column.head;
    const std::string_view id = column.quantity->id;
    UnitHints hints = hints_;
    hints.name = head.name;
    const UnitGuess guess = guess_unit(*column.quantity, extent.low, extent.high, hints);
    if (guess.fitting.size() == 1) {
        const std::string& unit = guess.fitting.front();
        if (!unit.empty())
            rows_.say("Column \"" + head.name + "\" names no unit: taken as " + unit + " " + guess.reason + ".");
        else if (column.quantity->decimals == 0 && column.quantity->shown_unit == "%")
            rows_.say("Column \"" + head.name + "\" names no unit: taken as 0 to 1 " + guess.reason + ".");
        return unit;
    }
    if (guess.fitting.empty() && extent.filled > 0) {
        ask(column,
            "Column \"" + head.name + "\" names no unit, and its values (" + fixed(extent.low, 2) + " to " +
                fixed(extent.high, 2) + ") fit none. What is it?",
            {std::string(column.quantity->shown_unit)}, id);
        return std::nullopt;
    }
    std::string text = "Column \"" + head.name + "\" names no unit, and its values (" + fixed(extent.low, 2) + " to " +
                       fixed(extent.high, 2) + ") may be ";
    for (std::size_t i = 0; i < guess.fitting.size(); ++i)
        text += (i == 0                          ? ""
                 : i + 1 == guess.fitting.size() ? " or "
                                                 : ", ") +
                (guess.fitting[i].empty() ? "0 to 1" : guess.fitting[i]);
    // What an answer names is a pressure where its unit is one.
    ask(column, text + ". Which is it?", guess.fitting, id);
    return std::nullopt;
}

TableUnits::SpeedAgainstPositions TableUnits::speed_against_positions(const BodyColumn& column) const {
    const std::vector<double> values = rows_.values(column, seen_.from, seen_.to);
    const auto named = parse_unit(column.head->unit);
    const auto way = travelled({seen_times_, latitude_, longitude_, values});
    if (!way || way->spread > 0.05 || way->by_position < 60) return {};
    const double off = named ? std::abs(std::log(way->by_speed * named->factor / way->by_position)) : 10;
    if (off < 0.2) return {};
    // Wheels that are entered too large are no other unit.
    return {speed_unit_from_positions(seen_times_, latitude_, longitude_, values), off > 0.7};
}

/// A unit that is not known, or that makes the values beyond anything a car does: asked for.
bool TableUnits::contradicted(const BodyColumn& column, const Extent& extent) {
    const TableColumn& head = *column.head;
    const Quantity& quantity = *column.quantity;
    if (rows_.is_answered(column) || (quantity.id == "speed" && !latitude_.empty())) return false;
    const bool known = is_unit(head.unit);
    const double size = usual_size(column);
    if (known && !is_beyond(quantity, head.name, head.unit, size, hints_.moves)) return false;
    UnitHints hints = hints_;
    hints.name = head.name;
    std::vector<std::string> units = guess_unit(quantity, extent.low, extent.high, hints).fitting;
    if (known) units.push_back(head.unit);
    if (!known && units.empty()) units.emplace_back(quantity.shown_unit);
    const std::string values = "its values (" + fixed(extent.low, 2) + " to " + fixed(extent.high, 2) + ")";
    ask(column,
        known ? "Column \"" + head.name + "\" says " + head.unit + ", but " + values +
                    " are beyond what a car does in that. Which unit is it?"
              : "Column \"" + head.name + "\" names the unit \"" + head.unit + "\", which is not known; " + values +
                    " are in what?",
        units, quantity.id);
    return true;
}

/// The size that all but the largest hundredth of the values keep to: a fault's spikes are no contradiction.
double TableUnits::usual_size(const BodyColumn& column) const {
    std::vector<double> sizes;
    const std::size_t stride = std::max<std::size_t>(1, rows_.count / 20'000);
    for (std::size_t row = 0; row < rows_.count; row += stride) {
        const double size = std::abs(column.at(row));
        if (std::isfinite(size)) sizes.push_back(size);
    }
    if (sizes.empty()) return 0;
    const auto at = sizes.begin() + static_cast<std::ptrdiff_t>(sizes.size() * 99 / 100);
    std::nth_element(sizes.begin(), at, sizes.end());
    return *at;
}

/// A heading that never leaves 0 … 2π although the car goes round.
bool TableUnits::in_radians(const BodyColumn& column, const Extent& extent) const {
    constexpr double turn = 2 * std::numbers::pi;
    if (extent.high > turn + 0.01 || extent.low < -turn || extent.high - extent.low < 3) return false;
    const auto unit = parse_unit(column.head->unit);
    if (unit && unit->symbol == "rad") return true;
    if (latitude_.empty()) return true;
    // The way the positions go.
    double same = 0, count = 0;
    std::size_t last = 0;
    for (std::size_t i = 1; i < latitude_.size(); ++i) {
        const double north = latitude_[i] - latitude_[last],
                     east = (longitude_[i] - longitude_[last]) * std::cos(latitude_[i] * std::numbers::pi / 180);
        if (!(std::hypot(north, east) > 3e-5)) {
            if (std::isnan(north + east)) last = i;
            continue;
        }
        const double driven = std::atan2(east, north), said = column.at(seen_.from + (i + last) / 2);
        last = i;
        if (std::isnan(said)) continue;
        same += std::cos(driven - said);
        ++count;
    }
    return count < 3 || same > 0.8 * count;
}

/// A time beside the clock of the rows: in what it runs against that.
std::string TableUnits::running_unit(const BodyColumn& column) const {
    std::vector<double> ratios;
    for (std::size_t i = 1; i < rows_.count; ++i) {
        const double step = column.at(i) - column.at(i - 1);
        if (step > 0) ratios.push_back(step / (times_s_[i] - times_s_[i - 1]));
    }
    const double ratio = median_finite(std::move(ratios));
    if (column.head->kind == TableColumn::Kind::time_text) return "s";
    for (const auto& [per_s, unit] : {std::pair{1.0, "s"}, {1e3, "ms"}, {1e6, "µs"}, {1.0 / 60, "min"}}) {
        if (std::abs(ratio / per_s - 1) < 0.2) return unit;
    }
    return {};
}

}  // namespace rendak
