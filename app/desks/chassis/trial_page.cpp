// A change on trial.
#include <QObject>
#include <cmath>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "core/trials/change_trial.h"
#include "core/trials/setup_hints.h"

namespace rendak::app {
namespace {

using Cell = ChassisTable::Cell;
using Mark = Cell::Mark;

Cell trial_cell(const TrialFigure& it) {
    using Verdict = TrialFigure::Verdict;
    QString out = signed_number(it.change_s, 2) + QStringLiteral(" s");
    if (it.likely) out += QStringLiteral(" ± ") + plain_number(it.likely->length() / 2, 2);
    const Verdict verdict = it.verdict();
    return {out, verdict == Verdict::gain ? Mark::won : verdict == Verdict::loss ? Mark::lost : Mark::mute};
}

/// What is told beside a figure of a trial.
QString trial_note(const TrialFigure& it) {
    using Verdict = TrialFigure::Verdict;
    switch (it.verdict()) {
        case Verdict::gain:
        case Verdict::loss:
            return QObject::tr("on %1 of %2").arg(it.seen_on).arg(it.b.size());
        case Verdict::alike:
            return it.laps_needed > 0 ? QObject::tr("may be chance: %1 laps a side would show it").arg(it.laps_needed)
                                      : QObject::tr("may be chance");
        case Verdict::unknown:
            break;
    }
    return QObject::tr("cannot be told from one lap a side");
}

}  // namespace

Result<void> trial_page(const ChassisWork& work, ChassisLook& out) {
    const auto kept = kept_trials(work.library);
    if (!kept) return pass_on(kept.error());
    ChassisTable before;
    before.title = QObject::tr("Trials that were kept · a double click: what was decided");
    before.heads = {QObject::tr("What"), QObject::tr("lap"), QObject::tr("verdict"), QObject::tr("by")};
    for (const KeptTrial& it : *kept) {
        if (it.car != work.a.run->row.car) continue;
        before.rows.push_back({{words(it.name)},
                               {signed_number(it.net_s, 2) + QStringLiteral(" s")},
                               {words(it.verdict)},
                               {words(it.decided_by)}});
        before.at_m.emplace_back();
        before.trials.push_back(it.id);
        before.tips.push_back(words(it.says) + (it.words.empty() ? QString() : u'\n' + words(it.words)));
    }
    const auto hints = setup_hints(work.laps_a, work.sheet_a, work.job);
    ChassisTable possible;
    possible.title = QObject::tr("What could be tried on %1").arg(work.name_a());
    possible.heads = {QObject::tr("Evidence")};
    if (hints) {
        for (const SetupHint& it : hints->hints) {
            possible.rows.push_back({{words(it.evidence)}});
            possible.at_m.emplace_back();
            possible.tips.push_back(words(it.driver_first) +
                                    (it.driver_first.empty() ? QString() : QStringLiteral("\n")) + words(it.possible));
        }
        if (hints->hints.empty()) {
            possible.rows.push_back({{words(hints->none), Mark::mute}});
            possible.at_m.emplace_back();
            possible.tips.emplace_back();
        }
    }
    if (!work.b()) {
        out.headline = QObject::tr("A trial needs a second run: pick a lap of the run with the change beside %1.")
                           .arg(work.name_a());
        out.tables = {std::move(before), std::move(possible)};
        return {};
    }
    const auto aim = trial_aim(work.choice.aim.toStdString());
    if (!aim) return pass_on(aim.error());
    const LapSet a{work.laps_a, {work.a.run}}, b{work.against.front().second, {work.b()->run}};
    const auto trial = change_trial(work.library, a, b, *aim, work.job);
    if (!trial) return pass_on(trial.error());
    const std::size_t end = trial->text.find(". ");
    out.headline = words(trial->text.substr(0, end == std::string::npos ? trial->text.size() : end + 1));
    out.foot = end == std::string::npos ? QString() : words(trial->text.substr(end + 2));
    KeptTrial keep;
    for (const std::string& change : trial->differences.changes) keep.name += (keep.name.empty() ? "" : "; ") + change;
    if (keep.name.empty()) keep.name = "Nothing noted";
    ChassisTable table;
    table.title = trial->differences.changes.empty() ? QObject::tr("No change of the car is noted between the two")
                                                     : words(keep.name);
    table.heads = {QObject::tr("%1 against %2").arg(work.name_b(), work.name_a()), QObject::tr("seconds"), {}};
    const auto add = [&](const TrialFigure& it, const QString& name) {
        table.rows.push_back({{name}, trial_cell(it), {trial_note(it), Mark::mute}});
        table.at_m.emplace_back();
        table.tips.emplace_back();
    };
    if (trial->aim.kind != TrialAim::Kind::lap) {
        add(trial->aimed, QObject::tr("Aimed at: %1").arg(words(trial->aim.text)));
        add(trial->elsewhere, QObject::tr("Elsewhere"));
    }
    for (const TrialFigure& part : trial->parts) add(part, words(part.name));
    if (trial->carried) add(*trial->carried, QObject::tr("  of it carried from exits"));
    if (trial->pull) add(*trial->pull, QObject::tr("  of it pull"));
    add(trial->net, QObject::tr("Net"));
    QStringList same;
    for (const std::string& line : trial->unchanged) same << words(line);
    table.tips.back() =
        same.isEmpty() ? QString() : QObject::tr("Not changed: %1").arg(same.join(QStringLiteral(", ")));
    ChassisPlot plot;
    plot.title = QObject::tr("Seconds by corner, with the road behind it");
    plot.hint = QObject::tr("below zero %1 is quicker; 95 %").arg(work.letter_b());
    plot.x_unit = distance_shown().unit;
    plot.y_unit = QStringLiteral("s");
    ChassisSeries series;
    series.slot = work.b()->slot;
    series.kind = ChassisSeries::Kind::points;
    for (std::size_t k = 0; k < trial->corners.size(); ++k) {
        const TrialFigure& it = trial->corners[k];
        const Interval range = trial->ledger.rows[k].range_m;
        series.x.push_back(distance_shown().from_si((range.begin + range.end) / 2));
        series.y.push_back(it.change_s);
        series.low.push_back(it.likely ? it.likely->begin : std::nan(""));
        series.high.push_back(it.likely ? it.likely->end : std::nan(""));
    }
    plot.series.push_back(std::move(series));
    out.plots.push_back(std::move(plot));
    keep.a = {std::to_string(work.a.run->row.id.value)};
    keep.b = {std::to_string(work.b()->run->row.id.value)};
    keep.aim = work.choice.aim.toStdString();
    keep.event = work.b()->run->row.event;
    keep.car = work.b()->run->row.car;
    keep.says = trial->text;
    keep.net_s = trial->net.change_s;
    out.trial = std::move(keep);
    out.tables.push_back(std::move(table));
    out.tables.push_back(before.rows.empty() ? std::move(possible) : std::move(before));
    return {};
}

}  // namespace rendak::app
