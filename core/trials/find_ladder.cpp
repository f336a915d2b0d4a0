#include "core/trials/find_ladder.h"

#include <algorithm>
#include <set>

#include "core/analysis/sheet_difference.h"
#include "core/base/text.h"
#include "core/formula/syntax.h"

namespace rendak {
namespace {

struct SheetRun {
    const RunRow* run = nullptr;
    std::vector<SheetValue> lines;

    [[nodiscard]] const SheetValue* line(const std::string& name) const {
        const auto found = std::find_if(lines.begin(), lines.end(),
                                        [&](const SheetValue& it) { return formula::plain_name(it.name) == name; });
        return found == lines.end() ? nullptr : &*found;
    }
};

/// Whether two sheets share all lines but one.
bool same_but(const SheetRun& a, const SheetRun& b, const std::string& line) {
    const auto differences = sheet_differences(a.lines, b.lines);
    return std::all_of(differences.begin(), differences.end(),
                       [&](const SheetDifference& it) { return formula::plain_name(it.name) == line; });
}

bool says(const std::string& name, const std::string& word) {
    return lower(name).find(word) != std::string::npos;
}

}  // namespace

Result<std::vector<FoundLadder>> find_ladders(const Library& library, const std::vector<RunRow>& runs) {
    constexpr std::size_t least = 3;
    std::vector<SheetRun> all;
    std::set<std::string> names;
    for (const RunRow& run : runs) {
        if (!run.setup) continue;
        const auto sheet = library.setup(run.setup);
        if (!sheet) return pass_on(sheet.error());
        for (const SheetValue& line : sheet->values)
            if (sheet_number(line.value)) names.insert(formula::plain_name(line.name));
        all.push_back({&run, sheet->values});
    }
    std::stable_sort(all.begin(), all.end(), [](const SheetRun& a, const SheetRun& b) {
        const double left = a.run->start_unix_s.value_or(0), right = b.run->start_unix_s.value_or(0);
        return left != right ? left < right : a.run->id.value < b.run->id.value;
    });
    std::vector<FoundLadder> out;
    for (const std::string& name : names) {
        FoundLadder longest;
        for (std::size_t first = 0; first < all.size(); ++first) {
            FoundLadder here;
            std::set<double> seen;
            for (std::size_t k = first; k < all.size(); ++k) {
                const RunRow &a = *all[first].run, &b = *all[k].run;
                // Runs of other cars and tracks lie in between.
                if (a.car != b.car || a.track != b.track) continue;
                const SheetValue* line = all[k].line(name);
                const auto value = line == nullptr ? std::nullopt : sheet_number(line->value);
                if (!value || !same_but(all[first], all[k], name) || !seen.insert(*value).second) break;
                here.name = line->name;
                here.unit = line->unit;
                here.runs.push_back(b.id);
                here.values.push_back(*value);
            }
            if (here.runs.size() > longest.runs.size()) longest = std::move(here);
        }
        if (longest.runs.size() < least) continue;
        longest.front = says(longest.name, "front");
        longest.rear = says(longest.name, "rear");
        if (!longest.front && !longest.rear) longest.front = longest.rear = true;
        out.push_back(std::move(longest));
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const FoundLadder& a, const FoundLadder& b) { return a.runs.size() > b.runs.size(); });
    return out;
}

Result<OpenedLadder> open_ladder(const FoundLadder& ladder, const OpenRun& open, const JobContext& job) {
    OpenedLadder out;
    out.found = ladder;
    for (std::size_t k = 0; k < ladder.runs.size(); ++k) {
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        const auto run = open(ladder.runs[k]);
        if (!run) return pass_on(run.error());
        out.event = (*run)->row.event;
        out.car = (*run)->row.car;
        LadderStep step{ladder.values[k], {}};
        for (RunLap& lap : complete_laps(**run)) {
            if (!lap.lap.counts) continue;
            out.laps.push_back(lap.lap);
            step.laps.push_back(std::move(lap.lap));
        }
        out.steps.push_back(std::move(step));
    }
    if (out.laps.empty()) return fail(ErrorCode::not_found, "No lap of the ladder's runs counts.");
    return out;
}

void look_at_axle(SpectrumWish& wish, const FoundLadder& ladder) {
    wish.front = ladder.front;
    wish.rear = ladder.rear;
    wish.wheels = ladder.front && ladder.rear ? WheelChoice::each : WheelChoice::loaded;
}

std::vector<PlannedRun> next_runs(const Ladder& ladder, const OpenedLadder& of) {
    constexpr int step_laps = 3, proof_laps = 6;
    const std::string& name = of.found.name;
    const auto change = [&](double value) {
        return name + " " + short_number(value) + (of.found.unit.empty() ? "" : " " + of.found.unit);
    };
    std::vector<PlannedRun> out;
    for (const double value : ladder.next)
        out.push_back({of.event, of.car, change(value), step_laps, "next step of the ladder of " + name});
    if (ladder.says != Ladder::Says::unknown && ladder.best != ladder.baseline)
        out.push_back({of.event, of.car, change(ladder.values[ladder.best]), proof_laps,
                       "against " + change(ladder.values[ladder.baseline]) + ": proves it in lap time"});
    return out;
}

}  // namespace rendak
