#include "core/recording/gpx.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <pugixml.hpp>

#include "core/base/date.h"
#include "core/base/file_io.h"
#include "core/base/median.h"
#include "core/base/text.h"
#include "core/recording/cell_number.h"
#include "core/recording/cell_time.h"
#include "core/recording/clock_fit.h"
#include "core/recording/table_text.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

/// "gpxtpx:speed" -> "speed".
std::string_view local_name(const pugi::xml_node& node) {
    const std::string_view name = node.name();
    const auto colon = name.find(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

/// Real files have five levels; what is nested a thousand deep is made to break its reader.
constexpr int deepest_tag = 64;
constexpr std::size_t most_bytes = std::size_t{1} << 30;

bool is_nested_too_deep(std::string_view text) {
    int depth = 0;
    for (std::size_t at = text.find('<'); at != std::string_view::npos; at = text.find('<', at + 1)) {
        const std::string_view rest = text.substr(at + 1);
        if (rest.rfind("!--", 0) == 0) {
            at = std::min(text.find("-->", at), text.size() - 1);
        } else if (rest.rfind("![CDATA[", 0) == 0) {
            at = std::min(text.find("]]>", at), text.size() - 1);
        } else if (rest.rfind('/', 0) == 0) {
            --depth;
        } else if (rest.rfind('!', 0) != 0 && rest.rfind('?', 0) != 0) {
            const std::size_t end = text.find('>', at);
            if (end == std::string_view::npos) return false;
            if (text[end - 1] != '/' && ++depth > deepest_tag) return true;
        }
    }
    return false;
}

struct Points {
    std::vector<double> times_s, latitude, longitude, height, speed, course;
};

struct TrackPoint {
    double time_s, latitude, longitude, height, speed, course;
    std::size_t track;  ///< counted from 0
};

/// A number with a decimal point or comma; NaN for anything else, also for nothing.
double gpx_number(std::string_view text) {
    text = trimmed(text);
    const char sign = text.find('.') == std::string_view::npos && text.find(',') != std::string_view::npos ? ',' : '.';
    const auto read = loose_number(text, sign);
    return read && read->rest.empty() ? read->value : std::nan("");
}

pugi::xml_node child(const pugi::xml_node& node, std::string_view name) {
    for (const pugi::xml_node& one : node.children()) {
        if (local_name(one) == name) return one;
    }
    return {};
}

/// The first element of this name under a point or in its extensions.
pugi::xml_node element(const pugi::xml_node& point, std::string_view name) {
    for (const pugi::xml_node& one : point.children()) {
        if (local_name(one) == name) return one;
        if (local_name(one) != "extensions") continue;
        for (const pugi::xml_node& extra : one.children()) {
            if (local_name(extra) == name) return extra;
            if (const auto inner = child(extra, name)) return inner;
        }
    }
    return {};
}

double value_of(const pugi::xml_node& point, std::string_view name) {
    return gpx_number(element(point, name).child_value());
}

/// The unit that a file gives its speeds, if any: an attribute of the element, or behind the number.
std::string unit_of(const pugi::xml_node& node) {
    for (const char* attribute : {"unit", "units", "uom"}) {
        if (const auto found = node.attribute(attribute)) return found.as_string();
    }
    const auto read = loose_number(node.child_value(), '.');
    return read ? std::string(read->rest) : std::string();
}

bool earlier(const TrackPoint& a, const TrackPoint& b) {
    return a.time_s < b.time_s;
}

/// How far from each other two tracks are while both run, in metres: the middle of their distances; NaN where they do
/// not run at the same time. `a` is in order of time.
double apart_m(const std::vector<TrackPoint>& a, const std::vector<TrackPoint>& b) {
    std::vector<double> distances;
    for (const TrackPoint& point : b) {
        const auto after = std::lower_bound(a.begin(), a.end(), point, earlier);
        if (after == a.end() || (after == a.begin() && after->time_s > point.time_s)) continue;
        const TrackPoint& before = after == a.begin() ? *after : *std::prev(after);
        const double step = after->time_s - before.time_s;
        if (step > 30) continue;  // a hole in the one is where the other may be
        const double share = step > 0 ? (point.time_s - before.time_s) / step : 0;
        const double north = point.latitude - (before.latitude + share * (after->latitude - before.latitude)),
                     east = std::remainder(
                         point.longitude - (before.longitude + share * (after->longitude - before.longitude)), 360);
        constexpr double metres = 111'195;
        distances.push_back(metres * std::hypot(north, east * std::cos(point.latitude * std::numbers::pi / 180)));
    }
    return distances.size() < 10 ? std::nan("") : median_of(std::move(distances));
}

/// Whether two of the tracks are of different cars: far from each other at the same time.
bool are_two_cars(const std::vector<TrackPoint>& points, std::size_t tracks) {
    constexpr double far_m = 50;
    std::vector<std::vector<TrackPoint>> by_track(std::min<std::size_t>(tracks, 50));
    for (const TrackPoint& point : points)
        if (point.track < by_track.size()) by_track[point.track].push_back(point);
    for (std::vector<TrackPoint>& track : by_track) std::sort(track.begin(), track.end(), earlier);
    for (std::size_t a = 0; a < by_track.size(); ++a)
        for (std::size_t b = a + 1; b < by_track.size(); ++b)
            if (apart_m(by_track[a], by_track[b]) > far_m) return true;
    return false;
}

/// In order of time, each time once; what came too late is put where it belongs.
void order(std::vector<TrackPoint>& points, std::vector<std::string>& notes) {
    std::size_t late = 0;
    double latest = -1e300;
    for (const TrackPoint& point : points) {
        late += point.time_s < latest;
        latest = std::max(latest, point.time_s);
    }
    const std::size_t before = points.size();
    std::stable_sort(points.begin(), points.end(), earlier);
    points.erase(std::unique(points.begin(), points.end(),
                             [](const TrackPoint& a, const TrackPoint& b) { return a.time_s == b.time_s; }),
                 points.end());
    const std::size_t twice = before - points.size();
    if (twice > 0)
        notes.push_back(counted(twice, "point does", "points do") + " not come later than another one; left out.");
    if (late > twice)
        notes.push_back("The points are not in order of time (" + counted(late, "comes", "come") +
                        " later than they should); they were sorted.");
    // A single time far from all others is damaged.
    while (points.size() > 3) {
        const double length = points[points.size() - 2].time_s - points.front().time_s;
        const double head = points[1].time_s - points[0].time_s, rest = points.back().time_s - points[1].time_s;
        if (points.back().time_s - points[points.size() - 2].time_s > std::max(3600.0, 100 * length))
            points.pop_back();
        else if (head > std::max(3600.0, 100 * rest))
            points.erase(points.begin());
        else
            break;
        notes.emplace_back("A point whose time is far from all others was left out.");
    }
}

Channel channel_of(const Points& points, const std::vector<double>& values, const char* name, const char* quantity,
                   const char* unit, bool as_double) {
    ChannelStorage storage;
    const auto clock = fit_regular_clock(points.times_s, 2e-3);
    const auto put = [&](auto& into) {
        using Number = typename std::decay_t<decltype(into)>::value_type;
        if (!clock) {
            for (const double value : values) into.push_back(static_cast<Number>(value));
            storage.times_s.assign(points.times_s.begin(), points.times_s.end());
            return;
        }
        into.resize(clock->size);
        std::fill(into.begin(), into.end(), std::numeric_limits<Number>::quiet_NaN());
        for (std::size_t i = 0; i < values.size(); ++i)
            into[clock->slot_of(points.times_s[i])] = static_cast<Number>(values[i]);
    };
    if (as_double)
        put(storage.doubles);
    else
        put(storage.floats);
    Channel out =
        make_channel(name, quantity, unit, std::move(storage), clock ? clock->start_s : 0, clock ? clock->rate_hz : 0);
    out.source_unit = unit;
    return out;
}

}  // namespace

bool looks_like_gpx(std::string_view text) {
    // Of UTF-16 every second byte is zero.
    std::string head(text.substr(0, 4096));
    std::erase(head, '\0');
    const auto mark = head.find_first_not_of("\xEF\xBB\xBF\xFF\xFE \t\r\n");
    if (mark == std::string::npos || head[mark] != '<') return false;
    if (head.find("<gpx") != std::string::npos) return true;
    const auto prefixed = head.find(":gpx");  // a root with a namespace: "<g:gpx"
    return prefixed != std::string::npos && head.rfind('<', prefixed) != std::string::npos &&
           head.find_first_of(" >", head.rfind('<', prefixed)) > prefixed;
}

Result<ReadRecording> read_gpx(const std::filesystem::path& file, const JobContext& job) {
    const auto opened = TableText::open(file);
    if (!opened) return pass_on(opened.error());
    const std::string_view text = opened->text();
    pugi::xml_document document;
    if (text.size() > most_bytes)
        return fail(ErrorCode::bad_input, "A GPX file of more than 1 GB is not read. Export the track in parts.",
                    file.string());
    if (is_nested_too_deep(text))
        return fail(ErrorCode::bad_input,
                    "This is no readable GPX file (its elements are nested more than 64 levels deep); nothing was "
                    "imported.",
                    file.string());
    const auto parsed = document.load_buffer(text.data(), text.size(), pugi::parse_default,
                                             opened->was_utf16() ? pugi::encoding_utf8 : pugi::encoding_auto);
    ReadRecording out;
    const auto line_of = [&](std::ptrdiff_t offset) {
        const auto before = text.substr(0, static_cast<std::size_t>(std::max<std::ptrdiff_t>(offset, 0)));
        return std::to_string(std::count(before.begin(), before.end(), '\n') + 1);
    };
    const pugi::xml_node root = child(document, "gpx");
    // A file that ends in the middle still has the points before.
    if (!parsed && !root) {
        return fail(ErrorCode::bad_input,
                    std::string("This is no readable GPX file (") + parsed.description() + " at line " +
                        line_of(parsed.offset) + "). Export it again; nothing was imported.",
                    file.string() + ":" + line_of(parsed.offset));
    }
    if (!parsed)
        out.notes.push_back("The file ends in the middle or is damaged at line " + line_of(parsed.offset) +
                            "; the points before it were kept.");
    std::vector<TrackPoint> read;
    std::string speed_unit;
    std::size_t without_time = 0, without_place = 0, tracks = 0;
    for (const pugi::xml_node& track : root.children()) {
        if (local_name(track) != "trk") continue;
        ++tracks;
        for (const pugi::xml_node& segment : track.children()) {
            if (local_name(segment) != "trkseg") continue;
            for (const pugi::xml_node& point : segment.children()) {
                if (local_name(point) != "trkpt") continue;
                const double latitude = gpx_number(point.attribute("lat").as_string()),
                             longitude = gpx_number(point.attribute("lon").as_string());
                if (!(std::abs(latitude) <= 90) || !(std::abs(longitude) <= 360)) {
                    ++without_place;
                    continue;
                }
                const auto time = parse_time_text(trimmed(child(point, "time").child_value()), '.');
                if (!time || *time < 1e6) {
                    ++without_time;
                    continue;
                }
                const pugi::xml_node speed = element(point, "speed");
                if (speed && speed_unit.empty()) speed_unit = unit_of(speed);
                const auto speed_number =
                    loose_number(speed.child_value(),
                                 std::string_view(speed.child_value()).find('.') == std::string_view::npos ? ',' : '.');
                const double course = value_of(point, "course");
                read.push_back({*time, latitude, longitude > 180 ? longitude - 360 : longitude, value_of(point, "ele"),
                                speed_number ? speed_number->value : std::nan(""),
                                std::isnan(course) ? value_of(point, "heading") : course, tracks - 1});
                if (read.size() % 4096 == 0 && job.stopped())
                    return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file.string());
            }
        }
    }
    if (opened->shrank()) return pass_on(file_changed(file));
    if (tracks > 1 && are_two_cars(read, tracks))
        return fail(
            ErrorCode::bad_input,
            "The file holds " + std::to_string(tracks) +
                " tracks that are at different places at the same time: of several cars. Export each car's track "
                "by itself; nothing was imported.",
            file.string());
    order(read, out.notes);
    if (read.size() < 2) {
        return fail(ErrorCode::bad_input,
                    without_time > 1
                        ? "The points of this GPX file have no times: it is a route, not a recording. Export "
                          "the recorded track with its times."
                    : without_place > 1
                        ? "The points of this GPX file have no usable positions (lat and lon in degrees); nothing was "
                          "imported."
                        : "This GPX file holds no track points; nothing was imported.",
                    file.string());
    }
    double speed_factor = 1;
    if (!speed_unit.empty()) {
        const auto unit = parse_unit(speed_unit);
        if (!unit || !(unit->dimension == Dimension{1, 0, -1, 0, 0, 0})) {
            out.notes.push_back("The speeds name the unit \"" + speed_unit +
                                "\", which is not known; they were left out.");
            speed_factor = std::nan("");
        } else {
            speed_factor = unit->factor;
        }
    }
    Points points;
    for (const TrackPoint& point : read) {
        points.times_s.push_back(point.time_s);
        points.latitude.push_back(point.latitude);
        points.longitude.push_back(point.longitude);
        points.height.push_back(point.height);
        points.speed.push_back(point.speed * speed_factor);
        points.course.push_back(point.course);
    }
    if (tracks > 1)
        out.notes.push_back("The file holds " + std::to_string(tracks) + " tracks; they are one recording.");
    if (without_place > 0)
        out.notes.push_back(counted(without_place, "point has", "points have") + " no usable position; left out.");
    if (without_time > 0)
        out.notes.push_back(counted(without_time, "point has", "points have") + " no time; left out.");
    const double first = points.times_s.front();
    for (double& t : points.times_s) t -= first;
    Recording& recording = out.recording;
    recording.source_name = file.filename().string();
    recording.logger = root.attribute("creator").as_string();
    recording.start_unix_s = first;
    recording.channels.push_back(channel_of(points, points.latitude, "Latitude", "latitude", "deg", true));
    recording.channels.push_back(channel_of(points, points.longitude, "Longitude", "longitude", "deg", true));
    const auto add = [&](const std::vector<double>& values, const char* name, const char* quantity, const char* unit) {
        if (std::all_of(values.begin(), values.end(), [](double x) { return std::isnan(x); })) return;
        recording.channels.push_back(channel_of(points, values, name, quantity, unit, false));
    };
    add(points.height, "Height", "altitude", "m");
    add(points.speed, "Speed", "speed", "m/s");
    add(points.course, "Course", "heading", "deg");
    return out;
}

Result<void> write_gpx(const Recording& recording, const std::filesystem::path& file, const JobContext& job) {
    const Channel* latitude = recording.find("latitude");
    const Channel* longitude = recording.find("longitude");
    if (latitude == nullptr || longitude == nullptr)
        return fail(ErrorCode::bad_input,
                    "This run has no positions, and a GPX file is nothing else. Export it as CSV or MDF.",
                    file.string());
    const Channel* height = recording.find("altitude");
    const Channel* speed = recording.find("speed");
    std::string text =
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<gpx version=\"1.1\" creator=\"Rendak\" "
        "xmlns=\"http://www.topografix.com/GPX/1/1\" xmlns:r=\"urn:rendak:gpx:1\">\n<trk><trkseg>\n";
    const double start = recording.start_unix_s.value_or(1e6);
    for (std::size_t i = 0; i < latitude->size(); ++i) {
        if (i % 65536 == 0) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file.string());
            job.report(static_cast<double>(i) / static_cast<double>(latitude->size()));
        }
        const double t = latitude->clock.time_at(i), lat = latitude->at(i), lon = longitude->value_at(t);
        if (std::isnan(lat) || std::isnan(lon)) continue;
        text += "<trkpt lat=\"" + fixed(lat, 8) + "\" lon=\"" + fixed(lon, 8) + "\">";
        if (const double z = height == nullptr ? std::nan("") : height->value_at(t); !std::isnan(z))
            text += "<ele>" + fixed(z, 2) + "</ele>";
        text += "<time>" + utc_iso(start + t, 3) + "</time>";
        if (const double v = speed == nullptr ? std::nan("") : speed->value_at(t); !std::isnan(v))
            text += "<extensions><r:speed>" + fixed(v, 3) + "</r:speed></extensions>";
        text += "</trkpt>\n";
    }
    text += "</trkseg></trk>\n</gpx>\n";
    return write_file(file, text);
}

}  // namespace rendak
