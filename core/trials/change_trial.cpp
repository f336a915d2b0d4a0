#include "core/trials/change_trial.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "core/analysis/set_difference.h"
#include "core/analysis/sheet_difference.h"
#include "core/base/text.h"
#include "core/trials/tyre_trial.h"

namespace rendak {
namespace {

/// Seconds of one lap against a set, by part.
struct LapParts {
    double net = 0, carried = 0, pull = 0;
    bool pulls = false;  ///< carried and pull are known
    std::array<double, lap_parts.size()> parts{};
    std::vector<double> rows;
};

LapParts parts_of(const Ledger& ledger, const std::vector<LapPart>& part_of_row) {
    LapParts out;
    out.net = ledger.total_s;
    out.pulls = true;
    const auto part = [&](LapPart which) -> double& { return out.parts[static_cast<std::size_t>(which)]; };
    for (std::size_t k = 0; k < ledger.rows.size(); ++k) {
        const LedgerRow& row = ledger.rows[k];
        part(LapPart::braking) += row.braking_s;
        part(part_of_row[k]) += row.entry_s + row.exit_s;
        part(LapPart::straights) += row.straight_s;
        out.carried += row.carried_s.value_or(0);
        out.pull += row.pull_s.value_or(0);
        out.pulls = out.pulls && (row.pull_s || row.straight_s == 0);
        out.rows.push_back(row.loss_s);
    }
    return out;
}

std::string seconds(double value) {
    return std::string(value < 0 ? "−" : "+") + fixed(std::abs(value), 2) + " s";
}

std::string told(const TrialFigure& it) {
    std::string out = it.name + " " + seconds(it.change_s);
    switch (it.verdict()) {
        case TrialFigure::Verdict::gain:
        case TrialFigure::Verdict::loss:
            return out + " ± " + fixed(it.likely->length() / 2, 2) + ", on " + std::to_string(it.seen_on) + " of " +
                   std::to_string(it.b.size());
        case TrialFigure::Verdict::alike:
            return out + ", may be chance";
        case TrialFigure::Verdict::unknown:
            break;
    }
    return out + ", how sure cannot be told from one lap a side";
}

std::string words_of(const ChangeTrial& trial) {
    std::string out;
    using Verdict = TrialFigure::Verdict;
    const Verdict net = trial.net.verdict();
    if (net == Verdict::gain)
        out = "Quicker by " + fixed(-trial.net.change_s, 2) + " s a lap, surely (" + fixed(-trial.net.likely->end, 2) +
              " to " + fixed(-trial.net.likely->begin, 2) + ").";
    else if (net == Verdict::loss)
        out = "Slower by " + fixed(trial.net.change_s, 2) + " s a lap, surely (" + fixed(trial.net.likely->begin, 2) +
              " to " + fixed(trial.net.likely->end, 2) + ").";
    else if (net == Verdict::alike)
        out = "No difference in lap time that stands out of the scatter (" + seconds(trial.net.change_s) + " ± " +
              fixed(trial.net.likely->length() / 2, 2) + ")" +
              (trial.net.laps_needed > 0
                   ? "; " + counted(trial.net.laps_needed, "lap", "laps") + " a side would show one of this size."
                   : ".");
    else
        out = "How sure it is cannot be told from one lap a side: " + seconds(trial.net.change_s) + ".";
    std::string sure;
    for (const TrialFigure& part : trial.parts)
        if (part.verdict() == Verdict::gain || part.verdict() == Verdict::loss)
            sure += (sure.empty() ? "" : "; ") + told(part);
    if (!sure.empty()) out += " Surely: " + sure + ".";
    if (trial.aim.kind != TrialAim::Kind::lap) {
        switch (trial.aimed.verdict()) {
            case Verdict::gain:
                out += " It did what it was for: " + told(trial.aimed) + ".";
                break;
            case Verdict::loss:
                out += " Where it was aimed at it costs: " + told(trial.aimed) + ".";
                break;
            default:
                out += " That it does what it was for cannot be seen: " + told(trial.aimed) + ".";
        }
        out += " Elsewhere: " + told(trial.elsewhere) + ".";
    }
    if (trial.differences.changes.empty()) out += " No change of the car is noted between the two.";
    if (!trial.apart.text.empty() && trial.differences.changes.size() > 1) out += " " + trial.apart.text;
    if (!trial.differences.others.empty()) {
        out += " Not the same as well:";
        for (std::size_t i = 0; i < trial.differences.others.size(); ++i)
            out += (i == 0 ? " " : "; ") + trial.differences.others[i];
        out += ".";
    }
    if (trial.tyres) out += " " + trial.tyres->text;
    return out;
}

}  // namespace

const char* verdict_name(TrialFigure::Verdict verdict) {
    switch (verdict) {
        case TrialFigure::Verdict::gain:
            return "gain";
        case TrialFigure::Verdict::loss:
            return "loss";
        case TrialFigure::Verdict::alike:
            return "alike";
        case TrialFigure::Verdict::unknown:
            break;
    }
    return "unknown";
}

TrialFigure trial_figure(std::string name, std::vector<double> a, std::vector<double> b) {
    TrialFigure out;
    out.name = std::move(name);
    const double middle = mean_value(a);
    out.change_s = mean_value(b) - middle;
    out.likely = likely_difference(a, b);
    for (const double lap : b) out.seen_on += (lap - middle) * out.change_s > 0 ? 1 : 0;
    if (!out.likely || out.likely->contains(0)) out.laps_needed = laps_needed(a, b);
    out.a = std::move(a);
    out.b = std::move(b);
    return out;
}

Result<TrialAim> trial_aim(const std::string& text) {
    TrialAim out;
    const std::string plain = lower(trimmed(text));
    if (plain.empty() || plain == "lap") return out;
    for (const LapPart part : lap_parts) {
        const std::string name(lap_part_name(part));
        if (plain != name && plain + " corners" != name) continue;
        out.kind = TrialAim::Kind::part;
        out.part = part;
        out.text = name;
        return out;
    }
    const std::string number = plain.starts_with("corner ") ? plain.substr(7)
                               : plain.starts_with("turn ") ? plain.substr(5)
                                                            : plain;
    char* end = nullptr;
    const long corner = std::strtol(number.c_str(), &end, 10);
    if (number.empty() || *end != 0 || corner < 1 || corner > 1000)
        return fail(ErrorCode::bad_input,
                    "A trial is aimed at a corner's number, slow corners, middling corners, fast corners, straights or "
                    "braking; or at nothing: the whole lap.",
                    text);
    out.kind = TrialAim::Kind::corner;
    out.corner = static_cast<int>(corner);
    out.text = "corner " + number;
    return out;
}

Result<ChangeTrial> change_trial(const Library& library, const LapSet& a, const LapSet& b, const TrialAim& aim,
                                 const JobContext& job) {
    if (a.laps.empty() || b.laps.empty())
        return fail(ErrorCode::not_found, "A trial needs laps that count on both sides.");
    auto ledger = ledger_of(a.laps, b.laps);
    if (!ledger) return pass_on(ledger.error());
    ChangeTrial out;
    out.a_laps = a.laps.size();
    out.b_laps = b.laps.size();
    out.aim = aim;
    const Track& track = *a.laps.front().track;
    if (aim.kind == TrialAim::Kind::corner) {
        const std::string title = corner_title(track, aim.corner);
        if (title.empty())
            return fail(ErrorCode::not_found, "This track has no corner " + std::to_string(aim.corner) + ".");
        out.aim.text = title;
    }
    // How fast A is in each corner says what kind it is.
    std::vector<LapPart> part_of_row;
    for (const LedgerRow& row : ledger->rows) {
        double slowest = std::numeric_limits<double>::infinity();
        const Corner* corner = nullptr;
        for (const Corner& one : track.corners)
            if (one.number == row.corner) corner = &one;
        if (corner != nullptr) {
            double sum = 0;
            for (const PreparedLap& lap : a.laps)
                sum += figures_in_range(lap, "speed", {corner->start_m, corner->end_m}).low;
            slowest = sum / static_cast<double>(a.laps.size());
        }
        part_of_row.push_back(row.corner == 0 ? LapPart::straights : part_of_corner(slowest));
    }
    const auto against_a = [&](const std::vector<PreparedLap>& laps, double from,
                               double to) -> Result<std::vector<LapParts>> {
        std::vector<LapParts> all;
        for (std::size_t k = 0; k < laps.size(); ++k) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            const auto one = ledger_of(a.laps, {&laps[k], 1});
            if (!one) return pass_on(one.error());
            if (one->rows.size() != part_of_row.size())
                return fail(ErrorCode::not_found, "The corners of these laps cannot be held against each other.");
            all.push_back(parts_of(*one, part_of_row));
            job.report(from + (to - from) * static_cast<double>(k + 1) / static_cast<double>(laps.size()));
        }
        return all;
    };
    const auto laps_a = against_a(a.laps, 0, 0.5), laps_b = against_a(b.laps, 0.5, 1);
    if (!laps_a) return pass_on(laps_a.error());
    if (!laps_b) return pass_on(laps_b.error());
    const auto figure = [&](const std::string& name, const auto& value) {
        std::vector<double> of_a, of_b;
        for (const LapParts& lap : *laps_a) of_a.push_back(value(lap));
        for (const LapParts& lap : *laps_b) of_b.push_back(value(lap));
        return trial_figure(name, std::move(of_a), std::move(of_b));
    };
    out.net = figure("Lap", [](const LapParts& lap) { return lap.net; });
    for (std::size_t p = 0; p < lap_parts.size(); ++p) {
        std::string name(lap_part_name(lap_parts[p]));
        name[0] = static_cast<char>(name[0] - 32);
        out.parts[p] = figure(name, [p](const LapParts& lap) { return lap.parts[p]; });
    }
    const auto pulls = [](const std::vector<LapParts>& laps) {
        return std::all_of(laps.begin(), laps.end(), [](const LapParts& lap) { return lap.pulls; });
    };
    if (pulls(*laps_a) && pulls(*laps_b)) {
        out.carried = figure("Carried from exits", [](const LapParts& lap) { return lap.carried; });
        out.pull = figure("Pull", [](const LapParts& lap) { return lap.pull; });
    }
    for (std::size_t k = 0; k < ledger->rows.size(); ++k)
        out.corners.push_back(figure(ledger->rows[k].name, [k](const LapParts& lap) { return lap.rows[k]; }));
    const auto aimed = [&](const LapParts& lap) {
        if (out.aim.kind == TrialAim::Kind::part) return lap.parts[static_cast<std::size_t>(out.aim.part)];
        if (out.aim.kind == TrialAim::Kind::lap) return lap.net;
        double sum = 0;
        for (std::size_t k = 0; k < ledger->rows.size(); ++k)
            if (ledger->rows[k].corner == out.aim.corner) sum += lap.rows[k];
        return sum;
    };
    out.aimed = figure(out.aim.text, aimed);
    out.elsewhere = figure("elsewhere", [&](const LapParts& lap) { return lap.net - aimed(lap); });
    out.ledger = std::move(*ledger);

    const RunRow &before = a.runs.front()->row, &after = b.runs.front()->row;
    Setup sheet_a, sheet_b;
    for (const auto& [row, sheet] : {std::pair{&before, &sheet_a}, std::pair{&after, &sheet_b}}) {
        if (!row->setup) continue;
        auto found = library.setup(row->setup);
        if (!found) return pass_on(found.error());
        *sheet = std::move(*found);
    }
    out.differences = differences_between(before, after, sheet_a.values, sheet_b.values);
    const auto changed = sheet_differences(sheet_a.values, sheet_b.values);
    if (!sheet_b.values.empty()) {
        for (const SheetValue& line : sheet_a.values) {
            const bool same = std::none_of(changed.begin(), changed.end(), [&](const SheetDifference& it) {
                return folded(it.name) == folded(line.name);
            });
            if (same) out.unchanged.push_back(line.name);
        }
    }
    out.apart = separable(out.differences.changes);
    out.tyres = tyre_trial(a, b, out);
    out.text = words_of(out);
    return out;
}

}  // namespace rendak
