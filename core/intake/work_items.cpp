#include "core/intake/work_items.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <tuple>

#include "core/analysis/set_difference.h"
#include "core/analysis/work_list.h"
#include "core/intake/lap_set.h"

namespace rendak {
namespace {

/// Figures of all corners of a set of laps.
class SetFigures {
  public:
    explicit SetFigures(std::span<const PreparedLap> laps) : table_(corner_figure_table(laps, corner_peaks(laps))) {}
    /// Of the laps in which it can be told; NaN where there is none.
    struct Mean {
        double value = std::nan("");
        std::size_t laps = 0;
    };
    [[nodiscard]] Mean mean(const CornerFigure& figure, std::size_t corner) const {
        const auto column = static_cast<std::size_t>(&figure - all_corner_figures().data());
        std::vector<double> known;
        for (const auto& lap : table_) {
            if (std::isfinite(lap[corner][column])) known.push_back(lap[corner][column]);
        }
        return known.empty() ? Mean{} : Mean{mean_value(known), known.size()};
    }

  private:
    CornerFigureTable table_;
};

std::optional<std::size_t> corner_at(const Track& track, double at_m) {
    for (std::size_t k = 0; k < track.corners.size(); ++k) {
        const Corner& corner = track.corners[k];
        constexpr double near_m = 15;
        if (std::abs(corner.apex_m - at_m) < near_m || Interval{corner.start_m, corner.end_m}.contains(at_m)) return k;
    }
    return std::nullopt;
}

/// As far as a reader of the figure could tell.
bool reaches(double value, const WorkItem& item) {
    const double way = item.target - item.from;
    return way >= 0 ? value >= item.target - 0.05 * way : value <= item.target - 0.05 * way;
}

/// The figure of a corner by which a kind of finding is followed from run to run: the corner's time where none says it.
const CornerFigure& figure_of(LapFinding::Kind kind) {
    const auto id = [&]() -> const char* {
        switch (kind) {
            case LapFinding::Kind::brakes_early:
            case LapFinding::Kind::brakes_late:
                return "brake_before_apex_m";
            case LapFinding::Kind::brakes_softly:
                return "brake_peak_mps2";
            case LapFinding::Kind::releases_late:
                return "brake_off_before_apex_m";
            case LapFinding::Kind::overslowed:
            case LapFinding::Kind::carries_less:
                return "slowest_mps";
            case LapFinding::Kind::lifts:
                return "least_throttle";
            case LapFinding::Kind::brakes_needlessly:
            case LapFinding::Kind::brushes_brake:
                return "brake_s";
            case LapFinding::Kind::coasts:
                return "coasting_s";
            case LapFinding::Kind::throttle_late:
            case LapFinding::Kind::throttle_hesitates:
                return "full_for_good_behind_apex_m";
            case LapFinding::Kind::pinched:
                return "tightness";
            default:
                return "time_s";
        }
    }();
    return *find_corner_figure(id);
}

/// A figure says a difference when it has one, and not the wrong way round.
bool tells(const CornerFigure& figure, double from, double to) {
    constexpr double least = 1e-3;
    if (!std::isfinite(from) || !std::isfinite(to) || std::abs(to - from) < least) return false;
    return figure.better == Better::neither || (to > from) == (figure.better == Better::more);
}

}  // namespace

const CornerFigure* find_corner_figure(std::string_view id) {
    for (const CornerFigure& figure : all_corner_figures()) {
        if (figure.id == id) return &figure;
    }
    return nullptr;
}

Result<WorkItem> work_item_of(const LapFinding& finding, std::span<const PreparedLap> a, std::span<const PreparedLap> b,
                              const RunRow& run_b) {
    const Track& track = *a.front().track;
    const auto at = std::find_if(track.corners.begin(), track.corners.end(),
                                 [&](const Corner& it) { return it.number == finding.corner; });
    if (at == track.corners.end())
        return fail(ErrorCode::bad_input, "What is the same everywhere is no work item of a corner. Take a corner.");
    const auto k = static_cast<std::size_t>(at - track.corners.begin());
    const SetFigures of_a(a), of_b(b);
    // Where the kind's own figure does not show it, the corner's time does, or its exit.
    const CornerFigure* figure = nullptr;
    for (const CornerFigure* one :
         {&figure_of(finding.kind), find_corner_figure("time_s"), find_corner_figure("exit_mps")}) {
        if (figure == nullptr && tells(*one, of_b.mean(*one, k).value, of_a.mean(*one, k).value)) figure = one;
    }
    if (figure == nullptr)
        return fail(ErrorCode::bad_input,
                    at->title() + ": no figure of this corner shows the difference, so there is nothing to aim at.");
    WorkItem out;
    out.track = run_b.track;
    out.run = run_b.id;
    out.driver = run_b.driver;
    out.car = run_b.car;
    out.at_m = at->apex_m;
    out.figure = figure->id;
    out.from = of_b.mean(*figure, k).value;
    out.target = of_a.mean(*figure, k).value;
    out.note = finding_words(finding, track);
    const SetFigures::Mean slowest = of_a.mean(*find_corner_figure("slowest_mps"), k);
    if (slowest.laps > 0 && slowest.value > commitment_mps) {
        const double way = std::abs(out.target - out.from);
        constexpr double step_mps = 2 / 3.6;
        out.step = out.figure == std::string_view("slowest_mps") ? std::min(step_mps, way) : way / 3;
    }
    return out;
}

Result<std::vector<WorkProgress>> work_progress(const Library& library, const JobContext& job) {
    const auto items = library.work_items();
    if (!items) return pass_on(items.error());
    const auto runs = library.runs();
    if (!runs) return pass_on(runs.error());
    /// Null where nothing counts, or the run cannot be opened: the logbook says why.
    struct Opened {
        std::shared_ptr<const Track> track;
        std::unique_ptr<SetFigures> figures;
    };
    std::map<RunId, Opened> opened;
    std::vector<WorkProgress> out;
    double done = 0;
    for (const WorkItem& item : *items) {
        job.report(done++ / static_cast<double>(items->size()));
        if (item.closed) continue;
        const CornerFigure* figure = find_corner_figure(item.figure);
        if (figure == nullptr) continue;
        WorkProgress progress;
        progress.item = item;
        const auto first =
            std::find_if(runs->begin(), runs->end(), [&](const RunRow& it) { return it.id == item.run; });
        std::vector<const RunRow*> later;
        for (const RunRow& row : *runs) {
            if (row.track != item.track || row.driver != item.driver || row.car != item.car || row.id == item.run)
                continue;
            // Later by the clock; without one, filed later.
            const bool clocks = first != runs->end() && first->start_unix_s && row.start_unix_s;
            if (clocks ? *row.start_unix_s > *first->start_unix_s : row.id > item.run) later.push_back(&row);
        }
        std::stable_sort(later.begin(), later.end(), [](const RunRow* x, const RunRow* y) {
            return x->start_unix_s.value_or(0) < y->start_unix_s.value_or(0);
        });
        double last = item.from;
        for (const RunRow* row : later) {
            if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
            const auto [known, fresh] = opened.try_emplace(row->id);
            Opened& run = known->second;
            if (fresh) {
                const auto loaded = load_run(library, row->id);
                const auto laps = loaded ? lap_set({{row->id, LapWish::Which::counting, {}}}, {*loaded}, true)
                                         : Result<LapSet>(pass_on(loaded.error()));
                if (loaded) run.track = (*loaded)->track;
                if (laps) run.figures = std::make_unique<SetFigures>(laps->laps);
            }
            if (run.track == nullptr) continue;
            const auto k = corner_at(*run.track, item.at_m);
            if (!k) continue;
            progress.corner = run.track->corners[*k].title();
            const SetFigures::Mean mean = run.figures ? run.figures->mean(*figure, *k) : SetFigures::Mean{};
            progress.steps.push_back({row->id, row->name, mean.value, mean.laps});
            if (mean.laps == 0) continue;
            last = mean.value;
            progress.met = reaches(mean.value, item);
        }
        if (progress.corner.empty()) {
            // No later run: the track's own.
            const auto geojson = library.track_geojson(item.track);
            const auto track =
                geojson ? track_from_geojson(*geojson, "its track") : tl::make_unexpected(geojson.error());
            if (const auto k = track ? corner_at(*track, item.at_m) : std::nullopt)
                progress.corner = track->corners[*k].title();
        }
        const double way = item.target - last;
        progress.next = item.step > 0 && std::abs(way) > item.step ? last + std::copysign(item.step, way) : item.target;
        out.push_back(std::move(progress));
    }
    std::stable_sort(out.begin(), out.end(), [](const WorkProgress& x, const WorkProgress& y) {
        return std::tie(x.item.driver, x.item.at_m) < std::tie(y.item.driver, y.item.at_m);
    });
    return out;
}

}  // namespace rendak
