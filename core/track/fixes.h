#pragma once

#include <cstddef>
#include <functional>
#include <span>
#include <vector>

#include "core/track/geometry.h"

namespace rendak {

/// One raw position.
struct Fix {
    double time_s = 0;
    Point position;
    bool valid = true;
};

/// Raw positions that are asked for one by one, in pieces: those of six hours at 100 Hz take 70 MB at once.
struct Fixes {
    std::size_t count = 0;
    std::function<Fix(std::size_t)> at;
    /// What a piece was read from is not needed for a while. May be empty.
    std::function<void()> let_go = {};

    explicit Fixes(std::span<const Fix> all) : count(all.size()), at([all](std::size_t i) { return all[i]; }) {}
    Fixes(std::size_t how_many, std::function<Fix(std::size_t)> one, std::function<void()> rest)
        : count(how_many), at(std::move(one)), let_go(std::move(rest)) {}

    [[nodiscard]] std::vector<Fix> piece(std::size_t from, std::size_t to) const {
        std::vector<Fix> out;
        out.reserve(to - from);
        for (std::size_t i = from; i < to; ++i) out.push_back(at(i));
        if (let_go) let_go();
        return out;
    }
};

/// What is known of all fixes before they are smoothed.
struct FixSurvey {
    std::size_t first = 0, behind = 0;  ///< the first valid one, and one behind the last
    std::size_t valid = 0;
    double noise_m = 0;  ///< scatter, one axis, from third differences
};
[[nodiscard]] FixSurvey survey(const Fixes& fixes);

}  // namespace rendak
