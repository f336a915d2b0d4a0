#include "app/desks/compare/compare_desk.h"

#include <QColorDialog>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSplitter>
#include <QStackedLayout>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>
#include <set>

#include "app/desks/compare/channel_picker.h"
#include "app/session/preferences.h"
#include "app/text/elided_label.h"
#include "app/text/plain_text.h"
#include "app/text/sentences.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "app/workspace/lap_actions.h"
#include "core/analysis/overlay.h"
#include "core/analysis/run_differences.h"
#include "core/laps/cut.h"
#include "core/signal/quantity.h"

namespace rendak::app {
CompareDesk::CompareDesk(Workspace& workspace, QWidget* parent)
    : Desk(workspace, parent), pages_(workspace.library()), matching_(workspace.jobs()) {
    auto& focus = workspace.focus();
    auto& comparison = workspace.comparison();
    canvas_ = new TraceCanvas(focus, comparison);
    strip_ = new ShapeStrip(focus, comparison);
    phases_ = new PhaseBar(focus, comparison, *canvas_);
    map_ = new MapCanvas(focus, comparison);
    beside_ = new Beside(focus, comparison, workspace.jobs());
    connect(beside_, &Beside::state_changed, this, &CompareDesk::state_changed);

    halves_ = new QSplitter;
    halves_->setHandleWidth(8);
    halves_->setContentsMargins(0, 0, 8, 0);
    auto* main_half = new QWidget;
    auto* left = new QVBoxLayout(main_half);
    left->setContentsMargins(0, 0, 0, 0);
    left->setSpacing(0);
    left->addWidget(build_top());
    left->addWidget(strip_);
    left->addWidget(phases_);
    left->addWidget(canvas_, 1);
    replay_ = new Replay(focus, comparison, this);
    board_ = new ReplayBoard(focus, comparison, *replay_);
    board_->hide();
    left->addWidget(board_);
    connect(replay_, &Replay::changed, this, [this] {
        // Once it was asked for it stays in sight, so that a moment can be looked at in peace.
        if (replay_->running()) board_->show();
    });
    halves_->addWidget(main_half);
    halves_->addWidget(build_side());
    halves_->setStretchFactor(0, 1);
    halves_->setStretchFactor(1, 0);
    halves_->setCollapsible(0, false);
    connect(halves_, &QSplitter::splitterMoved, this, &CompareDesk::state_changed);

    stack_ = new QStackedLayout(this);
    stack_->addWidget(halves_);
    stack_->addWidget(build_empty());

    connect(&comparison, &Comparison::changed, this, &CompareDesk::refresh);
    connect(&focus, &Focus::axis_changed, this, &CompareDesk::refresh);
    connect(canvas_, &TraceCanvas::lanes_changed, this, [this] {
        beside_->set_quantities(quantities_of(canvas_->lanes()));
        Preferences::of_person().keep_scales();
        if (!fitting_) lanes_touched();
    });
    connect(canvas_, &TraceCanvas::channel_colour_asked, this, &CompareDesk::ask_channel_colour);
    connect(canvas_, &TraceCanvas::moment_asked, this, &CompareDesk::go_to_event);
    connect(canvas_, &TraceCanvas::flip_sign_asked, this, &CompareDesk::flip_sign);
    connect(&beside_->values(), &ValuePanel::lap_menu_asked, this, [this](int slot, QPoint at) {
        QMenu menu;
        add_lap_actions(menu, workspace_, workspace_.comparison().laps().laps[static_cast<std::size_t>(slot)].lap.ref,
                        this);
        menu.exec(at);
    });
    connect(&workspace_, &Workspace::lane_asked, this, [this](const QString& quantity) {
        auto lanes = canvas_->lanes();
        const std::string id = quantity.toStdString();
        const bool present = std::any_of(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(id); });
        if (!present) lanes.push_back({id, 0.9});
        canvas_->set_lanes(std::move(lanes));
        Q_EMIT workspace_.desk_asked(QStringLiteral("compare"));
    });
    add_keys();
    show_lanes_of_page();
    refresh();
}

void CompareDesk::take_focus() {
    canvas_->setFocus();
}

void CompareDesk::add_keys() {
    add_key(tr("Cursor left"), {QKeySequence(Qt::Key_Left)}, [this] { step_cursor(-1); });
    add_key(tr("Cursor right"), {QKeySequence(Qt::Key_Right)}, [this] { step_cursor(1); });
    add_key(tr("Cursor left, coarse"), {QKeySequence(Qt::SHIFT | Qt::Key_Left)}, [this] { step_cursor(-20); });
    add_key(tr("Cursor right, coarse"), {QKeySequence(Qt::SHIFT | Qt::Key_Right)}, [this] { step_cursor(20); });
    add_key(tr("Next corner"), {QKeySequence(Qt::Key_PageDown)}, [this] { step_corner(1); });
    add_key(tr("Previous corner"), {QKeySequence(Qt::Key_PageUp)}, [this] { step_corner(-1); });
    add_key(tr("Whole lap"), {QKeySequence(Qt::Key_Home)}, [this] { canvas_->show_all(); });
    add_key(tr("Zoom in"), {QKeySequence(Qt::Key_Up), QKeySequence(Qt::Key_Plus)},
            [this] { canvas_->zoom(workspace_.comparison().cursor_in_view(), 0.7); });
    add_key(tr("Zoom out"), {QKeySequence(Qt::Key_Down), QKeySequence(Qt::Key_Minus)},
            [this] { canvas_->zoom(workspace_.comparison().cursor_in_view(), 1 / 0.7); });
    add_key(tr("Back to the range before"), {QKeySequence(Qt::Key_Escape)}, [this] { canvas_->zoom_back(); });
    add_key(tr("The next picture beside the traces"), {QKeySequence(Qt::Key_V)}, [this] { step_beside(1); });
    add_key(tr("The picture beside the traces before"), {QKeySequence(Qt::SHIFT | Qt::Key_V)},
            [this] { step_beside(-1); });
    add_key(tr("What the picture beside the traces shows, and what to look for"), {QKeySequence(Qt::Key_Question)},
            [this] { workspace_.tell(help_under_pointer()); });
    add_key(tr("Replay: start, and hold"), {QKeySequence(Qt::Key_Space)},
            [this] { replay_->running() ? replay_->stop() : replay_->start(); });
    add_key(tr("Replay slower"), {QKeySequence(Qt::Key_Comma)}, [this] { replay_->step_speed(-1); });
    add_key(tr("Replay quicker"), {QKeySequence(Qt::Key_Period)}, [this] { replay_->step_speed(1); });
    add_key(tr("Replay: laps together by time, or by place"), {QKeySequence(Qt::Key_Y)}, [this] {
        replay_->set_by_time(!replay_->by_time());
        workspace_.tell(replay_->by_time() ? tr("Every lap as far as it is after the same time.")
                                           : tr("Every lap at the place where A is."));
    });
    add_key(tr("Replay: away with what the cars do"), {QKeySequence(Qt::SHIFT | Qt::Key_Space)}, [this] {
        replay_->stop();
        board_->hide();
    });
    add_key(tr("Back through ranges"), {QKeySequence(Qt::ALT | Qt::Key_Left)}, [this] { canvas_->zoom_back(); });
    add_key(tr("Forth through ranges"), {QKeySequence(Qt::ALT | Qt::Key_Right)}, [this] { canvas_->zoom_forth(); });
    add_key(tr("Pin at the cursor, or take it away"), {QKeySequence(Qt::Key_I)}, [this] { canvas_->pin_cursor(); });
    add_key(tr("Gap counted from the left edge of the view, or from the line"), {QKeySequence(Qt::Key_G)},
            [this] { canvas_->count_gap_from_view(!canvas_->counts_gap_from_view()); });
    add_key(tr("To the active lap's next event (brakes, turns in, shifts …)"), {QKeySequence(Qt::Key_E)},
            [this] { step_event(1); });
    add_key(tr("To the active lap's event before"), {QKeySequence(Qt::SHIFT | Qt::Key_E)}, [this] { step_event(-1); });
    add_key(tr("Next page of lanes"), {QKeySequence(Qt::Key_P)}, [this] { step_page(1); });
    add_key(tr("Previous page of lanes"), {QKeySequence(Qt::SHIFT | Qt::Key_P)}, [this] { step_page(-1); });
    for (int i = 0; i < 9; ++i) {
        const QString name = pages_.names().value(i);
        add_key(tr("Page %1").arg(name), {QKeySequence(static_cast<Qt::Key>(Qt::Key_1 + i))},
                [this, i] { show_page(pages_.names().value(i)); });
    }
    add_key(tr("Only the lane under the pointer, and back"), {QKeySequence(Qt::Key_O)},
            [this] { canvas_->show_only(!canvas_->shows_only_one()); });
    add_key(tr("Map and values beside the traces, or more room"), {QKeySequence(Qt::Key_S)},
            [this] { show_side(!side_is_shown()); });
    add_key(tr("The lane's height fits the view, or the lap again"), {QKeySequence(Qt::Key_F)}, [this] {
        const std::size_t lane = canvas_->lane_at_hand();
        if (lane >= canvas_->lanes().size()) return;
        canvas_->scale_lane(lane, canvas_->lanes()[lane].scale == LaneScale::view ? LaneScale::lap : LaneScale::view);
    });
    const auto with_active = [this](auto act) {
        const FocusState& state = workspace_.focus().state();
        if (!state.laps.empty()) act(state.laps[static_cast<std::size_t>(state.active_slot)]);
    };
    add_key(tr("Count the active lap, or leave it out"), {QKeySequence(Qt::Key_X)},
            [this, with_active] { with_active([this](LapRef lap) { toggle_lap(workspace_, lap); }); });
    add_key(tr("Note of the active lap"), {QKeySequence(Qt::Key_N)},
            [this, with_active] { with_active([this](LapRef lap) { ask_lap_note(workspace_, lap, this); }); });
    add_key(tr("The active lap in the Logbook"), {QKeySequence(Qt::Key_L)},
            [this, with_active] { with_active([this](LapRef lap) { Q_EMIT workspace_.lap_asked(lap); }); });
    add_key(tr("Which channels have a lane"), {QKeySequence(Qt::Key_C)}, [this] { show_picker(); });
    add_key(tr("Back to the best lap of the active card's run"), {QKeySequence(Qt::Key_B)},
            [this] { workspace_.selection()->best_of_active(); });
    Focus& focus = workspace_.focus();
    add_key(tr("Against the distance"), {QKeySequence(Qt::Key_D)}, [&focus] { focus.set_axis(Axis::distance); });
    add_key(tr("Against the time since the line"), {QKeySequence(Qt::Key_T)}, [&focus] { focus.set_axis(Axis::time); });
    add_key(tr("The whole run"), {QKeySequence(Qt::Key_R)}, [&focus] { focus.set_axis(Axis::run); });
}

void CompareDesk::refresh() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    const FocusState& state = workspace_.focus().state();
    distance_->setChecked(state.axis == Axis::distance);
    time_->setChecked(state.axis == Axis::time);
    run_->setChecked(state.axis == Axis::run);
    stack_->setCurrentIndex(laps.empty() ? 1 : 0);
    if (laps.empty()) {
        empty_text_->setText(workspace_.comparison().busy() ? tr("Aligning laps …") : tr("No laps are picked yet."));
        return;
    }
    {
        const auto wanted = lanes_of_page();
        auto lanes = fitting_lanes(wanted);
        if (lanes.empty()) lanes = wanted;
        const auto& now = canvas_->lanes();
        const auto same = [](const Lane& a, const Lane& b) { return a.quantities() == b.quantities(); };
        if (!std::equal(lanes.begin(), lanes.end(), now.begin(), now.end(), same)) set_lanes_quietly(lanes);
    }
    tell_missing();
    const auto turned = workspace_.shown(
        workspace_.library().setting("map.turned." + std::to_string(laps.baseline().run->row.track.value)));
    const double degrees = turned.empty() ? 0 : QString::fromStdString(turned).toDouble();
    if (std::abs(degrees - map_->turned_deg()) > 0.01) map_->set_turned(degrees);
    changes_->hide();
    for (QPushButton* needs_places : {distance_, time_}) needs_places->setEnabled(laps.on_track());
    for (QWidget* of_places : {static_cast<QWidget*>(strip_), static_cast<QWidget*>(phases_), map_->parentWidget()})
        of_places->setVisible(laps.on_track());
    overlay_->setVisible(!laps.on_track() && laps.laps.size() > 1);
    if (!laps.on_track()) return show_over_time();
    if (laps.laps.size() == 1) {
        headline_->setText(
            tr("A is %1, %2.").arg(lap_name(laps.baseline(), laps), lap_time(laps.baseline().lap.time_s())));
        evidence_->setText(tr("Pick a second lap in the Logbook, or with + above, to see where the time is."));
        return tell_stops();
    }
    const int slot = std::max(1, workspace_.comparison().active_slot());
    headline_->setText(headline(laps, slot));
    QStringList parts;
    for (const ZoneDifference* zone : largest_zones(laps.laps[static_cast<std::size_t>(slot)], 3)) {
        const QString words = evidence(*zone).toHtmlEscaped();
        parts << QStringLiteral(
                     "<a href=\"corner:%1\" style=\"color:%2; text-decoration:none\"><b>%3&nbsp;%4</b></a>%5")
                     .arg(zone->zone.corner.number)
                     .arg(theme().accent.name(), zone_name(*zone).toHtmlEscaped().replace(u' ', QChar(0xa0)),
                          signed_number(zone->loss_s, 3), words.isEmpty() ? QString() : QStringLiteral(": ") + words);
    }
    const auto largest = largest_zones(laps.laps[static_cast<std::size_t>(slot)], 3);
    const bool inferred = std::any_of(largest.begin(), largest.end(), [](const auto* zone) { return zone->inferred; });
    evidence_->setText(
        (parts.isEmpty() ? tr("No corner stands out.") : parts.join(QStringLiteral(" &nbsp;·&nbsp; "))) +
        (inferred ? QStringLiteral(" &nbsp;·&nbsp; ") + tr("Pedals are inferred from acceleration.") : QString()));
    tell_stops();
    show_changes(slot);
}

/// Over the whole run the question is what happened, not where the gap comes from.
void CompareDesk::tell_stops() {
    if (workspace_.comparison().axis() != Axis::run) return;
    const auto& laps = workspace_.comparison().laps().laps;
    QStringList words;
    std::set<RunId> told;
    for (std::size_t k = 0; k < laps.size(); ++k) {
        if (!told.insert(laps[k].run->row.id).second) continue;
        for (const Stop& stop : laps[k].stops)
            words << slot_letter(static_cast<int>(k)) + QStringLiteral(": ") +
                         QString::fromStdString(stop_words(stop)).toHtmlEscaped();
    }
    if (!words.isEmpty()) evidence_->setText(words.join(QStringLiteral(" &nbsp;·&nbsp; ")));
}

/// Runs without places: what lies where, and how to move it.
void CompareDesk::show_over_time() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    const ComparedLap& a = laps.baseline();
    run_->setChecked(true);
    if (laps.laps.size() == 1) {
        headline_->setText(tr("A is %1, %2 long.").arg(lap_name(a, laps), lap_time(a.lap.time_s())));
        evidence_->setText(
            a.run->track == nullptr
                ? tr("This run has no track, so it is shown over time. Learn its track in the Logbook to "
                     "compare laps by place, or lay another run over it with + above.")
                : tr("All of it over time. Pick laps from line to line to compare by place."));
        return tell_stops();
    }
    const int slot = std::max(1, workspace_.comparison().active_slot());
    const ComparedLap& lap = laps.laps[static_cast<std::size_t>(slot)];
    headline_->setText(
        tr("%1 (%2) lies over A (%3) by time.").arg(slot_letter(slot), lap_name(lap, laps), lap_name(a, laps)));
    const bool moves = lap.lap.ref.lap == whole_run;
    evidence_->setText(moves ? tr("No places, so no gap. Drag with Ctrl to move %1, type its offset, or have it found.")
                                   .arg(slot_letter(slot))
                             : tr("No places, so no gap. Laps begin at the same moment here."));
    const auto found = workspace_.focus().state().shifts_s.find(lap.lap.ref.run);
    const QSignalBlocker quiet(shift_);
    shift_->setValue(found == workspace_.focus().state().shifts_s.end() ? 0 : found->second);
    shift_->setEnabled(moves);
    find_shift_->setEnabled(moves && !matching_.running());
    shift_label_->setText(tr("%1 moved by").arg(slot_letter(slot)));
    tell_stops();
    show_changes(slot);
}

void CompareDesk::find_shift() {
    const ComparedLaps& laps = workspace_.comparison().laps();
    const int slot = std::max(1, workspace_.comparison().active_slot());
    if (laps.on_track() || slot >= static_cast<int>(laps.laps.size())) return;
    const ComparedLap &a = laps.baseline(), &b = laps.laps[static_cast<std::size_t>(slot)];
    if (b.lap.ref.lap != whole_run) return;
    find_shift_->setEnabled(false);
    matching_.run<Overlay>(
        tr("Laying the runs over each other"),
        [a = a.lap.recording, b = b.lap.recording](const JobContext&) { return overlay_of(*a, *b); },
        [this, letter = slot_letter(slot), run = b.lap.ref.run, begin_s = b.lap.recording->span_s().begin,
         zero_s = a.lap.map.start_s()](const Result<Overlay>& found) {
            find_shift_->setEnabled(true);
            if (!found) return workspace_.tell(found.error());
            workspace_.focus().set_shift(run, begin_s - zero_s + found->shift_s);
            QString text =
                (found->by_stretch ? tr("%1 lies best at %2 s (by %3, likeness %4 %, of its liveliest %5 s).")
                                   : tr("%1 lies best at %2 s (by %3, likeness %4 %, over %5 s)."))
                    .arg(letter, signed_number(begin_s - zero_s + found->shift_s, 2),
                         shown(found->quantity).label.toLower())
                    .arg(100 * found->likeness, 0, 'f', 0)
                    .arg(found->overlap_s, 0, 'f', 0);
            if (!found->others_s.empty())
                text += u' ' + tr("It fits nearly as well %1 s away: one road driven again.")
                                   .arg(signed_number(found->others_s.front() - found->shift_s, 1));
            workspace_.tell(text);
        });
}

void CompareDesk::show_changes(int slot) {
    const ComparedLaps& laps = workspace_.comparison().laps();
    const RunRow &before = laps.baseline().run->row, &after = laps.laps[static_cast<std::size_t>(slot)].run->row;
    if (before.id == after.id) return;
    const auto values = [this](SetupId id) {
        const auto sheet = id ? workspace_.library().setup(id) : Result<Setup>(fail(ErrorCode::not_found, ""));
        return sheet ? sheet->values : std::vector<SheetValue>{};
    };
    const auto differences = differences_between(before, after, values(before.setup), values(after.setup));
    if (differences.empty()) return;
    const auto joined = [](const std::vector<std::string>& parts) {
        QStringList out;
        for (const std::string& part : parts) out << QString::fromStdString(part);
        return out.join(QStringLiteral(", "));
    };
    QString text;
    if (differences.confounded())
        text = tr("%1 changes at once, so what helped cannot be told apart: %2.")
                   .arg(differences.changes.size())
                   .arg(joined(differences.changes));
    else if (!differences.changes.empty())
        text = tr("Changed: %1.").arg(joined(differences.changes));
    else
        text = tr("No change of the car is noted between the runs.");
    if (!differences.others.empty()) text += u' ' + tr("Not the same either: %1.").arg(joined(differences.others));
    changes_->setText(text);
    changes_->show();
}

QString CompareDesk::changes_text() const {
    return changes_->isHidden() ? QString() : changes_->text();
}

void CompareDesk::show_page(const QString& name) {
    page_ = name;
    touched_ = false;
    lanes_by_hand_ = pages_.is_changed(name);
    canvas_->show_only(false);
    const auto lanes = pages_.lanes(name);
    const auto fitting = workspace_.comparison().laps().empty() ? lanes : fitting_lanes(lanes);
    set_lanes_quietly(fitting.empty() ? lanes : fitting);
    tell_page();
    Q_EMIT state_changed();
    workspace_.tell(tr("Page %1.").arg(name));
}

void CompareDesk::step_page(int step) {
    const QStringList names = pages_.names();
    const auto now = names.indexOf(page_);
    show_page(names[(now + step + names.size()) % names.size()]);
}
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
    const double now = workspace_.focus().state().cursor_m;
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
    workspace_.focus().set_cursor(event.place_m);
    const Interval view = workspace_.comparison().view();
    if (!view.contains(event.place_m) && workspace_.comparison().axis() != Axis::run)
        workspace_.comparison().set_view({event.place_m - view.length() / 2, event.place_m + view.length() / 2});
    const int other = slot == 0 ? std::max(1, workspace_.comparison().active_slot()) : 0;
    QString words = tr("%1 %2 at %3")
                        .arg(slot_letter(slot), QString::fromStdString(event_words(event)),
                             with_unit(QString::number(event.place_m, 'f', 1), QStringLiteral("m")));
    if (event.corner != 0) words += tr(" (turn %1)").arg(event.corner);
    if (other < static_cast<int>(laps.laps.size())) {
        const auto& mine = laps.laps[static_cast<std::size_t>(slot)];
        const auto& theirs = laps.laps[static_cast<std::size_t>(other)];
        if (const auto same = same_event(event, theirs.moments)) {
            const double by_m = event.place_m - same->place_m;
            const double by_s = (mine.lap.map.time_at(event.place_m) - mine.lap.map.start_s()) -
                                (theirs.lap.map.time_at(same->place_m) - theirs.lap.map.start_s());
            words += tr(": %1 and %2 since the line against %3")
                         .arg(with_unit(signed_number(by_m, 1), QStringLiteral("m")),
                              with_unit(signed_number(by_s, 3), QStringLiteral("s")), slot_letter(other));
        } else {
            words += tr(": %1 does not").arg(slot_letter(other));
        }
    }
    workspace_.tell(words + u'.');
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

std::vector<Lane> CompareDesk::fitting_lanes(const std::vector<Lane>& wanted) const {
    const auto offered = [&](const std::string& quantity) { return workspace_.comparison().offers(quantity); };
    std::vector<Lane> lanes;
    for (const Lane& lane : wanted) {
        Lane here = lane;
        std::erase_if(here.more, [&](const std::string& id) { return !offered(id); });
        if (!offered(lane.quantity)) {
            if (lane.quantity == "brake_front" && offered("brake")) {
                here.quantity = "brake";
            } else if (!here.more.empty()) {
                here.quantity = here.more.front();
                here.more.erase(here.more.begin());
            } else {
                continue;
            }
        }
        lanes.push_back(std::move(here));
    }
    // With few sensors most of the work is done in speed and the two accelerations.
    if (lanes.size() < 4 && page_ == Pages::first() && !lanes_by_hand_) {
        for (const char* quantity : {"lateral_acceleration", "longitudinal_acceleration"}) {
            if (offered(quantity)) lanes.push_back({quantity, 1.2});
        }
    }
    return lanes;
}

/// What the page wants and these laps lack is named where it would stand, with what could stand in.
void CompareDesk::tell_missing() {
    const auto offered = [&](const std::string& id) { return workspace_.comparison().offers(id); };
    std::map<int, QStringList> missing;
    const auto& lanes = canvas_->lanes();
    int at = -1;
    for (const Lane& wanted : lanes_of_page()) {
        for (const std::string& id : wanted.quantities()) {
            const auto here =
                std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(id); });
            if (here != lanes.end()) at = static_cast<int>(here - lanes.begin());
            if (here != lanes.end() || offered(id)) continue;
            QString words = shown(id).label;
            for (const std::string_view other : stand_ins(id)) {
                if (!offered(std::string(other))) continue;
                words = tr("%1 (%2 could stand in)").arg(words, shown(other).label);
                break;
            }
            missing[at] << words;
        }
    }
    std::map<int, QString> words;
    for (const auto& [lane, names] : missing) words[lane] = tr("not logged: %1").arg(names.join(QStringLiteral(", ")));
    canvas_->set_missing(std::move(words));
}

void CompareDesk::ask_channel_colour(const std::string& quantity) {
    const QColor now = channel_colour(quantity).value_or(theme().channel(0));
    const QColor wished = QColorDialog::getColor(now, this, tr("Colour of %1").arg(shown(quantity).label));
    if (wished.isValid()) colour_channel(quantity, wished);
}

void CompareDesk::colour_channel(const std::string& quantity, const QColor& wished) {
    std::vector<QColor> others;
    for (const auto& [id, colour] : channel_colours()) {
        if (id != quantity) others.push_back(colour);
    }
    const QColor taken = nearest_that_works(wished, others);
    switch (colour_fault(wished, others)) {
        case ColourFault::none:
            workspace_.tell(
                tr("%1 has this colour where a lap alone is coloured by channel.").arg(shown(quantity).label));
            break;
        case ColourFault::not_seen:
            workspace_.tell(
                tr("That colour is too faint on one of the two grounds: the nearest that is seen on both was taken."));
            break;
        case ColourFault::like_another:
            workspace_.tell(
                tr("Some eyes cannot tell that colour from another channel's: the nearest that they can was taken."));
            break;
    }
    set_channel_colour(quantity, taken);
    Preferences::of_person().keep_scales();
    canvas_->show_anew();
}

void CompareDesk::set_lanes_quietly(std::vector<Lane> lanes) {
    fitting_ = true;
    canvas_->set_lanes(std::move(lanes));
    fitting_ = false;
}

void CompareDesk::lanes_touched() {
    lanes_by_hand_ = true;
    touched_lanes_ = lanes_to_keep();
    touched_ = !(touched_lanes_ == pages_.lanes(page_));
    tell_page();
    Q_EMIT state_changed();
}

/// What the page wants and these runs do not have stays wanted: behind the lane that it stood behind.
std::vector<Lane> CompareDesk::lanes_to_keep() const {
    std::vector<Lane> lanes = canvas_->lanes();
    const auto place_of = [&](const std::string& quantity) {
        return std::find_if(lanes.begin(), lanes.end(), [&](const Lane& lane) { return lane.shows(quantity); });
    };
    std::string before;
    for (const Lane& wanted : pages_.lanes(page_)) {
        const bool here = workspace_.comparison().offers(wanted.quantity);
        if (!here && !workspace_.comparison().laps().empty() && place_of(wanted.quantity) == lanes.end()) {
            const auto behind = place_of(before);
            lanes.insert(behind == lanes.end() ? (before.empty() ? lanes.begin() : lanes.end()) : behind + 1, wanted);
        }
        before = wanted.quantity;
    }
    return lanes;
}

std::vector<Lane> CompareDesk::lanes_of_page() const {
    return touched_ ? touched_lanes_ : pages_.lanes(page_);
}

void CompareDesk::tell_page() {
    pages_button_->setText(touched_ ? tr("Pages •") : tr("Pages"));
    pages_button_->setToolTip((touched_ ? tr("%1, changed and not kept.") : tr("%1.")).arg(page_) + u' ' +
                              tr("Lanes by theme; 1 to 9, or P and Shift+P"));
}

void CompareDesk::keep_page() {
    if (const auto saved = pages_.save(page_, lanes_to_keep()); !saved) return workspace_.tell(saved.error());
    touched_ = false;
    tell_page();
    Q_EMIT state_changed();
    workspace_.tell(tr("Page %1 is kept as it is now.").arg(page_));
}

void CompareDesk::write_page_file() {
    const QString file = QFileDialog::getSaveFileName(this, tr("Write the page %1").arg(page_),
                                                      page_ + QStringLiteral(".json"), tr("Pages (*.json)"));
    if (file.isEmpty()) return;
    if (const auto done = write_page({page_, lanes_to_keep()}, file.toStdString()); !done)
        return workspace_.tell(done.error());
    workspace_.tell(tr("Page %1 is written to %2.").arg(page_, file));
}

void CompareDesk::read_page_file() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Read a page"), QString(), tr("Pages (*.json)"));
    if (!file.isEmpty()) take_page(file);
}

void CompareDesk::take_page(const QString& file) {
    const auto page = read_page(file.toStdString());
    if (!page) return workspace_.tell(page.error());
    // A page of that name is one's own: the other stands beside it.
    QString name = page->name;
    for (int i = 2; pages_.names().contains(name); ++i) name = QStringLiteral("%1 %2").arg(page->name).arg(i);
    if (const auto saved = pages_.save(name, page->lanes); !saved) return workspace_.tell(saved.error());
    show_page(name);
}

void CompareDesk::show_side(bool on) {
    halves_->widget(1)->setVisible(on);
    Q_EMIT state_changed();
}

bool CompareDesk::side_is_shown() const {
    return !halves_->widget(1)->isHidden();
}

QString CompareDesk::state() const {
    QJsonObject out{{QStringLiteral("page"), page_},
                    {QStringLiteral("side"), side_is_shown()},
                    {QStringLiteral("side_width"), halves_->sizes().value(1)},
                    {QStringLiteral("beside"), beside_->state()},
                    {QStringLiteral("by_channel"), canvas_->colours_by_channel()}};
    if (touched_) out[QStringLiteral("lanes")] = QString::fromStdString(text_of_lanes(touched_lanes_));
    return QString::fromUtf8(QJsonDocument(out).toJson(QJsonDocument::Compact));
}

void CompareDesk::restore(const QString& state) {
    const QJsonObject in = QJsonDocument::fromJson(state.toUtf8()).object();
    // Before there was more to keep, the state was the name of the page.
    const QString page = in.isEmpty() ? state : in[QStringLiteral("page")].toString();
    if (pages_.names().contains(page)) page_ = page;
    touched_lanes_ = lanes_from(in[QStringLiteral("lanes")].toString().toStdString());
    touched_ = !touched_lanes_.empty();
    halves_->widget(1)->setVisible(in[QStringLiteral("side")].toBool(true));
    if (const int width = in[QStringLiteral("side_width")].toInt(); width > 0) halves_->setSizes({1000, width});
    canvas_->colour_by_channel(in[QStringLiteral("by_channel")].toBool());
    beside_->restore(in[QStringLiteral("beside")].toString());
    show_lanes_of_page();
}

void CompareDesk::show_lanes_of_page() {
    lanes_by_hand_ = touched_ || pages_.is_changed(page_);
    set_lanes_quietly(lanes_of_page());
    tell_page();
}

void CompareDesk::show_pictures(PictureBook& book) {
    Focus& focus = workspace_.focus();
    book.settle();
    const ComparedLaps& laps = workspace_.comparison().laps();
    const bool corners = laps.on_track() && laps.track().corners.size() > 4;
    if (corners) focus.set_cursor(laps.track().corners[4].start_m);
    book.take(QStringLiteral("compare"));
    if (!corners) return;
    const Corner corner = laps.track().corners[4];
    focus.set_range(view_of_corner(laps.track(), corner));
    focus.set_cursor(corner.start_m);
    show_map(MapCanvas::View::lines);
    map_->show_events(true);
    book.take(QStringLiteral("compare-corner"));
    map_->show_events(false);
    focus.set_range({0, laps.length_m()});
    // Where the second driver brakes and turns, on the map; then all of his run against time.
    show_map(MapCanvas::View::side);
    set_paint({.quantity = "longitudinal_acceleration"});
    focus.set_axis(Axis::run);
    book.take(QStringLiteral("compare-run"));
    focus.set_axis(Axis::distance);
    show_map(MapCanvas::View::plan);
    // Runs without places lie over each other by time.
    const FocusState by_place = focus.state();
    FocusState by_time = by_place;
    for (LapRef& lap : by_time.laps) lap.lap = whole_run;
    focus.set_state(by_time);
    book.settle();
    find_shift();
    book.take(QStringLiteral("compare-over-time"));
    focus.set_state(by_place);
    book.settle();
    workspace_.tell(QString());  // what was found there is no news for the other pictures
    // Formulas are channels like any other: lanes, and the map painted.
    const std::vector<Lane> usual = canvas_->lanes();
    canvas_->set_lanes(
        {{"speed", 1}, {"understeer_angle", 1}, {"brake_balance", 0.8}, {"roll", 0.8}, {"coasting", 0.4}});
    set_paint({.quantity = "combined_g"});
    book.take(QStringLiteral("compare-formulas"));
    set_paint({});
    canvas_->set_lanes(usual);
    show_picker();
    book.take(QStringLiteral("compare-channels"), *picker_);
    picker_->close();
    book.take_garage(QStringLiteral("compare-garage"));
}

}  // namespace rendak::app
