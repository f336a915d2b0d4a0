// The comparison behind the views: what they want is there when it can be, nothing is computed for nobody.
#include <QSignalSpy>

#include "app/jobs/wait_until.h"
#include "app/text/shown.h"
#include "core/intake/channel_edits.h"
#include "core/laps/cut.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

using test::got;

class ComparisonTest : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::saturday_library(), folder_.path());
        session_ = std::make_shared<Session>(got(Library::open(folder_.path())));
        selection_ = std::make_unique<Selection>(*session_);
    }
    void settle() {
        ASSERT_TRUE(wait_until([this] { return session_->jobs().idle() && !comparison().busy(); }, 600));
    }
    Comparison& comparison() { return selection_->comparison(); }
    Focus& focus() { return selection_->focus(); }

    test::TempFolder folder_;
    std::shared_ptr<Session> session_;
    std::unique_ptr<Selection> selection_;
};

TEST_F(ComparisonTest, TracesOfWhatIsWantedComeWithTheLaps) {
    QObject view;
    comparison().want(&view, {"speed", "gap", "engine_speed"});
    selection_->pick_best({2});
    selection_->pick_best({3});
    QSignalSpy changed(&comparison(), &Comparison::changed);
    ASSERT_TRUE(wait_until([this] { return comparison().laps().laps.size() == 2; }, 600));
    for (int slot = 0; slot < 2; ++slot) {
        EXPECT_FALSE(comparison().trace(slot, "speed").empty()) << "at once with the laps";
        EXPECT_FALSE(comparison().trace(slot, "gap").empty());
        EXPECT_TRUE(comparison().trace(slot, "throttle").empty()) << "nobody has asked for it";
    }
    const PreparedLap& a = comparison().laps().baseline().lap;
    const Trace expected = trace_of(a, "speed", Axis::distance);
    EXPECT_EQ(comparison().trace(0, "speed").y, expected.y);
    settle();
}

TEST_F(ComparisonTest, AChannelThatNobodyKnowsIsDrawnUnderItsOwnName) {
    ASSERT_TRUE(edit_channels(session_->library(), {2}, {{"Oil Pressure", ""}}));
    selection_->pick_best({2});
    settle();
    const auto run = comparison().laps().baseline().run;
    const auto channels = shown_channels(std::vector{run});
    const auto is = [](const char* id) { return [id](const ShownChannel& it) { return it.id == id; }; };
    EXPECT_TRUE(std::none_of(channels.begin(), channels.end(), is("oil_pressure")));
    ASSERT_TRUE(std::any_of(channels.begin(), channels.end(), is("channel:Oil Pressure")));
    QObject view;
    comparison().want(&view, {"channel:Oil Pressure"});
    settle();
    EXPECT_TRUE(comparison().ready("channel:Oil Pressure"));
    EXPECT_FALSE(comparison().trace(0, "channel:Oil Pressure").empty());
    EXPECT_EQ(shown("channel:Oil Pressure").label, QStringLiteral("Oil Pressure"));
    EXPECT_FALSE(std::isnan(comparison().laps().baseline().lap.value_at("channel:Oil Pressure", 500)));
    EXPECT_EQ(run->recording->find("channel:No Such Thing"), nullptr);
}

TEST_F(ComparisonTest, AFormulaIsComputedForWhoWantsItAndToldWhenItIsThere) {
    selection_->pick_best({2});
    settle();
    const auto run = comparison().laps().baseline().run;
    EXPECT_FALSE(run->formulas->ready("combined_g"));
    EXPECT_FALSE(comparison().ready("combined_g"));
    EXPECT_TRUE(comparison().offers("combined_g"));
    EXPECT_FALSE(comparison().offers("no_such_thing"));
    {
        QObject view;
        QSignalSpy changed(&comparison(), &Comparison::changed);
        comparison().want(&view, {"combined_g"});
        EXPECT_TRUE(comparison().trace(0, "combined_g").empty()) << "never in the middle of the caller";
        settle();
        EXPECT_GT(changed.count(), 0);
        EXPECT_FALSE(comparison().trace(0, "combined_g").empty());
    }
    // The view is gone: another axis computes nothing for it.
    focus().set_axis(Axis::time);
    settle();
    EXPECT_TRUE(comparison().trace(0, "combined_g").empty());
}

TEST_F(ComparisonTest, EveryAxisHasItsOwnTraces) {
    QObject view, map;
    comparison().want(&view, {"speed"});
    comparison().want(&map, {"brake_front"}, Axis::distance);
    selection_->pick_best({2});
    settle();
    const double length = comparison().laps().length_m(), time = comparison().laps().baseline().lap.time_s();
    EXPECT_NEAR(comparison().trace(0, "speed").x.back(), length, 0.1);
    focus().set_axis(Axis::time);
    settle();
    EXPECT_NEAR(comparison().trace(0, "speed").x.back(), time, 1e-3);
    EXPECT_NEAR(comparison().trace(0, "brake_front", Axis::distance).x.back(), length, 0.1)
        << "a map is painted by place whatever the axis";
    EXPECT_TRUE(comparison().trace(0, "brake_front").empty());
    focus().set_axis(Axis::run);
    settle();
    EXPECT_NE(comparison().trace(0, "speed").whole, nullptr);
    focus().set_axis(Axis::distance);
    EXPECT_NEAR(comparison().trace(0, "speed").x.back(), length, 0.1) << "what was there before needs no work";
}

TEST_F(ComparisonTest, LapsThatStayAreNotAlignedAgain) {
    selection_->pick_best({2});
    settle();
    const auto path = comparison().laps().baseline().lap.path;
    selection_->pick_best({3});
    settle();
    ASSERT_EQ(comparison().laps().laps.size(), 2u);
    EXPECT_EQ(comparison().laps().baseline().lap.path, path);
    session_->note(Change::formulas);
    settle();
    EXPECT_EQ(comparison().laps().baseline().lap.path, path) << "formulas move no car";
    session_->note(Change::marks);
    EXPECT_FALSE(comparison().busy()) << "a mark starts nothing";
    session_->note(Change::recordings);
    EXPECT_TRUE(comparison().busy());
    EXPECT_EQ(comparison().laps().laps.size(), 2u) << "what is shown stays until it is replaced";
    settle();
    EXPECT_NE(comparison().laps().baseline().lap.path, path);
}

TEST_F(ComparisonTest, TheNewestChoiceIsTheOneThatIsShown) {
    std::vector<LapRef> all;
    for (const std::int64_t run : {1, 2, 3}) {
        for (const Lap& lap : got(session_->library().laps({run}))) {
            if (lap.complete()) all.push_back({{run}, lap.number});
        }
    }
    ASSERT_GT(all.size(), 10u);
    for (std::size_t i = 0; i < all.size(); ++i) {
        FocusState state = focus().state();
        state.laps = {all[i], all[(i + 3) % all.size()]};
        focus().set_state(state);
        if (i % 3 == 0) QApplication::processEvents();
    }
    settle();
    ASSERT_EQ(comparison().laps().laps.size(), 2u);
    EXPECT_EQ(comparison().laps().laps[0].lap.ref, all.back());
    EXPECT_EQ(comparison().laps().laps[1].lap.ref, all[2]);
    EXPECT_EQ(focus().state().laps, comparison().laps().wanted);
}

TEST_F(ComparisonTest, ALapThatCannotBeComparedIsSaidAndLeavesTheTray) {
    focus().add_lap({{2}, 4});
    focus().add_lap({{2}, 99});
    focus().add_lap({{77}, 1});
    settle();
    EXPECT_EQ(focus().state().laps, (std::vector<LapRef>{{{2}, 4}}));
    EXPECT_TRUE(comparison().laps().on_track()) << "what is not there takes no places away";
    ASSERT_EQ(comparison().laps().problems.size(), 2u);
    EXPECT_TRUE(comparison().laps().problems[0].contains(QStringLiteral("no such lap")));
    EXPECT_TRUE(comparison().laps().problems[1].startsWith(QStringLiteral("Run 77")));
}

TEST_F(ComparisonTest, TheFastestIsAWhenThatIsWanted) {
    selection_->pick_best({3});
    selection_->pick_best({2});
    settle();
    EXPECT_EQ(comparison().laps().laps[0].lap.ref.run, RunId{3});
    focus().set_fastest_is_a(true);
    settle();
    EXPECT_EQ(comparison().laps().laps[0].lap.ref.run, RunId{2});
    EXPECT_TRUE(comparison().laps().laps[0].differences.empty());
    EXPECT_FALSE(comparison().laps().laps[1].differences.empty());
    EXPECT_NEAR(comparison().laps().laps[1].gap.gap_s.back(),
                comparison().laps().laps[1].lap.time_s() - comparison().laps().laps[0].lap.time_s(), 1e-6);
}

TEST_F(ComparisonTest, AWorkerThatThrowsTellsAnError) {
    QSignalSpy failed(session_.get(), &Session::failed);
    session_->edit_in_background(
        QStringLiteral("impossible"),
        [](Library&, const JobContext&) -> Result<void> { throw std::runtime_error("a bug"); },
        [](Library&, const JobContext&) { return Result<void>(); }, Change::papers);
    settle();
    ASSERT_EQ(failed.count(), 1);
    EXPECT_TRUE(failed.front().front().toString().contains(QStringLiteral("a bug")));
    EXPECT_FALSE(session_->is_editing());
    EXPECT_EQ(session_->edits().count(), 0);
}

TEST_F(ComparisonTest, WhoGoesAwayIsNotTold) {
    int told = 0;
    {
        Latest work(session_->jobs());
        work.run<int>(
            QStringLiteral("first"), [](const JobContext&) -> Result<int> { return 1; },
            [&](const Result<int>&) { ++told; });
        work.run<int>(
            QStringLiteral("second"), [](const JobContext&) -> Result<int> { return 2; },
            [&](const Result<int>& result) { told += 10 * *result; });
        EXPECT_TRUE(work.running());
        settle();
        EXPECT_FALSE(work.running());
        EXPECT_EQ(told, 20) << "only the newest";
        work.run<int>(
            QStringLiteral("third"), [](const JobContext&) -> Result<int> { return 3; },
            [&](const Result<int>&) { told = -1; });
    }
    settle();
    EXPECT_EQ(told, 20);
}

}  // namespace
}  // namespace rendak::app
