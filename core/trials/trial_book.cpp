#include "core/trials/trial_book.h"

#include <algorithm>

#include "core/library/setting_list.h"

namespace rendak {
namespace {

using Json = nlohmann::ordered_json;

constexpr const char* trials_setting = "trials";

Json trial_json(const KeptTrial& it) {
    return {{"id", it.id},
            {"name", it.name},
            {"event", it.event},
            {"car", it.car},
            {"a", it.a},
            {"b", it.b},
            {"aim", it.aim},
            {"says", it.says},
            {"net_s", it.net_s},
            {"verdict", it.verdict},
            {"decided_by", it.decided_by},
            {"words", it.words},
            {"made_unix_s", it.made_unix_s}};
}

}  // namespace

Result<void> set_kept_trials(Library& library, const std::vector<KeptTrial>& trials) {
    return put_setting_list(library, trials_setting, trials, trial_json);
}

std::string trial_text(const KeptTrial& trial) {
    return trial_json(trial).dump(-1, ' ', false, Json::error_handler_t::replace);
}

Result<std::vector<KeptTrial>> kept_trials(const Library& library) {
    return setting_list<KeptTrial>(library, trials_setting, "The list of kept trials", [](const Json& one) {
        KeptTrial it;
        it.id = one.at("id");
        it.name = one.at("name");
        it.a = one.at("a").get<std::vector<std::string>>();
        it.b = one.at("b").get<std::vector<std::string>>();
        it.aim = one.value("aim", "");
        it.event = one.value("event", "");
        it.car = one.value("car", "");
        it.says = one.value("says", "");
        it.net_s = one.value("net_s", 0.0);
        it.verdict = one.value("verdict", "");
        it.decided_by = one.value("decided_by", "");
        it.words = one.value("words", "");
        it.made_unix_s = one.value("made_unix_s", 0.0);
        return it;
    });
}

Result<std::int64_t> keep_trial(Library& library, KeptTrial trial) {
    auto all = kept_trials(library);
    if (!all) return pass_on(all.error());
    const auto same = std::find_if(all->begin(), all->end(), [&](const KeptTrial& it) { return it.id == trial.id; });
    std::int64_t id = trial.id;
    if (same != all->end()) {
        *same = std::move(trial);
    } else {
        for (const KeptTrial& it : *all) id = std::max(id, it.id);
        trial.id = ++id;
        all->push_back(std::move(trial));
    }
    if (auto done = set_kept_trials(library, *all); !done) return pass_on(done.error());
    return id;
}

Result<void> drop_trial(Library& library, std::int64_t id) {
    auto all = kept_trials(library);
    if (!all) return pass_on(all.error());
    if (std::erase_if(*all, [&](const KeptTrial& it) { return it.id == id; }) == 0)
        return fail(ErrorCode::not_found, "There is no trial " + std::to_string(id) + ".");
    return set_kept_trials(library, *all);
}

Result<KeptTrial> kept_trial(const Library& library, std::int64_t id) {
    const auto all = kept_trials(library);
    if (!all) return pass_on(all.error());
    for (const KeptTrial& it : *all)
        if (it.id == id) return it;
    return fail(ErrorCode::not_found, "There is no trial " + std::to_string(id) + ".");
}

}  // namespace rendak
