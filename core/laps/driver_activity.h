#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/recording/recording.h"

namespace rendak {

/// What a pedal's (or the steering's) sensor shows of its travel in one recording, found from the samples.
struct PedalScale {
    bool known = false;
    double zero = 0;           ///< where it rests, in the channel's unit
    double full = 1;           ///< where it is held at its end; the highest value where it is never held there
    double noise = 0;          ///< standard deviation at rest
    bool held_at_end = false;  ///< a good part of the time is spent at `full`
    double drift = 0;          ///< how far the zero moves over the recording, highest minus lowest

    /// Of the zero over the recording, in minutes of driving: a brake's zero moves with its heat. Empty: constant.
    std::vector<double> zero_times_s, zeros;
    [[nodiscard]] double zero_at(double t_s) const;
};

/// Where somebody has said it otherwise (constants of the car sheet); SI.
struct ActivityLimits {
    std::optional<double> brake_on_pa;          ///< car.brake_on: pressure above the zero
    std::optional<double> throttle_on;          ///< car.throttle_on: share of the pedal's travel
    std::optional<double> throttle_full;        ///< car.throttle_full
    std::optional<double> cornering_from_mps2;  ///< car.cornering_from
    std::optional<double> braking_from_mps2;    ///< car.braking_from, without pedals
    std::optional<double> throttle_from_mps2;   ///< car.throttle_from, without pedals
};

/// What is known of a run's pedals.
struct PedalScales {
    PedalScale throttle, brake, clutch, steering;
    std::string brake_quantity;  ///< "brake_front", "brake", or "" where none is logged
    ActivityLimits limits;
};
[[nodiscard]] PedalScales pedal_scales(const Recording& recording, const ActivityLimits& limits = {});

/// The one definition of what the driver is doing; phases, marks, sentences, tables and formulas all ask here.
///
/// On the brake: more than 3 bar (5 % of the pedal's travel) above the zero, and more than five times the noise. On the
/// throttle: more than 5 % of the travel; full throttle: 95 %. Where a pedal is not logged it is inferred from the
/// along acceleration: braking below −0.2 g, throttle above 0.05 g, full throttle above 0.1 g; a brush of the brake is
/// told from drag by what the air takes at that speed. Cornering: more than 0.3 g of lateral acceleration, averaged
/// over 0.2 s. Coasting: none of brake, throttle and cornering, at more than 20 km/h. NaN where it cannot be told.
class DriverActivity {
  public:
    DriverActivity(const Recording& recording, PedalScales scales);

    [[nodiscard]] const PedalScales& scales() const { return scales_; }
    /// Of the fastest sensor that it is told from; no size where there is none.
    [[nodiscard]] SampleClock clock() const;
    /// Anything to tell brake and throttle by.
    [[nodiscard]] bool known() const { return brake_ != nullptr || throttle_ != nullptr || along_ != nullptr; }
    /// At least one pedal is inferred from acceleration.
    [[nodiscard]] bool inferred() const { return brake_ == nullptr || throttle_ == nullptr; }
    [[nodiscard]] bool braking(double t_s) const;
    [[nodiscard]] bool on_throttle(double t_s) const;
    [[nodiscard]] bool full_throttle(double t_s) const;
    [[nodiscard]] bool cornering(double t_s) const;
    [[nodiscard]] bool coasting(double t_s) const;
    /// On neither pedal, cornering or not.
    [[nodiscard]] bool off_pedals(double t_s) const;
    /// Share of the travel, 0 … 1; NaN when it is not logged.
    [[nodiscard]] double throttle(double t_s) const;
    /// The same of the brake, above its zero: of the travel where that is known, else of the highest pressure seen.
    [[nodiscard]] double brake(double t_s) const;
    /// How an inferred slowing-down was made.
    enum class Slowing { none, drag, brush, hard };
    [[nodiscard]] Slowing slowing(double t_s) const;

    /// By the name that formulas use: "driver_on_brake", "driver_on_throttle", "driver_full_throttle",
    /// "driver_cornering", "driver_coasting": 1, 0 or NaN.
    [[nodiscard]] double flag(std::string_view name, double t_s) const;
    /// flag() at the samples [from, to) of a clock.
    [[nodiscard]] std::vector<float> flags(std::string_view name, const SampleClock& clock, std::size_t from,
                                           std::size_t to) const;
    /// flags("driver_coasting") on all of a clock, out of what the other flags there say.
    [[nodiscard]] std::vector<float> coasting_flags(const SampleClock& clock, const std::vector<float>& on_brake,
                                                    const std::vector<float>& on_throttle,
                                                    const std::vector<float>& cornering) const;

  private:
    /// The question behind a flag's name; none where it cannot be told in this recording.
    using Question = bool (DriverActivity::*)(double) const;
    [[nodiscard]] Question question(std::string_view name) const;
    [[nodiscard]] double cornering_from() const;
    /// Fast enough to coast.
    [[nodiscard]] bool rolls(double t_s) const;
    [[nodiscard]] double along(double t_s) const;
    [[nodiscard]] double drag(double t_s) const;
    [[nodiscard]] double pushed_back(double t_s) const;

    PedalScales scales_;
    const Channel* brake_ = nullptr;
    const Channel* throttle_ = nullptr;
    const Channel* along_ = nullptr;
    const Channel* lateral_ = nullptr;
    const Channel* speed_ = nullptr;
};

}  // namespace rendak
