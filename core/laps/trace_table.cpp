#include "core/laps/trace_table.h"

#include <cmath>
#include <cstdio>

namespace rendak {
namespace {

double value_of(const TracedColumn& column, Axis axis, double x) {
    const LapMap& map = column.lap.map;
    if (axis == Axis::run) {
        const Channel* channel = column.lap.recording->find(column.quantity);
        return channel == nullptr ? std::nan("") : channel->value_at(map.start_s() + x);
    }
    const double place = axis == Axis::distance ? x - column.slid_m : map.distance_at(map.start_s() + x);
    if (column.quantity == "gap") return column.gap.at(place);
    if (column.quantity == "line_offset") return column.line.at(place);
    return column.lap.value_at(column.quantity, place);
}

void add_number(std::string& text, double value, int decimals) {
    char buffer[64];
    std::snprintf(buffer, sizeof buffer, "%.*f", decimals, value);
    text += buffer;
}

}  // namespace

Result<std::string> trace_table(const std::vector<TracedColumn>& columns, Axis axis, Interval x, std::size_t most_rows,
                                const JobContext& job) {
    const bool by_place = axis == Axis::distance;
    double step = by_place ? 1 : 0.01;
    while (x.length() / step > static_cast<double>(most_rows)) step *= 10;
    std::string out = by_place ? "Distance [m]" : "Time [s]";
    for (const TracedColumn& column : columns) out += "," + column.head;
    out += '\n';
    const auto rows = static_cast<std::size_t>(std::floor(x.length() / step + 1e-9)) + 1;
    for (std::size_t row = 0; row < rows; ++row) {
        if (row % 1000 == 0) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was written.");
            job.report(static_cast<double>(row) / static_cast<double>(rows));
        }
        const double at = x.begin + step * static_cast<double>(row);
        add_number(out, at, by_place ? 1 : 3);
        for (const TracedColumn& column : columns) {
            out += ',';
            const double value = value_of(column, axis, at);
            if (std::isfinite(value)) add_number(out, (value - column.offset) / column.factor, column.decimals);
        }
        out += '\n';
    }
    return out;
}

}  // namespace rendak
