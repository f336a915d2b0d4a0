#pragma once

#include <functional>
#include <stop_token>

namespace rendak {

/// Given to every long computation: asks whether to stop, tells how far it is (0 … 1).
/// `progress` may be called from any thread, but from one at a time.
struct JobContext {
    std::stop_token stop;
    std::function<void(double)> progress;

    [[nodiscard]] bool stopped() const { return stop.stop_requested(); }
    void report(double fraction) const {
        if (progress) progress(fraction);
    }
    /// The part [from, to] of this job, as a job of its own.
    [[nodiscard]] JobContext part(double from, double to) const {
        if (!progress) return {stop, {}};
        return {stop, [outer = progress, from, to](double x) { outer(from + (to - from) * x); }};
    }
};

}  // namespace rendak
