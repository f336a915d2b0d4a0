#include "core/signal/correlation.h"

#include <fftw3.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <mutex>

#include "core/signal/planning.h"

namespace rendak {
namespace {

struct CorrelationPlan {
    explicit CorrelationPlan(fftwf_plan made) : plan(made) {}
    ~CorrelationPlan() {
        const std::scoped_lock lock(fftw_planning());
        fftwf_destroy_plan(plan);
    }
    CorrelationPlan(const CorrelationPlan&) = delete;
    CorrelationPlan& operator=(const CorrelationPlan&) = delete;
    fftwf_plan plan;
};

struct Prepared {
    std::vector<float> value, square, here;
};

/// Without its mean and as wide as one: sums of floats stay exact enough.
Prepared prepare(std::span<const float> in) {
    double sum = 0, squares = 0;
    std::size_t count = 0;
    for (const float it : in) {
        if (!std::isfinite(it)) continue;
        sum += static_cast<double>(it);
        squares += static_cast<double>(it) * static_cast<double>(it);
        ++count;
    }
    const double mean = count > 0 ? sum / static_cast<double>(count) : 0;
    const double width = count > 0 ? std::sqrt(std::max(0.0, squares / static_cast<double>(count) - mean * mean)) : 0;
    Prepared out{std::vector<float>(in.size(), 0.0F), std::vector<float>(in.size(), 0.0F),
                 std::vector<float>(in.size(), 0.0F)};
    for (std::size_t i = 0; i < in.size(); ++i) {
        if (!std::isfinite(in[i])) continue;
        out.value[i] = width > 0 ? static_cast<float>((static_cast<double>(in[i]) - mean) / width) : 0.0F;
        out.square[i] = out.value[i] * out.value[i];
        out.here[i] = 1;
    }
    return out;
}

}  // namespace

ProductSums::ProductSums(std::size_t of_a, std::size_t of_b)
    : of_a_(of_a), of_b_(of_b), size_(std::bit_ceil(std::max<std::size_t>(2, of_a + of_b))) {}

ProductSums::Transform ProductSums::transform(std::span<const float> it, std::size_t from) const {
    std::vector<float> in(size_, 0.0F);
    for (std::size_t i = 0; i < it.size(); ++i) in[from + i] = std::isfinite(it[i]) ? it[i] : 0.0F;
    Transform out(2 * (size_ / 2 + 1));
    std::unique_lock lock(fftw_planning());
    const CorrelationPlan plan(fftwf_plan_dft_r2c_1d(static_cast<int>(size_), in.data(),
                                                     reinterpret_cast<fftwf_complex*>(out.data()), FFTW_ESTIMATE));
    lock.unlock();
    fftwf_execute(plan.plan);
    return out;
}

ProductSums::Transform ProductSums::transform_a(std::span<const float> a) const {
    return transform(a, 0);
}

ProductSums::Transform ProductSums::transform_b(std::span<const float> b) const {
    return transform(b, 0);
}

ProductSums::Transform ProductSums::nothing() const {
    return Transform(2 * (size_ / 2 + 1), 0.0F);
}

void ProductSums::add(Transform& sum, const Transform& a, const Transform& b) {
    for (std::size_t i = 0; i + 1 < sum.size(); i += 2) {
        // conj(a) · b
        sum[i] += a[i] * b[i] + a[i + 1] * b[i + 1];
        sum[i + 1] += a[i] * b[i + 1] - a[i + 1] * b[i];
    }
}

std::vector<float> ProductSums::sums(const Transform& sum) const {
    Transform in = sum;
    std::vector<float> round(size_);
    std::unique_lock lock(fftw_planning());
    const CorrelationPlan plan(fftwf_plan_dft_c2r_1d(
        static_cast<int>(size_), reinterpret_cast<fftwf_complex*>(in.data()), round.data(), FFTW_ESTIMATE));
    lock.unlock();
    fftwf_execute(plan.plan);
    std::vector<float> out(of_a_ + of_b_ - 1);
    const float scale = 1.0F / static_cast<float>(size_);
    for (std::size_t k = 0; k < out.size(); ++k) {
        const std::ptrdiff_t lag = static_cast<std::ptrdiff_t>(k) - static_cast<std::ptrdiff_t>(of_a_ - 1);
        const auto at = static_cast<std::size_t>(lag < 0 ? lag + static_cast<std::ptrdiff_t>(size_) : lag);
        out[k] = round[at] * scale;
    }
    return out;
}

Correlation correlation_by_lag(std::span<const float> a, std::span<const float> b, std::size_t least_overlap) {
    Correlation out;
    if (a.empty() || b.empty()) return out;
    const Prepared pa = prepare(a), pb = prepare(b);
    const ProductSums sums(a.size(), b.size());
    const auto va = sums.transform_a(pa.value), qa = sums.transform_a(pa.square), ha = sums.transform_a(pa.here);
    const auto vb = sums.transform_b(pb.value), qb = sums.transform_b(pb.square), hb = sums.transform_b(pb.here);
    const auto of = [&](const ProductSums::Transform& x, const ProductSums::Transform& y) {
        auto sum = sums.nothing();
        ProductSums::add(sum, x, y);
        return sums.sums(sum);
    };
    const auto ab = of(va, vb), a1 = of(va, hb), b1 = of(ha, vb), aa = of(qa, hb), bb = of(ha, qb), n = of(ha, hb);
    out.first_lag = -static_cast<std::ptrdiff_t>(a.size() - 1);
    out.r.resize(n.size(), 0.0F);
    out.overlap = n;
    for (std::size_t k = 0; k < n.size(); ++k) {
        const double count = std::round(static_cast<double>(n[k]));
        if (count < static_cast<double>(std::max<std::size_t>(least_overlap, 3))) continue;
        const double sa = static_cast<double>(a1[k]), sb = static_cast<double>(b1[k]);
        const double wide_a = static_cast<double>(aa[k]) - sa * sa / count;
        const double wide_b = static_cast<double>(bb[k]) - sb * sb / count;
        // What hardly moves where they overlap tells nothing.
        if (wide_a < 1e-3 * count || wide_b < 1e-3 * count) continue;
        out.r[k] = static_cast<float>(
            std::clamp((static_cast<double>(ab[k]) - sa * sb / count) / std::sqrt(wide_a * wide_b), -1.0, 1.0));
    }
    return out;
}

}  // namespace rendak
