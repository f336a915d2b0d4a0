#include "core/formula/evaluate.h"

#include <algorithm>
#include <cmath>

#include "core/base/missing.h"
#include "core/formula/evaluator.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {}  // namespace

Checked<Channel> Evaluator::all(const Evaluation& options) {
    if (!open_channels()) return tl::unexpected(*problem_);
    choose_clock();
    int root = formula_.syntax.root;
    double rate_hz = options.rate_hz;
    // resample( ) around everything chooses the rate of the result.
    if (const Function* function = formula_.functions[index(root)]; function != nullptr && function->row->sets_rate) {
        if (rate_hz <= 0) rate_hz = constant_of(root, 1);
        root = argument(root, 0);
    }
    if (rate_hz > 0 && rate_hz * std::max(1.0, run_.span_s.length()) > 5e7)
        return tl::unexpected(
            Problem{0, formula_.syntax.at(root).to, "This rate would make more samples than fit into memory."});
    Part part{0, clock_.size};
    if (!options.range_s.empty()) {
        // One sample to either side, so that the ends can be drawn.
        part.from = clock_.first_at_or_after(options.range_s.begin);
        part.to = clock_.first_at_or_after(options.range_s.end);
        part.from -= std::min<std::size_t>(part.from, 2);
        part.to = std::min(clock_.size, part.to + 2);
    }
    if (const Channel* same = as_it_stands(root); same != nullptr && rate_hz <= 0 && part.size() == clock_.size) {
        Channel out = *same;
        const Channel named = made({}, 0, 1);
        out.name = named.name;
        out.quantity = named.quantity;
        out.unit = named.unit;
        out.is_state = named.is_state;
        return out;
    }
    ChannelStorage storage;
    storage.floats.resize(part.size());
    if (!compute(root, part, storage.floats)) return tl::unexpected(*problem_);
    const double start = part.size() > 0 ? clock_.time_at(part.from) : clock_.start_s;
    if (rate_hz > 0 && part.size() > 0) return at_rate(storage.floats, part, rate_hz);
    if (!clock_.times_s.empty())
        storage.times_s.assign(clock_.times_s.begin() + static_cast<std::ptrdiff_t>(part.from),
                               clock_.times_s.begin() + static_cast<std::ptrdiff_t>(part.to));
    return made(std::move(storage), start, clock_.rate_hz);
}

Checked<std::size_t> Evaluator::into(Interval range_s, std::span<float> out) {
    if (!open_channels()) return tl::unexpected(*problem_);
    choose_clock();
    Part part{0, clock_.size};
    if (!range_s.empty()) part = {clock_.first_at_or_after(range_s.begin), clock_.first_at_or_after(range_s.end)};
    if (out.size() >= part.size() && !compute(formula_.syntax.root, part, out.first(part.size())))
        return tl::unexpected(*problem_);
    return part.size();
}

bool Evaluator::needs_only_what_is_near() const {
    return std::all_of(formula_.functions.begin(), formula_.functions.end(), [](const Function* it) {
        return it == nullptr || (!it->is_over_time() && !it->row->sets_rate) || it->name == "delay";
    });
}

Checked<std::size_t> Evaluator::blocks(std::size_t most_samples, const TakeBlock& take) {
    if (!needs_only_what_is_near()) {
        const auto whole = all({});
        if (!whole) return tl::unexpected(whole.error());
        take(whole->floats(), whole->clock);
        return whole->size();
    }
    if (!open_channels()) return tl::unexpected(*problem_);
    choose_clock();
    std::vector<float> values(std::min(most_samples, clock_.size));
    for (std::size_t from = 0; from < clock_.size; from += values.size()) {
        const Part part{from, std::min(clock_.size, from + values.size())};
        const auto filled = std::span(values).first(part.size());
        arrays_.clear();
        if (!compute(formula_.syntax.root, part, filled)) return tl::unexpected(*problem_);
        take(filled, clock_of(part));
    }
    return clock_.size;
}

const Channel* Evaluator::as_it_stands(int i) const {
    const auto& named = formula_.named[index(i)];
    if (node(i).kind != Node::Kind::name || named.value) return nullptr;
    if (named.kind != Named::Kind::channel && named.kind != Named::Kind::formula) return nullptr;
    const Channel& channel = *channels_.at(named.id);
    const auto unit = parse_unit(channel.unit);
    const bool is_si = !unit || (unit->factor == 1 && unit->offset == 0);
    return is_si && !channel.is_double() && clock_.same_as(channel.clock) ? &channel : nullptr;
}

int Evaluator::argument(int i, std::size_t k) const {
    const auto& given = formula_.arguments[index(i)];
    return k < given.size() ? given[k] : -1;
}

double Evaluator::constant_of(int i, std::size_t k, double otherwise) const {
    const int given = argument(i, k);
    return given < 0 ? otherwise : formula_.constants[index(given)].value_or(otherwise);
}

bool Evaluator::wrong(int i, std::string sentence) {
    if (!problem_) problem_ = Problem{node(i).from, node(i).to, std::move(sentence)};
    return false;
}

Channel Evaluator::made(ChannelStorage storage, double start_s, double rate_hz) const {
    const auto dimension = dimension_of(formula_.type());
    Channel out = make_channel({}, {}, dimension ? si_symbol(*dimension) : "", std::move(storage), start_s, rate_hz);
    out.is_state = formula_.is_state;
    return out;
}

Checked<Channel> Evaluator::at_rate(std::span<const float> x, Part part, double rate_hz) {
    const SampleClock own = clock_of(part);
    SampleClock grid;
    grid.rate_hz = rate_hz;
    // The grid belongs to the run, not to the range asked for.
    const double begin = clock_.time_at(0), first = own.time_at(0), last = own.time_at(own.size - 1);
    const double skipped = std::ceil((first - begin) * rate_hz - 1e-6);
    grid.start_s = begin + skipped / rate_hz;
    grid.size =
        last < grid.start_s ? 0 : static_cast<std::size_t>(std::floor((last - grid.start_s) * rate_hz + 1e-6)) + 1;
    ChannelStorage storage;
    const auto values = sampled(x, own, formula_.is_state, grid, 0, grid.size);
    storage.floats.assign(values.begin(), values.end());
    return made(std::move(storage), grid.start_s, rate_hz);
}

bool Evaluator::open_channels() {
    for (const Use& use : formula_.uses) {
        if (use.named.value || channels_.contains(use.named.id)) continue;
        if (use.named.kind != Named::Kind::channel && use.named.kind != Named::Kind::formula) continue;
        const auto found = run_.channel(use.named.id);
        if (!found || *found == nullptr) {
            problem_ = Problem{use.from, use.to, found ? "This run has no " + use.written + "." : found.error()};
            return false;
        }
        channels_[use.named.id] = *found;
    }
    return true;
}

void Evaluator::choose_clock() {
    const SampleClock* fastest = nullptr;
    const auto take = [&](const SampleClock& clock) {
        if (clock.size == 0) return;
        if (fastest == nullptr || clock.mean_rate_hz() > fastest->mean_rate_hz()) fastest = &clock;
    };
    for (const auto& [id, channel] : channels_) take(channel->clock);
    // A flag of the driver's holds from sample to sample of its sensor: on a coarser clock it would come late.
    const bool of_driver = std::any_of(formula_.uses.begin(), formula_.uses.end(),
                                       [](const Use& use) { return use.named.id.starts_with("driver_"); });
    if (of_driver) take(run_.driver_clock);
    if (fastest != nullptr) {
        clock_ = *fastest;
    } else if (formula_.value()) {
        own_times_ = {run_.span_s.begin, std::max(run_.span_s.end, run_.span_s.begin + 1)};
        clock_.times_s = own_times_;
        clock_.start_s = own_times_.front();
        clock_.size = 2;
    } else {
        constexpr double rate_hz = 20;
        clock_.start_s = run_.span_s.begin;
        clock_.rate_hz = rate_hz;
        clock_.size = static_cast<std::size_t>(std::max(0.0, run_.span_s.length() * rate_hz)) + 1;
    }
}

SampleClock Evaluator::clock_of(Part part) const {
    return clock_.part(part.from, part.from + part.size());
}

int Evaluator::leaf(int i, Part part, Program& program, std::vector<const float*>& inputs,
                    std::map<std::string, int>& by_name) {
    const Named& named = formula_.named[index(i)];
    if (const auto seen = by_name.find(named.id); seen != by_name.end()) return seen->second;
    int reg = -1;
    if (named.kind == Named::Kind::builtin) {
        auto values = builtin(i, named.id, part);
        reg = problem_ ? -1 : add_array(std::move(values), program, inputs);
    } else {
        const Channel& channel = *channels_.at(named.id);
        const auto unit = parse_unit(channel.unit);
        const double factor = unit ? unit->factor : 1, offset = unit ? unit->offset : 0;
        if (factor == 1 && offset == 0 && !channel.is_double() && clock_.same_as(channel.clock)) {
            inputs.push_back(channel.floats().data() + part.from);
            reg = program.add_input();
        } else {
            reg = add_array(channel_at(channel, part, factor, offset), program, inputs);
        }
    }
    by_name[named.id] = reg;
    return reg;
}

std::vector<float> Evaluator::channel_at(const Channel& channel, Part part, double factor, double offset) const {
    std::vector<float> own;
    std::span<const float> samples = channel.floats();
    if (channel.is_double() || factor != 1 || offset != 0) {
        own.resize(channel.size());
        for (std::size_t k = 0; k < own.size(); ++k) own[k] = static_cast<float>(channel.at(k) * factor + offset);
        samples = own;
    }
    if (clock_.same_as(channel.clock))
        return {samples.begin() + static_cast<std::ptrdiff_t>(part.from),
                samples.begin() + static_cast<std::ptrdiff_t>(part.to)};
    return sampled(samples, channel.clock, channel.steps(), clock_, part.from, part.to);
}

std::vector<float> Evaluator::builtin(int i, const std::string& name, Part part) {
    std::vector<float> out(part.size(), static_cast<float>(missing));
    if (name == "time") {
        for (std::size_t k = 0; k < out.size(); ++k) out[k] = static_cast<float>(clock_.time_at(part.from + k));
        return out;
    }
    if (find_builtin(name)->is_condition) {
        if (!run_.driver) {
            wrong(i, "This run has neither pedals nor accelerations to tell that from.");
            return {};
        }
        return run_.driver(name, clock_, part.from, part.to);
    }
    if (run_.laps.empty()) {
        wrong(i, "This run has no laps, so it has no " + name + ". Give it a track first.");
        return {};
    }
    const bool of_track = name == "track_curvature" || name == "edge_left" || name == "edge_right" ||
                          name == "ideal_offset" || name == "quickest_offset";
    bool any = false;
    for (const LapSpan& lap : run_.laps) {
        const std::size_t from = std::clamp(clock_.first_at_or_after(lap.start_s), part.from, part.to);
        const std::size_t to = std::clamp(clock_.first_at_or_after(lap.end_s), from, part.to);
        if (name == "lap_number" || name == "lap_time") {
            for (std::size_t k = from; k < to; ++k)
                out[k - part.from] =
                    static_cast<float>(name == "lap_number" ? lap.number : clock_.time_at(k) - lap.start_s);
            continue;
        }
        if (lap.map == nullptr) continue;
        const auto &times = lap.map->time_s, &places = lap.map->distance_m, &left = lap.map->left_m;
        std::size_t at = 0;
        for (std::size_t k = from; k < to; ++k) {
            const double t = clock_.time_at(k);
            while (at + 2 < times.size() && times[at + 1] <= t) ++at;
            const double share = std::clamp((t - times[at]) / (times[at + 1] - times[at]), 0.0, 1.0);
            const double distance = places[at] + share * (places[at + 1] - places[at]);
            double value = distance;
            if (name != "distance") {
                const double offset =
                    left.size() == times.size() ? left[at] + share * (left[at + 1] - left[at]) : missing;
                value = offset;
                if (of_track) {
                    value = run_.track_value ? run_.track_value(name, distance) : missing;
                    any = any || std::isfinite(value);
                    if (name == "edge_left") value -= offset;
                    if (name == "edge_right") value += offset;
                }
            }
            out[k - part.from] = static_cast<float>(value);
        }
    }
    if (of_track && !any && part.size() > 0 && name != "track_curvature" && !run_.track_value)
        wrong(i, run_.no_track_value);
    return out;
}

Checked<Channel> evaluate(const CheckedFormula& formula, const RunView& run, const Evaluation& options) {
    return Evaluator(formula, run).all(options);
}

Checked<std::size_t> evaluate_blocks(const CheckedFormula& formula, const RunView& run, std::size_t most_samples,
                                     const TakeBlock& take) {
    return Evaluator(formula, run).blocks(most_samples, take);
}

Checked<std::size_t> evaluate_into(const CheckedFormula& formula, const RunView& run, Interval range_s,
                                   std::span<float> out) {
    return Evaluator(formula, run).into(range_s, out);
}

}  // namespace rendak::formula
