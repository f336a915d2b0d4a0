#include "core/library/channel_edit.h"

#include <cmath>
#include <nlohmann/json.hpp>

namespace rendak {

std::string to_json(const ChannelEdit& edit) {
    nlohmann::json out = nlohmann::json::object();
    if (edit.quantity) out["quantity"] = *edit.quantity;
    if (!edit.unit.empty()) out["unit"] = edit.unit;
    if (edit.scale != 1) out["scale"] = edit.scale;
    if (edit.offset != 0) out["offset"] = edit.offset;
    if (!edit.source.empty()) out["source"] = edit.source;
    return out.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

ChannelEdit channel_edit_from_json(const std::string& channel, const std::string& text) {
    ChannelEdit out{channel};
    const auto json = nlohmann::json::parse(text, nullptr, false);
    if (!json.is_object()) return out;
    const auto word = [&](const char* key) -> std::optional<std::string> {
        const auto found = json.find(key);
        return found != json.end() && found->is_string() ? std::optional(found->get<std::string>()) : std::nullopt;
    };
    const auto number = [&](const char* key, double otherwise) {
        const auto found = json.find(key);
        const double value = found != json.end() && found->is_number() ? found->get<double>() : otherwise;
        return std::isfinite(value) ? value : otherwise;
    };
    out.quantity = word("quantity");
    out.unit = word("unit").value_or("");
    out.scale = number("scale", 1);
    out.offset = number("offset", 0);
    out.source = word("source").value_or("");
    return out;
}

}  // namespace rendak
