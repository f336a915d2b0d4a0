#include "tests/support/made_film.h"

#include <cmath>

#include "tests/support/got.h"

namespace rendak::test {
namespace {

constexpr int bits = 16;

}  // namespace

void write_film(const MadeFilm& film) {
    FilmWriter writer = got(FilmWriter::begin(film.wish));
    const int w = film.wish.width, h = film.wish.height, block = w / bits;
    if (film.wish.sound_hz > 0) {
        // A tone whose pitch says the second: 200 Hz in the first, 300 Hz in the next.
        std::vector<float> tone(static_cast<std::size_t>(film.frames / film.wish.frames_per_s * film.wish.sound_hz));
        double phase = 0;
        for (std::size_t i = 0; i < tone.size(); ++i) {
            const double t = static_cast<double>(i) / film.wish.sound_hz;
            phase += 2 * 3.14159265358979 * (200 + 100 * std::floor(t)) / film.wish.sound_hz;
            tone[i] = static_cast<float>(0.3 * std::sin(phase));
        }
        if (const auto done = writer.put_sound(tone); !done) throw std::runtime_error(done.error().text());
    }
    for (int k = 0; k < film.frames; ++k) {
        const auto pixels = writer.pixels();
        for (int y = 0; y < h; ++y) {
            for (int x = 0; x < w; ++x) {
                const auto at = static_cast<std::size_t>(y * w + x) * 4;
                int grey = 60 + (x + y + 3 * k) % 120;
                if (y >= h - block)
                    grey = (((k + film.first_number) >> std::min(bits - 1, x / block)) & 1) != 0 ? 235 : 16;
                for (std::size_t c = 0; c < 3; ++c) pixels[at + c] = static_cast<std::uint8_t>(grey);
            }
        }
        const std::int64_t at = film.at.empty() ? k : film.at[static_cast<std::size_t>(k)];
        if (const auto done = writer.put(at); !done) throw std::runtime_error(done.error().text());
    }
    if (const auto done = writer.finish(); !done) throw std::runtime_error(done.error().text());
}

int number_in(std::span<const std::uint8_t> bgra, int width, int height) {
    const int block = width / bits, y = height - block / 2;
    int out = 0;
    for (int bit = 0; bit < bits; ++bit) {
        const int x = bit * block + block / 2;
        if (bgra[static_cast<std::size_t>(y * width + x) * 4 + 1] > 125) out |= 1 << bit;
    }
    return out;
}

}  // namespace rendak::test
