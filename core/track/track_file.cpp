#include <nlohmann/json.hpp>

#include "core/track/track.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

Json coordinates(const LocalPlane& plane, Point place) {
    const GeoPoint at = plane.to_geo(place);
    const auto rounded = [](double degrees) { return std::round(degrees * 1e8) / 1e8; };
    return Json::array({rounded(at.longitude_deg), rounded(at.latitude_deg)});
}

GeoPoint place_from(const Json& pair) {
    return {pair.at(1).get<double>(), pair.at(0).get<double>()};
}

}  // namespace

std::string track_to_geojson(const Track& track) {
    const LocalPlane plane(track.origin);
    Json line = Json::array();
    for (const Point place : track.line) line.push_back(coordinates(plane, place));
    line.push_back(line.front());
    Json features = Json::array();
    features.push_back({{"type", "Feature"},
                        {"properties", {{"role", "centreline"}, {"name", track.name}, {"length_m", track.length_m}}},
                        {"geometry", {{"type", "LineString"}, {"coordinates", line}}}});
    const Point side = left_of(track.start.direction) * track.start.half_width_m;
    features.push_back(
        {{"type", "Feature"},
         {"properties", {{"role", "start"}, {"heading_deg", heading_from_direction(track.start.direction)}}},
         {"geometry",
          {{"type", "LineString"},
           {"coordinates", Json::array({coordinates(plane, track.start.position + side),
                                        coordinates(plane, track.start.position - side)})}}}});
    for (const Corner& corner : track.corners) {
        features.push_back(
            {{"type", "Feature"},
             {"properties",
              {{"role", "corner"},
               {"number", corner.number},
               {"start_m", corner.start_m},
               {"apex_m", corner.apex_m},
               {"end_m", corner.end_m},
               {"left", corner.left},
               {"radius_m", corner.radius_m},
               {"angle_deg", corner.angle_deg}}},
             {"geometry", {{"type", "Point"}, {"coordinates", coordinates(plane, track.position_at(corner.apex_m))}}}});
    }
    const Json root = {{"type", "FeatureCollection"}, {"features", features}};
    return root.dump(1);
}

Result<Track> track_from_geojson(const std::string& text, const std::string& where) {
    try {
        const Json root = Json::parse(text);
        Track track;
        std::vector<Corner> corners;
        const auto& features = root.at("features");
        for (const auto& feature : features) {
            if (feature.at("properties").value("role", "") != "centreline") continue;
            const auto& points = feature.at("geometry").at("coordinates");
            if (points.size() < 11) return fail(ErrorCode::bad_input, "The centreline has too few points.", where);
            track.name = feature.at("properties").value("name", "");
            track.length_m = feature.at("properties").at("length_m").get<double>();
            track.origin = place_from(points.front());
            const LocalPlane plane(track.origin);
            for (std::size_t i = 0; i + 1 < points.size(); ++i)
                track.line.push_back(plane.to_local(place_from(points[i])));
        }
        if (track.line.empty() || !(track.length_m > 0)) {
            return fail(ErrorCode::bad_input, "The track file has no centreline with a length.", where);
        }
        const LocalPlane plane(track.origin);
        bool has_start = false;
        for (const auto& feature : features) {
            const auto& properties = feature.at("properties");
            const std::string role = properties.value("role", "");
            if (role == "start") {
                const auto& points = feature.at("geometry").at("coordinates");
                const Point left = plane.to_local(place_from(points.at(0))),
                            right = plane.to_local(place_from(points.at(1)));
                track.start.position = (left + right) * 0.5;
                track.start.half_width_m = length(left - right) / 2;
                track.start.direction = unit(Point{} - left_of(left - right));
                has_start = true;
            } else if (role == "corner") {
                Corner corner;
                corner.number = properties.at("number").get<int>();
                corner.start_m = properties.at("start_m").get<double>();
                corner.apex_m = properties.at("apex_m").get<double>();
                corner.end_m = properties.at("end_m").get<double>();
                corner.left = properties.at("left").get<bool>();
                corner.radius_m = properties.value("radius_m", 0.0);
                corner.angle_deg = properties.value("angle_deg", 0.0);
                corners.push_back(corner);
            }
        }
        if (!has_start) return fail(ErrorCode::bad_input, "The track file has no start line.", where);
        complete_track(track);
        track.corners = std::move(corners);
        return track;
    } catch (const nlohmann::json::exception& problem) {
        return fail(ErrorCode::bad_input, std::string("The track file cannot be read: ") + problem.what(), where);
    }
}

}  // namespace rendak
