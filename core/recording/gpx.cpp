#include "core/recording/gpx.h"

#include <algorithm>
#include <cmath>
#include <pugixml.hpp>

#include "core/base/date.h"
#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/recording/clock_fit.h"
#include "core/recording/table_shape.h"

namespace rendak {
namespace {

/// "gpxtpx:speed" -> "speed".
std::string_view local_name(const pugi::xml_node& node) {
    const std::string_view name = node.name();
    const auto colon = name.find(':');
    return colon == std::string_view::npos ? name : name.substr(colon + 1);
}

/// Real files have five levels; what is nested a thousand deep is made to break its reader.
constexpr int deepest = 64;
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
            if (text[end - 1] != '/' && ++depth > deepest) return true;
        }
    }
    return false;
}

struct Points {
    std::vector<double> times_s, latitude, longitude, height, speed, course;
};

/// The value of the first element of this name under a point or in its extensions; NaN when there is none.
double value_of(const pugi::xml_node& point, std::string_view name) {
    const auto read = [](const pugi::xml_node& node) {
        const double value = node.text().as_double(std::nan(""));
        return node.text().empty() ? std::nan("") : value;
    };
    for (const pugi::xml_node& child : point.children()) {
        if (local_name(child) == name) return read(child);
        if (local_name(child) != "extensions") continue;
        for (const pugi::xml_node& extra : child.children()) {
            if (local_name(extra) == name) return read(extra);
            for (const pugi::xml_node& inner : extra.children()) {
                if (local_name(inner) == name) return read(inner);
            }
        }
    }
    return std::nan("");
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

std::string iso_time(double unix_s) {
    const double thousandths = std::floor((unix_s - std::floor(unix_s)) * 1000 + 0.5);
    return utc_text(unix_s, "%Y-%m-%dT%H:%M:%S") + fixed(std::min(thousandths, 999.0) / 1000, 3).substr(1) + "Z";
}

}  // namespace

bool looks_like_gpx(std::string_view text) {
    const auto head = text.substr(0, 4096);
    const auto mark = head.find_first_not_of("\xEF\xBB\xBF \t\r\n");
    return mark != std::string_view::npos && head[mark] == '<' && head.find("<gpx") != std::string_view::npos;
}

Result<ReadRecording> read_gpx(const std::filesystem::path& file, const JobContext& job) {
    const auto mapping = MappedFile::open(file);
    if (!mapping) return pass_on(mapping.error());
    pugi::xml_document document;
    if ((*mapping)->size() > most_bytes)
        return fail(ErrorCode::bad_input, "A GPX file of more than 1 GB is not read. Export the track in parts.",
                    file.string());
    if (is_nested_too_deep((*mapping)->text()))
        return fail(ErrorCode::bad_input,
                    "This is no readable GPX file (its elements are nested more than 64 levels deep); nothing was "
                    "imported.",
                    file.string());
    const auto parsed = document.load_buffer((*mapping)->data(), (*mapping)->size());
    ReadRecording out;
    const auto line_of = [&](std::ptrdiff_t offset) {
        const auto text = (*mapping)->text().substr(0, static_cast<std::size_t>(std::max<std::ptrdiff_t>(offset, 0)));
        return std::to_string(std::count(text.begin(), text.end(), '\n') + 1);
    };
    // A file that ends in the middle still has the points before.
    if (!parsed && !document.child("gpx")) {
        return fail(ErrorCode::bad_input,
                    std::string("This is no readable GPX file (") + parsed.description() + " at line " +
                        line_of(parsed.offset) + "). Export it again; nothing was imported.",
                    file.string() + ":" + line_of(parsed.offset));
    }
    if (!parsed)
        out.notes.push_back("The file ends in the middle or is damaged at line " + line_of(parsed.offset) +
                            "; the points before it were kept.");
    Points points;
    std::size_t without_time = 0, backwards = 0, without_place = 0, tracks = 0;
    for (const pugi::xml_node& track : document.child("gpx").children("trk")) {
        ++tracks;
        for (const pugi::xml_node& segment : track.children("trkseg")) {
            for (const pugi::xml_node& point : segment.children("trkpt")) {
                const double latitude = point.attribute("lat").as_double(std::nan("")),
                             longitude = point.attribute("lon").as_double(std::nan(""));
                if (!(std::abs(latitude) <= 90) || !(std::abs(longitude) <= 360)) {
                    ++without_place;
                    continue;
                }
                const auto time = parse_time_text(trimmed(point.child("time").child_value()), '.');
                if (!time || *time < 1e6) {
                    ++without_time;
                    continue;
                }
                if (!points.times_s.empty() && !(*time > points.times_s.back())) {
                    ++backwards;
                    continue;
                }
                points.times_s.push_back(*time);
                points.latitude.push_back(latitude);
                points.longitude.push_back(longitude);
                points.height.push_back(value_of(point, "ele"));
                points.speed.push_back(value_of(point, "speed"));
                const double course = value_of(point, "course");
                points.course.push_back(std::isnan(course) ? value_of(point, "heading") : course);
                if (points.times_s.size() % 4096 == 0 && job.stopped())
                    return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", file.string());
            }
        }
    }
    if ((*mapping)->shrank()) return pass_on(file_changed(file));
    if (points.times_s.size() < 2) {
        return fail(ErrorCode::bad_input,
                    without_time > 1
                        ? "The points of this GPX file have no times: it is a route, not a recording. Export "
                          "the recorded track with its times."
                        : "This GPX file holds no track points; nothing was imported.",
                    file.string());
    }
    if (tracks > 1)
        out.notes.push_back("The file holds " + std::to_string(tracks) + " tracks; they are one recording.");
    if (without_place > 0)
        out.notes.push_back(counted(without_place, "point has", "points have") + " no usable position; left out.");
    if (without_time > 0)
        out.notes.push_back(counted(without_time, "point has", "points have") + " no time; left out.");
    if (backwards > 0)
        out.notes.push_back(counted(backwards, "point does", "points do") +
                            " not come later than the one before; left out.");
    const double first = points.times_s.front();
    for (double& t : points.times_s) t -= first;
    Recording& recording = out.recording;
    recording.source_name = file.filename().string();
    recording.logger = document.child("gpx").attribute("creator").as_string();
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
        text += "<time>" + iso_time(start + t) + "</time>";
        if (const double v = speed == nullptr ? std::nan("") : speed->value_at(t); !std::isnan(v))
            text += "<extensions><r:speed>" + fixed(v, 3) + "</r:speed></extensions>";
        text += "</trkpt>\n";
    }
    text += "</trkseg></trk>\n</gpx>\n";
    return write_file(file, text);
}

}  // namespace rendak
