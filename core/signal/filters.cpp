#include "core/signal/filters.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <numbers>
#include <numeric>

namespace rendak {
namespace {

constexpr float missing = std::numeric_limits<float>::quiet_NaN();

/// Second-order section in transposed direct form II; the leading coefficient of the denominator is 1.
struct Section {
    double b0, b1, b2, a1, a2;
    double gain() const { return (b0 + b1 + b2) / (1 + a1 + a2); }
};

std::vector<Section> sections(double rate_hz, Pass pass, double cutoff_hz, int order) {
    const double k = std::tan(std::numbers::pi * cutoff_hz / rate_hz);
    std::vector<Section> out;
    for (int i = 0; i < order / 2; ++i) {
        const double damping = 2 * std::sin(std::numbers::pi * (2 * i + 1) / (2 * order));
        const double scale = 1 / (1 + k * damping + k * k);
        const double a1 = 2 * (k * k - 1) * scale, a2 = (1 - k * damping + k * k) * scale;
        if (pass == Pass::low)
            out.push_back({k * k * scale, 2 * k * k * scale, k * k * scale, a1, a2});
        else
            out.push_back({scale, -2 * scale, scale, a1, a2});
    }
    if (order % 2 == 1) {
        const double scale = 1 / (1 + k), a1 = (k - 1) * scale;
        if (pass == Pass::low)
            out.push_back({k * scale, k * scale, 0, a1, 0});
        else
            out.push_back({scale, -scale, 0, a1, 0});
    }
    return out;
}

/// One pass, settled on the first sample.
void filter(std::vector<double>& x, const std::vector<Section>& cascade) {
    double level = x.empty() ? 0 : x.front();
    for (const Section& s : cascade) {
        double z2 = (s.b2 - s.a2 * s.gain()) * level, z1 = z2 + (s.b1 - s.a1 * s.gain()) * level;
        for (double& value : x) {
            const double in = value;
            value = s.b0 * in + z1;
            z1 = s.b1 * in - s.a1 * value + z2;
            z2 = s.b2 * in - s.a2 * value;
        }
        level *= s.gain();
    }
}

void forwards_and_backwards(std::span<const float> x, std::span<float> out, const std::vector<Section>& cascade,
                            int order) {
    const std::size_t n = x.size();
    const std::size_t pad = std::min<std::size_t>(3 * (static_cast<std::size_t>(order) + 1), n - 1);
    std::vector<double> work(n + 2 * pad);
    for (std::size_t i = 0; i < pad; ++i) {
        work[i] = 2.0 * static_cast<double>(x[0]) - static_cast<double>(x[pad - i]);
        work[pad + n + i] = 2.0 * static_cast<double>(x[n - 1]) - static_cast<double>(x[n - 2 - i]);
    }
    std::copy(x.begin(), x.end(), work.begin() + static_cast<std::ptrdiff_t>(pad));
    filter(work, cascade);
    std::reverse(work.begin(), work.end());
    filter(work, cascade);
    for (std::size_t i = 0; i < n; ++i) out[i] = static_cast<float>(work[pad + n - 1 - i]);
}

/// Calls `work(from, to)` for every stretch of present samples.
template <class Work>
void stretches(std::span<const float> x, const Work& work) {
    for (std::size_t from = 0; from < x.size();) {
        if (!std::isfinite(x[from])) {
            ++from;
            continue;
        }
        std::size_t to = from;
        while (to < x.size() && std::isfinite(x[to])) ++to;
        work(from, to);
        from = to;
    }
}

/// Weights w with sum(w x) = the deriv-th derivative at sample `at` of the polynomial of this order through `window`
/// samples a unit apart (normal equations on [-1, 1]).
std::vector<double> local_weights(int window, int order, int deriv, int at) {
    const int terms = order + 1;
    const double scale = std::max(1.0, (window - 1) / 2.0);
    const auto place = [&](int i) { return (i - at) / scale; };
    std::vector<double> matrix(static_cast<std::size_t>(terms * terms)), pick(static_cast<std::size_t>(terms));
    for (int i = 0; i < window; ++i) {
        for (int r = 0; r < terms; ++r) {
            for (int c = 0; c < terms; ++c)
                matrix[static_cast<std::size_t>(r * terms + c)] += std::pow(place(i), r + c);
        }
    }
    // The derivative at the sample itself is deriv! times the coefficient of that power.
    pick[static_cast<std::size_t>(deriv)] = std::tgamma(deriv + 1.0) / std::pow(scale, deriv);
    // Gauss-Jordan with pivots.
    for (int c = 0; c < terms; ++c) {
        int best = c;
        for (int r = c + 1; r < terms; ++r) {
            if (std::abs(matrix[static_cast<std::size_t>(r * terms + c)]) >
                std::abs(matrix[static_cast<std::size_t>(best * terms + c)]))
                best = r;
        }
        for (int k = 0; k < terms; ++k)
            std::swap(matrix[static_cast<std::size_t>(c * terms + k)],
                      matrix[static_cast<std::size_t>(best * terms + k)]);
        std::swap(pick[static_cast<std::size_t>(c)], pick[static_cast<std::size_t>(best)]);
        for (int r = 0; r < terms; ++r) {
            if (r == c) continue;
            const double multiple =
                matrix[static_cast<std::size_t>(r * terms + c)] / matrix[static_cast<std::size_t>(c * terms + c)];
            for (int k = 0; k < terms; ++k)
                matrix[static_cast<std::size_t>(r * terms + k)] -=
                    multiple * matrix[static_cast<std::size_t>(c * terms + k)];
            pick[static_cast<std::size_t>(r)] -= multiple * pick[static_cast<std::size_t>(c)];
        }
    }
    std::vector<double> weights(static_cast<std::size_t>(window));
    for (int i = 0; i < window; ++i) {
        for (int r = 0; r < terms; ++r)
            weights[static_cast<std::size_t>(i)] += pick[static_cast<std::size_t>(r)] /
                                                    matrix[static_cast<std::size_t>(r * terms + r)] *
                                                    std::pow(place(i), r);
    }
    return weights;
}

float weighted(std::span<const float> x, const std::vector<double>& weights, double factor) {
    double sum = 0;
    for (std::size_t i = 0; i < weights.size(); ++i) sum += weights[i] * static_cast<double>(x[i]);
    return static_cast<float>(sum * factor);
}

/// First and last (exclusive) sample within half a window of sample i; both rise with i.
class Reach {
  public:
    Reach(const SampleClock& clock, double half_s) : clock_(clock), half_s_(half_s + 1e-9) {}
    void move_to(std::size_t i) {
        const double t = clock_.time_at(i);
        while (clock_.time_at(from) < t - half_s_) ++from;
        while (to < clock_.size && clock_.time_at(to) <= t + half_s_) ++to;
    }
    std::size_t from = 0, to = 0;

  private:
    const SampleClock& clock_;
    double half_s_;
};

std::vector<float> moving_mean(std::span<const float> x, Reach reach) {
    std::vector<double> sum(x.size() + 1);
    std::vector<std::size_t> count(x.size() + 1);
    for (std::size_t i = 0; i < x.size(); ++i) {
        const bool there = std::isfinite(x[i]);
        sum[i + 1] = sum[i] + (there ? static_cast<double>(x[i]) : 0);
        count[i + 1] = count[i] + (there ? 1 : 0);
    }
    std::vector<float> out(x.size(), missing);
    for (std::size_t i = 0; i < x.size(); ++i) {
        reach.move_to(i);
        if (std::isfinite(x[i]))
            out[i] = static_cast<float>((sum[reach.to] - sum[reach.from]) /
                                        static_cast<double>(count[reach.to] - count[reach.from]));
    }
    return out;
}

/// Keeps candidates in order: the front is the extreme of the window (Lemire 2006).
template <class Before>
std::vector<float> moving_extreme(std::span<const float> x, Reach reach, Before before) {
    std::deque<std::size_t> candidates;
    std::vector<float> out(x.size(), missing);
    std::size_t taken = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        reach.move_to(i);
        for (; taken < reach.to; ++taken) {
            if (!std::isfinite(x[taken])) continue;
            while (!candidates.empty() && !before(x[candidates.back()], x[taken])) candidates.pop_back();
            candidates.push_back(taken);
        }
        while (!candidates.empty() && candidates.front() < reach.from) candidates.pop_front();
        if (std::isfinite(x[i])) out[i] = x[candidates.front()];
    }
    return out;
}

std::vector<float> moving_median(std::span<const float> x, Reach reach) {
    std::vector<float> sorted, out(x.size(), missing);
    std::size_t from = 0, to = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        reach.move_to(i);
        for (; to < reach.to; ++to) {
            if (std::isfinite(x[to])) sorted.insert(std::upper_bound(sorted.begin(), sorted.end(), x[to]), x[to]);
        }
        for (; from < reach.from; ++from) {
            if (std::isfinite(x[from])) sorted.erase(std::lower_bound(sorted.begin(), sorted.end(), x[from]));
        }
        if (!std::isfinite(x[i])) continue;
        const std::size_t half = sorted.size() / 2;
        out[i] = sorted.size() % 2 == 1 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
    }
    return out;
}

}  // namespace

std::vector<float> butterworth(std::span<const float> x, double rate_hz, Pass pass, double cutoff_hz, int order) {
    std::vector<float> out(x.size(), missing);
    const auto cascade = sections(rate_hz, pass, cutoff_hz, order);
    stretches(x, [&](std::size_t from, std::size_t to) {
        forwards_and_backwards(x.subspan(from, to - from), std::span(out).subspan(from, to - from), cascade, order);
    });
    return out;
}

std::vector<float> savitzky_golay(std::span<const float> x, double rate_hz, int window, int order, int deriv) {
    std::vector<float> out(x.size(), missing);
    const double factor = std::pow(rate_hz, deriv);
    const auto size = static_cast<std::size_t>(window), half = size / 2;
    const auto inside = local_weights(window, order, deriv, window / 2);
    std::vector<std::vector<double>> begin, end;
    for (int at = 0; at < window / 2; ++at) {
        begin.push_back(local_weights(window, order, deriv, at));
        end.push_back(local_weights(window, order, deriv, window / 2 + 1 + at));
    }
    stretches(x, [&](std::size_t from, std::size_t to) {
        if (to - from < size) return;
        for (std::size_t i = from + half; i + half < to; ++i) out[i] = weighted(x.subspan(i - half), inside, factor);
        for (std::size_t i = 0; i < half; ++i) {
            out[from + i] = weighted(x.subspan(from), begin[i], factor);
            out[to - half + i] = weighted(x.subspan(to - size), end[i], factor);
        }
    });
    return out;
}

std::vector<float> moving(std::span<const float> x, const SampleClock& clock, Window kind, double size_s) {
    const Reach reach(clock, size_s / 2);
    switch (kind) {
        case Window::mean:
            return moving_mean(x, reach);
        case Window::low:
            return moving_extreme(x, reach, [](float a, float b) { return a < b; });
        case Window::high:
            return moving_extreme(x, reach, [](float a, float b) { return a > b; });
        case Window::median:
            return moving_median(x, reach);
    }
    return {};
}

}  // namespace rendak
