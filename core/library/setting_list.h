#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "core/library/library.h"

namespace rendak {

// Lists that a library keeps as one setting, each entry an object of JSON. For sources that already read JSON: nobody
// else pays for it.

/// `write(entry)` makes an object of it.
template <class T, class Write>
[[nodiscard]] Result<void> put_setting_list(Library& library, const char* setting, const std::vector<T>& list,
                                            Write write) {
    using Json = nlohmann::ordered_json;
    Json all = Json::array();
    for (const T& it : list) all.push_back(write(it));
    return library.set_setting(setting, all.dump(-1, ' ', false, Json::error_handler_t::replace));
}

/// `read(object)` makes an entry of it, and may throw where a field is missing; `what` is missing then ("The run
/// sheet").
template <class T, class Read>
[[nodiscard]] Result<std::vector<T>> setting_list(const Library& library, const char* setting, const char* what,
                                                  Read read) {
    using Json = nlohmann::ordered_json;
    const auto text = library.setting(setting);
    if (!text) return pass_on(text.error());
    std::vector<T> out;
    if (text->empty()) return out;
    try {
        for (const Json& it : Json::parse(*text)) out.push_back(read(it));
    } catch (const Json::exception&) {
        return fail(ErrorCode::bad_input, std::string(what) + " of the library cannot be read.", setting);
    }
    return out;
}

}  // namespace rendak
