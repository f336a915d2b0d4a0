#include "core/analysis/overlay.h"

#include <algorithm>
#include <cmath>

namespace rendak {
namespace {

constexpr double least_likeness = 0.75, least_of_stretch = 0.88, stretch_s = 120, as_good = 0.03;

/// Evenly spaced means of a channel; NaN where it has no samples.
std::vector<float> evenly(const Channel& channel, Interval span, double step_s) {
    const auto count = static_cast<std::size_t>(std::max(0.0, std::floor(span.length() / step_s)));
    std::vector<float> out(count);
    for (std::size_t i = 0; i < count; ++i) {
        const double t = span.begin + static_cast<double>(i) * step_s;
        const std::size_t from = channel.clock.first_at_or_after(t), to = channel.clock.first_at_or_after(t + step_s);
        double sum = 0, n = 0;
        for (std::size_t k = from; k < to; ++k) {
            if (!std::isfinite(channel.at(k))) continue;
            sum += channel.at(k);
            ++n;
        }
        out[i] = static_cast<float>(n > 0 ? sum / n : channel.value_at(t + 0.5 * step_s));
    }
    return out;
}

/// Correlation coefficient of a[i + shift] and b[i]; -2 where fewer than `least` samples meet.
double likeness(const std::vector<float>& a, const std::vector<float>& b, std::ptrdiff_t shift, std::size_t least) {
    const auto n = static_cast<std::ptrdiff_t>(b.size()), m = static_cast<std::ptrdiff_t>(a.size());
    const std::ptrdiff_t from = std::max<std::ptrdiff_t>(0, -shift), to = std::min(n, m - shift);
    if (to - from < static_cast<std::ptrdiff_t>(least)) return -2;
    double sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0, count = 0;
    for (std::ptrdiff_t i = from; i < to; ++i) {
        const double x = a[static_cast<std::size_t>(i + shift)], y = b[static_cast<std::size_t>(i)];
        if (!std::isfinite(x) || !std::isfinite(y)) continue;
        sa += x;
        sb += y;
        saa += x * x;
        sbb += y * y;
        sab += x * y;
        ++count;
    }
    if (count < static_cast<double>(least)) return -2;
    const double va = saa - sa * sa / count, vb = sbb - sb * sb / count;
    if (va <= 1e-9 * saa || vb <= 1e-9 * sbb) return -2;
    return (sab - sa * sb / count) / std::sqrt(va * vb);
}

double scatter(const Channel& channel) {
    double sum = 0, squares = 0, n = 0;
    const std::size_t stride = std::max<std::size_t>(1, channel.size() / 4096);
    for (std::size_t i = 0; i < channel.size(); i += stride) {
        const double v = channel.at(i);
        if (!std::isfinite(v)) continue;
        sum += v;
        squares += v * v;
        ++n;
    }
    return n > 1 ? std::sqrt(std::max(0.0, squares / n - sum / n * (sum / n))) : 0;
}

/// The stretch of a channel in which it moves most.
Interval liveliest(const Channel& channel, Interval span, double length_s) {
    if (span.length() <= length_s) return span;
    Interval best = span;
    double most = -1;
    for (double begin = span.begin; begin + length_s <= span.end; begin += length_s / 4) {
        const auto samples = evenly(channel, {begin, begin + length_s}, 0.5);
        double sum = 0, squares = 0, n = 0;
        for (const float v : samples) {
            if (!std::isfinite(v)) continue;
            sum += v;
            squares += static_cast<double>(v) * v;
            ++n;
        }
        const double moved = n > 1 ? squares / n - sum / n * (sum / n) : 0;
        if (moved <= most) continue;
        most = moved;
        best = {begin, begin + length_s};
    }
    return best;
}

/// Lays y, as far as it lies in `in_b`, over x.
Result<Overlay> laid_over(const Channel& x, Interval in_a, const Channel& y, Interval in_b, double least_s,
                          double least_likeness_here);

}  // namespace

Result<Overlay> overlay_of(const Recording& a, const Recording& b) {
    constexpr const char* by[] = {"speed",    "wheel_speed_rl",       "engine_speed",
                                  "throttle", "lateral_acceleration", "longitudinal_acceleration",
                                  "yaw_rate"};
    const Channel *x = nullptr, *y = nullptr;
    Overlay out;
    for (const char* quantity : by) {
        x = a.find_logged(quantity);
        y = b.find_logged(quantity);
        if (x != nullptr && y != nullptr && scatter(*x) > 0 && scatter(*y) > 0) {
            out.quantity = quantity;
            break;
        }
    }
    if (out.quantity.empty())
        return fail(ErrorCode::bad_input,
                    "The two recordings have no moving channel in common (speed, revs, throttle, accelerations or yaw "
                    "rate) by which they could be laid over each other. Set the offset by hand.");
    const Interval in_a{x->clock.time_at(0), x->clock.time_at(x->size() - 1)},
        in_b{y->clock.time_at(0), y->clock.time_at(y->size() - 1)};
    const double least_s = std::max(20.0, std::min(in_a.length(), in_b.length()) / 3);
    if (std::min(in_a.length(), in_b.length()) < 20)
        return fail(ErrorCode::bad_input, "At least 20 s of both recordings are needed to find the offset by itself.");

    auto found = laid_over(*x, in_a, *y, in_b, least_s, least_likeness);
    if (!found && std::min(in_a.length(), in_b.length()) > 60) {
        const double length_s = std::min(stretch_s, 0.8 * std::min(in_a.length(), in_b.length()));
        found = laid_over(*x, in_a, *y, liveliest(*y, in_b, length_s), 0.95 * length_s, least_of_stretch);
        if (found) found->by_stretch = true;
    }
    if (found) found->quantity = out.quantity;
    return found;
}

namespace {

Result<Overlay> laid_over(const Channel& x, Interval in_a, const Channel& y, Interval in_b, double least_s,
                          double least_likeness_here) {
    Overlay out;
    // Coarse: at most 6 000 steps, however long.
    const double coarse_s = std::max(0.2, std::max(in_a.length(), in_b.length()) / 6000);
    const auto ca = evenly(x, in_a, coarse_s), cb = evenly(y, in_b, coarse_s);
    const auto least = static_cast<std::size_t>(least_s / coarse_s);
    const auto first = -static_cast<std::ptrdiff_t>(cb.size());
    std::vector<double> at_shift(ca.size() + cb.size() + 1, -2);
    for (std::size_t i = 0; i < at_shift.size(); ++i)
        at_shift[i] = likeness(ca, cb, first + static_cast<std::ptrdiff_t>(i), least);
    const auto best = std::max_element(at_shift.begin(), at_shift.end()) - at_shift.begin();
    const double best_likeness = at_shift[static_cast<std::size_t>(best)];
    if (best_likeness < least_likeness_here)
        return fail(ErrorCode::bad_input,
                    "Nothing of the two recordings is alike enough to tell the offset. Set it by hand.");
    const auto shift_of = [&](std::ptrdiff_t i) {
        return static_cast<double>(first + i) * coarse_s + in_a.begin - in_b.begin;
    };

    // Fine, about the best: ten times finer until a hundredth of a second, over at most 10 minutes of what both have.
    double shift = shift_of(best);
    for (double step = coarse_s / 10; step > 0.001; step /= 10) {
        step = std::max(step, 0.01);
        Interval common{std::max(in_a.begin, in_b.begin + shift), std::min(in_a.end, in_b.end + shift)};
        const double most_s = std::max(60.0, 30000 * step);
        if (common.length() > most_s) {
            const double middle = 0.5 * (common.begin + common.end);
            common = {middle - most_s / 2, middle + most_s / 2};
        }
        const double reach = 12 * step;
        const auto fa = evenly(x, {common.begin - reach, common.end + reach}, step);
        const auto fb = evenly(y, {common.begin - shift, common.end - shift}, step);
        double most = -2;
        int at = 0;
        for (int k = -11; k <= 11; ++k) {
            const double it = likeness(fa, fb, k + 12, fb.size() / 2);
            if (it <= most) continue;
            most = it;
            at = k;
        }
        shift += at * step;
        if (most > -2) out.likeness = most;
        if (step <= 0.01) break;
    }
    out.shift_s = shift;
    out.overlap_s = std::min(in_a.end, in_b.end + shift) - std::max(in_a.begin, in_b.begin + shift);

    // Other hills of the coarse likeness that are as high: laps of one road.
    std::vector<std::ptrdiff_t> hills;
    for (std::size_t i = 1; i + 1 < at_shift.size(); ++i) {
        if (at_shift[i] > best_likeness - as_good && at_shift[i] >= at_shift[i - 1] && at_shift[i] > at_shift[i + 1] &&
            std::abs(static_cast<double>(static_cast<std::ptrdiff_t>(i) - best)) * coarse_s > 5)
            hills.push_back(static_cast<std::ptrdiff_t>(i));
    }
    std::sort(hills.begin(), hills.end(), [&](auto p, auto q) { return std::abs(p - best) < std::abs(q - best); });
    if (hills.size() > 5) hills.resize(5);
    for (const auto i : hills) out.others_s.push_back(shift_of(i));
    return out;
}

}  // namespace

}  // namespace rendak
