#include "core/track/fixes.h"

#include <algorithm>

#include "core/base/median.h"

namespace rendak {
namespace {

constexpr std::size_t piece_size = 40'000;
/// So many places say how the fixes scatter; of a day's every sixth is asked.
constexpr std::size_t enough = 400'000;

/// Third differences and steps, gathered piece by piece.
class Scatter {
  public:
    explicit Scatter(std::size_t count) : stride_(1 + count / enough) {}

    /// `fixes` begin with number `from`.
    void add(const std::vector<Fix>& fixes, std::size_t from) {
        for (std::size_t i = 0; i + 3 < fixes.size(); ++i) {
            if ((from + i) % stride_ != 0) continue;
            if (!fixes[i].valid || !fixes[i + 1].valid || !fixes[i + 2].valid || !fixes[i + 3].valid) continue;
            // Only while moving: a receiver at rest repeats itself.
            if (length(fixes[i + 1].position - fixes[i].position) < 1e-6) continue;
            const Point d =
                fixes[i + 3].position - fixes[i].position - (fixes[i + 2].position - fixes[i + 1].position) * 3.0;
            differences_.push_back(d.x);
            differences_.push_back(d.y);
            steps_.push_back(fixes[i + 1].time_s - fixes[i].time_s);
        }
    }
    [[nodiscard]] double noise() {
        if (differences_.size() < 40) return 0.3;
        // At a low rate the third difference is the car's own motion.
        if (median_of(std::move(steps_)) > 0.3) return 0.3;
        return std::clamp(noise_from_third_differences(std::move(differences_)), 0.01, 1.5);
    }

  private:
    std::size_t stride_;
    std::vector<double> differences_, steps_;
};

}  // namespace

FixSurvey survey(const Fixes& fixes) {
    FixSurvey out;
    Scatter scatter(fixes.count);
    bool any = false;
    for (std::size_t from = 0; from < fixes.count; from += piece_size) {
        // Three more, for the differences that begin at the end of this piece.
        const auto piece = fixes.piece(from, std::min(from + piece_size + 3, fixes.count));
        scatter.add(piece, from);
        for (std::size_t i = 0; i < std::min(piece_size, piece.size()); ++i) {
            if (!piece[i].valid) continue;
            if (!any) out.first = from + i;
            any = true;
            out.behind = from + i + 1;
            ++out.valid;
        }
    }
    out.noise_m = scatter.noise();
    return out;
}

}  // namespace rendak
