// Films go through the process that decodes them: whatever the bytes are, an answer comes back, and the process is
// there again for the next.
#include <cstdlib>

#include "core/video/film_link.h"
#include "tests/fuzz/fuzz.h"
#include "tests/support/made_film.h"
#include "tests/support/temp_folder.h"

namespace {

const rendak::test::TempFolder& folder() {
    static const rendak::test::TempFolder it;
    return it;
}

}  // namespace

int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto file = folder().write("film.bin", std::string(reinterpret_cast<const char*>(data), size));
    auto film = rendak::FilmReader::open({file.string()});
    if (!film) {
        if (film.error().message.empty()) std::abort();  // a sentence, always
        return 0;
    }
    if (film->times_s().size() != film->facts().frames) std::abort();
    for (const std::size_t frame : {film->facts().frames - 1, film->facts().frames / 2})
        (void)film->picture(frame, 64, 36);
    (void)film->sound(0, 0.5, 8000);
    return 0;
}

std::vector<std::string> rendak::fuzz::seeds() {
    std::vector<std::string> out;
    for (const char* name : {"seed.mp4", "seed.mkv", "seed.avi"}) {
        test::MadeFilm made;
        made.frames = 8;
        made.wish.width = 64;
        made.wish.height = 36;
        made.wish.file = (folder() / name).string();
        made.wish.sound_hz = 16000;
        test::write_film(made);
        out.push_back(test::read_all(made.wish.file));
    }
    return out;
}
