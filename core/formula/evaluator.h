#pragma once

#include <functional>
#include <map>
#include <optional>

#include "core/formula/call_samples.h"
#include "core/formula/evaluate.h"
#include "core/formula/program.h"

namespace rendak::formula {

/// Computes one formula on one clock. Functions with a memory become arrays; what lies between them is compiled to a
/// Program and run in blocks (compile.cpp). `problem_` ends everything.
class Evaluator {
  public:
    Evaluator(const CheckedFormula& formula, const RunView& run) : formula_(formula), run_(run) {}

    Checked<Channel> all(const Evaluation& options);
    Checked<std::size_t> into(Interval range_s, std::span<float> out);
    Checked<std::size_t> blocks(std::size_t most_samples, const TakeBlock& take);

  private:
    friend class CallSamples;
    /// Compiles a node below; the register of its result, or -1.
    using Below = std::function<int(int)>;

    static std::size_t index(int node) { return static_cast<std::size_t>(node); }
    const Node& node(int i) const { return formula_.syntax.at(i); }
    int argument(int i, std::size_t k) const;
    bool has(int i, std::size_t k) const { return argument(i, k) >= 0; }
    double constant_of(int i, std::size_t k, double otherwise = 0) const;
    bool wrong(int i, std::string sentence);
    bool steps(int i) const { return formula_.states[index(i)] != 0 || formula_.types[index(i)].is_condition(); }
    bool stopped(int i) { return run_.stop.stop_requested() && (wrong(i, "Cancelled."), true); }
    Channel made(ChannelStorage storage, double start_s, double rate_hz) const;
    Checked<Channel> at_rate(std::span<const float> x, Part part, double rate_hz);
    bool open_channels();
    void choose_clock();
    /// Whether a sample needs only what lies within a known time of it.
    bool needs_only_what_is_near() const;
    /// The channel that the formula is, when its samples are the result as they stand.
    const Channel* as_it_stands(int i) const;
    SampleClock clock_of(Part part) const;

    // compile.cpp
    /// Fills `out` with node i over a part of the clock.
    bool compute(int i, Part part, std::span<float> out);
    std::vector<float> array(int i, Part part);
    int add_array(std::vector<float> values, Program& program, std::vector<const float*>& inputs);
    int compile(int i, Part part, Program& program, std::vector<const float*>& inputs,
                std::map<std::string, int>& by_name);
    int pointwise(int i, const FunctionRow& function, Program& program, const Below& below);
    static constexpr int not_so = -2;
    bool is_binary(int i, Op op) const;
    /// The child that a node squares (x², x ** 2, x * x of one channel), or -1.
    int squared(int i) const;
    /// a² + b² in one pass, when node i is that.
    int squares(int i, Program& program, const Below& below, Kernel kernel);
    int binary(int i, Program& program, const Below& below);
    /// Comparison and choice in one pass where the condition is one comparison.
    int choose(int condition, int yes, int no, Program& program, const Below& below);

    int leaf(int i, Part part, Program& program, std::vector<const float*>& inputs,
             std::map<std::string, int>& by_name);
    std::vector<float> channel_at(const Channel& channel, Part part, double factor, double offset) const;
    std::vector<float> builtin(int i, const std::string& name, Part part);

    const CheckedFormula& formula_;
    const RunView& run_;
    std::map<std::string, const Channel*> channels_;
    SampleClock clock_;
    std::vector<double> own_times_;
    std::vector<std::vector<float>> arrays_;  ///< moved as a whole when it grows: the samples stay where they are
    std::optional<Problem> problem_;
};

}  // namespace rendak::formula
