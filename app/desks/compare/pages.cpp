#include "app/desks/compare/pages.h"

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
         {{"gap", 0.9}, {"speed", 1.5}, {"throttle", 1}, {"brake_front", 1}, {"brake_rear", 0.8}, {"steering", 1}}},
        {"Suspension",
         {{"speed", 1},
          {"damper_fl", 1},
          {"damper_fr", 1},
          {"damper_rl", 1},
          {"damper_rr", 1},
          {"ride_height_front", 0.9},
          {"ride_height_rear", 0.9}}},
        {"Tyres",
         {{"speed", 0.9},
          {"tyre_temperature_fl", 1},
          {"tyre_temperature_fr", 1},
          {"tyre_temperature_rl", 1},
          {"tyre_temperature_rr", 1},
          {"tyre_pressure_fl", 0.8},
          {"tyre_pressure_rl", 0.8}}},
        {"Brakes",
         {{"speed", 1},
          {"brake_front", 1},
          {"brake_rear", 1},
          {"brake_temperature_fl", 0.9},
          {"brake_temperature_fr", 0.9},
          {"brake_temperature_rl", 0.9},
          {"longitudinal_acceleration", 1}}},
        {"Wheels",
         {{"speed", 1},
          {"wheel_speed_fl", 1},
          {"wheel_speed_fr", 1},
          {"wheel_speed_rl", 1},
          {"wheel_speed_rr", 1},
          {"brake_front", 0.8}}},
        {"Long run",
         {{"gap", 1},
          {"speed", 1.2},
          {"tyre_temperature_fl", 0.9},
          {"tyre_temperature_rr", 0.9},
          {"oil_pressure", 0.9},
          {"oil_temperature", 0.8},
          {"fuel", 0.7}}},
        {"Line",
         {{"gap", 1},
          {"speed", 1.4},
          {"lateral_acceleration", 1.2},
          {"longitudinal_acceleration", 1},
          {"yaw_rate", 1},
          {"steering", 1}}}};
    return pages;
}

std::string key_of(const QString& name) {
    // The first page's key is older than pages are.
    return name == Pages::first() ? "compare.lanes" : "compare.page." + name.toStdString();
}

}  // namespace

/// What cannot be read is the page as it comes; the lists that fail beside it say why.
std::string Pages::text_of(const std::string& key) const {
    return library_.setting(key).value_or("");
}

QStringList Pages::names() const {
    QStringList out;
    for (const ReadyMade& page : ready_made()) out << QString::fromLatin1(page.name);
    return out + QString::fromStdString(text_of("compare.own_pages")).split(u'\n', Qt::SkipEmptyParts);
}

bool Pages::is_ready_made(const QString& name) const {
    return std::any_of(ready_made().begin(), ready_made().end(),
                       [&](const ReadyMade& page) { return QString::fromLatin1(page.name) == name; });
}

bool Pages::is_changed(const QString& name) const {
    return !text_of(key_of(name)).empty();
}

std::vector<Lane> Pages::lanes(const QString& name) const {
    std::vector<Lane> out;
    const QString text = QString::fromStdString(text_of(key_of(name)));
    for (const QString& line : text.split(u'\n', Qt::SkipEmptyParts)) {
        const QStringList parts = line.split(u' ');
        const double weight = parts.value(1).toDouble();
        if (weight > 0 && weight < 100) out.push_back({parts[0].toStdString(), weight});
    }
    if (!out.empty()) return out;
    for (const ReadyMade& page : ready_made()) {
        if (QString::fromLatin1(page.name) == name) return page.lanes;
    }
    return out;
}

Result<void> Pages::save(const QString& name, const std::vector<Lane>& lanes) {
    std::string text;
    for (const Lane& lane : lanes) text += lane.quantity + " " + std::to_string(lane.weight) + "\n";
    if (auto saved = library_.set_setting(key_of(name), text); !saved) return saved;
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
