#include "app/desks/stint/stint_data.h"

#include <QCoreApplication>
#include <QStringList>
#include <algorithm>
#include <cmath>

#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

QString tr(const char* text) {
    return QCoreApplication::translate("Stint", text);
}

/// The reading that goes along with the lap times the most, where one does: it need not be the cause.
QString goes_with(const StintRun& run) {
    constexpr double least = 0.7;
    if (!run.stint || !run.stint->fall_off || run.stint->fall_off->laps < 8) return {};
    const StintReading* most = nullptr;
    for (const StintReading& it : run.stint->readings) {
        if (!(std::abs(it.goes_with_pace) >= least)) continue;
        if (most == nullptr || std::abs(it.goes_with_pace) > std::abs(most->goes_with_pace)) most = &it;
    }
    if (most == nullptr) return {};
    return tr("%1 (%2)").arg(shown(most->channel).label, signed_number(most->goes_with_pace, 2));
}

QString seconds(double value, int decimals) {
    return signed_number(value, decimals) + QStringLiteral(" s");
}

}  // namespace

const StintRun* StintData::of(const std::shared_ptr<const RunData>& run) const {
    const auto found = std::find_if(runs.begin(), runs.end(), [&](const StintRun& it) { return it.run == run; });
    return found == runs.end() ? nullptr : &*found;
}

Result<std::shared_ptr<const StintData>> stint_data(std::vector<StintRun> runs, std::optional<std::size_t> other,
                                                    const StintData* former, const JobContext& job) {
    auto out = std::make_shared<StintData>();
    std::vector<std::string> channels;
    for (const WheelKind& kind : wheel_kinds()) {
        for (std::size_t w = 0; w < wheel_ids.size(); ++w) channels.push_back(kind.channel(w));
    }
    for (std::size_t k = 0; k < runs.size(); ++k) {
        StintRun& run = runs[k];
        if (const StintRun* known = former == nullptr ? nullptr : former->of(run.run)) {
            StintRun copy = *known;
            copy.slot = run.slot;
            copy.title = run.title;
            run = std::move(copy);
            continue;
        }
        auto stint = stint_of(run.run, std::nullopt, {job.stop, {}});
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        run.rounds.resize(channels.size());
        if (stint) {
            run.stint = std::move(*stint);
            run.tread = tread_readings(*run.run, *run.stint);
            run.rounds = round_the_lap(*run.run, *run.stint, channels, job);
        } else {
            run.problem = QString::fromStdString(stint.error().message);
        }
        if (auto windows = windows_of(run.run, {job.stop, {}})) run.windows = std::move(*windows);
        run.scatter = lap_scatter({run.run}).front();
        job.report(static_cast<double>(k + 1) / static_cast<double>(runs.size()));
    }
    out->runs = std::move(runs);
    out->other = other;
    const StintRun* b = out->b();
    if (b != nullptr && out->a().stint && b->stint) {
        out->pair = compare_stints(*out->a().stint, *b->stint);
        auto ducts = compare_ducts(out->a().run, *out->a().stint, b->run, *b->stint, {job.stop, {}});
        if (ducts) out->ducts = *ducts;
    }
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
    return std::shared_ptr<const StintData>(std::move(out));
}

QString with_letters(const std::string& sentence, int slot_a, int slot_b) {
    QString out;
    const QString text = QString::fromStdString(sentence);
    for (qsizetype i = 0; i < text.size(); ++i) {
        const bool alone =
            (i == 0 || !text[i - 1].isLetterOrNumber()) && (i + 1 == text.size() || !text[i + 1].isLetterOrNumber());
        if (alone && text[i] == u'A')
            out += slot_letter(slot_a);
        else if (alone && text[i] == u'B')
            out += slot_letter(slot_b);
        else
            out += text[i];
    }
    return out;
}

QString pace_headline(const StintData& data) {
    const StintRun& a = data.a();
    if (data.pair) return with_letters(data.pair->text, a.slot, data.b()->slot);
    if (!a.stint) return a.problem;
    const Stint& stint = *a.stint;
    const QString who = slot_letter(a.slot);
    if (!stint.fall_off) return tr("Too few laps count to tell what the pace of %1 does.").arg(who);
    QString out =
        stint.fall_off->sure()
            ? (stint.fall_off->per_lap > 0 ? tr("%1 loses %2 s a lap (± %3).") : tr("%1 gains %2 s a lap (± %3)."))
                  .arg(who)
                  .arg(std::abs(stint.fall_off->per_lap), 0, 'f', 2)
                  .arg(stint.fall_off->likely.length() / 2, 0, 'f', 2)
            : tr("%1 keeps its pace: no change of the lap time is told from chance over %2.")
                  .arg(who, counted(static_cast<qsizetype>(stint.fall_off->laps), tr("lap"), tr("laps")));
    if (stint.breaks)
        out += tr(" From lap %1 on it goes up faster: %2 s a lap, %3 before.")
                   .arg(stint.breaks->from_lap)
                   .arg(stint.breaks->after_per_lap, 0, 'f', 2)
                   .arg(stint.breaks->before_per_lap, 0, 'f', 2);
    return out;
}

QString figure_words(const StintFigure& figure, double value) {
    if (!std::isfinite(value)) return QStringLiteral("–");
    if (figure.shown_as.empty()) return figure.is_difference ? seconds(value, 2) : lap_time(value);
    const Shown how = shown(figure.shown_as);
    if (figure.way == StintFigure::Way::less) {
        // A size: no sign.
        return with_unit(QString::number(how.difference_from_si(value), 'f', how.decimals), how.unit);
    }
    return with_unit(how.difference_text(value), how.unit);
}

QString figure_change(const StintFigure& figure) {
    const double change = figure.b - figure.a;
    return figure.shown_as.empty() ? seconds(change, 2) : shown_of(figure).difference_text(change);
}

Shown shown_of(const StintFigure& figure) {
    if (figure.shown_as.empty()) return seconds_shown({});
    Shown out = shown(figure.shown_as);
    if (figure.is_difference) out.offset = 0;
    return out;
}

Shown seconds_shown(const QString& label) {
    return {label, QStringLiteral("s"), {}, 1, 0, 3};
}

QString pace_foot(const StintData& data) {
    QStringList out;
    if (data.pair) {
        QStringList better, worse;
        for (const StintFigure& it : data.pair->figures) {
            // The pace stands in the headline.
            if (it.shown_as.empty()) continue;
            const QString words =
                tr("%1 %2 → %3").arg(QString::fromStdString(it.title), figure_words(it, it.a), figure_words(it, it.b));
            if (it.verdict() == StintFigure::Verdict::better) better << words;
            if (it.verdict() == StintFigure::Verdict::worse) worse << words;
        }
        const bool turned = worse.size() > better.size();
        const qsizetype most = 2;
        if (!better.isEmpty())
            out << (turned ? tr("Better all the same: %1.") : tr("Better: %1."))
                       .arg(better.mid(0, most).join(QStringLiteral(", ")));
        if (!worse.isEmpty())
            out << (turned || better.isEmpty() ? tr("Worse: %1.") : tr("The price: %1."))
                       .arg(worse.mid(0, most).join(QStringLiteral(", ")));
    }
    const StintRun& a = data.a();
    if (!a.stint) return out.join(u' ');
    if (!a.stint->s_per_litre)
        out << tr("The weight of the fuel is left in: what a litre costs is not known (car sheet: fuel effect).");
    else
        out << (a.stint->fitted ? tr("Fuel is taken out (%1 s a litre, fitted).")
                                : tr("Fuel is taken out (%1 s a litre, car sheet)."))
                   .arg(*a.stint->s_per_litre, 0, 'f', 3);
    qsizetype cold = 0, left_out = 0;
    for (const StintRun& run : data.runs) {
        if (!run.stint) continue;
        for (std::size_t k = 0; k < run.stint->laps.size(); ++k) {
            if (run.stint->cold[k] != 0)
                ++cold;
            else if (run.stint->counts[k] == 0)
                ++left_out;
        }
    }
    QStringList hollow;
    if (cold > 0) hollow << tr("%1 on cold tyres").arg(counted(cold, tr("lap"), tr("laps")));
    if (left_out > 0) hollow << tr("%1 left out or in doubt").arg(left_out);
    if (!hollow.isEmpty()) out << tr("Shown, not counted: %1.").arg(hollow.join(QStringLiteral(", ")));
    return out.join(u' ');
}

QString duct_words(const StintData& data) {
    if (!data.ducts || !std::isfinite(data.ducts->hottest_a)) return {};
    const DuctReading& it = *data.ducts;
    const QString a = slot_letter(data.a().slot), b = slot_letter(data.b()->slot);
    const Shown heat = shown("brake_temperature_fl"), speed = shown("speed");
    QString out =
        tr("Hottest disc, mean: %1 %2, %3 %4.")
            .arg(a, with_unit(heat.text(it.hottest_a), heat.unit), b, with_unit(heat.text(it.hottest_b), heat.unit));
    if (std::isfinite(it.top_speed_a))
        out += tr(" Top speed: %1 %2, %3 %4.")
                   .arg(a, with_unit(speed.text(it.top_speed_a), speed.unit), b,
                        with_unit(speed.text(it.top_speed_b), speed.unit));
    switch (it.says) {
        case DuctReading::Says::gain:
            return out + tr(" Hotter, inside the window, and quicker on the straight: a gain.");
        case DuctReading::Says::too_hot:
            return out + tr(" Hotter, and above the window at its hottest (%1): open the ducts.")
                             .arg(with_unit(heat.text(*it.most), heat.unit));
        case DuctReading::Says::costs_nothing:
            return out + tr(" Hotter and still inside the window; no speed was surely won by it.");
        case DuctReading::Says::cooler:
            return out + tr(" Cooler discs: the ducts may cost speed that is not needed.");
        case DuctReading::Says::nothing:
            return out + (it.discs_likely ? tr(" No difference is told from chance.") : QString());
    }
    return out;
}

QString scatter_words(const StintData& data) {
    QStringList out;
    for (const StintRun& run : data.runs) {
        const QString who = slot_letter(run.slot);
        if (run.scatter.laps.laps.count < 2) continue;
        QString words = tr("%1: laps scatter by %2 s").arg(who).arg(run.scatter.laps.laps.sd, 0, 'f', 3);
        QStringList where;
        for (std::size_t k = 0; k < std::min<std::size_t>(3, run.scatter.sections.size()); ++k) {
            const LapScatter::Of& it = run.scatter.sections[k];
            where << tr("%1 %2 %").arg(QString::fromStdString(it.section)).arg(100 * it.share, 0, 'f', 0);
        }
        if (!where.isEmpty()) words += tr(", most of it from %1").arg(where.join(QStringLiteral(", ")));
        if (const QString with = goes_with(run); !with.isEmpty())
            words += tr("; the pace goes along with %1, a possible cause").arg(with);
        out << words + u'.';
    }
    return out.join(u' ');
}

}  // namespace rendak::app
