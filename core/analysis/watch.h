#pragma once

#include <limits>
#include <span>
#include <string>
#include <vector>

#include "core/base/interval.h"
#include "core/base/result.h"
#include "core/signal/channel.h"

namespace rendak {

/// What a recording is watched for, from power on to power off: a condition in the formula language, and how it speaks.
struct WatchRule {
    std::string name;
    std::string condition;                 ///< a formula; true where something is wrong
    std::string value = {};                ///< a formula: what is told of it, at its worst
    bool worst_is_low = false;             ///< of the value
    double for_s = 0;                      ///< it counts from this duration on
    double apart_s = 0.5;                  ///< times that lie closer together are one
    std::size_t times = 1;                 ///< the rule speaks from so many times a recording on
    std::vector<std::string> beside = {};  ///< formulas: what stood beside it at its worst
    bool off = false;                      ///< it is not looked at
    bool operator==(const WatchRule&) const = default;
};

/// One time for which the condition held.
struct WatchTime {
    Interval time_s;
    double worst = std::numeric_limits<double>::quiet_NaN();  ///< of the value; SI
    double worst_at_s = 0;                                    ///< in the middle of it where the value says nothing
};
/// When a condition holds, gathered block by block. Its samples are 0, 1, or NaN where it cannot be told: there nothing
/// is claimed. A sample holds until the next one, the last as long as the one before.
class HeldTimes {
  public:
    /// Times that lie no more than so far apart are one.
    explicit HeldTimes(double apart_s) : apart_s_(apart_s) {}
    /// Samples that follow those before.
    void take(std::span<const float> condition, const SampleClock& clock);
    void finish();
    [[nodiscard]] const std::vector<Interval>& times_s() const { return times_s_; }
    [[nodiscard]] double known_s() const { return known_s_; }

  private:
    enum class State { missing, off, on };
    void close(double end_s);

    double apart_s_;
    std::vector<Interval> times_s_;
    double known_s_ = 0;
    State state_ = State::missing;  ///< since `since_s_`
    double since_s_ = 0;
    double last_s_ = std::numeric_limits<double>::quiet_NaN(), before_last_s_ = last_s_;
};

/// `condition` has 0, 1, or NaN where it cannot be told: there nothing is claimed. A sample holds until the next one.
struct Watched {
    std::vector<WatchTime> times;
    double known_s = 0;  ///< for which the condition could be told
};
[[nodiscard]] Watched watched(const Channel& condition, const Channel* value, const WatchRule& rule);
/// The same where it is known when the condition held.
[[nodiscard]] Watched watched(const HeldTimes& held, const Channel* value, const WatchRule& rule);

/// Ride heights below this are touches of the road, where the car sheet says nothing else.
inline constexpr double touching_m = 0.001;
/// How often a ride height falls below `least_m` in a stretch, as the shipped rules count it.
[[nodiscard]] std::size_t road_touches(const Channel& ride_height, Interval time_s, double least_m = touching_m);

/// The rules that are shipped; limits come from the car sheet where it has them, else they are usual ones.
[[nodiscard]] const std::vector<WatchRule>& shipped_watch_rules();

/// A list of rules as JSON (docs/formats.md), and back. Shape and sizes are checked, the formulas when they are used.
[[nodiscard]] std::string watch_rules_to_json(const std::vector<WatchRule>& rules);
[[nodiscard]] Result<std::vector<WatchRule>> watch_rules_from_json(const std::string& text, const std::string& where);

}  // namespace rendak
