#include "app/desks/compare/pages.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/base/file_io.h"
#include "core/base/json_bounds.h"
#include "core/base/text.h"

namespace rendak::app {
namespace {

struct ReadyMade {
    const char* name;
    std::vector<Lane> lanes;
};

const std::vector<ReadyMade>& ready_made() {
    static const std::vector<ReadyMade> pages{
        {"Overview",
         {{"gap", 1.05}, {"speed", 1.9}, {"throttle", 0.8}, {"brake_front", 0.9}, {"steering", 0.8}, {"gear", 0.55}}},
        {"Driver",
         {{"gap", 0.9}, {"speed", 1.5}, {"throttle", 1}, {"brake_front", 1, {"brake_rear"}}, {"steering", 1}}},
        {"Pedals and g",
         {{"gap", 0.8},
          {"throttle", 1.2, {"brake_front"}},
          {"longitudinal_acceleration", 1.1},
          {"lateral_acceleration", 1.1},
          {"combined_g", 0.9},
          {"speed", 1}}},
        {"Wheels and slip",
         {{"speed", 1},
          {"wheel_speed_fl", 1.6, {"wheel_speed_fr", "wheel_speed_rl", "wheel_speed_rr"}},
          {"wheel_slip_fl", 1.6, {"wheel_slip_fr", "wheel_slip_rl", "wheel_slip_rr"}},
          {"throttle", 0.8, {"brake_front"}}}},
        {"Tyres",
         {{"speed", 0.9},
          {"tyre_temperature_fl", 1.4, {"tyre_temperature_fr", "tyre_temperature_rl", "tyre_temperature_rr"}},
          {"tyre_pressure_fl", 1.4, {"tyre_pressure_fr", "tyre_pressure_rl", "tyre_pressure_rr"}},
          {"lateral_acceleration", 0.8}}},
        {"Brakes",
         {{"speed", 1},
          {"brake_front", 1.1, {"brake_rear"}},
          {"brake_temperature_fl", 1.3, {"brake_temperature_fr", "brake_temperature_rl", "brake_temperature_rr"}},
          {"longitudinal_acceleration", 1}}},
        {"Ride and dampers",
         {{"speed", 1},
          {"damper_fl", 1.2, {"damper_fr"}},
          {"damper_rl", 1.2, {"damper_rr"}},
          {"ride_height_front", 1, {"ride_height_rear"}},
          {"lateral_acceleration", 0.8}}},
        {"Engine",
         {{"engine_speed", 1.2},
          {"gear", 0.6},
          {"throttle", 0.8},
          {"oil_pressure", 0.8},
          {"oil_temperature", 0.8, {"water_temperature"}},
          {"fuel", 0.6}}},
        {"Long run",
         {{"gap", 1},
          {"speed", 1.2},
          {"tyre_temperature_fl", 1.2, {"tyre_temperature_fr", "tyre_temperature_rl", "tyre_temperature_rr"}},
          {"oil_pressure", 0.9},
          {"oil_temperature", 0.8},
          {"fuel", 0.7}}},
        {"Positions only",
         {{"gap", 1}, {"speed", 1.4}, {"lateral_acceleration", 1.2}, {"longitudinal_acceleration", 1}}}};
    return pages;
}

std::string key_of(const QString& name) {
    // The first page's key is older than pages are.
    return name == Pages::first() ? "compare.lanes" : "compare.page." + name.toStdString();
}

constexpr std::pair<LaneScale, const char*> scale_names[] = {
    {LaneScale::lap, "lap"}, {LaneScale::view, "view"}, {LaneScale::fixed, "fixed"}, {LaneScale::hand, "hand"}};

nlohmann::ordered_json json_of(const std::vector<Lane>& lanes) {
    auto out = nlohmann::ordered_json::array();
    for (const Lane& lane : lanes) {
        nlohmann::ordered_json row{{"channels", lane.quantities()}, {"weight", lane.weight}};
        for (const auto& [scale, name] : scale_names) {
            if (scale == lane.scale) row["scale"] = name;
        }
        if (lane.by_hand) row["values_si"] = {lane.by_hand->begin, lane.by_hand->end};
        out.push_back(std::move(row));
    }
    return out;
}

/// Throws what nlohmann throws. Lanes that cannot be drawn are left out.
std::vector<Lane> lanes_of_json(const nlohmann::json& in) {
    std::vector<Lane> out;
    for (const auto& row : in) {
        auto channels = row.at("channels").get<std::vector<std::string>>();
        std::erase_if(channels, [](const std::string& id) { return id.empty() || id.size() > 200; });
        const double weight = row.value("weight", 1.0);
        if (channels.empty() || channels.size() > 16 || !(weight > 0 && weight < 100) || out.size() >= 64) continue;
        Lane lane{channels.front(), weight, {channels.begin() + 1, channels.end()}};
        const auto scale_name = row.value("scale", std::string("lap"));
        for (const auto& [scale, name] : scale_names) {
            if (scale_name == name) lane.scale = scale;
        }
        if (row.contains("values_si")) {
            const Interval values{row["values_si"].at(0).get<double>(), row["values_si"].at(1).get<double>()};
            if (std::isfinite(values.begin) && std::isfinite(values.end) && values.length() > 0) lane.by_hand = values;
        }
        out.push_back(std::move(lane));
    }
    return out;
}

}  // namespace

std::string text_of_lanes(const std::vector<Lane>& lanes) {
    return json_of(lanes).dump();
}

std::vector<Lane> lanes_from(const std::string& text) {
    if (text.starts_with("[")) {
        try {
            return lanes_of_json(nlohmann::json::parse(text));
        } catch (const nlohmann::json::exception&) {
            return {};
        }
    }
    std::vector<Lane> out;
    for (const QString& line : QString::fromStdString(text).split(u'\n', Qt::SkipEmptyParts)) {
        const QStringList parts = line.split(u' ');
        const double weight = parts.value(1).toDouble();
        if (weight > 0 && weight < 100) out.push_back({parts[0].toStdString(), weight});
    }
    return out;
}

Result<void> write_page(const PageFile& page, const std::filesystem::path& file) {
    const nlohmann::ordered_json out{
        {"format", "rendak page"}, {"version", 1}, {"name", page.name.toStdString()}, {"lanes", json_of(page.lanes)}};
    return write_file(file, out.dump(2) + "\n");
}

Result<PageFile> read_page(const std::filesystem::path& file) {
    const auto text = read_text_file(file, 1U << 20);
    if (!text) return pass_on(text.error());
    const auto refuse = [&](const std::string& why) {
        return fail(ErrorCode::bad_input, "This is no page of Rendak: " + why + ". Nothing was changed.",
                    file.string());
    };
    if (auto fits = check_json(*text, file.string(), {1U << 20, 10'000, 8}); !fits) return pass_on(fits.error());
    try {
        const auto in = nlohmann::json::parse(*text);
        if (!in.is_object() || in.value("format", "") != "rendak page") return refuse("its format is another one");
        if (in.value("version", 0) > 1) return refuse("a newer Rendak wrote it");
        PageFile out{QString::fromStdString(printable(in.at("name").get<std::string>())).trimmed().left(60),
                     lanes_of_json(in.at("lanes"))};
        if (out.name.isEmpty() || out.lanes.empty()) return refuse("it has no name, or no lanes");
        return out;
    } catch (const nlohmann::json::exception&) {
        return refuse("it cannot be read");
    }
}

/// What cannot be read is the page as it comes; the lists that fail beside it say why.
std::string Pages::text_of(const std::string& key) const {
    return library_.setting(key).value_or("");
}

QStringList Pages::ready_made_names() {
    QStringList out;
    for (const ReadyMade& page : ready_made()) out << QString::fromLatin1(page.name);
    return out;
}

QStringList Pages::names() const {
    return ready_made_names() + QString::fromStdString(text_of("compare.own_pages")).split(u'\n', Qt::SkipEmptyParts);
}

bool Pages::is_ready_made(const QString& name) const {
    return std::any_of(ready_made().begin(), ready_made().end(),
                       [&](const ReadyMade& page) { return QString::fromLatin1(page.name) == name; });
}

bool Pages::is_changed(const QString& name) const {
    return !text_of(key_of(name)).empty();
}

std::vector<Lane> Pages::lanes(const QString& name) const {
    std::vector<Lane> out = lanes_from(text_of(key_of(name)));
    if (!out.empty()) return out;
    for (const ReadyMade& page : ready_made()) {
        if (QString::fromLatin1(page.name) == name) return page.lanes;
    }
    return out;
}

Result<void> Pages::save(const QString& name, const std::vector<Lane>& lanes) {
    if (auto saved = library_.set_setting(key_of(name), text_of_lanes(lanes)); !saved) return saved;
    if (is_ready_made(name) || names().contains(name)) return {};
    const auto own = library_.setting("compare.own_pages");
    if (!own) return pass_on(own.error());
    return library_.set_setting("compare.own_pages", *own + name.toStdString() + "\n");
}

Result<void> Pages::forget(const QString& name) {
    if (auto saved = library_.set_setting(key_of(name), ""); !saved) return saved;
    if (is_ready_made(name)) return {};
    const auto known = library_.setting("compare.own_pages");
    if (!known) return pass_on(known.error());
    QStringList own = QString::fromStdString(*known).split(u'\n', Qt::SkipEmptyParts);
    own.removeAll(name);
    return library_.set_setting("compare.own_pages",
                                (own.join(u'\n') + (own.isEmpty() ? QString() : QStringLiteral("\n"))).toStdString());
}

}  // namespace rendak::app
