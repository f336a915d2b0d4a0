// The session: edits that fail, what is told to have changed, what survives a crash, two windows on one library.
#include <QContextMenuEvent>
#include <QFile>
#include <QMenu>
#include <QSignalSpy>
#include <QTimer>

#include "app/jobs/wait_until.h"
#include "app/session/preferences.h"
#include "core/intake/edit_track.h"
#include "core/intake/shared_track.h"
#include "core/laps/cut.h"
#include "core/track/edit.h"
#include "tests/app/window_fixture.h"
#include "tests/support/catalogue_trap.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

class SessionTest : public WindowTest {
  protected:
    Session& session() { return *window_->workspace().session(); }
    Library& library() { return window_->workspace().library(); }
    void name_driver(const std::string& driver) {
        RunFacts before = test::got(library().run({1})), after = before;
        after.driver = driver;
        session().edit(
            QStringLiteral("driver"), [this, after] { return library().set_facts({1}, after); },
            [this, before] { return library().set_facts({1}, before); }, Change::papers);
    }
    std::string driver() { return test::got(library().run({1})).driver; }
};

TEST_F(SessionTest, AnEditThatFailsIsNoEdit) {
    const std::string before = driver();
    QSignalSpy failed(&session(), &Session::failed), told(&session(), &Session::told);
    {
        const test::CatalogueTrap trap(folder_.path(), "runs");
        name_driver("Nobody");
    }
    EXPECT_EQ(failed.count(), 1);
    EXPECT_EQ(driver(), before);
    EXPECT_EQ(session().edits().count(), 0) << "nothing to undo";
    session().undo();
    EXPECT_EQ(told.back().front().toString(), QStringLiteral("Nothing to undo."));
}

TEST_F(SessionTest, AnUndoThatFailsIsSaidAndCanBeTriedAgain) {
    const std::string before = driver();
    name_driver("Somebody");
    ASSERT_EQ(driver(), "Somebody");
    QSignalSpy failed(&session(), &Session::failed), told(&session(), &Session::told);
    {
        const test::CatalogueTrap trap(folder_.path(), "runs");
        session().undo();
    }
    EXPECT_EQ(failed.count(), 1);
    EXPECT_EQ(told.count(), 0) << "not \"Undone\"";
    EXPECT_EQ(driver(), "Somebody");
    EXPECT_TRUE(session().edits().canUndo());
    EXPECT_FALSE(session().edits().canRedo());
    session().undo();
    EXPECT_EQ(driver(), before);
    EXPECT_TRUE(session().edits().canRedo());
    session().redo();
    EXPECT_EQ(driver(), "Somebody");
}

TEST_F(SessionTest, ABackgroundUndoThatFailsLeavesTheEditUndoable) {
    const TrackState before = test::got(track_state(library(), {1}));
    const Track moved = test::got(move_start(test::got(read_track(library(), {1})), 150));
    const auto put = [](const TrackState& state) {
        return [state](Library& own, const JobContext& job) { return put_track_state(own, {1}, state, true, job); };
    };
    session().edit_in_background(QStringLiteral("start"), put(edited_state(before, moved, 150)), put(before),
                                 Change::recordings);
    settle();
    ASSERT_EQ(session().edits().count(), 1);
    QSignalSpy failed(&session(), &Session::failed), told(&session(), &Session::told);
    {
        const test::CatalogueTrap trap(folder_.path(), "tracks");
        session().undo();
        settle();
    }
    EXPECT_EQ(failed.count(), 1);
    EXPECT_EQ(told.count(), 0);
    EXPECT_TRUE(session().edits().canUndo());
    session().undo();
    settle();
    EXPECT_EQ(told.back().front().toString(), QStringLiteral("Undone: start."));
    EXPECT_EQ(test::got(track_state(library(), {1})).geojson, before.geojson);
}

TEST_F(SessionTest, WhatChangedIsToldByItsKind) {
    compare_best();
    const auto opened = laps().baseline().run;
    const auto path = laps().baseline().lap.path;
    session().edit(
        QStringLiteral("mark"),
        [this]() -> Result<void> {
            const auto mark = library().add_mark({1}, "hairpin", {100, 200});
            return mark ? Result<void>() : pass_on(mark.error());
        },
        [] { return Result<void>(); }, Change::marks);
    settle();
    EXPECT_EQ(laps().baseline().run, opened) << "a mark reopens nothing";
    RunFacts facts = opened->row;
    facts.driver = "Quist";
    const RunId run = opened->row.id;
    session().edit(
        QStringLiteral("driver"), [&] { return library().set_facts(run, facts); }, [] { return Result<void>(); },
        Change::papers);
    settle();
    EXPECT_EQ(laps().baseline().run->row.driver, "Quist");
    EXPECT_EQ(laps().baseline().lap.path, path) << "the recording stays open";
    session().note(Change::recordings);
    settle();
    EXPECT_NE(laps().baseline().lap.path, path) << "this opens it anew";
}

TEST_F(SessionTest, LapsPickedWhileFormulasAreReadComeWithThem) {
    compare_best();
    formula::FormulaSet set{"Own"};
    formula::Formula& twice = set.formulas.emplace_back();
    twice.name = "twice";
    twice.text = "speed * 2";
    ASSERT_TRUE(library().add_formula_version("Own", formula::set_to_json(set), "")) << "as another program would";
    session().note(Change::formulas);
    window_->workspace().pick_best({1});  // while they are being read
    settle();
    ASSERT_EQ(laps().laps.size(), 3u);
    for (const ComparedLap& lap : laps().laps)
        EXPECT_TRUE(lap.run->formulas->has("twice")) << "run " << lap.lap.ref.run.value;
}

TEST_F(SessionTest, WhatWasLookedAtSurvivesACrash) {
    compare_best();
    focus().set_range({700, 900});
    window_->show_desk(QStringLiteral("corners"));
    const std::string wanted = focus_to_json(state());
    EXPECT_TRUE(wait_until([&] { return Preferences::of_person().focus(folder_.path()) == wanted; }))
        << "before any window is closed";
    EXPECT_EQ(Preferences::of_person().desk(), QStringLiteral("corners"));
    QFile kept(qEnvironmentVariable("RENDAK_SETTINGS"));
    ASSERT_TRUE(kept.open(QIODevice::ReadOnly)) << "on the disk";
    EXPECT_TRUE(kept.readAll().contains("run_range_s"));
}

TEST_F(SessionTest, PreferencesArePersonalAndNotTheLibrarys) {
    window_->set_imperial(true);
    EXPECT_TRUE(Preferences::of_person().imperial());
    EXPECT_EQ(test::got(library().setting("units")), "");
    window_->set_imperial(false);
}

TEST_F(SessionTest, TwoWindowsShareALibraryAndAFocusOrHaveTheirOwn) {
    compare_best();
    const std::unique_ptr<MainWindow> same(window_->open_another(true)), own(window_->open_another(false));
    same->setAttribute(Qt::WA_DeleteOnClose, false);
    own->setAttribute(Qt::WA_DeleteOnClose, false);
    settle();
    EXPECT_EQ(&same->workspace().library(), &library());
    EXPECT_EQ(&own->workspace().library(), &library());
    EXPECT_EQ(own->workspace().focus().state().laps, state().laps) << "begins with what was looked at";
    focus().set_cursor(1234);
    EXPECT_EQ(same->workspace().focus().state().cursor_m, 1234);
    EXPECT_NE(own->workspace().focus().state().cursor_m, 1234);
    own->workspace().focus().clear_laps();
    settle();
    EXPECT_EQ(laps().laps.size(), 2u);
    EXPECT_TRUE(own->workspace().comparison().laps().empty());
    // An edit in one is seen and undone in the other.
    name_driver("Shared");
    settle();
    own->workspace().session()->undo();
    EXPECT_NE(driver(), "Shared");
    same->close();
    settle();
    EXPECT_EQ(laps().laps.size(), 2u) << "the other windows stay";
}

TEST_F(SessionTest, TheWindowFitsALaptopWithItsTitleBar) {
    EXPECT_LE(window_->minimumSizeHint().height(), 440) << "1280 x 800 at 160 % leaves 500 less the title bar";
    EXPECT_LE(window_->minimumSizeHint().width(), 800);
    const std::unique_ptr<MainWindow> fresh(window_->open_another(true));
    fresh->setAttribute(Qt::WA_DeleteOnClose, false);
    EXPECT_LE(fresh->width(), 1280);
    EXPECT_LE(fresh->height(), 740);
    EXPECT_LE(fresh->height(), fresh->screen()->availableSize().height());
    EXPECT_LE(fresh->width(), fresh->screen()->availableSize().width());
    // At the size that a small screen leaves rail and foot are whole.
    fresh->resize(800, 460);
    QApplication::processEvents();
    EXPECT_LE(fresh->height(), 460);
    for (const auto* button : fresh->findChildren<RailButton*>())
        EXPECT_LE(button->mapTo(fresh.get(), button->rect().bottomLeft()).y(), fresh->height())
            << button->text().toStdString();
    EXPECT_LE(fresh->status().mapTo(fresh.get(), QPoint(0, fresh->status().height())).y(), fresh->height());
}

TEST_F(SessionTest, AFullTraySaysSoAndKeepsItsLaps) {
    for (const Lap& lap : test::got(library().laps({2}))) {
        if (lap.complete()) window_->workspace().pick({{2}, lap.number});
    }
    for (const Lap& lap : test::got(library().laps({3}))) {
        if (lap.complete() && state().laps.size() < most_laps) window_->workspace().pick({{3}, lap.number});
    }
    settle();
    ASSERT_EQ(state().laps.size(), std::size_t(most_laps));
    const auto before = state().laps;
    QSignalSpy failed(&session(), &Session::failed);
    EXPECT_FALSE(window_->workspace().pick_best({1}));
    EXPECT_EQ(state().laps, before);
    ASSERT_EQ(failed.count(), 1);
    EXPECT_TRUE(failed.front().front().toString().contains(QStringLiteral("8 laps")));
}

TEST_F(SessionTest, ARightClickWhileALapIsAlignedReadsOnlyLapsThatAreThere) {
    compare_best();
    const RunId run = state().laps[0].run;
    for (const Lap& lap : test::got(library().laps(run))) {
        if (lap.complete() && state().laps.size() < 4) window_->workspace().pick({run, lap.number});
    }
    // The focus is ahead of the comparison now: its active slot has no lap yet.
    ASSERT_GE(state().active_slot, static_cast<int>(laps().laps.size()));
    auto& canvas = window_->desk_of<CompareDesk>().canvas();
    std::size_t lane = 0;
    while (canvas.lanes()[lane].quantity != "steering") ++lane;
    QString texts;
    QTimer::singleShot(0, [&texts] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        ASSERT_NE(menu, nullptr);
        for (const QAction* action : menu->actions()) texts += action->text() + u'\n';
        menu->close();
    });
    const QPoint at(20, canvas.lane_area(lane).center().y());
    QContextMenuEvent event(QContextMenuEvent::Mouse, at, canvas.mapToGlobal(at));
    QApplication::sendEvent(&canvas, &event);
    EXPECT_TRUE(texts.contains(QString::fromStdString(laps().laps.back().run->row.name))) << texts.toStdString();
    settle();
}

TEST_F(SessionTest, HoveringComputesNothing) {
    compare_best();
    auto& map = window_->desk_of<CompareDesk>().map();
    map.set_paint({.quantity = "combined_g"});
    window_->workspace().jobs().cancel_all();
    settle();
    const auto& run = laps().baseline().run;
    if (run->formulas->ready("combined_g")) GTEST_SKIP() << "computed before it could be cancelled";
    const auto& lap = laps().baseline().lap;
    for (double s = 0; s < lap.map.length_m(); s += 200) {
        const QPoint at = map.to_pixel(lap.position_at(s)).toPoint();
        QTest::mouseMove(&map, at);
        (void)map.grab();
        EXPECT_TRUE(map.hover_text().contains(QStringLiteral("\u2009m"))) << map.hover_text().toStdString();
    }
    EXPECT_FALSE(run->formulas->ready("combined_g")) << "neither the pointer nor the paint may compute it";
}

}  // namespace
}  // namespace rendak::app
