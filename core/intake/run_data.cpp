#include "core/intake/run_data.h"

#include <algorithm>

#include "core/base/text.h"
#include "core/base/time_zone.h"
#include "core/intake/run_path.h"
#include "core/intake/run_recording.h"
#include "core/intake/shared_track.h"
#include "core/units/compound_unit.h"

namespace rendak {
namespace {

/// What is not logged is told by the path.
void add_missing(Recording& recording, const std::vector<Channel>& accelerations) {
    for (const Channel& channel : accelerations) {
        if (recording.find(channel.quantity) == nullptr) recording.channels.push_back(channel);
    }
}

/// What the car sheet says of pedals and flags.
ActivityLimits limits_of(const formula::Constants& constants) {
    const auto value = [&](const char* name) {
        const auto found = constants.values.find(name);
        return found == constants.values.end() ? std::nullopt : std::optional(found->second.value);
    };
    return {value("brake_on"),       value("throttle_on"),  value("throttle_full"),
            value("cornering_from"), value("braking_from"), value("throttle_from")};
}

}  // namespace

Result<std::shared_ptr<const RunData>> load_run(const Library& library, RunId id) {
    auto data = std::make_shared<RunData>();
    auto row = library.run(id);
    if (!row) return pass_on(row.error());
    data->row = std::move(*row);
    auto recording = run_recording(library, id);
    if (!recording) return pass_on(recording.error());
    Recording corrected = std::move(*recording);
    if (data->row.track) {
        auto track = shared_track(library, data->row.track);
        if (!track) return pass_on(track.error());
        data->track = std::move(*track);
    }
    const auto correction = library.place_correction(id);
    if (!correction) return pass_on(correction.error());
    if (auto found = run_path(library, data->row, corrected, data->track.get(), *correction)) {
        data->path = std::make_shared<const Path>(std::move(found->path));
        add_missing(corrected, found->accelerations);
    }
    auto laps = library.laps(id);
    if (!laps) return pass_on(laps.error());
    data->laps = std::move(*laps);
    data->recording = std::make_shared<const Recording>(std::move(corrected));
    return with_new_formulas(library, *data);
}

Result<std::shared_ptr<const RunData>> with_new_formulas(const Library& library, const RunData& run) {
    const auto sets = formula_sets(library);
    if (!sets) return pass_on(sets.error());
    const auto sheets = library.car_sheets();
    if (!sheets) return pass_on(sheets.error());
    auto aliases = library.aliases();
    if (!aliases) return pass_on(aliases.error());
    auto picture_notes = library.picture_notes(run.row.id);
    if (!picture_notes) return pass_on(picture_notes.error());
    auto data = std::make_shared<RunData>(run);
    data->picture_notes = std::move(*picture_notes);
    FormulaInputs inputs;
    inputs.book = formula::book_for(*sets, run.row.car, run.row.event);
    const std::string date =
        run.row.start_unix_s ? local_text(*run.row.start_unix_s, run.row.zone, "%Y-%m-%d") : std::string();
    inputs.constants = formula::constants_for(*sheets, run.row.car, date);
    inputs.aliases = std::move(*aliases);
    Recording logged = *run.recording;
    logged.derived = nullptr;
    data->scales = std::make_shared<const PedalScales>(pedal_scales(logged, limits_of(inputs.constants)));
    data->formulas = std::make_shared<RunFormulas>(std::move(inputs), logged, run.laps, run.track, run.path,
                                                   data->scales, run.formulas.get());
    logged.derived = [formulas = data->formulas](std::string_view name) { return formulas->find(name); };
    data->recording = std::make_shared<const Recording>(std::move(logged));
    return data;
}

Result<std::shared_ptr<const RunData>> with_new_papers(const Library& library, const RunData& run) {
    auto row = library.run(run.row.id);
    if (!row) return pass_on(row.error());
    RunData fresh = run;
    fresh.row = std::move(*row);
    return with_new_formulas(library, fresh);
}

std::vector<ShownChannel> shown_channels(std::span<const std::shared_ptr<const RunData>> runs) {
    std::vector<ShownChannel> out;
    for (const Quantity& quantity : all_quantities()) {
        const std::string_view id = quantity.id;
        if (id == "time" || id == "latitude" || id == "longitude" || id == "lap_count") continue;
        const bool logged = std::any_of(runs.begin(), runs.end(), [&](const auto& run) {
            return run->recording->find_logged(quantity.id) != nullptr;
        });
        if (logged) out.push_back({std::string(id)});
    }
    // What no quantity stands for keeps its own name and unit.
    for (const auto& run : runs) {
        for (const Channel& channel : run->recording->channels) {
            if (!channel.quantity.empty() || channel.size() == 0) continue;
            const std::string id = std::string(by_name_prefix) + channel.name;
            const bool known = std::any_of(out.begin(), out.end(), [&](const ShownChannel& it) { return it.id == id; });
            if (!known) out.push_back({id});
        }
    }
    if (runs.empty()) return out;
    for (const auto& [name, entry] : runs.front()->formulas->inputs().book.entries) out.push_back({name, entry.set});
    return out;
}

Result<std::vector<Channel>> formula_channels(const RunData& run, std::vector<std::string> names) {
    const formula::Book& book = run.formulas->inputs().book;
    const bool all = names == std::vector<std::string>{"all"};
    if (all) {
        names.clear();
        for (const auto& [name, entry] : book.entries) names.push_back(name);
    }
    std::vector<Channel> out;
    for (const std::string& name : names) {
        const formula::Formula* formula = book.find(name);
        const Channel* result = run.formulas->find(name);
        if (result == nullptr) {
            if (all) continue;
            const std::string why =
                formula == nullptr ? "There is no formula of that name." : run.formulas->why_not(name);
            return fail(ErrorCode::bad_input, why, "formula " + name);
        }
        const auto checked = run.formulas->check(name, {});
        const std::string unit_text =
            !formula->unit.empty() || !checked ? formula->unit : formula::usual_unit(checked->type());
        const auto unit = parse_compound_unit(unit_text);
        ChannelStorage storage;
        storage.floats.resize(result->size());
        for (std::size_t i = 0; i < result->size(); ++i)
            storage.floats[i] = static_cast<float>(unit ? unit->from_si(result->at(i)) : result->at(i));
        const auto times = result->clock.times_s;
        storage.times_s.assign(times.begin(), times.end());
        Channel channel = make_channel(result->name, {}, unit ? unit_text : result->unit, std::move(storage),
                                       result->clock.start_s, result->clock.rate_hz);
        channel.is_state = result->is_state;
        out.push_back(std::move(channel));
    }
    return out;
}

std::vector<RunLap> complete_laps(const RunData& run) {
    std::vector<RunLap> out;
    for (const Lap& lap : run.laps) {
        if (!lap.complete()) continue;
        if (auto prepared = prepare_lap(run, lap.number)) out.push_back({std::move(*prepared), lap.counts()});
    }
    return out;
}

Result<PreparedLap> prepare_lap(const RunData& run, int lap_number) {
    const auto found =
        std::find_if(run.laps.begin(), run.laps.end(), [&](const Lap& lap) { return lap.number == lap_number; });
    const std::string where = "run " + std::to_string(run.row.id.value) + ", lap " + std::to_string(lap_number);
    if (run.track == nullptr || run.path == nullptr) {
        return fail(ErrorCode::bad_input, "The run has no track yet, so it has no laps. Learn the track first.", where);
    }
    if (found == run.laps.end()) return fail(ErrorCode::not_found, "There is no such lap.", where);
    if (!found->complete()) {
        return fail(ErrorCode::bad_input,
                    std::string("This is no complete lap (") + lap_kind_name(found->kind) + ": " + found->reason +
                        "); only laps from line to line can be compared.",
                    where);
    }
    return PreparedLap{{run.row.id, lap_number},
                       run.recording,
                       run.track,
                       run.path,
                       align_lap(*run.path, *run.track, found->start_s, found->end_s),
                       found->trust_m,
                       found->counts(),
                       run.scales};
}

Result<PreparedLap> prepare_stretch(const RunData& run, int lap_number, double shift_s) {
    Interval time_s = run.recording->span_s();
    if (lap_number != whole_run) {
        const auto found =
            std::find_if(run.laps.begin(), run.laps.end(), [&](const Lap& lap) { return lap.number == lap_number; });
        if (found == run.laps.end())
            return fail(ErrorCode::not_found, "There is no such lap.",
                        "run " + std::to_string(run.row.id.value) + ", lap " + std::to_string(lap_number));
        time_s = {found->start_s, found->end_s};
    }
    if (time_s.length() <= 0) return fail(ErrorCode::bad_input, "Nothing was recorded.");
    LapMap map;
    map.time_s = {time_s.begin - shift_s, time_s.end - shift_s};
    map.distance_m = {0, time_s.length()};
    return PreparedLap{
        {run.row.id, lap_number}, run.recording, nullptr, run.path, std::move(map), 0, false, run.scales};
}

}  // namespace rendak
