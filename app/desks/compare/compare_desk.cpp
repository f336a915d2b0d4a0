#include "app/desks/compare/compare_desk.h"

#include <QDoubleSpinBox>
#include <QHBoxLayout>
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
    : Desk(workspace, parent), pages_(workspace.library()), matching_(workspace.jobs()), giving_out_(workspace.jobs()) {
    auto& focus = workspace.focus();
    auto& comparison = workspace.comparison();
    canvas_ = new TraceCanvas(focus, comparison);
    strip_ = new ShapeStrip(focus, comparison);
    phases_ = new PhaseBar(focus, comparison, *canvas_);
    map_ = new MapCanvas(focus, comparison);
    halves_ = new QSplitter(this);
    halves_->setHandleWidth(8);
    halves_->setContentsMargins(0, 0, 8, 0);
    auto* main_half = new QWidget(halves_);
    auto* left = new QVBoxLayout(main_half);
    left->setContentsMargins(0, 0, 0, 0);
    left->setSpacing(0);
    left->addWidget(build_top(main_half));
    left->addWidget(strip_);
    left->addWidget(phases_);
    left->addWidget(canvas_, 1);
    halves_->addWidget(main_half);
    halves_->addWidget(build_side(halves_));
    replay_ = new Replay(focus, comparison, this);
    board_ = new ReplayBoard(focus, comparison, *replay_);
    beside_->films().follow(*replay_);
    board_->hide();
    left->addWidget(board_);
    connect(replay_, &Replay::changed, this, [this] {
        // Once it was asked for it stays in sight, so that a moment can be looked at in peace.
        if (replay_->running()) board_->show();
    });
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
        Preferences::of_person().keep_shown();
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
    add_key(tr("Time ledger of the two laps, or of all laps of their runs"), {QKeySequence(Qt::Key_W)}, [this] {
        const bool there = side_is_shown() && beside_->picture() == Beside::Picture::ledger;
        show_side(true);
        beside_->show_picture(Beside::Picture::ledger);
        if (there) beside_->ledger().widen(!beside_->ledger().is_wide());
    });
    for (const auto& [name, with, picture] :
         {std::tuple{tr("Corner card: all about the corner at the cursor"), Qt::KeyboardModifiers(Qt::ShiftModifier),
                     Beside::Picture::card},
          {tr("What to work on, and what is being worked on"), Qt::AltModifier, Beside::Picture::work},
          {tr("The two on one page"), Qt::ShiftModifier | Qt::AltModifier, Beside::Picture::overview}}) {
        add_key(name, {QKeySequence(QKeyCombination(with, Qt::Key_W))}, [this, shows = picture] {
            show_side(true);
            beside_->show_picture(shows);
        });
    }
    add_key(tr("What the picture beside the traces shows, and what to look for"), {QKeySequence(Qt::Key_Question)},
            [this] { workspace_.tell(help_under_pointer()); });
    QAction* play = add_key(tr("Replay: start, and hold"), {QKeySequence(Qt::Key_Space)},
                            [this] { replay_->running() ? replay_->stop() : replay_->start(); });
    // Not everywhere on the desk: where a button has the keyboard, the space bar presses it.
    play->setShortcutContext(Qt::WidgetShortcut);
    canvas_->addAction(play);
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
    add_key(tr("Slide the active lap's curves back along the road, to compare shapes"),
            {QKeySequence(Qt::CTRL | Qt::Key_Left)}, [this] { slide(-1); });
    add_key(tr("Slide the active lap's curves forth along the road, to compare shapes"),
            {QKeySequence(Qt::CTRL | Qt::Key_Right)}, [this] { slide(1); });
    add_key(tr("The active lap's curves back to where it was driven"), {QKeySequence(Qt::CTRL | Qt::Key_Down)},
            [this] { slide(0); });
    add_key(tr("Next page of lanes"), {QKeySequence(Qt::Key_P)}, [this] { step_page(1); });
    add_key(tr("Previous page of lanes"), {QKeySequence(Qt::SHIFT | Qt::Key_P)}, [this] { step_page(-1); });
    const QStringList ready_made = pages_.ready_made_names();
    for (qsizetype i = 0; i < ready_made.size() && i < 10; ++i) {
        const auto digit = static_cast<Qt::Key>(Qt::Key_0 + (i + 1) % 10);
        add_key(tr("Page %1").arg(ready_made[i]), {QKeySequence(digit)},
                [this, name = ready_made[i]] { show_page(name); });
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
    add_key(tr("A note on the picture, at the cursor"), {QKeySequence(Qt::SHIFT | Qt::Key_N)},
            [this] { ask_picture_note(false); });
    add_key(tr("The active lap in the Logbook"), {QKeySequence(Qt::Key_L)},
            [this, with_active] { with_active([this](LapRef lap) { Q_EMIT workspace_.lap_asked(lap); }); });
    for (int kind = 0; kind < PictureWindow::kinds; ++kind) {
        const auto shows = static_cast<PictureWindow::Shows>(kind);
        add_key(tr("A window with this alone: %1").arg(PictureWindow::name_of(shows)), {},
                [this, shows] { open_picture(shows); });
    }
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

}  // namespace rendak::app
