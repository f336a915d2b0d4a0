#include <algorithm>
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>
#include <stdexcept>

#include "core/base/json_bounds.h"
#include "core/base/text.h"
#include "core/track/projection.h"
#include "core/track/track.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;
constexpr double degrees = 180 / 3.14159265358979323846;

Json coordinates(const LocalPlane& plane, Point place) {
    const GeoPoint at = plane.to_geo(place);
    const auto rounded = [](double value) { return std::round(value * 1e8) / 1e8; };
    return Json::array({rounded(at.longitude_deg), rounded(at.latitude_deg)});
}

/// Of any real circuit or road; a file that holds more is refused before anything is computed from it.
constexpr std::size_t most_features = 10'000, most_line_points = 50'000, most_points = 200'000;
constexpr double longest_m = 200'000;

/// A place that is none on earth, thrown while a file is read and told as a sentence.
struct NoPlace : std::runtime_error {
    using std::runtime_error::runtime_error;
};

GeoPoint place_from(const Json& pair) {
    const GeoPoint out{pair.at(1).get<double>(), pair.at(0).get<double>()};
    if (!(std::abs(out.latitude_deg) <= 90) || !(std::abs(out.longitude_deg) <= 180))
        throw NoPlace("The track file holds a place that is none: latitude " + fixed(out.latitude_deg, 6) +
                      ", longitude " + fixed(out.longitude_deg, 6) + ".");
    return out;
}

/// The number of points in all lines of a file.
std::size_t points_in(const Json& features) {
    std::size_t out = 0;
    for (const Json& part : features) {
        const Json& places = part.at("geometry").at("coordinates");
        out += places.is_array() ? places.size() : 0;
    }
    return out;
}

Json feature(Json properties, const char* shape, Json places) {
    return {{"type", "Feature"},
            {"properties", std::move(properties)},
            {"geometry", {{"type", shape}, {"coordinates", std::move(places)}}}};
}

Json rounded_list(const std::vector<double>& values, double factor, double steps) {
    Json out = Json::array();
    for (const double value : values)
        out.push_back(std::isfinite(value) ? Json(std::round(value * factor * steps) / steps) : Json(nullptr));
    return out;
}

Json line_across(const LocalPlane& plane, const StartLine& line) {
    const Point side = left_of(line.direction) * line.half_width_m;
    return Json::array({coordinates(plane, line.position + side), coordinates(plane, line.position - side)});
}

StartLine line_from(const LocalPlane& plane, const Json& points) {
    const Point left = plane.to_local(place_from(points.at(0))), right = plane.to_local(place_from(points.at(1)));
    StartLine line;
    line.position = (left + right) * 0.5;
    line.half_width_m = length(left - right) / 2;
    line.direction = unit(Point{} - left_of(left - right));
    return line;
}

Json edge_places(const LocalPlane& plane, const Track& track, bool left) {
    Json out = Json::array();
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        const double away = left ? track.edges.left_m[i] : -track.edges.right_m[i];
        out.push_back(coordinates(plane, track.line[i] + left_of(track.tangent[i]) * away));
    }
    return out;
}

/// Distances from the line of an edge drawn by anybody: its points need not be those of the line.
std::vector<double> edge_offsets(const LocalPlane& plane, const Track& track, const Json& places, double side) {
    struct Sample {
        double at_m, away_m;
    };
    std::vector<Sample> samples;
    Projector projector(track);
    bool first = true;
    Point before;
    for (const Json& pair : places) {
        const Point place = plane.to_local(place_from(pair));
        if (first) projector.start_near(0, place);
        // A hundred steps between two far points, so that the search keeps to its part of the road.
        const int pieces = first ? 1 : std::clamp(static_cast<int>(length(place - before) / 10), 1, 100);
        for (int k = 1; k <= pieces; ++k) {
            const Point here = first ? place : before + (place - before) * (static_cast<double>(k) / pieces);
            const Projected at = projector.project(here);
            samples.push_back({at.distance_m, side * at.left_m});
        }
        first = false;
        before = place;
    }
    std::vector<double> out(track.line.size(), std::numeric_limits<double>::quiet_NaN());
    if (samples.empty()) return out;
    std::sort(samples.begin(), samples.end(), [](const Sample& a, const Sample& b) { return a.at_m < b.at_m; });
    std::size_t k = 0;
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double at = static_cast<double>(i) * track.step_m();
        while (k + 1 < samples.size() && samples[k + 1].at_m <= at) ++k;
        const Sample &a = samples[k], &b = samples[std::min(k + 1, samples.size() - 1)];
        const double width = b.at_m - a.at_m;
        const double share = width > 0 ? std::clamp((at - a.at_m) / width, 0.0, 1.0) : 0;
        out[i] = a.away_m + share * (b.away_m - a.away_m);
    }
    return out;
}

Profile profile_from(const Json& properties, const char* values, const char* sds, std::size_t count, double factor) {
    Profile profile;
    if (!properties.contains(values)) return profile;
    // Where it is not known the list holds null.
    const auto number = [factor](const Json& value) {
        return value.is_null() ? std::numeric_limits<double>::quiet_NaN() : value.get<double>() * factor;
    };
    for (const Json& value : properties.at(values)) profile.value.push_back(number(value));
    if (properties.contains(sds))
        for (const Json& value : properties.at(sds)) profile.sd.push_back(number(value));
    if (profile.sd.size() != profile.value.size()) profile.sd.assign(profile.value.size(), 0);
    return profile.value.size() == count ? profile : Profile{};
}

Corner corner_from(const Json& properties) {
    Corner corner;
    corner.number = properties.at("number").get<int>();
    corner.name = printable(properties.value("name", ""));
    corner.start_m = properties.at("start_m").get<double>();
    corner.apex_m = properties.at("apex_m").get<double>();
    corner.end_m = properties.at("end_m").get<double>();
    corner.left = properties.at("left").get<bool>();
    corner.radius_m = properties.value("radius_m", 0.0);
    corner.angle_deg = properties.value("angle_deg", 0.0);
    return corner;
}

/// Where the track's plane lies: as the file says, else at its first point. Far away it would bend what is drawn in it.
GeoPoint origin_from(const Json& about, GeoPoint first) {
    constexpr double farthest_m = 30e3;
    const auto given = about.find("plane_origin");
    if (given == about.end() || !given->is_array() || given->size() < 2 || !(*given)[0].is_number() ||
        !(*given)[1].is_number())
        return first;
    const GeoPoint origin = place_from(*given);
    const bool valid = std::abs(origin.latitude_deg) <= 90 && std::abs(origin.longitude_deg) <= 360;
    return valid && length(LocalPlane(origin).to_local(first)) < farthest_m ? origin : first;
}

/// What is wrong with the line of a track; empty when nothing. Distances are counted in even steps along it.
std::string fault_of_line(const Track& track) {
    const std::size_t n = track.line.size(), steps = track.open ? n - 1 : n;
    double total_m = 0;
    for (std::size_t i = 0; i < steps; ++i) total_m += length(track.line[(i + 1) % n] - track.line[i]);
    if (!(total_m <= longest_m)) return "The centreline is longer than 200 km.";
    if (std::abs(total_m - track.length_m) > 0.05 * total_m + 5)
        return "The centreline is " + fixed(total_m, 0) + " m long, but the file says " + fixed(track.length_m, 0) +
               " m.";
    const double step_m = total_m / static_cast<double>(steps);
    for (std::size_t i = 0; i < steps; ++i) {
        const double here_m = length(track.line[(i + 1) % n] - track.line[i]);
        if (here_m < 0.25 * step_m || here_m > 4 * step_m)
            return "The points of the centreline are not in even steps: " + fixed(here_m, 2) + " m after point " +
                   std::to_string(i + 1) + ", " + fixed(step_m, 2) + " m elsewhere.";
    }
    const double off_m = length(track.start.position - track.line.front());
    if (!(off_m <= 30)) return "The start line lies " + fixed(off_m, 0) + " m from the first point of the centreline.";
    if (!(track.start.half_width_m > 0.5 && track.start.half_width_m < 500))
        return "The start line is " + fixed(2 * track.start.half_width_m, 1) + " m wide.";
    return {};
}

/// What is wrong with a track read from a file that anybody may have written; empty when nothing.
std::string fault_of(const Track& track) {
    if (std::string fault = fault_of_line(track); !fault.empty()) return fault;
    double before = 0;
    for (const Corner& corner : track.corners) {
        if (!(corner.start_m >= before - 0.5 && corner.start_m <= corner.apex_m && corner.apex_m <= corner.end_m &&
              corner.end_m <= track.length_m + 0.5))
            return "The limits of " + corner.title() + " are not in order along the track.";
        before = corner.end_m;
    }
    before = 0;
    for (const double line : track.sector_lines_m) {
        if (!(line > before && line < track.length_m)) return "The sector lines are not in order along the track.";
        before = line;
    }
    return {};
}

}  // namespace

std::string track_to_geojson(const Track& track) {
    const LocalPlane plane(track.origin);
    Json line = Json::array();
    for (std::size_t i = 0; i < track.line.size(); ++i) {
        line.push_back(coordinates(plane, track.line[i]));
        if (!track.height.value.empty()) line.back().push_back(std::round(track.height.value[i] * 100) / 100);
    }
    if (!track.open) line.push_back(line.front());
    Json about = {{"role", "centreline"}, {"name", track.name}, {"length_m", track.length_m}};
    // Stays where it is when the start line moves: paths that are kept lie in this plane.
    about["plane_origin"] = {track.origin.longitude_deg, track.origin.latitude_deg};
    if (track.open) about["open"] = true;
    if (track.shape_only) about["shape_only"] = true;
    if (!track.height.value.empty()) {
        about["height_m"] = rounded_list(track.height.value, 1, 100);
        about["height_sd_m"] = rounded_list(track.height.sd, 1, 100);
    }
    if (!track.banking.value.empty()) {
        about["banking_deg"] = rounded_list(track.banking.value, degrees, 100);
        about["banking_sd_deg"] = rounded_list(track.banking.sd, degrees, 100);
    }
    Json features = Json::array({feature(about, "LineString", line)});
    features.push_back(feature({{"role", "start"}, {"heading_deg", heading_from_direction(track.start.direction)}},
                               "LineString", line_across(plane, track.start)));
    if (track.open) features.push_back(feature({{"role", "finish"}}, "LineString", line_across(plane, track.finish())));
    for (const double at : track.sector_lines_m) {
        const StartLine across{track.position_at(at), track.tangent_at(at), track.start.half_width_m};
        features.push_back(
            feature({{"role", "sector line"}, {"distance_m", at}}, "LineString", line_across(plane, across)));
    }
    for (const Corner& corner : track.corners) {
        features.push_back(feature({{"role", "corner"},
                                    {"number", corner.number},
                                    {"name", corner.name},
                                    {"start_m", corner.start_m},
                                    {"apex_m", corner.apex_m},
                                    {"end_m", corner.end_m},
                                    {"left", corner.left},
                                    {"radius_m", corner.radius_m},
                                    {"angle_deg", corner.angle_deg}},
                                   "Point", coordinates(plane, track.position_at(corner.apex_m))));
    }
    if (track.edges.source != Edges::Source::none) {
        const char* source = track.edges.source == Edges::Source::driven ? "slow laps" : "spread of laps";
        features.push_back(
            feature({{"role", "left edge"}, {"source", source}}, "LineString", edge_places(plane, track, true)));
        features.push_back(
            feature({{"role", "right edge"}, {"source", source}}, "LineString", edge_places(plane, track, false)));
    }
    if (!track.pit_lane.empty()) {
        Json lane = Json::array();
        for (const Point place : track.pit_lane) lane.push_back(coordinates(plane, place));
        features.push_back(feature({{"role", "pit lane"}}, "LineString", lane));
    }
    const Json root = {{"type", "FeatureCollection"}, {"features", features}};
    return root.dump(1, ' ', false, Json::error_handler_t::replace);
}

Result<Track> track_from_geojson(const std::string& text, const std::string& where) {
    if (auto fine = check_json(text, where, {64U << 20, 2'000'000, 16}); !fine) return pass_on(fine.error());
    try {
        const Json root = Json::parse(text);
        Track track;
        Profile height, banking;
        const auto& features = root.at("features");
        if (features.size() > most_features || points_in(features) > most_points)
            return fail(ErrorCode::bad_input,
                        "The track file holds more than " + std::to_string(most_features) + " features or " +
                            std::to_string(most_points) + " points; no circuit has so many.",
                        where);
        for (const auto& part : features) {
            const auto& about = part.at("properties");
            if (about.value("role", "") != "centreline") continue;
            const auto& points = part.at("geometry").at("coordinates");
            if (!track.line.empty()) return fail(ErrorCode::bad_input, "The track file has two centrelines.", where);
            if (points.size() > most_line_points)
                return fail(ErrorCode::bad_input,
                            "The centreline has more than " + std::to_string(most_line_points) + " points.", where);
            if (points.size() < 11) return fail(ErrorCode::bad_input, "The centreline has too few points.", where);
            track.name = printable(about.value("name", ""));
            track.length_m = about.at("length_m").get<double>();
            track.open = about.value("open", false);
            track.shape_only = about.value("shape_only", false);
            track.origin = origin_from(about, place_from(points.front()));
            const LocalPlane plane(track.origin);
            const std::size_t count = points.size() - (track.open ? 0 : 1);
            for (std::size_t i = 0; i < count; ++i) track.line.push_back(plane.to_local(place_from(points[i])));
            height = profile_from(about, "height_m", "height_sd_m", count, 1);
            banking = profile_from(about, "banking_deg", "banking_sd_deg", count, 1 / degrees);
        }
        if (track.line.empty() || !(track.length_m > 0)) {
            return fail(ErrorCode::bad_input, "The track file has no centreline with a length.", where);
        }
        const LocalPlane plane(track.origin);
        bool has_start = false;
        complete_track(track);
        std::vector<Corner> corners;
        const Json *left = nullptr, *right = nullptr;
        for (const auto& part : features) {
            const auto& about = part.at("properties");
            const auto& places = part.at("geometry").at("coordinates");
            const std::string role = about.value("role", "");
            if (role == "start") {
                if (has_start) return fail(ErrorCode::bad_input, "The track file has two start lines.", where);
                track.start = line_from(plane, places);
                has_start = true;
            } else if (role == "corner") {
                corners.push_back(corner_from(about));
            } else if (role == "sector line") {
                track.sector_lines_m.push_back(about.at("distance_m").get<double>());
            } else if (role == "left edge" || role == "right edge") {
                (role == "left edge" ? left : right) = &places;
                track.edges.source =
                    about.value("source", "") == "spread of laps" ? Edges::Source::spread : Edges::Source::driven;
            } else if (role == "pit lane") {
                for (const auto& pair : places) track.pit_lane.push_back(plane.to_local(place_from(pair)));
            }
        }
        if (!has_start) return fail(ErrorCode::bad_input, "The track file has no start line.", where);
        track.corners = std::move(corners);
        track.height = std::move(height);
        track.banking = std::move(banking);
        if (left != nullptr && right != nullptr) {
            track.edges.left_m = edge_offsets(plane, track, *left, 1);
            track.edges.right_m = edge_offsets(plane, track, *right, -1);
        } else {
            track.edges = {};
        }
        if (const std::string fault = fault_of(track); !fault.empty()) return fail(ErrorCode::bad_input, fault, where);
        return track;
    } catch (const NoPlace& problem) {
        return fail(ErrorCode::bad_input, problem.what(), where);
    } catch (const nlohmann::json::exception& problem) {
        return fail(ErrorCode::bad_input, "The track file cannot be read: " + printable(problem.what()), where);
    }
}

}  // namespace rendak
