#include "app/focus/selection.h"

#include <algorithm>

#include "app/session/preferences.h"
#include "core/laps/cut.h"

namespace rendak::app {

Selection::Selection(Session& session, QObject* parent)
    : QObject(parent), session_(session), comparison_(session.library().folder(), focus_, session.jobs()) {
    connect(&session_, &Session::changed, this, [this](Change change) {
        if (change == Change::recordings) comparison_.reload();
        if (change == Change::papers || change == Change::formulas) comparison_.renew();
    });
    const auto check = [this] {
        std::vector<RunId> runs;
        for (const ComparedLap& lap : comparison_.laps().laps) runs.push_back(lap.lap.ref.run);
        session_.check(runs);
    };
    connect(&comparison_, &Comparison::changed, this, check);
    connect(&session_, &Session::recording_shrank, this, check);
    connect(&comparison_, &Comparison::failed, this, [this](const Error& error) { session_.tell(error); });
    keep_soon_.setSingleShot(true);
    keep_soon_.setInterval(400);
    connect(&keep_soon_, &QTimer::timeout, this, &Selection::keep);
    for (const auto changed :
         {&Focus::laps_changed, &Focus::range_changed, &Focus::cursor_changed, &Focus::axis_changed})
        connect(&focus_, changed, &keep_soon_, qOverload<>(&QTimer::start));
}

bool Selection::pick(LapRef lap) {
    if (focus_.add_lap(lap)) return true;
    session_.tell(Error{ErrorCode::bad_input,
                        tr("The tray holds %1 laps. Take one away to pick another.").arg(most_laps).toStdString(),
                        {}});
    return false;
}

bool Selection::pick_best(RunId run) {
    const auto laps = session_.shown(session_.library().laps(run));
    const Lap* best = best_lap(laps);
    return best != nullptr && pick({run, best->number});
}

void Selection::step_lap(int step) {
    const auto& state = focus_.state();
    if (state.laps.empty()) return;
    const LapRef now = state.laps[static_cast<std::size_t>(state.active_slot)];
    std::vector<int> numbers;
    for (const Lap& lap : session_.shown(session_.library().laps(now.run))) {
        if (lap.complete()) numbers.push_back(lap.number);
    }
    const auto at = std::find(numbers.begin(), numbers.end(), now.lap);
    if (at == numbers.end()) return session_.tell(tr("Only laps from line to line are stepped through; this is none."));
    // Laps that another slot shows already are stepped over.
    for (auto next = (at - numbers.begin()) + step; next >= 0 && next < static_cast<std::ptrdiff_t>(numbers.size());
         next += step) {
        const LapRef lap{now.run, numbers[static_cast<std::size_t>(next)]};
        if (focus_.slot_of(lap) >= 0) continue;
        focus_.replace_slot(state.active_slot, lap);
        return;
    }
    session_.tell(step > 0 ? tr("This is the run's last lap that can be compared.")
                           : tr("This is the run's first lap that can be compared."));
}

void Selection::best_of_active() {
    const auto& state = focus_.state();
    if (state.laps.empty()) return;
    const LapRef now = state.laps[static_cast<std::size_t>(state.active_slot)];
    const auto laps = session_.shown(session_.library().laps(now.run));
    const Lap* best = best_lap(laps);
    if (best == nullptr) return session_.tell(tr("No flying lap of this run counts."));
    const LapRef wanted{now.run, best->number};
    if (focus_.slot_of(wanted) < 0)
        focus_.replace_slot(state.active_slot, wanted);
    else
        session_.tell(tr("The best lap of this run is on the tray already."));
}

void Selection::keep_now() {
    if (!keep_soon_.isActive()) return;
    keep_soon_.stop();
    keep();
}

void Selection::keep() {
    Preferences::of_person().set_focus(session_.library().folder(), focus_to_json(focus_.state()));
}

void Selection::restore() {
    const auto state = focus_from_json(Preferences::of_person().focus(session_.library().folder()));
    if (state) focus_.set_state(*state);
}

}  // namespace rendak::app
