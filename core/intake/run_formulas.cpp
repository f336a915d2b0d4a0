#include "core/intake/run_formulas.h"

#include <algorithm>
#include <cmath>

#include "core/analysis/observed_limit.h"
#include "core/analysis/quickest_line.h"
#include "core/laps/lap_map.h"
#include "core/track/ideal_line.h"

namespace rendak {
namespace {

/// Whether a formula needs to know where on the track the car was (aligning all laps takes a moment).
bool asks_for_places(const formula::CheckedFormula& formula) {
    for (const formula::Use& use : formula.uses) {
        if (use.named.kind == formula::Named::Kind::builtin && use.named.id != "time" && use.named.id != "lap_time" &&
            use.named.id != "lap_number")
            return true;
    }
    for (std::size_t i = 0; i < formula.functions.size(); ++i) {
        if (formula.functions[i] == nullptr) continue;
        const auto& given = formula.arguments[i];
        const auto is_given = [&](std::size_t k) { return k < given.size() && given[k] >= 0; };
        switch (formula.functions[i]->row->places) {
            case formula::Places::always:
                return true;
            case formula::Places::between:
                if (is_given(1) || is_given(2)) return true;
                break;
            case formula::Places::no:
                break;
        }
    }
    return false;
}

}  // namespace

Result<std::vector<formula::FormulaSet>> formula_sets(const Library& library, std::vector<Error>* problems) {
    std::vector<formula::FormulaSet> out;
    const auto versions = library.formula_sets();
    if (!versions) return pass_on(versions.error());
    for (const FormulaVersion& version : *versions) {
        auto set = formula::set_from_json(version.content, "formula set " + version.set_name);
        if (set)
            out.push_back(std::move(*set));
        else if (problems != nullptr)
            problems->push_back(set.error());
    }
    return out;
}

RunFormulas::RunFormulas(FormulaInputs inputs, Recording logged, std::vector<Lap> laps,
                         std::shared_ptr<const Track> track, std::shared_ptr<const Path> path,
                         const std::shared_ptr<const PedalScales>& scales, RunFormulas* former)
    : inputs_(std::move(inputs)),
      logged_(std::move(logged)),
      laps_(std::move(laps)),
      track_(std::move(track)),
      path_(std::move(path)),
      driver_(logged_, scales != nullptr ? *scales : pedal_scales(logged_)),
      resolver_(inputs_.book, inputs_.constants, inputs_.aliases, &logged_) {
    if (former == nullptr) return;
    const std::scoped_lock lock(former->results_mutex_);
    former_ = former->entries_;
    former_.insert(former->former_.begin(), former->former_.end());
}

const Channel* RunFormulas::find(std::string_view name, const std::stop_token& stop) {
    if (!has(name)) return nullptr;
    {
        const std::scoped_lock lock(results_mutex_);
        if (const auto found = entries_.find(name); found != entries_.end()) return found->second.channel.get();
    }
    const std::scoped_lock work(work_);
    {
        const std::scoped_lock lock(results_mutex_);
        if (const auto found = entries_.find(name); found != entries_.end()) return found->second.channel.get();
    }
    const std::string key(name);
    Entry entry;
    entry.fingerprint = resolver_.fingerprint(key);
    bool fresh = true;
    {
        const std::scoped_lock lock(results_mutex_);
        const auto before = former_.find(key);
        if (before != former_.end() && before->second.fingerprint == entry.fingerprint) {
            entry = before->second;
            fresh = false;
        }
        if (before != former_.end()) former_.erase(before);
    }
    if (fresh) {
        const auto& checked = resolver_.checked(key);
        if (!checked) {
            entry.problem = checked.error().sentence;
        } else {
            auto result =
                formula::evaluate(*checked, view(*checked, stop), {.rate_hz = inputs_.book.find(key)->rate_hz});
            if (result) {
                result->name = formula::label_of(key);
                result->quantity = key;
                entry.channel = std::make_shared<const Channel>(std::move(*result));
            } else {
                if (stop.stop_requested()) return nullptr;
                entry.problem = result.error().sentence;
            }
        }
    }
    const std::scoped_lock lock(results_mutex_);
    if (fresh) ++computed_;
    return (entries_[key] = std::move(entry)).channel.get();
}

bool RunFormulas::ready(std::string_view name) const {
    const std::scoped_lock lock(results_mutex_);
    return !has(name) || entries_.contains(name);
}

std::string RunFormulas::why_not(std::string_view name) const {
    const std::scoped_lock lock(results_mutex_);
    const auto found = entries_.find(name);
    return found == entries_.end() ? std::string() : found->second.problem;
}

std::size_t RunFormulas::computed() const {
    const std::scoped_lock lock(results_mutex_);
    return computed_;
}

formula::Checked<formula::CheckedFormula> RunFormulas::check(const std::string& text, const std::string& unit,
                                                             const std::string& as) {
    const std::scoped_lock work(work_);
    return formula::check(text, resolver_.names(as), unit);
}

formula::Checked<Channel> RunFormulas::evaluate(const formula::CheckedFormula& draft,
                                                const formula::Evaluation& options, const std::stop_token& stop) {
    formula::RunView run;
    {
        const std::scoped_lock work(work_);
        run = view(draft, stop);
    }
    return formula::evaluate(draft, run, options);
}

formula::Checked<std::size_t> RunFormulas::evaluate_blocks(const formula::CheckedFormula& draft,
                                                           std::size_t most_samples, const formula::TakeBlock& take,
                                                           const std::stop_token& stop) {
    formula::RunView run;
    {
        const std::scoped_lock work(work_);
        run = view(draft, stop);
    }
    return formula::evaluate_blocks(draft, run, most_samples, take);
}

std::vector<float> RunFormulas::driver_flags(std::string_view what, const SampleClock& clock, std::size_t from,
                                             std::size_t to) {
    // Seconds, metres and shares of one flag ask for it again and again, each for nearly all of the recording.
    if (!clock.same_as(driver_.clock()) || 2 * (to - from) < clock.size) return driver_.flags(what, clock, from, to);
    auto out = whole_driver_flags(what);
    out.resize(to);
    out.erase(out.begin(), out.begin() + static_cast<std::ptrdiff_t>(from));
    return out;
}

std::vector<float> RunFormulas::whole_driver_flags(std::string_view what) {
    {
        const std::scoped_lock lock(results_mutex_);
        if (const auto kept = driver_flags_.find(what); kept != driver_flags_.end()) return kept->second;
    }
    const SampleClock clock = driver_.clock();
    auto flags = what == "driver_coasting" ? driver_.coasting_flags(clock, whole_driver_flags("driver_on_brake"),
                                                                    whole_driver_flags("driver_on_throttle"),
                                                                    whole_driver_flags("driver_cornering"))
                                           : driver_.flags(what, clock, 0, clock.size);
    const std::scoped_lock lock(results_mutex_);
    return driver_flags_.insert_or_assign(std::string(what), std::move(flags)).first->second;
}

formula::RunView RunFormulas::view(const formula::CheckedFormula& formula, const std::stop_token& stop) {
    formula::RunView out;
    out.stop = stop;
    out.steps = &steps_;
    out.span_s = logged_.span_s();
    if (driver_.known()) {
        out.driver = [this](std::string_view what, const SampleClock& clock, std::size_t from, std::size_t to) {
            return driver_flags(what, clock, from, to);
        };
        out.driver_clock = driver_.clock();
    }
    out.channel = [this, stop](const std::string& id) -> tl::expected<const Channel*, std::string> {
        const Channel* found = logged_.find_logged(id);
        if (found == nullptr) found = find(id, stop);
        if (found != nullptr) return found;
        const std::string why = why_not(id);
        return tl::unexpected(why.empty() ? "This run has no " + id + "." : id + " cannot be computed: " + why);
    };
    const bool places = asks_for_places(formula) && track_ != nullptr && path_ != nullptr;
    if (places && maps_.empty()) {
        for (const Lap& lap : laps_)
            maps_.push_back(lap.complete()
                                ? std::make_shared<const LapMap>(align_lap(*path_, *track_, lap.start_s, lap.end_s))
                                : nullptr);
    }
    for (std::size_t i = 0; i < laps_.size(); ++i)
        out.laps.push_back({laps_[i].number, laps_[i].start_s, laps_[i].end_s, places ? maps_[i].get() : nullptr});
    if (places) give_track_values(formula, out);
    return out;
}

void RunFormulas::give_track_values(const formula::CheckedFormula& formula, formula::RunView& out) {
    const auto uses = [&](std::string_view id) {
        return std::any_of(formula.uses.begin(), formula.uses.end(),
                           [&](const auto& use) { return use.named.id == id; });
    };
    const bool ideal = uses("ideal_offset"), quickest = uses("quickest_offset");
    if (ideal || quickest || uses("edge_left") || uses("edge_right")) {
        if (track_->edges.source == Edges::Source::none) {
            out.no_track_value = "The edges of this track are not known. Learn them on the Track desk.";
            return;
        }
    }
    if (ideal && !ideal_line_m_) ideal_line_m_ = ideal_line(*track_);
    if (quickest && !quickest_line_m_) {
        auto line = quickest_line_of_run(out.stop);
        if (!out.stop.stop_requested()) quickest_line_m_ = std::move(line);
    }
    if (quickest && (!quickest_line_m_ || !*quickest_line_m_)) {
        if (quickest_line_m_) out.no_track_value = quickest_line_m_->error().message;
        return;
    }
    out.track_value = [this](std::string_view what, double distance_m) {
        if (what == "track_curvature") return track_->curvature_at(distance_m);
        if (what == "edge_left") return track_->value_at(track_->edges.left_m, distance_m);
        if (what == "edge_right") return track_->value_at(track_->edges.right_m, distance_m);
        return track_->value_at(what == "ideal_offset" ? *ideal_line_m_ : **quickest_line_m_, distance_m);
    };
}

/// At the points of the track's line, for the best lap that counts and the limits that all of them show.
Result<std::vector<double>> RunFormulas::quickest_line_of_run(const std::stop_token& stop) const {
    std::vector<PreparedLap> laps;
    for (std::size_t i = 0; i < laps_.size(); ++i) {
        if (maps_[i] == nullptr || !laps_[i].counts()) continue;
        PreparedLap lap;
        lap.ref.lap = laps_[i].number;
        lap.recording = std::shared_ptr<const Recording>(std::shared_ptr<const void>(), &logged_);
        lap.track = track_;
        lap.path = path_;
        lap.map = *maps_[i];
        laps.push_back(std::move(lap));
    }
    if (laps.empty()) return fail(ErrorCode::bad_input, "No lap of this run counts.");
    const auto limit = observed_limit(laps);
    if (!limit) return pass_on(limit.error());
    const auto best = std::min_element(
        laps.begin(), laps.end(), [](const PreparedLap& a, const PreparedLap& b) { return a.time_s() < b.time_s(); });
    const auto line = quickest_line(*best, *limit, JobContext{stop, {}});
    if (!line) return pass_on(line.error());
    std::vector<double> out;
    for (std::size_t i = 0; i < track_->line.size(); ++i)
        out.push_back(line->left_at(static_cast<double>(i) * track_->step_m()));
    return out;
}

}  // namespace rendak
