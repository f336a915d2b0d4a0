#pragma once

#include <cmath>
#include <cstddef>
#include <limits>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "core/base/buffer.h"
#include "core/base/interval.h"

namespace rendak {

/// When the samples of a channel were taken, in seconds from the start of the recording.
/// Regular: sample i at start_s + i / rate_hz. Irregular: times_s, strictly rising, and rate_hz == 0.
struct SampleClock {
    double start_s = 0;
    double rate_hz = 0;
    std::size_t size = 0;
    std::span<const double> times_s;

    [[nodiscard]] double time_at(std::size_t i) const {
        return times_s.empty() ? start_s + static_cast<double>(i) / rate_hz : times_s[i];
    }
    /// Index of the first sample at or after t (== size when there is none).
    [[nodiscard]] std::size_t first_at_or_after(double t_s) const;
    /// The times of samples [from, to).
    [[nodiscard]] SampleClock part(std::size_t from, std::size_t to) const;
    /// From the first sample to the last; empty without samples.
    [[nodiscard]] Interval span_s() const;
    /// Mean sample rate; the nominal one when regular.
    [[nodiscard]] double mean_rate_hz() const;
    /// The same samples' times: equal numbers, or the very same list of them.
    [[nodiscard]] bool same_as(const SampleClock& other) const {
        return size == other.size && start_s == other.start_s && rate_hz == other.rate_hz &&
               times_s.data() == other.times_s.data() && times_s.size() == other.times_s.size();
    }
};

/// Lowest and highest sample of a block; NaN samples are left out, and a block of nothing else is
/// {+inf, -inf}.
struct MinMax {
    float low = std::numeric_limits<float>::infinity();
    float high = -std::numeric_limits<float>::infinity();
    [[nodiscard]] bool empty() const { return low > high; }
    bool operator==(const MinMax&) const = default;
};

/// One measured quantity of a recording. Samples are in SI units; missing samples are NaN. Plain data:
/// copying a channel copies views, `owner` keeps what they point to alive.
struct Channel {
    std::string name;         ///< as the logger called it
    std::string quantity;     ///< id of a known quantity, or empty
    std::string unit;         ///< of the stored samples
    std::string source_unit;  ///< as the logger gave it, before conversion
    SampleClock clock;
    std::variant<std::span<const float>, std::span<const double>> samples;
    std::vector<std::span<const MinMax>> overview;  ///< blocks of 64 samples, then 4 times as many a level
    std::shared_ptr<const void> owner;
    bool is_state = false;  ///< steps from value to value, whatever its quantity says

    [[nodiscard]] std::size_t size() const { return clock.size; }
    [[nodiscard]] bool is_double() const { return samples.index() == 1; }
    [[nodiscard]] double at(std::size_t i) const {
        return is_double() ? std::get<1>(samples)[i] : static_cast<double>(std::get<0>(samples)[i]);
    }
    /// Empty for a float64 channel.
    [[nodiscard]] std::span<const float> floats() const {
        return is_double() ? std::span<const float>{} : std::get<0>(samples);
    }
    /// Whether it steps from value to value (gear): never interpolated.
    [[nodiscard]] bool steps() const;
    /// Linear between samples (previous value for states such as gear); NaN outside the channel's span.
    [[nodiscard]] double value_at(double t_s) const;
};

/// Owned storage for a channel that is being built.
struct ChannelStorage {
    Buffer<float> floats;
    Buffer<double> doubles;
    Buffer<double> times_s;
};

/// A channel over storage that it owns. Irregular when `storage.times_s` is filled, else regular.
[[nodiscard]] Channel make_channel(std::string name, std::string quantity, std::string unit, ChannelStorage storage,
                                   double start_s = 0, double rate_hz = 0);

/// A channel over samples and times that lie in memory that `owner` keeps.
[[nodiscard]] Channel make_channel(std::string name, std::string quantity, std::string unit,
                                   std::variant<std::span<const float>, std::span<const double>> samples,
                                   SampleClock clock, std::shared_ptr<const void> owner);

/// Samples [from, to) of a channel: another view of what it lies in, without an overview.
[[nodiscard]] Channel part_of(const Channel& channel, std::size_t from, std::size_t to);

/// Lowest, mean and highest over [from, to) with the indices of the extremes; count 0 when all are missing.
struct Statistics {
    double low = std::numeric_limits<double>::quiet_NaN();
    double mean = std::numeric_limits<double>::quiet_NaN();
    double high = std::numeric_limits<double>::quiet_NaN();
    std::size_t low_index = 0;
    std::size_t high_index = 0;
    std::size_t count = 0;
};
[[nodiscard]] Statistics statistics(const Channel& channel, std::size_t from, std::size_t to);

}  // namespace rendak
