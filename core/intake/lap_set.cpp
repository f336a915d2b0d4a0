#include "core/intake/lap_set.h"

#include <algorithm>
#include <charconv>

#include "core/base/text.h"
#include "core/base/time_zone.h"

namespace rendak {
namespace {

constexpr double near_share = 0.005;

std::optional<int> whole(std::string_view text) {
    int value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc() || end != text.data() + text.size() || value < 1) return std::nullopt;
    return value;
}

std::vector<RunLap> counting(std::vector<RunLap> laps) {
    std::erase_if(laps, [](const RunLap& it) { return !it.included; });
    return laps;
}

}  // namespace

Result<LapWish> lap_wish(std::string_view text) {
    const auto wrong = [&] {
        return fail(
            ErrorCode::bad_input,
            "\"" + std::string(text) + "\" is no set of laps. Write RUN, RUN:best, RUN:near, RUN:day or RUN:LAP,LAP.");
    };
    const std::size_t colon = text.find(':');
    const auto run = whole(text.substr(0, colon));
    if (!run) return wrong();
    LapWish out{{*run}, LapWish::Which::counting, {}};
    if (colon == std::string_view::npos) return out;
    const std::string_view rest = text.substr(colon + 1);
    for (const auto& [word, which] :
         {std::pair{"best", LapWish::Which::best}, {"near", LapWish::Which::near_best}, {"day", LapWish::Which::day}}) {
        if (rest != word) continue;
        out.which = which;
        return out;
    }
    out.which = LapWish::Which::listed;
    for (std::size_t at = 0; at <= rest.size();) {
        const std::size_t comma = std::min(rest.find(',', at), rest.size());
        const auto lap = whole(rest.substr(at, comma - at));
        if (!lap) return wrong();
        out.laps.push_back(*lap);
        at = comma + 1;
    }
    return out;
}

Result<LapSet> lap_set(const std::vector<LapWish>& wishes, const std::vector<std::shared_ptr<const RunData>>& runs,
                       bool mixed) {
    LapSet out;
    std::size_t left_out = 0;
    for (std::size_t k = 0; k < wishes.size(); ++k) {
        const RunData& run = *runs[k];
        const RunRow& first = runs.front()->row;
        if (run.track == nullptr)
            return fail(ErrorCode::bad_input, "Run " + std::to_string(run.row.id.value) +
                                                  " has no track, so it has no places to compare. Learn its track.");
        if (!mixed && (run.row.driver != first.driver || run.row.car != first.car))
            return fail(ErrorCode::bad_input, "Run " + std::to_string(run.row.id.value) + " is of " + run.row.driver +
                                                  " in " + run.row.car + ", the set's first of " + first.driver +
                                                  " in " + first.car + ". Drivers and cars are mixed when asked for.");
        auto all = complete_laps(run);
        const auto usable = counting(all);
        std::vector<RunLap> taken;
        const auto best = std::min_element(usable.begin(), usable.end(), [](const RunLap& a, const RunLap& b) {
            return a.lap.time_s() < b.lap.time_s();
        });
        switch (wishes[k].which) {
            case LapWish::Which::counting:
            case LapWish::Which::day:
                taken = usable;
                left_out += all.size() - usable.size();
                break;
            case LapWish::Which::best:
                if (best != usable.end()) taken.push_back(*best);
                break;
            case LapWish::Which::near_best:
                for (const RunLap& it : usable) {
                    if (it.lap.time_s() <= best->lap.time_s() * (1 + near_share)) taken.push_back(it);
                }
                break;
            case LapWish::Which::listed:
                for (const int number : wishes[k].laps) {
                    const auto found = std::find_if(all.begin(), all.end(),
                                                    [&](const RunLap& it) { return it.lap.ref.lap == number; });
                    if (found == all.end())
                        return fail(ErrorCode::not_found, "Run " + std::to_string(run.row.id.value) +
                                                              " has no complete lap " + std::to_string(number) + ".");
                    taken.push_back(*found);
                }
                break;
        }
        // A day may have runs in which nothing counts.
        if (taken.empty() && wishes[k].which != LapWish::Which::day)
            return fail(ErrorCode::not_found,
                        "Run " + std::to_string(run.row.id.value) + " has no complete lap that counts.");
        for (RunLap& it : taken) {
            const bool known = std::any_of(out.laps.begin(), out.laps.end(),
                                           [&](const PreparedLap& lap) { return lap.ref == it.lap.ref; });
            if (!known) out.laps.push_back(std::move(it.lap));
        }
        out.runs.push_back(runs[k]);
    }
    if (out.laps.empty()) return fail(ErrorCode::not_found, "There is no complete lap that counts in these runs.");
    if (left_out > 0) out.told = counted(left_out, "complete lap does", "complete laps do") + " not count.";
    return out;
}

Result<std::vector<LapWish>> whole_wishes(const Library& library, const LapWish& wish) {
    if (wish.which != LapWish::Which::day) return std::vector{wish};
    const auto runs = runs_of_day(library, wish.run);
    if (!runs) return pass_on(runs.error());
    std::vector<LapWish> out;
    for (const RunId run : *runs) out.push_back({run, LapWish::Which::day, {}});
    return out;
}

Result<LapSet> named_lap_set(const Library& library, const std::vector<std::string>& words, bool mixed,
                             const OpenRun& open) {
    std::vector<LapWish> wishes;
    std::vector<std::shared_ptr<const RunData>> runs;
    for (const std::string& word : words) {
        const auto wish = lap_wish(word);
        if (!wish) return pass_on(wish.error());
        const auto whole = whole_wishes(library, *wish);
        if (!whole) return pass_on(whole.error());
        for (const LapWish& one : *whole) {
            auto run = open(one.run);
            if (!run) return pass_on(run.error());
            wishes.push_back(one);
            runs.push_back(std::move(*run));
        }
    }
    return lap_set(wishes, runs, mixed);
}

Result<std::vector<RunId>> runs_of_day(const Library& library, RunId run) {
    const auto of = library.run(run);
    if (!of) return pass_on(of.error());
    const auto all = library.runs();
    if (!all) return pass_on(all.error());
    const auto day = [](const RunRow& row) -> std::optional<double> {
        if (!row.start_unix_s) return std::nullopt;
        constexpr double day_s = 86400;
        return std::floor((*row.start_unix_s + zone_offset_s(row.zone, *row.start_unix_s).value_or(0)) / day_s);
    };
    std::vector<RunRow> same;
    for (const RunRow& row : *all) {
        if (row.driver != of->driver || row.car != of->car || row.track != of->track) continue;
        const bool clocks = day(row) && day(*of);
        if (clocks ? day(row) == day(*of) : row.event == of->event) same.push_back(row);
    }
    std::stable_sort(same.begin(), same.end(), [](const RunRow& a, const RunRow& b) {
        return a.start_unix_s.value_or(0) < b.start_unix_s.value_or(0);
    });
    std::vector<RunId> out;
    for (const RunRow& row : same) out.push_back(row.id);
    return out;
}

}  // namespace rendak
