#include "core/intake/channel_sheet.h"

#include <algorithm>
#include <cmath>

#include "core/base/text.h"
#include "core/intake/channel_edits.h"
#include "core/intake/run_recording.h"
#include "core/signal/quantity.h"

namespace rendak {
namespace {

std::string why_of(const ChannelLine& line, const Channel& logged, const Aliases& aliases) {
    if (line.edit && line.edit->source.empty()) return "said by hand";
    if (line.edit && line.edit->source == "template") return "said for this car and logger from a date on";
    if (line.edit) return line.edit->source;
    if (line.quantity.empty()) return "its name is not known";
    if (aliases.contains(folded(logged.name))) return "by your own list of names";
    const Quantity* named = match_quantity(logged.name);
    return named != nullptr && named->id == line.quantity ? "by its name" : "as its file says";
}

std::string in_words(const ChannelFault& fault) {
    switch (fault.kind) {
        case ChannelFault::Kind::dead:
            return "dead: one value all the time";
        case ChannelFault::Kind::stuck:
            return "stuck for " + counted(fault.where_s.size(), "stretch", "stretches");
        case ChannelFault::Kind::saturated:
            return "pressed against " + fixed(fault.value, 3);
        case ChannelFault::Kind::spiking:
            return counted(fault.count, "spike", "spikes");
    }
    return {};
}

}  // namespace

Result<std::vector<ChannelLine>> channel_sheet(const Library& library, RunId run, const JobContext& job) {
    const auto row = library.run(run);
    if (!row) return pass_on(row.error());
    const auto logged = library.open_run(run);
    if (!logged) return pass_on(logged.error());
    const auto used = run_recording(library, run);
    if (!used) return pass_on(used.error());
    const auto edits = library.channel_edits(run);
    if (!edits) return pass_on(edits.error());
    const auto unused = library.unused_channels(run);
    if (!unused) return pass_on(unused.error());
    const auto flipped = library.flipped_quantities(run);
    if (!flipped) return pass_on(flipped.error());
    const auto aliases = library.aliases();
    if (!aliases) return pass_on(aliases.error());
    const auto faults = channel_faults(*used, job.part(0, 0.7));
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    const Recording edited = with_channel_edits(**logged, *edits);
    std::vector<ChannelLine> out;
    for (std::size_t k = 0; k < edited.channels.size(); ++k) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        job.report(0.7 + 0.3 * static_cast<double>(k) / static_cast<double>(edited.channels.size()));
        const Channel& channel = edited.channels[k];
        ChannelLine line;
        line.name = channel.name;
        line.quantity = channel.quantity;
        line.unit = channel.unit;
        line.source_unit = channel.source_unit;
        line.rate_hz = channel.clock.mean_rate_hz();
        const Statistics figures = statistics(channel, 0, channel.size());
        line.low = figures.low;
        line.mean = figures.mean;
        line.high = figures.high;
        line.missing_share =
            channel.size() > 0 ? 1 - static_cast<double>(figures.count) / static_cast<double>(channel.size()) : 1;
        for (const ChannelFault& fault : faults) {
            if (fault.channel == channel.name) line.faults.push_back(in_words(fault));
        }
        line.unused = std::find(unused->begin(), unused->end(), channel.name) != unused->end();
        line.flipped = std::find(flipped->begin(), flipped->end(), channel.quantity) != flipped->end();
        if (line.flipped) {
            std::swap(line.low, line.high);
            for (double* value : {&line.low, &line.mean, &line.high}) *value = -*value;
        }
        for (const ChannelEdit& edit : *edits) {
            if (edit.channel == channel.name) line.edit = edit;
        }
        line.why = why_of(line, (*logged)->channels[k], *aliases);
        line.sureness = line.edit ? "sure" : line.quantity.empty() ? "unknown" : "likely";
        out.push_back(std::move(line));
    }
    return out;
}

}  // namespace rendak
