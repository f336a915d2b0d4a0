#include "core/recording/csv_writer.h"

#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <cmath>
#include <cstdio>

#include "core/base/date.h"
#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

struct OutColumn {
    const Channel* channel;
    std::string unit;
    double factor = 1, offset = 0;
    std::size_t next = 0;
};

OutColumn prepared(const Channel& channel) {
    OutColumn column{&channel, channel.unit};
    const Quantity* known = find_quantity(channel.quantity);
    if (known == nullptr || channel.unit != known->unit || channel.unit == "deg") return column;
    const auto shown = parse_unit(known->shown_unit);
    if (!shown) return column;
    column.unit = std::string(known->shown_unit);
    column.factor = shown->factor;
    column.offset = shown->offset;
    return column;
}

template <class Number>
void append(std::string& out, Number value) {
    char buffer[40];
    const auto end = std::to_chars(buffer, buffer + sizeof buffer, value).ptr;
    out.append(buffer, end);
}

}  // namespace

std::string csv_cell(const std::string& text) {
    if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
    std::string out = "\"";
    for (const char c : text) out += c == '"' ? "'" : std::string(1, c);
    return out + "\"";
}

Result<void> write_csv(const Recording& recording, const std::filesystem::path& file, const JobContext& job) {
    auto target = OutputFile::begin(file);
    if (!target) return pass_on(target.error());
    std::FILE* out = std::fopen(target->part().c_str(), "wbx");
    if (out == nullptr) return pass_on(io_error("write the table", file, errno));
    std::vector<OutColumn> columns;
    for (const Channel& channel : recording.channels) columns.push_back(prepared(channel));
    std::string text, units = "s";
    // Above the names, where readers look for notes: what day and time second 0 is.
    if (recording.start_unix_s) text = "Start," + utc_iso(*recording.start_unix_s, 6) + "\n";
    text += "Time";
    for (const OutColumn& column : columns) {
        text += "," + csv_cell(column.channel->name);
        units += "," + csv_cell(column.unit);
    }
    text += "\n" + units + "\n";
    const Interval span = recording.span_s();
    int error_number = 0;
    bool cancelled = false;
    std::size_t rows = 0;
    while (error_number == 0 && !cancelled) {
        // The next instant is the earliest sample not yet written; samples within a microsecond share a row.
        double t = std::numeric_limits<double>::infinity();
        for (const OutColumn& column : columns) {
            if (column.next < column.channel->size()) t = std::min(t, column.channel->clock.time_at(column.next));
        }
        if (std::isinf(t)) break;
        append(text, std::round(t * 1e6) / 1e6);
        for (OutColumn& column : columns) {
            text += ',';
            if (column.next >= column.channel->size() || column.channel->clock.time_at(column.next) > t + 1e-6)
                continue;
            const double value = column.channel->at(column.next++);
            if (std::isnan(value)) continue;
            const double shown = (value - column.offset) / column.factor;
            if (column.channel->is_double())
                append(text, shown);
            else
                append(text, static_cast<float>(shown));
        }
        text += '\n';
        ++rows;
        if (text.size() > (1U << 20)) {
            if (std::fwrite(text.data(), 1, text.size(), out) != text.size()) error_number = errno;
            text.clear();
            job.report((t - span.begin) / std::max(span.length(), 1e-9));
            cancelled = job.stopped();
        }
    }
    if (error_number == 0 && std::fwrite(text.data(), 1, text.size(), out) != text.size()) error_number = errno;
    if (std::fclose(out) != 0 && error_number == 0) error_number = errno;
    if (cancelled) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file.string());
    if (error_number != 0) return pass_on(io_error("write the table", file, error_number));
    return target->finish();
}

}  // namespace rendak
