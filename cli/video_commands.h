#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace rendak::cli {

struct FilmsToAdd {
    std::vector<std::string> files;
    std::string folder, camera, car;
    bool keep = false;
};
int add_films(const std::string& library, const FilmsToAdd& films);
int list_films(const std::string& library);

struct FilmToSync {
    std::int64_t film = 0, run = 0;
    std::optional<double> offset_s, nudge_s, near_s;
    std::string log;
    std::vector<std::string> marks;
    bool clocks = false, write = false;
};
/// Without anything said it proposes, and writes that only when told to.
int sync_film(const std::string& library, const FilmToSync& wish);
int find_films(const std::string& library, const std::string& folder);
int remove_film(const std::string& library, std::int64_t film);

}  // namespace rendak::cli
