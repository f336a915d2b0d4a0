#include "app/desks/chassis/chassis_look.h"

#include <QObject>
#include <cmath>

#include "app/desks/chassis/chassis_pages.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/trials/chassis_sheet.h"

namespace rendak::app {
namespace {

std::vector<PreparedLap> counting_laps(const RunData& run) {
    std::vector<PreparedLap> out;
    for (RunLap& lap : complete_laps(run))
        if (lap.lap.counts) out.push_back(std::move(lap.lap));
    return out;
}

Result<void> fill(const ChassisWork& work, ChassisLook& out) {
    switch (work.choice.page) {
        case ChassisPage::heights:
            return heights_page(work, out);
        case ChassisPage::dampers:
            return dampers_page(work, out);
        case ChassisPage::spectrum:
            return spectrum_page(work, out);
        case ChassisPage::ladder:
            return ladder_page(work, out);
        case ChassisPage::balance:
            return balance_page(work, out);
        case ChassisPage::pull:
            return pull_page(work, out);
        case ChassisPage::strikes:
            return strikes_page(work, out);
        case ChassisPage::trial:
            return trial_page(work, out);
    }
    return {};
}

}  // namespace

QString ChassisWork::letter_a() const {
    return slot_letter(a.slot);
}

QString ChassisWork::letter_b() const {
    return b() != nullptr ? slot_letter(b()->slot) : QString();
}

QString side_name(const ChassisSide& side) {
    return slot_letter(side.slot) + u' ' + side.title;
}

QString ChassisWork::name_a() const {
    return side_name(a);
}

QString ChassisWork::name_b() const {
    return b() != nullptr ? side_name(*b()) : QString();
}

Result<std::vector<Stretch>> stretches_chosen(const ChassisChoice& choice, std::span<const PreparedLap> laps,
                                              StretchKind proposed) {
    if (!choice.own_m.empty()) {
        std::vector<Stretch> own;
        for (const Interval& it : choice.own_m) own.push_back(own_stretch(it, laps));
        return own;
    }
    auto out = stretches_of(choice.on.value_or(proposed), laps);
    if (out.empty())
        return fail(ErrorCode::not_found, "This track has no such stretches. Choose another kind, or the range.");
    return out;
}

RoadShape road_shape(std::span<const PreparedLap> laps) {
    constexpr double step_m = 10;
    const PreparedLap& lap = quickest_of(laps);
    RoadShape out;
    out.length_m = lap.map.length_m();
    for (double m = 0; m <= out.length_m; m += step_m) {
        const double v = lap.value_at("speed", m);
        if (!std::isfinite(v)) continue;
        out.at_m.push_back(m);
        out.speed_mps.push_back(v);
    }
    for (const Corner& it : lap.track->corners) out.corners.emplace_back(it.apex_m, QString::fromStdString(it.label()));
    return out;
}

QString stretches_words(const std::vector<Stretch>& stretches) {
    double seconds = 0;
    for (const Stretch& it : stretches) seconds += it.time_s;
    if (stretches.size() == 1) return QString::fromStdString(stretches.front().name);
    return QStringLiteral("%1 stretches, %2 s of the lap").arg(stretches.size()).arg(seconds, 0, 'f', 1);
}

QString words(std::string_view core) {
    return QString::fromUtf8(core.data(), static_cast<qsizetype>(core.size()));
}

QString plain_number(double value, int decimals) {
    if (!std::isfinite(value)) return QStringLiteral("–");
    return QString::number(value, 'f', decimals).replace(u'-', u'−');
}

QString percent_text(double share, int decimals) {
    return std::isfinite(share) ? signed_number(100 * share, decimals) + QStringLiteral(" %") : QStringLiteral("–");
}

QString wheel_title(const std::string& wheel) {
    return QString::fromStdString(wheel).toUpper();
}

Result<std::shared_ptr<const ChassisLook>> chassis_look(const std::filesystem::path& folder,
                                                        const std::vector<ChassisSide>& sides,
                                                        const ChassisChoice& choice, const JobContext& job) {
    auto library = Library::open(folder, Library::Open::existing);
    if (!library) return pass_on(library.error());
    auto out = std::make_shared<ChassisLook>();
    out->choice = choice;
    const ChassisSide& a = sides.front();
    ChassisWork work{**library, a, counting_laps(*a.run), {}, {}, {}, choice, job};
    // A run without laps is as if it were not there.
    for (std::size_t k = 1; k < sides.size(); ++k)
        if (auto laps = counting_laps(*sides[k].run); !laps.empty())
            work.against.emplace_back(sides[k], std::move(laps));
    const auto say = [&](const Error& error) { out->headline = QString::fromStdString(error.text()); };
    if (work.laps_a.empty() && choice.page != ChassisPage::ladder) {
        out->headline = QObject::tr("No lap of %1 counts: there is nothing to look at.").arg(work.name_a());
        return out;
    }
    const auto sheet_a = chassis_sheet(**library, *a.run);
    if (!sheet_a) return pass_on(sheet_a.error());
    work.sheet_a = *sheet_a;
    if (work.b()) {
        const auto sheet_b = chassis_sheet(**library, *work.b()->run);
        if (!sheet_b) return pass_on(sheet_b.error());
        work.sheet_b = *sheet_b;
    }
    if (!work.laps_a.empty()) out->road = road_shape(work.laps_a);
    const Result<void> filled = fill(work, *out);
    if (!filled && filled.error().code == ErrorCode::cancelled) return pass_on(filled.error());
    if (!filled) {
        RoadShape road = std::move(out->road);
        *out = {};
        out->choice = choice;
        out->road = std::move(road);
        say(filled.error());
    }
    return out;
}

}  // namespace rendak::app
