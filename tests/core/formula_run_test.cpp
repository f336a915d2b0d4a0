#include <gtest/gtest.h>

#include <cmath>

#include "core/analysis/at_rest.h"
#include "core/intake/import.h"
#include "core/intake/run_data.h"
#include "core/recording/recording_file.h"
#include "core/track/ideal_line.h"
#include "demo/car.h"
#include "tests/support/demo_data.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

/// Saturday of the demo; each test works on its own library only where it writes.
class FormulaRun : public testing::Test {
  protected:
    static void SetUpTestSuite() {
        folder_ = std::make_unique<test::TempFolder>();
        test::copy_library(test::saturday_library(), folder_->path());
        library_ = std::move(*Library::open(folder_->path()));
    }
    static void TearDownTestSuite() {
        runs_.clear();
        library_.reset();
        folder_.reset();
    }
    static const RunData& run(std::int64_t id) {
        auto& data = runs_[{id}];
        if (!data) data = test::got(load_run(*library_, {id}));
        return *data;
    }
    static const Channel& channel(std::int64_t id, const std::string& name) {
        const Channel* found = run(id).recording->find(name);
        if (found == nullptr) throw std::runtime_error(name + ": " + run(id).formulas->why_not(name));
        return *found;
    }
    static const Lap& lap(std::int64_t id, int number) {
        for (const Lap& it : run(id).laps) {
            if (it.number == number) return it;
        }
        throw std::runtime_error("no such lap");
    }
    /// Saturday's track is not surveyed yet: a road of 11 m.
    static std::shared_ptr<const Track> with_edges() {
        auto track = std::make_shared<Track>(*run(2).track);
        track->edges = {Edges::Source::driven, std::vector<double>(track->line.size(), 5.5),
                        std::vector<double>(track->line.size(), 5.5)};
        return track;
    }
    /// Share of the samples of a lap at which two channels agree.
    static double agreement(const Channel& a, const Channel& b, const Lap& over) {
        std::size_t same = 0, all = 0;
        for (double t = over.start_s; t < over.end_s; t += 0.02, ++all) same += a.value_at(t) == b.value_at(t) ? 1 : 0;
        return static_cast<double>(same) / static_cast<double>(all);
    }

    static std::unique_ptr<test::TempFolder> folder_;
    static std::unique_ptr<Library> library_;
    static std::map<RunId, std::shared_ptr<const RunData>> runs_;
};
std::unique_ptr<test::TempFolder> FormulaRun::folder_;
std::unique_ptr<Library> FormulaRun::library_;
std::map<RunId, std::shared_ptr<const RunData>> FormulaRun::runs_;

TEST_F(FormulaRun, TheWholeStarterSetCanBeHadOnTheMainLogger) {
    EXPECT_EQ(run(2).recording->find("ideal_line_distance"), nullptr);
    EXPECT_NE(run(2).formulas->why_not("ideal_line_distance").find("edges of this track are not known"),
              std::string::npos);
    Recording logged = *run(2).recording;
    logged.derived = nullptr;
    RunFormulas formulas(run(2).formulas->inputs(), logged, run(2).laps, with_edges(), run(2).path);
    for (const formula::Formula& it : formula::starter_set().formulas) {
        const Channel* result = formulas.find(it.name);
        ASSERT_NE(result, nullptr) << it.name << ": " << formulas.why_not(it.name);
        const Statistics figures = statistics(*result, 0, result->size());
        // Rolling with neither pedal is rare.
        EXPECT_GT(figures.count, it.name == "coast_down_force" ? 20u : 1000u) << it.name;
        EXPECT_TRUE(std::isfinite(figures.mean)) << it.name;
    }
}

TEST_F(FormulaRun, BlocksFollowEachOtherToTheWhole) {
    RunFormulas& formulas = *run(2).formulas;
    const auto all_of = [&](const std::string& text, std::size_t most) {
        const auto checked = formulas.check(text, "");
        if (!checked) throw std::runtime_error(checked.error().sentence);
        const auto whole = formulas.evaluate(*checked);
        std::vector<float> got;
        std::size_t largest = 0;
        const auto taken = formulas.evaluate_blocks(*checked, most, [&](auto values, const SampleClock& clock) {
            EXPECT_EQ(clock.size, values.size());
            EXPECT_NEAR(clock.time_at(0), whole->clock.time_at(got.size()), 1e-9) << text;
            got.insert(got.end(), values.begin(), values.end());
            largest = std::max(largest, values.size());
        });
        EXPECT_TRUE(taken && *taken == whole->size()) << text;
        EXPECT_EQ(got.size(), whole->size()) << text;
        std::size_t different = 0;
        for (std::size_t i = 0; i < std::min(got.size(), whole->size()); ++i) {
            const float expected = whole->floats()[i];
            // Times of a block are rounded from its own begin.
            const bool same = std::abs(got[i] - expected) < 1e-5F || (std::isnan(got[i]) && std::isnan(expected));
            different += same ? 0 : 1;
        }
        EXPECT_EQ(different, 0U) << text;
        return largest;
    };
    EXPECT_EQ(all_of("speed > 30 m/s and engine_speed > 3000 rpm", 1000), 1000U);
    EXPECT_EQ(all_of("delay(speed, 1.5 s) - speed > 2 m/s", 1000), 1000U);
    EXPECT_EQ(all_of("delay(speed, 0.333 s) - speed", 777), 777U);
    EXPECT_EQ(all_of("throttle if gear > 3 else 0", 5000), 5000U);
    EXPECT_EQ(all_of("speed > 1 m/s and driver_on_brake", 1000), 1000U);
    // What must see the whole run, or the whole lap, is one block.
    EXPECT_GT(all_of("lowpass(speed, 2 Hz) > 30 m/s", 1000), 1000U);
    EXPECT_GT(all_of("time_while(speed > 30 m/s)", 1000), 1000U);
    EXPECT_GT(all_of("resample(speed, 5 Hz) > 30 m/s", 1000), 1000U);
    // A channel alone is handed on as it stands.
    const Channel speed = *formulas.evaluate(*formulas.check("speed", ""));
    EXPECT_EQ(speed.floats().data(), run(2).recording->find("speed")->floats().data());
    EXPECT_EQ(speed.unit, "m/s");
    EXPECT_FALSE(speed.steps());
    EXPECT_TRUE(formulas.evaluate(*formulas.check("gear", ""))->steps());
    std::stop_source stop;
    stop.request_stop();
    const auto draft = formulas.check("delay(speed, 1 s) > 2 m/s", "");
    EXPECT_FALSE(formulas.evaluate_blocks(
        *draft, 1000, [](auto, const SampleClock&) {}, stop.get_token()));
}

TEST_F(FormulaRun, TheQuickestLineCanBeHadAsAChannel) {
    RENDAK_FIGURES_ONLY("a descent over a whole lap");
    Recording logged = *run(2).recording;
    logged.derived = nullptr;
    const auto formulas = [&](const std::shared_ptr<const Track>& track, const std::vector<Lap>& laps) {
        return std::make_unique<RunFormulas>(run(2).formulas->inputs(), logged, laps, track, run(2).path);
    };
    const auto known = formulas(with_edges(), run(2).laps);
    const auto draft = known->check("quickest_offset", "m");
    ASSERT_TRUE(draft);
    const auto line = known->evaluate(*draft);
    ASSERT_TRUE(line) << line.error().sentence;
    // The same line lap after lap, on the road, and not the track's own.
    const Statistics all = statistics(*line, line->clock.first_at_or_after(lap(2, 3).start_s),
                                      line->clock.first_at_or_after(lap(2, 3).end_s));
    EXPECT_GT(all.low, -4.6);
    EXPECT_LT(all.high, 4.6);
    EXPECT_GT(all.high - all.low, 3);
    const auto map = [&](int number) {
        return align_lap(*run(2).path, *run(2).track, lap(2, number).start_s, lap(2, number).end_s);
    };
    const LapMap third = map(3), fifth = map(5);
    for (double s = 100; s < third.length_m() - 100; s += 250)
        EXPECT_NEAR(line->value_at(third.time_at(s)), line->value_at(fifth.time_at(s)), 0.05) << s;
    // Why not is said.
    std::vector<Lap> none = run(2).laps;
    for (Lap& it : none) it.included = false;
    const auto without = formulas(with_edges(), none);
    EXPECT_EQ(without->find("quickest_line_distance"), nullptr);
    EXPECT_NE(without->why_not("quickest_line_distance").find("No lap of this run counts"), std::string::npos);
    EXPECT_EQ(run(2).recording->find("quickest_line_distance"), nullptr);
    EXPECT_NE(run(2).formulas->why_not("quickest_line_distance").find("edges of this track are not known"),
              std::string::npos);
}

TEST_F(FormulaRun, EstimatesAgreeWithWhatTheSimulatorKnows) {
    const demo::Car car;
    const Lap& third = lap(2, 3);
    EXPECT_GT(agreement(channel(2, "gear_estimated"), channel(2, "gear"), third), 0.97);
    // Full throttle on the straights: the wheels' power is the car's.
    const Channel &power = channel(2, "wheel_power"), &throttle = channel(2, "throttle");
    double sum = 0;
    int count = 0;
    for (double t = third.start_s + 1; t < third.end_s - 1; t += 0.05) {
        const bool flat =
            throttle.value_at(t - 0.5) > 0.98 && throttle.value_at(t) > 0.98 && throttle.value_at(t + 0.5) > 0.98;
        if (!flat || !(channel(2, "speed").value_at(t) > 45) ||
            std::abs(channel(2, "lateral_smooth").value_at(t)) > 1.5)
            continue;
        sum += power.value_at(t);
        ++count;
    }
    ASSERT_GT(count, 40);
    EXPECT_NEAR(sum / count, car.power_w, 0.06 * car.power_w);
    // The understeer that the simulator steers: a fixed angle a g.
    const Channel &angle = channel(2, "understeer_angle"), &lateral = channel(2, "lateral_smooth");
    double product = 0, squares = 0;
    for (double t = third.start_s; t < third.end_s; t += 0.02) {
        const double g = std::abs(lateral.value_at(t)) / 9.80665, a = angle.value_at(t);
        if (!std::isfinite(a)) continue;
        product += a * g;
        squares += g * g;
    }
    EXPECT_NEAR(product / squares, car.understeer_rad_per_g, 0.0015);
}

TEST_F(FormulaRun, ThePlantedLockUpIsFoundOnceAndOnTheRightWheel) {
    const auto rises = [&](const std::string& name) {
        const Channel& flag = channel(3, name);
        int count = 0;
        for (std::size_t i = 1; i < flag.size(); ++i) count += flag.at(i) == 1 && flag.at(i - 1) == 0 ? 1 : 0;
        return count;
    };
    EXPECT_GE(rises("lock_up_fl"), 1);
    EXPECT_EQ(rises("lock_up_fr"), 0);
    EXPECT_EQ(rises("lock_up_rl"), 0);
    EXPECT_EQ(rises("lock_up_rr"), 0);
    EXPECT_EQ(statistics(channel(2, "lock_up"), 0, channel(2, "lock_up").size()).high, 0);
}

TEST_F(FormulaRun, TimesOfALapAddUp) {
    const Lap& third = lap(2, 3);
    const double end = third.end_s - 0.02, time = third.end_s - third.start_s;
    for (const std::string what : {"braking", "throttle", "cornering", "coasting"}) {
        const double seconds = channel(2, what + "_time").value_at(end),
                     share = channel(2, what + "_share").value_at(end);
        EXPECT_NEAR(seconds / time, share, 0.002) << what;
        EXPECT_LE(channel(2, what + "_distance").value_at(end), run(2).track->length_m);
    }
    const auto all = run(2).formulas->check("distance_while(engine_speed > 0 rpm)", "m");
    ASSERT_TRUE(all);
    const auto driven = run(2).formulas->evaluate(*all);
    ASSERT_TRUE(driven);
    EXPECT_NEAR(driven->value_at(end), run(2).track->length_m, 3);
}

TEST_F(FormulaRun, FlagsOfTheDriverEndWithTheirSensor) {
    // The share of the front pressure while braking: a flag that lingered would divide noise by noise.
    const Channel &flag = channel(2, "on_brakes"), &brake = channel(2, "brake_front"),
                  &share = channel(2, "brake_balance");
    EXPECT_EQ(flag.clock.rate_hz, brake.clock.rate_hz);
    for (std::size_t i = 0; i < brake.size(); ++i) {
        if (brake.at(i) < 2.5e5) ASSERT_TRUE(std::isnan(share.at(i))) << brake.clock.time_at(i);
        if (brake.at(i) > 8e5) ASSERT_NEAR(share.at(i), 0.64, 0.06) << brake.clock.time_at(i);
    }
}

TEST_F(FormulaRun, FlagsComeFromGpsAlone) {
    Recording gps;
    gps.source_name = "pocket.rdk.h5";
    for (const Channel& it : run(2).recording->channels) {
        if (it.quantity == "latitude" || it.quantity == "longitude" || it.quantity == "speed")
            gps.channels.push_back(it);
    }
    ASSERT_EQ(gps.channels.size(), 3u);
    test::TempFolder folder;
    const auto file = folder.path() / "pocket.rdk.h5";
    ASSERT_TRUE(write_recording(gps, file));
    auto library = std::move(*Library::open(folder.path() / "library"));
    const auto imported = import_file(*library, file, {});
    ASSERT_TRUE(imported) << imported.error().text();
    ASSERT_TRUE(learn_track_from_run(*library, imported->run, "Skerrow Point", {}));
    const auto data = *load_run(*library, imported->run);
    const Lap& third = lap(2, 3);
    for (const char* flag : {"braking", "on_throttle", "cornering"}) {
        const Channel* own = data->recording->find(flag);
        ASSERT_NE(own, nullptr) << flag << ": " << data->formulas->why_not(flag);
        EXPECT_GT(agreement(*own, channel(2, flag), third), 0.92) << flag;
    }
    ASSERT_NE(data->recording->find("coasting_time"), nullptr) << data->formulas->why_not("coasting_time");
    EXPECT_NE(data->recording->find("corner_radius"), nullptr);
    EXPECT_EQ(data->recording->find("brake_balance"), nullptr);
}

TEST_F(FormulaRun, SmoothedSpeedOfADamperIsItsSlope) {
    const Channel &travel = channel(2, "damper_fl"), &speed = channel(2, "damper_speed_fl");
    EXPECT_EQ(speed.clock.rate_hz, 500);
    // What the speed adds up to is how far the damper went.
    const Lap& third = lap(2, 3);
    const std::size_t from = speed.clock.first_at_or_after(third.start_s),
                      to = speed.clock.first_at_or_after(third.start_s + 20);
    double sum = 0;
    for (std::size_t i = from; i < to; ++i) sum += speed.at(i) / 500;
    EXPECT_NEAR(sum, travel.at(to) - travel.at(from), 2e-3);
}

TEST_F(FormulaRun, ARunSaysWhyItCannotHaveAFormula) {
    auto draft = run(2).formulas->check("boost_pressure + 1 bar", "");
    ASSERT_FALSE(draft);
    EXPECT_NE(draft.error().sentence.find("not known"), std::string::npos);
    Recording few = *run(2).recording;
    few.derived = nullptr;
    std::erase_if(few.channels, [](const Channel& it) { return it.quantity == "brake_rear"; });
    RunFormulas formulas(run(2).formulas->inputs(), few, run(2).laps, run(2).track, run(2).path);
    EXPECT_EQ(formulas.find("brake_balance"), nullptr);
    EXPECT_EQ(formulas.why_not("brake_balance"), "This run has no brake_rear (Brake rear).");
    EXPECT_NE(formulas.find("trail_braking"), nullptr);  // does without
}

TEST_F(FormulaRun, AnotherLoggersNamesStandForTheSame) {
    Recording other = *run(2).recording;
    other.derived = nullptr;
    const auto value = channel(2, "gear_estimated").value_at(lap(2, 3).start_s + 20);
    FormulaInputs inputs = run(2).formulas->inputs();
    inputs.aliases["drehzahl"] = "engine_speed";
    for (Channel& it : other.channels) {
        if (it.quantity == "engine_speed") it.name = "Drehzahl";
    }
    RunFormulas formulas(inputs, other, run(2).laps, run(2).track, run(2).path);
    const Channel* gear = formulas.find("gear_estimated");
    ASSERT_NE(gear, nullptr);
    EXPECT_EQ(gear->value_at(lap(2, 3).start_s + 20), value);
    const auto checked = formulas.check("rpm * 1 s", "");
    ASSERT_TRUE(checked) << checked.error().sentence;
    ASSERT_EQ(checked->notes.size(), 1u);
    EXPECT_NE(checked->notes[0].find("Drehzahl"), std::string::npos);
}

TEST_F(FormulaRun, OnlyWhatDependsOnAConstantIsComputedAnew) {
    test::TempFolder folder;
    test::copy_library(test::saturday_library(), folder.path());
    auto library = std::move(*Library::open(folder.path()));
    const auto before = *load_run(*library, {2});
    for (const char* name : {"roll", "drag_force", "lateral_smooth", "wheel_power"})
        ASSERT_NE(before->recording->find(name), nullptr) << name;
    auto sheets = library->car_sheets().value();
    ASSERT_EQ(sheets.size(), 1u);
    for (SheetValue& value : sheets[0].values) {
        if (value.name == "drag area") value.value = "1.72";
    }
    ASSERT_TRUE(library->put_car_sheet(sheets[0]));
    const auto after = with_new_formulas(*library, *before).value();
    const double t = before->laps[3].start_s + 5;
    EXPECT_NEAR(after->recording->find("drag_force")->value_at(t),
                2 * before->recording->find("drag_force")->value_at(t), 1);
    const std::size_t computed = after->formulas->computed();
    EXPECT_EQ(after->recording->find("roll"), before->recording->find("roll"));
    EXPECT_EQ(after->recording->find("lateral_smooth"), before->recording->find("lateral_smooth"));
    EXPECT_EQ(after->formulas->computed(), computed);
    EXPECT_NE(after->recording->find("wheel_power"), before->recording->find("wheel_power"));
}

TEST_F(FormulaRun, OwnFormulasWinAndCirclesAreShown) {
    FormulaInputs inputs = run(2).formulas->inputs();
    formula::FormulaSet mine{"Mine",
                             {},
                             {},
                             {{"braking", "", "brake_front > 20 bar", ""},
                              {"first_one", "", "second_one * 2", ""},
                              {"second_one", "", "third_one + 1", ""},
                              {"third_one", "", "first_one", ""}}};
    inputs.book = formula::book_for({mine}, "27", "");
    Recording logged = *run(2).recording;
    logged.derived = nullptr;
    RunFormulas formulas(inputs, logged, run(2).laps, run(2).track, run(2).path);
    const Lap& third = lap(2, 3);
    const Channel *own = formulas.find("braking"), *shipped = run(2).recording->find("braking");
    ASSERT_TRUE(own != nullptr && shipped != nullptr);
    EXPECT_LT(agreement(*own, *shipped, third), 0.999);
    // The shipped formulas that use it use mine.
    EXPECT_LT(formulas.find("braking_time")->value_at(third.end_s - 0.05),
              run(2).recording->find("braking_time")->value_at(third.end_s - 0.05));
    EXPECT_EQ(formulas.find("first_one"), nullptr);
    EXPECT_NE(formulas.why_not("first_one").find("first_one → second_one → third_one → first_one"), std::string::npos)
        << formulas.why_not("first_one");
}

TEST_F(FormulaRun, TheSheetOfTheDayHolds) {
    const std::vector<CarSheet> sheets{
        {"27", "2025", "2025-03-01", {{"mass", "700", "kg"}}},
        {"27", "2026", "2026-03-01", {{"mass", "775,5", "kg"}, {"name", "club car", ""}}},
        {"27", "2027", "2027-03-01", {{"mass", "760", "kg"}}}};
    EXPECT_EQ(formula::constants_for(sheets, "27", "2026-06-13").values.at("mass").value, 775.5);
    EXPECT_EQ(formula::constants_for(sheets, "27", "2025-06-13").values.at("mass").value, 700);
    EXPECT_EQ(formula::constants_for(sheets, "27", "").values.at("mass").value, 760);
    EXPECT_TRUE(formula::constants_for(sheets, "27", "2024-06-13").values.empty());
    EXPECT_NE(formula::constants_for(sheets, "27", "2024-06-13").stale.find("2025-03-01"), std::string::npos);
    EXPECT_NE(formula::constants_for(sheets, "27", "2028-02-01").stale.find("a season before"), std::string::npos);
    EXPECT_NE(formula::constants_for(sheets, "27", "2026-06-13").unreadable.at("name").find("no number"),
              std::string::npos);
}

TEST_F(FormulaRun, MeansAtRestAreTheOffsetsThatWerePlanted) {
    std::optional<Interval> standing;
    for (const std::int64_t id : {1, 2, 3}) {
        const auto& recording = run(id).recording;
        standing = standing_range(*recording);
        if (!standing) continue;
        EXPECT_NEAR(standing->length(), 6, 1.5);
        const auto figures = figures_at_rest(*recording, {"Yaw Rate", "GPS Speed", "no such channel"}, *standing);
        ASSERT_EQ(figures.size(), 2u);
        EXPECT_NEAR(figures[0].mean, 0, 0.003);
        EXPECT_NEAR(figures[0].deviation, 0.006, 0.002);  // the noise of the sensor
        EXPECT_LT(figures[1].mean, 0.3);
        return;
    }
    FAIL() << "no run of Saturday stands still";
}

TEST_F(FormulaRun, TheLineOfLeastCurvatureStaysOnTheRoadAndBendsLess) {
    const auto surveyed = with_edges();
    const Track& track = *surveyed;
    EXPECT_TRUE(ideal_line(*run(2).track).empty());  // without edges there is none
    const auto offset = ideal_line(track);
    ASSERT_EQ(offset.size(), track.line.size());
    std::vector<Point> line;
    for (std::size_t i = 0; i < offset.size(); ++i) {
        EXPECT_LE(offset[i], track.edges.left_m[i] - 0.7) << i;
        EXPECT_GE(offset[i], -track.edges.right_m[i] + 0.7) << i;
        line.push_back(track.line[i] + Point{-track.tangent[i].y, track.tangent[i].x} * offset[i]);
    }
    const auto bending = [](const std::vector<Point>& points) {
        double sum = 0;
        const std::size_t n = points.size(), step = 5;
        for (std::size_t i = 0; i < n; ++i) {
            const Point second = points[(i + step) % n] - points[i] * 2 + points[(i + n - step) % n];
            sum += dot(second, second);
        }
        return sum;
    };
    EXPECT_LT(bending(line), 0.8 * bending(track.line));
}

}  // namespace
}  // namespace rendak
