#include "core/recording/table_head.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/recording/cell_number.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

using HeadCells = std::vector<std::string_view>;

bool looks_like_units(const HeadCells& cells) {
    std::size_t filled = 0, units = 0;
    for (const auto cell : cells) {
        if (cell.empty()) continue;
        ++filled;
        std::string text = utf8_of(cell);
        if (text.size() > 2 && std::string_view("[({<").find(text.front()) != std::string_view::npos)
            text = text.substr(1, text.size() - 2);
        units += is_unit(text) && match_quantity(text) == nullptr;
        // "s" and "g" are units as well as names; alone in a row they are units.
        units += is_unit(text) && match_quantity(text) != nullptr && text.size() <= 3;
    }
    return filled > 0 && units * 10 >= filled * 6;
}

bool is_mostly_values(const HeadCells& cells, char decimal_sign) {
    std::size_t filled = 0, values = 0;
    for (const auto cell : cells) {
        if (cell.empty()) continue;
        ++filled;
        const auto number = loose_number(cell, decimal_sign);
        values += (number && number->rest.empty()) || time_cell(cell, decimal_sign).has_value();
    }
    return filled > 0 && values * 2 > filled;
}

/// Names with a line break or several blanks, as one line.
std::string one_line(std::string_view cell) {
    std::string out;
    for (const char c : utf8_of(cell)) {
        const bool blank = c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == '\0';
        if (!blank)
            out += c;
        else if (!out.empty() && out.back() != ' ')
            out += ' ';
    }
    return std::string(trimmed(out));
}

std::size_t known_names(const HeadCells& cells) {
    return static_cast<std::size_t>(std::count_if(cells.begin(), cells.end(), [](std::string_view cell) {
        TableColumn column;
        column.name = one_line(cell);
        if (column.name.empty()) return false;
        take_unit_off(column);
        return match_quantity(column.name) != nullptr || !column.unit.empty();
    }));
}

/// Whether a unit behind a name can be meant as that: "lat_n" are no newtons.
bool fits(const std::string& unit_text, std::string_view name) {
    const auto unit = parse_unit(unit_text);
    const Quantity* quantity = match_quantity(name);
    if (!unit || quantity == nullptr) return false;
    const auto stored = parse_unit(quantity->unit);
    return unit->dimension == stored->dimension || unit->dimension == Dimension{} ||
           (quantity->id == "brake" && unit->dimension == parse_unit("Pa")->dimension) ||
           (quantity->id == "engine_speed" && unit->dimension == Dimension{0, 0, -1, 0, 0, 0});
}

bool has_any(std::string_view text, std::initializer_list<std::string_view> words) {
    return std::any_of(words.begin(), words.end(),
                       [&](std::string_view word) { return text.find(word) != std::string_view::npos; });
}

/// "Sample rate,50", "Interval [ms];20", "# Sample rate: 50 Hz", "Date,2026-06-13".
void read_note(std::string_view line, TableShape& shape) {
    auto cells = split_cells(line, shape.delimiter);
    std::erase_if(cells, [](std::string_view cell) { return cell.empty(); });
    if (cells.size() == 1) {
        const auto mark = cells[0].find_first_of(":=");
        if (mark == std::string_view::npos) return;
        const std::string_view whole = cells[0];
        cells = {trimmed(whole.substr(0, mark)), trimmed(whole.substr(mark + 1))};
    }
    if (cells.size() < 2) return;
    TableColumn head;
    head.name = one_line(cells[0]);
    while (!head.name.empty() && std::string_view("#;:/*% ").find(head.name.front()) != std::string_view::npos)
        head.name.erase(0, 1);
    while (!head.name.empty() && (head.name.back() == ':' || head.name.back() == '=' || head.name.back() == ' '))
        head.name.pop_back();
    take_unit_off(head);
    const std::string key = lower(head.name);
    const auto number = loose_number(cells[1], shape.decimal_sign);
    const bool rate = has_any(key, {"rate", "frequency", "frequenz", "fréquence", "frecuencia", "frequenza"});
    const bool interval = has_any(key, {"interval", "period", "sample time", "time step", "timestep", "abtastzeit"});
    if ((rate || interval) && number && number->value > 0) {
        std::string unit_text = number->rest.empty() ? head.unit : utf8_of(number->rest);
        if (unit_text.empty() && cells.size() > 2) unit_text = utf8_of(cells[2]);
        if (const auto stated = stated_rate(number->value, unit_text, !rate)) shape.rate_hz = stated;
        return;
    }
    if (!has_any(key, {"date", "datum", "fecha", "time", "zeit", "heure", "hora", "recorded", "start"})) return;
    for (std::size_t i = 1; i < std::min<std::size_t>(cells.size(), 3); ++i) {
        const auto time = time_cell(cells[i], shape.decimal_sign);
        if (!time || time->day_or_month) continue;
        if (time->date_s && !shape.date_s) shape.date_s = *time->date_s - time->zone_s;
        if (time->clock_s && !shape.clock_s && cells[i].find(':') != cells[i].rfind(':')) shape.clock_s = time->clock_s;
    }
}

}  // namespace

std::optional<double> stated_rate(double value, const std::string& unit_text, bool is_interval) {
    if (!(value > 0) || !std::isfinite(value)) return std::nullopt;
    const auto unit = parse_unit(unit_text);
    const Dimension hertz{0, 0, -1, 0, 0, 0}, seconds{0, 0, 1, 0, 0, 0};
    if (unit && unit->dimension == hertz) return value * unit->factor;
    if (unit && unit->dimension == seconds) return 1 / (value * unit->factor);
    if (!unit_text.empty()) return std::nullopt;
    if (!is_interval) return value;
    return value < 2 ? 1 / value : 1000 / value;  // no logger waits for seconds between samples
}

void take_unit_off(TableColumn& column) {
    std::string& name = column.name;
    // A mark that leads to a footnote.
    while (name.size() > 1 && (name.back() == '*' || name.back() == '#')) name.pop_back();
    for (const auto& [open, close] :
         {std::pair{'[', ']'}, std::pair{'(', ')'}, std::pair{'{', '}'}, std::pair{'<', '>'}}) {
        const auto from = name.rfind(open);
        if (from == std::string::npos || name.back() != close || from == 0) continue;
        const std::string inside(trimmed(std::string_view(name).substr(from + 1, name.size() - from - 2)));
        if (!is_unit(inside) && find_quantity(folded(inside)) != nullptr) continue;
        if (column.unit.empty()) column.unit = inside;
        name = std::string(trimmed(std::string_view(name).substr(0, from)));
        return;
    }
    if (!column.unit.empty()) return;
    // "Speed - km/h", "Speed, km/h", "Speed in km/h", "Speed: km/h"
    for (const std::string_view mark : {" - ", " – ", ", ", " in ", ": ", " / ", "|", "-", ",", "/"}) {
        const auto at = name.find(mark);
        if (at == std::string::npos || at == 0) continue;
        const std::string unit(trimmed(std::string_view(name).substr(at + mark.size())));
        const std::string before(trimmed(std::string_view(name).substr(0, at)));
        if (!unit.empty() && fits(unit, before)) {
            column.unit = unit;
            name = before;
            return;
        }
    }
    if (match_quantity(name) != nullptr) return;
    for (const auto& [written, unit] :
         {std::pair{"timesec", "s"}, {"times", "s"}, {"timems", "ms"}, {"timeus", "us"}}) {
        if (folded(name) != written) continue;
        name.resize(4);
        column.unit = unit;
        return;
    }
    // "SpeedKnots", "speedKmh"
    for (const std::string_view unit : {"knots", "kts", "kmh", "kph", "mph", "mps"}) {
        const std::string whole = folded(name);
        if (whole.size() != name.size() || !whole.ends_with(unit)) continue;
        const std::string before = name.substr(0, name.size() - unit.size());
        if (!before.empty() && fits(std::string(unit), before)) {
            column.unit = unit;
            name = before;
            return;
        }
    }
    const auto mark = name.find_last_of("_ ");
    if (mark == std::string::npos || mark == 0 || mark + 1 == name.size()) return;
    // "speed_m_s" and "accel_m_s2" write the stroke as another mark.
    const auto mark_before = name.find_last_of("_ ", mark - 1);
    if (mark_before != std::string::npos && mark_before > 0) {
        const std::string joined = name.substr(mark_before + 1, mark - mark_before - 1) + "/" + name.substr(mark + 1);
        if (fits(joined, name.substr(0, mark_before))) {
            column.unit = joined;
            name.resize(mark_before);
            return;
        }
    }
    for (auto at = name.find_first_of("_ "); at != std::string::npos; at = name.find_first_of("_ ", at + 1)) {
        if (at > 0 && at + 1 < name.size() && fits(name.substr(at + 1), name.substr(0, at))) {
            column.unit = name.substr(at + 1);
            name.resize(at);
            return;
        }
    }
}

void read_head(const std::vector<TableLine>& above, TableShape& shape) {
    const std::size_t width = shape.columns.size();
    // Full rows of text right above the numbers, the lowest first.
    struct Row {
        HeadCells cells;
        bool units, values;
        std::size_t names;
    };
    std::vector<Row> rows;
    std::size_t at = above.size();
    while (at > 0 && rows.size() < 5) {
        const std::string_view line = above[at - 1].text;
        if (trimmed(line).empty()) {
            --at;
            continue;
        }
        auto cells = split_cells(line, shape.delimiter);
        // A separator at the end of the rows, or missing there, is no reason to lose the names.
        if (cells.size() == width + 1 && cells.back().empty()) cells.pop_back();
        if (cells.size() + 1 == width) cells.emplace_back();
        if (cells.size() != width) break;
        // Two cells may be a line of the block above: "Logger,Club box".
        const bool units = looks_like_units(cells);
        const std::size_t names = units ? 0 : known_names(cells);
        rows.push_back({cells, units, is_mostly_values(cells, shape.decimal_sign), names});
        --at;
    }
    std::size_t names = rows.size(), units = rows.size();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (rows[i].units && units == rows.size()) units = i;
        if (rows[i].units || rows[i].values) continue;
        if (names == rows.size() || rows[i].names > rows[names].names ||
            (rows[i].names == rows[names].names && rows[i].names > 0 && width > 2))
            names = i;
    }
    // A row of units alone is a row of names: a table of "s" and "g".
    if (names == rows.size() && units < rows.size()) {
        names = units;
        units = rows.size();
    }
    shape.has_names = names < rows.size();
    shape.has_unit_row = units < rows.size() && shape.has_names;
    for (std::size_t c = 0; c < width; ++c) {
        TableColumn& column = shape.columns[c];
        if (shape.has_unit_row) {
            std::string text = one_line(rows[units].cells[c]);
            if (text.size() > 2 && std::string_view("[({<").find(text.front()) != std::string_view::npos)
                text = text.substr(1, text.size() - 2);
            column.unit = text;
        }
        if (shape.has_names) column.name = one_line(rows[names].cells[c]);
        if (column.name.empty())
            column.name = "Column " + std::to_string(c + 1);
        else
            take_unit_off(column);
        if (column.unit.empty()) column.unit = column.suffix;
    }
    const std::size_t used = shape.has_names ? std::max(names, shape.has_unit_row ? units : 0) + 1 : 0;
    std::size_t left = above.size(), skipped = 0;
    while (left > 0 && skipped < used) {
        --left;
        skipped += !trimmed(above[left].text).empty();
    }
    for (std::size_t i = 0; i < left; ++i) read_note(above[i].text, shape);
}

}  // namespace rendak
