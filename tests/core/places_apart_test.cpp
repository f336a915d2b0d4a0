// A run whose positions come late or early beside its other channels: nothing of its own tells, the others on the road
// do.
#include "core/intake/places_apart.h"

#include <gtest/gtest.h>

#include <cmath>

#include "core/intake/place_run.h"
#include "core/intake/run_data.h"
#include "core/intake/run_recording.h"
#include "tests/support/demo_data.h"
#include "tests/support/figures_only.h"
#include "tests/support/got.h"

using namespace rendak;
using test::got;

namespace {

/// A run of the weekend, with its positions so many seconds later than they were logged.
struct Asked {
    std::shared_ptr<Library> library = got(Library::open(test::weekend_library(), Library::Open::existing));
    RunRow row;
    std::vector<RunRow> others;
    PlaceCorrection correction;
    explicit Asked(std::int64_t id) : row(got(library->run({id}))), correction(got(library->place_correction({id}))) {
        // Saturday's runs: on the long ones of Sunday drivers brake elsewhere.
        for (const std::int64_t other : {1, 2, 3}) others.push_back(got(library->run({other})));
    }
    [[nodiscard]] std::optional<PlacesApart> with_places_later(double delay_s,
                                                               const std::vector<RunRow>& held_against) const {
        const auto run = got(load_run(*library, row.id));
        Recording late = *run->recording;
        for (Channel& channel : late.channels) {
            // The speed is another sensor's here: a receiver that is late with both tells nothing.
            if (channel.quantity == "speed") channel.name = "Speed";
            if (comes_from_receiver(channel)) channel = moved_in_time(channel, delay_s);
        }
        const Path path = got(driven_path(late, run->track.get(), correction));
        return places_apart_from_others(*library, held_against, row, late, path, *run->track,
                                        laps_on(late, path, *run->track, correction), correction);
    }
};

}  // namespace

TEST(PlacesApart, OfRunsAsTheyWereNothingIsSaid) {
    int said = 0;
    for (const std::int64_t id : {1, 2, 3}) {
        const Asked asked(id);
        ASSERT_EQ(asked.others.size(), 3U);
        said += asked.with_places_later(0, asked.others).has_value() ? 1 : 0;
    }
    EXPECT_EQ(said, 0);
}

TEST(PlacesApart, LateAndEarlyAreToldAndTheCureIsTried) {
    RENDAK_FIGURES_ONLY("PlacesApart.OfRunsAsTheyWereNothingIsSaid");
    for (const std::int64_t id : {2, 3}) {
        const Asked asked(id);
        for (const double delay_s : {0.6, -0.6}) {
            const auto found = asked.with_places_later(delay_s, asked.others);
            ASSERT_TRUE(found) << id << ", " << delay_s;
            EXPECT_NE(found->what.find(delay_s > 0 ? "come late" : "come early"), std::string::npos) << found->what;
            ASSERT_TRUE(found->after) << found->what;
            EXPECT_NEAR(found->after->delay_s - asked.correction.delay_s, delay_s, 0.2) << found->cure;
            EXPECT_NE(found->cure.find("Move its positions by 0."), std::string::npos) << found->cure;
        }
    }
}

TEST(PlacesApart, OneOtherRunAloneMayBeTheOneThatIsWrong) {
    const Asked asked(2);
    const auto other =
        std::find_if(asked.others.begin(), asked.others.end(), [](const RunRow& row) { return row.id == RunId{3}; });
    ASSERT_NE(other, asked.others.end());
    const auto found = asked.with_places_later(0.6, {*other});
    ASSERT_TRUE(found);
    EXPECT_NE(found->what.find("or the other's do the opposite"), std::string::npos) << found->what;
}

TEST(PlacesApart, WithoutAnotherRunOrALapNothingCanBeSaid) {
    const Asked asked(2);
    EXPECT_FALSE(asked.with_places_later(0.6, {}));
    EXPECT_FALSE(asked.with_places_later(0.6, {asked.row})) << "itself is no other";
    RunRow elsewhere = asked.others.front();
    elsewhere.car = "Another car";
    EXPECT_FALSE(asked.with_places_later(0.6, {elsewhere}));
}
