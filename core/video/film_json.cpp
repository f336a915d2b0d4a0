#include "core/video/film_json.h"

#include <nlohmann/json.hpp>

namespace rendak {

using Json = nlohmann::json;

Json to_json(const FilmFacts& facts) {
    return {{"width", facts.width},
            {"height", facts.height},
            {"turned_deg", facts.turned_deg},
            {"codec", facts.codec},
            {"container", facts.container},
            {"frames_per_s", facts.frames_per_s},
            {"even", facts.even},
            {"duration_s", facts.duration_s},
            {"frames", facts.frames},
            {"sound", facts.sound},
            {"sound_hz", facts.sound_hz},
            {"start_unix_s", facts.start_unix_s ? Json(*facts.start_unix_s) : Json(nullptr)},
            {"part_begin_s", facts.part_begin_s},
            {"doubt", facts.doubt}};
}

FilmFacts film_facts_of(const Json& json) {
    FilmFacts out;
    out.width = json.at("width");
    out.height = json.at("height");
    out.turned_deg = json.at("turned_deg");
    out.codec = json.at("codec");
    out.container = json.at("container");
    out.frames_per_s = json.at("frames_per_s");
    out.even = json.at("even");
    out.duration_s = json.at("duration_s");
    out.frames = json.at("frames");
    out.sound = json.at("sound");
    out.sound_hz = json.at("sound_hz");
    if (json.at("start_unix_s").is_number()) out.start_unix_s = json.at("start_unix_s").get<double>();
    out.part_begin_s = json.at("part_begin_s").get<std::vector<double>>();
    out.doubt = json.at("doubt");
    return out;
}

Json to_json(const FilmWish& wish) {
    return {{"file", wish.file},         {"width", wish.width},
            {"height", wish.height},     {"frames_per_s", wish.frames_per_s},
            {"sound_hz", wish.sound_hz}, {"codec", wish.codec},
            {"quality", wish.quality},   {"gop", wish.gop},
            {"start", wish.start}};
}

FilmWish film_wish_of(const Json& json) {
    FilmWish out;
    out.file = json.at("file");
    out.width = json.at("width");
    out.height = json.at("height");
    out.frames_per_s = json.at("frames_per_s");
    out.sound_hz = json.at("sound_hz");
    out.codec = json.at("codec");
    out.quality = json.at("quality");
    out.gop = json.at("gop");
    out.start = json.at("start");
    return out;
}

}  // namespace rendak
