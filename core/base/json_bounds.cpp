#include "core/base/json_bounds.h"

namespace rendak {

Result<void> check_json(std::string_view text, const std::string& where, const JsonBounds& most) {
    const auto refused = [&](const std::string& what) {
        return fail(ErrorCode::bad_input, "The file cannot be taken: its JSON " + what + ".", where);
    };
    if (text.size() > most.bytes) return refused("is longer than " + std::to_string(most.bytes >> 20) + " MB");
    std::size_t values = 0;
    int depth = 0;
    bool inside_text = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inside_text) {
            if (c == '\\') ++i;
            if (c == '"') inside_text = false;
            continue;
        }
        if (c == '"') inside_text = true;
        if (c == '[' || c == '{') {
            if (++depth > most.depth)
                return refused("is nested more than " + std::to_string(most.depth) + " levels deep");
        }
        if (c == ']' || c == '}') --depth;
        if (c == ',' || c == '[' || c == '{') {
            if (++values > most.values) return refused("holds more than " + std::to_string(most.values) + " values");
        }
    }
    return {};
}

}  // namespace rendak
