#include "app/focus/comparison.h"

#include <algorithm>
#include <cmath>

namespace rendak::app {
namespace {

struct Prepared {
    ComparedLaps compared;
    std::map<RunId, std::shared_ptr<const RunData>> opened;
};

Prepared prepare(const std::filesystem::path& folder, const std::vector<LapRef>& wanted, bool fastest_is_a,
                 std::map<RunId, std::shared_ptr<const RunData>> opened, const JobContext& job) {
    Prepared out;
    out.compared.wanted = wanted;
    const auto problem = [&](LapRef ref, const Error& error) {
        out.compared.problems.push_back(QStringLiteral("Run %1, lap %2: %3")
                                            .arg(ref.run.value)
                                            .arg(ref.lap)
                                            .arg(QString::fromStdString(error.message)));
    };
    std::unique_ptr<Library> library;
    for (std::size_t i = 0; i < wanted.size() && !job.stopped(); ++i) {
        const LapRef ref = wanted[i];
        auto& run = opened[ref.run];
        if (run == nullptr) {
            if (library == nullptr) {
                auto fresh = Library::open(folder, Library::Open::existing);
                if (!fresh) {
                    problem(ref, fresh.error());
                    continue;
                }
                library = std::move(*fresh);
            }
            auto loaded = load_run(*library, ref.run);
            if (!loaded) {
                problem(ref, loaded.error());
                continue;
            }
            run = *loaded;
        }
        auto lap = prepare_lap(*run, ref.lap);
        if (!lap) {
            problem(ref, lap.error());
            continue;
        }
        if (!out.compared.laps.empty() && run->row.track != out.compared.baseline().run->row.track) {
            problem(ref, Error{ErrorCode::bad_input,
                               "driven on another track than the baseline (" + run->row.track_name + ").", ""});
            continue;
        }
        auto events = corner_events(*lap);
        out.compared.laps.push_back({run, std::move(*lap), {}, {}, std::move(events)});
        job.report(static_cast<double>(i + 1) / static_cast<double>(wanted.size()));
    }
    auto& laps = out.compared.laps;
    if (fastest_is_a && laps.size() > 1) {
        const auto fastest = std::min_element(
            laps.begin(), laps.end(), [](const auto& a, const auto& b) { return a.lap.time_s() < b.lap.time_s(); });
        std::rotate(laps.begin(), fastest, fastest + 1);
    }
    for (std::size_t i = 0; i < laps.size(); ++i) {
        laps[i].gap = gap_between(laps.front().lap.map, laps[i].lap.map);
        if (i > 0) laps[i].differences = differences_by_zone(laps.front().lap, laps[i].lap, laps[i].gap);
    }
    if (!laps.empty()) out.compared.phases = phases_of(laps.front().lap);
    out.opened = std::move(opened);
    return out;
}

}  // namespace

Comparison::Comparison(std::filesystem::path library_folder, Focus& focus, Jobs& jobs, QObject* parent)
    : QObject(parent), folder_(std::move(library_folder)), focus_(focus), jobs_(jobs) {
    connect(&focus_, &Focus::laps_changed, this, &Comparison::start);
    connect(&focus_, &Focus::axis_changed, this, [this] {
        traces_.clear();
        Q_EMIT changed();
    });
}

void Comparison::reload() {
    opened_.clear();
    laps_ = std::make_shared<ComparedLaps>();
    start();
}

void Comparison::start() {
    const auto wanted = focus_.state().laps;
    const bool fastest_is_a = focus_.state().fastest_is_a;
    const int revision = ++revision_;
    if (laps_->wanted == wanted && fastest_is_a == sorted_ && !busy_) {
        Q_EMIT changed();  // only the active slot moved
        return;
    }
    busy_ = true;
    sorted_ = fastest_is_a;
    jobs_.run<Prepared>(
        QStringLiteral("Aligning laps"),
        [folder = folder_, wanted, fastest_is_a, opened = opened_](const JobContext& job) -> Result<Prepared> {
            auto prepared = prepare(folder, wanted, fastest_is_a, opened, job);
            // Laps that were not reached are no laps that cannot be compared.
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            return prepared;
        },
        [this, revision](Result<Prepared> result) {
            if (revision != revision_) return;  // a newer choice is under way
            busy_ = false;
            if (!result) {  // cancelled: the picks stay as they are
                Q_EMIT changed();
                return;
            }
            opened_ = std::move(result->opened);
            // Keep what is picked in memory, and nothing else.
            std::erase_if(opened_, [&](const auto& entry) {
                return std::none_of(result->compared.wanted.begin(), result->compared.wanted.end(),
                                    [&](LapRef ref) { return ref.run == entry.first; });
            });
            laps_ = std::make_shared<const ComparedLaps>(std::move(result->compared));
            forget_computed();
            // The focus shows the order in force (fastest first) and drops laps that cannot be compared.
            FocusState state = focus_.state();
            state.laps.clear();
            for (const ComparedLap& lap : laps_->laps) state.laps.push_back(lap.lap.ref);
            auto settled = std::make_shared<ComparedLaps>(*laps_);
            settled->wanted = state.laps;
            laps_ = settled;
            if (state.laps != focus_.state().laps)
                focus_.set_state(state);
            else
                Q_EMIT changed();
        });
}

Interval Comparison::range_m() const {
    if (laps_->empty()) return {0, 1};
    const Interval whole{0, laps_->length_m()};
    const Interval range = focus_.state().range_m;
    if (range.length() < 1) return whole;
    return moved_inside(range, whole);
}

bool Comparison::offers(const std::string& quantity) const {
    return std::any_of(laps_->laps.begin(), laps_->laps.end(), [&](const ComparedLap& it) {
        return it.run->formulas->has(quantity) || it.lap.recording->find_logged(quantity) != nullptr;
    });
}

bool Comparison::ready(const std::string& quantity) const {
    const auto waits = [&](const ComparedLap& it) {
        return it.lap.recording->find_logged(quantity) == nullptr && !it.run->formulas->ready(quantity);
    };
    if (std::none_of(laps_->laps.begin(), laps_->laps.end(), waits)) return true;
    if (!computing_.insert(quantity).second) return false;
    struct Nothing {};
    auto* self = const_cast<Comparison*>(this);  // asking starts the work; the answer comes through changed()
    jobs_.run<Nothing>(
        tr("Computing %1").arg(QString::fromStdString(formula::label_of(quantity))),
        [laps = laps_, quantity](const JobContext& job) -> Result<Nothing> {
            for (const ComparedLap& it : laps->laps) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                (void)it.run->formulas->find(quantity, job.stop);
            }
            return Nothing{};
        },
        [self, quantity](const Result<Nothing>& result) {
            if (!result) {  // by hand: it is not begun again by itself
                self->cancelled_.insert(quantity);
                Q_EMIT self->changed();
                return;
            }
            self->computing_.erase(quantity);
            std::erase_if(self->traces_, [&](const auto& entry) { return entry.first.second == quantity; });
            Q_EMIT self->changed();
        });
    return false;
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

void Comparison::reload_formulas() {
    if (busy_) return reload();  // opened runs are on their way: they come with the formulas of now
    struct Renewed {
        std::map<RunId, std::shared_ptr<const RunData>> opened;
    };
    const int revision = ++revision_;
    busy_ = true;
    jobs_.run<Renewed>(
        tr("Reading formulas"),
        [folder = folder_, opened = opened_](const JobContext&) -> Result<Renewed> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            Renewed out;
            for (const auto& [id, run] : opened) {
                auto renewed = with_new_formulas(**library, *run);
                if (!renewed) return pass_on(renewed.error());
                out.opened[id] = std::move(*renewed);
            }
            return out;
        },
        [this, revision](Result<Renewed> result) {
            if (revision != revision_) return;
            busy_ = false;
            if (result) {
                opened_ = std::move(result->opened);
                auto renewed = std::make_shared<ComparedLaps>(*laps_);
                for (ComparedLap& it : renewed->laps) {
                    const auto found = opened_.find(it.lap.ref.run);
                    if (found == opened_.end()) continue;
                    it.run = found->second;
                    it.lap.recording = found->second->recording;
                }
                laps_ = std::move(renewed);
                forget_computed();
            }
            Q_EMIT changed();
        });
}

void Comparison::forget_computed() {
    traces_.clear();
    computing_.clear();
    cancelled_.clear();
}

const Trace& Comparison::trace(int slot, const std::string& quantity) const {
    if (quantity != "gap" && !ready(quantity)) {
        static const Trace none;
        return none;
    }
    const auto key = std::pair(slot, quantity);
    const auto found = traces_.find(key);
    if (found != traces_.end()) return found->second;
    const ComparedLap& lap = laps_->laps[static_cast<std::size_t>(slot)];
    if (quantity == "gap") return traces_[key] = trace_of(lap.gap, lap.lap, axis());
    return traces_[key] = axis() == Axis::run ? run_trace_of(lap.lap, quantity) : trace_of(lap.lap, quantity, axis());
}

double Comparison::x_of(int slot, double distance_m) const {
    if (focus_.state().axis == Axis::distance) return distance_m;
    const LapMap& map = laps_->laps[static_cast<std::size_t>(slot)].lap.map;
    return map.time_at(distance_m) - map.start_s();
}

double Comparison::distance_of(int slot, double x) const {
    if (focus_.state().axis == Axis::distance) return x;
    const LapMap& map = laps_->laps[static_cast<std::size_t>(slot)].lap.map;
    return map.distance_at(x + map.start_s());
}

Interval Comparison::view_limits() const {
    if (laps_->empty()) return {0, 1};
    if (axis() != Axis::run) return {0, laps_->length_m()};
    Interval limits{0, 1};
    for (const ComparedLap& it : laps_->laps) {
        const double start = it.lap.map.start_s();
        limits.begin = std::min(limits.begin, it.run->laps.front().start_s - start);
        limits.end = std::max(limits.end, it.run->laps.back().end_s - start);
    }
    return limits;
}

Interval Comparison::view() const {
    if (axis() != Axis::run) return range_m();
    const Interval range = focus_.state().run_range_s;
    return range.length() < 0.5 ? view_limits() : moved_inside(range, view_limits());
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
    if (!laps_->empty()) {
        const LapMap& map = laps_->baseline().lap.map;
        if (at >= 0 && at <= map.end_s() - map.start_s()) next.cursor_m = map.distance_at(at + map.start_s());
    }
    focus_.set_state(next);
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
    if (quantity != "gap" && !ready(quantity)) return std::nan("");
    if (axis() == Axis::run && quantity != "gap") {
        const Channel* channel = lap.lap.recording->find(quantity);
        return channel == nullptr ? std::nan("") : channel->value_at(cursor_time_s(slot));
    }
    const double distance = cursor_distance(slot);
    return quantity == "gap" ? lap.gap.at(distance) : lap.lap.value_at(quantity, distance);
}

}  // namespace rendak::app
