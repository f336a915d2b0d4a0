#pragma once

#include <functional>
#include <span>

#include "core/formula/check.h"
#include "core/formula/run_view.h"

namespace rendak::formula {

struct Evaluation {
    /// Only this stretch is computed (and what it needs around it); empty: all.
    Interval range_s = {};
    /// Rate of the result; 0: that of the fastest channel it uses.
    double rate_hz = 0;
};

/// Computes a checked formula on a run: a channel in SI units, float32, on the clock of the fastest channel that it
/// uses. Slower channels are interpolated (states keep their previous value); nothing is invented outside a channel's
/// span. The values do not depend on the range asked for. A problem says, at its place in the text, why this run cannot
/// have it.
[[nodiscard]] Checked<Channel> evaluate(const CheckedFormula& formula, const RunView& run,
                                        const Evaluation& options = {});

/// The same in blocks of at most so many samples, one after the other, to whoever looks at each sample once: a
/// recording of a day needs no more memory than a block. Formulas that must see more than what lies near come as one
/// block.
using TakeBlock = std::function<void(std::span<const float> values, const SampleClock& clock)>;
[[nodiscard]] Checked<std::size_t> evaluate_blocks(const CheckedFormula& formula, const RunView& run,
                                                   std::size_t most_samples, const TakeBlock& take);

/// The same into memory of the caller's, who may use it again: fresh memory costs more than the computation. `out`
/// holds the samples of the clock in `range_s` (all when it is empty) from its first one on; returns how many there
/// are, and fills nothing when `out` is too small for them.
[[nodiscard]] Checked<std::size_t> evaluate_into(const CheckedFormula& formula, const RunView& run, Interval range_s,
                                                 std::span<float> out);

}  // namespace rendak::formula
