// A library on a slow disk: whoever opens recordings waits, the window does not.
#include <QElapsedTimer>
#include <QLineEdit>
#include <QMenu>
#include <condition_variable>
#include <mutex>
#include <thread>

#include "core/recording/recording_file.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

/// Holds everybody who opens a recording until it is let go, and remembers whether the GUI thread was among them.
class SlowDisk {
  public:
    SlowDisk() {
        set_opening_hook([this, gui = std::this_thread::get_id()](const std::filesystem::path&) {
            std::unique_lock lock(mutex_);
            ++opened_;
            if (std::this_thread::get_id() == gui) {
                by_gui_ = true;  // held it would hang for ever
                return;
            }
            free_.wait(lock, [this] { return !held_; });
        });
    }
    ~SlowDisk() {
        let_go();
        set_opening_hook({});
    }
    void let_go() {
        const std::scoped_lock lock(mutex_);
        held_ = false;
        free_.notify_all();
    }
    [[nodiscard]] bool asked_by_gui() {
        const std::scoped_lock lock(mutex_);
        return by_gui_;
    }
    [[nodiscard]] int opened() {
        const std::scoped_lock lock(mutex_);
        return opened_;
    }

  private:
    std::mutex mutex_;
    std::condition_variable free_;
    bool held_ = true, by_gui_ = false;
    int opened_ = 0;
};

class SlowLibraryTest : public WindowTest {
  protected:
    /// The window answers clicks, keys and paints while recordings wait to be opened.
    void expect_alive() {
        for (const DeskKind& kind : all_desks()) {
            window_->show_desk(QString::fromLatin1(kind.id));
            QApplication::processEvents();
            EXPECT_EQ(window_->desk(), QString::fromLatin1(kind.id));
            EXPECT_FALSE(window_->grab().isNull());
        }
        window_->show_desk(QStringLiteral("logbook"));
        auto* filter = window_->findChild<QLineEdit*>(QStringLiteral("filter"));
        QTest::keyClicks(filter, QStringLiteral("osei"));
        EXPECT_EQ(filter->text(), QStringLiteral("osei"));
        EXPECT_EQ(window_->desk_of<LogbookDesk>().run_list().runs_below({}).size(), 1u);
        filter->clear();
    }
};

TEST_F(SlowLibraryTest, PickingLapsKeepsTheWindowAlive) {
    SlowDisk disk;
    window_->workspace().pick_best({2});
    window_->workspace().pick_best({3});
    expect_alive();
    EXPECT_TRUE(window_->workspace().comparison().busy());
    EXPECT_TRUE(laps().empty());
    disk.let_go();
    settle();
    EXPECT_EQ(laps().laps.size(), 2u);
    EXPECT_GT(disk.opened(), 0);
    EXPECT_FALSE(disk.asked_by_gui());
}

TEST_F(SlowLibraryTest, NothingOnTheDesksOpensRecordingsItself) {
    compare_best();
    SlowDisk disk;
    disk.let_go();
    // Everything that looks at opened laps or at runs: lanes, paint, tidy, corners, track, formulas, sheets.
    auto& compare = window_->desk_of<CompareDesk>();
    compare.canvas().set_lanes({{"speed", 1}, {"combined_g", 1}, {"understeer_angle", 1}});
    compare.set_paint({.quantity = "combined_g"});
    (void)window_->grab();
    focus().set_axis(Axis::run);
    (void)window_->grab();
    focus().set_axis(Axis::distance);
    window_->show_desk(QStringLiteral("logbook"));
    auto& logbook = window_->desk_of<LogbookDesk>();
    for (const auto tab :
         {LogbookDesk::tidy_tab, LogbookDesk::facts_tab, LogbookDesk::setup_tab, LogbookDesk::laps_tab}) {
        logbook.show_tab(tab);
        for (const std::int64_t run : {1, 2, 3}) logbook.select_run({run});
    }
    settle();
    window_->show_desk(QStringLiteral("corners"));
    window_->desk_of<CornersDesk>().show_channel("combined_g");
    window_->show_desk(QStringLiteral("track"));
    window_->desk_of<TrackDesk>().set_place(900);
    window_->desk_of<TrackDesk>().learn_height_and_banking();
    settle();
    window_->show_desk(QStringLiteral("formulas"));
    window_->desk_of<FormulasDesk>().show_formula(QStringLiteral("damper_speed_rr"));
    settle();
    window_->workspace().library_changed();
    settle();
    EXPECT_GT(disk.opened(), 0) << "the hook is there";
    EXPECT_FALSE(disk.asked_by_gui());
}

}  // namespace
}  // namespace rendak::app
