#include "core/analysis/corner_figure.h"

#include <gtest/gtest.h>

#include <cmath>
#include <set>
#include <string>

#include "core/intake/run_data.h"
#include "core/library/run_fields.h"
#include "tests/support/demo_data.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::got;

namespace {

std::size_t figure(std::string_view id) {
    const auto all = all_corner_figures();
    for (std::size_t k = 0; k < all.size(); ++k) {
        if (id == all[k].id) return k;
    }
    throw std::runtime_error("no such figure");
}

}  // namespace

TEST(CornerFigures, AreWhatTheLapDidInTheCorner) {
    const test::TempFolder folder;
    test::copy_library(test::saturday_library(), folder.path());
    const auto library = got(Library::open(folder.path()));
    const auto run = got(load_run(*library, {3}));
    std::vector<PreparedLap> laps;
    for (RunLap& it : complete_laps(*run)) laps.push_back(std::move(it.lap));
    ASSERT_GT(laps.size(), 3u);
    const CornerPeaks peaks = corner_peaks(laps);
    const auto table = corner_figure_table(laps, peaks);
    ASSERT_EQ(table.size(), laps.size());
    int braked = 0;
    for (std::size_t l = 0; l < laps.size(); ++l) {
        double inside = 0;
        ASSERT_EQ(table[l].size(), peaks.corners.size());
        const auto events = corner_events(laps[l]);
        for (std::size_t c = 0; c < peaks.corners.size(); ++c) {
            const Corner& corner = peaks.corners[c].corner;
            const auto& of = table[l][c];
            EXPECT_EQ(of[figure("peak_mps2")], peaks.laps[l][c].peak_mps2);
            // Where the receiver saw nothing there is no speed, and no figure of it.
            const double entry = laps[l].value_at("speed", corner.start_m);
            EXPECT_EQ(std::isfinite(of[figure("entry_mps")]), std::isfinite(entry));
            if (std::isfinite(entry)) {
                EXPECT_NEAR(of[figure("entry_mps")], entry, 1e-12);
                EXPECT_LE(of[figure("slowest_mps")], entry + 1e-6);
            }
            if (std::isfinite(of[figure("exit_mps")]))
                EXPECT_LE(of[figure("slowest_mps")], of[figure("exit_mps")] + 1e-6);
            EXPECT_GT(of[figure("time_s")], 0.2);
            inside += of[figure("time_s")];
            EXPECT_EQ(std::isfinite(of[figure("brake_peak_mps2")]), events[c].brake_on_m.has_value());
            EXPECT_GE(of[figure("brake_s")], 0);
            EXPECT_EQ(of[figure("brake_s")] > 0, events[c].brake_on_m.has_value());
            EXPECT_GE(of[figure("coasting_s")], 0);
            const double touch = of[figure("throttle_touch_behind_apex_m")],
                         full = of[figure("full_for_good_behind_apex_m")];
            if (std::isfinite(touch) && std::isfinite(full) && events[c].brake_on_m) EXPECT_LE(touch, full + 3);
            const double brakes = of[figure("brake_before_apex_m")];
            EXPECT_EQ(std::isfinite(brakes), events[c].brake_on_m.has_value());
            if (std::isfinite(brakes)) {
                ++braked;
                EXPECT_NEAR(corner.apex_m - brakes, *events[c].brake_on_m, 1e-9);
            }
        }
        EXPECT_LT(inside, laps[l].time_s());
    }
    EXPECT_GT(braked, static_cast<int>(laps.size())) << "he brakes somewhere";
}

TEST(CornerFigures, HaveNamesOfTheirOwn) {
    std::set<std::string> ids, labels;
    for (const CornerFigure& it : all_corner_figures()) {
        EXPECT_TRUE(ids.insert(it.id).second) << it.id;
        EXPECT_TRUE(labels.insert(it.label).second) << it.label;
        EXPECT_NE(it.quantity[0] == '\0', it.unit[0] == '\0') << it.id << " is shown one way";
    }
}

TEST(RunFields, AreKeptReadAndChangedAlike) {
    const test::TempFolder folder;
    test::copy_library(test::saturday_library(), folder.path());
    const auto library = got(Library::open(folder.path()));
    RunFacts facts = got(library->run({1}));
    int number = 3;
    for (const RunField& field : all_run_fields()) {
        if (field.is_text())
            facts.*field.text = "words of " + std::string(field.id);
        else
            facts.*field.number = ++number + 0.5;
    }
    ASSERT_TRUE(library->set_facts({1}, facts));
    const RunRow row = got(library->run({1}));
    EXPECT_EQ(static_cast<const RunFacts&>(row), facts);
    for (const RunField& field : all_run_fields()) {
        if (!field.is_text()) facts.*field.number = std::nullopt;
    }
    ASSERT_TRUE(library->set_facts({1}, facts));
    EXPECT_EQ(static_cast<const RunFacts&>(got(library->run({1}))), facts);
}
