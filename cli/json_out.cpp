#include "cli/json_out.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/laps/cut.h"
#include "core/library/run_fields.h"

namespace rendak::cli {

Json or_null(double value) {
    return std::isfinite(value) ? Json(value) : Json(nullptr);
}

Json or_null(const std::optional<double>& value) {
    return value ? or_null(*value) : Json(nullptr);
}

Json low_or_null(const std::optional<Interval>& likely) {
    return likely ? Json(likely->begin) : Json(nullptr);
}

Json high_or_null(const std::optional<Interval>& likely) {
    return likely ? Json(likely->end) : Json(nullptr);
}

Json to_json(const RunRow& run, const std::vector<Lap>& laps) {
    const Lap* best = best_lap(laps);
    std::size_t flying = 0;
    for (const Lap& lap : laps) flying += lap.counts();
    Json out;
    out["run"] = run.id.value;
    out["event"] = run.event;
    out["session"] = run.session;
    out["name"] = run.name;
    out["driver"] = run.driver;
    out["car"] = run.car;
    out["track"] = run.track ? Json(run.track_name) : Json(nullptr);
    out["start_unix_s"] = or_null(run.start_unix_s);
    out["duration_s"] = run.duration_s;
    out["flying_laps"] = flying;
    out["best_lap"] = best == nullptr ? Json(nullptr) : Json(best->number);
    out["best_time_s"] = best == nullptr ? Json(nullptr) : Json(best->time_s());
    out["laps"] = laps.size();
    for (const RunField& field : all_run_fields())
        out[field.id] = field.is_text() ? Json(run.*field.text) : or_null(run.*field.number);
    out["damage"] = run.damage.empty() ? Json(nullptr) : Json(run.damage);
    out["setup"] = run.setup ? Json(run.setup_name) : Json(nullptr);
    out["logger"] = run.logger;
    out["clock_shift_s"] = run.clock_shift_s;
    out["window_s"] = run.window_s ? Json{run.window_s->begin, run.window_s->end} : Json(nullptr);
    out["digest"] = run.digest;
    out["source"] = run.source_name;
    out["notes"] = run.notes;
    return out;
}

Json to_json(const Lap& lap) {
    Json out;
    out["lap"] = lap.number;
    out["kind"] = lap_kind_name(lap.kind);
    out["included"] = lap.included;
    out["start_s"] = lap.start_s;
    out["time_s"] = lap.time_s();
    out["length_m"] = lap.length_m;
    out["switched_by_hand"] = lap.switched_by_hand;
    out["trust_m"] = lap.trust_m > 0 ? Json(lap.trust_m) : Json(nullptr);
    out["counts"] = lap.counts();
    out["reason"] = lap.reason;
    out["doubt"] = lap.doubt;
    out["note"] = lap.note;
    return out;
}

Json to_json(const Channel& channel) {
    Json out;
    out["name"] = channel.name;
    out["quantity"] = channel.quantity.empty() ? Json(nullptr) : Json(channel.quantity);
    out["unit"] = channel.unit;
    out["source_unit"] = channel.source_unit;
    out["rate_hz"] = channel.clock.mean_rate_hz();
    out["regular"] = channel.clock.times_s.empty();
    out["samples"] = channel.size();
    out["start_s"] = channel.size() > 0 ? channel.clock.time_at(0) : 0.0;
    return out;
}

Json to_json(const TrackRow& row, const Track& track) {
    Json out;
    out["track"] = row.name;
    out["length_m"] = track.length_m;
    out["file"] = row.file;
    const GeoPoint start = LocalPlane(track.origin).to_geo(track.start.position);
    out["start"] = {{"latitude_deg", start.latitude_deg},
                    {"longitude_deg", start.longitude_deg},
                    {"heading_deg", heading_from_direction(track.start.direction)}};
    out["corners"] = Json::array();
    for (const Corner& corner : track.corners) {
        out["corners"].push_back({{"number", corner.number},
                                  {"start_m", corner.start_m},
                                  {"apex_m", corner.apex_m},
                                  {"end_m", corner.end_m},
                                  {"left", corner.left},
                                  {"radius_m", corner.radius_m},
                                  {"angle_deg", corner.angle_deg}});
    }
    return out;
}

Json to_json(const ImportResult& result, const std::string& file) {
    Json out;
    out["file"] = file;
    out["run"] = result.run.value;
    out["already_in_library"] = result.already_there;
    out["notes"] = result.notes;
    for (const ChannelRoles::Question& question : result.questions)
        out["questions"].push_back({{"quantity", question.quantity}, {"channels", question.channels}});
    return out;
}

Json questions_to_json(const Error& error, const std::string& file) {
    Json out;
    out["file"] = file;
    out["run"] = nullptr;
    out["questions"] = Json::array();
    for (const Question& question : error.questions) {
        Json one{{"column", question.about}, {"question", question.text}, {"answers", Json::array()}};
        for (const Question::Answer& answer : question.answers) {
            Json takes = Json::array();
            for (const std::string& take : takes_of(answer)) takes.push_back(take);
            one["answers"].push_back({{"take", takes}, {"means", answer.label}});
        }
        out["questions"].push_back(std::move(one));
    }
    return out;
}

Json to_json(const ZoneDifference& difference) {
    Json out;
    out["corner"] = difference.zone.corner.number;
    out["begin_m"] = difference.zone.range_m.begin;
    out["end_m"] = difference.zone.range_m.end;
    out["loss_s"] = difference.loss_s;
    out["brake_on_m"] = or_null(difference.brake_on_m);
    out["brakes_only_here"] = difference.brakes_only_here;
    out["slowest_mps"] = or_null(difference.slowest_mps);
    out["throttle_lift"] = or_null(difference.throttle_lift);
    out["coasting_s"] = or_null(difference.coasting_s);
    out["off_pedals_s"] = or_null(difference.off_pedals_s);
    out["throttle_on_m"] = or_null(difference.throttle_on_m);
    out["exit_mps"] = or_null(difference.exit_mps);
    out["pedals_inferred"] = difference.inferred;
    return out;
}

}  // namespace rendak::cli
