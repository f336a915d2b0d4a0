// Damper speed, spectrum, ladder.
#include <QObject>
#include <algorithm>
#include <cmath>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/analysis/set_difference.h"
#include "core/chassis/dampers.h"
#include "core/chassis/ladder.h"
#include "core/trials/find_ladder.h"

namespace rendak::app {
namespace {

using Cell = ChassisTable::Cell;
using Mark = Cell::Mark;

/// How a channel of wheels is shown.
Shown how_shown(const QString& channel) {
    const std::string base = channel.toStdString();
    Shown wheel = shown(base + "_fl");
    return wheel.label == words(base + "_fl") ? shown(base) : wheel;
}

ChassisSeries curve_of(const LapSpectra& it, int slot, const QString& name, const Shown& how) {
    ChassisSeries out;
    out.slot = slot;
    out.name = name;
    // What stands at 0 Hz was taken out with the line.
    for (std::size_t i = 1; i < it.mean.psd.size(); ++i) {
        const double hz = it.mean.frequency_hz(i);
        if (hz > 25) break;
        const auto amplitude = [&](double psd) { return how.difference_from_si(std::sqrt(psd * it.mean.step_hz)); };
        out.x.push_back(hz);
        out.y.push_back(amplitude(it.mean.psd[i]));
        if (it.low.empty()) continue;
        out.low.push_back(amplitude(it.low[i]));
        out.high.push_back(amplitude(it.high[i]));
    }
    return out;
}

SpectrumWish wish_of(const ChassisChoice& choice) {
    SpectrumWish out;
    out.channel = choice.channel.toStdString();
    out.front = choice.front;
    out.rear = choice.rear;
    out.wheels = choice.wheels;
    out.band_hz = choice.band_hz;
    out.segment_s = choice.segment_s;
    return out;
}

Mark mark_of(StepVerdict verdict) {
    switch (verdict) {
        case StepVerdict::lower:
            return Mark::won;
        case StepVerdict::higher:
            return Mark::lost;
        default:
            return Mark::mute;
    }
}

ChassisPlot spectrum_plot(const ChassisChoice& choice, const QString& stretches, const Shown& how) {
    ChassisPlot out;
    out.title = QObject::tr("Spectrum of %1").arg(how.label.left(how.label.lastIndexOf(u' ')).toLower());
    out.hint = stretches + QObject::tr(" · low is good · band %1 to %2 Hz counts")
                               .arg(choice.band_hz.begin, 0, 'g', 3)
                               .arg(choice.band_hz.end, 0, 'g', 3);
    out.x_unit = QStringLiteral("Hz");
    out.y_unit = how.unit;
    out.bands.push_back({choice.band_hz, {}});
    return out;
}

}  // namespace

Result<void> dampers_page(const ChassisWork& work, ChassisLook& out) {
    const auto stretches = stretches_chosen(work.choice, work.laps_a, StretchKind::lap);
    if (!stretches) return pass_on(stretches.error());
    const auto a = dampers_of(work.laps_a, *stretches, work.choice.fast_mps, work.job);
    if (!a) return pass_on(a.error());
    std::vector<DamperFigures> b;
    if (work.b()) {
        auto made = dampers_of(work.laps_b(), *stretches, work.choice.fast_mps, work.job);
        if (made) b = std::move(*made);
    }
    out.stretches = *stretches;
    const auto same = [&](const DamperFigures& it) -> const DamperFigures* {
        for (const DamperFigures& other : b)
            if (other.wheel == it.wheel) return &other;
        return nullptr;
    };
    QStringList lively, dead, fine;
    for (const DamperFigures& it : *a) {
        if (it.says == DamperFigures::Says::lively) lively << wheel_title(it.wheel);
        if (it.says == DamperFigures::Says::dead) dead << wheel_title(it.wheel);
        if (it.says == DamperFigures::Says::fine) fine << wheel_title(it.wheel);
    }
    QStringList said;
    if (!lively.isEmpty()) said << QObject::tr("%1 too lively").arg(lively.join(QStringLiteral(", ")));
    if (!dead.isEmpty()) said << QObject::tr("%1 too dead").arg(dead.join(QStringLiteral(", ")));
    if (!fine.isEmpty()) said << QObject::tr("%1 neither too lively nor too dead").arg(fine.join(QStringLiteral(", ")));
    out.headline = work.name_a() + QStringLiteral(": ") +
                   (said.isEmpty() ? QObject::tr("how lively the corners of the car are cannot be told")
                                   : said.join(QStringLiteral("; "))) +
                   u'.';
    out.foot = QObject::tr("%1 · bump is positive · slow up to %2 mm/s · the scale is the same for every run")
                   .arg(stretches_words(*stretches))
                   .arg(1000 * work.choice.fast_mps, 0, 'f', 0);
    const auto histogram = [&](bool front) {
        ChassisPlot plot;
        plot.title = front ? QObject::tr("Damper speed, front") : QObject::tr("Damper speed, rear");
        plot.hint = QObject::tr("share of the time, left and right together");
        plot.x_unit = QStringLiteral("mm/s");
        plot.y_unit = QStringLiteral("%");
        plot.x_shown = Interval{-160, 160};
        plot.bands.push_back({{-1000 * work.choice.fast_mps, 1000 * work.choice.fast_mps}, QObject::tr("slow")});
        const auto add = [&](const std::vector<DamperFigures>& wheels, int slot, const QString& name) {
            ChassisSeries series;
            series.slot = slot;
            series.name = name;
            series.kind = ChassisSeries::Kind::bars;
            const auto shares = axle_shares(wheels, front);
            if (!shares) return;
            for (std::size_t k = 0; k < shares->size(); ++k) {
                series.x.push_back(1000 * DamperScale::middle_mps(k));
                series.y.push_back(100 * (*shares)[k]);
            }
            plot.series.push_back(std::move(series));
        };
        add(*a, work.a.slot, work.name_a());
        if (work.b()) add(b, work.b()->slot, work.name_b());
        if (plot.series.empty()) plot.message = QObject::tr("No damper of this axle is logged.");
        return plot;
    };
    out.plots = {histogram(true), histogram(false)};
    ChassisTable table;
    table.title = QObject::tr("Shares of the time, %");
    table.heads = {QObject::tr("Wheel"), QObject::tr("rebound fast"),   QObject::tr("slow"),   QObject::tr("bump slow"),
                   QObject::tr("fast"),  QObject::tr("rebound / bump"), QObject::tr("swings"), QObject::tr("damping")};
    for (const DamperFigures& it : *a) {
        const auto add = [&](const DamperFigures& wheel, const QString& name) {
            table.rows.push_back(
                {{name + u' ' + wheel_title(wheel.wheel)},
                 {plain_number(100 * wheel.shares.rebound_fast, 0)},
                 {plain_number(100 * wheel.shares.rebound_slow, 0)},
                 {plain_number(100 * wheel.shares.bump_slow, 0)},
                 {plain_number(100 * wheel.shares.bump_fast, 0)},
                 {plain_number(wheel.symmetry(), 2)},
                 {wheel.ride_hz ? plain_number(*wheel.ride_hz, 1) + QStringLiteral(" Hz") : QStringLiteral("–")},
                 {wheel.damping ? plain_number(100 * *wheel.damping, 0) + QStringLiteral(" %") : QStringLiteral("–"),
                  wheel.says == DamperFigures::Says::fine || wheel.says == DamperFigures::Says::nothing ? Mark::none
                                                                                                        : Mark::lost}});
            table.at_m.emplace_back();
            table.tips.push_back(words(damper_words(wheel)));
        };
        add(it, work.letter_a());
        if (const DamperFigures* other = same(it)) add(*other, work.letter_b());
    }
    out.tables.push_back(std::move(table));
    ChassisTable how;
    how.title = QObject::tr("How the body swings over each wheel, over whole laps");
    how.heads = {QObject::tr("Wheel"), QObject::tr("what it is")};
    for (const DamperFigures& it : *a) {
        const auto add = [&](const DamperFigures& wheel, const QString& name) {
            how.rows.push_back({{name + u' ' + wheel_title(wheel.wheel)}, {words(damper_words(wheel))}});
            how.at_m.emplace_back();
            how.tips.emplace_back();
        };
        add(it, work.letter_a());
        if (const DamperFigures* other = same(it)) add(*other, work.letter_b());
    }
    out.tables.push_back(std::move(how));
    return {};
}

Result<void> spectrum_page(const ChassisWork& work, ChassisLook& out) {
    const SpectrumWish wish = wish_of(work.choice);
    const auto stretches = stretches_chosen(work.choice, work.laps_a, proposed_stretches(wish));
    if (!stretches) return pass_on(stretches.error());
    const auto a = stretch_spectra(work.laps_a, *stretches, wish, work.job);
    if (!a) return pass_on(a.error());
    std::vector<std::pair<const ChassisSide*, std::vector<LapSpectra>>> others;
    for (const auto& [side, laps] : work.against) {
        auto made = stretch_spectra(laps, *stretches, wish, work.job);
        if (!made && made.error().code == ErrorCode::cancelled) return pass_on(made.error());
        if (made) others.emplace_back(&side, std::move(*made));
    }
    out.stretches = *stretches;
    const Shown how = how_shown(work.choice.channel);
    out.foot = QObject::tr("%1 · segments of %2 s, a line taken out of each · the bands hold 95 % of the laps' mean")
                   .arg(stretches_words(*stretches))
                   .arg(work.choice.segment_s, 0, 'g', 3);
    QStringList said;
    ChassisTable table;
    table.title = QObject::tr("Moved within the band, root mean square");
    table.heads = {QObject::tr("Curve"), work.name_a()};
    for (const auto& [side, its] : others) table.heads << side_name(*side) << QObject::tr("change");
    for (std::size_t k = 0; k < a->size(); ++k) {
        const LapSpectra& it = (*a)[k];
        ChassisPlot plot = spectrum_plot(work.choice, words(it.title), how);
        plot.series.push_back(curve_of(it, work.a.slot, work.name_a(), how));
        const double mean = mean_value(it.told_bands());
        std::vector<Cell> row{{words(it.title)},
                              {with_unit(plain_number(how.difference_from_si(mean), how.decimals + 1), how.unit)}};
        for (const auto& [side, curves] : others) {
            const auto same = std::find_if(curves.begin(), curves.end(),
                                           [&](const LapSpectra& other) { return other.title == it.title; });
            if (same == curves.end()) {
                row.insert(row.end(), 2, {QStringLiteral("–"), Mark::mute});
                continue;
            }
            const LapSpectra& other = *same;
            const QString letter = slot_letter(side->slot);
            plot.series.push_back(curve_of(other, side->slot, side_name(*side), how));
            const double its = mean_value(other.told_bands());
            const auto likely = likely_difference(it.told_bands(), other.told_bands());
            row.push_back({with_unit(plain_number(how.difference_from_si(its), how.decimals + 1), how.unit)});
            const bool alike = !likely || likely->contains(0);
            row.push_back({!likely ? QObject::tr("cannot be told")
                           : alike ? QObject::tr("alike")
                                   : percent_text(its / mean - 1),
                           alike               ? Mark::mute
                           : likely->begin > 0 ? Mark::lost
                                               : Mark::won});
            if (!likely)
                said << QObject::tr("%1 in %2: one lap a side does not tell").arg(words(it.title), letter);
            else
                said << (alike ? QObject::tr("%1 does not differ in %2").arg(words(it.title), letter)
                               : QObject::tr("%1 moves by %2 in %3")
                                     .arg(words(it.title), percent_text(its / mean - 1), letter));
        }
        if (others.empty()) said << QObject::tr("%1 moves by %2").arg(words(it.title), row[1].text);
        table.rows.push_back(std::move(row));
        table.at_m.emplace_back();
        table.tips.emplace_back();
        if (out.plots.size() < 2) out.plots.push_back(std::move(plot));
    }
    out.headline = said.join(QStringLiteral("; ")) + u'.';
    out.headline.replace(0, 1, out.headline.left(1).toUpper());
    out.tables.push_back(std::move(table));
    ChassisTable where;
    where.title = QObject::tr("Where it is judged");
    where.heads = {QObject::tr("Stretch"), QObject::tr("time")};
    for (const Stretch& it : *stretches) {
        where.rows.push_back({{words(it.name)}, {plain_number(it.time_s, 1) + QStringLiteral(" s")}});
        where.at_m.emplace_back(it.range_m.begin);
        where.tips.push_back(stretch_text(it.range_m));
    }
    out.tables.push_back(std::move(where));
    return {};
}

Result<void> ladder_page(const ChassisWork& work, ChassisLook& out) {
    const auto rows = work.library.runs();
    if (!rows) return pass_on(rows.error());
    std::vector<RunRow> among;
    for (const RunRow& row : *rows)
        if (row.event == work.a.run->row.event && row.car == work.a.run->row.car) among.push_back(row);
    const auto found = find_ladders(work.library, among);
    if (!found) return pass_on(found.error());
    if (found->empty())
        return fail(
            ErrorCode::not_found,
            "No three runs of this event follow each other and step one value of the setup sheet. Each run needs "
            "its own sheet, alike but for that value.");
    for (const FoundLadder& it : *found) out.lines << words(it.name);
    const auto named = std::find_if(found->begin(), found->end(),
                                    [&](const FoundLadder& it) { return words(it.name) == work.choice.line; });
    const FoundLadder& ladder = named == found->end() ? found->front() : *named;
    out.line = words(ladder.name);
    const bool has_baseline = work.choice.baseline && std::find(ladder.values.begin(), ladder.values.end(),
                                                                *work.choice.baseline) != ladder.values.end();
    SpectrumWish wish = wish_of(work.choice);
    look_at_axle(wish, ladder);
    auto opened = open_ladder(
        ladder, [&](RunId id) { return load_run(work.library, id); }, work.job);
    if (!opened) return pass_on(opened.error());
    const auto stretches = stretches_chosen(work.choice, opened->laps, proposed_stretches(wish));
    if (!stretches) return pass_on(stretches.error());
    std::vector<LadderStep>& steps = opened->steps;
    const auto made = ladder_of(steps, *stretches, wish, ladder.name, ladder.unit,
                                has_baseline ? work.choice.baseline : std::nullopt, work.job);
    if (!made) return pass_on(made.error());
    out.stretches = *stretches;
    out.values = made->values;
    out.baseline = made->values[made->baseline];
    const std::string& told = made->text;
    const std::size_t first_end = told.find(". ");
    out.headline = words(told.substr(0, first_end == std::string::npos ? told.size() : first_end + 1));
    out.foot = first_end == std::string::npos ? QString() : words(told.substr(first_end + 2));
    const Shown how = how_shown(work.choice.channel);
    ChassisPlot plot;
    plot.title = words(ladder.name);
    plot.hint = QObject::tr("%1 moved from %2 to %3 Hz · low is good")
                    .arg(how.label.left(how.label.lastIndexOf(u' ')))
                    .arg(work.choice.band_hz.begin, 0, 'g', 3)
                    .arg(work.choice.band_hz.end, 0, 'g', 3);
    plot.x_unit = words(ladder.unit);
    plot.y_unit = how.unit;
    plot.from_zero = false;
    ChassisSeries points;
    points.slot = work.a.slot;
    points.kind = ChassisSeries::Kind::points;
    for (std::size_t k = 0; k < made->values.size(); ++k) {
        const StepFigure& it = made->steps[k];
        if (it.laps.empty()) continue;
        points.x.push_back(made->values[k]);
        points.y.push_back(how.difference_from_si(it.mean));
        points.low.push_back(it.likely ? how.difference_from_si(it.likely->begin) : std::nan(""));
        points.high.push_back(it.likely ? how.difference_from_si(it.likely->end) : std::nan(""));
        for (const double lap : it.laps) points.laps.emplace_back(made->values[k], how.difference_from_si(lap));
    }
    plot.series.push_back(std::move(points));
    if (made->says != Ladder::Says::unknown && !made->alike.empty()) {
        const double half = made->values.size() > 1 ? (made->values[1] - made->values[0]) / 2 : 0.5;
        plot.bands.push_back(
            {{made->values[made->alike.front()] - half / 2, made->values[made->alike.back()] + half / 2},
             QObject::tr("alike")});
    }
    out.plots.push_back(std::move(plot));
    // The spectra of baseline and best.
    ChassisPlot spectra = spectrum_plot(work.choice, stretches_words(*stretches), how);
    std::sort(steps.begin(), steps.end(), [](const LadderStep& a, const LadderStep& b) { return a.value < b.value; });
    for (const std::size_t k : {made->baseline, made->best}) {
        if (k == made->best && made->best == made->baseline) continue;
        const auto curves = stretch_spectra(steps[k].laps, *stretches, wish, work.job);
        if (!curves) continue;
        spectra.series.push_back(curve_of(curves->front(), k == made->baseline ? 0 : 1,
                                          QString::number(made->values[k]) + u' ' + words(ladder.unit), how));
    }
    out.plots.push_back(std::move(spectra));
    ChassisTable by;
    by.title = QObject::tr("By stretch, against %1 %2 · weighed by the time")
                   .arg(made->values[made->baseline])
                   .arg(words(ladder.unit));
    by.heads << QObject::tr("Stretch") << QObject::tr("time");
    for (std::size_t k = 0; k < made->values.size(); ++k)
        if (k != made->baseline) by.heads << QString::number(made->values[k]);
    const auto add = [&](const QString& name, const QString& time, const std::vector<StepFigure>& figures,
                         std::optional<double> at_m) {
        std::vector<Cell> row{{name}, {time}};
        for (std::size_t k = 0; k < figures.size(); ++k) {
            if (k == made->baseline) continue;
            row.push_back({figures[k].verdict == StepVerdict::unknown ? QStringLiteral("–")
                           : figures[k].verdict == StepVerdict::alike ? QObject::tr("alike")
                                                                      : percent_text(figures[k].change),
                           mark_of(figures[k].verdict)});
        }
        by.rows.push_back(std::move(row));
        by.at_m.push_back(at_m);
        by.tips.emplace_back();
    };
    double seconds = 0;
    for (const LadderStretch& it : made->stretches) {
        add(words(it.stretch.name), plain_number(it.stretch.time_s, 1) + QStringLiteral(" s"), it.steps,
            it.stretch.range_m.begin);
        seconds += it.stretch.time_s;
    }
    add(QObject::tr("Together"), plain_number(seconds, 1) + QStringLiteral(" s"), made->steps, std::nullopt);
    add(QObject::tr("Lap time"), {}, made->lap_times, std::nullopt);
    out.tables.push_back(std::move(by));
    out.next = next_runs(*made, *opened);
    ChassisTable sheet;
    sheet.title = QObject::tr("Next runs, proposed");
    sheet.heads = {QObject::tr("Change"), QObject::tr("laps"), QObject::tr("why")};
    for (const PlannedRun& it : out.next) {
        sheet.rows.push_back({{words(it.change)}, {QString::number(it.laps)}, {words(it.why)}});
        sheet.at_m.emplace_back();
        sheet.tips.emplace_back();
    }
    out.tables.push_back(std::move(sheet));
    return {};
}

}  // namespace rendak::app
