#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/video/film_facts.h"

namespace rendak {

// How facts and wishes travel between the programs and rendak-film. Reading throws nlohmann's exceptions: who reads
// knows whom to blame.
[[nodiscard]] nlohmann::json to_json(const FilmFacts& facts);
[[nodiscard]] FilmFacts film_facts_of(const nlohmann::json& json);
[[nodiscard]] nlohmann::json to_json(const FilmWish& wish);
[[nodiscard]] FilmWish film_wish_of(const nlohmann::json& json);

}  // namespace rendak
