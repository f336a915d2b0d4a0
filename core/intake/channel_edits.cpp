#include "core/intake/channel_edits.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/at_rest.h"
#include "core/base/text.h"
#include "core/intake/import.h"
#include "core/intake/place_run.h"
#include "core/intake/run_recording.h"
#include "core/intake/sign_check.h"
#include "core/laps/cut.h"
#include "core/recording/channel_units.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

/// used = stored · factor + offset, in `unit`.
struct Change {
    double factor = 1, offset = 0;
    std::string unit;
};

/// What an edit does to the stored values of a channel: first the unit that the logged values really had.
Result<Change> change_of(const Channel& channel, const ChannelEdit& edit) {
    Change out{1, 0, channel.unit};
    if (!edit.unit.empty()) {
        const auto said = parse_unit(edit.unit);
        if (!said) return pass_on(said.error());
        // Back to the numbers that the logger wrote, and on from there.
        const auto read = parse_unit(channel.source_unit.empty() ? channel.unit : channel.source_unit);
        const auto stored = parse_unit(channel.unit);
        const bool converted = read && stored && read->dimension == stored->dimension;
        const double factor = converted ? read->factor / stored->factor : 1;
        const double offset = converted ? (read->offset - stored->offset) / stored->factor : 0;
        const Quantity* quantity =
            find_quantity(edit.quantity ? std::string_view(*edit.quantity) : std::string_view(channel.quantity));
        const UnitPlan plan = plan_units(channel.name, edit.unit, quantity, 0, 1);
        out.factor = plan.factor / factor;
        out.offset = plan.offset - offset * plan.factor / factor;
        out.unit = plan.stored_unit;
    }
    out.factor *= edit.scale;
    out.offset = out.offset * edit.scale + edit.offset;
    return out;
}

bool fits(const Quantity& quantity, const std::string& stored_unit) {
    const auto wanted = parse_unit(quantity.unit), there = parse_unit(stored_unit);
    return wanted && there && wanted->dimension == there->dimension;
}

std::string quantity_after(const Channel& channel, const ChannelEdit& edit, const std::string& unit) {
    std::string id = edit.quantity.value_or(channel.quantity);
    const Quantity* quantity = find_quantity(id);
    return quantity != nullptr && fits(*quantity, unit) ? id : std::string();
}

std::string best_of(const std::vector<Lap>& laps) {
    const Lap* best = best_lap(laps);
    return best == nullptr ? "none" : fixed(best->time_s(), 3) + " s";
}

}  // namespace

Recording with_channel_edits(const Recording& recording, const std::vector<ChannelEdit>& edits) {
    if (edits.empty()) return recording;
    Recording out = recording;
    std::vector<std::pair<std::string, std::string>> given;  // quantity -> channel that it was given to
    for (const ChannelEdit& edit : edits) {
        for (Channel& channel : out.channels) {
            if (channel.name != edit.channel) continue;
            const auto change = change_of(channel, edit);
            if (!change) continue;
            const std::string id = quantity_after(channel, edit, change->unit);
            if (change->factor != 1 || change->offset != 0) channel = rescaled(channel, change->factor, change->offset);
            channel.unit = change->unit;
            channel.quantity = id;
            if (edit.quantity && !id.empty()) given.emplace_back(id, edit.channel);
        }
    }
    for (const auto& [quantity, owner] : given) {
        for (Channel& channel : out.channels) {
            if (channel.quantity == quantity && channel.name != owner) channel.quantity.clear();
        }
    }
    return out;
}

Result<void> check_channel_edit(const Recording& logged, const ChannelEdit& edit) {
    const auto found = std::find_if(logged.channels.begin(), logged.channels.end(),
                                    [&](const Channel& channel) { return channel.name == edit.channel; });
    if (found == logged.channels.end())
        return fail(ErrorCode::not_found, "This run has no channel \"" + edit.channel + "\".");
    if (!(std::isfinite(edit.scale) && edit.scale != 0 && std::isfinite(edit.offset)))
        return fail(ErrorCode::bad_input, "A channel cannot be scaled by nothing.", edit.channel);
    const auto change = change_of(*found, edit);
    if (!change) return pass_on(change.error());
    if (!edit.quantity || edit.quantity->empty()) return {};
    const Quantity* quantity = find_quantity(*edit.quantity);
    if (quantity == nullptr)
        return fail(ErrorCode::bad_input, "\"" + *edit.quantity + "\" is no quantity that Rendak knows.", edit.channel);
    if (!fits(*quantity, change->unit))
        return fail(ErrorCode::bad_input,
                    "\"" + edit.channel + "\" is in " + (change->unit.empty() ? "plain numbers" : change->unit) + "; " +
                        std::string(quantity->label) + " is in " +
                        (quantity->unit.empty() ? "plain numbers" : std::string(quantity->unit)) +
                        ". Say the unit that it is logged in as well.",
                    edit.channel);
    return {};
}

Result<EditedChannels> edit_channels(Library& library, RunId id, const std::vector<ChannelEdit>& edits,
                                     const JobContext& job) {
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    const auto opened = library.open_run(id);
    if (!opened) return pass_on(opened.error());
    for (const ChannelEdit& edit : edits) {
        if (auto fine = check_channel_edit(**opened, edit); !fine) return pass_on(fine.error());
    }
    EditedChannels out;
    const auto all = library.channel_edits(id);
    if (!all) return pass_on(all.error());
    for (const ChannelEdit& edit : edits) {
        const auto said =
            std::find_if(all->begin(), all->end(), [&](const auto& it) { return it.channel == edit.channel; });
        out.before.push_back(said == all->end() ? ChannelEdit{edit.channel} : *said);
    }
    auto flipped = library.flipped_quantities(id);
    if (!flipped) return pass_on(flipped.error());
    out.flipped_before = *flipped;
    const auto laps_before = library.laps(id);
    if (!laps_before) return pass_on(laps_before.error());

    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return pass_on(begun.error());
    for (const ChannelEdit& edit : edits) {
        if (auto done = library.set_channel_edit(id, edit); !done) return pass_on(done.error());
    }
    // Signs of what is another channel now, or has another scale, are told from the path again.
    std::vector<std::string> touched;
    for (const ChannelEdit& edit : edits) {
        for (const Channel& channel : (*opened)->channels) {
            if (channel.name == edit.channel) touched.push_back(edit.quantity.value_or(channel.quantity));
        }
    }
    for (const std::string& quantity : *flipped) {
        if (std::find(touched.begin(), touched.end(), quantity) == touched.end()) continue;
        if (auto done = library.set_flipped(id, quantity, false); !done) return pass_on(done.error());
    }
    const auto recording = run_recording(library, id);
    if (!recording) return pass_on(recording.error());
    if (const auto path = path_of(*recording)) {
        for (const std::string& quantity : opposite_signs(*recording, *path)) {
            if (std::find(touched.begin(), touched.end(), quantity) == touched.end()) continue;
            if (auto done = library.set_flipped(id, quantity, true); !done) return pass_on(done.error());
            out.notes.push_back(std::string(find_quantity(quantity)->label) +
                                " is logged with the opposite sign; it is turned round.");
        }
    }
    job.report(0.5);
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was changed.");
    if (row->track) {
        if (auto cut = recut_run(library, id); !cut) return pass_on(cut.error());
        const auto laps = library.laps(id);
        if (!laps) return pass_on(laps.error());
        if (laps->size() != laps_before->size() || best_of(*laps) != best_of(*laps_before))
            out.notes.push_back("The laps were cut again: best " + best_of(*laps_before) + " before, " +
                                best_of(*laps) + " now.");
    }
    if (auto done = act.commit(); !done) return pass_on(done.error());
    out.notes.push_back("Figures, formulas and differences of this run follow.");
    return out;
}

Result<void> take_back(Library& library, RunId id, const EditedChannels& edited) {
    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return begun;
    for (const ChannelEdit& edit : edited.before) {
        if (auto done = library.set_channel_edit(id, edit); !done) return done;
    }
    const auto flipped = library.flipped_quantities(id);
    if (!flipped) return pass_on(flipped.error());
    for (const std::string& quantity : *flipped) {
        if (auto done = library.set_flipped(id, quantity, false); !done) return done;
    }
    for (const std::string& quantity : edited.flipped_before) {
        if (auto done = library.set_flipped(id, quantity, true); !done) return done;
    }
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    if (row->track) {
        if (auto cut = recut_run(library, id); !cut) return cut;
    }
    return act.commit();
}

Result<EditedRuns> edit_channels_from_now_on(Library& library, RunId id, const std::vector<ChannelEdit>& edits,
                                             const JobContext& job) {
    const auto row = library.run(id);
    if (!row) return pass_on(row.error());
    if (row->car.empty() && row->logger.empty())
        return fail(
            ErrorCode::bad_input,
            "This run names neither car nor logger: give it a car first, so that it is known which runs are meant.");
    const auto rows = library.runs();
    if (!rows) return pass_on(rows.error());
    const double from = row->start_unix_s.value_or(0);
    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return pass_on(begun.error());
    EditedRuns out;
    for (std::size_t i = 0; i < rows->size(); ++i) {
        const RunRow& other = (*rows)[i];
        const bool later = other.start_unix_s.value_or(0) >= from;
        if (other.id != id && (other.car != row->car || other.logger != row->logger || !later)) continue;
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was changed.");
        const auto opened = library.open_run(other.id);
        if (!opened) return pass_on(opened.error());
        std::vector<ChannelEdit> fitting;
        for (ChannelEdit edit : edits) {
            if (other.id != id && !check_channel_edit(**opened, edit)) continue;
            if (other.id != id && !edit.changes_nothing()) edit.source = "template";
            fitting.push_back(std::move(edit));
        }
        if (fitting.empty()) continue;
        auto done = edit_channels(library, other.id, fitting, {job.stop, {}});
        if (!done) return pass_on(done.error());
        out.runs.emplace_back(other.id, std::move(*done));
        job.report(static_cast<double>(i + 1) / static_cast<double>(rows->size()));
    }
    const auto templates = library.channel_templates();
    if (!templates) return pass_on(templates.error());
    out.templates_before = *templates;
    for (const ChannelEdit& edit : edits) {
        const ChannelTemplate kept{row->car, row->logger, from, edit};
        auto done = edit.changes_nothing() ? library.remove_channel_template(kept) : library.put_channel_template(kept);
        if (!done) return pass_on(done.error());
    }
    if (auto done = act.commit(); !done) return pass_on(done.error());
    return out;
}

Result<void> take_back(Library& library, const EditedRuns& edited) {
    Library::Act act(library);
    if (auto begun = act.begun(); !begun) return begun;
    for (const auto& [run, what] : edited.runs) {
        if (auto done = take_back(library, run, what); !done) return done;
    }
    const auto now = library.channel_templates();
    if (!now) return pass_on(now.error());
    for (const ChannelTemplate& one : *now) {
        if (auto done = library.remove_channel_template(one); !done) return done;
    }
    for (const ChannelTemplate& one : edited.templates_before) {
        if (auto done = library.put_channel_template(one); !done) return done;
    }
    return act.commit();
}

Result<std::vector<ChannelEdit>> template_edits(const Library& library, const std::string& car,
                                                const std::string& logger, std::optional<double> start_unix_s) {
    const auto templates = library.channel_templates();
    if (!templates) return pass_on(templates.error());
    std::vector<ChannelEdit> out;
    for (const ChannelTemplate& one : *templates) {
        if (one.car != car || one.logger != logger || one.from_unix_s > start_unix_s.value_or(1e300)) continue;
        const bool newer = std::any_of(out.begin(), out.end(),
                                       [&](const ChannelEdit& edit) { return edit.channel == one.edit.channel; });
        if (newer) continue;
        out.push_back(one.edit);
        out.back().source = "template";
    }
    return out;
}

Result<double> zero_at_rest(const Library& library, RunId run, const std::string& name) {
    const auto logged = library.open_run(run);
    if (!logged) return pass_on(logged.error());
    const auto edits = library.channel_edits(run);
    if (!edits) return pass_on(edits.error());
    const auto used = run_recording(library, run);
    if (!used) return pass_on(used.error());
    const auto rest = standing_range(*used);
    if (!rest)
        return fail(ErrorCode::bad_input,
                    "The car never stands still for two seconds in this run, so there is no zero to be taken from it.",
                    name);
    // Offsets are added before signs are turned round.
    const Recording edited = with_channel_edits(**logged, *edits);
    const bool there = std::any_of(edited.channels.begin(), edited.channels.end(),
                                   [&](const Channel& channel) { return channel.name == name; });
    if (!there) return fail(ErrorCode::not_found, "This run has no channel \"" + name + "\".");
    const auto found = figures_at_rest(edited, {name}, *rest);
    if (found.empty()) return fail(ErrorCode::bad_input, "The channel holds nothing while the car stands.", name);
    return -found.front().mean;
}

}  // namespace rendak
