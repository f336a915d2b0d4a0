// HDF5 files as other programs write them: the same drive as in tests/cases, laid out in their ways. Each must come in
// right, or be asked for, or be refused with the reason.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>

#include "core/intake/import.h"
#include "core/recording/formats.h"
#include "core/recording/readers.h"
#include "core/recording/table_mapping.h"
#include "tests/support/h5_maker.h"
#include "tests/support/own_build.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using rendak::test::H5Maker;
using rendak::test::TempFolder;

namespace {

using Values = std::vector<double>;

struct Driven {
    std::string name, unit, quantity;
    Values values;
    double factor;  ///< from what is written to SI
};

struct Drive {
    Values t;
    std::vector<Driven> columns;
};

/// A hundred rows, ten a second, in the units that people use.
const Drive& drive() {
    static const Drive made = [] {
        std::ifstream file(test::tests_folder() / "cases/expected.json");
        const auto truth = nlohmann::json::parse(file)["truth"];
        const auto column = [&](const char* name, const char* unit, const char* quantity, const char* key,
                                double factor) {
            auto values = truth[key].get<Values>();
            for (double& value : values) value /= factor;
            return Driven{name, unit, quantity, values, factor};
        };
        return Drive{
            truth["t"].get<Values>(),
            {column("Latitude", "deg", "latitude", "lat", 1), column("Longitude", "deg", "longitude", "lon", 1),
             column("Speed", "km/h", "speed", "speed", 1 / 3.6), column("Throttle", "%", "throttle", "throttle", 0.01),
             column("Brake", "bar", "brake_front", "brake", 1e5),
             column("RPM", "rpm", "engine_speed", "revs", std::acos(-1.0) / 30)}};
    }();
    return made;
}

Values scaled(Values values, double factor) {
    for (double& value : values) value *= factor;
    return values;
}

/// Every column of the drive as `put` writes it.
void put_all(const std::function<void(const Driven&)>& put) {
    for (const Driven& column : drive().columns) put(column);
}

void put_flat(H5Maker& file) {
    put_all([&](const Driven& column) { file.numbers("/" + column.name, column.values, column.unit); });
}

class H5TableTest : public ::testing::Test {
  protected:
    Result<ReadRecording> read(const std::function<void(H5Maker&)>& make, hsize_t bytes_before = 0,
                               const ReadOptions& options = {}) {
        {
            H5Maker file(path(), bytes_before), &it = file;
            make(it);
        }
        return read_logged_file(path(), options);
    }

    [[nodiscard]] std::filesystem::path path() const { return folder_.path() / "drive.h5"; }

    /// Every channel of the drive is there, sample by sample at its time.
    static void expect_whole(const Result<ReadRecording>& read, const std::vector<std::string>& missing = {}) {
        ASSERT_TRUE(read) << read.error().text();
        for (const Driven& column : drive().columns) {
            const Channel* channel = read->recording.find(column.quantity);
            if (std::find(missing.begin(), missing.end(), column.name) != missing.end()) {
                EXPECT_EQ(channel, nullptr) << column.name;
                continue;
            }
            ASSERT_NE(channel, nullptr) << column.name;
            ASSERT_EQ(channel->size(), column.values.size()) << column.name;
            for (std::size_t i = 0; i < channel->size(); ++i) {
                const double wanted = column.values[i] * column.factor;
                ASSERT_NEAR(channel->at(i), wanted, 2e-6 * std::abs(wanted) + 1e-9) << column.name << " " << i;
                ASSERT_NEAR(channel->clock.time_at(i) - channel->clock.time_at(0), drive().t[i], 1e-6) << column.name;
            }
        }
    }

    static bool says(const ReadRecording& read, const std::string& words) {
        return std::any_of(read.notes.begin(), read.notes.end(),
                           [&](const std::string& note) { return note.find(words) != std::string::npos; });
    }

    TempFolder folder_;
};

}  // namespace

TEST_F(H5TableTest, SetsSideBySideWithOneTime) {
    expect_whole(read([](H5Maker& file) {
        file.numbers("/time", drive().t, "s");
        put_flat(file);
    }));
    EXPECT_TRUE(is_table(format_of(path())));
}

TEST_F(H5TableTest, PackedSinglesOfTheOtherByteOrderInColumnVectors) {
    const auto rows = drive().t.size();
    expect_whole(read([&](H5Maker& file) {
        file.numbers("/time", scaled(drive().t, 1000), "ms", {rows, 1}, H5T_STD_I32BE, 32);
        put_all([&](const Driven& column) {
            const bool place = column.unit == "deg";
            file.numbers("/" + column.name, column.values, column.unit, {rows, 1},
                         place ? H5T_IEEE_F64BE : H5T_IEEE_F32BE, 32);
        });
    }));
}

TEST_F(H5TableTest, RowVectorsBehindAnotherProgramsBytes) {
    const auto columns = drive().t.size();
    expect_whole(read(
        [&](H5Maker& file) {
            file.numbers("/time", drive().t, "s", {1, columns});
            put_all([&](const Driven& column) {
                file.numbers("/" + column.name, column.values, column.unit, {1, columns});
            });
        },
        512));
}

TEST_F(H5TableTest, AGroupAChannelWithItsOwnTime) {
    expect_whole(read([](H5Maker& file) {
        file.group("/channels");
        put_all([&](const Driven& column) {
            const std::string group = "/channels/" + column.name;
            file.group(group).numbers(group + "/time", drive().t).numbers(group + "/values", column.values);
            file.text(group, "unit", column.unit);
        });
    }));
}

TEST_F(H5TableTest, NumberedGroupsWithNamesRatesAndStarts) {
    const auto read_it = read([](H5Maker& file) {
        file.group("/channels");
        int count = 0;
        put_all([&](const Driven& column) {
            const std::string group = "/channels/000" + std::to_string(count++);
            Values values = column.values;
            if (column.name == "RPM") values.erase(values.begin(), values.begin() + 10);
            file.group(group).numbers(group + "/samples", values).text(group, "name", column.name);
            file.text(group, "unit", column.unit).number(group, "sample_rate_hz", 10);
            if (column.name == "RPM") file.number(group, "start_s", 1);
        });
    });
    ASSERT_TRUE(read_it) << read_it.error().text();
    const Channel* revs = read_it->recording.find("engine_speed");
    const Channel* speed = read_it->recording.find("speed");
    ASSERT_TRUE(revs != nullptr && speed != nullptr);
    EXPECT_EQ(revs->size(), 90U);
    EXPECT_NEAR(revs->clock.time_at(0) - speed->clock.time_at(0), 1.0, 1e-6);
    const Driven& column = drive().columns.back();
    EXPECT_NEAR(revs->at(0), column.values[10] * column.factor, 1e-2);
}

TEST_F(H5TableTest, ARateForAll) {
    for (const auto& said :
         {std::pair{"Sample rate", "10 Hz"}, {"interval", "100 ms"}, {"dt", "100"}, {"rate", "0.1 s"}}) {
        expect_whole(read([&](H5Maker& file) {
            file.text("/", said.first, said.second);
            put_flat(file);
        }));
    }
    // Of half of the rows it cannot be the rate, too.
    const auto refused = read([](H5Maker& file) {
        file.number("/", "rate", 10);
        put_flat(file);
        file.numbers("/Oil temp", Values(50, 90.0), "degC");
    });
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("different lengths"), std::string::npos) << refused.error().text();
}

TEST_F(H5TableTest, WithoutATimeTheRateIsAsked) {
    const auto asked = read(put_flat);
    ASSERT_FALSE(asked);
    EXPECT_EQ(asked.error().code, ErrorCode::needs_rate);
    ReadOptions options;
    options.csv.rate_hz = 10;
    expect_whole(read(put_flat, 0, options));
}

TEST_F(H5TableTest, GroupsOfDifferentRatesKeepTheirClocks) {
    const auto read_it = read([](H5Maker& file) {
        file.group("/10Hz").group("/100Hz").numbers("/10Hz/time", drive().t, "s");
        put_all([&](const Driven& column) { file.numbers("/10Hz/" + column.name, column.values, column.unit); });
        Values times, heights;
        for (int i = 0; i < 990; ++i) {
            times.push_back(i * 0.01);
            heights.push_back(20 + i % 7);
        }
        file.numbers("/100Hz/time", times, "s").numbers("/100Hz/Ride height FL", heights, "mm");
    });
    expect_whole(read_it);
    const Channel* height = read_it->recording.find_name("Ride height FL");
    ASSERT_NE(height, nullptr);
    EXPECT_EQ(height->size(), 990U);
    EXPECT_NEAR(height->clock.rate_hz, 100, 1e-6);
    EXPECT_NEAR(height->at(8), 0.021, 1e-6);
}

TEST_F(H5TableTest, ClocksOfTheDayKeepTheirBeginnings) {
    // The second group begins 2.5 s after the first; both count since 1970.
    const auto read_it = read([](H5Maker& file) {
        file.group("/10Hz").group("/slow");
        Values early = drive().t, late;
        for (double& t : early) t += 1781358451.25;
        for (std::size_t i = 25; i < early.size(); ++i) late.push_back(early[i]);
        file.numbers("/10Hz/time", early, "s").numbers("/slow/time", late, "s");
        put_all([&](const Driven& column) {
            const bool second = column.name == "RPM";
            const Values& all = column.values;
            file.numbers((second ? "/slow/" : "/10Hz/") + column.name,
                         second ? Values(all.begin() + 25, all.end()) : all, column.unit);
        });
    });
    ASSERT_TRUE(read_it) << read_it.error().text();
    const Channel* revs = read_it->recording.find("engine_speed");
    const Channel* speed = read_it->recording.find("speed");
    ASSERT_TRUE(revs != nullptr && speed != nullptr);
    EXPECT_NEAR(revs->clock.time_at(0) - speed->clock.time_at(0), 2.5, 1e-5);
    ASSERT_TRUE(read_it->recording.start_unix_s);
    EXPECT_NEAR(*read_it->recording.start_unix_s, 1781358451.25, 1e-5);
}

TEST_F(H5TableTest, ColumnsOfOneSetNamedBesideItOrByItself) {
    const auto rows = drive().t.size(), width = drive().columns.size() + 1;
    std::vector<std::string> names{"time"}, units{"s"}, whole{"Time [s]"};
    put_all([&](const Driven& column) {
        names.push_back(column.name);
        units.push_back(column.unit);
        whole.push_back(column.name + " [" + column.unit + "]");
    });
    Values across(rows * width), along(rows * width);
    for (std::size_t row = 0; row < rows; ++row) {
        for (std::size_t c = 0; c < width; ++c) {
            const double value = c == 0 ? drive().t[row] : drive().columns[c - 1].values[row];
            across[row * width + c] = along[c * rows + row] = value;
        }
    }
    expect_whole(read([&](H5Maker& file) {
        file.numbers("/data", across, "", {rows, width})
            .texts("/data", "columns", names)
            .texts("/data", "units", units);
    }));
    expect_whole(read([&](H5Maker& file) {
        file.numbers("/data", along, "", {width, rows}).text_set("/channel_names", whole);
    }));
    // Nobody knows what is what.
    const auto nameless = read([&](H5Maker& file) { file.numbers("/data", across, "", {rows, width}); });
    ASSERT_FALSE(nameless);
    EXPECT_EQ(nameless.error().code, ErrorCode::needs_rate);
}

TEST_F(H5TableTest, RecordsWithTextsAsTimes) {
    struct Row {
        char time[32];
        double values[6];
    };
    const auto make = [](H5Maker& file) {
        std::vector<Row> rows(drive().t.size());
        for (std::size_t i = 0; i < rows.size(); ++i) {
            const double second = 31.25 + drive().t[i];
            std::snprintf(rows[i].time, sizeof rows[i].time, "2026-06-13T13:47:%09.6fZ", second);
            for (std::size_t c = 0; c < 6; ++c) rows[i].values[c] = drive().columns[c].values[i];
        }
        const hid_t text = H5Tcopy(H5T_C_S1), type = H5Tcreate(H5T_COMPOUND, sizeof(Row));
        H5Tset_size(text, sizeof(Row::time));
        H5Tinsert(type, "time", 0, text);
        for (std::size_t c = 0; c < 6; ++c) {
            const std::string name = drive().columns[c].name + " [" + drive().columns[c].unit + "]";
            H5Tinsert(type, name.c_str(), offsetof(Row, values) + c * sizeof(double), H5T_NATIVE_DOUBLE);
        }
        const hsize_t size = rows.size();
        const hid_t space = H5Screate_simple(1, &size, nullptr);
        const hid_t set = H5Dcreate2(file.id(), "rows", type, space, H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
        H5Dwrite(set, type, H5S_ALL, H5S_ALL, H5P_DEFAULT, rows.data());
        H5Dclose(set);
        H5Sclose(space);
        H5Tclose(type);
        H5Tclose(text);
    };
    const auto read_it = read(make);
    expect_whole(read_it);
    ASSERT_TRUE(read_it->recording.start_unix_s);
    EXPECT_NEAR(*read_it->recording.start_unix_s, 1781358451.25, 1e-3);
}

TEST_F(H5TableTest, DatesOfTheClimateConventionsAndPackedNumbers) {
    for (const auto& said :
         {std::pair{"seconds since 2026-06-13 13:47:31", 1.0}, {"milliseconds since 2026-06-13T13:47:31Z", 1000.0}}) {
        const auto read_it = read([&](H5Maker& file) {
            Values times = drive().t;
            for (double& t : times) t = (t + 0.25) * said.second;
            file.numbers("/time", times, said.first);
            put_all([&](const Driven& column) {
                const std::string path = "/" + column.name;
                if (column.name != "Throttle") return (void)file.numbers(path, column.values, column.unit);
                Values stored = column.values;
                for (double& value : stored) value = (value - 5) / 0.5;
                stored[7] = -9999;
                file.numbers(path, stored, column.unit).number(path, "scale_factor", 0.5);
                file.number(path, "add_offset", 5).number(path, "_FillValue", -9999);
            });
        });
        ASSERT_TRUE(read_it) << read_it.error().text();
        ASSERT_TRUE(read_it->recording.start_unix_s);
        EXPECT_NEAR(*read_it->recording.start_unix_s, 1781358451.25, 1e-5);
        const Channel* throttle = read_it->recording.find("throttle");
        const Channel* speed = read_it->recording.find("speed");
        ASSERT_TRUE(throttle != nullptr && speed != nullptr && speed->size() == throttle->size());
        for (std::size_t i = 0; i < throttle->size(); ++i) {
            const Driven& column = drive().columns[3];
            if (i == 7)
                EXPECT_TRUE(std::isnan(throttle->at(i)));
            else
                EXPECT_NEAR(throttle->at(i), column.values[i] * column.factor, 1e-6) << i;
        }
    }
}

TEST_F(H5TableTest, ADateOfTimesInSinglesIsCounted) {
    const auto read_it = read([](H5Maker& file) {
        file.numbers("/time", drive().t, "seconds since 2026-06-13 13:47:31", {}, H5T_IEEE_F32LE);
        put_flat(file);
    });
    expect_whole(read_it);
    ASSERT_TRUE(read_it->recording.start_unix_s);
    EXPECT_NEAR(*read_it->recording.start_unix_s, 1781358451.0, 1e-5);
}

TEST_F(H5TableTest, NumbersThatMayBeScaledAreLeftOut) {
    const auto read_it = read([](H5Maker& file) {
        file.numbers("/time", drive().t, "s");
        put_flat(file);
        file.number("/Speed", "gain", 0.1);
    });
    expect_whole(read_it, {"Speed"});
    EXPECT_TRUE(says(*read_it, "\"/Speed\" was left out"));
}

TEST_F(H5TableTest, WhatIsNoColumnIsSaid) {
    const auto read_it = read([&](H5Maker& file) {
        file.numbers("/time", drive().t, "s");
        put_flat(file);
        file.numbers("/frames", Values(60, 1.0), "", {3, 4, 5}).numbers("/Oil temp", Values(37, 90.0), "degC");
        file.text_set("/remark", {"dry"});
        H5Lcreate_external("/etc/other.h5", "/a", file.id(), "elsewhere", H5P_DEFAULT, H5P_DEFAULT);
        H5Lcreate_soft("/Speed", file.id(), "copy of Speed", H5P_DEFAULT, H5P_DEFAULT);
        H5Lcreate_hard(file.id(), "/", file.id(), "round and round", H5P_DEFAULT, H5P_DEFAULT);
    });
    expect_whole(read_it);
    EXPECT_TRUE(says(*read_it, "\"/frames\" was left out: it has 3 dimensions."));
    EXPECT_TRUE(says(*read_it, "\"Oil temp\" was left out: no time or rate belongs to it."));
    EXPECT_TRUE(says(*read_it, "\"/elsewhere\" was left out: it is a link to another file."));
    EXPECT_EQ(read_it->recording.channels.size(), drive().columns.size());
}

TEST_F(H5TableTest, ThatTwoGroupsAreAsLongSaysNothing) {
    const auto read_it = read([](H5Maker& file) {
        file.group("/car").group("/weather").group("/clock").numbers("/car/time", drive().t, "s");
        put_all([&](const Driven& column) { file.numbers("/car/" + column.name, column.values, column.unit); });
        file.numbers("/weather/Air temp", Values(drive().t.size(), 21.0), "degC");
    });
    expect_whole(read_it);
    EXPECT_TRUE(says(*read_it, "\"weather/Air temp\" was left out: no time or rate belongs to it."));
    // A group of nothing but times is there for the others.
    expect_whole(read([](H5Maker& file) {
        file.group("/clock").group("/channels").numbers("/clock/time", drive().t, "s");
        put_all([&](const Driven& column) { file.numbers("/channels/" + column.name, column.values, column.unit); });
    }));
}

TEST_F(H5TableTest, AMissingSampleIsToldThoughItsMarkHasMoreDigits) {
    const auto read_it = read([](H5Maker& file) {
        Values oil(drive().t.size(), 90.0);
        oil[3] = -9999.9;
        file.numbers("/time", drive().t, "s");
        put_flat(file);
        file.numbers("/Oil temp", oil, "degC", {}, H5T_IEEE_F32LE).number("/Oil temp", "_FillValue", -9999.9);
        file.numbers("/spectrum", Values(40 * 5, 1.0), "", {40, 5});
    });
    expect_whole(read_it);
    const Channel* oil = read_it->recording.find("oil_temperature");
    ASSERT_NE(oil, nullptr);
    EXPECT_TRUE(std::isnan(oil->at(3)));
    EXPECT_NEAR(oil->at(4), 363.15, 1e-3);
    EXPECT_TRUE(says(*read_it, "\"/spectrum\" was left out: no time or rate belongs to it."));
}

TEST_F(H5TableTest, APairOfTimeAndValueIsCalledAsItsSet) {
    const auto rows = drive().t.size();
    expect_whole(read([&](H5Maker& file) {
        put_all([&](const Driven& column) {
            Values pairs;
            for (std::size_t i = 0; i < rows; ++i) pairs.insert(pairs.end(), {drive().t[i], column.values[i]});
            const std::string path = "/" + column.name;
            file.numbers(path, pairs, column.unit, {rows, 2}).texts(path, "columns", {"time", "value"});
        });
    }));
}

TEST_F(H5TableTest, ATimeWithItsUnitInNameAndAttributeIsATime) {
    expect_whole(read([](H5Maker& file) {
        file.numbers("/time_us", scaled(drive().t, 1e6), "us", {}, H5T_STD_I64LE);
        put_flat(file);
    }));
}

TEST_F(H5TableTest, ARateThatTheMotionContradictsIsNotTaken) {
    const auto refused = read([](H5Maker& file) {
        file.number("/", "sample_rate", 100);
        put_flat(file);
    });
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, ErrorCode::needs_rate);
}

TEST_F(H5TableTest, WhatSeveralClocksLeaveOpenIsAsked) {
    const auto asked = read([](H5Maker& file) {
        file.group("/ecu1").group("/ecu2").numbers("/ecu1/time", drive().t, "s");
        put_all([&](const Driven& column) { file.numbers("/ecu1/" + column.name, column.values, column.unit); });
        file.numbers("/ecu2/time", {0, 1, 2, 3, 4, 5}, "s").numbers("/ecu2/Oil temp", {90, 91, 92, 93, 94, 95}, "degC");
    });
    ASSERT_FALSE(asked);
    EXPECT_EQ(asked.error().code, ErrorCode::needs_answer);
    EXPECT_EQ(asked.error().questions.size(), 2U) << asked.error().text();
}

TEST_F(H5TableTest, NamesAreTheWayToThem) {
    const auto read_it = read([](H5Maker& file) {
        file.group("/session").group("/session/engine").group("/session/gps").group("/session/rival");
        file.numbers("/session/time", drive().t, "s");
        const auto& columns = drive().columns;
        file.numbers("/session/gps/latitude", columns[0].values, "degrees_north");
        file.numbers("/session/gps/longitude", columns[1].values, "degrees_east");
        file.numbers("/session/engine/speed", columns[5].values, "rpm");
        file.numbers("/session/rival/pace", columns[2].values, "km/h");
    });
    expect_whole(read_it, {"Speed", "Throttle", "Brake"});
    EXPECT_NE(read_it->recording.find_name("rival/pace"), nullptr);
}

TEST_F(H5TableTest, WhoseSpeedItIsIsAskedOnceAGroup) {
    const auto make = [](H5Maker& file) {
        file.group("/ecu1").group("/rival").numbers("/time", drive().t, "s");
        put_all([&](const Driven& column) { file.numbers("/ecu1/" + column.name, column.values, column.unit); });
        file.numbers("/rival/lean", drive().columns[2].values, "deg");
    };
    const auto asked = read(make);
    ASSERT_FALSE(asked);
    ASSERT_EQ(asked.error().code, ErrorCode::needs_answer);
    ASSERT_EQ(asked.error().questions.size(), 1U);
    const auto& answers = asked.error().questions[0].answers;
    ASSERT_EQ(answers.size(), 2U);
    for (const std::size_t which : {0U, 1U}) {
        ReadOptions options;
        options.csv.mapping.emplace();
        for (const std::string& take : takes_of(answers[which]))
            options.csv.mapping->columns.push_back(answered_column(take).value());
        const auto answered = read(make, 0, options);
        if (which == 0) {
            expect_whole(answered);
            continue;
        }
        ASSERT_TRUE(answered) << answered.error().text();
        EXPECT_EQ(answered->recording.find("speed"), nullptr);
        EXPECT_NE(answered->recording.find_name("ecu1/Speed"), nullptr);
    }
}

TEST_F(H5TableTest, NothingToReadIsRefusedWithTheReason) {
    const auto expect_refused = [&](const std::function<void(H5Maker&)>& make, const std::string& words) {
        const auto refused = read(make);
        ASSERT_FALSE(refused);
        EXPECT_NE(refused.error().message.find(words), std::string::npos) << refused.error().text();
    };
    expect_refused([](H5Maker&) {}, "it holds no data set of numbers");
    expect_refused([](H5Maker& file) { file.text_set("/a", {"x", "y"}); }, "it holds no data set of numbers");
    expect_refused([](H5Maker& file) { file.numbers("/a", Values(8, 1.0), "", {2, 2, 2}); }, "3 dimensions");
    expect_refused([](H5Maker& file) { file.numbers("/a", Values(9, 1.0)).numbers("/b", Values(7, 1.0)); },
                   "different lengths");
}

TEST_F(H5TableTest, ALookBeforeTheImportAndItsAnswersHold) {
    {
        H5Maker file(path());
        file.numbers("/time", drive().t, "s");
        put_all([&](const Driven& column) {
            file.numbers("/" + column.name, column.values, column.name == "Brake" ? "" : column.unit);
        });
    }
    const auto preview = preview_table(path());
    ASSERT_TRUE(preview) << preview.error().text();
    EXPECT_EQ(preview->shape.columns.size(), drive().columns.size() + 1);
    EXPECT_EQ(preview->rows.size(), 8U);
    const auto asked = read_logged_file(path());
    ASSERT_FALSE(asked);
    EXPECT_EQ(asked.error().code, ErrorCode::needs_answer);
    const TempFolder home;
    const auto library = Library::open(home.path() / "library");
    ASSERT_TRUE(library);
    TableMapping mapping;
    mapping.columns.push_back({"Brake", true, "brake_front", "bar"});
    ASSERT_TRUE((*library)->set_table_mapping(preview->key, to_json(mapping)));
    const auto imported = import_file(**library, path(), {});
    ASSERT_TRUE(imported) << imported.error().text();
    EXPECT_TRUE(imported->questions.empty());
}

TEST_F(H5TableTest, ChangedBytesNeverHarm) {
    {
        H5Maker file(path()), &it = file;
        it.numbers("/time", drive().t, "s");
        put_flat(it);
    }
    std::ifstream in(path(), std::ios::binary);
    const std::string sound((std::istreambuf_iterator<char>(in)), {});
    unsigned seed = 1;
    const auto next = [&](std::size_t below) { return (seed = seed * 1664525U + 1013904223U) % below; };
    int refused = 0;
    for (int i = 0; i < 40; ++i) {
        std::string changed = sound;
        if (i % 4 == 0) changed.resize(next(sound.size()));
        for (int k = 0; k < 3 && !changed.empty(); ++k)
            changed[next(std::min<std::size_t>(changed.size(), 4000))] ^= static_cast<char>(1 + next(255));
        const auto file = folder_.write("changed.h5", changed);
        const auto read_it = read_logged_file(file);
        if (read_it) continue;
        ++refused;
        EXPECT_GT(read_it.error().message.size(), 20U);
    }
    EXPECT_GT(refused, 10);
}
