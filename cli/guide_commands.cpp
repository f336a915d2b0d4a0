#include "cli/guide_commands.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>
#include <numbers>

#include "cli/commands.h"
#include "cli/output.h"
#include "core/analysis/track_guide.h"
#include "core/intake/lap_set.h"

namespace rendak::cli {
namespace {

constexpr double degrees = 180 / std::numbers::pi;

Json kmh(const std::optional<double>& mps) {
    return mps ? or_null(*mps * 3.6) : Json(nullptr);
}

Json json_of(const std::optional<Lean>& it) {
    if (!it) return nullptr;
    return {{"deg", it->rad * degrees}, {"sd_deg", it->sd_rad * degrees}, {"told", it->told()}};
}

const char* shape_name(GuideCorner::Shape shape) {
    return shape == GuideCorner::Shape::opens ? "opens" : shape == GuideCorner::Shape::closes ? "closes" : "even";
}

Json json_of(const GuideCorner& it, const Track& track) {
    return {{"corner", it.corner.number},
            {"name", it.corner.title()},
            {"kind", guide_kind(it)},
            {"left", it.corner.left},
            {"flat", it.flat},
            {"angle_deg", it.corner.angle_deg},
            {"radius_m", it.corner.radius_m},
            {"length_m", it.corner.end_m - it.corner.start_m},
            {"shape", shape_name(it.shape)},
            {"from_m", it.range_m.begin},
            {"to_m", it.range_m.end},
            {"brake_on_m", or_null(it.events.brake_on_m)},
            {"brake_kmh", kmh(it.brake_mps)},
            {"brake_gear", it.brake_gear ? Json(*it.brake_gear) : Json(nullptr)},
            {"turn_in_m", or_null(it.events.turn_in_m)},
            {"slowest_m", or_null(it.events.slowest_m)},
            {"slowest_kmh", kmh(it.slowest_mps)},
            {"gear", it.gear ? Json(*it.gear) : Json(nullptr)},
            {"full_throttle_m", or_null(it.events.full_throttle_m)},
            {"before_m", it.before_m},
            {"after_m", it.after_m},
            {"next", it.next > 0 ? Json(it.next) : Json(nullptr)},
            {"full_m", it.full_m},
            {"climbs_in_m", or_null(it.climbs_in_m)},
            {"climbs_out_m", or_null(it.climbs_out_m)},
            {"lean_in", json_of(it.lean_in)},
            {"lean_middle", json_of(it.lean_middle)},
            {"lean_out", json_of(it.lean_out)},
            {"crest_m", or_null(it.crest_m)},
            {"crest_share", it.crest_m ? Json(it.crest_share) : Json(nullptr)},
            {"slowest_s_per_kmh", or_null(it.slowest_s)},
            {"exit_s_per_kmh", or_null(it.exit_s)},
            {"matters", guide_matters(it, track)},
            {"of_commitment", it.of_commitment},
            {"after", guide_after(it, track)},
            {"warnings", guide_warnings(it, track)},
            {"text", guide_words(it, track)}};
}

/// The run that is asked for, or the newest one of the track with a lap that counts.
Result<LapSet> best_lap(Library& library, const std::string& track, std::int64_t run) {
    const auto of = [&](RunId id) -> Result<LapSet> {
        const auto loaded = load_checked(library, id);
        if (!loaded) return pass_on(loaded.error());
        return lap_set({{id, LapWish::Which::best, {}}}, {*loaded}, false);
    };
    if (run > 0) {
        auto set = of({run});
        if (set && !track.empty() && set->runs.front()->row.track_name != track)
            return fail(ErrorCode::bad_input, "Run " + std::to_string(run) + " was driven on " +
                                                  set->runs.front()->row.track_name + ", not on " + track + ".");
        return set;
    }
    const auto runs = library.runs();
    if (!runs) return pass_on(runs.error());
    std::vector<RunRow> there;
    for (const RunRow& it : *runs) {
        if (it.track && it.track_name == track) there.push_back(it);
    }
    // The newest first; of those without a clock the one that was filed last.
    std::stable_sort(there.begin(), there.end(), [](const RunRow& a, const RunRow& b) {
        return std::pair(a.start_unix_s.value_or(0), a.id.value) > std::pair(b.start_unix_s.value_or(0), b.id.value);
    });
    for (const RunRow& it : there) {
        if (auto set = of(it.id)) return set;
    }
    return fail(ErrorCode::not_found, !there.empty() ? "No run on " + track + " has a complete lap that counts."
                                                     : "No run on a track " + track + " is in the library.");
}

}  // namespace

int print_guide(const std::string& folder, const std::string& track, std::int64_t run, const std::string& format,
                const std::string& file) {
    const auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto set = best_lap(**library, track, run);
    if (!set) return report(set.error());
    const PreparedLap& lap = set->laps.front();
    if (format == "pdf")
        return paint("guide", folder,
                     {"--lap", std::to_string(lap.ref.run.value) + ":" + std::to_string(lap.ref.lap), "--out", file});
    const TrackGuide guide = track_guide(lap);
    const RunRow& row = set->runs.front()->row;
    if (format == "text") {
        std::printf("%s, from lap %d of %s\n", lap.track->name.c_str(), lap.ref.lap, row.name.c_str());
        for (const GuideCorner& it : guide.corners) {
            std::printf("\n%s\n%s\n", it.corner.title().c_str(), guide_words(it, *lap.track).c_str());
            for (const std::string& warning : guide_warnings(it, *lap.track))
                std::printf("Beware: %s.\n", warning.c_str());
        }
        return done;
    }
    Json out{{"track", lap.track->name}, {"run", lap.ref.run.value},           {"lap", lap.ref.lap},
             {"time_s", lap.time_s()},   {"height_known", guide.height_known}, {"lean_known", guide.lean_known},
             {"corners", Json::array()}};
    for (const GuideCorner& it : guide.corners) out["corners"].push_back(json_of(it, *lap.track));
    return print(out);
}

}  // namespace rendak::cli
