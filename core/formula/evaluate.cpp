#include "core/formula/evaluate.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/buffer.h"
#include "core/formula/over_time.h"
#include "core/formula/program.h"
#include "core/formula/scalar.h"
#include "core/signal/filters.h"
#include "core/units/compound_unit.h"

namespace rendak::formula {
namespace {

constexpr double missing = std::numeric_limits<double>::quiet_NaN();

/// Samples [from, to) of the clock.
struct Part {
    std::size_t from = 0, to = 0;
    [[nodiscard]] std::size_t size() const { return to - from; }
    bool operator<(const Part& other) const { return std::pair(from, to) < std::pair(other.from, other.to); }
};

/// Computes one formula on one clock. Functions with a memory become arrays; what lies between them is compiled to a
/// Program and run in blocks. `problem_` ends everything.
class Evaluator {
  public:
    Evaluator(const CheckedFormula& formula, const RunView& run) : formula_(formula), run_(run) {}

    Checked<Channel> all(const Evaluation& options) {
        if (!open_channels()) return tl::unexpected(*problem_);
        choose_clock();
        int root = formula_.syntax.root;
        double rate_hz = options.rate_hz;
        // resample( ) around everything chooses the rate of the result.
        if (const Function* function = formula_.functions[index(root)];
            function != nullptr && function->fn == Fn::resample) {
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

    Checked<std::size_t> into(Interval range_s, std::span<float> out) {
        if (!open_channels()) return tl::unexpected(*problem_);
        choose_clock();
        Part part{0, clock_.size};
        if (!range_s.empty()) part = {clock_.first_at_or_after(range_s.begin), clock_.first_at_or_after(range_s.end)};
        if (out.size() >= part.size() && !compute(formula_.syntax.root, part, out.first(part.size())))
            return tl::unexpected(*problem_);
        return part.size();
    }

  private:
    static std::size_t index(int node) { return static_cast<std::size_t>(node); }
    const Node& node(int i) const { return formula_.syntax.at(i); }
    int argument(int i, std::size_t k) const {
        const auto& given = formula_.arguments[index(i)];
        return k < given.size() ? given[k] : -1;
    }
    bool has(int i, std::size_t k) const { return argument(i, k) >= 0; }
    double constant_of(int i, std::size_t k, double otherwise = 0) const {
        const int given = argument(i, k);
        return given < 0 ? otherwise : formula_.constants[index(given)].value_or(otherwise);
    }
    bool wrong(int i, std::string sentence) {
        if (!problem_) problem_ = Problem{node(i).from, node(i).to, std::move(sentence)};
        return false;
    }
    bool steps(int i) const { return formula_.states[index(i)] != 0 || formula_.types[index(i)].is_condition(); }
    bool stopped(int i) { return run_.stop.stop_requested() && (wrong(i, "Cancelled."), true); }

    Channel made(ChannelStorage storage, double start_s, double rate_hz) const {
        const auto dimension = dimension_of(formula_.type());
        Channel out =
            make_channel({}, {}, dimension ? si_symbol(*dimension) : "", std::move(storage), start_s, rate_hz);
        out.is_state = formula_.is_state;
        return out;
    }
    Checked<Channel> at_rate(std::span<const float> x, Part part, double rate_hz) {
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

    bool open_channels() {
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

    void choose_clock() {
        const Channel* fastest = nullptr;
        for (const auto& [id, channel] : channels_) {
            if (channel->size() == 0) continue;
            if (fastest == nullptr || channel->clock.mean_rate_hz() > fastest->clock.mean_rate_hz()) fastest = channel;
        }
        if (fastest != nullptr) {
            clock_ = fastest->clock;
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
    SampleClock clock_of(Part part) const {
        SampleClock out = clock_;
        out.size = part.size();
        if (!clock_.times_s.empty())
            out.times_s = clock_.times_s.subspan(part.from, part.size());
        else
            out.start_s = clock_.start_s + static_cast<double>(part.from) / clock_.rate_hz;
        if (!clock_.times_s.empty() && part.size() > 0) out.start_s = out.times_s.front();
        return out;
    }

    // ---- sample by sample --------------------------------------------------------------------------

    /// Fills `out` with node i over a part of the clock.
    bool compute(int i, Part part, std::span<float> out) {
        if (stopped(i)) return false;
        Program program;
        std::vector<const float*> inputs;
        std::map<std::string, int> by_name;
        const int result = compile(i, part, program, inputs, by_name);
        if (result < 0) return false;
        program.set_result(result);
        return program.run(inputs, out, run_.stop) || wrong(i, "Cancelled.");
    }
    std::vector<float> array(int i, Part part) {
        std::vector<float> out(part.size());
        if (!compute(i, part, out)) out.clear();
        return out;
    }

    int add_array(std::vector<float> values, Program& program, std::vector<const float*>& inputs) {
        arrays_.push_back(std::move(values));
        inputs.push_back(arrays_.back().data());
        return program.add_input();
    }

    int compile(int i, Part part, Program& program, std::vector<const float*>& inputs,
                std::map<std::string, int>& by_name) {
        if (problem_) return -1;
        if (const auto value = formula_.constants[index(i)]) return program.add_constant(static_cast<float>(*value));
        const auto below = [&](int child) { return compile(child, part, program, inputs, by_name); };
        const Node& at = node(i);
        switch (at.kind) {
            case Node::Kind::name:
                return leaf(i, part, program, inputs, by_name);
            case Node::Kind::unary: {
                const int a = below(at.children[0]);
                return a < 0 ? -1 : program.add_step(kernel_of(at.op), a);
            }
            case Node::Kind::binary:
                return binary(i, program, below);
            case Node::Kind::conditional:
                return choose(at.children[1], at.children[0], at.children[2], program, below);
            case Node::Kind::call:
                break;
            default:
                return -1;
        }
        const Fn fn = formula_.functions[index(i)]->fn;
        if (!is_pointwise(fn)) {
            auto values = over_time(i, fn, part);
            return problem_ ? -1 : add_array(std::move(values), program, inputs);
        }
        return pointwise(i, fn, program, below);
    }

    template <class Below>
    int pointwise(int i, Fn fn, Program& program, const Below& below) {
        const auto& given = formula_.arguments[index(i)];
        if (fn == Fn::first_of) return below(given[0]);
        if (fn == Fn::where) return choose(given[0], given[1], given[2], program, below);
        if (fn == Fn::interp || fn == Fn::pchip || fn == Fn::polyval) {
            const auto listed = [&](int list) {
                std::vector<double> values;
                for (const int item : node(list).children) values.push_back(*formula_.constants[index(item)]);
                return values;
            };
            const int x = below(given[0]);
            if (x < 0) return -1;
            return fn == Fn::polyval ? program.add_table(fn, x, {}, listed(given[1]))
                                     : program.add_table(fn, x, listed(given[1]), listed(given[2]));
        }
        if (fn == Fn::sqrt) {
            if (const int sum = squares(given[0], program, below, fused::root_square_sum); sum != not_so) return sum;
        }
        std::vector<int> operands;
        for (const int child : given) {
            operands.push_back(child < 0 ? program.add_constant(0) : below(child));
            if (operands.back() < 0) return -1;
        }
        const bool pairs = fn == Fn::minimum || fn == Fn::maximum || fn == Fn::coalesce;
        if (!pairs) {
            operands.resize(4, -1);
            return program.add_step(kernel_of(fn), operands[0], operands[1], operands[2], operands[3]);
        }
        const Kernel kernel = fn == Fn::coalesce ? fused::coalesce : kernel_of(fn);
        int result = operands[0];
        for (std::size_t k = 1; k < operands.size(); ++k) result = program.add_step(kernel, result, operands[k]);
        return result;
    }

    static constexpr int not_so = -2;

    bool is_binary(int i, Op op) const {
        return node(i).kind == Node::Kind::binary && node(i).op == op && !formula_.constants[index(i)];
    }
    /// The child that a node squares (x², x ** 2, x * x of one channel), or -1.
    int squared(int i) const {
        if (is_binary(i, Op::power) && formula_.constants[index(node(i).children[1])] == 2.0)
            return node(i).children[0];
        if (!is_binary(i, Op::multiply)) return -1;
        const Node &a = formula_.syntax.child(node(i), 0), &b = formula_.syntax.child(node(i), 1);
        const bool same_name = a.kind == Node::Kind::name && b.kind == Node::Kind::name && a.text == b.text;
        return same_name ? node(i).children[0] : -1;
    }
    /// a² + b² in one pass, when node i is that.
    template <class Below>
    int squares(int i, Program& program, const Below& below, Kernel kernel) {
        if (!is_binary(i, Op::add)) return not_so;
        const int a = squared(node(i).children[0]), b = squared(node(i).children[1]);
        if (a < 0 || b < 0) return not_so;
        const int x = below(a);
        const int y = x < 0 ? -1 : below(b);
        return y < 0 ? -1 : program.add_step(kernel, x, y);
    }

    template <class Below>
    int binary(int i, Program& program, const Below& below) {
        const Node& at = node(i);
        if (at.op == Op::add) {
            if (const int sum = squares(i, program, below, fused::square_sum); sum != not_so) return sum;
            // a b + c in one pass.
            for (std::size_t side = 0; side < 2; ++side) {
                const int factor = at.children[side];
                if (!is_binary(factor, Op::multiply) || squared(factor) >= 0) continue;
                const int a = below(node(factor).children[0]);
                const int b = a < 0 ? -1 : below(node(factor).children[1]);
                const int c = b < 0 ? -1 : below(at.children[1 - side]);
                return c < 0 ? -1 : program.add_step(fused::multiply_add, a, b, c);
            }
        }
        if (const int root = squared(i); root >= 0) {
            const int a = below(root);
            return a < 0 ? -1 : program.add_step(fused::square, a);
        }
        if (at.op == Op::power) {
            const auto exponent = formula_.constants[index(at.children[1])];
            const int a = below(at.children[0]);
            if (a < 0) return -1;
            if (exponent == 0.5) return program.add_step(kernel_of(Fn::sqrt), a);
            if (exponent == 1.0) return a;
            if (exponent == 3.0)
                return program.add_step(kernel_of(Op::multiply), program.add_step(fused::square, a), a);
            const int b = below(at.children[1]);
            return b < 0 ? -1 : program.add_step(kernel_of(Op::power), a, b);
        }
        const int a = below(at.children[0]);
        const int b = a < 0 ? -1 : below(at.children[1]);
        return b < 0 ? -1 : program.add_step(kernel_of(at.op), a, b);
    }

    /// Comparison and choice in one pass where the condition is one comparison.
    template <class Below>
    int choose(int condition, int yes, int no, Program& program, const Below& below) {
        const Node& test = node(condition);
        const bool compares = test.kind == Node::Kind::binary && !formula_.constants[index(condition)];
        const Op op = test.op;
        const bool forward = compares && (op == Op::less || op == Op::less_equal);
        const bool backward = compares && (op == Op::greater || op == Op::greater_equal);
        if (!forward && !backward) {
            const int c = below(condition);
            const int a = c < 0 ? -1 : below(yes);
            const int b = a < 0 ? -1 : below(no);
            return b < 0 ? -1 : program.add_step(fused::choose, c, a, b);
        }
        const int low = below(test.children[forward ? 0 : 1]);
        const int high = low < 0 ? -1 : below(test.children[forward ? 1 : 0]);
        const int a = high < 0 ? -1 : below(yes);
        const int b = a < 0 ? -1 : below(no);
        const bool strict = op == Op::less || op == Op::greater;
        return b < 0 ? -1 : program.add_step(strict ? fused::choose_less : fused::choose_less_equal, low, high, a, b);
    }

    // ---- leaves ------------------------------------------------------------------------------------

    int leaf(int i, Part part, Program& program, std::vector<const float*>& inputs,
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
            if (factor == 1 && offset == 0 && !channel.is_double() && same_clock(channel.clock)) {
                inputs.push_back(channel.floats().data() + part.from);
                reg = program.add_input();
            } else {
                reg = add_array(channel_at(channel, part, factor, offset), program, inputs);
            }
        }
        by_name[named.id] = reg;
        return reg;
    }
    bool same_clock(const SampleClock& other) const {
        return other.size == clock_.size && other.start_s == clock_.start_s && other.rate_hz == clock_.rate_hz &&
               other.times_s.data() == clock_.times_s.data() && other.times_s.size() == clock_.times_s.size();
    }
    std::vector<float> channel_at(const Channel& channel, Part part, double factor, double offset) const {
        std::vector<float> own;
        std::span<const float> samples = channel.floats();
        if (channel.is_double() || factor != 1 || offset != 0) {
            own.resize(channel.size());
            for (std::size_t k = 0; k < own.size(); ++k) own[k] = static_cast<float>(channel.at(k) * factor + offset);
            samples = own;
        }
        if (same_clock(channel.clock))
            return {samples.begin() + static_cast<std::ptrdiff_t>(part.from),
                    samples.begin() + static_cast<std::ptrdiff_t>(part.to)};
        return sampled(samples, channel.clock, channel.steps(), clock_, part.from, part.to);
    }

    std::vector<float> builtin(int i, const std::string& name, Part part) {
        std::vector<float> out(part.size(), static_cast<float>(missing));
        if (name == "time") {
            for (std::size_t k = 0; k < out.size(); ++k) out[k] = static_cast<float>(clock_.time_at(part.from + k));
            return out;
        }
        if (run_.laps.empty()) {
            wrong(i, "This run has no laps, so it has no " + name + ". Give it a track first.");
            return {};
        }
        const bool of_track =
            name == "track_curvature" || name == "edge_left" || name == "edge_right" || name == "ideal_offset";
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
            wrong(i, "The edges of this track are not known. Learn them on the Track desk.");
        return out;
    }

    // ---- functions with a memory -------------------------------------------------------------------

    /// The laps, or everything, that lie at least partly in `part`, as samples of the clock.
    std::vector<Stretch> stretches(int i, std::size_t per, Part part) {
        const int word = argument(i, per);
        if (word >= 0 && node(word).kind == Node::Kind::name && node(word).text == "run")
            return {{0, clock_.size, run_.span_s.begin, run_.span_s.end, nullptr}};
        if (run_.laps.empty()) {
            wrong(i, "This run has no laps, so it has no figures of a lap. Give it a track, or ask for per=run.");
            return {};
        }
        auto all = stretches_of(run_.laps, clock_);
        std::erase_if(all, [&](const Stretch& one) { return one.to <= part.from || one.from >= part.to; });
        return all;
    }
    /// From the first sample of any stretch to the last.
    static Part covering(const std::vector<Stretch>& stretches, Part otherwise) {
        if (stretches.empty()) return otherwise;
        return {stretches.front().from, stretches.back().to};
    }
    static std::vector<Stretch> moved(std::vector<Stretch> stretches, std::size_t back) {
        for (Stretch& one : stretches) {
            one.from -= back;
            one.to -= back;
        }
        return stretches;
    }
    /// `part` with some samples more to either side.
    Part wider(Part part, double seconds, std::size_t more) const {
        const std::size_t extra =
            static_cast<std::size_t>(std::ceil(std::min(seconds * clock_.mean_rate_hz(), 1e9))) + more;
        if (clock_.times_s.empty())
            return {part.from - std::min(part.from, extra), std::min(clock_.size, part.to + extra)};
        // Uneven clocks: by time.
        if (part.size() == 0) return part;
        const double begin = clock_.time_at(part.from) - seconds, end = clock_.time_at(part.to - 1) + seconds;
        const std::size_t from = clock_.first_at_or_after(begin), to = clock_.first_at_or_after(end);
        return {from - std::min(from, more), std::min(clock_.size, to + 1 + more)};
    }
    /// What a wider computation found for `part`.
    static std::vector<float> cut(std::vector<float> all, Part computed, Part part) {
        if (computed.from == part.from && computed.to == part.to) return all;
        std::vector<float> out(part.size(), static_cast<float>(missing));
        for (std::size_t k = std::max(part.from, computed.from); k < std::min(part.to, computed.to); ++k)
            out[k - part.from] = all[k - computed.from];
        return out;
    }

    std::vector<float> over_time(int i, Fn fn, Part part) {
        if (stopped(i)) return {};
        const int x = argument(i, 0);
        const Part whole{0, clock_.size};
        switch (fn) {
            case Fn::gradient: {
                const Part wide = wider(part, 0, 1);
                const auto values = array(x, wide);
                return problem_ ? values : cut(gradient(values, clock_of(wide)), wide, part);
            }
            case Fn::delay: {
                const double by_s = constant_of(i, 1);
                const Part wide = wider(part, std::abs(by_s), 2);
                const auto values = array(x, wide);
                const bool is_state = steps(x);
                return problem_ ? values : cut(delayed(values, clock_of(wide), by_s, is_state), wide, part);
            }
            case Fn::uniform_filter:
            case Fn::minimum_filter:
            case Fn::maximum_filter:
            case Fn::median_filter: {
                const double size_s = constant_of(i, 1);
                if (fn == Fn::median_filter && size_s * clock_.mean_rate_hz() > 2001) {
                    wrong(argument(i, 1),
                          "The window is longer than 2000 samples; use uniform_filter for something this slow.");
                    return {};
                }
                const Part wide = wider(part, size_s / 2, 1);
                const auto values = array(x, wide);
                const Window window = fn == Fn::uniform_filter   ? Window::mean
                                      : fn == Fn::minimum_filter ? Window::low
                                      : fn == Fn::maximum_filter ? Window::high
                                                                 : Window::median;
                return problem_ ? values : cut(moving(values, clock_of(wide), window, size_s), wide, part);
            }
            case Fn::savgol_filter:
                return savgol(i, part);
            case Fn::lowpass:
            case Fn::highpass:
                return butter(i, fn, part);
            case Fn::resample: {
                const auto values = array(x, whole);
                if (problem_) return values;
                SampleClock grid;
                grid.start_s = clock_.time_at(0);
                grid.rate_hz = constant_of(i, 1);
                const double count = clock_.span_s().length() * grid.rate_hz;
                if (count > 5e7) return wrong(i, "This rate would make more samples than fit into memory."), values;
                grid.size = static_cast<std::size_t>(count + 1e-6) + 1;
                const bool is_state = steps(x);
                const auto coarse = sampled(values, clock_, is_state, grid, 0, grid.size);
                return sampled(coarse, grid, is_state, clock_, part.from, part.to);
            }
            case Fn::cumulative_trapezoid:
                return integral(i, part);
            case Fn::hysteresis: {
                const auto values = array(x, whole), low = array(argument(i, 1), whole),
                           high = array(argument(i, 2), whole);
                return problem_ ? values : cut(hysteresis(values, low, high), whole, part);
            }
            case Fn::debounce:
            case Fn::lasting: {
                const auto values = array(x, whole);
                if (problem_) return values;
                const double time_s = constant_of(i, 1);
                return cut(fn == Fn::debounce ? debounced(values, clock_, time_s) : lasting(values, clock_, time_s),
                           whole, part);
            }
            case Fn::count_rises:
            case Fn::time_while:
            case Fn::distance_while:
            case Fn::share_while:
                return so_far(i, fn, part);
            case Fn::value_at:
                return at_a_place(i, part);
            default:
                return lap_figure(i, fn, part);
        }
    }

    /// Filters want even steps: on an uneven clock they work on samples interpolated to its mean rate.
    template <class Filter>
    std::vector<float> on_even_clock(std::span<const float> values, Part part, const Filter& filter) {
        if (clock_.times_s.empty()) {
            auto out = filter(values, clock_.rate_hz);
            return cut(std::move(out), {0, clock_.size}, part);
        }
        SampleClock even;
        even.start_s = clock_.time_at(0);
        even.rate_hz = clock_.mean_rate_hz();
        even.size = clock_.size;
        if (!(even.rate_hz > 0)) return std::vector<float>(part.size(), static_cast<float>(missing));
        const auto regular = sampled(values, clock_, false, even, 0, even.size);
        return sampled(filter(std::span<const float>(regular), even.rate_hz), even, false, clock_, part.from, part.to);
    }
    std::vector<float> butter(int i, Fn fn, Part part) {
        const double cutoff_hz = constant_of(i, 1), rate_hz = clock_.mean_rate_hz();
        const int order = static_cast<int>(constant_of(i, 2, 2));
        if (!(cutoff_hz < rate_hz / 2)) {
            wrong(argument(i, 1),
                  "The cut-off must lie below half the sample rate, which is " + said_hz(rate_hz / 2) + " here.");
            return {};
        }
        const auto values = array(argument(i, 0), {0, clock_.size});
        if (problem_) return values;
        return on_even_clock(values, part, [&](std::span<const float> x, double hz) {
            return butterworth(x, hz, fn == Fn::lowpass ? Pass::low : Pass::high, cutoff_hz, order);
        });
    }
    std::vector<float> savgol(int i, Part part) {
        const int order = static_cast<int>(constant_of(i, 2, 2)), deriv = static_cast<int>(constant_of(i, 3, 0));
        const double rate_hz = clock_.mean_rate_hz();
        const double samples = constant_of(i, 1) * rate_hz;
        if (samples > 1001) {
            wrong(argument(i, 1), "The window is longer than 1000 samples; use lowpass for something this slow.");
            return {};
        }
        int window = 2 * static_cast<int>(std::floor(samples / 2 + 1e-6)) + 1;
        window = std::max(window, order % 2 == 0 ? order + 3 : order + 2);
        // On an even clock only the neighbourhood matters: two windows to either side hold every polynomial that can
        // reach.
        Part near{0, clock_.size};
        if (clock_.times_s.empty()) near = wider(part, 0, 2 * static_cast<std::size_t>(window));
        const auto values = array(argument(i, 0), near);
        if (problem_) return values;
        if (clock_.times_s.empty()) return cut(savitzky_golay(values, rate_hz, window, order, deriv), near, part);
        return on_even_clock(values, part, [&](std::span<const float> x, double hz) {
            return savitzky_golay(x, hz, window, order, deriv);
        });
    }
    static std::string said_hz(double hz) {
        std::string text = std::to_string(hz);
        text.resize(std::min(text.size(), text.find('.') + 2));
        return text + " Hz";
    }

    std::vector<float> integral(int i, Part part) {
        const int reset = argument(i, 1);
        const bool word = reset >= 0 && node(reset).kind == Node::Kind::name &&
                          (node(reset).text == "lap" || node(reset).text == "run");
        const bool by_lap = word && node(reset).text == "lap";
        const Part whole{0, clock_.size};
        std::vector<Stretch> laps;
        Part computed = whole;
        if (by_lap) {
            laps = stretches(i, 1, part);
            if (problem_) return {};
            computed = covering(laps, part);
        }
        const auto values = array(argument(i, 0), computed);
        if (problem_) return values;
        std::vector<float> anew;
        if (by_lap) {
            anew.assign(values.size(), 0);
            for (const Stretch& lap : laps) {
                if (lap.from < lap.to) anew[lap.from - computed.from] = 1;
            }
        } else if (reset >= 0 && !word) {
            anew = array(reset, whole);
            if (problem_) return {};
            // Only where the condition becomes true.
            for (std::size_t k = anew.size(); k-- > 1;) anew[k] = anew[k] == 1 && anew[k - 1] != 1 ? 1.0F : 0.0F;
        }
        return cut(cumulative_trapezoid(values, clock_of(computed), anew), computed, part);
    }

    std::vector<float> so_far(int i, Fn fn, Part part) {
        auto laps = stretches(i, 1, part);
        if (problem_) return {};
        Part computed = covering(laps, part);
        // What held just before the line counts for the first bit of the lap.
        if (computed.from > 0) --computed.from;
        const auto values = array(argument(i, 0), computed);
        if (problem_) return values;
        const auto own = moved(laps, computed.from);
        if (fn == Fn::count_rises) return cut(count_rises(values, own), computed, part);
        std::vector<double> step(values.size(), 0);
        const SampleClock clock = clock_of(computed);
        const Channel* speed = nullptr;
        if (fn == Fn::distance_while) {
            const auto found = run_.channel("speed");
            if (found) speed = *found;
        }
        bool measured = false;
        for (const Stretch& lap : own) {
            for (std::size_t k = lap.from; k < lap.to; ++k) {
                const double now = clock.time_at(k);
                const double before = k > 0 ? std::max(clock.time_at(k - 1), lap.start_s) : now;
                step[k] = now - before;
                if (fn != Fn::distance_while) continue;
                if (lap.map != nullptr)
                    step[k] = lap.map->distance_at(now) - lap.map->distance_at(before);
                else
                    step[k] = speed == nullptr ? missing : (now - before) * speed->value_at((now + before) / 2);
                measured = measured || lap.map != nullptr || speed != nullptr;
            }
        }
        if (fn == Fn::distance_while && !measured) {
            wrong(i, "This run has neither a speed nor places on a track to measure distance by.");
            return {};
        }
        return cut(sum_while(values, step, own, fn == Fn::share_while), computed, part);
    }

    std::vector<float> lap_figure(int i, Fn fn, Part part) {
        const bool ends = fn == Fn::first || fn == Fn::last;
        const auto laps = stretches(i, ends ? 1 : 4, part);
        if (problem_) return {};
        const Part computed = covering(laps, part);
        const auto values = array(argument(i, 0), computed);
        std::vector<float> where;
        if (!ends && has(i, 3)) where = array(argument(i, 3), computed);
        if (problem_) return {};
        Interval place_m;
        if (!ends && (has(i, 1) || has(i, 2))) {
            double length = 0;
            for (const LapSpan& lap : run_.laps) length = lap.map != nullptr ? lap.map->length_m() : length;
            place_m = {constant_of(i, 1, 0), constant_of(i, 2, length)};
            if (place_m.empty()) {
                wrong(i, "The stretch ends before it begins; from= must be smaller than to=.");
                return {};
            }
        }
        const auto figure = [fn] {
            switch (fn) {
                case Fn::mean:
                    return Figure::mean;
                case Fn::min:
                    return Figure::low;
                case Fn::max:
                    return Figure::high;
                case Fn::std:
                    return Figure::deviation;
                case Fn::ptp:
                    return Figure::spread;
                case Fn::median:
                    return Figure::median;
                case Fn::first:
                    return Figure::first;
                default:
                    return Figure::last;
            }
        }();
        return cut(figure_of(values, clock_of(computed), figure, moved(laps, computed.from), where, place_m), computed,
                   part);
    }

    std::vector<float> at_a_place(int i, Part part) {
        const auto laps = stretches(i, 9, part);
        if (problem_) return {};
        const Part computed = wider(covering(laps, part), 0, 1);
        const auto values = array(argument(i, 0), computed);
        if (problem_) return values;
        const SampleClock clock = clock_of(computed);
        const bool is_state = steps(argument(i, 0));
        std::vector<float> out(computed.size(), static_cast<float>(missing));
        for (const Stretch& lap : moved(laps, computed.from)) {
            double t = missing;
            if (has(i, 2))
                t = lap.start_s + constant_of(i, 2);
            else if (lap.map != nullptr && constant_of(i, 1) >= 0 && constant_of(i, 1) <= lap.map->length_m())
                t = lap.map->time_at(constant_of(i, 1));
            if (!(t >= lap.start_s && t <= lap.end_s)) continue;
            SampleClock moment;
            moment.start_s = t;
            moment.rate_hz = 1;
            moment.size = 1;
            const float value = sampled(values, clock, is_state, moment, 0, 1).front();
            std::fill(out.begin() + static_cast<std::ptrdiff_t>(lap.from),
                      out.begin() + static_cast<std::ptrdiff_t>(lap.to), value);
        }
        return cut(std::move(out), computed, part);
    }

    const CheckedFormula& formula_;
    const RunView& run_;
    std::map<std::string, const Channel*> channels_;
    SampleClock clock_;
    std::vector<double> own_times_;
    std::vector<std::vector<float>> arrays_;  ///< moved as a whole when it grows: the samples stay where they are
    std::optional<Problem> problem_;
};

}  // namespace

Checked<Channel> evaluate(const CheckedFormula& formula, const RunView& run, const Evaluation& options) {
    return Evaluator(formula, run).all(options);
}

Checked<std::size_t> evaluate_into(const CheckedFormula& formula, const RunView& run, Interval range_s,
                                   std::span<float> out) {
    return Evaluator(formula, run).into(range_s, out);
}

}  // namespace rendak::formula
