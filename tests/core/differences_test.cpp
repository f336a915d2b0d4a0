#include <gtest/gtest.h>

#include "core/analysis/run_differences.h"
#include "core/analysis/sheet_difference.h"

using namespace rendak;

TEST(SheetDifference, ValuesAreComparedAsPeopleMeanThem) {
    const std::vector<SheetValue> before{
        {"Rear wing", "9", "°"}, {"Spring front", "80", "N/mm"}, {"Ducts", "closed", ""}, {"Packers", "2", "mm"}};
    const std::vector<SheetValue> after{{"rear_wing", "5", "°"},
                                        {"Spring Front", "80.0", "N/mm"},
                                        {"Ducts", "open", ""},
                                        {"Third spring", "30", "N/mm"}};
    const auto differences = sheet_differences(before, after);
    ASSERT_EQ(differences.size(), 4U) << "80 and 80.0 are the same";
    EXPECT_EQ(changes_text(differences),
              "rear_wing 9 to 5 °; Ducts closed to open; Third spring 30 N/mm (new); Packers 2 mm taken out");
    EXPECT_TRUE(sheet_differences(before, before).empty());
    const std::vector<SheetValue> other_unit{{"Rear wing", "9", "mm"}};
    EXPECT_EQ(sheet_differences({&before[0], 1}, other_unit).size(), 1U) << "another unit is a difference";
}

TEST(RunDifferences, NotedChangesStandInForMissingSheets) {
    RunRow a, b;
    a.start_unix_s = 1000;
    b.start_unix_s = 1000 + 2.5 * 3600;
    a.driver = b.driver = "Osei";
    a.tyre_set = b.tyre_set = "C1";
    a.tyre_laps = 4;
    b.tyre_laps = 12;
    a.fuel_l = 30;
    b.fuel_l = 31;
    b.changes = "less wing; ducts open ;";
    const auto forwards = differences_between(a, b, {}, {});
    EXPECT_EQ(forwards.changes, (std::vector<std::string>{"less wing", "ducts open"}));
    EXPECT_TRUE(forwards.confounded());
    EXPECT_EQ(forwards.others, (std::vector<std::string>{"tyres 8 laps older", "2.5 h later (track and air)"}));
    const auto backwards = differences_between(b, a, {}, {});
    EXPECT_EQ(backwards.changes, forwards.changes) << "the later run's note, whichever is the baseline";
    EXPECT_EQ(backwards.others[0], "tyres 8 laps younger");
    const std::vector<SheetValue> sheet{{"Wing", "5", "°"}};
    EXPECT_TRUE(differences_between(a, b, sheet, sheet).changes.empty()) << "sheets are believed before notes";
    EXPECT_TRUE(differences_between(a, a, {}, {}).empty());
}
