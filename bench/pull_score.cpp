// How often power and drag are right, and a change of them is told, of cars and circuits that nothing was tuned to:
// pull_score SEEDS FIRST
#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>
#include <string>
#include <vector>

#include "core/analysis/set_difference.h"
#include "core/chassis/power.h"
#include "tests/support/exact_laps.h"
#include "tests/support/made_world.h"

using namespace rendak;

namespace {

/// One kind of figure over all worlds.
struct Score {
    std::vector<double> off;  ///< as shares, without sign
    int held = 0, of = 0, same = 0, called_other = 0, other = 0, found = 0, wrong_way = 0;

    void take(double value, const std::optional<Interval>& likely, double truth) {
        off.push_back(std::abs(value / truth - 1));
        of += likely ? 1 : 0;
        held += likely && likely->contains(truth) ? 1 : 0;
    }
    void take_change(const std::optional<Interval>& likely, double truth) {
        const bool sure = likely && !likely->contains(0);
        ++(truth == 0 ? same : other);
        if (truth == 0) called_other += sure ? 1 : 0;
        if (truth != 0 && sure) ++(likely->begin * truth > 0 ? found : wrong_way);
    }
    void print(const char* name) {
        if (off.empty()) return;
        std::sort(off.begin(), off.end());
        std::printf(
            "%s: off by %.1f %% (middle), %.1f %% (9 of 10), %.1f %% (worst); %d of %d 95 %% intervals hold it; "
            "alike called different %d of %d; changes found %d of %d, the wrong way %d\n",
            name, 100 * off[off.size() / 2], 100 * off[off.size() * 9 / 10], 100 * off.back(), held, of, called_other,
            same, found, other, wrong_way);
    }
};

}  // namespace

int main(int argc, char** argv) {
    const int seeds = argc > 1 ? std::atoi(argv[1]) : 20;
    const int first = argc > 2 ? std::atoi(argv[2]) : 1;
    const bool exact = argc > 3 && std::string(argv[3]) == "skerrow";
    Score power, drag;
    int untold = 0, near = 0;
    for (int seed = first; seed < first + seeds; ++seed) {
        std::mt19937_64 dice(static_cast<std::uint64_t>(seed));
        const auto between = [&](double low, double high) {
            return std::uniform_real_distribution<double>(low, high)(dice);
        };
        demo::RunPlan a = test::MadeWorld::plan(5, 70'000 + 2 * static_cast<std::uint64_t>(seed), between(0.3, 1.5));
        a.car.power_w = between(110e3, 330e3);
        a.car.drag_m2 = between(0.55, 1.3);
        a.car.mass_kg = between(620, 1300);
        a.car.downforce_m2 = between(0.4, 2.4);
        a.state.floor_drag_mps2 = seed % 2 == 0 ? between(0.1, 0.4) : 0;
        a.state.front_ride_height_m = between(0.018, 0.03);
        demo::RunPlan b = a;
        ++b.seed;
        const int change = seed % 3;
        const double size = between(0.03, 0.1) * (seed % 4 < 2 ? 1 : -1);
        if (change == 1) b.car.power_w *= 1 + size / 2;
        if (change == 2) b.car.drag_m2 *= 1 + size;
        PowerInput input;
        input.mass_kg = a.car.mass_kg;
        input.air_kg_per_m3 = demo::Car::air;
        input.air_known = true;
        std::vector<PreparedLap> laps_a, laps_b;
        if (exact) {
            laps_a = test::exact_laps(test::drawn_circuit(), test::drawn_track(), a);
            laps_b = test::exact_laps(test::drawn_circuit(), test::drawn_track(), b);
        } else {
            const test::MadeWorld world(static_cast<unsigned>(seed), between(2500, 6500));
            laps_a = world.run(a).laps;
            laps_b = world.run(b).laps;
        }
        const auto of_a = power_of(laps_a, input), of_b = power_of(laps_b, input);
        if (!of_a || !of_b) {
            ++untold;
            continue;
        }
        near += of_a->near_road ? 1 : 0;
        for (const auto* it : {&a, &b}) {
            const PowerFit& told = it == &a ? *of_a : *of_b;
            power.take(told.power, told.power_likely, it->car.power_w);
            drag.take(told.drag_area, told.drag_likely, it->car.drag_m2);
        }
        const PowerChange by = power_change(*of_a, *of_b);
        power.take_change(by.power, b.car.power_w - a.car.power_w);
        drag.take_change(by.drag_area, b.car.drag_m2 - a.car.drag_m2);
        std::printf("%d: power %+.2f %% drag %+.2f %% of A, ± %.2f, %.2f%s\n", seed,
                    100 * (of_a->power / a.car.power_w - 1), 100 * (of_a->drag_area / a.car.drag_m2 - 1),
                    of_a->power_likely ? 50 * of_a->power_likely->length() / of_a->power : NAN,
                    of_a->drag_likely ? 50 * of_a->drag_likely->length() / of_a->drag_area : NAN,
                    of_a->near_road ? ", floor near" : "");
    }
    power.print("power");
    drag.print("drag");
    std::printf("cannot be told: %d of %d worlds; the floor near the road everywhere: %d\n", untold, seeds, near);
    return 0;
}
