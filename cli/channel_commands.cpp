#include "cli/channel_commands.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/json_out.h"
#include "cli/output.h"
#include "core/base/date.h"
#include "core/intake/channel_edits.h"
#include "core/intake/channel_sheet.h"

namespace rendak::cli {
namespace {

Json edit_json(const ChannelEdit& edit) {
    Json out;
    out["channel"] = edit.channel;
    if (edit.quantity) out["quantity"] = *edit.quantity;
    if (!edit.unit.empty()) out["unit"] = edit.unit;
    out["scale"] = edit.scale;
    out["offset"] = edit.offset;
    if (!edit.source.empty()) out["source"] = edit.source;
    return out;
}

/// What is said of the channel now, to be changed.
Result<ChannelEdit> said_of(const Library& library, RunId run, const std::string& channel) {
    const auto edits = library.channel_edits(run);
    if (!edits) return pass_on(edits.error());
    for (const ChannelEdit& edit : *edits) {
        if (edit.channel != channel) continue;
        ChannelEdit out = edit;
        out.source.clear();
        return out;
    }
    return ChannelEdit{channel};
}

int apply(Library& library, const ChannelChange& change, const ChannelEdit& edit) {
    Json out;
    out["run"] = change.run;
    out["edit"] = edit_json(edit);
    if (change.from_now_on) {
        const auto done = edit_channels_from_now_on(library, {change.run}, {edit}, spoken_progress("Channels"));
        if (!done) return report(done.error());
        out["runs"] = Json::array();
        for (const auto& [run, what] : done->runs) out["runs"].push_back({{"run", run.value}, {"notes", what.notes}});
        return print(out);
    }
    const auto done = edit_channels(library, {change.run}, {edit}, spoken_progress("Channels"));
    if (!done) return report(done.error());
    out["notes"] = done->notes;
    return print(out);
}

}  // namespace

int list_channels(const std::string& folder, std::int64_t run) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto recording = recording_checked(**library, {run});
    if (!recording) return report(recording.error());
    const auto sheet = channel_sheet(**library, {run});
    if (!sheet) return report(sheet.error());
    Json out = Json::array();
    for (const ChannelLine& line : *sheet) {
        Json one;
        one["name"] = line.name;
        one["quantity"] = line.quantity.empty() ? Json(nullptr) : Json(line.quantity);
        one["why"] = line.why;
        one["sure"] = line.sureness;
        one["unit"] = line.unit;
        one["source_unit"] = line.source_unit;
        one["rate_hz"] = line.rate_hz;
        one["low"] = or_null(line.low);
        one["mean"] = or_null(line.mean);
        one["high"] = or_null(line.high);
        one["missing_share"] = line.missing_share;
        one["faults"] = line.faults;
        one["unused"] = line.unused;
        one["flipped"] = line.flipped;
        if (line.edit) one["edit"] = edit_json(*line.edit);
        if (const Channel* channel = recording->find_name(line.name)) {
            one["regular"] = channel->clock.times_s.empty();
            one["samples"] = channel->size();
            one["start_s"] = channel->size() > 0 ? channel->clock.time_at(0) : 0.0;
        }
        out.push_back(std::move(one));
    }
    // What was joined into the run has channels of its own.
    for (const Channel& channel : recording->channels) {
        const bool known = std::any_of(sheet->begin(), sheet->end(),
                                       [&](const ChannelLine& line) { return line.name == channel.name; });
        if (!known) out.push_back(cli::to_json(channel));
    }
    return print(out);
}

int assign_channel(const std::string& folder, const ChannelChange& change, const std::string& quantity,
                   const std::string& unit, bool as_logged) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    if (as_logged) return apply(**library, change, ChannelEdit{change.channel});
    if (quantity.empty() && unit.empty())
        return misuse(
            "Say what the channel is (--as QUANTITY, --as none), in which unit it is logged (--unit), or --as-logged.");
    auto edit = said_of(**library, {change.run}, change.channel);
    if (!edit) return report(edit.error());
    if (!quantity.empty()) edit->quantity = quantity == "none" ? "" : quantity;
    if (!unit.empty()) edit->unit = unit;
    return apply(**library, change, *edit);
}

int scale_channel(const std::string& folder, const ChannelChange& change, double factor, std::optional<double> add) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    auto edit = said_of(**library, {change.run}, change.channel);
    if (!edit) return report(edit.error());
    edit->scale = factor;
    if (add) edit->offset = *add;
    return apply(**library, change, *edit);
}

int zero_channel(const std::string& folder, const ChannelChange& change) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    auto edit = said_of(**library, {change.run}, change.channel);
    if (!edit) return report(edit.error());
    const auto offset = zero_at_rest(**library, {change.run}, change.channel);
    if (!offset) return report(offset.error());
    edit->offset += *offset;
    return apply(**library, change, *edit);
}

int channel_templates(const std::string& folder, const std::string& remove) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto templates = (*library)->channel_templates();
    if (!templates) return report(templates.error());
    Json out = Json::array();
    for (const ChannelTemplate& one : *templates) {
        if (!remove.empty()) {
            if (one.edit.channel != remove) continue;
            if (auto done = (*library)->remove_channel_template(one); !done) return report(done.error());
        }
        Json line = edit_json(one.edit);
        line["car"] = one.car;
        line["logger"] = one.logger;
        line["from"] = one.from_unix_s > 0 ? Json(utc_text(one.from_unix_s, "%Y-%m-%dT%H:%M:%SZ")) : Json(nullptr);
        out.push_back(std::move(line));
    }
    return print(out);
}

}  // namespace rendak::cli
