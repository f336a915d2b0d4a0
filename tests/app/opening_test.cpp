// How the window is put together: what it costs, how wide it must be, and where the Tab key goes.
#include <QToolButton>
#include <atomic>
#include <map>
#include <thread>

#include "app/jobs/wait_until.h"
#include "app/shell/foot_line.h"
#include "app/shell/lap_tray.h"
#include "app/shell/rail.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

/// Counts how often each widget is told that its style changed.
class StyleCount : public QObject {
  public:
    bool eventFilter(QObject* of, QEvent* event) override {
        if (event->type() == QEvent::StyleChange && of->isWidgetType()) ++times[of];
        return false;
    }
    std::map<QObject*, int> times;
};

TEST_F(WindowTest, NoWidgetIsStyledAgainAndAgainWhileItOpens) {
    window_.reset();
    StyleCount count;
    qApp->installEventFilter(&count);
    open_window();
    qApp->removeEventFilter(&count);
    int most = 0, all = 0;
    QObject* worst = nullptr;
    for (const auto& [of, times] : count.times) {
        all += times;
        if (times <= most) continue;
        most = times;
        worst = of;
    }
    const auto widgets = window_->findChildren<QWidget*>();
    ASSERT_TRUE(worst == nullptr || widgets.contains(worst));
    // One move of the whole into another parent makes five of it, and 2.5 a widget.
    EXPECT_LE(most, 4) << (worst == nullptr ? "" : worst->metaObject()->className());
    EXPECT_LE(all, 2 * widgets.size()) << "for " << widgets.size() << " widgets";
}

TEST_F(WindowTest, NoDeskThatIsOutOfSightMakesTheWindowWider) {
    for (Desk* desk : window_->desks())
        EXPECT_LE(desk->minimumSizeHint().width(), 930) << desk->metaObject()->className();
}

TEST_F(WindowTest, TheDeskStaysAsHighWhileAJobRuns) {
    window_->resize(1280, 800);
    window_->show();
    ASSERT_TRUE(wait_until([&] { return window_->workspace().jobs().idle(); }));
    auto* foot = window_->findChild<FootLine*>();
    const int before = foot->height();
    std::atomic<bool> go_on{false};
    window_->workspace().jobs().run<int>(
        QStringLiteral("Looking at all of it"),
        [&](const JobContext& job) -> Result<int> {
            job.report(0.4);
            while (!go_on && !job.stopped()) std::this_thread::yield();
            return 1;
        },
        [](const Result<int>&) {});
    QToolButton* cancel = nullptr;
    for (auto* it : foot->findChildren<QToolButton*>()) {
        if (it->text() == QStringLiteral("Cancel")) cancel = it;
    }
    ASSERT_NE(cancel, nullptr);
    EXPECT_TRUE(wait_until([&] { return cancel->isVisible(); }));
    QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest);
    EXPECT_EQ(foot->height(), before);
    EXPECT_GE(cancel->height(), QFontMetrics(cancel->font()).height()) << "its word has room";
    keep_picture(foot, QStringLiteral("foot-with-a-job"));
    go_on = true;
    EXPECT_TRUE(wait_until([&] { return window_->workspace().jobs().idle(); }));
}

TEST_F(WindowTest, TabGoesFromTheRailOverTheTrayAndTheDeskToTheFoot) {
    std::vector<QWidget*> chain;
    for (QWidget* it = window_->nextInFocusChain(); it != window_.get(); it = it->nextInFocusChain())
        chain.push_back(it);
    const auto places = [&](QWidget* in) {
        std::vector<std::size_t> out;
        for (std::size_t i = 0; i < chain.size(); ++i) {
            if (chain[i] == in || in->isAncestorOf(chain[i])) out.push_back(i);
        }
        return out;
    };
    auto* rail = window_->findChild<Rail*>();
    auto* tray = window_->findChild<LapTray*>();
    auto* foot = window_->findChild<FootLine*>();
    ASSERT_TRUE(rail != nullptr && tray != nullptr && foot != nullptr);
    std::size_t after = places(rail).back();
    EXPECT_EQ(after, places(rail).front() + places(rail).size() - 1) << "its buttons follow each other";
    EXPECT_LT(after, places(tray).front());
    after = places(tray).front();
    for (Desk* desk : window_->desks()) {
        EXPECT_LT(after, places(desk).front()) << desk->metaObject()->className();
        after = places(desk).front();
    }
    EXPECT_LT(after, places(foot).front());
}

}  // namespace
}  // namespace rendak::app
