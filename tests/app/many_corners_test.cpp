// Desks on a circuit of thirty corners that nobody tuned anything to.
#include <QScrollArea>

#include "core/intake/import.h"
#include "demo/sensors.h"
#include "tests/app/window_fixture.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"
#include "tests/support/made_world.h"

namespace rendak::app {
namespace {

using test::got;

TEST_F(WindowTest, ThirtyCornersAreToldListedAndReached) {
    RENDAK_FIGURES_ONLY("StoryTest and BesideTest");
    const test::MadeWorld world(23, 9500, 18);
    Library& library = window_->workspace().library();
    (void)got(library.put_track(world.track()->name, world.track()->length_m, track_to_geojson(*world.track())));
    std::vector<RunId> runs;
    for (const double grip : {0.975, 0.95}) {
        demo::RunPlan plan = test::MadeWorld::plan(5, runs.empty() ? 71 : 72, 0.6);
        plan.grip_use = grip;
        const demo::Drive drive = demo::drive_run(world.circuit(), plan.car, plan);
        ImportOptions options;
        options.name = runs.empty() ? "First" : "Second";
        options.driver = runs.empty() ? "Osei" : "Brandvold";
        options.event = "Many corners";
        runs.push_back(
            got(import_recording(library, {demo::main_logger(world.circuit(), plan.car, plan, drive), {}}, options))
                .run);
    }
    window_->workspace().library_changed();
    settle();
    for (const RunId run : runs) window_->workspace().pick_best(run);
    window_->show_desk(QStringLiteral("compare"));
    auto& compare = window_->desk_of<CompareDesk>();
    compare.beside().show_picture(Beside::Picture::ledger);
    compare.beside().story().take(LapsTaken::counting);
    settle();
    ASSERT_GE(laps().track().corners.size(), 28U);
    const Ledger* ledger = compare.beside().ledger().ledger();
    ASSERT_NE(ledger, nullptr);
    double sum_s = 0;
    for (const LedgerRow& row : ledger->rows) sum_s += row.loss_s;
    EXPECT_NEAR(sum_s, ledger->total_s, 1e-6);
    keep_picture(window_.get(), QStringLiteral("thirty-ledger"));
    // Every row has a place of its own, and the last one can be scrolled to.
    LedgerPicture& picture = compare.beside().ledger();
    for (std::size_t k = 1; k < ledger->rows.size(); ++k)
        EXPECT_FALSE(picture.area_of(k).intersects(picture.area_of(k - 1))) << k;
    QWidget* up = picture.parentWidget();
    while (up != nullptr && qobject_cast<QScrollArea*>(up) == nullptr) up = up->parentWidget();
    ASSERT_NE(up, nullptr);
    const QRect last = picture.area_of(ledger->rows.size() - 1);
    static_cast<QScrollArea*>(up)->ensureVisible(last.center().x(), last.center().y());
    EXPECT_FALSE(picture.visibleRegion().intersected(last).isEmpty());
    compare.beside().show_picture(Beside::Picture::card);
    settle();
    keep_picture(window_.get(), QStringLiteral("thirty-card"));
    compare.beside().show_picture(Beside::Picture::work);
    settle();
    keep_picture(window_.get(), QStringLiteral("thirty-work"));
    window_->show_desk(QStringLiteral("corners"));
    settle();
    keep_picture(window_.get(), QStringLiteral("thirty-corners"));
    window_->resize(1000, 620);
    settle();
    keep_picture(window_.get(), QStringLiteral("thirty-corners-small"));
    window_->show_desk(QStringLiteral("compare"));
    settle();
    keep_picture(window_.get(), QStringLiteral("thirty-small"));
    // No desk is wider than the smallest window, whatever another one shows.
    for (Desk* desk : window_->desks())
        EXPECT_LE(desk->minimumSizeHint().width(), 930) << desk->metaObject()->className();
}

}  // namespace
}  // namespace rendak::app
