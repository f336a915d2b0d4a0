#pragma once

#include <filesystem>
#include <vector>

#include "core/video/film_link.h"

namespace rendak::test {

/// A film whose frames each carry their number as sixteen black or white blocks along the lower edge: what is decoded
/// says which frame it is. `at`: the moment of each frame in frames; empty: one after the other.
struct MadeFilm {
    int frames = 100;
    FilmWish wish = {.file = {}, .width = 320, .height = 180, .frames_per_s = 25};
    std::vector<std::int64_t> at = {};
    int first_number = 0;
};
void write_film(const MadeFilm& film);
/// The number that a decoded picture carries.
[[nodiscard]] int number_in(std::span<const std::uint8_t> bgra, int width, int height);

}  // namespace rendak::test
