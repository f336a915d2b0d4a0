// What is to be seen of Compare in pictures of the window.

#include "app/desks/compare/channel_picker.h"
#include "app/desks/compare/compare_desk.h"
#include "core/laps/cut.h"

namespace rendak::app {

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
    // Beside the traces, and the replay.
    show_page(QStringLiteral("Wheels and slip"));
    beside_->show_picture(Beside::Picture::changes);
    book.take(QStringLiteral("compare-changes"));
    show_page(Pages::first());
    beside_->show_picture(Beside::Picture::ledger);
    beside_->ledger().widen(true);
    book.take(QStringLiteral("compare-ledger"));
    beside_->show_picture(Beside::Picture::card);
    book.settle();
    book.take(QStringLiteral("compare-corner-card"), beside_->card());
    beside_->show_picture(Beside::Picture::work);
    book.take(QStringLiteral("compare-work"));
    beside_->show_picture(Beside::Picture::overview);
    book.take(QStringLiteral("compare-overview"));
    beside_->ledger().widen(false);
    beside_->show_picture(Beside::Picture::circle);
    const double length_m = workspace_.comparison().laps().length_m();
    focus.set_range(view_of_corner(workspace_.comparison().laps().track(), corner));
    focus.set_cursor(corner.start_m + 20);
    board_->show();
    book.take(QStringLiteral("compare-replay"));
    board_->hide();
    beside_->show_picture(Beside::Picture::values);
    focus.set_range({0, length_m});
    workspace_.tell(QString());
    show_picker();
    book.take(QStringLiteral("compare-channels"), *picker_);
    picker_->close();
    book.take_garage(QStringLiteral("compare-garage"));
}

}  // namespace rendak::app
