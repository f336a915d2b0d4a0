#include "app/focus/comparison.h"

#include <algorithm>
#include <cmath>

#include "app/text/shown.h"

namespace rendak::app {

struct Comparison::Prepared {
    ComparedLaps compared;
    std::map<RunId, std::shared_ptr<const RunData>> opened;
    Traces traces;
};

namespace {

/// A run whose logged samples and formulas can be read for a quantity without computing anything.
bool is_at_hand(const ComparedLap& it, const std::string& quantity) {
    return is_between_laps(quantity) || it.lap.recording->find_logged(quantity) != nullptr ||
           it.run->formulas->ready(quantity);
}

/// Opens what is picked and not open yet, brings what is open up to date, and aligns it. Laps of `before` whose path is
/// still the same are taken over.
struct Preparation {
    const std::filesystem::path& folder;
    const std::vector<LapRef>& wanted;
    const std::map<RunId, double>& shifts_s;
    bool fastest_is_a;
    bool papers_changed;
    const ComparedLaps& before;
    std::map<RunId, std::shared_ptr<const RunData>> opened;
    std::unique_ptr<Library> library = {};
    bool over_time = false;

    Result<std::shared_ptr<const RunData>> run_of(LapRef ref) {
        auto& run = opened[ref.run];
        if (run != nullptr) return run;
        if (library == nullptr) {
            auto fresh = Library::open(folder, Library::Open::existing);
            if (!fresh) return pass_on(fresh.error());
            library = std::move(*fresh);
        }
        auto loaded = load_run(*library, ref.run);
        if (loaded) run = *loaded;
        return loaded;
    }

    /// Whole runs, laps without a track and those that do not go from line to line have no places: with one of them all
    /// are looked at over time.
    void choose_axis() {
        for (const LapRef ref : wanted) {
            const auto run = run_of(ref);  // an error is told with the lap
            if (!run) continue;
            const auto& laps = (*run)->laps;
            const auto lap =
                std::find_if(laps.begin(), laps.end(), [&](const Lap& it) { return it.number == ref.lap; });
            if (ref.lap != whole_run && lap == laps.end()) continue;
            over_time = over_time || ref.lap == whole_run || !lap->complete() || (*run)->track == nullptr;
        }
    }

    /// Keeps what is picked open, and nothing else.
    Result<void> bring_up_to_date() {
        std::erase_if(opened, [&](const auto& entry) {
            return std::none_of(wanted.begin(), wanted.end(), [&](LapRef ref) { return ref.run == entry.first; });
        });
        if (!papers_changed || opened.empty()) return {};
        auto fresh = Library::open(folder, Library::Open::existing);
        if (!fresh) return pass_on(fresh.error());
        library = std::move(*fresh);
        for (auto& [id, run] : opened) {
            auto renewed = with_new_papers(*library, *run);
            if (!renewed) return pass_on(renewed.error());
            run = std::move(*renewed);
        }
        return {};
    }

    /// Once a run.
    static std::vector<Stop> stops_in(const RunData& run, const ComparedLaps& so_far) {
        for (const ComparedLap& it : so_far.laps) {
            if (it.run->row.id == run.row.id) return it.stops;
        }
        return stops_of(*run.recording, run.laps, run.path.get(), run.track.get());
    }

    Result<ComparedLap> lap_of(LapRef ref, const ComparedLaps& so_far) {
        const auto run = run_of(ref);
        if (!run) return pass_on(run.error());
        if (over_time) {
            const auto shift = ref.lap == whole_run ? shifts_s.find(ref.run) : shifts_s.end();
            auto lap = prepare_stretch(**run, ref.lap, shift == shifts_s.end() ? 0 : shift->second);
            if (!lap) return pass_on(lap.error());
            return ComparedLap{*run, std::move(*lap), {}, {}, {}, stops_in(**run, so_far)};
        }
        const auto known = std::find_if(before.laps.begin(), before.laps.end(), [&](const ComparedLap& it) {
            return it.lap.track != nullptr && it.lap.ref == ref && it.run->path == (*run)->path &&
                   it.run->track == (*run)->track;
        });
        if (!so_far.laps.empty() && (*run)->row.track != so_far.baseline().run->row.track)
            return fail(ErrorCode::bad_input,
                        "driven on another track than the baseline (" + (*run)->row.track_name + ").");
        if (known != before.laps.end()) {
            ComparedLap lap = *known;
            lap.run = *run;
            lap.lap.recording = (*run)->recording;
            lap.lap.scales = (*run)->scales;
            lap.lap.counts = std::any_of((*run)->laps.begin(), (*run)->laps.end(),
                                         [&](const Lap& now) { return now.number == ref.lap && now.counts(); });
            lap.stops = stops_in(**run, so_far);  // what it cost depends on which laps count
            lap.events = corner_events(lap.lap);  // the car sheet may say otherwise what counts as braking
            lap.moments = lap_events(lap.lap, lap.events);
            return lap;
        }
        auto lap = prepare_lap(**run, ref.lap);
        if (!lap) return pass_on(lap.error());
        auto events = corner_events(*lap);
        auto moments = lap_events(*lap, events);
        return ComparedLap{*run, std::move(*lap),   {}, {}, std::move(events), stops_in(**run, so_far),
                           {},   std::move(moments)};
    }

    Result<ComparedLaps> compared(const JobContext& job) {
        ComparedLaps out;
        out.fastest_first = fastest_is_a;
        out.shifts_s = shifts_s;
        if (auto done = bring_up_to_date(); !done) return pass_on(done.error());
        choose_axis();
        for (std::size_t i = 0; i < wanted.size() && !job.stopped(); ++i) {
            if (auto lap = lap_of(wanted[i], out))
                out.laps.push_back(std::move(*lap));
            else
                out.problems.push_back(QStringLiteral("Run %1, lap %2: %3")
                                           .arg(wanted[i].run.value)
                                           .arg(wanted[i].lap)
                                           .arg(QString::fromStdString(lap.error().message)));
            job.report(static_cast<double>(i + 1) / static_cast<double>(wanted.size()));
        }
        // Laps that were not reached are no laps that cannot be compared.
        if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
        auto& laps = out.laps;
        if (fastest_is_a && laps.size() > 1 && !over_time) {
            const auto fastest = std::min_element(
                laps.begin(), laps.end(), [](const auto& a, const auto& b) { return a.lap.time_s() < b.lap.time_s(); });
            std::rotate(laps.begin(), fastest, fastest + 1);
        }
        for (std::size_t i = 0; i < laps.size(); ++i) {
            if (!over_time) {
                laps[i].gap = gap_between(laps.front().lap.map, laps[i].lap.map);
                laps[i].offset = line_offset(laps.front().lap, laps[i].lap);
                laps[i].differences = i == 0 ? std::vector<ZoneDifference>{}
                                             : differences_by_zone(laps.front().lap, laps[i].lap, laps[i].gap);
            }
            // What the focus shall show: the order in force, without laps that cannot be compared.
            out.wanted.push_back(laps[i].lap.ref);
        }
        if (out.on_track()) out.phases = phases_of(laps.front().lap);
        std::erase_if(opened, [](const auto& entry) { return entry.second == nullptr; });
        return out;
    }
};

}  // namespace

Comparison::Comparison(std::filesystem::path library_folder, Focus& focus, Jobs& jobs, QObject* parent)
    : QObject(parent), folder_(std::move(library_folder)), focus_(focus), jobs_(jobs), aligning_(jobs), tracing_(jobs) {
    connect(&focus_, &Focus::laps_changed, this, &Comparison::start);
    connect(&focus_, &Focus::axis_changed, this, [this] {
        Q_EMIT changed();
        compute_wanted();
    });
}

void Comparison::reload() {
    opened_.clear();
    reopen_ = true;  // what is shown stays until it is replaced
    start();
}

void Comparison::renew() {
    papers_changed_ = true;
    start();
}

void Comparison::start() {
    const auto picked = focus_.state().laps;
    const bool fastest_is_a = focus_.state().fastest_is_a;
    const auto shifts = focus_.state().shifts_s;
    const bool as_shown = laps_->wanted == picked && laps_->fastest_first == fastest_is_a &&
                          laps_->shifts_s == shifts && !papers_changed_ && !reopen_;
    if (as_shown && !aligning_.running()) {
        Q_EMIT changed();  // only the active slot moved
        return;
    }
    // The newest request stops the one before; it does all that that one had to do.
    aligning_.run<Prepared>(
        tr("Aligning laps"),
        [folder = folder_, picked, shifts, fastest_is_a, papers_changed = papers_changed_,
         before = reopen_ ? std::make_shared<const ComparedLaps>() : laps_, opened = opened_,
         traces = wanted()](const JobContext& job) -> Result<Prepared> {
            Preparation work{folder, picked, shifts, fastest_is_a, papers_changed, *before, opened};
            auto compared = work.compared(job);
            if (!compared) return pass_on(compared.error());
            Prepared out{std::move(*compared), std::move(work.opened), {}};
            // What is logged is there with the laps; formulas follow.
            add_traces(out.traces, out.compared, traces);
            return out;
        },
        [this](Result<Prepared> result) {
            if (result) return publish(std::move(*result));
            if (result.error().code != ErrorCode::cancelled) Q_EMIT failed(result.error());
            Q_EMIT changed();  // the picks stay as they are
        });
}

void Comparison::publish(Prepared prepared) {
    opened_ = std::move(prepared.opened);
    papers_changed_ = reopen_ = false;
    forget_computed();
    traces_ = std::move(prepared.traces);
    laps_ = std::make_shared<const ComparedLaps>(std::move(prepared.compared));
    std::map<std::string, Shown, std::less<>> named;
    for (const ComparedLap& it : laps_->laps) {
        for (const Channel& channel : it.run->recording->channels) {
            if (channel.quantity.empty()) named[std::string(by_name_prefix) + channel.name] = shown_by_itself(channel);
        }
    }
    add_channels_shown(named);
    FocusState state = focus_.state();
    state.laps = laps_->wanted;
    if (state.laps != focus_.state().laps)
        focus_.set_state(state);  // tells changed() by laps_changed()
    else
        Q_EMIT changed();
    compute_wanted();
}

void Comparison::add_traces(Traces& to, const ComparedLaps& laps,
                            const std::set<std::pair<Axis, std::string>>& wanted) {
    for (const auto& want : wanted) {
        const auto axis = laps.on_track() ? want.first : Axis::run;
        const auto& quantity = want.second;
        if (is_between_laps(quantity) && !laps.on_track()) continue;
        const bool at_hand = std::all_of(laps.laps.begin(), laps.laps.end(),
                                         [&](const ComparedLap& it) { return is_at_hand(it, quantity); });
        if (!at_hand) continue;
        for (std::size_t slot = 0; slot < laps.laps.size(); ++slot) {
            const ComparedLap& it = laps.laps[slot];
            to[{axis, static_cast<int>(slot), quantity}] = quantity == "gap" ? trace_of(it.gap, it.lap, axis)
                                                           : quantity == "line_offset"
                                                               ? trace_of(it.offset, it.lap, axis)
                                                           : axis == Axis::run ? run_trace_of(it.lap, quantity)
                                                                               : trace_of(it.lap, quantity, axis);
        }
    }
}

std::set<std::pair<Axis, std::string>> Comparison::wanted() const {
    std::set<std::pair<Axis, std::string>> out;
    for (const auto& [view, want] : wants_) {
        for (const std::string& quantity : want.quantities) out.emplace(want.axis.value_or(axis()), quantity);
    }
    return out;
}

void Comparison::want(const QObject* view, const std::vector<std::string>& quantities, std::optional<Axis> axis) {
    if (!wants_.contains(view)) connect(view, &QObject::destroyed, this, [this, view] { wants_.erase(view); });
    wants_[view] = {quantities, axis};
    compute_wanted();
}

/// Traces that are wanted and not there: at once where nothing has to be computed first.
void Comparison::compute_wanted() {
    if (laps_->empty() || aligning_.running()) return;  // they come with the laps
    auto missing = wanted();
    std::erase_if(missing, [&](const auto& it) {
        if (is_between_laps(it.second) && !laps_->on_track()) return true;  // there is none without places
        return traces_.contains({laps_->on_track() ? it.first : Axis::run, 0, it.second});
    });
    std::set<std::string> waiting;
    for (const auto& want : missing) {
        const auto& quantity = want.second;
        const bool at_hand = std::all_of(laps_->laps.begin(), laps_->laps.end(),
                                         [&](const ComparedLap& it) { return is_at_hand(it, quantity); });
        if (!at_hand) waiting.insert(quantity);
    }
    for (const std::string& quantity : waiting) compute_formula(quantity);
    std::erase_if(missing, [&](const auto& it) { return waiting.contains(it.second); });
    if (missing.empty()) return;
    tracing_.run<Traces>(
        tr("Traces"),
        [laps = laps_, missing](const JobContext&) -> Result<Traces> {
            Traces out;
            add_traces(out, *laps, missing);
            return out;
        },
        [this, of = laps_](Result<Traces> result) {
            if (of != laps_ || !result) return;
            traces_.merge(*result);
            Q_EMIT changed();
        });
}

void Comparison::compute_formula(const std::string& quantity) {
    if (cancelled_.contains(quantity)) return;
    auto& work = computing_[quantity];
    if (work == nullptr) work = std::make_unique<Latest>(jobs_);
    if (work->running()) return;
    struct Nothing {};
    work->run<Nothing>(
        tr("Computing %1").arg(QString::fromStdString(formula::label_of(quantity))),
        [laps = laps_, quantity](const JobContext& job) -> Result<Nothing> {
            for (const ComparedLap& it : laps->laps) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                (void)it.run->formulas->find(quantity, job.stop);
            }
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            return Nothing{};
        },
        [this, quantity](const Result<Nothing>& result) {
            if (!result) cancelled_.insert(quantity);  // by hand: it is not begun again by itself
            Q_EMIT changed();
            compute_wanted();
        });
}

void Comparison::forget_computed() {
    traces_.clear();
    tracing_.drop();
    computing_.clear();
    cancelled_.clear();
}

int Comparison::active_slot() const {
    return std::clamp(focus_.state().active_slot, 0, std::max(0, static_cast<int>(laps_->laps.size()) - 1));
}

Interval Comparison::range_m() const {
    if (!laps_->on_track()) return {0, 1};
    const Interval whole{0, laps_->length_m()};
    const Interval range = focus_.state().range_m;
    if (range.length() < 1) return whole;
    return moved_inside(range, whole);
}

bool Comparison::offers(const std::string& quantity) const {
    if (is_between_laps(quantity)) return laps_->on_track();
    return std::any_of(laps_->laps.begin(), laps_->laps.end(), [&](const ComparedLap& it) {
        return it.run->formulas->has(quantity) || it.lap.recording->find_logged(quantity) != nullptr;
    });
}

bool Comparison::ready(const std::string& quantity) const {
    return std::all_of(laps_->laps.begin(), laps_->laps.end(),
                       [&](const ComparedLap& it) { return is_at_hand(it, quantity); });
}

QString Comparison::why_not(const std::string& quantity) const {
    QString why;
    for (const ComparedLap& it : laps_->laps) {
        if (it.lap.recording->find_logged(quantity) != nullptr) return {};
        if (!it.run->formulas->has(quantity)) continue;
        if (!it.run->formulas->ready(quantity)) return {};
        const std::string reason = it.run->formulas->why_not(quantity);
        if (reason.empty()) return {};
        why = QString::fromStdString(reason);
    }
    return why;
}

const Trace& Comparison::trace(int slot, const std::string& quantity, Axis axis) const {
    static const Trace none;
    const auto found = traces_.find({axis, slot, quantity});
    return found == traces_.end() ? none : found->second;
}

double Comparison::slid_m(int slot) const {
    if (axis() != Axis::distance || slot < 1 || slot >= static_cast<int>(laps_->laps.size())) return 0;
    const auto& slid = focus_.state().slid_m;
    const auto found = slid.find(laps_->laps[static_cast<std::size_t>(slot)].lap.ref);
    return found == slid.end() ? 0 : found->second;
}

QString Comparison::slid_words(int slot) const {
    const double by_m = slid_m(slot);
    const Shown how = distance_shown(1);
    return by_m == 0 ? QString() : tr("slid by hand %1").arg(with_unit(how.difference_text(by_m), how.unit));
}

double Comparison::x_of(int slot, double distance_m) const {
    if (axis() == Axis::distance) return distance_m + slid_m(slot);
    const LapMap& map = laps_->laps[static_cast<std::size_t>(slot)].lap.map;
    return map.time_at(distance_m) - map.start_s();
}

double Comparison::distance_of(int slot, double x) const {
    if (axis() == Axis::distance) return x - slid_m(slot);
    const LapMap& map = laps_->laps[static_cast<std::size_t>(slot)].lap.map;
    return map.distance_at(x + map.start_s());
}

Interval Comparison::view_limits() const {
    if (laps_->empty()) return {0, 1};
    if (axis() != Axis::run) return {0, laps_->length_m()};
    Interval limits{0, 1};
    for (const ComparedLap& it : laps_->laps) {
        const double start = it.lap.map.start_s();
        const Interval all = it.run->recording->span_s();
        limits.begin = std::min(limits.begin, all.begin - start);
        limits.end = std::max(limits.end, all.end - start);
    }
    return limits;
}

Interval Comparison::view() const {
    if (axis() != Axis::run) return range_m();
    const Interval range = focus_.state().run_range_s;
    return range.length() < 0.02 ? view_limits() : moved_inside(range, view_limits());
}

void Comparison::set_view(Interval view) {
    view = moved_inside(view, view_limits());
    if (axis() == Axis::run)
        focus_.set_run_range(view);
    else
        focus_.set_range(view);
}

double Comparison::cursor_in_view() const {
    return axis() == Axis::run ? focus_.state().run_cursor_s : focus_.state().cursor_m;
}

void Comparison::set_cursor_in_view(double at) {
    if (axis() != Axis::run) return focus_.set_cursor(at);
    FocusState next = focus_.state();
    next.run_cursor_s = at;
    if (laps_->on_track()) {
        const LapMap& map = laps_->baseline().lap.map;
        if (at >= 0 && at <= map.end_s() - map.start_s()) next.cursor_m = map.distance_at(at + map.start_s());
    }
    focus_.set_state(next);
}

std::optional<double> Comparison::pin_in_view() const {
    return axis() == Axis::run ? focus_.state().run_pin_s : focus_.state().pin_m;
}

void Comparison::set_pin_in_view(std::optional<double> at) {
    FocusState next = focus_.state();
    (axis() == Axis::run ? next.run_pin_s : next.pin_m) = at;
    focus_.set_state(next);
}

double Comparison::time_in_view_s(int slot, double at) const {
    const LapMap& map = laps_->laps[static_cast<std::size_t>(slot)].lap.map;
    return axis() == Axis::run ? map.start_s() + at : map.time_at(at - slid_m(slot));
}

double Comparison::cursor_time_s(int slot) const {
    const LapMap& map = laps_->laps[static_cast<std::size_t>(slot)].lap.map;
    return axis() == Axis::run ? map.start_s() + focus_.state().run_cursor_s : map.time_at(cursor_distance(slot));
}

double Comparison::cursor_distance(int slot) const {
    return distance_of(slot, x_of(0, focus_.state().cursor_m));
}

double Comparison::value_at_cursor(int slot, const std::string& quantity) const {
    const ComparedLap& lap = laps_->laps[static_cast<std::size_t>(slot)];
    const bool between = is_between_laps(quantity);
    if (between ? !laps_->on_track() : !ready(quantity)) return std::nan("");
    if (axis() == Axis::run && !between) {
        const Channel* channel = lap.lap.recording->find(quantity);
        return channel == nullptr ? std::nan("") : channel->value_at(cursor_time_s(slot));
    }
    // What lies between the laps stays where it was driven, wherever the curves are slid to.
    const double distance = cursor_distance(slot) + (between ? slid_m(slot) : 0);
    return quantity == "gap" ? lap.gap.at(distance)
           : between         ? lap.offset.at(distance)
                             : lap.lap.value_at(quantity, distance);
}

}  // namespace rendak::app
