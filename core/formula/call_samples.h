#pragma once

#include <string>
#include <vector>

#include "core/formula/over_time.h"
#include "core/signal/filters.h"

namespace rendak::formula {

class Evaluator;

/// Samples [from, to) of the clock.
struct Part {
    std::size_t from = 0, to = 0;
    [[nodiscard]] std::size_t size() const { return to - from; }
};

/// One call of a function with a memory on a run: what it is asked for (`part`), its arguments, and the clock. It
/// computes what it needs around the part and cuts the part out, so that the values do not depend on what was asked
/// for.
class CallSamples {
  public:
    CallSamples(Evaluator& evaluator, int call, Part part) : evaluator_(evaluator), call_(call), part_(part) {}

    [[nodiscard]] Part part() const { return part_; }
    [[nodiscard]] Part whole() const;
    [[nodiscard]] bool has(std::size_t k) const;
    [[nodiscard]] double constant(std::size_t k, double otherwise = 0) const;
    /// "lap" or "run" where the argument is that word, else "".
    [[nodiscard]] std::string word(std::size_t k) const;
    [[nodiscard]] bool steps(std::size_t k) const;  ///< from value to value
    [[nodiscard]] const RunView& run() const;
    [[nodiscard]] const SampleClock& clock() const;
    [[nodiscard]] SampleClock clock_of(Part part) const;
    [[nodiscard]] double rate_hz() const { return clock().mean_rate_hz(); }

    /// Samples of an argument; empty, and `failed`, when they cannot be had.
    std::vector<float> array(std::size_t k, Part part);
    [[nodiscard]] bool failed() const;
    /// Notes a problem at an argument, or at the call; returns nothing.
    std::vector<float> wrong(std::size_t k, std::string sentence);
    std::vector<float> wrong_call(std::string sentence);

    /// The part with some samples more to either side.
    [[nodiscard]] Part wider(double seconds, std::size_t more) const { return wider(part_, seconds, more); }
    [[nodiscard]] Part wider(Part part, double seconds, std::size_t more) const;
    /// What a wider computation found for the part.
    [[nodiscard]] std::vector<float> cut(std::vector<float> all, Part computed) const;
    /// The laps (or everything, when argument `per` says run) that lie at least partly in the part.
    std::vector<Stretch> stretches(std::size_t per);
    /// From the first sample of any stretch to the last.
    [[nodiscard]] Part covering(const std::vector<Stretch>& stretches) const;
    /// Filters want even steps: on an uneven clock they work on samples interpolated to its mean rate. `values` are
    /// those of the whole clock.
    template <class Filter>
    std::vector<float> on_even_clock(std::span<const float> values, const Filter& filter) const {
        if (clock().times_s.empty()) return cut(filter(values, clock().rate_hz), whole());
        SampleClock even;
        even.start_s = clock().time_at(0);
        even.rate_hz = rate_hz();
        even.size = clock().size;
        if (!(even.rate_hz > 0)) return std::vector<float>(part_.size(), std::numeric_limits<float>::quiet_NaN());
        const auto regular = sampled(values, clock(), false, even, 0, even.size);
        return sampled(filter(std::span<const float>(regular), even.rate_hz), even, false, clock(), part_.from,
                       part_.to);
    }

  private:
    [[nodiscard]] int at(std::size_t k) const;
    Evaluator& evaluator_;
    int call_;
    Part part_;
};

/// The stretches with their samples counted from `back` on.
[[nodiscard]] std::vector<Stretch> moved(std::vector<Stretch> stretches, std::size_t back);

}  // namespace rendak::formula
