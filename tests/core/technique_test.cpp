// What is done in a corner, on a lap whose every movement is given: places, seconds and sizes as they were made; and
// the finding that each difference of two such laps is.
#include "core/analysis/technique.h"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <numbers>

#include "core/analysis/findings.h"
#include "core/analysis/lap_profile.h"
#include "core/analysis/wheel_events.h"
#include "tests/support/got.h"

using namespace rendak;
using rendak::test::got;

namespace {

constexpr double length_m = 1000, apex_m = 500, full_pa = 8e6;

/// A road of one kilometre with one bend to the left in its middle, and how it is driven, place by place.
struct MadeDrive {
    std::function<double(double)> throttle, brake;         ///< 0 … 1 at a place
    double gain_mps2 = 4, brake_mps2 = 12, drag_mps2 = 1;  ///< of full throttle, full brake, and of neither
    double begin_mps = 50;
    std::function<double(double)> out_m = [](double) { return 0.0; };      ///< to the outside (right)
    std::function<double(double)> slip = [](double) { return 0.0; };       ///< of the front left wheel
    std::function<double(double)> jolt_mps2 = [](double) { return 0.0; };  ///< felt, not driven
};

double between(double s, double from, double to) {
    return s >= from && s < to ? 1 : 0;
}
/// From 0 to 1 over a few metres.
double ramp_between(double s, double from, double to) {
    return std::clamp((s - from) / (to - from), 0.0, 1.0);
}

std::shared_ptr<const Track> road() {
    static const auto made = [] {
        auto track = std::make_shared<Track>();
        track->name = "Bend";
        track->origin = {44, 9};
        track->open = true;
        track->length_m = length_m;
        for (int i = 0; i <= static_cast<int>(length_m); ++i) {
            track->line.push_back({static_cast<double>(i), 0});
            track->tangent.push_back({1, 0});
            track->curvature.push_back(0.012 * between(i, 440, 560));
        }
        Corner corner;
        corner.number = 1;
        corner.start_m = 440;
        corner.apex_m = apex_m;
        corner.end_m = 560;
        corner.left = true;
        track->corners.push_back(corner);
        return track;
    }();
    return made;
}

PreparedLap made_lap(const MadeDrive& drive) {
    constexpr double rate_hz = 100, step_s = 1 / rate_hz;
    ChannelStorage speed, along, lateral, throttle, brake, wheel;
    auto path = std::make_shared<Path>();
    path->origin = {44, 9};
    PreparedLap lap;
    double s = 0, v = drive.begin_mps, t = 0;
    while (s < length_m) {
        const double gas = drive.throttle(s), stop = drive.brake(s);
        const double a = stop > 0.01 ? -drive.brake_mps2 * stop - drive.drag_mps2
                                     : drive.gain_mps2 * gas - drive.drag_mps2 * (1 - gas);
        const double curvature =
            0.012 * std::pow(std::sin(std::numbers::pi * std::clamp((s - 430) / 140, 0.0, 1.0)), 2);
        speed.floats.push_back(static_cast<float>(v));
        along.floats.push_back(static_cast<float>(a + drive.jolt_mps2(s)));
        lateral.floats.push_back(static_cast<float>(v * v * curvature));
        throttle.floats.push_back(static_cast<float>(gas));
        brake.floats.push_back(static_cast<float>(full_pa * stop));
        wheel.floats.push_back(static_cast<float>(v * (1 + drive.slip(s))));
        path->time_s.push_back(t);
        path->position.push_back({s, -drive.out_m(s)});
        path->velocity.push_back({v, 0});
        path->distance_m.push_back(s);
        path->bridged.push_back(0);
        lap.map.time_s.push_back(t);
        lap.map.distance_m.push_back(s);
        lap.map.left_m.push_back(-drive.out_m(s));
        s += v * step_s;
        v = std::max(5.0, v + a * step_s);
        t += step_s;
    }
    lap.map.time_s.push_back(t - (s - length_m) / v);
    lap.map.distance_m.push_back(length_m);
    lap.map.left_m.push_back(0);
    auto recording = std::make_shared<Recording>();
    const auto add = [&](const char* quantity, const char* unit, ChannelStorage&& storage) {
        recording->channels.push_back(make_channel(quantity, quantity, unit, std::move(storage), 0, rate_hz));
    };
    add("speed", "m/s", std::move(speed));
    add("longitudinal_acceleration", "m/s²", std::move(along));
    add("lateral_acceleration", "m/s²", std::move(lateral));
    add("throttle", "", std::move(throttle));
    add("brake_front", "Pa", std::move(brake));
    add("wheel_speed_fl", "m/s", std::move(wheel));
    lap.ref = {{1}, 1};
    lap.track = road();
    lap.path = path;
    PedalScales scales;
    scales.throttle.known = scales.throttle.held_at_end = scales.brake.known = true;
    scales.throttle.full = 1;
    scales.brake.full = full_pa;
    scales.brake_quantity = "brake_front";
    lap.scales = std::make_shared<const PedalScales>(scales);
    lap.recording = recording;
    return lap;
}

/// Flat to 330 m, brakes to 470 m, back on the throttle from 510 m, full at 540 m.
MadeDrive usual() {
    MadeDrive out;
    out.throttle = [](double s) { return s < 330 ? 1.0 : s < 510 ? 0.0 : ramp_between(s, 510, 540); };
    out.brake = [](double s) { return between(s, 335, 470) * (1 - 0.6 * ramp_between(s, 360, 470)); };
    return out;
}

Technique only_corner(const MadeDrive& drive) {
    return technique_of(made_lap(drive)).at(0);
}

TEST(TechniqueOfACorner, IsAsItWasDriven) {
    const MadeDrive drive = usual();
    const PreparedLap lap = made_lap(drive);
    const Technique it = technique_of(lap).at(0);
    EXPECT_FALSE(it.inferred);
    EXPECT_NEAR(it.lift_m.value(), 330, 2);
    EXPECT_NEAR(it.brake_on_m.value(), 335, 2);
    EXPECT_NEAR(it.brake_off_m.value(), 470, 2);
    EXPECT_NEAR(it.slowest_m.value(), 513, 8) << "until the throttle outweighs what holds the car";
    EXPECT_NEAR(it.throttle_touch_m.value(), 512, 3);
    EXPECT_NEAR(it.throttle_on_m.value(), 525, 3);
    EXPECT_NEAR(it.full_throttle_m.value(), 539, 3);
    EXPECT_NEAR(it.full_for_good_m.value(), 539, 3);
    EXPECT_FALSE(it.second_lift_m);
    EXPECT_NEAR(it.brake_peak_mps2.value(), 13, 0.3);
    EXPECT_LT(it.brake_peak_m.value(), 366);
    EXPECT_LT(it.brake_rise_s.value(), 0.2);
    const auto seconds = [&](double from, double to) { return lap.map.time_at(to) - lap.map.time_at(from); };
    EXPECT_NEAR(it.brake_s, seconds(335, 470), 0.05);
    EXPECT_NEAR(it.trail_s, seconds(it.turn_in_m.value(), 470), 0.05);
    EXPECT_NEAR(it.coasting_s, seconds(330, 335) + seconds(470, 511.5), 0.06);
    EXPECT_LT(it.least_throttle, 0.01);
}

TEST(TechniqueOfACorner, AShiftIsNoLiftAndALiftBehindTheCornerIsOne) {
    MadeDrive shifts = usual();
    const auto usual_throttle = shifts.throttle;
    // Two tenths off the throttle at 640 m, at about 40 m/s: a shift.
    shifts.throttle = [=](double s) { return usual_throttle(s) * (1 - between(s, 640, 648)); };
    const Technique with_shift = only_corner(shifts);
    EXPECT_NEAR(with_shift.full_for_good_m.value(), 539, 3);
    EXPECT_FALSE(with_shift.second_lift_m);
    MadeDrive lifts = usual();
    lifts.throttle = [=](double s) { return usual_throttle(s) * (1 - 0.7 * between(s, 600, 660)); };
    const Technique with_lift = only_corner(lifts);
    EXPECT_NEAR(with_lift.full_for_good_m.value(), 660, 3);
    EXPECT_NEAR(with_lift.second_lift_m.value(), 600, 3);
    EXPECT_NEAR(with_lift.least_behind, 0.3, 0.02);
    EXPECT_NEAR(with_lift.full_throttle_m.value(), 539, 3);
}

TEST(TechniqueOfACorner, TakenFlatHasNothingToTell) {
    MadeDrive flat = usual();
    flat.throttle = [](double) { return 1.0; };
    flat.brake = [](double) { return 0.0; };
    const Technique it = only_corner(flat);
    EXPECT_FALSE(it.lift_m);
    EXPECT_FALSE(it.brake_on_m);
    EXPECT_FALSE(it.brake_peak_mps2);
    EXPECT_FALSE(it.throttle_on_m);
    EXPECT_EQ(it.brake_s, 0);
    EXPECT_EQ(it.coasting_s, 0);
    EXPECT_EQ(it.least_throttle, 1);
}

TEST(TechniqueOfACorner, TheShapeOfTheBrake) {
    const PreparedLap lap = made_lap(usual());
    const BrakeShape usual_brake = technique_of(lap).at(0).brake;
    const auto seconds = [&](double from, double to) { return lap.map.time_at(to) - lap.map.time_at(from); };
    // Full from 335 m, 0.9 of it at 378 m, off at 470 m.
    EXPECT_NEAR(usual_brake.hold_s.value(), seconds(337, 378), 0.06);
    EXPECT_NEAR(usual_brake.release_s.value(), seconds(378, 470), 0.06);
    EXPECT_EQ(usual_brake.reversals, 0);
    EXPECT_NEAR(usual_brake.kept_s, 0, 0.05) << "it falls as the car turns";
    EXPECT_NEAR(usual_brake.peak_pa.value(), full_pa, 0.02 * full_pa);
    // Let go at 410 m and rolled from there: it could have been begun later, by less than was rolled.
    MadeDrive rolls = usual();
    rolls.brake = [](double s) { return between(s, 335, 410); };
    const double room = only_corner(rolls).brake.room_left_m.value();
    EXPECT_GT(room, usual_brake.room_left_m.value() + 20);
    EXPECT_LT(room, 510 - 410);
    MadeDrive early = usual(), late = usual(), twice = usual(), kept = usual();
    early.brake = [](double s) { return between(s, 335, 490) * (1 - 0.8 * ramp_between(s, 360, 390)); };
    late.brake = [](double s) {
        return between(s, 335, 450) * (1 - 0.15 * ramp_between(s, 345, 440) - 0.5 * ramp_between(s, 440, 450));
    };
    EXPECT_LT(only_corner(early).brake.release_mean.value(), 0.4);
    EXPECT_GT(only_corner(late).brake.release_mean.value(), 0.7);
    EXPECT_GT(only_corner(early).brake.release_s.value(), only_corner(late).brake.release_s.value());
    twice.brake = [](double s) { return between(s, 335, 470) * (1 - 0.5 * between(s, 390, 410)); };
    EXPECT_EQ(only_corner(twice).brake.reversals, 1);
    // Eased over a crest is as it has to be: the road falls away where he does it.
    PreparedLap over = made_lap(twice);
    auto hill = std::make_shared<Track>(*over.track);
    for (int i = 0; i <= static_cast<int>(length_m); ++i)
        hill->height.value.push_back(-0.5 * 0.003 * std::pow(std::clamp(i - 400, -60, 60), 2));
    over.track = hill;
    EXPECT_EQ(technique_of(over).at(0).brake.reversals, 0);
    // Held at a half while the car turns in further: that is the fault.
    kept.brake = [](double s) { return between(s, 335, 490) * (1 - 0.5 * ramp_between(s, 360, 380)); };
    const Technique held = only_corner(kept);
    EXPECT_GT(held.brake.kept_s, 0.3);
    EXPECT_NEAR(held.brake.at_turn_in.value(), 0.5, 0.05);
    // Flat there is no brake to have a shape.
    MadeDrive flat = usual();
    flat.throttle = [](double) { return 1.0; };
    flat.brake = [](double) { return 0.0; };
    EXPECT_FALSE(only_corner(flat).brake.hold_s);
    EXPECT_FALSE(only_corner(flat).lift_to_brake_s);
    const Technique it = only_corner(usual());
    EXPECT_NEAR(it.lift_to_brake_s.value(), 0.1, 0.05);
}

TEST(TechniqueOfACorner, TheThrottleOnItsWayToFullAndTheArc) {
    MadeDrive back = usual(), still = usual(), brief = usual();
    EXPECT_EQ(only_corner(back).throttle.back.value(), 0);
    EXPECT_EQ(only_corner(back).throttle.reversals, 0);
    back.throttle = [](double s) {
        return s < 330   ? 1.0
               : s < 510 ? 0.0
               : s < 530 ? 0.6 * ramp_between(s, 510, 520)
               : s < 550 ? 0.3
                         : ramp_between(s, 550, 570);
    };
    const ThrottleShape taken = only_corner(back).throttle;
    EXPECT_NEAR(taken.back.value(), 0.6, 0.05) << "down to where it is taken again";
    EXPECT_NEAR(taken.back_m.value(), 530, 3);
    EXPECT_EQ(taken.reversals, 1);
    still.throttle = [](double s) {
        return s < 330 ? 1.0 : s < 510 ? 0.0 : s < 560 ? 0.5 * ramp_between(s, 510, 520) : 1.0;
    };
    const ThrottleShape held = only_corner(still).throttle;
    EXPECT_EQ(held.reversals, 0);
    EXPECT_NEAR(held.held_at, 0.5, 0.04);
    EXPECT_GT(held.held_s, 0.6);
    // A dip as short as a shift is none.
    brief.throttle = [](double s) {
        return s < 330 ? 1.0 : s < 510 ? 0.0 : between(s, 525, 530) > 0 ? 0.1 : ramp_between(s, 510, 540);
    };
    EXPECT_EQ(only_corner(brief).throttle.reversals, 0);
    const ArcShape arc = only_corner(usual()).arc;
    EXPECT_NEAR(arc.tightest_m.value(), 500, 8);
    EXPECT_NEAR(arc.least_radius_m.value(), 1 / 0.012, 3);
    EXPECT_NEAR(arc.share.value(), 0.5, 0.1);
    EXPECT_NEAR(arc.begin_m.value(), 465, 5) << "half of the greatest curvature";
    EXPECT_GT(arc.tightness.value(), 1.1);
    EXPECT_LT(arc.tightness.value(), 1.6);
    EXPECT_FALSE(only_corner(usual()).gears.at_slowest) << "no gear is logged";
    EXPECT_FALSE(only_corner(usual()).steering.most_rad);
}

std::vector<LapFinding> between_laps(const MadeDrive& a, const MadeDrive& b) {
    const PreparedLap first = made_lap(a), second = made_lap(b);
    return got(findings_of(std::span(&first, 1), std::span(&second, 1)));
}

const LapFinding* finding_of_kind(const std::vector<LapFinding>& all, LapFinding::Kind kind) {
    for (const LapFinding& it : all) {
        if (it.kind == kind) return &it;
    }
    return nullptr;
}

TEST(FindingOfADifference, EarlyAndSoftBraking) {
    MadeDrive early = usual();
    early.throttle = [](double s) { return s < 312 ? 1.0 : s < 510 ? 0.0 : ramp_between(s, 510, 540); };
    early.brake = [](double s) { return between(s, 317, 470) * (1 - 0.6 * ramp_between(s, 342, 470)); };
    const auto found = between_laps(usual(), early);
    const LapFinding* it = finding_of_kind(found, LapFinding::Kind::brakes_early);
    ASSERT_NE(it, nullptr);
    EXPECT_NEAR(it->size, 18, 2);
    EXPECT_NEAR(it->at_m, 317, 2);
    EXPECT_GT(it->loss_s, 0.1);
    EXPECT_EQ(finding_of_kind(found, LapFinding::Kind::brakes_softly), nullptr) << "as hard as ever";
    MadeDrive soft = usual();
    soft.throttle = [](double s) { return s < 280 ? 1.0 : s < 510 ? 0.0 : ramp_between(s, 510, 540); };
    soft.brake = [](double s) { return between(s, 285, 470) * 0.55 * (1 - 0.3 * ramp_between(s, 310, 470)); };
    const auto softly = between_laps(usual(), soft);
    const LapFinding* softer = finding_of_kind(softly, LapFinding::Kind::brakes_softly);
    ASSERT_NE(softer, nullptr);
    EXPECT_NEAR(softer->size, (13 - 7.6) / 9.80665, 0.08);
    EXPECT_EQ(finding_of_kind(softly, LapFinding::Kind::brakes_early), nullptr)
        << "who brakes softer has to begin earlier";
}

TEST(FindingOfADifference, LiftsAndNeedlessBrakes) {
    MadeDrive flat = usual();
    flat.begin_mps = 40;
    flat.throttle = [](double) { return 1.0; };
    flat.brake = [](double) { return 0.0; };
    MadeDrive lifts = flat;
    lifts.throttle = [](double s) { return 1 - 0.6 * between(s, 420, 520); };
    const auto found = between_laps(flat, lifts);
    const LapFinding* lift = finding_of_kind(found, LapFinding::Kind::lifts);
    ASSERT_NE(lift, nullptr);
    EXPECT_NEAR(lift->size, 60, 3);
    EXPECT_NEAR(lift->at_m, 420, 3);
    MadeDrive brushes = flat;
    brushes.throttle = [](double s) { return 1 - between(s, 420, 480); };
    brushes.brake = [](double s) { return 0.4 * between(s, 425, 470); };
    const auto needless = between_laps(flat, brushes);
    const LapFinding* brake = finding_of_kind(needless, LapFinding::Kind::brakes_needlessly);
    ASSERT_NE(brake, nullptr);
    EXPECT_NEAR(brake->size, (0.4 * 12 + 1) / 9.80665, 0.06);
    EXPECT_EQ(finding_of_kind(needless, LapFinding::Kind::lifts), nullptr) << "one thing is said once";
    EXPECT_TRUE(between_laps(lifts, flat).empty()) << "who is quicker has no fault";
}

TEST(FindingOfADifference, ABrushOfTheBrakeBeforeALongCornerMayBeMeant) {
    MadeDrive flat = usual();
    flat.begin_mps = 40;
    flat.gain_mps2 = 0.4;
    flat.throttle = [](double) { return 1.0; };
    flat.brake = [](double) { return 0.0; };
    flat.jolt_mps2 = [](double s) { return -13 * between(s, 950, 980); };  // as hard as it brakes elsewhere
    const auto with_brush = [&](double from, double to, double level) {
        MadeDrive out = flat;
        out.throttle = [=](double s) { return flat.throttle(s) - between(s, from - 8, to + 4); };
        out.brake = [=](double s) { return std::max(flat.brake(s), level * between(s, from, to)); };
        return between_laps(flat, out);
    };
    const auto before = with_brush(425, 447, 0.3);
    const LapFinding* brush = finding_of_kind(before, LapFinding::Kind::brushes_brake);
    ASSERT_NE(brush, nullptr);
    EXPECT_NEAR(brush->size, (0.3 * 12 + 1) / 9.80665, 0.06);
    EXPECT_EQ(finding_of_kind(before, LapFinding::Kind::brakes_needlessly), nullptr) << "one thing is said once";
    EXPECT_NE(finding_causes(*brush).find("settle"), std::string::npos);
    for (const auto& [from, to, level] : {std::tuple{425.0, 447.0, 0.8}, {405.0, 447.0, 0.3}, {455.0, 477.0, 0.3}}) {
        const auto needless = with_brush(from, to, level);
        EXPECT_NE(finding_of_kind(needless, LapFinding::Kind::brakes_needlessly), nullptr)
            << from << " " << to << " " << level;
        EXPECT_EQ(finding_of_kind(needless, LapFinding::Kind::brushes_brake), nullptr)
            << from << " " << to << " " << level;
    }
}

TEST(FindingOfADifference, CoastingAndALateThrottle) {
    MadeDrive coasts = usual();
    coasts.throttle = [](double s) { return s < 290 ? 1.0 : s < 510 ? 0.0 : ramp_between(s, 510, 540); };
    const auto found = between_laps(usual(), coasts);
    const LapFinding* coast = finding_of_kind(found, LapFinding::Kind::coasts);
    ASSERT_NE(coast, nullptr);
    EXPECT_NEAR(coast->size, 40 / 58.0, 0.15);
    EXPECT_EQ(finding_of_kind(found, LapFinding::Kind::brakes_late), nullptr);
    MadeDrive late = usual();
    late.throttle = [](double s) { return s < 330 ? 1.0 : s < 510 ? 0.0 : ramp_between(s, 510, 640); };
    const auto slowly = between_laps(usual(), late);
    const LapFinding* throttle = finding_of_kind(slowly, LapFinding::Kind::throttle_late);
    ASSERT_NE(throttle, nullptr);
    EXPECT_NEAR(throttle->size, 97, 8);
}

TEST(FindingOfADifference, ALockedAndASpinningWheel) {
    MadeDrive locks = usual();
    locks.slip = [](double s) { return -0.8 * between(s, 350, 372); };
    locks.brake = [](double s) {
        return between(s, 335, 470) * (1 - 0.6 * ramp_between(s, 360, 470)) * (1 - 0.5 * between(s, 350, 372));
    };
    const PreparedLap lap = made_lap(locks);
    const auto events = wheel_events(lap);
    ASSERT_EQ(events.size(), 1U);
    EXPECT_EQ(events[0].kind, WheelEvent::Kind::locks_up);
    EXPECT_NEAR(events[0].range_m.begin, 350, 2);
    EXPECT_NEAR(events[0].range_m.end, 372, 2);
    EXPECT_NEAR(events[0].depth, -0.8, 0.02);
    EXPECT_NEAR(events[0].duration_s, lap.map.time_at(372) - lap.map.time_at(350), 0.03);
    // One that costs: less braking makes him run wide and slow.
    MadeDrive wide = locks;
    wide.throttle = [](double s) { return s < 330 ? 1.0 : s < 545 ? 0.0 : ramp_between(s, 545, 575); };
    wide.brake = [](double s) { return between(s, 335, 490) * (1 - 0.6 * ramp_between(s, 360, 490)); };
    const auto found = between_laps(usual(), wide);
    const LapFinding* lock = finding_of_kind(found, LapFinding::Kind::locks_up);
    ASSERT_NE(lock, nullptr);
    EXPECT_NEAR(lock->at_m, 350, 3);
    EXPECT_GT(lock->size, 0.3);
    MadeDrive spins = usual();
    spins.slip = [](double s) { return 0.3 * between(s, 545, 570); };
    const auto spun = wheel_events(made_lap(spins));
    ASSERT_EQ(spun.size(), 1U);
    EXPECT_EQ(spun[0].kind, WheelEvent::Kind::spins);
    // A flicker of two samples is no lock-up.
    MadeDrive flickers = usual();
    flickers.slip = [](double s) { return -0.8 * between(s, 350, 350.9); };
    EXPECT_TRUE(wheel_events(made_lap(flickers)).empty());
}

TEST(FindingOfADifference, FurtherOutAtTheApex) {
    MadeDrive wide = usual();
    wide.out_m = [](double s) { return 2.2 * std::exp(-std::pow((s - apex_m) / 40, 2)); };
    wide.brake = [](double s) { return between(s, 330, 478) * (1 - 0.6 * ramp_between(s, 355, 478)); };
    const auto found = between_laps(usual(), wide);
    const LapFinding* it = finding_of_kind(found, LapFinding::Kind::wide);
    ASSERT_NE(it, nullptr);
    EXPECT_NEAR(it->size, 2.2, 0.2);
    EXPECT_EQ(it->corner, 1);
    EXPECT_NE(finding_words(*it, *road()).find("further out"), std::string::npos);
    EXPECT_NE(finding_words(*it, *road(), {"mph", "ft", 0.621371, 3.28084}).find("7.2 ft further out"),
              std::string::npos)
        << finding_words(*it, *road(), {"mph", "ft", 0.621371, 3.28084});
    // To the inside it is no fault.
    MadeDrive tight = wide;
    tight.out_m = [](double s) { return -2.2 * std::exp(-std::pow((s - apex_m) / 40, 2)); };
    EXPECT_EQ(finding_of_kind(between_laps(usual(), tight), LapFinding::Kind::wide), nullptr);
}

TEST(SlowestPlace, OfACornerBehindASlowOneIsItsOwn) {
    // A hairpin at 300 m, and a fast bend at 700 m for which the driver lifts on his way.
    auto two = std::make_shared<Track>(*road());
    two->corners[0].start_m = 270;
    two->corners[0].apex_m = 300;
    two->corners[0].end_m = 330;
    Corner fast = two->corners[0];
    fast.number = 2;
    fast.start_m = 640;
    fast.apex_m = 700;
    fast.end_m = 760;
    two->corners.push_back(fast);
    MadeDrive drive = usual();
    drive.brake = [](double s) { return between(s, 150, 285); };
    drive.throttle = [](double s) { return s < 145 ? 1.0 : s < 300 ? 0.0 : 1 - between(s, 660, 700); };
    const auto events_of = [&](const MadeDrive& it) {
        PreparedLap lap = made_lap(it);
        lap.track = two;
        return corner_events(lap);
    };
    const auto lifts = events_of(drive);
    EXPECT_NEAR(lifts[0].slowest_m.value(), 300, 6);
    // Halfway between the apexes, where the stretch begins, the car is slower than anywhere in the bend.
    EXPECT_NEAR(lifts[1].slowest_m.value(), 700, 4);
    EXPECT_NEAR(lifts[1].lift_m.value(), 660, 3);
    EXPECT_NEAR(lifts[1].full_throttle_m.value(), 700, 4);
    EXPECT_FALSE(lifts[1].brake_on_m) << "the hairpin's braking is the hairpin's";
    // Flat there: the slowest place is in the bend, where it begins, and nothing is lifted.
    drive.throttle = [](double s) { return s < 145 ? 1.0 : s < 300 ? 0.0 : 1.0; };
    const auto flat = events_of(drive);
    EXPECT_NEAR(flat[1].slowest_m.value(), 640, 3);
    EXPECT_FALSE(flat[1].lift_m);
    EXPECT_FALSE(flat[1].throttle_on_m);
    // Lifted before the stretch begins, and not full again since: it is still this corner's lift.
    drive.throttle = [](double s) { return s < 145 ? 1.0 : s < 300 ? 0.0 : 1 - 0.9 * between(s, 470, 700); };
    const auto early = events_of(drive);
    EXPECT_NEAR(early[1].lift_m.value(), 470, 4);
}

TEST(Profile, IsTheLapAtEveryMetreAndItsMeanTheMiddle) {
    MadeDrive slower = usual();
    slower.begin_mps = 45;
    const PreparedLap a = made_lap(usual()), b = made_lap(slower);
    const LapProfile of_a = profile_of(a), of_b = profile_of(b);
    EXPECT_EQ(of_a.elapsed_s.size(), 1001U);
    EXPECT_NEAR(of_a.lap_s(), a.time_s(), 1e-9);
    for (double s = 0; s <= length_m; s += 37.3) {
        EXPECT_NEAR(of_a.elapsed_at(s), a.map.time_at(s) - a.map.start_s(), 2e-3) << s;
        EXPECT_NEAR(of_a.speed_at(s), a.value_at("speed", s), 1) << s;
    }
    const std::vector<LapProfile> both{of_a, of_b};
    const LapProfile mean = mean_of(both);
    for (double s = 0; s <= length_m; s += 53) {
        EXPECT_NEAR(mean.elapsed_at(s), (of_a.elapsed_at(s) + of_b.elapsed_at(s)) / 2, 1e-9);
        EXPECT_NEAR(mean.speed_at(s), (of_a.speed_at(s) + of_b.speed_at(s)) / 2, 1e-9);
    }
    EXPECT_EQ(mean.elapsed_at(-5), mean.elapsed_at(0)) << "kept inside the lap";
    EXPECT_EQ(mean.elapsed_at(2000), mean.lap_s());
    // A length that is no whole number of metres: the last step is the rest of one.
    PreparedLap odd = a;
    for (double& s : odd.map.distance_m) s *= 1.0005;
    const LapProfile of_odd = profile_of(odd);
    EXPECT_NEAR(of_odd.length_m, 1000.5, 1e-9);
    EXPECT_NEAR(of_odd.lap_s(), a.time_s(), 1e-9);
    EXPECT_NEAR(of_odd.elapsed_at(1000.25), 0.5 * (of_odd.elapsed_at(1000) + of_odd.lap_s()), 1e-9);
}

TEST(FindingOfADifference, HesitationAndALateRelease) {
    MadeDrive hesitates = usual();
    hesitates.throttle = [](double s) {
        return s < 330   ? 1.0
               : s < 510 ? 0.0
               : s < 530 ? 0.8 * ramp_between(s, 510, 530)
               : s < 580 ? 0.2
                         : ramp_between(s, 580, 600);
    };
    const auto found = between_laps(usual(), hesitates);
    const LapFinding* it = finding_of_kind(found, LapFinding::Kind::throttle_hesitates);
    ASSERT_NE(it, nullptr);
    EXPECT_GT(it->size, 50);
    EXPECT_NEAR(it->at_m, 535, 12);
    EXPECT_EQ(finding_of_kind(between_laps(usual(), usual()), LapFinding::Kind::throttle_hesitates), nullptr);
    MadeDrive late = usual();
    late.brake = [](double s) { return between(s, 335, 500) * (1 - 0.6 * ramp_between(s, 360, 470)); };
    const auto longer = between_laps(usual(), late);
    const LapFinding* release = finding_of_kind(longer, LapFinding::Kind::releases_late);
    ASSERT_NE(release, nullptr);
    EXPECT_NEAR(release->size, 30, 4);
    EXPECT_EQ(finding_of_kind(longer, LapFinding::Kind::brakes_early), nullptr);
}

TEST(FindingOfADifference, WhoComesSlowerMayBrakeLater) {
    // Two metres a second slower all the way: later by v·Δv/a is no fault.
    MadeDrive slower = usual();
    slower.begin_mps = 46;
    slower.throttle = [](double s) { return s < 346 ? 1.0 : s < 510 ? 0.0 : ramp_between(s, 510, 540); };
    slower.brake = [](double s) { return between(s, 351, 470) * (1 - 0.6 * ramp_between(s, 376, 470)); };
    EXPECT_EQ(finding_of_kind(between_laps(usual(), slower), LapFinding::Kind::brakes_late), nullptr);
}

TEST(FindingOfADifference, OverSlowingSaysHowMuchTooEarly) {
    // Stops harder at the end and is back on the throttle before A: slower, and that before A is slowest.
    MadeDrive over = usual();
    over.brake = [](double s) { return between(s, 335, 470) * (1 - 0.3 * ramp_between(s, 360, 470)); };
    over.throttle = [](double s) { return s < 330 ? 1.0 : s < 475 ? 0.0 : ramp_between(s, 475, 540); };
    const auto found = between_laps(usual(), over);
    const LapFinding* it = finding_of_kind(found, LapFinding::Kind::overslowed);
    ASSERT_NE(it, nullptr);
    EXPECT_GT(it->earlier_m, 15);
    EXPECT_NE(finding_words(*it, *road()).find(" m before A's"), std::string::npos) << finding_words(*it, *road());
}

}  // namespace
