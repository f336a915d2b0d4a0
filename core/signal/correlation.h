#pragma once

#include <span>
#include <vector>

namespace rendak {

/// How alike two evenly sampled signals are for every shift of one along the other.
struct Correlation {
    std::ptrdiff_t first_lag = 0;  ///< of r[0]; at lag k sample i of `a` lies on sample i + k of `b`
    std::vector<float> r;          ///< Pearson's; 0 where too little lies on each other or one does not move
    std::vector<float> overlap;    ///< samples that both have there

    [[nodiscard]] std::ptrdiff_t lag(std::size_t i) const { return first_lag + static_cast<std::ptrdiff_t>(i); }
};

/// Samples that are not numbers are missing, and count nowhere (masked normalised correlation: Padfield 2012; with FFTW
/// 3). Lags at which fewer than `least_overlap` samples lie on each other get 0.
[[nodiscard]] Correlation correlation_by_lag(std::span<const float> a, std::span<const float> b,
                                             std::size_t least_overlap);

/// Sums of products for every lag, without taking means out: the parts that several rows add up to (a comb over a
/// spectrogram). Missing samples count 0. As long as correlation_by_lag()'s.
class ProductSums {
  public:
    ProductSums(std::size_t of_a, std::size_t of_b);

    using Transform = std::vector<float>;  ///< real and imaginary parts in turn
    [[nodiscard]] Transform transform_a(std::span<const float> a) const;
    [[nodiscard]] Transform transform_b(std::span<const float> b) const;
    [[nodiscard]] Transform nothing() const;
    /// Adds what a and b give.
    static void add(Transform& sum, const Transform& a, const Transform& b);
    /// For the lags −(of_a − 1) … of_b − 1.
    [[nodiscard]] std::vector<float> sums(const Transform& sum) const;

  private:
    [[nodiscard]] Transform transform(std::span<const float> it, std::size_t from) const;
    std::size_t of_a_, of_b_, size_;
};

}  // namespace rendak
