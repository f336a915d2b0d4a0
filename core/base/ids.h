#pragma once

#include <compare>
#include <cstdint>

namespace rendak {

/// A database key that cannot be mistaken for that of another kind of thing. 0 means "none".
template <class Tag>
struct Id {
    std::int64_t value = 0;
    auto operator<=>(const Id&) const = default;
    explicit operator bool() const { return value != 0; }
};

using EventId = Id<struct EventTag>;
using SessionId = Id<struct SessionTag>;
using RunId = Id<struct RunTag>;
using TrackId = Id<struct TrackTag>;
using MarkId = Id<struct MarkTag>;
using SetupId = Id<struct SetupTag>;

/// In place of a lap's number: all that a run recorded.
inline constexpr int whole_run = -1;

/// One lap of one run. Laps are numbered from 0 (the stretch before the first line crossing).
struct LapRef {
    RunId run;
    int lap = 0;
    auto operator<=>(const LapRef&) const = default;
};

}  // namespace rendak
