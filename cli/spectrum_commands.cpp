#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "cli/chassis_commands.h"
#include "cli/lap_sets.h"
#include "cli/output.h"
#include "cli/stretch_choice.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/ladder.h"
#include "core/trials/find_ladder.h"

namespace rendak::cli {
namespace {

/// What was said of axle and wheels.
void take_axle(SpectrumWish& wish, const SpectrumChoice& choice) {
    if (!choice.axle.empty()) {
        wish.front = choice.axle != "rear";
        wish.rear = choice.axle != "front";
        wish.wheels = choice.axle == "both" ? WheelChoice::each : WheelChoice::loaded;
    }
    if (!choice.wheels.empty())
        wish.wheels = choice.wheels == "unloaded" ? WheelChoice::unloaded
                      : choice.wheels == "loaded" ? WheelChoice::loaded
                                                  : WheelChoice::each;
}

Json wish_json(const SpectrumWish& wish) {
    return {
        {"channel", wish.channel},        {"axles", wish.front && wish.rear ? "both" : wish.front ? "front" : "rear"},
        {"segment_s", wish.segment_s},    {"band_from_hz", wish.band_hz.begin},
        {"band_to_hz", wish.band_hz.end}, {"low_is_good", true}};
}

Json step_json(double value, const StepFigure& figure) {
    return {{"value", value},
            {"laps", figure.laps.size()},
            {"mean", or_null(figure.mean)},
            {"low_mean", low_or_null(figure.likely)},
            {"high_mean", high_or_null(figure.likely)},
            {"change", figure.change},
            {"verdict", step_verdict_name(figure.verdict)}};
}

const char* says_name(Ladder::Says says) {
    switch (says) {
        case Ladder::Says::inside:
            return "inside";
        case Ladder::Says::low_end:
            return "try lower";
        case Ladder::Says::high_end:
            return "try higher";
        case Ladder::Says::unknown:
            break;
    }
    return "cannot be told";
}

}  // namespace

Result<std::vector<Stretch>> chosen_stretches(const StretchChoice& choice, std::span<const PreparedLap> laps,
                                              StretchKind usual) {
    if (choice.from_m.has_value() != choice.to_m.has_value())
        return fail(ErrorCode::bad_input, "A stretch of your own needs both --from and --to.");
    if (choice.from_m) {
        const double length = laps.front().track->length_m;
        if (!(*choice.to_m > *choice.from_m) || *choice.to_m > length)
            return fail(ErrorCode::bad_input, "--to must lie behind --from, and both on the track (" +
                                                  std::to_string(static_cast<int>(length)) + " m).");
        return std::vector{own_stretch({*choice.from_m, *choice.to_m}, laps)};
    }
    const auto kind = choice.on.empty() ? std::optional(usual) : stretch_kind(choice.on);
    if (!kind) return fail(ErrorCode::bad_input, "There is no such kind of stretch.", choice.on);
    auto out = stretches_of(*kind, laps);
    if (out.empty())
        return fail(ErrorCode::not_found, "This track has no such stretches (" + std::string(stretch_kind_name(*kind)) +
                                              "). Choose another kind with --on, or places with --from and --to.");
    return out;
}

Json stretches_json(std::span<const Stretch> stretches) {
    Json out = Json::array();
    for (const Stretch& it : stretches)
        out.push_back({{"name", it.name},
                       {"from_m", it.range_m.begin},
                       {"to_m", it.range_m.end},
                       {"corner", it.corner > 0 ? Json(it.corner) : Json(nullptr)},
                       {"time_s", it.time_s}});
    return out;
}

Result<SpectrumWish> spectrum_wish(const SpectrumChoice& choice) {
    SpectrumWish out;
    out.channel = choice.channel;
    out.segment_s = choice.segment_s;
    out.detrend = choice.detrend == "none" ? Detrend::none : choice.detrend == "mean" ? Detrend::mean : Detrend::line;
    if (choice.band_hz.size() != 2 || !(choice.band_hz[0] >= 0) || !(choice.band_hz[1] > choice.band_hz[0]))
        return fail(ErrorCode::bad_input, "A band goes from a frequency to a higher one: --band 1,10.");
    out.band_hz = {choice.band_hz[0], choice.band_hz[1]};
    return out;
}

int print_spectrum(const std::string& folder, const ChassisSets& sets, const StretchChoice& stretch,
                   const SpectrumChoice& choice) {
    auto wish = spectrum_wish(choice);
    if (!wish) return report(wish.error());
    wish->front = false;
    wish->wheels = WheelChoice::loaded;
    take_axle(*wish, choice);
    Result<LapSet> a;
    Result<LapSet> b;
    if (sets.against.empty()) {
        a = set_of(folder, sets.laps, sets.mixed);
    } else {
        auto both = sides_of(folder, sets.laps, sets.against, sets.mixed);
        if (!both) return report(both.error());
        a = std::move(both->a);
        b = std::move(both->b);
    }
    if (!a) return report(a.error());
    if (a->laps.empty() || (!sets.against.empty() && b->laps.empty()))
        return report({ErrorCode::not_found, "No lap of these counts.", {}});
    const auto stretches = chosen_stretches(stretch, a->laps, proposed_stretches(*wish));
    if (!stretches) return report(stretches.error());
    const auto curves_a = stretch_spectra(a->laps, *stretches, *wish);
    if (!curves_a) return report(curves_a.error());
    Result<std::vector<LapSpectra>> curves_b;
    if (!sets.against.empty()) {
        curves_b = stretch_spectra(b->laps, *stretches, *wish);
        if (!curves_b) return report(curves_b.error());
    }
    Json out = wish_json(*wish);
    out["stretches"] = stretches_json(*stretches);
    out["curves"] = Json::array();
    Json table = Json::array();
    for (const LapSpectra& curve : *curves_a) {
        const LapSpectra* other = nullptr;
        for (const LapSpectra& it : *curves_b)
            if (it.title == curve.title) other = &it;
        const auto bands = curve.told_bands();
        Json row{{"title", curve.title},
                 {"segments", curve.mean.segments},
                 {"laps", bands.size()},
                 {"band_rms", mean_value(bands)}};
        std::vector<int> differs;
        if (other != nullptr) {
            const auto other_bands = other->told_bands();
            differs = where_they_differ(curve, *other);
            const auto likely = likely_difference(bands, other_bands);
            row["against_band_rms"] = mean_value(other_bands);
            row["change"] = mean_value(other_bands) / mean_value(bands) - 1;
            row["low_change"] = likely ? Json(likely->begin / mean_value(bands)) : Json(nullptr);
            row["high_change"] = likely ? Json(likely->end / mean_value(bands)) : Json(nullptr);
            row["differs"] = !likely               ? "cannot be told"
                             : likely->contains(0) ? "alike"
                             : likely->begin > 0   ? "higher"
                                                   : "lower";
        }
        row["spectrum"] = Json::array();
        for (std::size_t i = 0; i < curve.mean.psd.size(); ++i) {
            if (curve.mean.frequency_hz(i) > 100) break;
            Json point{
                {"hz", curve.mean.frequency_hz(i)}, {"amplitude", curve.mean.amplitude(i)}, {"psd", curve.mean.psd[i]}};
            if (!curve.low.empty()) {
                point["low_psd"] = curve.low[i];
                point["high_psd"] = curve.high[i];
            }
            if (other != nullptr && i < differs.size()) {
                point["against_psd"] = other->mean.psd[i];
                point["differs"] = differs[i] == 0 ? "alike" : differs[i] > 0 ? "higher" : "lower";
            }
            Json flat{{"title", curve.title}};
            flat.update(point);
            table.push_back(std::move(flat));
            row["spectrum"].push_back(std::move(point));
        }
        out["curves"].push_back(std::move(row));
    }
    return sets.csv ? print_rows(table) : print(out);
}

int print_ladder(const std::string& folder, const LadderChoice& choice, const StretchChoice& stretch,
                 const SpectrumChoice& spectrum, bool csv) {
    auto wish = spectrum_wish(spectrum);
    if (!wish) return report(wish.error());
    auto library = open_existing(folder);
    if (!library) return report(library.error());
    const auto all = (*library)->runs();
    if (!all) return report(all.error());
    std::vector<RunRow> among;
    for (const RunRow& row : *all) {
        const bool named = std::find(choice.runs.begin(), choice.runs.end(), row.id.value) != choice.runs.end();
        if (choice.runs.empty() ? row.event == choice.event : named) among.push_back(row);
    }
    const auto found = find_ladders(**library, among);
    if (!found) return report(found.error());
    const FoundLadder* ladder = nullptr;
    for (const FoundLadder& it : *found)
        if (ladder == nullptr && (choice.line.empty() || it.name == choice.line)) ladder = &it;
    if (ladder == nullptr)
        return report({ErrorCode::not_found,
                       "No three runs that follow each other step one value of the setup sheet" +
                           (choice.line.empty() ? std::string() : " (" + choice.line + ")") +
                           ". Each run needs its own setup sheet, alike but for that value.",
                       {}});
    look_at_axle(*wish, *ladder);
    take_axle(*wish, spectrum);
    auto opened = open_ladder(*ladder, [&](RunId id) { return load_checked(**library, id); });
    if (!opened) return report(opened.error());
    const auto stretches = chosen_stretches(stretch, opened->laps, proposed_stretches(*wish));
    if (!stretches) return report(stretches.error());
    const auto made = ladder_of(opened->steps, *stretches, *wish, ladder->name, ladder->unit, choice.baseline);
    if (!made) return report(made.error());
    const std::vector<PlannedRun> plan = next_runs(*made, *opened);
    if (choice.plan) {
        if (const auto written = plan_runs(**library, plan); !written) return report(written.error());
    }
    Json out = wish_json(*wish);
    out["line"] = ladder->name;
    out["unit"] = ladder->unit;
    out["text"] = made->text;
    out["says"] = says_name(made->says);
    out["best"] = made->says == Ladder::Says::unknown ? Json(nullptr) : Json(made->values[made->best]);
    out["chance"] = made->chance;
    out["alike"] = Json::array();
    for (const std::size_t k : made->alike) out["alike"].push_back(made->values[k]);
    out["valley"] = or_null(made->valley);
    out["baseline"] = made->values[made->baseline];
    out["steps"] = Json::array();
    out["lap_times"] = Json::array();
    for (std::size_t k = 0; k < made->values.size(); ++k) {
        out["steps"].push_back(step_json(made->values[k], made->steps[k]));
        out["lap_times"].push_back(step_json(made->values[k], made->lap_times[k]));
    }
    out["stretches"] = stretches_json(*stretches);
    for (std::size_t s = 0; s < made->stretches.size(); ++s) {
        for (std::size_t k = 0; k < made->values.size(); ++k)
            out["stretches"][s]["steps"].push_back(step_json(made->values[k], made->stretches[s].steps[k]));
    }
    out["next"] = Json::array();
    for (const PlannedRun& run : plan)
        out["next"].push_back({{"change", run.change}, {"laps", run.laps}, {"why", run.why}});
    return csv ? print_rows(out["steps"]) : print(out);
}

}  // namespace rendak::cli
