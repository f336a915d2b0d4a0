// Films of any camera: the frame that was asked for, several files as one, sound at its moment, and what is no film.
#include <gtest/gtest.h>
#include <unistd.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <random>

#include "core/signal/spectrum.h"
#include "core/video/film_link.h"
#include "tests/support/got.h"
#include "tests/support/made_film.h"
#include "tests/support/temp_folder.h"

namespace rendak {
namespace {

using test::got;
using test::MadeFilm;

int seen(FilmReader& film, std::size_t frame) {
    const int width = 320, height = 180;
    return test::number_in(got(film.picture(frame, width, height)), width, height);
}

TEST(Film, GivesExactlyTheFrameThatWasAskedFor) {
    const test::TempFolder folder;
    struct Kind {
        const char *file, *codec;
        int gop;
    };
    for (const Kind& kind : {Kind{"a.mp4", "libx264", 250}, Kind{"a.mov", "libx264", 12}, Kind{"a.mkv", "mpeg4", 50},
                             Kind{"a.avi", "mjpeg", 1}, Kind{"b.mkv", "libx265", 60}, Kind{"b.avi", "mpeg4", 30}}) {
        MadeFilm made;
        made.frames = 300;
        made.wish.file = (folder / kind.file).string();
        made.wish.codec = kind.codec;
        made.wish.gop = kind.gop;
        test::write_film(made);
        FilmReader film = got(FilmReader::open({made.wish.file}));
        EXPECT_EQ(film.facts().frames, 300U) << kind.file;
        EXPECT_NEAR(film.facts().duration_s, 12, 0.05) << kind.file;
        EXPECT_TRUE(film.facts().even) << kind.file;
        EXPECT_EQ(film.facts().width, 320);
        std::mt19937 engine(3);
        for (int k = 0; k < 25; ++k) {
            const auto frame = static_cast<std::size_t>(engine() % 300);
            EXPECT_EQ(seen(film, frame), static_cast<int>(frame)) << kind.file << ' ' << kind.codec;
        }
        // Frame by frame, there and back.
        for (const std::size_t frame : {120U, 121U, 122U, 121U, 120U, 119U, 0U, 299U})
            EXPECT_EQ(seen(film, frame), static_cast<int>(frame)) << kind.file;
        EXPECT_FALSE(film.picture(300, 320, 180));
    }
}

TEST(Film, TellsWhichFrameIsSeenAtAMoment) {
    const test::TempFolder folder;
    MadeFilm made;
    made.wish.file = (folder / "a.mp4").string();
    // A camera that drops frames and falls out of step: frames of 1/25 s, some missing.
    std::mt19937 engine(5);
    std::int64_t at = 0;
    for (int k = 0; k < made.frames; ++k) {
        made.at.push_back(at);
        at += engine() % 5 == 0 ? 3 : 1;
    }
    test::write_film(made);
    FilmReader film = got(FilmReader::open({made.wish.file}));
    EXPECT_FALSE(film.facts().even);
    ASSERT_EQ(film.times_s().size(), made.at.size());
    for (std::size_t k = 0; k < made.at.size(); ++k) {
        const double begin = static_cast<double>(made.at[k]) / 25;
        EXPECT_NEAR(film.times_s()[k], begin, 1e-4);
        EXPECT_EQ(film.frame_at(begin + 0.001), k);
        EXPECT_EQ(seen(film, *film.frame_at(begin + 0.03)), static_cast<int>(k));
    }
    EXPECT_FALSE(film.frame_at(-0.1)) << "before the film there is no frame";
    EXPECT_FALSE(film.frame_at(film.facts().duration_s + 0.1)) << "and none behind it";
}

TEST(Film, SeveralFilesFollowEachOther) {
    const test::TempFolder folder;
    std::vector<std::string> files;
    for (int part = 0; part < 3; ++part) {
        MadeFilm made;
        made.frames = 60;
        made.first_number = 60 * part;
        made.wish.file = (folder / ("part" + std::to_string(part) + ".mp4")).string();
        made.wish.sound_hz = 16000;
        test::write_film(made);
        files.push_back(made.wish.file);
    }
    FilmReader film = got(FilmReader::open(files));
    EXPECT_EQ(film.facts().frames, 180U);
    ASSERT_EQ(film.facts().part_begin_s.size(), 3U);
    EXPECT_NEAR(film.facts().part_begin_s[1], 2.4, 1e-3);
    EXPECT_NEAR(film.facts().part_begin_s[2], 4.8, 1e-3);
    for (const std::size_t frame : {0U, 59U, 60U, 61U, 119U, 120U, 179U, 30U})
        EXPECT_EQ(seen(film, frame), static_cast<int>(frame));
    // The sound of the second file begins where it begins: 200 Hz again.
    EXPECT_TRUE(film.facts().sound);
    const auto pitch_at = [&](double from_s) {
        const auto samples = got(film.sound(from_s, 0.5, 8000));
        const Spectrum spectrum = spectrum_of(samples, 8000, 2000, Detrend::mean);
        const auto top = std::max_element(spectrum.psd.begin(), spectrum.psd.end());
        return spectrum.frequency_hz(static_cast<std::size_t>(top - spectrum.psd.begin()));
    };
    EXPECT_NEAR(pitch_at(0.2), 200, 5);
    EXPECT_NEAR(pitch_at(1.3), 300, 5);
    EXPECT_NEAR(pitch_at(2.6), 200, 5);
    EXPECT_NEAR(pitch_at(3.7), 300, 5);
    // To the sample: the tone changes at one second.
    const auto change = got(film.sound(0.9, 0.2, 8000));
    EXPECT_EQ(change.size(), 1600U);
    const auto nothing = got(film.sound(-5, 1, 8000));
    EXPECT_TRUE(std::all_of(nothing.begin(), nothing.end(), [](float x) { return x == 0; }));
    // After the sound the pictures are right again.
    EXPECT_EQ(seen(film, 60), 60);
}

TEST(Film, ASmallCopyHasTheSameFrames) {
    const test::TempFolder folder;
    MadeFilm made;
    made.frames = 120;
    made.wish.file = (folder / "a.mp4").string();
    made.wish.gop = 250;
    test::write_film(made);
    FilmReader film = got(FilmReader::open({made.wish.file}));
    const std::string copy = (folder / "small.avi").string();
    double told = 0;
    ASSERT_TRUE(film.copy_small(copy, 320, 180, {{}, [&](double x) { told = x; }}));
    EXPECT_NEAR(told, 1, 1e-9);
    FilmReader small = got(FilmReader::open({copy}));
    ASSERT_EQ(small.facts().frames, 120U);
    for (const std::size_t frame : {0U, 77U, 13U, 119U}) EXPECT_EQ(seen(small, frame), static_cast<int>(frame));
    // One that was cancelled leaves nothing.
    std::stop_source stop;
    const auto cancelled = film.copy_small((folder / "other.avi").string(), 320, 180,
                                           {stop.get_token(), [&](double) { stop.request_stop(); }});
    ASSERT_FALSE(cancelled);
    EXPECT_EQ(cancelled.error().code, ErrorCode::cancelled);
    EXPECT_FALSE(std::filesystem::exists(folder / "other.avi"));
    EXPECT_FALSE(std::filesystem::exists(unfinished_film_name((folder / "other.avi").string())));
    EXPECT_EQ(seen(film, 5), 5) << "the film itself goes on";
}

TEST(Film, WhatIsNoFilmGetsASentence) {
    const test::TempFolder folder;
    MadeFilm made;
    made.wish.file = (folder / "a.mp4").string();
    test::write_film(made);
    const std::string whole = test::read_all(made.wish.file);
    const auto refused = [&](const std::filesystem::path& file) {
        const auto opened = FilmReader::open({file.string()});
        EXPECT_FALSE(opened) << file;
        if (opened) return std::string();
        EXPECT_FALSE(opened.error().message.empty());
        EXPECT_NE(opened.error().text().find(file.filename().string()), std::string::npos) << opened.error().text();
        return opened.error().text();
    };
    refused(folder.write("empty.mp4", ""));
    refused(folder.write("text.mp4", "this is no film\n"));
    refused(folder / "missing.mp4");
    refused(folder.path());
    // Cut off while the camera wrote it: what says where the frames lie stands at the end, or in front of what is gone.
    const std::string cut = refused(folder.write("cut.mp4", whole.substr(0, 600)));
    EXPECT_NE(cut.find("cut off"), std::string::npos) << cut;
    // A playlist that would open other files is no film.
    refused(folder.write("list.ffconcat", "ffconcat version 1.0\nfile 'a.mp4'\n"));
    refused(folder.write("list.m3u8", "#EXTM3U\n#EXTINF:4,\n" + made.wish.file + "\n#EXT-X-ENDLIST\n"));
    EXPECT_FALSE(FilmReader::open({}));
    // Half of a film without an index shows what was written.
    made.wish.file = (folder / "a.mkv").string();
    test::write_film(made);
    const std::string open_ended = test::read_all(made.wish.file);
    const auto half = folder.write("half.mkv", open_ended.substr(0, open_ended.size() / 2));
    FilmReader film = got(FilmReader::open({half.string()}));
    EXPECT_GT(film.facts().frames, 10U);
    EXPECT_LT(film.facts().frames, 100U);
    EXPECT_EQ(seen(film, 5), 5);
}

TEST(Film, DamagedBytesBringNothingDown) {
    const test::TempFolder folder;
    std::mt19937 engine(11);
    int opened = 0, shown = 0;
    for (const char* name : {"a.mp4", "a.mkv", "a.avi"}) {
        MadeFilm made;
        made.frames = 40;
        made.wish.file = (folder / name).string();
        made.wish.sound_hz = 16000;
        test::write_film(made);
        const std::string whole = test::read_all(made.wish.file);
        for (int k = 0; k < 20; ++k) {
            std::string bytes = whole;
            const int changes = 1 + static_cast<int>(engine() % 40);
            for (int n = 0; n < changes; ++n)
                bytes[engine() % (k % 2 == 0 ? std::min<std::size_t>(bytes.size(), 2000) : bytes.size())] =
                    static_cast<char>(engine());
            const auto file = folder.write(std::string("broken-") + name, bytes);
            auto film = FilmReader::open({file.string()});
            if (!film) continue;
            ++opened;
            for (const std::size_t frame : {0U, 20U, 39U})
                if (film->picture(frame, 64, 36)) ++shown;
            (void)film->sound(0, 1, 8000);
        }
    }
    EXPECT_GT(opened, 10) << "a changed byte is not always fatal";
    EXPECT_GT(shown, 10);
}

TEST(Film, AProcessThatDiesIsStartedAgain) {
    const test::TempFolder folder;
    MadeFilm made;
    made.wish.file = (folder / "a.mp4").string();
    test::write_film(made);
    FilmReader film = got(FilmReader::open({made.wish.file}));
    EXPECT_EQ(seen(film, 30), 30);
    // Killed from outside, as a hostile film or the memory killer would.
    ASSERT_EQ(std::system(("pkill -KILL -P " + std::to_string(::getpid()) + " rendak-film").c_str()), 0);
    const auto lost = film.picture(31, 320, 180);
    ASSERT_FALSE(lost);
    EXPECT_NE(lost.error().message.find("was stopped"), std::string::npos) << lost.error().message;
    EXPECT_EQ(seen(film, 31), 31) << "the next question starts another";
    // A question that nobody wants any more ends at once.
    std::stop_source stop;
    stop.request_stop();
    const auto unwanted = film.picture(32, 320, 180, {stop.get_token(), {}});
    ASSERT_FALSE(unwanted);
    EXPECT_EQ(unwanted.error().code, ErrorCode::cancelled);
    EXPECT_EQ(seen(film, 32), 32);
    // What makes no sense is an answer, not an end.
    FilmLink link;
    EXPECT_NE(got(link.ask("nonsense")).find("cannot be understood"), std::string::npos);
    EXPECT_NE(got(link.ask(R"({"do": "fly"})")).find("no such question"), std::string::npos);
    EXPECT_NE(got(link.ask(R"({"do": "picture", "frame": 0, "width": 9, "height": 9})")).find("No film is open"),
              std::string::npos);
    EXPECT_TRUE(link.alive());
}

TEST(Film, WhatIsNotFinishedLeavesNoFile) {
    const test::TempFolder folder;
    const std::string file = (folder / "clip.mp4").string();
    {
        FilmWriter writer = got(FilmWriter::begin({.file = file, .width = 64, .height = 36, .frames_per_s = 25}));
        EXPECT_EQ(writer.coded_as().substr(0, 5), "H.264");
        ASSERT_TRUE(writer.put(0));
    }
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
    EXPECT_FALSE(FilmWriter::begin({.file = (folder / "nowhere/clip.mp4").string(), .width = 64, .height = 36}));
    EXPECT_FALSE(FilmWriter::begin({.file = (folder / "clip.txt").string(), .width = 64, .height = 36}));
    EXPECT_FALSE(FilmWriter::begin({.file = file, .width = 63, .height = 36}));
    EXPECT_TRUE(std::filesystem::is_empty(folder.path()));
}

}  // namespace
}  // namespace rendak
