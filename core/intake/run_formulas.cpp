#include "core/intake/run_formulas.h"

#include <algorithm>
#include <cmath>

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

formula::RunView RunFormulas::view(const formula::CheckedFormula& formula, const std::stop_token& stop) {
    formula::RunView out;
    out.stop = stop;
    out.span_s = logged_.span_s();
    if (driver_.known()) {
        out.driver = [this](std::string_view what, double time_s) { return driver_.flag(what, time_s); };
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
    if (places) {
        const bool ideal = std::any_of(formula.uses.begin(), formula.uses.end(),
                                       [](const auto& use) { return use.named.id == "ideal_offset"; });
        if (ideal && !ideal_known_) {
            ideal_line_m_ = ideal_line(*track_);
            ideal_known_ = true;
        }
        const bool edges = track_->edges.source != Edges::Source::none;
        const bool of_edges = std::any_of(formula.uses.begin(), formula.uses.end(), [](const auto& use) {
            return use.named.id == "ideal_offset" || use.named.id == "edge_left" || use.named.id == "edge_right";
        });
        if (!of_edges || edges)
            out.track_value = [this](std::string_view what, double distance_m) {
                if (what == "track_curvature") return track_->curvature_at(distance_m);
                if (what == "edge_left") return track_->value_at(track_->edges.left_m, distance_m);
                if (what == "edge_right") return track_->value_at(track_->edges.right_m, distance_m);
                return track_->value_at(ideal_line_m_, distance_m);
            };
    }
    return out;
}

}  // namespace rendak
