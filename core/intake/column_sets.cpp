#include "core/intake/column_sets.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/base/text.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* sets_setting = "lap_figure_sets";

bool is_shipped(const std::string& name) {
    const auto shipped = ready_column_sets();
    return std::any_of(shipped.begin(), shipped.end(), [&](const ReadySetName& it) { return it.name == name; });
}

Result<void> check_set(const std::string& name, const std::string& columns) {
    constexpr std::size_t longest_name = 100, longest = 20'000;
    if (trimmed(name).empty() || name.size() > longest_name)
        return fail(ErrorCode::bad_input, "A set of columns needs a name of at most 100 signs.", name);
    if (is_shipped(name))
        return fail(ErrorCode::bad_input, "There is a shipped set of that name. Take another one.", name);
    if (columns.size() > longest) return fail(ErrorCode::bad_input, "These are too many columns.", name);
    if (const auto read = lap_columns(columns); !read) return pass_on(read.error());
    return {};
}

}  // namespace

Result<ColumnSets> column_sets(const Library& library) {
    const auto text = library.setting(sets_setting);
    if (!text) return pass_on(text.error());
    if (text->empty()) return ColumnSets{};
    return column_sets_from_json(*text, "sets of columns of the library");
}

Result<void> set_column_sets(Library& library, const ColumnSets& sets) {
    for (const auto& [name, columns] : sets) {
        if (auto fine = check_set(name, columns); !fine) return fine;
    }
    return library.set_setting(sets_setting, column_sets_to_json(sets));
}

Result<void> put_column_set(Library& library, const std::string& name, const std::string& columns) {
    auto sets = column_sets(library);
    if (!sets) return pass_on(sets.error());
    (*sets)[name] = columns;
    return set_column_sets(library, *sets);
}

Result<void> remove_column_set(Library& library, const std::string& name) {
    auto sets = column_sets(library);
    if (!sets) return pass_on(sets.error());
    if (sets->erase(name) == 0) return fail(ErrorCode::not_found, "There is no own set of columns " + name + ".");
    return set_column_sets(library, *sets);
}

Result<std::vector<LapColumn>> columns_of_set(const Library& library, const std::string& name) {
    const auto own = column_sets(library);
    if (!own) return pass_on(own.error());
    if (const auto found = own->find(name); found != own->end()) return lap_columns(found->second);
    auto shipped = ready_columns(name, {});
    if (shipped) return std::move(shipped->all);
    Error error = shipped.error();
    if (!own->empty()) {
        error.message += " Own ones:";
        for (const auto& [it, columns] : *own) error.message += " " + it;
    }
    return pass_on(std::move(error));
}

std::string column_sets_to_json(const ColumnSets& sets) {
    Json out = Json::object();
    for (const auto& [name, columns] : sets) out[name] = columns;
    return out.dump(1) + "\n";
}

Result<ColumnSets> column_sets_from_json(const std::string& text, const std::string& where) {
    constexpr std::size_t most = 500;
    const Json read = Json::parse(text, nullptr, false);
    if (!read.is_object()) return fail(ErrorCode::bad_input, "This is no list of sets of columns.", where);
    if (read.size() > most) return fail(ErrorCode::bad_input, "More than 500 sets of columns.", where);
    ColumnSets out;
    for (const auto& [name, columns] : read.items()) {
        if (!columns.is_string())
            return fail(ErrorCode::bad_input, "The columns of a set are a text: \"speed high; fuel end\".",
                        where + ": " + name);
        if (auto fine = check_set(name, columns.get<std::string>()); !fine) {
            Error error = fine.error();
            error.where = where + ": " + name;
            return pass_on(std::move(error));
        }
        out[name] = columns.get<std::string>();
    }
    return out;
}

}  // namespace rendak
