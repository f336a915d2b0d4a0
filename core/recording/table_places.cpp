#include "core/recording/table_places.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <span>

#include "core/base/median.h"
#include "core/base/text.h"
#include "core/recording/motion.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

using Kind = TableColumn::Kind;
constexpr Dimension acceleration{1, 0, -2, 0, 0, 0}, angle{0, 0, 0, 0, 0, 1}, time_{0, 0, 1, 0, 0, 0};

struct Span {
    double low = 0, high = 0, step = 0;  ///< step: the median change from row to row
    bool whole = true;
    [[nodiscard]] double furthest() const { return std::max(std::abs(low), std::abs(high)); }
};

Span span_of(const TableRows& rows, const BodyColumn& column) {
    Span out{1e300, -1e300, 0, true};
    std::vector<double> steps;
    // Of hours some steps say enough; an odd number of rows apart, so that every row of a held position comes up.
    const std::size_t stride = (1 + rows.count / 200'000) | 1U;
    double last = std::nan("");
    for (std::size_t row = 0; row < rows.count; ++row) {
        const double value = column.at(row);
        if (std::isnan(value)) continue;
        out.low = std::min(out.low, value);
        out.high = std::max(out.high, value);
        out.whole = out.whole && value == std::floor(value);
        if (value != last && row % stride == 0) steps.push_back(std::abs(value - last));
        last = value;
    }
    column.let_go();
    std::erase_if(steps, [](double x) { return !std::isfinite(x); });
    out.step = steps.empty() ? 0 : median_of(std::move(steps));
    if (out.low > out.high) out = {};
    return out;
}

/// Degrees and minutes in one number: 5114.07 is 51° 14.07'.
double from_degrees_minutes(double value) {
    const double size = std::abs(value), degrees = std::floor(size / 100);
    const double out = degrees + (size - degrees * 100) / 60;
    return value < 0 ? -out : out;
}

bool are_degrees_minutes(const TableRows& rows, const BodyColumn& column, double most_degrees) {
    for (std::size_t row = 0; row < rows.count; ++row) {
        const double size = std::abs(column.at(row));
        if (std::isnan(size)) continue;
        if (std::fmod(size, 100) >= 60 || size / 100 > most_degrees) return false;
    }
    return true;
}

void scale(const TableRows& rows, BodyColumn& column, double factor) {
    for (std::size_t row = 0; row < rows.count; ++row) column.set(row, column.at(row) * factor);
}

/// "lat_n", "Lon W", "Longitude (West)": the sign that the name gives; the letters come off.
int sign_of_name(BodyColumn& column) {
    const std::string name = folded(column.head->name), unit = folded(column.head->unit);
    for (const std::string_view letters : {"n", "north", "e", "east", "s", "south", "w", "west"}) {
        if (unit != letters || column.head->unit.find_first_of("\xB0\xBA'") != std::string::npos) continue;
        column.head->unit.clear();  // "Latitude (S)"
        return letters.front() == 's' || letters.front() == 'w' ? -1 : 1;
    }
    if (name.ends_with("s") && (name == "lats" || name == "latitudes" || name == "gpslats")) return -1;
    if (name.ends_with("w") && (name == "lonw" || name == "longw" || name == "longitudew" || name == "lngw")) return -1;
    return name.ends_with("south") || name.ends_with("west") ? -1 : 1;
}

/// Whether a column says degrees, or nothing.
bool says_degrees(const TableColumn& head) {
    const auto unit = parse_unit(head.unit);
    return head.unit.empty() ||
           (unit && unit->dimension == angle && std::abs(unit->factor * 180 / std::numbers::pi - 1) < 1e-9);
}

/// Digits before the decimal sign of a cell as it is written, leading zeros included; 0 without a sign.
std::size_t whole_digits(const TableColumn& head) {
    std::string_view cell = head.example;
    if (!cell.empty() && (cell.front() == '-' || cell.front() == '+')) cell.remove_prefix(1);
    const std::size_t digits = std::min(cell.find_first_not_of("0123456789"), cell.size());
    return digits < cell.size() && cell[digits] == head.decimal_sign ? digits : 0;
}

/// Whether both columns have degrees and minutes in one number: one that shows it tells for the other, too, which may
/// lie near the equator or Greenwich.
bool have_minutes(const TableRows& rows, const BodyColumn& latitude, const BodyColumn& longitude) {
    const auto could = [&](const BodyColumn& column, bool is_latitude) {
        return column.head->kind == Kind::number && says_degrees(*column.head) && !column.in_degrees &&
               are_degrees_minutes(rows, column, is_latitude ? 90 : 180);
    };
    const auto beyond = [&](const BodyColumn& column, double most) {
        const Span span = span_of(rows, column);
        return span.furthest() > most && !(span.whole && span.furthest() > 1e5);
    };
    if (!could(latitude, true) || !could(longitude, false)) return false;
    // "0018.0239" and "00024.0773": as many digits as degrees and minutes have, and nobody writes degrees so.
    return beyond(latitude, 90) || beyond(longitude, 360) ||
           (whole_digits(*latitude.head) == 4 && whole_digits(*longitude.head) == 5);
}

/// The letters of a hemisphere for this column: the nearest column of such on its right, else on its left.
BodyColumn* letters_of(TableRows& rows, const BodyColumn& column, bool north_south) {
    BodyColumn* best = nullptr;
    std::ptrdiff_t nearest = 1000;
    for (BodyColumn& other : rows.columns) {
        if (other.head->kind != Kind::hemisphere || !other.wanted) continue;
        const std::string name = folded(other.head->name);
        const bool says_ns = name.find("ns") != std::string::npos || name.find("lat") != std::string::npos;
        const bool says_ew = name.find("ew") != std::string::npos || name.find("lon") != std::string::npos ||
                             name.find("we") != std::string::npos;
        if (says_ns != says_ew && says_ns != north_south) continue;
        std::ptrdiff_t distance = &other - &column;
        if (distance < 0) distance = 1 - 2 * distance;
        if (distance < nearest) {
            nearest = distance;
            best = &other;
        }
    }
    return nearest <= 5 ? best : nullptr;
}

/// A column turned into degrees; false when it cannot be a place.
bool to_degrees(TableRows& rows, BodyColumn& column, bool is_latitude, bool with_minutes) {
    const double most = is_latitude ? 90 : 360;
    TableColumn& head = *column.head;
    if (head.kind == Kind::hemisphere) return false;
    if (BodyColumn* letters = letters_of(rows, column, is_latitude)) {
        for (std::size_t row = 0; row < rows.count; ++row) {
            const double sign = letters->at(row);
            column.set(row, std::isnan(sign) ? std::nan("") : std::copysign(column.at(row), sign));
        }
    } else if (head.kind == Kind::number && sign_of_name(column) < 0) {
        scale(rows, column, -1);
        rows.say("Column \"" + head.name + "\" counts towards " + (is_latitude ? "south" : "west") +
                 "; its signs are turned round.");
    }
    const std::string unit_text = folded(head.unit);
    const auto unit = parse_unit(head.unit);
    const Span span = span_of(rows, column);
    std::string told;
    const bool named_angle = unit && unit->dimension == angle;
    if (column.in_degrees) {
        // Cells of a column may be written both ways only by accident: each was understood by itself.
    } else if (unit && unit->dimension == time_ && std::abs(unit->factor - 60) < 1e-9) {
        scale(rows, column, 1.0 / 60);
        told = "minutes of arc";
    } else if (with_minutes || unit_text.starts_with("ddmm") || unit_text.starts_with("dddmm") ||
               unit_text.find("nmea") != std::string::npos) {
        for (std::size_t row = 0; row < rows.count; ++row) column.set(row, from_degrees_minutes(column.at(row)));
        told = "degrees and minutes in one number";
    } else if (named_angle && !says_degrees(head)) {
        scale(rows, column, unit->factor * 180 / std::numbers::pi);
    } else if (!head.unit.empty() && !named_angle && !(unit && unit->dimension == Dimension{})) {
        return false;
    } else if (span.furthest() > most) {
        if (are_degrees_minutes(rows, column, is_latitude ? 90 : 180) && !(span.whole && span.furthest() > 1e5)) {
            for (std::size_t row = 0; row < rows.count; ++row) column.set(row, from_degrees_minutes(column.at(row)));
            told = "degrees and minutes in one number";
        } else if (span.furthest() > 1e5) {
            // Ten-millionths are the habit; what else fits is tried against the speed, check_places().
            const double factor = span.furthest() * 1e-7 > (is_latitude ? 90 : 180) ? 1e-9 : 1e-7;
            scale(rows, column, factor);
            column.parts_of_degree = factor;
        } else {
            return false;
        }
    }
    if (!told.empty()) rows.say("Column \"" + head.name + "\" is read as " + told + ".");
    for (std::size_t row = 0; row < rows.count; ++row) {
        const double value = column.at(row);
        if (value > 180 && value <= 360) column.set(row, value - 360);
    }
    column.let_go();
    head.unit = "deg";
    return true;
}

/// "Lat" and "Long" that are no places but accelerations.
bool become_accelerations(TableRows& rows, BodyColumn& latitude, BodyColumn& longitude) {
    const auto in_g = [](const BodyColumn& column) {
        const auto unit = parse_unit(column.head->unit);
        return !column.head->unit.empty() && unit && unit->dimension == acceleration;
    };
    bool are = in_g(latitude) && in_g(longitude);
    if (!are && latitude.head->unit.empty() && longitude.head->unit.empty() && latitude.head->kind == Kind::number &&
        longitude.head->kind == Kind::number) {
        const Span a = span_of(rows, latitude), b = span_of(rows, longitude);
        // No car comes by a hundredth of a degree, a kilometre, from row to row again and again.
        are = a.furthest() < 60 && b.furthest() < 60 && (a.low < 0 || b.low < 0) && a.high - a.low > 0.2 &&
              b.high - b.low > 0.2 && (a.step > 2e-3 || b.step > 2e-3) &&
              std::max(a.step, b.step) > 5e-4 * std::max(a.high - a.low, b.high - b.low) &&
              (a.high - a.low > 1.0 || b.high - b.low > 1.0);
    }
    if (!are) return false;
    latitude.quantity = find_quantity("lateral_acceleration");
    longitude.quantity = find_quantity("longitudinal_acceleration");
    rows.say("\"" + latitude.head->name + "\" and \"" + longitude.head->name +
             "\" are accelerations, across and along: they change as no position does.");
    return true;
}

/// Whole numbers may count ten-millionths of a degree or millionths: the speed tells, else it is asked.
void settle_parts(TableRows& rows, BodyColumn& latitude, BodyColumn& longitude, const std::vector<double>& times_s) {
    if (latitude.parts_of_degree == 0 || longitude.parts_of_degree == 0) return;
    const double fit = std::max(latitude.parts_of_degree, longitude.parts_of_degree);
    const std::vector<double> north = rows.values(latitude), east = rows.values(longitude);
    const Span a = span_of(rows, latitude), b = span_of(rows, longitude);
    std::vector<double> could_be;
    std::vector<double> per_mps;
    const BodyColumn* speed = rows.find("speed");
    std::vector<double> driven;
    if (speed != nullptr) {
        driven = rows.values(*speed);
        const auto unit = parse_unit(speed->head->unit);
        if (unit && unit->dimension == Dimension{1, 0, -1, 0, 0, 0}) per_mps = {1 / unit->factor};
    }
    // The last is the half circle in 31 bits, which is tried against a speed only.
    for (const double times : {1.0, 10.0, 100.0, 180e7 / 2147483648.0}) {
        if (a.furthest() * times > 90 || b.furthest() * times > 180) continue;
        std::vector<double> y = north, x = east;
        for (double& value : y) value *= times;
        for (double& value : x) value *= times;
        if (!per_mps.empty()) {
            const auto way = travelled({times_s, y, x, driven});
            if (way && std::abs(std::log(way->by_position / way->by_speed * per_mps.front())) < 0.08) {
                could_be = {times};
                break;
            }
            if (way) continue;
        }
        if (times < 1) continue;
        const double fast = median_finite(speed_between({times_s, y, x, {}}));
        if (fast > 2 && fast < 110) could_be.push_back(times);
    }
    if (could_be.size() > 1) {
        Question question{latitude.head->name,
                          "Do \"" + latitude.head->name + "\" and \"" + longitude.head->name +
                              "\" count ten-millionths or millionths of a degree?",
                          {}};
        for (const double times : could_be) {
            char unit[24];
            std::snprintf(unit, sizeof unit, "%.0e deg", fit * times);
            question.answers.push_back(
                {latitude.head->name + "=latitude:" + unit + "\n" + longitude.head->name + "=longitude:" + unit, unit});
        }
        rows.questions.push_back(std::move(question));
        return;
    }
    const double times = could_be.empty() ? 1 : could_be.front();
    scale(rows, latitude, times);
    scale(rows, longitude, times);
    char text[24];
    std::snprintf(text, sizeof text, "%.4g", fit * times);
    rows.say("The positions are whole numbers, read as " + std::string(text) + " of a degree.");
}

}  // namespace

void read_places(TableRows& rows) {
    BodyColumn* latitude = rows.find("latitude");
    BodyColumn* longitude = rows.find("longitude");
    for (BodyColumn& column : rows.columns) {
        if (column.wanted && column.head->kind == Kind::place_pair && column.longitude != nullptr) {
            latitude = &column;
            longitude = column.longitude;
        }
    }
    if (latitude != nullptr && longitude != nullptr && become_accelerations(rows, *latitude, *longitude)) return;
    const std::string said = "is not used as a position: its values are no degrees.";
    const auto swapped = [&] {
        // A latitude beyond 90 with a longitude below: the two are swapped, unless it is written another way.
        if (latitude == nullptr || longitude == nullptr || latitude->head->kind != Kind::number ||
            longitude->head->kind != Kind::number)
            return false;
        const Span a = span_of(rows, *latitude), b = span_of(rows, *longitude);
        return says_degrees(*latitude->head) && says_degrees(*longitude->head) && a.furthest() > 90 &&
               a.furthest() <= 180 && b.furthest() <= 90 && a.high - a.low < 5;
    }();
    if (swapped) {
        std::swap(latitude->quantity, longitude->quantity);
        std::swap(latitude, longitude);
        rows.say("The columns of latitude and longitude are swapped: no latitude goes beyond 90°.");
    }
    const bool with_minutes = latitude != nullptr && longitude != nullptr && have_minutes(rows, *latitude, *longitude);
    if (latitude != nullptr && !to_degrees(rows, *latitude, true, with_minutes)) {
        latitude->quantity = nullptr;
        rows.say("Column \"" + latitude->head->name + "\" " + said);
    }
    if (longitude != nullptr && !to_degrees(rows, *longitude, false, with_minutes)) {
        longitude->quantity = nullptr;
        rows.say("Column \"" + longitude->head->name + "\" " + said);
    }
    for (BodyColumn& column : rows.columns) {
        if (column.head->kind == Kind::hemisphere) column.wanted = false;  // its letters are signs by now
    }
}

void check_places(TableRows& rows, const std::vector<double>& times_s) {
    BodyColumn* latitude = rows.find("latitude");
    BodyColumn* longitude = rows.find("longitude");
    if (latitude == nullptr || longitude == nullptr) return;
    settle_parts(rows, *latitude, *longitude, times_s);
    const BodyColumn* speed = rows.find("speed");
    if (speed == nullptr) return;
    const TableRows::Stretch seen = rows.lively_rows();
    const auto times = std::span(times_s).subspan(seen.from, seen.to - seen.from);
    const std::vector<double> north = rows.values(*latitude, seen.from, seen.to),
                              east = rows.values(*longitude, seen.from, seen.to),
                              driven = rows.values(*speed, seen.from, seen.to);
    const auto as_told = travelled({times, north, east, driven});
    const auto turned = travelled({times, east, north, driven});
    if (as_told && turned && as_told->spread > 0.04 && turned->spread < 0.4 * as_told->spread) {
        std::swap(latitude->quantity, longitude->quantity);
        rows.say("The columns of latitude and longitude are swapped: only so they agree with the speed.");
        return;
    }
    // A place that was read in the wrong way moves sixty times too slowly, or ten million times too fast.
    const auto unit = parse_unit(speed->head->unit);
    if (!as_told || as_told->by_speed <= 0 || !unit || unit->dimension != Dimension{1, 0, -1, 0, 0, 0}) return;
    const double against = as_told->by_position / as_told->by_speed / unit->factor;
    if (std::abs(std::log(against)) < std::log(8.0) || rows.is_answered(*latitude)) return;
    char as_fast[24];
    std::snprintf(as_fast, sizeof as_fast, "%.3g", against);
    rows.say("\"" + latitude->head->name + "\" and \"" + longitude->head->name +
             "\" are not used as positions: by them the car is " + as_fast + " times as fast as by its speed.");
    latitude->quantity = longitude->quantity = nullptr;
}

}  // namespace rendak
