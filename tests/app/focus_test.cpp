#include "app/focus/focus.h"

#include <gtest/gtest.h>

#include <QSignalSpy>

using namespace rendak;
using namespace rendak::app;

namespace {

const LapRef a{{1}, 1}, b{{1}, 2}, c{{2}, 5};

}  // namespace

TEST(Focus, TellsOnlyWhatChanged) {
    Focus focus;
    QSignalSpy laps(&focus, &Focus::laps_changed), range(&focus, &Focus::range_changed),
        cursor(&focus, &Focus::cursor_changed);
    focus.set_cursor(12);
    focus.set_cursor(12);
    EXPECT_EQ(cursor.count(), 1);
    focus.set_range({10, 20});
    EXPECT_EQ(range.count(), 1);
    EXPECT_EQ(laps.count(), 0);
    focus.add_lap(a);
    EXPECT_EQ(laps.count(), 1);
    focus.add_lap(a);
    EXPECT_EQ(laps.count(), 1) << "a lap that is in already changes nothing";
}

TEST(Focus, TheRangeStaysWhenLapsChange) {
    Focus focus;
    focus.add_lap(a);
    focus.set_range({100, 400});
    focus.add_lap(b);
    focus.replace_slot(1, c);
    focus.remove_slot(0);
    EXPECT_EQ(focus.state().range_m, (Interval{100, 400}));
    ASSERT_EQ(focus.state().laps.size(), 1U);
    EXPECT_EQ(focus.state().laps[0], c);
}

TEST(Focus, BaselineSwapsAndIsPinned) {
    Focus focus;
    for (const LapRef lap : {a, b, c}) focus.add_lap(lap);
    focus.set_fastest_is_a(true);
    focus.make_baseline(2);
    EXPECT_EQ(focus.state().laps, (std::vector<LapRef>{c, b, a}));
    EXPECT_FALSE(focus.state().fastest_is_a) << "chosen by hand: it stays";
}

TEST(Focus, EightLapsAtMost) {
    Focus focus;
    for (int i = 0; i < 12; ++i) EXPECT_EQ(focus.add_lap({{7}, i}), i < 8);
    EXPECT_EQ(focus.state().laps.size(), 8U);
    EXPECT_EQ(focus.state().laps.back().lap, 7) << "none is replaced unasked";
    EXPECT_TRUE(focus.add_lap({{7}, 2})) << "one that is in is chosen";
    EXPECT_EQ(focus.state().active_slot, 2);
}

TEST(Focus, ShiftsOfWholeRunsAreTold) {
    Focus focus;
    int told = 0;
    QObject::connect(&focus, &Focus::laps_changed, &focus, [&told] { ++told; });
    focus.set_shift({4}, 2.5);
    focus.set_shift({4}, 2.5);
    EXPECT_EQ(told, 1) << "what stays is not told";
    EXPECT_EQ(focus.state().shifts_s.at({4}), 2.5);
    // Written before shifts were known: read all the same.
    FocusState state = focus.state();
    std::string text = focus_to_json(state);
    text.replace(text.find(",\"shifts_s\""), std::string::npos, "}");
    state.shifts_s.clear();
    EXPECT_EQ(focus_from_json(text), state);
}

TEST(Focus, StateSurvivesJson) {
    FocusState state;
    state.laps = {a, c};
    state.active_slot = 1;
    state.range_m = {123.25, 456.5};
    state.cursor_m = 200.125;
    state.axis = Axis::time;
    const auto back = focus_from_json(focus_to_json(state));
    ASSERT_TRUE(back);
    EXPECT_EQ(*back, state);
    for (const char* bad : {"", "{}", "[1]", "{\"laps\":[[1]]}"}) EXPECT_FALSE(focus_from_json(bad)) << bad;
}

TEST(Focus, WhatIsSlidBelongsToALapThatIsLookedAt) {
    Focus focus;
    for (const LapRef lap : {a, b, c}) focus.add_lap(lap);
    QSignalSpy slid(&focus, &Focus::slid_changed), laps(&focus, &Focus::laps_changed);
    focus.slide(b, 12.5);
    focus.slide(b, 12.5);
    EXPECT_EQ(slid.count(), 1);
    EXPECT_EQ(laps.count(), 0) << "nothing is aligned anew for it";
    focus.slide(c, -3);
    EXPECT_EQ(focus.state().slid_m, (std::map<LapRef, double>{{b, 12.5}, {c, -3}}));
    focus.slide(a, 5);
    EXPECT_FALSE(focus.state().slid_m.contains(a)) << "the baseline lies where it was driven";
    const auto back = focus_from_json(focus_to_json(focus.state()));
    ASSERT_TRUE(back);
    EXPECT_EQ(*back, focus.state());
    focus.make_baseline(1);
    EXPECT_EQ(focus.state().slid_m, (std::map<LapRef, double>{{c, -3}}));
    focus.remove_slot(2);
    EXPECT_TRUE(focus.state().slid_m.empty());
    focus.slide(a, 2);
    EXPECT_EQ(focus.state().slid_m.size(), 1U) << "no longer the baseline";
    focus.slide(a, 0);
    EXPECT_TRUE(focus.state().slid_m.empty());
    focus.slide({{9}, 9}, 4);
    EXPECT_TRUE(focus.state().slid_m.empty()) << "a lap that is not picked";
    // A state that was kept before there was such a thing.
    std::string older = focus_to_json(focus.state());
    older.erase(older.find(",\"slid_m\""), std::string(",\"slid_m\":[]").size());
    EXPECT_TRUE(focus_from_json(older)) << older;
}
