// Where Compare goes: corners, events, the cursor, the map.
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QPushButton>

#include <algorithm>
#include <cmath>

#include "app/desks/compare/compare_desk.h"
#include "app/session/preferences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/laps/cut.h"

namespace rendak::app {

void CompareDesk::go_to_corner(int number) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (!laps.on_track()) return;
    for (const Corner& corner : laps.track().corners) {
        if (corner.number != number) continue;
        workspace_.focus().set_range(view_of_corner(laps.track(), corner));
        workspace_.focus().set_cursor(corner.apex_m);
        if (workspace_.focus().state().axis == Axis::run) workspace_.focus().set_axis(Axis::distance);
    }
}

void CompareDesk::step_corner(int step) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (!laps.on_track() || laps.track().corners.empty()) return;
    const auto& corners = laps.track().corners;
    const Interval range = workspace_.comparison().range_m();
    const bool whole = range.length() > laps.length_m() - 1;
    const double middle = whole ? (step > 0 ? -1 : laps.length_m() + 1) : workspace_.focus().state().cursor_m;
    const Corner* target = nullptr;
    for (const Corner& corner : corners) {
        if (step > 0 && corner.apex_m > middle + 1 && target == nullptr) target = &corner;
        if (step < 0 && corner.apex_m < middle - 1) target = &corner;
    }
    if (target == nullptr) target = step > 0 ? &corners.front() : &corners.back();
    go_to_corner(target->number);
}

/// Two sentences about the picture under the pointer; away from all, about the one beside the traces.
QString CompareDesk::help_under_pointer() const {
    const auto under = [](const QWidget* widget) { return widget->isVisible() && widget->underMouse(); };
    if (under(canvas_))
        return tr(
            "Each lane shows one or more channels of the picked laps against the same axis; letters and colours are "
            "the laps'. Look where the gap begins to climb, and read the lanes below it at that place.");
    if (under(map_))
        return tr(
            "The road with the lines as driven; full dots are the cars at the cursor's place, rings at the same "
            "moment. Look where a line leaves the other's, and paint it by a channel to see what was done there.");
    if (under(strip_))
        return tr(
            "The lap by its curvature, left turns up, right turns down; the tinted part is the range. Drag to set "
            "the range, or click a number to look at that corner.");
    if (under(phases_))
        return tr(
            "What A is doing: hatched braking, dotted part throttle, solid full throttle, empty neither. Look at "
            "which phase the gap grows in.");
    return beside_->help();
}

void CompareDesk::step_beside(int step) {
    show_side(true);
    beside_->step(step);
}

void CompareDesk::step_event(int step) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (!laps.on_track()) return;
    const int slot = workspace_.comparison().active_slot();
    const auto& moments = laps.laps[static_cast<std::size_t>(slot)].moments;
    const double now = workspace_.focus().state().cursor_m - workspace_.comparison().slid_m(slot);
    const LapEvent* target = nullptr;
    for (const LapEvent& event : moments) {
        if (step > 0 && event.place_m > now + 0.01 && target == nullptr) target = &event;
        if (step < 0 && event.place_m < now - 0.01) target = &event;
    }
    if (target != nullptr) go_to_event(slot, *target);
}

/// Puts the cursor on an event and measures it against the other lap's.
void CompareDesk::go_to_event(int slot, const LapEvent& event) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    // Where it is drawn, should the lap be slid.
    const double place_m = event.place_m + workspace_.comparison().slid_m(slot);
    workspace_.focus().set_cursor(place_m);
    const Interval view = workspace_.comparison().view();
    if (!view.contains(place_m) && workspace_.comparison().axis() != Axis::run)
        workspace_.comparison().set_view({place_m - view.length() / 2, place_m + view.length() / 2});
    const int other = slot == 0 ? std::max(1, workspace_.comparison().active_slot()) : 0;
    QString words =
        tr("%1 %2 at %3")
            .arg(slot_letter(slot), QString::fromStdString(event_words(event)), distance_text(event.place_m, 1));
    if (event.corner != 0) words += tr(" (turn %1)").arg(event.corner);
    if (other < static_cast<int>(laps.laps.size())) {
        const auto& mine = laps.laps[static_cast<std::size_t>(slot)];
        const auto& theirs = laps.laps[static_cast<std::size_t>(other)];
        if (const auto same = same_event(event, theirs.moments)) {
            const double by_m = event.place_m - same->place_m;
            const double by_s = (mine.lap.map.time_at(event.place_m) - mine.lap.map.start_s()) -
                                (theirs.lap.map.time_at(same->place_m) - theirs.lap.map.start_s());
            words += tr(": %1 and %2 since the line against %3")
                         .arg(with_unit(distance_shown(1).difference_text(by_m), distance_shown().unit),
                              with_unit(signed_number(by_s, 3), QStringLiteral("s")), slot_letter(other));
        } else {
            words += tr(": %1 does not").arg(slot_letter(other));
        }
    }
    workspace_.tell(words + u'.');
}

void CompareDesk::slide(int direction) {
    auto& comparison = workspace_.comparison();
    const ComparedLaps& laps = comparison.laps();
    if (laps.laps.size() < 2 || !laps.on_track()) return;
    if (comparison.axis() != Axis::distance)
        return workspace_.tell(tr("Curves are slid along the road where they stand against the distance (D)."));
    const int slot = std::max(1, comparison.active_slot());
    const double step_m = std::max(1.0, std::round(comparison.view().length() / canvas_->plot_area().width()));
    const double to_m = direction == 0 ? 0 : comparison.slid_m(slot) + direction * step_m;
    workspace_.focus().slide(laps.laps[static_cast<std::size_t>(slot)].lap.ref, to_m);
    workspace_.tell(
        to_m == 0
            ? tr("%1 lies where it was driven.").arg(slot_letter(slot))
            : tr("%1 %2: gap, map and figures are as driven.").arg(slot_letter(slot), comparison.slid_words(slot)));
}

void CompareDesk::step_cursor(double pixels) {
    if (workspace_.comparison().laps().empty()) return;
    auto& comparison = workspace_.comparison();
    const double by = pixels * comparison.view().length() / canvas_->plot_area().width();
    comparison.set_cursor_in_view(comparison.view_limits().clamp(comparison.cursor_in_view() + by));
}

void CompareDesk::show_map(MapCanvas::View view) {
    (view == MapCanvas::View::plan ? plan_ : view == MapCanvas::View::lines ? lines_ : side_)->setChecked(true);
    map_->set_view(view);
}

void CompareDesk::set_paint(const MapPaint& paint) {
    map_->set_paint(paint);
    if (paint.quantity.empty()) return;
    // How a quantity is painted is kept for the next time and the next run.
    QJsonObject how{{QStringLiteral("bands"), paint.bands},
                    {QStringLiteral("band_count"), paint.band_count},
                    {QStringLiteral("percentile"), paint.percentile}};
    if (paint.limits) how[QStringLiteral("limits_si")] = QJsonArray{paint.limits->begin, paint.limits->end};
    Preferences::of_person().set_map_paint(QString::fromStdString(paint.quantity),
                                           QString::fromUtf8(QJsonDocument(how).toJson(QJsonDocument::Compact)));
}

MapPaint CompareDesk::kept_paint(const std::string& quantity) {
    MapPaint out{.quantity = quantity};
    const QString text = Preferences::of_person().map_paint(QString::fromStdString(quantity));
    const QJsonObject how = QJsonDocument::fromJson(text.toUtf8()).object();
    if (how.isEmpty()) return out;
    out.bands = how[QStringLiteral("bands")].toBool();
    out.band_count = std::clamp(how[QStringLiteral("band_count")].toInt(out.band_count), 2, 24);
    out.percentile = std::clamp(how[QStringLiteral("percentile")].toDouble(out.percentile), 0.0, 40.0);
    const QJsonArray limits = how[QStringLiteral("limits_si")].toArray();
    if (limits.size() == 2 && limits[1].toDouble() > limits[0].toDouble())
        out.limits = Interval{limits[0].toDouble(), limits[1].toDouble()};
    return out;
}

void CompareDesk::flip_sign(const std::string& quantity) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    if (laps.empty()) return;
    const RunId run = workspace_.comparison().active().run->row.id;
    const auto flipped = workspace_.shown(workspace_.library().flipped_quantities(run));
    const bool now = std::find(flipped.begin(), flipped.end(), quantity) != flipped.end();
    workspace_.edit(
        tr("turn the sign of %1 round").arg(shown(quantity).label),
        [this, run, quantity, now] { return workspace_.library().set_flipped(run, quantity, !now); },
        [this, run, quantity, now] { return workspace_.library().set_flipped(run, quantity, now); });
}

}  // namespace rendak::app
